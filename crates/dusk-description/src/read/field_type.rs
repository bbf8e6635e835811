//! The keys that go with one type of field.

use std::sync::Arc;

use jiff::civil::Date;
use regex::Regex;

use super::super::{Bound, CodesLayout, FieldType, FolderFiles, KnownValues};
use super::lists::CodeLists;
use dusk_files::{At, Settings, Template};
use dusk_values::{DatePattern, Decimal, Unit, ValueType, Zone};

/// What stands for a repeat's label where one `[[field]]` describes several.
pub(super) const NUMBER_MARK: &str = "{n}";

pub(super) fn read_text(field: &mut Settings<'_>) -> FieldType {
    let digits = field.whole("digits", 1).map(|digits| digits.value as usize);
    let max_length = field.whole("max_length", 1).map(|length| length.value as usize);
    let pattern =
        field.text("pattern").and_then(|pattern| match Regex::new(&format!("^(?:{})$", pattern.value)) {
            Ok(regex) => Some((regex, pattern.value)),
            Err(error) => {
                let reason = error.to_string();
                let reason =
                    reason.lines().last().unwrap_or_default().trim_start_matches("error: ").to_owned();
                field.problem(
                    pattern.line,
                    format!("pattern \"{}\" cannot be read: {reason}", pattern.value),
                    |_| {},
                );
                None
            }
        });
    if let (Some(digits), Some(most)) = (digits, max_length)
        && digits > most
    {
        let says = format!("digits {digits} and max_length {most} leave no value that fits");
        field.problem(field.line(), says, |_| {});
    }
    if let Some((_, written)) = &pattern {
        check_possible(field, written, digits, max_length);
    }
    FieldType::Text { digits, max_length, pattern }
}

/// A pattern that nothing can match, or nothing of the length that the other keys demand.
fn check_possible(field: &Settings<'_>, written: &str, digits: Option<usize>, max_length: Option<usize>) {
    let Ok(form) = regex_syntax::parse(written) else { return };
    let shortest = form.properties().minimum_len();
    let longest = form.properties().maximum_len();
    let most = digits.or(max_length);
    let says = match (shortest, most) {
        (None, _) => format!("pattern \"{written}\" matches nothing"),
        // A character has up to four bytes.
        (Some(shortest), Some(most)) if shortest > most * 4 || written.is_ascii() && shortest > most => {
            format!("pattern \"{written}\" needs {shortest} characters or more, and the field takes {most}")
        }
        _ => match (longest, digits) {
            (Some(longest), Some(digits)) if longest < digits => {
                format!(
                    "pattern \"{written}\" takes {longest} characters at most, and digits demands {digits}"
                )
            }
            _ => return,
        },
    };
    field.problem(field.line(), says, |problem| {
        problem.hint("no record could satisfy the field; change one of the two")
    });
}

pub(super) fn read_number(field: &mut Settings<'_>, decimal: bool) -> FieldType {
    let decimals = if decimal {
        let decimals = field.whole("decimals", 1);
        match decimals {
            Some(decimals) if decimals.value <= 20 => u32::try_from(decimals.value).unwrap_or(20),
            Some(decimals) => {
                field.problem(decimals.line, "decimals is to be 20 or fewer", |_| {});
                20
            }
            None => {
                if !field.has("decimals") {
                    field.problem(
                        field.line(),
                        "[[field]] a decimal needs decimals, the most digits after the point",
                        |problem| {
                            problem
                                .hint("for example decimals = 2; for whole numbers write type = \"integer\"");
                        },
                    );
                }
                0
            }
        }
    } else {
        0
    };
    let unit = field.text("unit").and_then(|symbol| match Unit::named(&symbol.value) {
        Ok(unit) => Some(unit),
        Err(error) => {
            field.problem(symbol.line, error.says, |problem| problem.hint(error.hint));
            None
        }
    });
    let mut limit = |key: &'static str| {
        let text = field.number_text(key)?;
        let number = Decimal::parse(&text.value);
        if number.is_none() {
            field.problem(text.line, format!("{key} \"{}\" is not a plain number", text.value), |problem| {
                problem.hint("write it with digits and a point, for example min = \"0.5\"");
            });
        }
        number.map(|number| At { value: number, line: text.line })
    };
    let min = limit("min");
    let max = limit("max");
    if let (Some(min), Some(max)) = (&min, &max)
        && min.value > max.value
    {
        field.problem(
            max.line,
            format!("max {} is below min {}, so no number is allowed", max.value, min.value),
            |_| {},
        );
    }
    FieldType::Number { decimals, unit, min: min.map(|at| at.value), max: max.map(|at| at.value) }
}

pub(super) fn read_date(field: &mut Settings<'_>, holds: ValueType, usual: &str) -> FieldType {
    let written = field.text("format").unwrap_or(At { value: usual.to_owned(), line: field.line() });
    let parse = |written: &str| {
        DatePattern::parse(written).and_then(|pattern| {
            let right = match holds {
                ValueType::Date => pattern.has_date() && !pattern.has_time(),
                ValueType::DateTime => pattern.has_date() && pattern.has_time(),
                _ => !pattern.has_date() && pattern.has_time(),
            };
            if right {
                Ok(pattern)
            } else {
                Err(format!("does not write exactly what a {} holds", holds.word()))
            }
        })
    };
    let mut also_formats = Vec::new();
    for also in field.texts("also_formats") {
        match parse(&also.value) {
            Ok(pattern) => also_formats.push(pattern),
            Err(says) => field.problem(also.line, format!("also_formats \"{}\": {says}", also.value), |_| {}),
        }
    }
    let format = parse(&written.value);
    let format = format.or_else(|says| {
        field.problem(written.line, format!("format \"{}\": {says}", written.value), |problem| {
            problem.hint(format!("write a Unicode date pattern, for example \"{usual}\""));
        });
        DatePattern::parse(usual)
    });
    let bound = |text: Option<At<String>>, key: &str, field: &Settings<'_>| {
        let text = text?;
        if text.value == "today" {
            return Some(Bound::Today);
        }
        let day = text.value.parse::<Date>().ok();
        if day.is_none() {
            field.problem(text.line, format!("{key} \"{}\" is not a day", text.value), |problem| {
                problem.hint("write \"today\", or a day as yyyy-MM-dd");
            });
        }
        day.map(Bound::Day)
    };
    let (mut not_before, mut not_after) = (None, None);
    if holds != ValueType::Time {
        let text = field.text("not_before");
        not_before = bound(text, "not_before", field);
        let text = field.text("not_after");
        not_after = bound(text, "not_after", field);
    }
    if let (Some(Bound::Day(first)), Some(Bound::Day(last))) = (not_before, not_after)
        && first > last
    {
        field.problem(
            field.line(),
            format!("not_before {first} is after not_after {last}, so no day is allowed"),
            |_| {},
        );
    }
    let zone = zone_named(field);
    let mut part = |key: &'static str, has_month: bool| {
        let written = field.text(key)?;
        let pattern = DatePattern::parse(&written.value).ok();
        let right = |pattern: &DatePattern| {
            pattern.has_year()
                && pattern.has_month() == has_month
                && !pattern.has_day()
                && !pattern.has_time()
        };
        let pattern = pattern.filter(right);
        if pattern.is_none() {
            let usual = if has_month { "yyyy-MM" } else { "yyyy" };
            field.problem(
                written.line,
                format!("{key} \"{}\" does not write exactly that", written.value),
                |problem| {
                    problem.hint(format!("write for example {key} = \"{usual}\""));
                },
            );
        }
        pattern
    };
    let month_format = part("month_format", true);
    let year_format = part("year_format", false);
    match format {
        Ok(format) => FieldType::Date {
            holds,
            format,
            also_formats,
            not_before,
            not_after,
            zone,
            month_format,
            year_format,
        },
        Err(_) => FieldType::Text { digits: None, max_length: None, pattern: None },
    }
}

pub(super) fn read_file_type(field: &mut Settings<'_>, lists: &CodeLists<'_>) -> FieldType {
    let mut files = FolderFiles::default();
    if let Some(folder) = field.required_text("folder") {
        match lists.files_in(&folder.value) {
            Ok(read) => files = read,
            Err(error) => field.problem(folder.line, error.to_string(), |problem| {
                problem.hint("folder names a folder beside the description");
            }),
        }
    }
    let endings = field.texts("endings");
    let endings =
        endings.into_iter().map(|ending| ending.value.trim_start_matches('.').to_lowercase()).collect();
    let max_bytes = field.whole("max_bytes", 1).map(|bytes| bytes.value);
    FieldType::File { files: Arc::new(files), endings, max_bytes }
}

pub(super) fn read_reference(field: &mut Settings<'_>, lists: &CodeLists<'_>) -> FieldType {
    let column = field.required_text("column");
    let file = field.required_text("values");
    let mut known = KnownValues::default();
    if let (Some(file), Some(column)) = (file, column) {
        match lists.known_values(&file.value, &column.value) {
            Ok(read) => known = read,
            Err(error) => field.problem(file.line, error.to_string(), |problem| {
                problem.hint("values names a file beside the description, column the heading in it");
            }),
        }
    }
    FieldType::Reference { known: Arc::new(known) }
}

/// The `zone` of a field or of what feeds it.
pub fn zone_named(table: &mut Settings<'_>) -> Option<Zone> {
    let name = table.text("zone")?;
    let zone = Zone::named(&name.value);
    if zone.is_none() {
        table.problem(name.line, format!("there is no time zone \"{}\"", name.value), |problem| {
            problem
                .hint("write its name in the IANA database, for example zone = \"Europe/Oslo\" or \"UTC\"");
        });
    }
    zone
}

pub(super) fn yes_and_no(field: &mut Settings<'_>, usual: &str) -> (String, String) {
    let format = field.text("format").unwrap_or(At { value: usual.to_owned(), line: field.line() });
    match format.value.split_once('/') {
        Some((yes, no)) if !yes.trim().is_empty() && yes.trim() != no.trim() => {
            (yes.trim().into(), no.trim().into())
        }
        _ => {
            field.problem(
                format.line,
                format!("format \"{}\" does not give a word for true and one for false", format.value),
                |problem| {
                    problem.hint("write the two with a slash between them, for example format = \"1/0\"");
                },
            );
            ("1".into(), "0".into())
        }
    }
}

/// Columns with a number each, for so many codes.
fn read_numbered(field: &mut Settings<'_>, written: &At<String>) -> CodesLayout {
    let most = field.whole("most", 1).map_or(0, |most| most.value);
    let template = Template::parse(&written.value).ok().filter(|template| template.names().eq(["n"]));
    if template.is_none() {
        field.problem(
            written.line,
            format!("numbered \"{}\" does not number the columns", written.value),
            |problem| {
                problem.hint("write for example numbered = \"treatment_{n}\"");
            },
        );
    }
    if !(1..=1000).contains(&most) {
        field.problem(written.line, "numbered needs most, the number of columns, from 1 to 1000", |_| {});
    }
    for key in ["separator", "column_per_code"].into_iter().filter(|key| field.has(key)).collect::<Vec<_>>() {
        field.misplaced(key, &format!("{key} does not go with numbered"));
    }
    let numbers: Vec<String> = (1..=most.min(1000)).map(|number| number.to_string()).collect();
    let columns = numbers.iter().filter_map(|number| template.as_ref()?.fill(|_| Some(number.as_str())));
    CodesLayout::Numbered(columns.collect())
}

pub(super) fn read_codes_layout(field: &mut Settings<'_>) -> (CodesLayout, Option<At<Template>>) {
    if let Some(numbered) = field.text("numbered") {
        return (read_numbered(field, &numbered), None);
    }
    let separator = field.text("separator");
    let per_code = field.text("column_per_code");
    match (separator, per_code) {
        (Some(separator), None) => {
            if field.has("format") {
                field.misplaced("format", "format goes with column_per_code, not with separator");
            }
            if separator.value.is_empty() {
                field.problem(separator.line, "separator is empty", |_| {});
            }
            (CodesLayout::Joined(separator.value), None)
        }
        (None, Some(per_code)) => {
            let (yes, no) = yes_and_no(field, "1/0");
            let template = Template::parse(&per_code.value);
            let good = template.as_ref().is_ok_and(|template| template.names().eq(["code"]));
            if !good {
                field.problem(
                    per_code.line,
                    format!(
                        "column_per_code \"{}\" does not name the columns by their codes",
                        per_code.value
                    ),
                    |problem| {
                        problem.hint("write for example column_per_code = \"treat_{code}\"");
                    },
                );
            }
            let template = template.ok().map(|value| At { value, line: per_code.line });
            (CodesLayout::ColumnPerCode { columns: Vec::new(), yes, no }, template)
        }
        (both, _) => {
            let says = if both.is_some() {
                "has both separator and column_per_code"
            } else {
                "does not say how several codes stand in the file"
            };
            field.problem(field.line(), format!("[[field]] {says}"), |problem| {
                problem.hint("write separator = \"|\" for one column, column_per_code = \"name_{code}\" for a column per code, or numbered = \"name_{n}\" with most = 3");
            });
            if field.has("format") {
                let _ = field.text("format");
            }
            (CodesLayout::Joined("|".into()), None)
        }
    }
}
