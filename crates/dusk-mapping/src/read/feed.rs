//! What feeds a field: the keys of `[[map]]` of which one is given.

use std::cell::RefCell;
use std::sync::Arc;

use super::super::{Feed, LookUp, LookUpPlace, NUMBER_MARK, Part, Repeat, WorkedOut};
use super::Around;
use super::source::read_sheet;
use dusk_description::{CodesType, Expression, Field, FieldType};
use dusk_evidence::{FieldId, Id as _, Problems};
use dusk_files::{Piece, Settings, Template, beside};

/// The keys of which one says what feeds a field.
const FEEDS: [&str; 9] =
    ["from", "constant", "join", "first_of", "together", "filled", "worked_out", "flags", "look_up"];

pub(super) fn read_feed(
    map: &mut Settings<'_>,
    around: &Around<'_>,
    field: &Field,
    repeat: Option<&str>,
) -> Option<Feed> {
    // They are known, whichever is given.
    map.know(&FEEDS);
    let given: Vec<&str> = FEEDS.into_iter().filter(|key| map.has(key)).collect();
    let [key] = given.as_slice() else {
        let says = if given.is_empty() {
            "[[map]] does not say where its value comes from".to_owned()
        } else {
            format!("[[map]] has more than one source for its value: {}", given.join(", "))
        };
        map.problem(map.line(), says, |problem| {
            problem.hint("write one of from = \"a column\", constant = \"a value\", join = \"{One column}, {another}\", first_of, together, filled, worked_out, flags, look_up");
        });
        return None;
    };
    let own = |name: &str| {
        let name = name.trim();
        repeat.map_or_else(|| name.to_owned(), |repeat| Repeat::heading(name, repeat))
    };
    let feed = match *key {
        "from" => {
            let column = own(&map.text("from")?.value);
            match map.text("unit_in") {
                Some(unit) => Feed::InUnits(column, own(&unit.value)),
                None => Feed::Column(column),
            }
        }
        "constant" => Feed::Constant(read_constant(map, around)?),
        "join" => Feed::Join(read_join(map, &own)?),
        "first_of" => Feed::FirstOf(several(map, "first_of", &own)?),
        "together" => Feed::Together(several(map, "together", &own)?),
        "filled" => read_filled(map, &own, repeat)?,
        "worked_out" => Feed::WorkedOut(Arc::new(read_worked_out(map, &own)?)),
        "flags" => Feed::Flags(read_flags(map, field, &own)?),
        _ => Feed::LookUp(Arc::new(read_look_up(map, around, &own)?)),
    };
    if !around.repeats && repeat.is_none() {
        for column in feed.columns().into_iter().filter(|column| column.contains(NUMBER_MARK)) {
            map.problem(map.line(), format!("\"{column}\" is a column that repeats, and nothing says which numbers there are"), |problem| {
                problem.hint("write [repeat] with numbers = [\"1-3\"], or numbers in this [[map]] for a numbered field");
            });
        }
    }
    Some(feed)
}

fn read_constant(map: &mut Settings<'_>, around: &Around<'_>) -> Option<Template> {
    let text = map.text("constant")?;
    let template = match Template::parse(&text.value) {
        Ok(template) => template,
        Err(says) => {
            map.problem(text.line, says, |_| {});
            return None;
        }
    };
    for name in template.names() {
        if !around.ask.iter().any(|(known, _)| known == name) {
            map.problem(
                text.line,
                format!("constant uses {{{name}}}, which [ask] does not ask for"),
                |problem| {
                    problem.suggest(name, around.ask.iter().map(|(known, _)| known.as_str()));
                    if problem.hint.is_none() {
                        problem.hint(format!("write {name} = \"a question\" under [ask]"));
                    }
                },
            );
        }
    }
    Some(template)
}

fn read_join(map: &mut Settings<'_>, own: &dyn Fn(&str) -> String) -> Option<Template> {
    let text = map.text("join")?;
    let mut template = match Template::parse(&text.value) {
        Ok(template) => template,
        Err(says) => {
            map.problem(text.line, says, |_| {});
            return None;
        }
    };
    for piece in &mut template.pieces {
        if let Piece::Name(name) = piece {
            *name = own(name);
        }
    }
    if template.names().next().is_none() {
        map.problem(text.line, "join names no column", |problem| {
            problem.hint("put column names in braces, as join = \"{Town}, {Region}\"");
        });
    }
    Some(template)
}

/// The nth of several columns that are not blank.
fn read_filled(map: &mut Settings<'_>, own: &dyn Fn(&str) -> String, repeat: Option<&str>) -> Option<Feed> {
    let columns = several(map, "filled", own);
    let rest = map.text("rest").map(|rest| rest.value);
    let named = map.whole("nth", 1).and_then(|nth| usize::try_from(nth.value).ok());
    let nth = named.or_else(|| repeat?.parse().ok().filter(|nth| *nth > 0));
    if nth.is_none() {
        map.problem(map.line(), "[[map]] filled does not say which of the columns that are not blank is meant", |problem| {
            problem.hint("write nth = 1 for the first, or numbers = [\"1-3\"] for a field that is called field_{n}");
        });
    }
    Some(Feed::Filled { columns: columns?, nth: nth?, is_last: true, rest })
}

/// Of the fields that several columns fill, only the last one may find more of them than there are fields.
///
/// Gives back the first number that no field takes, with the columns whose value would be lost.
pub(super) fn settle_filled(feeds: &mut [&mut Feed]) -> Option<(usize, Vec<String>)> {
    let mut last: Vec<(Vec<String>, usize)> = Vec::new();
    for feed in feeds.iter() {
        let Feed::Filled { columns, nth, .. } = &**feed else { continue };
        match last.iter_mut().find(|(known, _)| known == columns) {
            Some((_, most)) => *most = (*most).max(*nth),
            None => last.push((columns.clone(), *nth)),
        }
    }
    for feed in feeds.iter_mut() {
        if let Feed::Filled { columns, nth, is_last, .. } = &mut **feed {
            *is_last = last.iter().any(|(known, most)| known == columns && most == nth);
        }
    }
    last.into_iter().find_map(|(columns, most)| {
        let takes = |wanted: usize| {
            let of_these = |feed: &&mut Feed| matches!(&**feed, Feed::Filled { columns: known, nth, .. } if *known == columns && *nth == wanted);
            feeds.iter().any(of_these)
        };
        (1..most).find(|wanted| !takes(*wanted)).map(|missing| (missing, columns.clone()))
    })
}

/// A number that is reckoned from columns.
fn read_worked_out(map: &mut Settings<'_>, own: &dyn Fn(&str) -> String) -> Option<WorkedOut> {
    let text = map.text("worked_out")?;
    let columns: RefCell<Vec<String>> = RefCell::default();
    let place = |name: &str| {
        let (name, mut columns) = (own(name), columns.borrow_mut());
        let place = columns.iter().position(|known| *known == name).unwrap_or_else(|| {
            columns.push(name.clone());
            columns.len() - 1
        });
        Some(FieldId::new(place))
    };
    match Expression::parse(&text.value, &place) {
        Ok(_) if columns.borrow().is_empty() => {
            map.problem(text.line, "worked_out names no column", |problem| {
                problem.hint("write columns in braces, as in worked_out = \"{Price} * {Copies}\"");
            });
            None
        }
        Ok(expression) => Some(WorkedOut { written: text.value, expression, columns: columns.into_inner() }),
        Err(wrong) => {
            let says = format!("worked_out: {}\n{}", wrong.says, wrong.pointed());
            map.problem(text.line, says, |problem| {
                problem.hint("write columns in braces, as in worked_out = \"{Price} * {Copies}\"");
            });
            None
        }
    }
}

/// Two columns or more.
fn several(map: &mut Settings<'_>, key: &'static str, own: &dyn Fn(&str) -> String) -> Option<Vec<String>> {
    let names: Vec<String> = map.texts(key).iter().map(|name| own(&name.value)).collect();
    if names.len() < 2 {
        map.problem(map.line(), format!("[[map]] {key} is to name two columns or more"), |problem| {
            problem
                .hint(format!("for example {key} = [\"Mobile\", \"Telephone\"]; for one column write from"));
        });
        return None;
    }
    Some(names)
}

fn read_flags(
    map: &mut Settings<'_>,
    field: &Field,
    own: &dyn Fn(&str) -> String,
) -> Option<Vec<(String, String)>> {
    let FieldType::Codes(CodesType { list, .. }) = &field.kind else {
        map.pairs("flags");
        return None;
    };
    let mut flags = Vec::new();
    for (column, code) in map.pairs("flags") {
        if !list.codes().iter().any(|known| known.code == code.value) {
            map.problem(
                code.line,
                format!("flags: \"{}\" is not a code of {}", code.value, list.name),
                |problem| {
                    problem.suggest(&code.value, list.codes().iter().map(|known| known.code.as_str()));
                },
            );
        }
        flags.push((own(&column.value), code.value));
    }
    if flags.is_empty() {
        map.problem(map.line(), "[[map]] flags names no column", |problem| {
            problem.hint("write for example flags = { \"Oxalic acid\" = \"OX\", \"Formic acid\" = \"FA\" }");
        });
        return None;
    }
    Some(flags)
}

fn read_look_up(map: &mut Settings<'_>, around: &Around<'_>, own: &dyn Fn(&str) -> String) -> Option<LookUp> {
    let line = map.line();
    let (file, place, crosswalk, by, take) = map.table("look_up", |table| {
        let by: Vec<(String, String)> = table
            .pairs("by")
            .into_iter()
            .map(|(ours, theirs)| (own(&ours.value), theirs.value.trim().to_owned()))
            .collect();
        if by.is_empty() {
            table.problem(table.line(), "look_up does not say by which columns", |problem| {
                problem.hint("write by = { \"a column of the source\" = \"a column of the file\" }");
            });
        }
        let crosswalk = table.text("crosswalk");
        if let Some(crosswalk) = crosswalk.as_ref().filter(|_| by.len() > 1) {
            table.problem(
                crosswalk.line,
                "crosswalk translates the key of a look-up by one column",
                |problem| {
                    problem.hint("join the columns of the key into one in that file, or correct the cells");
                },
            );
        }
        let place = LookUpPlace {
            sheet: read_sheet(table),
            table: table.text("table").map(|table| table.value),
            query: table.text("query").map(|query| query.value),
        };
        let named = [place.sheet.is_some(), place.table.is_some(), place.query.is_some()];
        if named.into_iter().filter(|named| *named).count() > 1 {
            let says = "look_up has more than one of sheet, table and query; keep one of them";
            table.problem(table.line(), says, |_| {});
        }
        (table.required_text("file"), place, crosswalk, by, table.required_text("take"))
    });
    let (file, take) = (file?, take?);
    if by.is_empty() {
        return None;
    }
    let is_of_numbers = std::path::Path::new(&file.value)
        .parent()
        .is_some_and(|folder| folder.ends_with("numbers") && !around.folder.join(&file.value).exists());
    let is_server = dusk_database::is_server(std::path::Path::new(&file.value));
    let path = if is_server { Ok(file.value.clone().into()) } else { beside(around.folder, &file.value) };
    let read =
        path.and_then(|path| Ok((LookUp::read(&path, &place, by, take.value.trim().to_owned())?, path)));
    let keep = |path: std::path::PathBuf| {
        let mut files = around.look_up_files.borrow_mut();
        if !files.contains(&path) {
            files.push(path);
        }
    };
    match read {
        Ok((mut look_up, path)) => {
            if !is_server {
                keep(path);
            }
            if let Some(crosswalk) = crosswalk {
                let mut problems = Problems::default();
                let translated = beside(around.folder, &crosswalk.value)
                    .and_then(|path| look_up.translate(&path, &mut problems).map(|()| path))
                    .and_then(|path| problems.or(path));
                match translated {
                    Ok(path) => keep(path),
                    Err(error) => map.problem(crosswalk.line, error.to_string(), |problem| {
                        problem.hint(
                            "its columns are value, as the export has the key, and code, the key in the file",
                        );
                    }),
                }
            }
            Some(look_up)
        }
        Err(error) => {
            map.problem(line, error.to_string(), |problem| {
                problem.hint(if is_of_numbers {
                    "numbers that the target gives are there once its answer was read: deliver the batch of these \
                     records first, and read what it says with dusk answer"
                } else {
                    "file is seen from the mapping's folder; by and take name its columns"
                });
            });
            None
        }
    }
}

/// The part of the cell that is taken.
pub(super) fn read_part(map: &mut Settings<'_>) -> Option<Part> {
    let (parts, take) = (map.text_or_texts("part"), map.text("take"));
    match (parts.first(), take) {
        (Some(part), Some(take)) => {
            let forms: Vec<&str> = parts.iter().map(|part| part.value.as_str()).collect();
            Part::of_forms(&forms, take.value.trim())
                .map_err(|says| {
                    map.problem(part.line, format!("part: {says}"), |problem| {
                        problem.hint(
                        "write for example part = \"{town}, {region} {postcode:digits}\" and take = \"town\"",
                    );
                    })
                })
                .ok()
        }
        (None, None) => None,
        (part, take) => {
            let line = part.or(take.as_ref()).map_or(map.line(), |text| text.line);
            map.problem(line, "part and take go together", |problem| {
                problem.hint("part says how the cell is put together, take which part of it is meant");
            });
            None
        }
    }
}
