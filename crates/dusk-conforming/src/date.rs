//! Dates and times: read in a proven or named order, written as the target wants them.

use jiff::civil::{Date, DateTime, Time};

use super::clocks::{Clock, Zones, day_of, on_the_clock_of_the_target};
use super::outcome::Cell;
use super::{Basis, DateBasis, HowRead, Trail};
use dusk_evidence::{DateFact, DateWanted, Fault, NotThere, WhyOpen};
use dusk_inspecting::{DateShape, DateSigns};
use dusk_mapping::{DateReading, DayCount, OrderWhere, Which};
use dusk_sources::CellKind;
use dusk_values::{
    DateOrder, DatePattern, Decimal, Moment, Rounding, Value, ValueType, WrittenDate, WrittenTime, Zone,
};

/// How a date is to be read, and what is known of its cell.
pub(super) struct DateGiven<'g> {
    pub(super) reading: &'g DateReading,
    pub(super) proven: bool,
    /// Nobody knows the order of its column's dates yet.
    pub(super) open: bool,
    pub(super) cell: Cell,
    /// The zone of the target's clock.
    pub(super) zone: Option<&'g Zone>,
    /// What the value says about how its column was treated, once it was read.
    pub(super) signs: std::cell::Cell<DateSigns>,
}

/// An order, and what says it.
#[derive(Clone, Copy)]
enum By {
    /// The mapping, for the whole column.
    Mapping(DateOrder),
    /// The mapping, for some of its values.
    Where(OrderWhere),
    /// The column's own values.
    Proof(DateOrder),
    /// The value's form leaves one reading.
    Form,
}

impl DateGiven<'_> {
    /// Notes what a text says about the order that a pattern names.
    fn note_pattern(&self, text: &str, pattern: &DatePattern) {
        let Some((written, _)) = WrittenDate::read(text) else { return };
        let order = |first: bool| if first { DateOrder::DayMonthYear } else { DateOrder::MonthDayYear };
        let named = pattern.day_before_month().map(order);
        self.signs.set(DateSigns::of(written).under(named, written, self.reading.years_from));
    }

    /// The order in which a written date is to be read; nothing where nobody says.
    fn order(&self, text: &str, written: WrittenDate) -> Option<By> {
        let reading = self.reading;
        let whole_column = match reading.order {
            Some(order) if self.proven => By::Proof(order),
            Some(order) => By::Mapping(order),
            None => By::Form,
        };
        if reading.order_where.is_empty() {
            return Some(whole_column);
        }
        let shape = DateShape::of(self.cell.kind, false, text, written);
        let mut rows = reading.order_where.iter().filter(|one| matches!(one.which, Which::Rows(..)));
        if let Some(one) = self.cell.group.and_then(|group| rows.nth(group)) {
            return Some(By::Where(*one));
        }
        match shape {
            Some(shape) => self.order_of_shape(shape, written).unwrap_or(Some(whole_column)),
            None => Some(whole_column),
        }
    }

    /// The order that is named for a shape; `Some(None)` where nobody can say whether the value is of it.
    fn order_of_shape(&self, shape: DateShape, written: WrittenDate) -> Option<Option<By>> {
        let shapes = || {
            self.reading.order_where.iter().filter_map(|one| match one.which {
                Which::Shape(shape) => Some((shape, one)),
                Which::Rows(..) => None,
            })
        };
        if let Some((_, one)) = shapes().find(|(named, _)| named.covers(shape)) {
            return Some(Some(By::Where(*one)));
        }
        // Two digits either way: it may be of the shape that is named or of the other.
        let doubtful = shape.is_like_some(shapes().map(|(named, _)| named));
        (doubtful && !shape.year_first_or_certain(written)).then_some(None)
    }
}

/// Reads a date or a time and writes it in the target's form.
pub(super) fn conform(
    text: &str,
    given: &DateGiven<'_>,
    holds: ValueType,
    (format, also): (&DatePattern, &[DatePattern]),
    trail: &mut Trail,
    out: &mut String,
) -> Result<Value, Fault> {
    let mut by = By::Form;
    let (date, clock) = match holds {
        ValueType::Time => (Date::default(), Clock::at(read_time(text, given)?)),
        _ => read(text, given, holds, &mut by)?,
    };
    let zones = Zones { source: given.reading.zone.as_ref(), target: given.zone };
    let (moment, clocks) = on_the_clock_of_the_target(date, clock, holds, &zones)?;
    let (date, time) = (moment.date(), moment.time());
    write(moment, text, format, also, out);
    let value = match holds {
        ValueType::Time => Value::Time(time),
        ValueType::DateTime => Value::DateTime(moment),
        _ => Value::Date(date),
    };
    if out != text {
        trail.took(out, || {
            Basis::Date(Box::new(DateBasis {
                how: how_read(given, by),
                day: Some(date).filter(|_| holds != ValueType::Time),
                clocks,
                of_time: of_time(text, time, format),
            }))
        });
    }
    Ok(value)
}

/// Writes a moment in the target's form; what is written in a way that the target takes as well stays.
fn write(moment: DateTime, text: &str, format: &DatePattern, also: &[DatePattern], out: &mut String) {
    let mut written = String::new();
    let stays = also.iter().any(|pattern| {
        written.clear();
        pattern.write(moment, &mut written);
        written == text
    });
    if stays {
        out.push_str(text);
    } else {
        format.write(moment, out);
    }
}

/// What is to be said of a time: that it is written nowhere, or that the target's form has no place for all
/// of it.
fn of_time(text: &str, time: Time, format: &DatePattern) -> Option<&'static str> {
    if format.has_time() && time == Time::midnight() && !text.contains(':') && !text.contains(['T', 't']) {
        return Some("midnight, as the workbook has it");
    }
    let seconds = time.second() != 0 && format.has_time() && !format.has_second();
    let fraction = time.subsec_nanosecond() != 0 && format.has_time() && !format.has_fraction();
    match (seconds, fraction) {
        (true, _) => Some("the seconds are dropped, for which the target's form has no place"),
        (false, true) => Some("the part of a second is dropped, for which the target's form has no place"),
        (false, false) => None,
    }
}

/// How a date was read.
fn how_read(given: &DateGiven<'_>, by: By) -> HowRead {
    match (&given.reading.pattern, by) {
        (Some(pattern), _) if given.cell.kind != CellKind::Date => {
            HowRead::Pattern(pattern.text().to_owned())
        }
        (_, By::Proof(order)) => HowRead::Proven(order),
        (_, By::Mapping(order)) => HowRead::Mapping(order),
        (_, By::Where(one)) => HowRead::Where { which: one.which, order: one.order },
        (_, By::Form) => HowRead::Form,
    }
}

fn not_a_date(holds: ValueType) -> Fault {
    Fault::new(DateFact::NotADate(DateWanted::Certain(holds)))
}

pub(super) fn impossible(what: NotThere) -> Fault {
    Fault::new(DateFact::Impossible(what))
}

fn no_such_time() -> Fault {
    impossible(NotThere::Time)
}

fn read_time(text: &str, given: &DateGiven<'_>) -> Result<Time, Fault> {
    if let Some(pattern) = given.reading.pattern.as_ref().filter(|_| given.cell.kind == CellKind::Text) {
        let moment = pattern.read(text).ok_or_else(|| not_a_date(ValueType::Time))?;
        return time_of(moment).ok_or_else(no_such_time);
    }
    if given.cell.kind == CellKind::Number {
        return part_of_a_day(text).ok_or_else(|| not_a_date(ValueType::Time));
    }
    match WrittenTime::read(text) {
        Some(WrittenTime::At(time)) => Ok(time),
        Some(WrittenTime::AtOffset(..)) | None => Err(not_a_date(ValueType::Time)),
        Some(_) => Err(no_such_time()),
    }
}

/// A time of day as spreadsheet programs keep it: 0.375 is 09:00. Reckoned to the millisecond, as they show it.
fn part_of_a_day(text: &str) -> Option<Time> {
    const MILLIS: i128 = 86_400_000;
    let (millis, _) = Decimal::parse(text)?.scaled((MILLIS, 0, 1), 0, Some(Rounding::HalfEven)).ok()?;
    let millis: i128 = millis.to_string().parse().ok().filter(|millis| (0..MILLIS).contains(millis))?;
    let part = |by: i128, of: i128| i8::try_from(millis / by % of).ok();
    let nanosecond = i32::try_from(millis % 1_000 * 1_000_000).ok()?;
    Time::new(part(3_600_000, 24)?, part(60_000, 60)?, part(1_000, 60)?, nanosecond).ok()
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

fn read(text: &str, given: &DateGiven<'_>, holds: ValueType, by: &mut By) -> Result<(Date, Clock), Fault> {
    let reading = given.reading;
    let is_open = given.open && WrittenDate::read(text).is_some();
    let patterned = !is_open && given.cell.kind != CellKind::Date;
    let (date, clock) = match reading.pattern.as_ref().filter(|_| patterned) {
        Some(pattern) => {
            given.note_pattern(text, pattern);
            let (date, time) = read_pattern(text, pattern, reading)?;
            (date, time.map(Clock::at))
        }
        None => match day_count(text, given)? {
            Some(day) => (day, None),
            None => read_written(text, given, holds, by)?,
        },
    };
    match (holds, clock) {
        // A workbook keeps a day as the moment at which it begins.
        (ValueType::DateTime, None) if given.cell.kind == CellKind::Date => {
            Ok((date, Clock::at(Time::midnight())))
        }
        (ValueType::DateTime, None) => Err(Fault::new(DateFact::NotADate(DateWanted::WithTime))),
        (ValueType::DateTime, Some(Clock { offset: Some(_), .. })) if given.zone.is_none() => {
            Err(Fault::new(DateFact::OffsetUnclear(ValueType::DateTime)))
        }
        (ValueType::DateTime, Some(clock)) => Ok((date, clock)),
        (_, Some(clock)) => Ok((day_of(date, clock, reading)?, Clock::at(Time::midnight()))),
        (_, None) => Ok((date, Clock::at(Time::midnight()))),
    }
}

fn century_undecided() -> Fault {
    Fault::new(DateFact::CenturyUndecided)
}

fn read_pattern(
    text: &str,
    pattern: &DatePattern,
    reading: &DateReading,
) -> Result<(Date, Option<Time>), Fault> {
    let form = || Fault::new(DateFact::NotADate(DateWanted::Pattern(pattern.text().to_owned())));
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
    let date = Date::new(year, month, day).map_err(|_| impossible(NotThere::Day))?;
    let time = match pattern.has_time() {
        true => Some(time_of(moment).ok_or_else(no_such_time)?),
        false => None,
    };
    Ok((date, time))
}

/// A whole number of five digits counts days, where the mapping says so.
fn day_count(text: &str, given: &DateGiven<'_>) -> Result<Option<Date>, Fault> {
    if text.len() != 5 || !text.bytes().all(|byte| byte.is_ascii_digit()) {
        return Ok(None);
    }
    let Ok(number) = text.parse::<i32>() else { return Ok(None) };
    let Some(counted) = given.reading.day_count else {
        return Err(Fault::new(DateFact::DayCount));
    };
    // Day 60 of the count from 1900 is a day that never was, so everything after it is one less.
    let first = match counted {
        DayCount::From1900 => jiff::civil::date(1899, 12, 30),
        DayCount::From1904 => jiff::civil::date(1904, 1, 1),
    };
    first.checked_add(jiff::Span::new().days(number)).map(Some).map_err(|_| impossible(NotThere::Day))
}

fn read_written(
    text: &str,
    given: &DateGiven<'_>,
    holds: ValueType,
    by: &mut By,
) -> Result<(Date, Option<Clock>), Fault> {
    let reading = given.reading;
    let (written, time) = WrittenDate::read(text).ok_or_else(|| not_a_date(holds))?;
    // What the data proves cannot be denied by it.
    let named = reading.order.filter(|_| !given.proven);
    given.signs.set(DateSigns::of(written).under(named, written, reading.years_from));
    if written.has_short_year() && reading.years_from.is_none() {
        return Err(century_undecided());
    }
    let time = match time {
        WrittenTime::None => None,
        WrittenTime::At(time) => Some(Clock::at(time)),
        WrittenTime::AtOffset(time, offset) => Some(Clock { time, offset: Some(offset) }),
        WrittenTime::Impossible => return Err(no_such_time()),
    };
    if given.open {
        return Ok((the_only_day(written, reading)?, time));
    }
    *by = given.order(text, written).ok_or_else(|| undecided(WhyOpen::MayBeConverted))?;
    // Where no order is named or proven, every value has a form that needs none, or reads alike
    // under every order that allows it.
    let order = match *by {
        By::Mapping(order) | By::Proof(order) => order,
        By::Where(one) => one.order,
        By::Form if written.is_self_evident() => DateOrder::YearMonthDay,
        By::Form => return Ok((the_same_day(written, reading)?, time)),
    };
    match written.day(order, reading.years_from) {
        Some(day) => Ok((day, time)),
        None if written.is_self_evident() && order != DateOrder::YearDayMonth => {
            Err(impossible(NotThere::Day))
        }
        None => {
            let other = DateOrder::ALL
                .into_iter()
                .find_map(|other| Some((other, written.day(other, reading.years_from)?)));
            Err(impossible(NotThere::DayInOrder(order, other)))
        }
    }
}

/// The day of a date that is the same under every order which allows it.
fn the_same_day(written: WrittenDate, reading: &DateReading) -> Result<Date, Fault> {
    let days = DateOrder::ALL.map(|order| written.day(order, reading.years_from));
    let mut days = days.into_iter().flatten();
    match days.next() {
        Some(day) if days.all(|other| other == day) => Ok(day),
        Some(_) => Err(undecided(WhyOpen::NoOrder)),
        None => Err(impossible(NotThere::DayInAnyOrder)),
    }
}

/// The day of a date whose column has no order that anybody knows: it is certain only if every order makes it
/// the same, that of a program which swapped day and month as well.
fn the_only_day(written: WrittenDate, reading: &DateReading) -> Result<Date, Fault> {
    let mut days = DateOrder::WORDS.iter().filter_map(|(_, order)| written.day(*order, reading.years_from));
    match days.next() {
        Some(day) if days.all(|other| other == day) => Ok(day),
        Some(_) => Err(undecided(WhyOpen::ColumnUncertain)),
        None => Err(impossible(NotThere::DayInAnyOrder)),
    }
}

/// What says how a date was read that is the same under every order.
pub(super) fn alike_in_every_order() -> Basis {
    Basis::Date(Box::new(DateBasis { how: HowRead::Form, day: None, clocks: None, of_time: None }))
}

fn undecided(why: WhyOpen) -> Fault {
    Fault::new(DateFact::Undecided(why))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str, order: Option<DateOrder>, years_from: Option<i16>, holds: ValueType) -> String {
        let format = DatePattern::parse("yyyy-MM-dd HH:mm").unwrap();
        let reading = DateReading { order, years_from, ..DateReading::default() };
        let mut out = String::new();
        let given = DateGiven {
            reading: &reading,
            proven: false,
            open: false,
            cell: Cell::default(),
            zone: None,
            signs: Default::default(),
        };
        match conform(text, &given, holds, (&format, &[]), &mut Trail::default(), &mut out) {
            Ok(_) => out.trim_end_matches(" 00:00").to_owned(),
            Err(fault) => fault.kind().code().to_owned(),
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

    #[test]
    fn while_the_order_is_open_only_what_every_order_reads_alike_is_read() {
        let format = DatePattern::parse("yyyy-MM-dd").unwrap();
        // Neither a named order nor a pattern helps: the dates have denied it.
        for (order, pattern) in
            [(None, None), (Some(DateOrder::DayMonthYear), None), (None, Some("dd/MM/yyyy"))]
        {
            let pattern = pattern.map(|text| DatePattern::parse(text).unwrap());
            let reading = DateReading { order, pattern, ..DateReading::default() };
            let read = |text: &str| {
                let (cell, signs) = (Cell::default(), Default::default());
                let given =
                    DateGiven { reading: &reading, proven: false, open: true, cell, zone: None, signs };
                let mut out = String::new();
                conform(text, &given, ValueType::Date, (&format, &[]), &mut Trail::default(), &mut out)
                    .map_or_else(|fault| fault.kind().code().to_owned(), |_| out)
            };
            assert_eq!(read("03/04/2026"), "date-undecided");
            assert_eq!(read("2026-03-04"), "date-undecided", "a program may have swapped it");
            assert_eq!(read("05/05/2026"), "2026-05-05");
            assert_eq!(read("25/03/2026"), "2026-03-25");
            assert_eq!(read("31/31/2026"), "impossible-date");
        }
    }

    #[test]
    fn orders_of_shapes_and_rows_come_before_the_columns_own() {
        let format = DatePattern::parse("yyyy-MM-dd").unwrap();
        let shape = |word: &str| Which::Shape(DateShape::named(word).unwrap());
        let read = |which: Which, order: DateOrder, kind: CellKind, group: Option<usize>, text: &str| {
            let reading = DateReading {
                order: Some(DateOrder::DayMonthYear),
                order_where: vec![OrderWhere { which, order }],
                ..DateReading::default()
            };
            let given = DateGiven {
                reading: &reading,
                proven: false,
                open: false,
                cell: Cell { kind, group },
                zone: None,
                signs: Default::default(),
            };
            let mut out = String::new();
            conform(text, &given, ValueType::Date, (&format, &[]), &mut Trail::default(), &mut out)
                .map(|_| out)
                .map_err(|fault| fault.kind().code())
        };
        let (swap, month_first) = (DateOrder::YearDayMonth, DateOrder::MonthDayYear);
        let (typed, text) = (CellKind::Date, CellKind::Text);
        assert_eq!(read(shape("typed"), swap, typed, None, "2026-03-04"), Ok("2026-04-03".into()));
        assert_eq!(
            read(shape("typed"), swap, text, None, "2026-03-04"),
            Ok("2026-03-04".into()),
            "it is text"
        );
        assert_eq!(read(shape("typed"), swap, typed, None, "2026-03-14"), Err("impossible-date"));
        assert_eq!(read(shape("9/9/9999"), month_first, text, None, "3/4/2026"), Ok("2026-03-04".into()));
        assert_eq!(read(shape("9/9/9999"), month_first, text, None, "03/04/2026"), Ok("2026-04-03".into()));
        assert_eq!(read(shape("9/9/9999"), month_first, text, None, "12/11/2026"), Err("date-undecided"));
        assert_eq!(read(shape("9/9/9999"), month_first, text, None, "25/11/2026"), Ok("2026-11-25".into()));
        assert_eq!(read(shape("9/9/9999"), month_first, text, None, "11/11/2026"), Ok("2026-11-11".into()));
        assert_eq!(read(Which::Rows(5, 9), month_first, text, Some(0), "3/4/2026"), Ok("2026-03-04".into()));
        assert_eq!(read(Which::Rows(5, 9), month_first, text, None, "3/4/2026"), Ok("2026-04-03".into()));
    }
}
