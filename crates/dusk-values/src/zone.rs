//! Time zones by their names in the IANA database, as it is built into the program: the same names mean
//! the same everywhere.

use jiff::civil::DateTime;
use jiff::tz::{TimeZone, TimeZoneDatabase};

/// A time zone.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Zone {
    name: String,
    zone: TimeZone,
}

/// Why a time on one clock is none on another.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoMoment {
    /// The clock was put back, and showed the time twice.
    Twice,
    /// The clock was put forward, and never showed the time.
    Never,
    /// It is outside the years that can be reckoned with.
    TooFar,
}

impl Zone {
    /// The zone of this name: `Europe/Oslo`, `UTC`.
    pub fn named(name: &str) -> Option<Self> {
        let zone = TimeZoneDatabase::bundled().get(name).ok()?;
        Some(Self { name: name.to_owned(), zone })
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What a clock here shows when one that is `offset` seconds ahead of UTC shows `moment`.
    ///
    /// # Errors
    /// [`NoMoment::TooFar`] outside the years that can be reckoned with.
    pub fn from_offset(&self, moment: DateTime, offset: i32) -> Result<DateTime, NoMoment> {
        let offset = jiff::tz::Offset::from_seconds(offset).map_err(|_| NoMoment::TooFar)?;
        let moment = offset.to_timestamp(moment).map_err(|_| NoMoment::TooFar)?;
        Ok(moment.to_zoned_datetime(self.zone.clone()).datetime())
    }

    /// What a clock in `other` shows when one here shows `moment`.
    ///
    /// # Errors
    /// [`NoMoment`] where a clock here shows that twice or never.
    pub fn seen_in(&self, other: &Self, moment: DateTime) -> Result<DateTime, NoMoment> {
        let here = self.zone.to_ambiguous_timestamp(moment);
        if here.is_ambiguous() {
            return Err(match here.offset() {
                jiff::tz::AmbiguousOffset::Fold { .. } => NoMoment::Twice,
                _ => NoMoment::Never,
            });
        }
        let moment = here.unambiguous().map_err(|_| NoMoment::TooFar)?;
        Ok(moment.to_zoned_datetime(other.zone.clone()).datetime())
    }
}

#[cfg(test)]
mod tests {
    use jiff::civil::date;

    use super::*;

    #[test]
    fn clocks_are_compared_and_the_hours_around_a_change_are_told() {
        let (oslo, utc) = (Zone::named("Europe/Oslo").unwrap(), Zone::named("UTC").unwrap());
        let seen = |day: jiff::civil::Date, hour, minute| oslo.seen_in(&utc, day.at(hour, minute, 0, 0));
        assert_eq!(seen(date(2026, 1, 15), 9, 30), Ok(date(2026, 1, 15).at(8, 30, 0, 0)));
        assert_eq!(seen(date(2026, 7, 1), 1, 0), Ok(date(2026, 6, 30).at(23, 0, 0, 0)));
        assert_eq!(seen(date(2026, 3, 29), 2, 30), Err(NoMoment::Never));
        assert_eq!(seen(date(2026, 10, 25), 2, 30), Err(NoMoment::Twice));
        assert!(Zone::named("Nowhere/Atall").is_none());
    }
}
