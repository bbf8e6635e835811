//! Times of one clock as another shows them: zones, and offsets from UTC that are written beside a time.

use jiff::civil::{Date, DateTime, Time};

use dusk_evidence::{DateFact, Fault};
use dusk_mapping::DateReading;
use dusk_values::{NoMoment, ValueType, Zone};

/// A time of day, and how many seconds its clock is ahead of UTC, where that is written.
#[derive(Debug, Clone, Copy)]
pub(super) struct Clock {
    pub(super) time: Time,
    pub(super) offset: Option<i32>,
}

impl Clock {
    pub(super) fn at(time: Time) -> Self {
        Self { time, offset: None }
    }
}

/// Two clocks, by their names: the source's and the target's.
pub(super) type Clocks = Option<(String, String)>;

/// The zones of the source's clock and of the target's, where they are known.
#[derive(Debug, Clone, Copy)]
pub(super) struct Zones<'z> {
    pub(super) source: Option<&'z Zone>,
    pub(super) target: Option<&'z Zone>,
}

/// A day and a time as the target's clock shows it.
pub(super) fn on_the_clock_of_the_target(
    date: Date,
    clock: Clock,
    holds: ValueType,
    zones: &Zones<'_>,
) -> Result<(DateTime, Clocks), Fault> {
    let read = DateTime::from_parts(date, clock.time);
    if let (Some(offset), Some(zone)) = (clock.offset, zones.target.filter(|_| holds == ValueType::DateTime))
    {
        let moment = zone.from_offset(read, offset).map_err(|why| no_moment(why, zone))?;
        return Ok((moment, Some((ahead_of_utc(offset), zone.name().to_owned()))));
    }
    let both = zones.source.zip(zones.target).filter(|_| holds == ValueType::DateTime);
    let Some((from, to)) = both else { return Ok((read, None)) };
    let moment = from.seen_in(to, read).map_err(|why| no_moment(why, from))?;
    Ok((moment, Some((from.name().to_owned(), to.name().to_owned()))))
}

/// "UTC", "UTC+02:00".
fn ahead_of_utc(offset: i32) -> String {
    let (sign, minutes) = (if offset < 0 { '-' } else { '+' }, offset.abs() / 60);
    match minutes {
        0 => "UTC".into(),
        _ => format!("UTC{sign}{:02}:{:02}", minutes / 60, minutes % 60),
    }
}

fn no_moment(why: NoMoment, zone: &Zone) -> Fault {
    let zone = zone.name().to_owned();
    Fault::new(match why {
        NoMoment::Twice => DateFact::ShownTwice { zone },
        NoMoment::Never => DateFact::NeverShown { zone },
        NoMoment::TooFar => DateFact::TooFar,
    })
}

/// The day alone of a day with a time. Midnight is how a day is written where a time has to be given; nothing
/// is lost with it.
pub(super) fn day_of(date: Date, clock: Clock, reading: &DateReading) -> Result<Date, Fault> {
    let read = match (clock.offset, &reading.zone) {
        (Some(offset), Some(zone)) => zone
            .from_offset(DateTime::from_parts(date, clock.time), offset)
            .map_err(|why| no_moment(why, zone))?,
        // At another time of day it may be another day already.
        (Some(_), None) if clock.time != Time::midnight() => {
            return Err(Fault::new(DateFact::OffsetUnclear(ValueType::Date)));
        }
        _ => DateTime::from_parts(date, clock.time),
    };
    if read.time() != Time::midnight() && !reading.drop_time {
        return Err(Fault::new(DateFact::TimeOfDay));
    }
    Ok(read.date())
}
