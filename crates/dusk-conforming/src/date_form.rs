//! A date in a form that is not a date: its year for a number, its month for a code or a text (`date_form`).

use jiff::civil::{Date, DateTime};

use super::Trail;
use super::date::{self, DateGiven};
use super::outcome::{Cell, Readings};
use dusk_evidence::{DateFact, Fact, Fault};
use dusk_mapping::DateReading;
use dusk_values::{DateOrder, DatePattern, Value, ValueType, WrittenDate};

/// Reads a date as a field of dates would, and writes what `form` has of it.
///
/// # Errors
/// As for a field of dates; dates that leave several days open are read where all of them come to the same here.
pub(super) fn conform(
    text: &str,
    form: &DatePattern,
    (readings, cell): (&Readings<'_>, Cell),
    trail: &mut Trail,
) -> Result<String, Fault> {
    let given = DateGiven {
        reading: &readings.date,
        proven: readings.date_proven,
        open: readings.date_open,
        cell,
        zone: None,
        signs: Default::default(),
    };
    let holds = if form.has_time() { ValueType::DateTime } else { ValueType::Date };
    let mut out = String::new();
    match date::conform(text, &given, holds, (form, &[]), trail, &mut out) {
        Ok(Value::Blank) => Ok(String::new()),
        Ok(_) => Ok(out),
        Err(fault) => match the_same_part(text, form, &readings.date, &fault) {
            Some(same) => {
                trail.took(&same, date::alike_in_every_order);
                Ok(same)
            }
            None => Err(fault),
        },
    }
}

/// What all days that a date may be have in common, where that is all that the form asks for.
fn the_same_part(text: &str, form: &DatePattern, reading: &DateReading, fault: &Fault) -> Option<String> {
    let is_undecided = matches!(&*fault.fact, Fact::Date(DateFact::Undecided(_)));
    if !is_undecided || form.has_time() {
        return None;
    }
    let (written, _) = WrittenDate::read(text)?;
    let part = |day: Date| {
        let mut out = String::new();
        form.write(DateTime::from(day), &mut out);
        out
    };
    let mut parts = DateOrder::WORDS.iter().filter_map(|(_, order)| written.day(*order, reading.years_from));
    let first = part(parts.next()?);
    parts.all(|day| part(day) == first).then_some(first)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str, form: &str, order: Option<DateOrder>) -> Result<String, String> {
        let date = DateReading { order, years_from: Some(1970), drop_time: true, ..DateReading::default() };
        let readings = Readings { date, ..Readings::default() };
        let form = DatePattern::parse(form).unwrap();
        conform(text, &form, (&readings, Cell::default()), &mut Trail::default())
            .map_err(|fault| fault.kind().code().to_owned())
    }

    #[test]
    fn a_part_is_read_from_every_form_of_a_date() {
        let day_first = Some(DateOrder::DayMonthYear);
        for (text, form, part) in [
            ("03/04/2026", "yyyy", "2026"),
            ("03/04/2026", "MMMM", "April"),
            ("3. huhtikuuta 2026", "MMM", "Apr"),
            ("2026-04-03 17:20", "yyyy-MM", "2026-04"),
            ("03/04/69", "yyyy", "2069"),
            ("03/04/2026", "d", "3"),
            ("03/04/2026 05:06", "HH:mm", "05:06"),
        ] {
            assert_eq!(read(text, form, day_first).as_deref(), Ok(part), "{text} as {form}");
        }
        assert_eq!(read("spring 2026", "yyyy", day_first), Err("not-a-date".into()));
        assert_eq!(read("31/02/2026", "yyyy", day_first), Err("impossible-date".into()));
        assert_eq!(read("03/04/2026", "HH:mm", day_first), Err("not-a-date".into()), "there is no time");
    }

    #[test]
    fn what_every_order_makes_the_same_needs_none() {
        assert_eq!(read("03/04/2026", "yyyy", None).as_deref(), Ok("2026"));
        assert_eq!(read("03/04/2026", "MM", None), Err("date-undecided".into()));
        assert_eq!(
            read("03/04/05", "yyyy", None),
            Err("date-undecided".into()),
            "the year may be any of three"
        );
        assert_eq!(read("05/05/2026", "MM", None).as_deref(), Ok("05"));
        assert_eq!(read("32/13/2026", "yyyy", None), Err("impossible-date".into()));
    }
}
