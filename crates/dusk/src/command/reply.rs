//! What somebody answers when asked what feeds a field: a column by its number or its name, several together, a
//! part of one, a text, or nothing.

use dusk_core::evidence::{ColumnId, Id as _};
use dusk_core::files::Template;
use dusk_core::proposing::Fed;
use dusk_core::sources::Source;
use dusk_core::values::nearest;

/// An answer about a field.
#[derive(Debug, PartialEq, Eq)]
pub(super) enum Answer {
    /// What was proposed is right.
    Yes,
    /// It is fed so.
    Fed(Fed),
    /// A part of this column feeds it; which one is asked next.
    PartOf(ColumnId),
    /// Nothing feeds it.
    Nothing,
    /// That is decided later.
    Later,
    /// All columns are to be listed.
    List,
    /// No more questions.
    Stop,
}

impl Answer {
    /// Reads an answer. Words stand before headings; `"yes"` in quotes is the column of that name.
    ///
    /// # Errors
    /// Says what is wrong with it and what would be right.
    pub(super) fn read(text: &str, source: &Source) -> Result<Self, String> {
        let text = text.trim();
        match text.to_lowercase().as_str() {
            "" | "later" => return Ok(Self::Later),
            "y" | "yes" => return Ok(Self::Yes),
            "n" | "no" | "none" | "-" | "leave out" => return Ok(Self::Nothing),
            "?" | "list" => return Ok(Self::List),
            "stop" | "quit" | "q" => return Ok(Self::Stop),
            _ => {}
        }
        if let Some(constant) = text.strip_prefix('=') {
            return match constant.trim() {
                "" => Err("there is no text behind =; write = and the text for every record".into()),
                constant => Ok(Self::Fed(Fed::Constant(constant.to_owned()))),
            };
        }
        if let Some(name) = text.strip_prefix("part ").or_else(|| text.strip_prefix("part of ")) {
            return column(name, source).map(Self::PartOf);
        }
        match column(text, source) {
            Ok(column) => Ok(Self::Fed(Fed::Column(column))),
            Err(_) if text.contains('{') => template(text, source).map(Self::Fed),
            Err(_) if text.contains('+') => together(text, source).map(Self::Fed),
            Err(says) => Err(says),
        }
    }
}

/// A column by its number from 1 (`3` or `#3`), by its heading in any case, or by a part of its heading.
///
/// # Errors
/// Says that there is none, or which ones may be meant.
pub(super) fn column(text: &str, source: &Source) -> Result<ColumnId, String> {
    let text = text.trim();
    let text = text.strip_prefix('"').and_then(|text| text.strip_suffix('"')).unwrap_or(text);
    let numbered = |digits: &str| {
        let place = digits.parse::<usize>().ok()?.checked_sub(1)?;
        source.column_ids().find(|column| column.index() == place)
    };
    if let Some(digits) = text.strip_prefix('#') {
        return numbered(digits)
            .ok_or_else(|| format!("there is no column {text}; there are {}", source.columns.len()));
    }
    let folded = text.to_lowercase();
    let matching = |fits: &dyn Fn(&str) -> bool| -> Vec<ColumnId> {
        source.column_ids().filter(|column| fits(&source.heading(*column).trim().to_lowercase())).collect()
    };
    match (matching(&|heading| heading == folded).as_slice(), numbered(text)) {
        ([only], None) => return Ok(*only),
        ([only], Some(other)) if *only == other => return Ok(*only),
        ([], Some(column)) => return Ok(column),
        ([_], Some(_)) => {
            return Err(format!(
                "{text} is a heading and the number of another column; write #{text} for the number, or \"{text}\" in another way that is one of the two"
            ));
        }
        _ => {}
    }
    match matching(&|heading| !folded.is_empty() && heading.contains(&folded)).as_slice() {
        [only] => Ok(*only),
        [] => {
            let near = nearest(text, source.columns.iter().map(String::as_str));
            let hint = near.map_or_else(String::new, |near| format!("; did you mean \"{near}\"?"));
            Err(format!("there is no column \"{text}\"{hint}"))
        }
        several => {
            let names: Vec<String> = several
                .iter()
                .take(5)
                .map(|column| format!("{} {}", column.index() + 1, source.heading(*column)))
                .collect();
            Err(format!(
                "several columns have \"{text}\" in their headings: {}; write the number of one",
                names.join(", ")
            ))
        }
    }
}

/// `{Day} {Clock}`, with names or numbers in the braces.
fn template(text: &str, source: &Source) -> Result<Fed, String> {
    let template = Template::parse(text)?;
    let columns = template.names().map(|name| column(name, source)).collect::<Result<Vec<_>, _>>()?;
    if columns.is_empty() {
        return Err("there is not a column in the braces; write, for example, {Day} {Clock}".into());
    }
    let mut written = text.to_owned();
    for (name, column) in template.names().zip(&columns) {
        written = written.replace(&format!("{{{name}}}"), &format!("{{{}}}", source.heading(*column)));
    }
    Ok(Fed::Join(columns, written))
}

/// `Day + Clock`: with a blank between them.
fn together(text: &str, source: &Source) -> Result<Fed, String> {
    let columns = text.split('+').map(|name| column(name, source)).collect::<Result<Vec<_>, _>>()?;
    if let Some(braced) =
        columns.iter().map(|column| source.heading(*column)).find(|name| name.contains(['{', '}']))
    {
        return Err(format!("the heading \"{braced}\" has braces; write the join into the mapping by hand"));
    }
    let written: Vec<String> =
        columns.iter().map(|column| format!("{{{}}}", source.heading(*column))).collect();
    Ok(Fed::Join(columns, written.join(" ")))
}
