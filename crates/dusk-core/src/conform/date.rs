//! Dates and times: read in a proven or named order, written as the target wants them.

use jiff::civil::{Date, DateTime, Time};

use super::{Step, Trail};
use crate::finding::{Fault, Kind};
use crate::inspect::{DateOrder, WrittenDate, WrittenTime, shown};
use crate::mapping::DateReading;
use crate::value::{DatePattern, Moment, Value, ValueType};

/// Reads a date or a time and writes it in the target's form.
pub(super) fn conform(
    text: &str,
    reading: &DateReading,
    proven: bool,
    holds: ValueType,
    format: &DatePattern,
    trail: &mut Trail,
    out: &mut String,
) -> Result<Value, Fault> {
    let (date, time) = match holds {
        ValueType::Time => (Date::default(), read_time(text, reading)?),
        _ => read(text, reading, holds)?,
    };
    let moment = DateTime::from_parts(date, time);
    format.write(moment, out);
    let value = match holds {
        ValueType::Time => Value::Time(time),
        ValueType::DateTime => Value::DateTime(moment),
        _ => Value::Date(date),
    };
    if out != text {
        trail.took(Step::Date, out, || evidence(reading, proven, holds, date));
    }
    Ok(value)
}

fn evidence(reading: &DateReading, proven: bool, holds: ValueType, date: Date) -> String {
    let how = match (&reading.pattern, reading.order) {
        (Some(pattern), _) => format!("read as {}, as the mapping says", pattern.text()),
        (None, Some(order)) if proven => format!("read as {}, as the column proves", order.word()),
        (None, Some(order)) => format!("read as {}, as the mapping says", order.word()),
        (None, None) => "its form leaves one reading".into(),
    };
    match holds {
        ValueType::Time => how,
        _ => format!("{how}: {}", shown(date)),
    }
}

fn not_a_date(holds: ValueType) -> Fault {
    let example = match holds {
        ValueType::Time => "14:30",
        ValueType::DateTime => "2026-03-04 14:30",
        _ => "2026-03-04 or 4 Mar 2026",
    };
    Fault::new(
        Kind::NotADate,
        format!("is not a {} that can be read with certainty", holds.word()),
        format!("for example {example}"),
    )
}

fn impossible(says: impl Into<String>) -> Fault {
    Fault::new(Kind::ImpossibleDate, says, "a day that is in the calendar; ask whoever wrote the record")
}

fn no_such_time() -> Fault {
    Fault::new(Kind::ImpossibleDate, "names a time that no clock shows", "a time from 00:00 to 23:59")
}

fn read_time(text: &str, reading: &DateReading) -> Result<Time, Fault> {
    if let Some(pattern) = &reading.pattern {
        let moment = pattern.read(text).ok_or_else(|| not_a_date(ValueType::Time))?;
        return time_of(moment).ok_or_else(no_such_time);
    }
    match WrittenTime::read(text) {
        Some(WrittenTime::At(time)) => Ok(time),
        Some(_) => Err(no_such_time()),
        None => Err(not_a_date(ValueType::Time)),
    }
}

fn time_of(moment: Moment) -> Option<Time> {
    Time::new(
        moment.hour.unwrap_or(0),
        moment.minute.unwrap_or(0),
        moment.second.unwrap_or(0),
        moment.nanosecond,
    )
    .ok()
}

fn read(text: &str, reading: &DateReading, holds: ValueType) -> Result<(Date, Time), Fault> {
    let (date, time) = match &reading.pattern {
        Some(pattern) => read_pattern(text, pattern, reading)?,
        None => read_written(text, reading, holds)?,
    };
    match (holds, time) {
        (ValueType::DateTime, None) => Err(Fault::new(
            Kind::NotADate,
            "has no time of day",
            "a day and a time, for example 2026-03-04 14:30",
        )),
        (ValueType::DateTime, Some(time)) => Ok((date, time)),
        // Midnight is how a day is written where a time has to be given; nothing is lost with it.
        (_, Some(time)) if time != Time::midnight() && !reading.drop_time => Err(Fault::new(
            Kind::TimeOfDay,
            "has a time of day, and the target takes the day only",
            "if the time may be lost, write drop_time = true for this field in the mapping",
        )),
        _ => Ok((date, Time::midnight())),
    }
}

fn century_undecided() -> Fault {
    Fault::new(
        Kind::CenturyUndecided,
        "has a year of two digits, and nothing says which century is meant",
        "write for example years_from = 1970 for this field in the mapping (two digits then mean 1970 to 2069)",
    )
}

fn read_pattern(
    text: &str,
    pattern: &DatePattern,
    reading: &DateReading,
) -> Result<(Date, Option<Time>), Fault> {
    let form = || {
        Fault::new(
            Kind::NotADate,
            format!("is not written as {}", pattern.text()),
            format!("a date written as {}, as the mapping says (pattern)", pattern.text()),
        )
    };
    let moment = pattern.read(text).ok_or_else(form)?;
    let (Some(year), Some(month), Some(day)) = (moment.year, moment.month, moment.day) else {
        return Err(form());
    };
    let year = match (moment.two_digits, reading.years_from) {
        (false, _) => year,
        (true, None) => return Err(century_undecided()),
        (true, Some(from)) => {
            let year = from - from % 100 + year;
            if year < from { year + 100 } else { year }
        }
    };
    let date = Date::new(year, month, day).map_err(|_| impossible("is no day of the calendar"))?;
    let time = match pattern.has_time() {
        true => Some(time_of(moment).ok_or_else(no_such_time)?),
        false => None,
    };
    Ok((date, time))
}

fn read_written(text: &str, reading: &DateReading, holds: ValueType) -> Result<(Date, Option<Time>), Fault> {
    let (written, time) = WrittenDate::read(text).ok_or_else(|| not_a_date(holds))?;
    if written.has_short_year() && reading.years_from.is_none() {
        return Err(century_undecided());
    }
    let time = match time {
        WrittenTime::None => None,
        WrittenTime::At(time) => Some(time),
        WrittenTime::Impossible => return Err(no_such_time()),
    };
    // Where no order is named or proven, every value has a form that needs none, or reads alike
    // under every order that allows it.
    let order = match reading.order {
        Some(order) => order,
        None if written.is_self_evident() => DateOrder::YearMonthDay,
        None => {
            let days = DateOrder::ALL.map(|order| written.day(order, reading.years_from));
            let mut days = days.iter().flatten();
            let first = days.next().copied();
            return match first {
                Some(day) if days.all(|other| *other == day) => Ok((day, time)),
                Some(_) => Err(not_a_date(holds)),
                None => Err(impossible("is no day of the calendar under any order of day, month and year")),
            };
        }
    };
    match written.day(order, reading.years_from) {
        Some(day) => Ok((day, time)),
        None if written.is_self_evident() => Err(impossible("is no day of the calendar")),
        None => {
            let other = DateOrder::ALL
                .into_iter()
                .find_map(|other| Some((other, written.day(other, reading.years_from)?)));
            let says = format!("is no day of the calendar when read as {}", order.word());
            Err(match other {
                Some((other, day)) => {
                    impossible(format!("{says} ({} would make it {})", other.word(), shown(day)))
                }
                None => impossible(says),
            })
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str, order: Option<DateOrder>, years_from: Option<i16>, holds: ValueType) -> String {
        let format = DatePattern::parse("yyyy-MM-dd HH:mm").unwrap();
        let reading = DateReading { order, years_from, ..DateReading::default() };
        let mut out = String::new();
        match conform(text, &reading, false, holds, &format, &mut Trail::default(), &mut out) {
            Ok(_) => out.trim_end_matches(" 00:00").to_owned(),
            Err(fault) => fault.kind.code().to_owned(),
        }
    }

    #[test]
    fn everyday_forms_are_read_in_the_given_order() {
        let day = |text| read(text, Some(DateOrder::DayMonthYear), None, ValueType::Date);
        assert_eq!(day("3/4/2026"), "2026-04-03");
        assert_eq!(day("03.04.2026"), "2026-04-03");
        assert_eq!(day("3. 4. 2026"), "2026-04-03");
        assert_eq!(day("2026-04-03"), "2026-04-03");
        assert_eq!(day("3rd April, 2026"), "2026-04-03");
        assert_eq!(day("Apr-3-2026"), "2026-04-03");
        assert_eq!(day("3/4/2026 0:00:00"), "2026-04-03");
        assert_eq!(day("3/4/2026 14:00"), "time-of-day");
        assert_eq!(day("3/4/26"), "century-undecided");
        assert_eq!(day("31/11/2026"), "impossible-date");
        assert_eq!(day("03/25/2026"), "impossible-date");
        assert_eq!(day("03042026"), "not-a-date");
        assert_eq!(day("spring"), "not-a-date");
        assert_eq!(read("3/4/26", Some(DateOrder::YearMonthDay), Some(1970), ValueType::Date), "2003-04-26");
        assert_eq!(read("4/4/2026", None, None, ValueType::Date), "2026-04-04");
        assert_eq!(
            read("3/4/2026 2:05 pm", Some(DateOrder::MonthDayYear), None, ValueType::DateTime),
            "2026-03-04 14:05"
        );
        assert_eq!(
            read("3/4/2026 25:05", Some(DateOrder::MonthDayYear), None, ValueType::DateTime),
            "impossible-date"
        );
    }
}
