//! What is to be said of one column: what its values are, what has happened to them, what is open.

use jiff::civil::Date;
use serde::Serialize;

use super::NumberEvidence;
use super::damage_seen::DamageSeen;
use super::date_evidence::{DateEvidence, DatesOf};
use super::profile::{Counted, Profile};
use dusk_description::{DateType, Field, FieldType, Target};
use dusk_evidence::{Claim, ColumnClaim, Evidence, Verdict};
use dusk_values::{DateOrder, Decimal};

/// One column.
#[derive(Debug, Clone, Serialize)]
pub struct ColumnReport {
    /// Its name.
    pub name: String,
    /// What its values are, in a word or two.
    pub holds: String,
    /// Cells with a value.
    pub filled: u64,
    /// Blank cells.
    pub blank: u64,
    /// How many different values there are.
    pub distinct: u64,
    /// True when that is an estimate (to about 2 %).
    pub distinct_estimated: bool,
    /// What a workbook says that the cells are.
    pub kinds: Vec<(&'static str, u64)>,
    /// The shapes of the values, the commonest first.
    pub shapes: Vec<Counted>,
    /// The values, the commonest first, where there are few.
    pub values: Vec<Counted>,
    /// The least and the greatest value, or length.
    pub range: String,
    /// The damage seen.
    pub damage: Vec<DamageSeen>,
    /// The evidence for how dates and numbers are to be read, where there are any.
    pub evidence: Vec<Evidence>,
    /// The field of the target that has the same name, where a target is given.
    pub field: Option<String>,
    /// How its values are drawn.
    #[serde(skip)]
    pub(super) drawn: Drawn,
}

/// How the values of a column are drawn.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Drawn {
    /// As months, read in this order.
    Days(DateOrder),
    /// As numbers between these two.
    Numbers(Decimal, Decimal),
    /// By how long they are.
    Lengths,
}

/// What a column holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Holds {
    Dates,
    Numbers,
    Others,
}

impl Holds {
    /// Few dates among other values are no column of dates.
    fn of(profile: &Profile, dates: &DateEvidence) -> Self {
        let numbers = profile.number_evidence.numbers();
        if dates.dates() > 0 && (dates.dates() + dates.day_counts) * 2 > profile.filled {
            Self::Dates
        } else if numbers * 10 >= profile.filled * 9 && profile.filled > 0 {
            Self::Numbers
        } else {
            Self::Others
        }
    }

    /// In a word or two.
    fn words(self, profile: &Profile, dates: &DateEvidence) -> String {
        let typed = profile.number_evidence.typed;
        let distinct = profile.distinct().0;
        let few = distinct <= 60 && distinct * 4 <= profile.filled;
        match self {
            _ if profile.filled == 0 => "nothing".into(),
            Self::Dates if dates.with_time * 2 > dates.dates() => "dates with times".into(),
            Self::Dates if dates.typed > 0 && dates.typed < dates.dates() => {
                format!("dates, {} text", dates.dates() - dates.typed)
            }
            Self::Dates => "dates".into(),
            Self::Numbers if typed > 0 && typed < profile.filled => {
                format!("numbers, {} text", profile.filled - typed)
            }
            Self::Numbers => "numbers".into(),
            Self::Others if few && distinct == 1 => "1 value".into(),
            Self::Others if few => format!("{distinct} values"),
            Self::Others => "text".into(),
        }
    }
}

/// What is to be said of the column `name`.
pub(super) fn report(
    name: &str,
    profile: &Profile,
    dates: &DateEvidence,
    field: Option<&Field>,
) -> ColumnReport {
    let holds = Holds::of(profile, dates);
    let is_dates = holds == Holds::Dates;
    let open = Open { column: name, field: field.map_or("…", |field| &field.name) };
    let order = dates.proven().or((dates.is_not_needed() && is_dates).then_some(DateOrder::YearMonthDay));
    let (distinct, distinct_estimated) = profile.distinct();
    ColumnReport {
        name: name.to_owned(),
        holds: holds.words(profile, dates),
        filled: profile.filled,
        blank: profile.blank,
        distinct,
        distinct_estimated,
        kinds: profile.kinds(),
        shapes: profile.shapes(),
        values: profile.values(),
        range: profile.range(is_dates, order),
        damage: profile.seen(),
        evidence: open.about(holds, profile, dates),
        field: field.map(|field| field.name.clone()),
        drawn: match (is_dates, order, profile.number_range()) {
            (true, Some(order), _) => Drawn::Days(order),
            (false, _, Some((least, most))) if least < most => Drawn::Numbers(least, most),
            _ => Drawn::Lengths,
        },
    }
}

/// A column about which something is open.
struct Open<'o> {
    column: &'o str,
    field: &'o str,
}

impl Open<'_> {
    /// What is open of a column that holds this.
    fn about(&self, holds: Holds, profile: &Profile, dates: &DateEvidence) -> Vec<Evidence> {
        match holds {
            Holds::Dates => self.about_dates(dates),
            Holds::Numbers => self.about_numbers(&profile.number_evidence),
            Holds::Others => Vec::new(),
        }
    }

    /// The order of a column's dates, and what else of them has more than one reading.
    fn about_dates(&self, dates: &DateEvidence) -> Vec<Evidence> {
        let day_counts = self.question(
            ColumnClaim::DayCounts,
            dates.day_counts,
            "values are whole numbers of five digits",
            ["days from 1900", "days from 1904"],
            "day_count = …   # \"1900\" or \"1904\"",
        );
        let mut short_years = self.question(
            ColumnClaim::ShortYears,
            dates.short_years.count,
            "values have a year of two digits",
            ["19…", "20…"],
            "years_from = …   # the first of the hundred years that they mean",
        );
        let place = DateOrder::ALL.iter().position(|order| dates.proven() == Some(*order));
        if let (Some(asked), Some(years)) = (&mut short_years, dates.short_years.shown(place)) {
            asked.suggests.push(format!("the years lie in {years}, and nothing between"));
        }
        let of = DatesOf { column: self.column, field: self.field, by_itself: true };
        let order = dates.evidence(of, &[]);
        [Some(order), day_counts, short_years].into_iter().flatten().collect()
    }

    /// The marks of a column's numbers, where they have more than one reading.
    fn about_numbers(&self, numbers: &NumberEvidence) -> Vec<Evidence> {
        let marks = numbers.evidence(self.column, self.field);
        let brackets = self.question(
            ColumnClaim::Brackets,
            numbers.brackets,
            "values are in brackets",
            ["below zero", "something else"],
            "brackets = \"negative\"",
        );
        let percents = self.question(
            ColumnClaim::Percents,
            numbers.percents,
            "values are in percent",
            ["percent", "shares of one"],
            "unit = \"%\"",
        );
        let is_open = numbers.has_undecided() || marks.needs_decision();
        [Some(marks).filter(|_| is_open), brackets, percents].into_iter().flatten().collect()
    }

    /// A question about `count` values, with the line of the mapping that answers it.
    fn question(
        &self,
        about: ColumnClaim,
        count: u64,
        counted: &str,
        between: [&str; 2],
        line: &str,
    ) -> Option<Evidence> {
        let verdict = Verdict::Undecided(between.map(str::to_owned).to_vec());
        let mut evidence = Evidence::new(Claim::Column(about, self.column.to_owned()), verdict);
        evidence.readings.push(dusk_evidence::Reading {
            supports: count,
            counted: counted.into(),
            ..dusk_evidence::Reading::default()
        });
        evidence.settle = vec![
            "[[map]]".into(),
            format!("field = \"{}\"", self.field),
            format!("from  = \"{}\"", self.column),
            line.into(),
        ];
        (count > 0).then_some(evidence)
    }
}

/// The field that has a column's name, label or one of its other names.
pub(super) fn field_named<'t>(column: &str, target: Option<&'t Target>) -> Option<&'t Field> {
    let wanted = fold_name(column);
    let same = |field: &&Field| {
        let names = [&field.name].into_iter().chain(&field.label).chain(&field.also);
        names.into_iter().any(|name| fold_name(name) == wanted)
    };
    target?.fields.iter().find(same)
}

/// The first and the last day that the field allows.
pub(super) fn limits(field: Option<&Field>, target: Option<(&Target, Date)>) -> (Option<Date>, Option<Date>) {
    match (field.map(|field| &field.kind), target) {
        (Some(FieldType::Date(DateType { not_before, not_after, .. })), Some((_, today))) => {
            (not_before.map(|bound| bound.day(today)), not_after.map(|bound| bound.day(today)))
        }
        _ => (None, None),
    }
}

/// Where the order of one column is open, the others may have proven theirs.
pub(super) fn suggest_by_other_columns(reports: &mut [ColumnReport]) {
    let is_order = |evidence: &Evidence| evidence.claim.of_column() == Some(ColumnClaim::DateOrder);
    let proven: Vec<String> = (reports.iter())
        .flat_map(|report| {
            report
                .evidence
                .iter()
                .filter(|evidence| is_order(evidence))
                .map(move |evidence| (report, evidence))
        })
        .filter_map(|(report, evidence)| match &evidence.verdict {
            Verdict::Proven(order) => Some(format!("the column \"{}\" proves {order}", report.name)),
            _ => None,
        })
        .collect();
    for evidence in reports.iter_mut().flat_map(|report| &mut report.evidence) {
        if is_order(evidence) && evidence.needs_decision() {
            evidence.suggests.extend(proven.iter().cloned());
        }
    }
}

/// A name without case, spaces and punctuation: "Apiary No." and `apiary_no` are the same.
fn fold_name(name: &str) -> String {
    name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect()
}
