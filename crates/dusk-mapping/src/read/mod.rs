//! `mapping.toml` is read and checked against the target, and everything wrong is said at once.

mod feed;
mod groups;
mod readings;
mod record_layout;
mod rows;
mod source;

use std::cell::RefCell;
use std::path::{Path, PathBuf};

use hashbrown::HashMap;

use super::{Feed, Map, Mapping, NUMBER_MARK};
use dusk_decisions::{Corrections, Crosswalk, crosswalk_path};
use dusk_description::{DateType, Field, FieldType, Target, fold};
use dusk_evidence::{Error, FieldId, Line, Problems, Result};
use dusk_files::{Settings, SettingsFile};
use dusk_sources::SourceSettings;
use dusk_values::ValueType;

use feed::{read_feed, read_part, settle_filled};
use groups::settle_groups;
pub(crate) use readings::unit_for;
use readings::{
    asked_unit, read_between, read_codes, read_date, read_number, read_text, read_true_where, read_words,
};
use rows::{read_repeat, read_rows};
use source::{SourceKeys, read_source};

/// The keys of `[[map]]` that go with some types of field only.
const KEYS_OF_TYPES: [(&str, &[&str]); 22] = [
    ("true_where", &["boolean"]),
    ("flags", &["codes"]),
    ("rounded_digits", &["text"]),
    ("dates", &["text"]),
    ("brackets", &["integer", "decimal"]),
    ("currency", &["integer", "decimal"]),
    ("order_where", &["date", "datetime"]),
    ("day_count", &["date", "datetime"]),
    ("zone", &["date", "datetime"]),
    ("line_breaks", &["text"]),
    ("decimal_mark", &["integer", "decimal"]),
    ("thousands_mark", &["integer", "decimal"]),
    ("unit", &["integer", "decimal"]),
    ("small_percents", &["integer", "decimal"]),
    ("unit_in", &["integer", "decimal"]),
    ("round", &["integer", "decimal"]),
    ("order", &["date", "datetime"]),
    ("pattern", &["date", "datetime", "time"]),
    ("years_from", &["date", "datetime"]),
    ("drop_time", &["date"]),
    ("words", &["boolean", "codes"]),
    ("read_as", &["code", "codes"]),
];

/// Reads the mapping at `path`, the target that it names, and the crosswalks beside it.
///
/// # Errors
/// [`Error::File`] when the mapping or the target cannot be read; [`Error::Problems`] with
/// everything that is wrong with either.
pub fn read(path: &Path) -> Result<(Mapping, Target)> {
    read_with(&SettingsFile::read(path)?, path, true)
}

/// The same for a mapping that is being made: required fields may still be without a `[[map]]`.
///
/// # Errors
/// As [`read`].
pub fn read_incomplete(path: &Path) -> Result<(Mapping, Target)> {
    read_with(&SettingsFile::read(path)?, path, false)
}

/// How the mapping at `path` says that its source is read, and its target where it names one: `[source]` may be all that
/// there is of it.
///
/// # Errors
/// As [`read`].
pub fn read_reading(path: &Path) -> Result<(SourceSettings, Option<Target>)> {
    let file = SettingsFile::read(path)?;
    let folder = path.parent().unwrap_or(Path::new(""));
    let mut problems = Problems::default();
    let (names_target, source) = file.read_with(&mut problems, |top| {
        let names_target = top.has("target");
        let source = top.table("source", |source| read_source(source, folder)).source;
        top.ignore_rest();
        (names_target, source)
    });
    if names_target {
        return read_incomplete(path).map(|(mapping, target)| (mapping.source, Some(target)));
    }
    problems.or((source, None))
}

/// The same for a text that is not written yet, and would stand at `path`.
///
/// # Errors
/// As [`read`].
pub fn read_unwritten(path: &Path, text: &str) -> Result<(Mapping, Target)> {
    read_with(&SettingsFile::from_text(path.display().to_string(), text.to_owned()), path, false)
}

fn read_with(file: &SettingsFile, path: &Path, complete: bool) -> Result<(Mapping, Target)> {
    let mut problems = Problems::default();
    let (target_path, target) = read_target(file, path, &mut problems)?;
    let mut mapping = file.read_with(&mut problems, |top| {
        top.text("target");
        read_tables(top, path, &target_path, target.as_ref(), complete)
    });
    // One [[map]] for several fields says what is wrong with it for each of them.
    problems.each_once();
    let Some(target) = target else { return Err(Error::Problems(problems)) };
    check_fields(&mapping, &target, (&file.name, complete), &mut problems);
    for map in &mut mapping.maps {
        let Some(field) = target.fields.get(map.field) else { continue };
        let crosswalk_file = crosswalk_path(path, &field.name);
        if crosswalk_file.exists() {
            map.crosswalk = Crosswalk::read(&crosswalk_file, field, &mut problems)?;
            mapping.crosswalk_files.push(crosswalk_file);
        }
    }
    mapping.corrections = Corrections::beside(path, &mut problems)?;
    problems.or((mapping, target))
}

/// The target that the mapping names, and the way to it; no target where it has problems, which are said.
fn read_target(
    file: &SettingsFile,
    path: &Path,
    problems: &mut Problems,
) -> Result<(PathBuf, Option<Target>)> {
    let name = file.read_with(&mut Problems::default(), |top| {
        let name = top.text("target");
        top.ignore_rest();
        name
    });
    let folder = path.parent().unwrap_or(Path::new(""));
    let target_path = folder.join(name.as_ref().map_or("target.toml", |name| name.value.as_str()));
    let target = match Target::read(&target_path) {
        Ok(target) => Some(target),
        Err(Error::Problems(found)) => {
            problems.append(found);
            None
        }
        Err(Error::File { cause, .. }) if cause.kind() == std::io::ErrorKind::NotFound => {
            let says = format!("there is no target description {}", target_path.display());
            problems
                .at(&file.name, name.map(|name| name.line), says)
                .hint("write target = \"…\" with the way to it from this file's folder");
            None
        }
        Err(other) => return Err(other),
    };
    Ok((target_path, target))
}

/// All tables of a mapping.
fn read_tables(
    top: &mut Settings<'_>,
    path: &Path,
    target_path: &Path,
    target: Option<&Target>,
    complete: bool,
) -> Mapping {
    let SourceKeys { source, blank, marks } =
        top.table("source", |source| read_source(source, path.parent().unwrap_or(Path::new(""))));
    let ask: Vec<(String, String)> =
        top.pairs("ask").into_iter().map(|(name, question)| (name.value, question.value)).collect();
    let rows = top.table("rows", |rows| read_rows(rows, target));
    let has_repeat = top.has("repeat");
    let repeat = has_repeat.then(|| top.table("repeat", |repeat| read_repeat(repeat, target))).flatten();
    if repeat.is_some() && rows.same_key.needs_all_rows() {
        let says = "[rows] same_key makes one record of several rows, and [repeat] several of one; keep one of the two";
        top.problem(top.line(), says, |_| {});
    }
    let look_up_files = RefCell::default();
    let around = Around {
        target,
        ask: &ask,
        folder: path.parent().unwrap_or(Path::new("")),
        blank: &blank,
        marks,
        repeats: repeat.is_some(),
        look_up_files: &look_up_files,
    };
    let mut maps: Vec<Map> = top.tables("map", |map| read_maps(map, &around)).into_iter().flatten().collect();
    if let Some((field, line)) = repeat.as_ref().and_then(|(_, number)| *number) {
        maps.push(Map { line, ..Map::fed_by(field, Feed::Number) });
    }
    let mut repeat = repeat.map(|(repeat, _)| repeat);
    if let Some((target, groups)) = target.and_then(|target| Some((target, target.groups.as_ref()?))) {
        let settled = settle_groups(&mut maps, repeat.as_mut(), (target, groups));
        if let Err((says, hint)) = settled {
            top.problem(Line::FIRST, says, |problem| problem.hint(hint));
        }
        if rows.same_key.needs_all_rows() {
            let says = "[rows] same_key makes one record of several rows, and the target has several rows for one record";
            top.problem(top.line(), says, |problem| {
                problem.hint("write same_key = \"merge\", or leave it out")
            });
        }
    }
    let gap = settle_filled(&mut maps.iter_mut().map(|map| &mut map.feed).collect::<Vec<_>>());
    if let Some((missing, columns)) = gap {
        let says = format!(
            "filled: no field takes number {missing} of the columns \"{}\" that are not blank",
            columns.join("\", \"")
        );
        top.problem(Line::FIRST, says, |problem| {
            problem.hint("its value would be lost: count nth from 1, without a gap");
        });
    }
    check_maps(top, &maps, repeat.is_some(), complete);
    let (mut leave_out, hand_on, fields_left_out) = top.table("leave_out", |table| {
        let named = |key| table.texts(key).into_iter().map(|column| column.value).collect::<Vec<String>>();
        let [columns, hand_on] = ["columns", "hand_on"].map(named);
        (columns, hand_on, read_fields_left_out(table, target))
    });
    // What is handed on need not be named twice.
    leave_out
        .extend(hand_on.iter().filter(|column| !leave_out.contains(column)).cloned().collect::<Vec<_>>());
    Mapping {
        path: path.to_path_buf(),
        target_path: target_path.to_path_buf(),
        source,
        ask,
        maps,
        leave_out,
        hand_on,
        fields_left_out,
        keep: rows.keep,
        same_key: rows.same_key,
        same_by: rows.same_by,
        within: rows.within,
        stops_unlike: rows.stops_unlike,
        repeat,
        look_up_files: look_up_files.into_inner(),
        crosswalk_files: Vec::new(),
        corrections: Corrections::default(),
    }
}

/// The fields that nothing feeds on purpose.
fn read_fields_left_out(table: &mut Settings<'_>, target: Option<&Target>) -> Vec<FieldId> {
    let names = table.texts("fields");
    let Some(target) = target else { return Vec::new() };
    let mut fields = Vec::new();
    for name in names {
        match target.field(&name.value) {
            Some(field) => fields.push(field),
            None => {
                table.problem(name.line, format!("the target has no field \"{}\"", name.value), |problem| {
                    problem.hint("write a field's name as target.toml has it");
                })
            }
        }
    }
    fields
}

/// Columns that repeat are named, and something is mapped.
fn check_maps(top: &Settings<'_>, maps: &[Map], repeats: bool, complete: bool) {
    let names_number = |map: &Map| map.feed.columns().iter().any(|column| column.contains(NUMBER_MARK));
    if repeats && !maps.is_empty() && !maps.iter().any(names_number) {
        let says = "[repeat] says that columns repeat, and no [[map]] names one";
        top.problem(top.line(), says, |problem| {
            problem.hint("write {n} where the heading has the number, for example from = \"Frame {n}\"");
        });
    }
    if complete && maps.is_empty() && !top.has("map") {
        top.problem(Line::FIRST, "maps no field", |problem| {
            problem.hint("each field that is fed is a [[map]] with field = \"…\" and from = \"…\"");
        });
    }
}

/// What a `[[map]]` is read in the light of.
struct Around<'a> {
    target: Option<&'a Target>,
    ask: &'a [(String, String)],
    folder: &'a Path,
    blank: &'a [String],
    marks: (Option<char>, Option<char>),
    repeats: bool,
    look_up_files: &'a RefCell<Vec<PathBuf>>,
}

/// Reads a `[[map]]`: one field, or each field of a numbered group with the column of its own.
fn read_maps(map: &mut Settings<'_>, around: &Around<'_>) -> Vec<Map> {
    let name = map.required_text("field");
    let Some(target) = around.target else {
        map.ignore_rest();
        return Vec::new();
    };
    let Some(name) = name else { return Vec::new() };
    let named = |name: &str| target.field(name).and_then(|place| Some((place, target.fields.get(place)?)));
    let numbered: Vec<(FieldId, &Field)> = target
        .fields
        .with_ids()
        .filter(|(_, field)| field.group.as_ref().is_some_and(|group| *group == name.value))
        .collect();
    if let Some(found) = named(&name.value) {
        return read_map(map, around, found, None).into_iter().collect();
    }
    if numbered.is_empty() {
        map.problem(name.line, format!("the target has no field \"{}\"", name.value), |problem| {
            problem.suggest(&name.value, target.fields.iter().map(|field| field.name.as_str()));
        });
        map.ignore_rest();
        return Vec::new();
    }
    let numbers = map.labels("numbers");
    if numbers.is_empty() {
        map.problem(
            name.line,
            format!(
                "{} means several fields, and the mapping does not say which columns feed them",
                name.value
            ),
            |problem| {
                problem.hint(
                    "write numbers = [\"1\", \"2\", \"4\"]: what replaces {n} in the headings of the source",
                );
            },
        );
        map.ignore_rest();
        return Vec::new();
    }
    if numbers.len() > numbered.len() {
        let says = format!(
            "there are {} numbers, and the target has {} fields for them",
            numbers.len(),
            numbered.len()
        );
        map.problem(name.line, says, |_| {});
    }
    let pairs = numbered.into_iter().zip(&numbers);
    pairs.filter_map(|(found, repeat)| read_map(map, around, found, Some(repeat))).collect()
}

fn read_map(
    map: &mut Settings<'_>,
    around: &Around<'_>,
    (id, field): (FieldId, &Field),
    repeat: Option<&str>,
) -> Option<Map> {
    let line = map.line();
    check_field(map, field);
    check_keys(map, field);
    let feed = read_feed(map, around, field, repeat);
    let part = read_part(map);
    let fill_down = map.flag("fill_down", false);
    if let Some(feed) = &feed {
        check_feed(map, feed, fill_down && around.repeats);
    }
    let blank = if map.has("blank") {
        map.texts("blank").into_iter().map(|word| fold(&word.value)).collect()
    } else {
        around.blank.to_vec()
    };
    let if_blank = map.text("if_blank").map(|text| text.value);
    let blank_clears = read_blank_clears(map, around, field, if_blank.is_some());
    let read = Map {
        field: id,
        line,
        feed: feed.clone().unwrap_or(Feed::Number),
        part,
        fill_down,
        blank,
        if_blank,
        blank_clears,
        text: read_text(map, &field.kind),
        unit_asked: asked_unit(map, around.ask),
        number: read_number(map, field, around.marks),
        date: read_date(map, &field.kind),
        words: read_words(map, &field.kind),
        read_as: read_codes(map, &field.kind),
        between: read_between(map, field, feed.as_ref()),
        true_where: read_true_where(map, &field.kind),
        crosswalk: Crosswalk::default(),
    };
    feed.map(|_| read)
}

/// Whether a blank in the source clears what the target holds, which has to be possible.
fn read_blank_clears(map: &mut Settings<'_>, around: &Around<'_>, field: &Field, is_filled: bool) -> bool {
    let clears = map.flag("blank_clears", false);
    let Some(target) = around.target.filter(|_| clears) else { return clears };
    let name = &field.name;
    let wrong = if target.holds.is_none() {
        format!(
            "{name} should be cleared in the target, but the description does not say what the target holds ([holds] in target.toml)"
        )
    } else if field.required || field.key {
        format!("{name} must be filled in every record, so that a blank cannot clear it")
    } else if field.set_once {
        format!("{name} may be set only once, so that a blank cannot clear it")
    } else if is_filled {
        format!("{name} has if_blank as well, so that it is never blank")
    } else if target.upload.blank_leaves && target.upload.clearing.is_none() {
        "a blank leaves alone what the target holds; [upload] clearing in target.toml says by what it is cleared".to_owned()
    } else {
        return true;
    };
    map.misplaced("blank_clears", &wrong);
    false
}

/// Whether anything may feed the field at all, and whether its clock is known.
fn check_field(map: &mut Settings<'_>, field: &Field) {
    let line = map.line();
    let name_line = map.text("field").map_or(line, |name| name.line);
    let name = &field.name;
    let refused = |says: String, hint: &'static str| {
        map.problem(name_line, says, |problem| problem.hint(hint));
    };
    if field.fixed.is_some() {
        let says = format!("{name} is fixed by the target, so nothing can feed it");
        refused(says, "take this [[map]] away");
    }
    if let FieldType::Date(DateType { zone: Some(zone), .. }) = &field.kind
        && !map.has("zone")
        && !map.has("constant")
    {
        let zone = zone.name();
        refused(
            format!("{name} wants times of {zone}, and nothing says which clock the source's were read from"),
            "write for example zone = \"Europe/Oslo\"; the same zone if nothing should be converted",
        );
    }
    if field.never_send {
        let says = format!("{name} is the target's own (never_send), so nothing can feed it");
        refused(says, "take this [[map]] away");
    }
    if field.operation.is_some() {
        let says =
            format!("{name} says what the target does with a record (operation), so nothing can feed it");
        refused(says, "take this [[map]] away");
    }
    if field.made_of.is_some() {
        let says = format!("{name} is made of other fields (made_of), so nothing else can feed it");
        refused(says, "map the fields that it is made of, and take this [[map]] away");
    }
}

/// Says which keys do not go with the field's type.
fn check_keys(map: &mut Settings<'_>, field: &Field) {
    if let FieldType::Date(DateType { zone: None, holds: ValueType::DateTime, .. }) = &field.kind
        && map.has("zone")
    {
        let says =
            format!("{} has no zone in the target's description, so its times are not converted", field.name);
        map.misplaced("zone", &says);
    }
    map.know(&["blank", "between"]);
    let word = field.kind.word();
    let takes_dates = map.has("date_form");
    for (key, types) in KEYS_OF_TYPES {
        if types.contains(&word) || takes_dates && types.contains(&"date") {
            map.know(&[key]);
        } else if map.has(key) {
            let types = types.join(", ");
            let says =
                format!("{} is of type {word}, which does not take {key} (it goes with {types})", field.name);
            map.misplaced(key, &says);
        }
    }
}

/// Says which keys do not go with what feeds the field.
fn check_feed(map: &mut Settings<'_>, feed: &Feed, filled_in_repeats: bool) {
    if !matches!(feed, Feed::Column(_)) {
        for key in ["part", "take", "fill_down", "true_where"] {
            if map.has(key) {
                map.misplaced(key, &format!("{key} goes with from, one column"));
            }
        }
    }
    if map.has("unit_in") && !matches!(feed, Feed::InUnits(..)) {
        map.misplaced("unit_in", "unit_in goes with from, one column");
    }
    if map.has("unit_in") && map.has("unit") {
        map.misplaced("unit", "unit_in takes the unit of each number from its row");
    }
    if filled_in_repeats && matches!(feed, Feed::Column(name) if name.contains(NUMBER_MARK)) {
        map.misplaced("fill_down", "fill_down does not go with columns that repeat");
    }
    if matches!(feed, Feed::Constant(_)) && map.has("blank") {
        map.misplaced("blank", "a constant is never blank");
    }
}

/// Every field is fed once; a required one must be fed.
fn check_fields(mapping: &Mapping, target: &Target, (file, complete): (&str, bool), problems: &mut Problems) {
    let mut fed: HashMap<FieldId, Line> = HashMap::new();
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
    for (place, field) in target.fields.with_ids() {
        // What the target holds may fill it.
        let may_be_held = target.holds.is_some() && !field.key;
        let is_open = field.made_of.is_none() && field.operation.is_none() && !may_be_held;
        if complete && field.required && is_open && !fed.contains_key(&place) {
            problems
                .at(file, None, format!("the field \"{}\" is required, and no [[map]] feeds it", field.name))
                .hint("give it a column (from), a value for the whole batch (constant), or several columns (join)");
        }
    }
    for field in mapping.fields_left_out.iter().filter(|field| fed.contains_key(*field)) {
        let name = target.fields.get(*field).map_or("", |field| field.name.as_str());
        problems
            .at(file, None, format!("the field \"{name}\" is mapped and left out as well"))
            .hint("take it out of fields under [leave_out], or take its [[map]] away");
    }
    let wanted = mapping.wanted();
    for column in mapping.leave_out.iter().filter(|column| wanted.contains(column)) {
        problems.at(file, None, format!("the column \"{column}\" is mapped and left out as well"));
    }
}
