//! What a draft leaves to be settled, asked one by one.

use std::io::BufRead as _;
use std::path::Path;

use dusk_core::drafting::{Answered, Drafted, Grouped, answer};

use crate::outcome::{Failure, print, say};
use crate::show::{show_question, visible};

/// Asks each question, and writes the answers into the description at `path`. The end of what is typed ends it.
pub(super) fn ask_one_by_one(drafted: &Drafted, path: &Path) -> Result<(), Failure> {
    let questions = drafted.grouped_questions();
    let mut typed = std::io::stdin().lock().lines();
    let (mut settled, mut left) = (0, 0);
    'questions: for (number, question) in (1..).zip(&questions) {
        print(&show_question(question, (number, questions.len()), drafted))?;
        loop {
            say(prompt(question));
            let Some(line) = typed.next().transpose()? else { break 'questions };
            let line = match (line.trim(), question.suggestion()) {
                ("q", _) => break 'questions,
                ("", _) => {
                    left += 1;
                    continue 'questions;
                }
                ("ok", _) => String::new(),
                ("yes", Some(rule)) => rule,
                (line, _) => line.to_owned(),
            };
            match answer(path, &question.about, &question.says, &line) {
                Ok(Answered::Written) => {
                    settled += 1;
                    continue 'questions;
                }
                Ok(Answered::Refused(says)) => {
                    say(&format!("  that cannot be written:\n{}\n", visible(&says)))
                }
                Err(wrong) => say(&format!("  {}\n", visible(&wrong.to_string()))),
            }
        }
    }
    left += questions.len().saturating_sub(settled + left);
    print(&format!("\nsettled: {settled}, still open: {left}; {} has both\n", path.display()))?;
    Ok(())
}

/// What may be typed.
fn prompt(question: &Grouped) -> &'static str {
    if question.suggestion().is_some() {
        "  yes writes that rule; or type a line, ok if it is right as it is, Enter to leave it open, q to stop: "
    } else {
        "  type a line to write (key = value), ok if it is right as it is, Enter to leave it open, q to stop: "
    }
}
