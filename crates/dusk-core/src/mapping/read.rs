//! `mapping.toml` is read and checked against the target, and everything wrong is said at once.

use std::path::Path;

use hashbrown::HashMap;

use super::{DateReading, DayCount, Feed, Map, Mapping, NumberReading, OrderWhere, TextReading, Which};
use crate::correct::{Crosswalk, crosswalk_path};
use crate::files::{At, Problems, Settings, SettingsFile, Template};
use crate::inspect::{DateOrder, DateShape};
use crate::source::{Line, MOST_GROUPS, SheetChoice, SourceSettings, encoding_named};
use crate::target::{Field, FieldType, ReadAs, Target};
use crate::value::{DatePattern, Rounding, Unit, UnitConversion, ValueType};
use crate::{Error, Result};

/// The keys of `[[map]]` that go with some types of field only.
const KEYS_OF_TYPES: [(&str, &[&str]); 18] = [
    ("rounded_digits", &["text"]),
    ("dates", &["text"]),
    ("brackets", &["integer", "decimal"]),
    ("currency", &["integer", "decimal"]),
    ("order_where", &["date", "datetime"]),
    ("day_count", &["date", "datetime"]),
    ("zone", &["datetime"]),
    ("line_breaks", &["text"]),
    ("decimal_mark", &["integer", "decimal"]),
    ("thousands_mark", &["integer", "decimal"]),
    ("unit", &["integer", "decimal"]),
    ("round", &["integer", "decimal"]),
    ("order", &["date", "datetime"]),
    ("pattern", &["date", "datetime", "time"]),
    ("years_from", &["date", "datetime"]),
    ("drop_time", &["date"]),
    ("words", &["boolean"]),
    ("read_as", &["code", "codes"]),
];

/// Reads the mapping at `path`, the target that it names, and the crosswalks beside it.
///
/// # Errors
/// [`Error::File`] when the mapping or the target cannot be read; [`Error::Problems`] with
/// everything that is wrong with either.
pub fn read(path: &Path) -> Result<(Mapping, Target)> {
    let file = SettingsFile::read(path)?;
    let folder = path.parent().unwrap_or(Path::new(""));
    let mut problems = Problems::default();
    let target_name = file.read_with(&mut Problems::default(), |top| {
        let name = top.text("target");
        top.ignore_rest();
        name
    });
    let target_path = folder.join(target_name.as_ref().map_or("target.toml", |name| name.value.as_str()));
    let target = match Target::read(&target_path) {
        Ok(target) => Some(target),
        Err(Error::Problems(found)) => {
            problems.append(found);
            None
        }
        Err(Error::File { cause, .. }) if cause.kind() == std::io::ErrorKind::NotFound => {
            problems
                .at(
                    &file.name,
                    target_name.map(|name| name.line),
                    format!("there is no target description {}", target_path.display()),
                )
                .hint("write target = \"…\" with the way to it from this file's folder");
            None
        }
        Err(other) => return Err(other),
    };
    let mut mapping = file.read_with(&mut problems, |top| {
        top.text("target");
        let source = top.table("source", read_source);
        let ask: Vec<(String, String)> =
            top.pairs("ask").into_iter().map(|(name, question)| (name.value, question.value)).collect();
        let maps = top.tables("map", |map| read_map(map, target.as_ref(), &ask));
        if maps.is_empty() && !top.has("map") {
            top.problem(Line::FIRST, "maps no field", |problem| {
                problem.hint("each field that is fed is a [[map]] with field = \"…\" and from = \"…\"");
            });
        }
        let leave_out = top.table("leave_out", |table| table.texts("columns"));
        Mapping {
            path: path.to_path_buf(),
            target_path: target_path.clone(),
            source,
            ask,
            maps: maps.into_iter().flatten().collect(),
            leave_out: leave_out.into_iter().map(|column| column.value).collect(),
            crosswalk_files: Vec::new(),
        }
    });
    let Some(target) = target else { return Err(Error::Problems(problems)) };
    check_fields(&mapping, &target, &file.name, &mut problems);
    for map in &mut mapping.maps {
        let Some(field) = target.fields.get(map.field) else { continue };
        let crosswalk_file = crosswalk_path(path, &field.name);
        if crosswalk_file.exists() {
            map.crosswalk = Crosswalk::read(&crosswalk_file, field, &mut problems)?;
            mapping.crosswalk_files.push(crosswalk_file);
        }
    }
    problems.or((mapping, target))
}

fn read_source(source: &mut Settings<'_>) -> SourceSettings {
    let usual = SourceSettings::default();
    let encoding = source.encoding("encoding", encoding_named);
    let other_lines = source.encoding("other_lines", encoding_named);
    if other_lines.is_some() && encoding.is_some_and(|encoding| encoding != encoding_rs::UTF_8) {
        source.problem(
            source.line(),
            "[source] other_lines goes with encoding = \"utf-8\" only",
            |problem| {
                problem.hint("lines that are valid UTF-8 are read as that, all others as other_lines says");
            },
        );
    }
    let mut mark = |key: &'static str, may_be_empty: bool| {
        let text = source.text(key)?;
        let count = text.value.chars().count();
        if text.value.contains(['\r', '\n']) || count > 8 || count == 0 && !may_be_empty {
            source.problem(text.line, format!("[source] {key} is to be a character, or a few"), |problem| {
                problem.hint(format!("for example {key} = \";\", or \"\\t\" for a tab"));
            });
            return None;
        }
        Some(text.value)
    };
    let delimiter = mark("delimiter", false);
    let quote = mark("quote", true).unwrap_or(usual.quote);
    let escape = mark("escape", false);
    let line_break = mark("line_break", false);
    if delimiter.as_deref() == Some(quote.as_str()) {
        source.problem(source.line(), "[source] delimiter and quote are the same", |_| {});
    }
    let sheet = read_sheet(source);
    let header_row = source.whole("header_row", 1).map(|row| row.value);
    let header_rows = source.whole("header_rows", 1).map_or(usual.header_rows, |rows| rows.value);
    if header_rows > 4 {
        source.problem(source.line(), "[source] header_rows is more than 4", |_| {});
    }
    let closing = source
        .texts("closing")
        .into_iter()
        .map(|text| text.value.trim().to_owned())
        .filter(|text| !text.is_empty())
        .collect();
    let across = source.choice("records", &[("down", false), ("across", true)]).unwrap_or(false);
    SourceSettings {
        encoding,
        other_lines,
        delimiter,
        quote,
        escape,
        line_break,
        sheet,
        header_row,
        header_rows,
        closing,
        across,
    }
}

/// A sheet by its name, or by its number.
fn read_sheet(source: &mut Settings<'_>) -> Option<SheetChoice> {
    if source.is_whole("sheet") {
        return source.whole("sheet", 1).map(|number| SheetChoice::Number(number.value));
    }
    source.text("sheet").map(|name| SheetChoice::Name(name.value))
}

fn read_map(map: &mut Settings<'_>, target: Option<&Target>, ask: &[(String, String)]) -> Option<Map> {
    let line = map.line();
    let name = map.required_text("field");
    let Some(target) = target else {
        map.ignore_rest();
        return None;
    };
    let name = name?;
    let Some((place, field)) =
        target.field(&name.value).and_then(|place| Some((place, target.fields.get(place)?)))
    else {
        map.problem(name.line, format!("the target has no field \"{}\"", name.value), |problem| {
            problem.suggest(&name.value, target.fields.iter().map(|field| field.name.as_str()));
        });
        map.ignore_rest();
        return None;
    };
    if field.fixed.is_some() {
        map.problem(
            name.line,
            format!("{} is fixed by the target, so nothing can feed it", field.name),
            |problem| {
                problem.hint("take this [[map]] away");
            },
        );
    }
    if let FieldType::Date { zone: None, holds: ValueType::DateTime, .. } = &field.kind
        && map.has("zone")
    {
        let says =
            format!("{} has no zone in the target's description, so its times are not converted", field.name);
        map.misplaced("zone", &says);
    }
    if let FieldType::Date { zone: Some(zone), .. } = &field.kind
        && !map.has("zone")
        && !map.has("constant")
    {
        let says = format!(
            "{} wants times of {}, and nothing says which clock the source's were read from",
            field.name,
            zone.name()
        );
        map.problem(name.line, says, |problem| {
            problem.hint(
                "write for example zone = \"Europe/Oslo\"; the same zone where nothing is to be converted",
            );
        });
    }
    if field.never_send {
        map.problem(
            name.line,
            format!("{} is the target's own (never_send), so nothing can feed it", field.name),
            |problem| problem.hint("take this [[map]] away"),
        );
    }
    for (key, types) in KEYS_OF_TYPES {
        let word = field.kind.word();
        if map.has(key) && !types.contains(&word) {
            map.misplaced(
                key,
                &format!(
                    "{} is of type {word}, which does not take {key} (it goes with {})",
                    field.name,
                    types.join(", ")
                ),
            );
        }
    }
    let feed = read_feed(map, ask);
    let if_blank = map.text("if_blank").map(|text| text.value);
    Some(Map {
        field: place,
        line,
        feed: feed?,
        if_blank,
        text: read_text(map, &field.kind),
        number: read_number(map, field),
        date: read_date(map, &field.kind),
        words: read_words(map, &field.kind),
        read_as: read_codes(map, &field.kind),
        between: read_between(map, field),
        crosswalk: Crosswalk::default(),
    })
}

fn read_feed(map: &mut Settings<'_>, ask: &[(String, String)]) -> Option<Feed> {
    let from = map.text("from");
    let constant = map.text("constant");
    let join = map.text("join");
    let given = usize::from(from.is_some()) + usize::from(constant.is_some()) + usize::from(join.is_some());
    if given != 1 {
        let says = if given == 0 {
            "does not say where its value comes from"
        } else {
            "has more than one source for its value"
        };
        if !(map.has("from") || map.has("constant") || map.has("join")) || given > 1 {
            map.problem(map.line(), format!("[[map]] {says}"), |problem| {
                problem.hint("write one of from = \"a column\", constant = \"a value\", join = \"{One column}, {another}\"");
            });
        }
        return None;
    }
    if let Some(from) = from {
        return Some(Feed::Column(from.value.trim().to_owned()));
    }
    let is_join = join.is_some();
    let text = constant.or(join)?;
    let template = match Template::parse(&text.value) {
        Ok(template) => template,
        Err(says) => {
            map.problem(text.line, says, |_| {});
            return None;
        }
    };
    if is_join {
        if template.names().next().is_none() {
            map.problem(text.line, "join names no column", |problem| {
                problem.hint("put column names in braces, as join = \"{Town}, {Region}\"");
            });
        }
        return Some(Feed::Join(template));
    }
    for name in template.names() {
        if !ask.iter().any(|(known, _)| known == name) {
            map.problem(
                text.line,
                format!("constant uses {{{name}}}, which [ask] does not ask for"),
                |problem| {
                    problem.suggest(name, ask.iter().map(|(known, _)| known.as_str()));
                    if problem.hint.is_none() {
                        problem.hint(format!("write {name} = \"a question\" under [ask]"));
                    }
                },
            );
        }
    }
    Some(Feed::Constant(template))
}

fn read_text(map: &mut Settings<'_>, kind: &FieldType) -> TextReading {
    let usual = TextReading::default();
    if !matches!(kind, FieldType::Text { .. }) {
        for key in ["trim", "spaces", "hidden", "letters", "wrong_decoding", "quotes"] {
            if map.has(key) {
                map.misplaced(
                    key,
                    &format!("{key} goes with fields of type text; other types are always trimmed"),
                );
            }
        }
        return TextReading { one_line: false, ..usual };
    }
    TextReading {
        trim: map.flag("trim", usual.trim),
        plain_spaces: map.choice("spaces", &[("plain", true), ("keep", false)]).unwrap_or(usual.plain_spaces),
        one_line: map.choice("line_breaks", &[("keep", false), ("space", true)]).unwrap_or(usual.one_line),
        no_hidden: map.choice("hidden", &[("remove", true), ("keep", false)]).unwrap_or(usual.no_hidden),
        composed: map.choice("letters", &[("composed", true), ("keep", false)]).unwrap_or(usual.composed),
        redecoded: map
            .choice("wrong_decoding", &[("undo", true), ("keep", false)])
            .unwrap_or(usual.redecoded),
        straight_quotes: map.choice("quotes", &[("straight", true), ("keep", false)]).unwrap_or(false),
        keep_rounded: map.choice("rounded_digits", &[("keep", true), ("reject", false)]).unwrap_or(false),
        dates_as_iso: map.choice("dates", &[("iso", true), ("reject", false)]).unwrap_or(false),
    }
}

fn read_number(map: &mut Settings<'_>, field: &Field) -> NumberReading {
    let FieldType::Number { unit: wanted, .. } = &field.kind else { return NumberReading::default() };
    let mut mark = |key: &'static str| {
        let text = map.text(key)?;
        let mut letters = text.value.chars();
        match (letters.next(), letters.next()) {
            (Some(letter), None) if !letter.is_ascii_digit() && letter != '-' && letter != '+' => {
                Some(letter)
            }
            _ => {
                map.problem(
                    text.line,
                    format!("{key} \"{}\" is to be one character that is no digit", text.value),
                    |_| {},
                );
                None
            }
        }
    };
    let decimal_mark = mark("decimal_mark");
    let thousands_mark = mark("thousands_mark");
    if decimal_mark.is_some() && decimal_mark == thousands_mark {
        map.problem(map.line(), "decimal_mark and thousands_mark are the same", |_| {});
    }
    let unit = map.text("unit").and_then(|symbol| {
        let conversion = Unit::named(&symbol.value).and_then(|unit| match wanted {
            Some(wanted) => UnitConversion::new(unit, wanted).map(|_| unit),
            None => Err(crate::value::UnitError {
                says: format!("the target does not say which unit {} is in", field.name),
                hint: "write unit = \"…\" for the field in target.toml".into(),
            }),
        });
        conversion
            .map_err(|error| map.problem(symbol.line, error.says, |problem| problem.hint(error.hint)))
            .ok()
    });
    let currency = map.text("currency").and_then(|text| {
        let mut letters = ['\0'; 4];
        let fits = (1..=4).contains(&text.value.chars().count())
            && !text.value.contains(|c: char| c.is_ascii_digit() || c.is_whitespace());
        if !fits {
            map.problem(
                text.line,
                format!("currency \"{}\" is to be a mark or a code of up to four letters", text.value),
                |_| {},
            );
            return None;
        }
        letters.iter_mut().zip(text.value.chars()).for_each(|(slot, letter)| *slot = letter);
        Some(letters)
    });
    let brackets = map.choice("brackets", &[("negative", true)]).unwrap_or(false);
    let round = map.choice("round", &Rounding::WORDS);
    NumberReading { decimal_mark, thousands_mark, unit, round, proven: false, brackets, currency }
}

fn read_date(map: &mut Settings<'_>, kind: &FieldType) -> DateReading {
    let FieldType::Date { holds, .. } = kind else { return DateReading::default() };
    let pattern = map.text("pattern").and_then(|text| match DatePattern::parse(&text.value) {
        Ok(pattern) if *holds == ValueType::Time || pattern.has_date() => Some(pattern),
        wrong => {
            let says = wrong.err().unwrap_or_else(|| "does not hold a year, a month and a day".into());
            map.problem(text.line, format!("pattern \"{}\": {says}", text.value), |problem| {
                problem.hint("write a Unicode date pattern, for example \"dd/MM/yyyy\"");
            });
            None
        }
    });
    if *holds == ValueType::Time {
        return DateReading { pattern, ..DateReading::default() };
    }
    let order = map.choice("order", &DateOrder::WORDS);
    if order.is_some() && pattern.is_some() {
        map.problem(map.line(), "[[map]] has both order and pattern", |problem| {
            problem.hint("order reads every everyday form; pattern reads one form only; keep one of them");
        });
    }
    let years_from = map.whole("years_from", 1).and_then(|year| {
        let first = i16::try_from(year.value).ok().filter(|year| (1000..=9800).contains(year));
        if first.is_none() {
            map.problem(year.line, format!("years_from {} is not a year of four digits", year.value), |_| {});
        }
        first
    });
    let drop_time = *holds == ValueType::Date && map.flag("drop_time", false);
    let order_where: Vec<OrderWhere> =
        map.tables("order_where", read_order_where).into_iter().flatten().collect();
    if pattern.is_some() && !order_where.is_empty() {
        map.problem(map.line(), "[[map]] has both pattern and order_where", |problem| {
            problem.hint("pattern reads one form only; write order instead");
        });
    }
    if order_where.iter().filter(|one| matches!(one.which, Which::Rows(..))).count() > MOST_GROUPS {
        map.problem(map.line(), format!("order_where names more than {MOST_GROUPS} groups of rows"), |_| {});
    }
    let by_shape = order_where.iter().any(|one| matches!(one.which, Which::Shape(_)));
    if by_shape && order.is_none() && pattern.is_none() {
        map.problem(
            map.line(),
            "[[map]] has order_where for a shape, but no order for all other values",
            |problem| {
                problem.hint("write order as well");
            },
        );
    }
    let day_count = map.choice("day_count", &DayCount::WORDS);
    let zone = crate::target::zone_named(map);
    DateReading { order, pattern, years_from, drop_time, order_where, day_count, zone }
}

/// One of `{ shape = "typed", order = "…" }` and `{ rows = "401-900", order = "…" }`.
fn read_order_where(table: &mut Settings<'_>) -> Option<OrderWhere> {
    let order = table.choice("order", &DateOrder::WORDS);
    let (shape, rows) = (table.text("shape"), table.text("rows"));
    let which = match (shape, rows) {
        (Some(shape), None) => match DateShape::named(&shape.value) {
            Some(shape) => Which::Shape(shape),
            None => {
                table.problem(shape.line, format!("shape \"{}\" is none that a date has", shape.value), |problem| {
                    problem.hint("write typed, or a date of nines as dusk inspect shows it: 9/9/9999, 09/09/9999, 9999-09-09");
                });
                return None;
            }
        },
        (None, Some(rows)) => {
            let bounds =
                rows.value.split_once('-').map(|(first, last)| (first.trim().parse(), last.trim().parse()));
            match bounds {
                Some((Ok(first), Ok(last))) if first <= last => Which::Rows(first, last),
                _ => {
                    table.problem(
                        rows.line,
                        format!("rows \"{}\" is no range of rows", rows.value),
                        |problem| {
                            problem.hint("write the first and the last row, for example rows = \"401-900\"");
                        },
                    );
                    return None;
                }
            }
        }
        _ => {
            table.problem(table.line(), "order_where needs one of shape and rows", |problem| {
                problem.hint("for example { shape = \"typed\", order = \"year-day-month\" }");
            });
            return None;
        }
    };
    if order.is_none() && !table.has("order") {
        table.problem(table.line(), "order_where does not say which order", |_| {});
    }
    Some(OrderWhere { which, order: order? })
}

fn read_words(map: &mut Settings<'_>, kind: &FieldType) -> Option<(String, String)> {
    if !matches!(kind, FieldType::Boolean { .. }) {
        return None;
    }
    let text = map.text("words")?;
    match text.value.split_once('/') {
        Some((yes, no)) if !yes.trim().is_empty() && !no.trim().is_empty() => {
            Some((yes.trim().to_owned(), no.trim().to_owned()))
        }
        _ => {
            map.problem(
                text.line,
                format!("words \"{}\" does not give a word for true and one for false", text.value),
                |problem| {
                    problem.hint("write the two with a slash between them, for example words = \"Y/N\"");
                },
            );
            None
        }
    }
}

fn read_codes(map: &mut Settings<'_>, kind: &FieldType) -> ReadAs {
    if kind.codes().is_none() {
        return ReadAs::Either;
    }
    map.choice("read_as", &[("codes", ReadAs::Codes), ("labels", ReadAs::Labels)]).unwrap_or_default()
}

fn read_between(map: &mut Settings<'_>, field: &Field) -> Option<String> {
    if !matches!(field.kind, FieldType::Codes { .. }) {
        if map.has("between") {
            map.misplaced(
                "between",
                &format!("{} holds one value, so between does not go with it", field.name),
            );
        }
        return None;
    }
    let between: Option<At<String>> = map.text("between");
    if let Some(between) = &between
        && between.value.is_empty()
    {
        map.problem(between.line, "between is empty", |_| {});
    }
    between.map(|between| between.value).filter(|between| !between.is_empty())
}

/// Every field is fed once; a required one must be fed.
fn check_fields(mapping: &Mapping, target: &Target, file: &str, problems: &mut Problems) {
    let mut fed: HashMap<usize, Line> = HashMap::new();
    for map in &mapping.maps {
        let name = target.fields.get(map.field).map_or("", |field| field.name.as_str());
        if let Some(first) = fed.insert(map.field, map.line) {
            problems
                .at(file, Some(map.line), format!("the field \"{name}\" is mapped twice"))
                .hint(format!("the first [[map]] for it is on line {first}; keep one of the two"));
        }
    }
    // A [[map]] that could not be read would be said to be missing as well.
    if !problems.is_empty() {
        return;
    }
    for (place, field) in target.fields.iter().enumerate() {
        if field.required && !fed.contains_key(&place) {
            problems
                .at(file, None, format!("the field \"{}\" is required, and no [[map]] feeds it", field.name))
                .hint("give it a column (from), a value for the whole batch (constant), or several columns (join)");
        }
    }
    let wanted = mapping.wanted();
    for column in mapping.leave_out.iter().filter(|column| wanted.contains(&column.as_str())) {
        problems.at(file, None, format!("the column \"{column}\" is mapped and left out as well"));
    }
}
