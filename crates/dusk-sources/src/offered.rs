//! What the lines of a text offer where no delimiter is proven: columns that share blanks, or marks that recur.

use super::fixed_width::SharedBlanks;
use super::recurring::RecurringMarks;
use dusk_evidence::{Error, Refusal};

/// What the lines of a text offer where no delimiter is proven: columns that share blanks, or marks that recur.
pub(super) fn offered(blanks: Option<&SharedBlanks>, marks: Option<&RecurringMarks>) -> Option<String> {
    let (why, settle) = match (blanks, marks) {
        (Some(blanks), _) => {
            let why =
                format!("{} lines share the blanks between {} columns", blanks.lines, blanks.positions.len());
            (why, blanks.settle())
        }
        (None, Some(marks)) => ("all lines have the same marks as often".to_owned(), marks.settle()),
        (None, None) => return None,
    };
    Some(format!("since {why}, this may be meant:\n    {}", settle.join("\n    ")))
}

/// The same refusal, with what the lines of the text offer.
pub(super) fn offering(refusal: Refusal, offered: Option<String>) -> Refusal {
    match offered {
        None => refusal,
        Some(offered) => Refusal::new(refusal.says, format!("{}\n  {offered}", refusal.hint)),
    }
}

pub(super) fn error_offering(error: Error, offered: Option<String>) -> Error {
    match error {
        Error::Source { source_name, says, hint } => {
            offering(Refusal::new(says, hint), offered).of(&source_name)
        }
        other => other,
    }
}
