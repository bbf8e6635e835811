//! How values are read: the keys of `[[map]]` that go with a type of field.

use super::super::{DateReading, DayCount, Feed, NumberReading, OrderWhere, TextForm, TextReading, Which};
use dusk_description::{DateType, Field, FieldType, NumberType, ReadAs};
use dusk_files::{At, Settings};
use dusk_inspecting::DateShape;
use dusk_sources::MOST_GROUPS;
use dusk_values::{DateOrder, DatePattern, Rounding, Unit, UnitConversion, UnitError, ValueType};

pub(super) fn read_text(map: &mut Settings<'_>, kind: &FieldType) -> TextReading {
    let usual = TextReading::default();
    if !matches!(kind, FieldType::Text(_)) {
        for key in ["trim", "spaces", "hidden", "letters", "wrong_decoding", "quotes", "text_form"] {
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
        form: map.choice("text_form", &TextForm::WORDS),
        dates_as_iso: map.choice("dates", &[("iso", true), ("reject", false)]).unwrap_or(false),
    }
}

pub(super) fn read_number(
    map: &mut Settings<'_>,
    field: &Field,
    usual: (Option<char>, Option<char>),
) -> NumberReading {
    if !matches!(field.kind, FieldType::Number(_)) {
        return NumberReading::default();
    }
    let own = read_marks(map);
    // Where one of the two is said here, what the whole source says of the other may not go with it.
    let (decimal_mark, thousands_mark) = if own == (None, None) { usual } else { own };
    let written = map.text("unit").filter(|symbol| name_in_braces(&symbol.value).is_none());
    let unit = written.and_then(|symbol| {
        unit_for(&symbol.value, field)
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
                format!("currency \"{}\" must be a mark or a code of up to four letters", text.value),
                |_| {},
            );
            return None;
        }
        letters.iter_mut().zip(text.value.chars()).for_each(|(slot, letter)| *slot = letter);
        Some(letters)
    });
    let brackets = map.choice("brackets", &[("negative", true)]).unwrap_or(false);
    let round = map.choice("round", &Rounding::WORDS);
    let small_percents = map.choice("small_percents", &[("keep", true)]).unwrap_or(false);
    NumberReading {
        decimal_mark,
        thousands_mark,
        unit,
        round,
        proven: false,
        brackets,
        currency,
        small_percents,
        units_in_cells: map.has("unit_in"),
    }
}

/// The unit of this name, where the field's numbers can be in it.
///
/// # Errors
/// Says why they cannot.
pub(crate) fn unit_for(symbol: &str, field: &Field) -> Result<&'static Unit, UnitError> {
    let unit = Unit::named(symbol)?;
    let FieldType::Number(NumberType { unit: wanted, .. }) = &field.kind else { return Ok(unit) };
    match wanted {
        Some(wanted) => UnitConversion::new(unit, wanted).map(|_| unit),
        // What the field is called after is confirmed; nothing is converted.
        None if field.named_unit().is_some_and(|(named, _)| named == unit) => Ok(unit),
        None => Err(UnitError {
            says: format!("the target does not say which unit {} is in", field.name),
            hint: "write unit = \"…\" for the field in target.toml".into(),
        }),
    }
}

/// The name in `{name}`.
fn name_in_braces(text: &str) -> Option<&str> {
    text.trim().strip_prefix('{')?.strip_suffix('}').map(str::trim)
}

/// The value of `[ask]` that says which unit numbers are in: `unit = "{length unit}"`.
pub(super) fn asked_unit(map: &mut Settings<'_>, ask: &[(String, String)]) -> Option<String> {
    let text = map.text("unit")?;
    let name = name_in_braces(&text.value)?;
    if !ask.iter().any(|(known, _)| known == name) {
        map.problem(text.line, format!("unit uses {{{name}}}, which [ask] does not ask for"), |problem| {
            problem.suggest(name, ask.iter().map(|(known, _)| known.as_str()));
            if problem.hint.is_none() {
                problem.hint(format!("write {name} = \"a question\" under [ask]"));
            }
        });
    }
    Some(name.to_owned())
}

/// The marks before the decimals and between groups of digits.
pub(super) fn read_marks(map: &mut Settings<'_>) -> (Option<char>, Option<char>) {
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
                    format!("{key} \"{}\" must be one character that is not a digit", text.value),
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
    (decimal_mark, thousands_mark)
}

pub(super) fn read_date(map: &mut Settings<'_>, kind: &FieldType) -> DateReading {
    let form = read_date_form(map, kind);
    let holds = match (kind, &form) {
        (FieldType::Date(DateType { holds, .. }), _) => holds,
        (_, Some(form)) if form.has_time() => &ValueType::DateTime,
        (_, Some(_)) => &ValueType::Date,
        (_, None) => return DateReading::default(),
    };
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
    // Who asks for a part of a date wants nothing of its time.
    let drop_time = *holds == ValueType::Date && (form.is_some() || map.flag("drop_time", false));
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
    let zone = dusk_description::zone_named(map);
    DateReading { order, pattern, years_from, drop_time, order_where, day_count, zone, form }
}

/// What a field of another type takes of a date: `date_form = "yyyy"`.
fn read_date_form(map: &mut Settings<'_>, kind: &FieldType) -> Option<DatePattern> {
    let text = map.text("date_form")?;
    let takes_parts = matches!(kind, FieldType::Text(_) | FieldType::Number(_) | FieldType::Code(_));
    if !takes_parts {
        let word = kind.word();
        map.misplaced("date_form", &format!("a field of type {word} takes no part of a date; date_form goes with text, integer, decimal, code"));
        return None;
    }
    DatePattern::parse(&text.value)
        .map_err(|says| {
            map.problem(text.line, format!("date_form \"{}\": {says}", text.value), |problem| {
                problem.hint(
                    "write a Unicode date pattern: \"yyyy\" for the year, \"MMMM\" for the name of the month",
                );
            });
        })
        .ok()
}

/// One of `{ shape = "typed", order = "…" }` and `{ rows = "401-900", order = "…" }`.
fn read_order_where(table: &mut Settings<'_>) -> Option<OrderWhere> {
    let order = table.choice("order", &DateOrder::WORDS);
    let (shape, rows) = (table.text("shape"), table.text("rows"));
    let which = match (shape, rows) {
        (Some(shape), None) => match DateShape::named(&shape.value) {
            Some(shape) => Which::Shape(shape),
            None => {
                table.problem(shape.line, format!("shape \"{}\" is not a shape of dates", shape.value), |problem| {
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
                        format!("rows \"{}\" is not a range of rows", rows.value),
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

pub(super) fn read_words(map: &mut Settings<'_>, kind: &FieldType) -> Option<(String, String)> {
    // Columns of true and false that make codes have such words as well.
    if !matches!(kind, FieldType::Boolean(_)) && !map.has("flags") {
        if map.has("words") {
            map.misplaced("words", "words goes with fields of true and false, and with flags");
        }
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

pub(super) fn read_codes(map: &mut Settings<'_>, kind: &FieldType) -> ReadAs {
    if kind.codes().is_none() {
        return ReadAs::Either;
    }
    map.choice("read_as", &[("codes", ReadAs::Codes), ("labels", ReadAs::Labels)]).unwrap_or_default()
}

pub(super) fn read_between(map: &mut Settings<'_>, field: &Field, feed: Option<&Feed>) -> Vec<String> {
    let several = matches!(field.kind, FieldType::Codes(_)) || map.has("true_where");
    if !several && !matches!(feed, Some(Feed::Together(_)) | None) {
        if map.has("between") {
            map.misplaced(
                "between",
                &format!("{} holds one value, so between does not go with it", field.name),
            );
        }
        return Vec::new();
    }
    let between: Vec<At<String>> = map.text_or_texts("between");
    if let Some(empty) = between.iter().find(|between| between.value.is_empty()) {
        map.problem(empty.line, "between is empty", |_| {});
    }
    if let (false, [_, second, ..]) = (several, between.as_slice()) {
        map.problem(second.line, "between names several, and values are put together with one", |_| {});
    }
    if !several && between.is_empty() && matches!(feed, Some(Feed::Together(_))) && !map.has("between") {
        map.problem(
            map.line(),
            "[[map]] takes columns together, and does not say what to put between their values",
            |problem| {
                problem.hint("write for example between = \"; \"");
            },
        );
    }
    between.into_iter().map(|between| between.value).filter(|between| !between.is_empty()).collect()
}

/// The value among several that makes a field true.
pub(super) fn read_true_where(map: &mut Settings<'_>, kind: &FieldType) -> Option<String> {
    if !matches!(kind, FieldType::Boolean(_)) {
        return None;
    }
    let true_where = map.text("true_where")?;
    if map.has("words") {
        map.problem(true_where.line, "[[map]] has both true_where and words", |problem| {
            problem.hint(
                "true_where looks for one value among several; words reads a cell that says true or false",
            );
        });
    }
    if !map.has("between") && !map.has("together") {
        // Without it a cell of several values would be one value, which never is the wanted one.
        map.problem(
            true_where.line,
            "[[map]] has true_where, and does not say what parts the values",
            |problem| {
                problem.hint("write for example between = \";\"");
            },
        );
    }
    if true_where.value.trim().is_empty() {
        map.problem(true_where.line, "true_where is empty", |_| {});
        return None;
    }
    Some(true_where.value.trim().to_owned())
}
