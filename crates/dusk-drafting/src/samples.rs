//! What the values of an accepted file say about its fields, and what is left open at the end.

use super::MaterialSheet;
use super::claim::nowhere;
use super::claim::{Drafted, DraftedField, Place, Setting};
use super::listed::pair_of_words;
use dusk_sources::CellKind;
use dusk_values::{DatePattern, Decimal, ValueType};

/// The values below one heading.
#[derive(Debug)]
pub(super) struct Sample {
    values: Vec<String>,
    /// How many of the rows are blank there.
    blank: usize,
    dates: usize,
    from: Place,
}

/// The forms in which a sample's dates may be written.
const FORMATS: [&str; 14] = [
    "yyyy-MM-dd",
    "dd/MM/yyyy",
    "MM/dd/yyyy",
    "d/M/yyyy",
    "M/d/yyyy",
    "dd.MM.yyyy",
    "d.M.yyyy",
    "dd-MM-yyyy",
    "MM-dd-yyyy",
    "yyyy/MM/dd",
    "yyyyMMdd",
    "yyyy-MM-dd'T'HH:mm:ss",
    "yyyy-MM-dd HH:mm:ss",
    "HH:mm",
];

impl Sample {
    pub(super) fn of(sheet: &MaterialSheet, header: usize, column: usize, from: &Place) -> Self {
        let rows = header + 1..sheet.cells.rows.len();
        let filled = rows.filter(|row| !sheet.cells.cell(*row, column).is_empty());
        let all = sheet.cells.rows.iter().skip(header + 1).filter(|cells| !cells.is_empty()).count();
        let (mut values, mut dates) = (Vec::new(), 0);
        for row in filled {
            dates += usize::from(sheet.cells.kind(row, column) == CellKind::Date);
            values.push(sheet.cells.cell(row, column).to_owned());
        }
        Self { blank: all.saturating_sub(values.len()), values, dates, from: from.clone() }
    }

    fn all(&self, wanted: impl Fn(&str) -> bool) -> bool {
        !self.values.is_empty() && self.values.iter().all(|value| wanted(value))
    }

    fn distinct(&self) -> Vec<&str> {
        let mut distinct: Vec<&str> = self.values.iter().map(String::as_str).collect();
        distinct.sort_unstable();
        distinct.dedup();
        distinct
    }

    /// The words for true and false, where the values are nothing but such a pair.
    fn pair(&self) -> Option<(String, String)> {
        let distinct = self.distinct();
        let [first, second] = *distinct.as_slice() else { return None };
        pair_of_words(&format!("{first}/{second}"))
    }

    /// The forms of dates that read every value.
    fn formats(&self, holds: Option<ValueType>) -> Vec<(&'static str, ValueType)> {
        let reads = |format: &&'static str| {
            let pattern = DatePattern::parse(format).ok()?;
            let kind = match (pattern.has_date(), pattern.has_time()) {
                (true, true) => ValueType::DateTime,
                (true, false) => ValueType::Date,
                _ => ValueType::Time,
            };
            let wanted = holds.is_none_or(|holds| holds == kind);
            (wanted && self.all(|value| reads(&pattern, value))).then_some((*format, kind))
        };
        let mut found: Vec<_> = FORMATS.iter().filter_map(reads).collect();
        // "dd" and "d" both read 13/11/2026; the stricter one stands first.
        if let [first, second, ..] = *found.as_slice()
            && first.0.replace("dd", "d").replace("MM", "M") == second.0
        {
            found.retain(|(format, _)| *format != second.0);
        }
        found
    }

    fn digits(&self) -> Option<u64> {
        let width = self.values.first()?.len();
        let alike = self.all(|value| value.len() == width && value.bytes().all(|byte| byte.is_ascii_digit()));
        let zeros = self.values.iter().any(|value| value.starts_with('0'));
        (alike && zeros && width > 1).then_some(width as u64)
    }

    fn decimals(&self) -> Option<u64> {
        let all_numbers = self.values.iter().all(|value| Decimal::parse(value).is_some());
        // As they are written: 12.50 has two.
        let after = |value: &String| value.split_once('.').map_or(0, |(_, after)| after.len() as u64);
        self.values.iter().map(after).max().filter(|_| all_numbers)
    }
}

/// Holds a field against an example that its owner shows: it may say how days are written, and may contradict the rest.
pub(super) fn hold_example(
    field: &mut DraftedField,
    (example, from): &(String, Place),
    drafted: &mut Drafted,
) {
    let example = example.trim_matches(['"', '“', '”', '„', '«', '»']).trim();
    let sample = Sample { values: vec![example.to_owned()], blank: 0, dates: 0, from: from.clone() };
    // A number may be shown with its decimal comma, and several codes as they are joined.
    match field.claims.text("type") {
        Some("date" | "datetime" | "time" | "code") => weigh(field, &sample, false, drafted),
        Some("text") if field.claims.get("max_length").is_some() || field.claims.get("digits").is_some() => {
            weigh(field, &sample, false, drafted);
        }
        Some("integer" | "decimal") => {
            let plain = Sample { values: vec![example.replacen(',', ".", 1)], ..sample };
            weigh(field, &plain, false, drafted);
        }
        _ => {}
    }
}

/// Whether a value is a day of the calendar or a time when it is read by this pattern.
fn reads(pattern: &DatePattern, value: &str) -> bool {
    let within = |part: Option<i8>, last: i8| part.is_none_or(|part| (1..=last).contains(&part));
    pattern.read(value).is_some_and(|moment| within(moment.month, 12) && within(moment.day, 31))
}

/// Takes from the values what the dictionary leaves open, and asks where they contradict it.
/// `in_no_dictionary` says that only the template knows the field, although there is a dictionary.
pub(super) fn weigh(
    field: &mut DraftedField,
    sample: &Sample,
    in_no_dictionary: bool,
    drafted: &mut Drafted,
) {
    if sample.values.is_empty() {
        if in_no_dictionary {
            let says = "is a heading of the template, and in no dictionary; its type is not said";
            drafted.ask(field.name.clone(), says, &sample.from);
        }
        return;
    }
    if field.claims.get("required").is_some() && sample.blank > 0 {
        let rows = sample.blank + sample.values.len();
        let says = format!("is required, and {} of {rows} accepted rows leave it blank", sample.blank);
        drafted.contradict(field.name.clone(), says, &sample.from);
    }
    let Some(kind) = field.claims.text("type").map(str::to_owned) else {
        guess(field, sample);
        let word = field.claims.text("type").unwrap_or("text").to_owned();
        let new = if in_no_dictionary { "is a heading of the template, and in no dictionary; " } else { "" };
        let count = values(sample.values.len());
        let says = format!("{new}its type is likely {word}, judged by {count}; it was written");
        return drafted.ask(field.name.clone(), says, &sample.from);
    };
    match kind.as_str() {
        "text" => weigh_text(field, sample, drafted),
        "integer" | "decimal" => weigh_numbers(field, sample, drafted),
        "date" => weigh_dates(field, sample, ValueType::Date, drafted),
        "datetime" => weigh_dates(field, sample, ValueType::DateTime, drafted),
        "time" => weigh_dates(field, sample, ValueType::Time, drafted),
        "boolean" => {
            if let (None, Some((yes, no))) = (field.claims.get("format"), sample.pair()) {
                field.claims.set("format", Setting::Text(format!("{yes}/{no}")), &sample.from);
            }
        }
        "code" => weigh_codes(field, sample, drafted),
        _ => {}
    }
}

impl Sample {
    /// Asks about a field whose dictionary some of the values contradict.
    fn contradict(&self, name: &str, what: impl Fn(&&String) -> bool, says: &str, drafted: &mut Drafted) {
        let wrong: Vec<&String> = self.values.iter().filter(what).collect();
        if let Some(first) = wrong.first() {
            let count = values(self.values.len());
            let says = format!("{says} in {} of {count}, for example \"{first}\"", wrong.len());
            drafted.contradict(name, says, &self.from);
        }
    }
}

fn weigh_text(field: &mut DraftedField, sample: &Sample, drafted: &mut Drafted) {
    if let Some(Setting::Whole(most)) = field.claims.get("max_length") {
        let longer = |value: &&String| value.chars().count() as u64 > *most;
        sample.contradict(&field.name, longer, &format!("more than {most} characters"), drafted);
    }
    if let Some(Setting::Whole(digits)) = field.claims.get("digits") {
        let wrong = |value: &&String| {
            value.len() as u64 != *digits || !value.bytes().all(|byte| byte.is_ascii_digit())
        };
        sample.contradict(&field.name, wrong, &format!("other than {digits} digits"), drafted);
    } else if let Some(digits) = sample.digits().filter(|_| sample.values.len() > 1) {
        field.claims.set("digits", Setting::Whole(digits), &sample.from);
        let count = sample.values.len();
        let says = format!(
            "all {count} values have {digits} digits, some with leading zeros, so that digits was written"
        );
        drafted.ask(field.name.clone(), says, &sample.from);
    }
}

fn weigh_numbers(field: &DraftedField, sample: &Sample, drafted: &mut Drafted) {
    let no_number = |value: &&String| Decimal::parse(value).is_none();
    sample.contradict(&field.name, no_number, "no plain number", drafted);
    let most = match field.claims.get("decimals") {
        Some(Setting::Whole(decimals)) => *decimals,
        _ => 0,
    };
    let more =
        |value: &&String| Decimal::parse(value).is_some_and(|number| u64::from(number.decimals()) > most);
    let digits = if most == 1 { "1 digit".to_owned() } else { format!("{most} digits") };
    sample.contradict(&field.name, more, &format!("more than {digits} after the point"), drafted);
}

fn weigh_dates(field: &mut DraftedField, sample: &Sample, holds: ValueType, drafted: &mut Drafted) {
    if let Some(format) = field.claims.text("format").map(str::to_owned) {
        if let (Ok(pattern), 0) = (DatePattern::parse(&format), sample.dates) {
            let other = |value: &&String| pattern.read(value).is_none();
            sample.contradict(&field.name, other, &format!("another form than {format}"), drafted);
        }
        return;
    }
    match sample.formats(Some(holds)).as_slice() {
        [(format, _)] => field.claims.set("format", Setting::Text((*format).into()), &sample.from),
        [] => {}
        several => {
            let formats: Vec<&str> = several.iter().map(|(format, _)| *format).collect();
            let (count, formats) = (sample.values.len(), formats.join(" and as "));
            let says = format!("its {count} values can be read as {formats}; none was written");
            drafted.ask(field.name.clone(), says, &sample.from);
        }
    }
}

fn weigh_codes(field: &DraftedField, sample: &Sample, drafted: &mut Drafted) {
    let file = field.claims.text("codes").unwrap_or_default();
    let list = drafted.lists.iter().find(|list| file == format!("codes/{}.csv", list.name)).cloned();
    if let Some(list) = list {
        let unknown = |value: &&String| !list.codes.iter().any(|code| code.code == **value);
        sample.contradict(&field.name, unknown, &format!("no code of {}", list.title), drafted);
    }
}

/// "1 value", "2 values".
fn values(count: usize) -> String {
    format!("{count} value{}", if count == 1 { "" } else { "s" })
}

/// A type for values of which nobody says one.
fn guess(field: &mut DraftedField, sample: &Sample) {
    let mut set = |key, value| field.claims.set(key, value, &sample.from);
    let text = |word: &str| Setting::Text(word.to_owned());
    if let Some((yes, no)) = sample.pair() {
        set("type", text("boolean"));
        return set("format", Setting::Text(format!("{yes}/{no}")));
    }
    if let [(format, holds)] = *sample.formats(None).as_slice() {
        set("type", text(holds.word()));
        if holds == ValueType::DateTime {
            set("type", text("datetime"));
        }
        return set("format", text(format));
    }
    if let Some(digits) = sample.digits() {
        set("type", text("text"));
        return set("digits", Setting::Whole(digits));
    }
    match sample.decimals() {
        Some(0) => set("type", text("integer")),
        Some(decimals) => {
            set("type", text("decimal"));
            set("decimals", Setting::Whole(decimals));
        }
        None => set("type", text("text")),
    }
}

/// What nothing has said is written as it usually is, and asked.
pub(super) fn settle_open(drafted: &mut Drafted) {
    let mut questions = Vec::new();
    for field in &mut drafted.fields {
        let from = field.from.clone();
        let mut open = |field: &mut DraftedField, key, value: &str, says: &str| {
            if field.claims.get(key).is_none() {
                field.claims.set(key, Setting::Text(value.into()), &nowhere());
                questions.push((
                    field.name.clone(),
                    format!("{says}; {key} = \"{value}\" was written"),
                    from.clone(),
                ));
            }
        };
        open(field, "type", "text", "its type is not said");
        match field.claims.text("type") {
            Some("date") => open(field, "format", "yyyy-MM-dd", "how its dates are written is not said"),
            Some("datetime") => open(
                field,
                "format",
                "yyyy-MM-dd'T'HH:mm:ss",
                "how its dates and times are written is not said",
            ),
            Some("time") => open(field, "format", "HH:mm", "how its times are written is not said"),
            Some("boolean") => {
                open(field, "format", "true/false", "its words for true and false are not said")
            }
            Some("codes") if field.claims.get("column_per_code").is_none() => {
                open(field, "separator", "|", "what parts several codes is not said");
            }
            _ => {}
        }
    }
    for (about, says, from) in questions {
        drafted.ask(about, says, &from);
    }
    settle_layout(drafted);
    ask_about_unused_lists(drafted);
}

/// Without a template the upload is laid out as it usually is.
fn settle_layout(drafted: &mut Drafted) {
    if drafted.upload.get("format").is_some() || drafted.fields.is_empty() {
        return;
    }
    if super::tables::take_upload(drafted) {
        return;
    }
    let text = |text: &str| Setting::Text(text.to_owned());
    // Where numbers have a comma before their decimals, the columns are separated by something else.
    let has_comma = drafted.upload.get("decimal_mark").is_some_and(|mark| mark.toml() == "\",\"");
    let usual = [
        ("header", Setting::Flag(true)),
        ("format", text("delimited")),
        ("encoding", text("utf-8")),
        ("delimiter", text(if has_comma { ";" } else { "," })),
    ];
    let open: Vec<_> = usual.into_iter().filter(|(key, _)| drafted.upload.get(key).is_none()).collect();
    let says = format!(
        "no template is among the materials; {} was written, as is usual",
        open.iter().map(|(key, value)| format!("{key} = {}", value.toml())).collect::<Vec<_>>().join(", ")
    );
    open.into_iter().for_each(|(key, value)| drafted.upload.set(key, value, &nowhere()));
    drafted.ask("[upload]", says, &nowhere());
}

fn ask_about_unused_lists(drafted: &mut Drafted) {
    let used = |name: &str| {
        drafted.fields.iter().any(|field| field.claims.text("codes") == Some(&format!("codes/{name}.csv")))
    };
    let unused = drafted.lists.iter().filter(|list| !used(&list.name));
    let unused: Vec<(String, Place)> = unused.map(|list| (list.title.clone(), list.from.clone())).collect();
    let says = "is a code list that no field takes; it was written for you to name it in a field (codes = …)";
    for (title, from) in unused {
        drafted.point_out(title, says, &from);
    }
}
