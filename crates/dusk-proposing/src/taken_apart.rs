//! Columns whose cells hold several parts, each of them for a field of its own: a code and its name, a row and a
//! place, family name and given name.

use super::assign::{Assigned, margins};
use super::contents::{Contents, is_clock, is_date_text};
use super::made::{How, Made};
use super::names::Name;
use super::pair::PLAIN_NAME;
use super::rows::Rows;
use super::sample::Sample;
use super::trade_words::TradeWords;
use super::weigh::Weighed;
use dusk_description::FieldType;
use dusk_evidence::{ColumnId, FieldId};
use dusk_mapping::Part;
use dusk_values::Decimal;

/// How many of a hundred cells must have a form.
const NEARLY_ALL: usize = 95;

/// From here on contents speak for a part.
const SPEAKS: i32 = 120;

/// What contents come to of which no value is in the list.
const NONE_IN_LIST: i32 = -60;

/// What may stand between two parts.
const BETWEEN: [&str; 12] = [", ", " - ", " – ", " — ", " / ", "/", "-", ";", "|", ":", "_", "."];

/// How a cell may be put together, and the names of its parts.
struct Form {
    written: String,
    parts: Vec<String>,
    between: &'static str,
}

/// What is proposed for the parts of one column.
struct Apart {
    made: Vec<Made>,
    worth: u32,
}

/// The columns that are to be taken apart.
pub(super) fn taken_apart(weighed: &Weighed<'_>, rows: &Rows, words: &TradeWords) -> Vec<Made> {
    let mut all: Vec<Apart> = Vec::new();
    for column in weighed.columns().filter(|column| weighed.is_free(*column)) {
        let cells: Vec<&str> = rows.filled(column).collect();
        // The point of a number parts nothing, nor do the marks of dates and clocks.
        let is_plain = |cell: &&&str| {
            Decimal::parse(&cell.replace(',', ".")).is_some() || is_date_text(cell) || is_clock(cell)
        };
        if cells.iter().filter(is_plain).count() * 2 > cells.len() {
            continue;
        }
        let ways =
            forms(&cells).into_iter().filter_map(|form| apart(weighed, (column, &cells), &form, words));
        all.extend(ways.max_by_key(|apart| apart.worth));
    }
    all.sort_by_key(|apart| std::cmp::Reverse(apart.worth));
    let mut made: Vec<Made> = Vec::new();
    for apart in all {
        if !apart.made.iter().any(|one| made.iter().any(|other| other.field == one.field)) {
            made.extend(apart.made);
        }
    }
    made
}

/// The forms that nearly all cells have.
fn forms(cells: &[&str]) -> Vec<Form> {
    if cells.len() < 3 {
        return Vec::new();
    }
    let has = |fits: &dyn Fn(&str) -> bool| {
        cells.iter().filter(|cell| fits(cell)).count() * 100 >= cells.len() * NEARLY_ALL
    };
    let mut forms = Vec::new();
    for between in BETWEEN {
        let Some(count) = cells.first().map(|cell| cell.matches(between).count()) else { continue };
        if (1..=3).contains(&count) && has(&|cell| cell.matches(between).count() == count) {
            let parts: Vec<String> = (1..=count + 1).map(|number| format!("part{number}")).collect();
            let written = parts.iter().map(|part| format!("{{{part}}}")).collect::<Vec<_>>().join(between);
            forms.push(Form { written, parts, between });
        }
    }
    let two = |written: &str| Form {
        written: written.to_owned(),
        parts: vec!["part1".into(), "part2".into()],
        between: " ",
    };
    if has(&|cell| cell.contains(' ')) {
        forms.push(two("{part1:word} {part2}"));
        forms.push(two("{part1} {part2:word}"));
    }
    forms
}

/// The fields for the parts of a column, where each part is one's.
fn apart(
    weighed: &Weighed<'_>,
    (column, cells): (ColumnId, &[&str]),
    form: &Form,
    words: &TradeWords,
) -> Option<Apart> {
    let samples = samples(cells, form)?;
    let heading = weighed.heading(column);
    // "Make/No" names both.
    let pieces: Vec<&str> = heading.split(['/', '-', '+', '&', ',']).collect();
    let names: Vec<Option<Name>> = (0..form.parts.len())
        .map(|place| {
            (pieces.len() == form.parts.len())
                .then(|| pieces.get(place).map(|piece| Name::of(piece, words)))?
        })
        .collect();
    let fields: Vec<FieldId> = weighed.open_fields().collect();
    let fits: Vec<Vec<Fit>> = fields
        .iter()
        .map(|field| {
            let parts = samples.iter().zip(&names).enumerate();
            parts
                .map(|(place, (sample, name))| {
                    let place = (place, form.parts.len(), form.between);
                    fit(weighed, (*field, column), (sample, name.as_ref()), place).unwrap_or_default()
                })
                .collect()
        })
        .collect();
    let worth = |field: usize, part: usize| {
        fits.get(field).and_then(|fits| fits.get(part)).map_or(0, |fit| fit.worth)
    };
    let best = Assigned::of(fields.len(), form.parts.len(), &worth).columns(&worth);
    let margins = margins(&best, form.parts.len(), &worth);
    let mut chosen: Vec<(FieldId, usize, Fit, u32)> = Vec::new();
    for (field, part) in best.into_iter().enumerate() {
        let Some((part, id)) = part.zip(fields.get(field)) else { continue };
        let fit = fits.get(field).and_then(|fits| fits.get(part)).copied()?;
        chosen.push((*id, part, fit, margins.get(field).copied().flatten()?));
    }
    let names_all = names.iter().all(Option::is_some) && chosen.iter().all(|(_, _, fit, _)| fit.is_named);
    let is_told = names_all || chosen.iter().any(|(_, _, fit, _)| fit.speaks);
    if chosen.len() < 2 || chosen.len() < form.parts.len().min(3) || !is_told {
        return None;
    }
    let is_sure = chosen.iter().all(|(_, _, fit, _)| !fit.is_none_in_list)
        && chosen.iter().all(|(_, _, fit, margin)| (fit.speaks || fit.is_named) && *margin >= 90)
        && chosen.iter().any(|(_, _, fit, _)| fit.is_named);
    // Each part is called after its field.
    let mut written = form.written.clone();
    let mut parts = form.parts.clone();
    for (field, part, ..) in &chosen {
        let Some((known, field)) = parts.get_mut(*part).zip(weighed.target_field(*field)) else { continue };
        if !field.name.contains(['{', '}', ':']) {
            let name = |behind: char| (format!("{{{known}{behind}"), format!("{{{}{behind}", field.name));
            for (old, new) in [name('}'), name(':')] {
                written = written.replace(&old, &new);
            }
            known.clone_from(&field.name);
        }
    }
    let total = chosen.iter().map(|(_, _, fit, _)| fit.worth).sum();
    let made = chosen.into_iter().filter_map(|(field, part, fit, _)| {
        let take = parts.get(part)?.clone();
        let says = if fit.speaks { "what it holds is what the field takes" } else { "its name says so" };
        Some(Made {
            field,
            columns: vec![column],
            how: How::Part { form: written.clone(), take },
            is_sure,
            reasons: vec![format!("each cell holds several parts, and this is one of them: {says}")],
        })
    });
    Some(Apart { made: made.collect(), worth: total })
}

/// What the parts of the cells are, where nearly all can be taken apart in one way.
fn samples(cells: &[&str], form: &Form) -> Option<Vec<Sample>> {
    let parse = |part: &String| Part::parse(&form.written, part).ok();
    let parts: Vec<Part> = form.parts.iter().map(parse).collect::<Option<_>>()?;
    let mut samples = vec![Sample::default(); parts.len()];
    let mut whole = 0;
    for cell in cells {
        let taken: Option<Vec<&str>> = parts.iter().map(|part| part.take(cell).ok()).collect();
        let Some(taken) = taken else { continue };
        whole += 1;
        samples.iter_mut().zip(taken).for_each(|(sample, part)| sample.add(part));
    }
    (whole * 100 >= cells.len() * NEARLY_ALL).then_some(samples)
}

/// How well a part is what a field takes.
#[derive(Debug, Clone, Copy, Default)]
struct Fit {
    worth: u32,
    /// Its contents speak for the field.
    speaks: bool,
    /// The heading names the field.
    is_named: bool,
    /// None of its values is in the field's list.
    is_none_in_list: bool,
}

fn fit(
    weighed: &Weighed<'_>,
    (field, column): (FieldId, ColumnId),
    (sample, name): (&Sample, Option<&Name>),
    (place, of, between): (usize, usize, &str),
) -> Option<Fit> {
    let target_field = weighed.target_field(field)?;
    let whole = weighed.pair(field, column)?;
    let contents = Contents::judge(sample, target_field);
    let hinted = weighed.hints(field)?.judge(target_field, sample, None);
    let points = contents.points + hinted.points;
    // Another column may hold such values as they stand.
    let others = weighed.columns().filter(|other| *other != column);
    let is_elsewhere = others
        .filter_map(|other| weighed.pair(field, other))
        .any(|pair| pair.contents.are_telling() && pair.contents.points >= contents.points);
    // "Make/No": a part that has a name of its own may hold words that are no codes yet.
    let is_called = name.is_some_and(|name| weighed.name_of(name, field) >= PLAIN_NAME - 40);
    // What fits as a whole is not taken apart.
    if is_elsewhere
        || sample.only_value().is_some()
        || weighed.has_plain(field, column)
        || contents.contradict()
        || points < if is_called { NONE_IN_LIST } else { 0 }
        || whole.contents.points >= 250
    {
        return None;
    }
    let by_name = name.map_or(whole.name, |name| weighed.name_of(name, field).max(whole.name / 2));
    // "Green tea" is no Tea of the family Green.
    let may_be_name = between == ", " || whole.name >= 300;
    let by_order = if may_be_name { by_order(weighed, field, (place, of, between)) } else { 0 };
    let is_text = matches!(target_field.kind, FieldType::Text(_));
    let was_too_long = whole.contents.points <= -200 && contents.points > whole.contents.points;
    let telling = match (is_text && contents.points == 0, was_too_long) {
        (true, true) => by_order.max(SPEAKS),
        (true, false) => by_order,
        (false, _) => points,
    };
    let is_named = points >= 0 && (by_name >= 400 || by_order > 0) || is_called;
    let speaks = telling >= SPEAKS;
    let has_all_digits = match &target_field.kind {
        FieldType::Text(text) => {
            text.digits.is_none_or(|digits| sample.share(|_, part| part.len() == digits).percent() >= 90)
        }
        _ => true,
    };
    let is_told = contents.points >= SPEAKS && whole.contents.contradict() && has_all_digits;
    if !is_named && !is_told && contents.points < 250 && !hinted.fills_limits {
        return None;
    }
    let worth = i32::try_from(by_name).unwrap_or(0) + points + by_order;
    Some(Fit { worth: u32::try_from(worth).unwrap_or(0), speaks, is_named, is_none_in_list: points < 0 })
}

/// Whether a part stands where that part of a name stands: "Family, Given" and "Given Family".
fn by_order(weighed: &Weighed<'_>, field: FieldId, (place, of, between): (usize, usize, &str)) -> i32 {
    let is = |words: &[&str]| weighed.names_of(field).iter().any(|name| name.means(words));
    let (family, given) = (is(&["surname"]), is(&["forename"]));
    let stands = match (of, between, place) {
        (2, ", ", 0) | (2, " ", 1) => family && !given,
        (2, ", ", 1) | (2, " ", 0) => given && !family,
        _ => false,
    };
    match (stands, between) {
        (true, ", ") => 200,
        (true, _) => 60,
        _ => 0,
    }
}
