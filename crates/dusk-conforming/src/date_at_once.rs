//! Dates that are told at once: an order is known for the whole column, and nothing is decided value by value.

use jiff::civil::Time;

use super::outcome::{Outcome, Readings};
use dusk_description::DateType;
use dusk_inspecting::DateSigns;
use dusk_values::{DateOrder, DatePattern, Value, ValueType, WrittenDate, WrittenTime};

/// Dates of three numbers, perhaps with a time, whose order is known for the whole column, or which begin with the year.
#[derive(Debug)]
pub(crate) struct DateAtOnce {
    order: Option<DateOrder>,
    /// The order where the mapping names it; what the data proves cannot be denied by it.
    named: Option<DateOrder>,
    holds: ValueType,
    format: DatePattern,
}

impl DateAtOnce {
    /// Of a field; nothing where something has to be decided value by value.
    pub(crate) fn of(kind: &DateType, readings: &Readings<'_>) -> Option<Self> {
        let reading = &readings.date;
        let is_simple = reading.pattern.is_none()
            && reading.order_where.is_empty()
            && reading.zone.is_none()
            && kind.zone.is_none()
            && !readings.date_open
            && kind.also_formats.is_empty()
            && kind.month_format.is_none()
            && kind.year_format.is_none()
            && matches!(kind.holds, ValueType::Date | ValueType::DateTime);
        let (order, named) = (reading.order, reading.order.filter(|_| !readings.date_proven));
        is_simple.then(|| Self { order, named, holds: kind.holds, format: kind.format.clone() })
    }

    /// Takes a date as the long way would, where its trail need not say how.
    #[inline]
    pub(super) fn take(&self, text: &str, out: &mut Outcome) -> Option<Value> {
        if out.trail.keeps() || !text.as_bytes().first()?.is_ascii_digit() {
            return None;
        }
        let (written, time) = WrittenDate::read(text)?;
        if !matches!(written, WrittenDate::Numbers(_)) || written.has_short_year() {
            return None;
        }
        let order = self.order.or_else(|| written.is_self_evident().then_some(DateOrder::YearMonthDay));
        let day = written.day(order?, None)?;
        let (moment, value) = match (self.holds, time) {
            (ValueType::Date, WrittenTime::None) => (day.to_datetime(Time::midnight()), Value::Date(day)),
            (ValueType::DateTime, WrittenTime::At(time)) => {
                let moment = day.to_datetime(time);
                (moment, Value::DateTime(moment))
            }
            _ => return None,
        };
        self.format.write(moment, &mut out.text);
        out.signs = DateSigns::of(written).under(self.named, written, None);
        if out.text != text {
            out.trail.changed_somehow();
        }
        Some(value)
    }
}
