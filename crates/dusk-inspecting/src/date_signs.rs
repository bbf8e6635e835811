//! Signs of a half conversion that are met while a column is conformed, at no cost for the rows.

use dusk_values::{DateOrder, WrittenDate};

/// Signs of a half conversion in a column whose order the mapping names: kinds of values that were
/// met, gathered while it is conformed.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct DateSigns(u16);

/// How the digits of a text are written: padded or bare, with a year of four digits or of two. The
/// last kind is that of parts which have two digits either way.
const KINDS: u16 = 5;
const EITHER_WAY: u16 = 4;

impl DateSigns {
    /// A date that begins with the year and could be swapped, and one that could not.
    const SWAPPABLE: u16 = 1;
    const NOT_SWAPPABLE: u16 = 2;

    /// Dates that only the named order can read, and dates that only another one can.
    const FITS: u16 = 1 << 12;
    const DENIES: u16 = 1 << 13;

    /// Texts of a kind with a part above 12.
    fn above(kind: u16) -> u16 {
        4 << (2 * kind)
    }

    /// Texts of a kind with both parts at most 12, and not the same.
    fn small(kind: u16) -> u16 {
        8 << (2 * kind)
    }

    /// The sign that a value gives.
    pub fn of(written: WrittenDate) -> Self {
        let WrittenDate::Numbers([a, b, c]) = written else { return Self(0) };
        Self(match (a, b, c) {
            ((_, 4), (month, _), (day, _)) if day > 12 || month > 12 => Self::NOT_SWAPPABLE,
            ((_, 4), (month, _), (day, _)) if day != month => Self::SWAPPABLE,
            ((_, 4), ..) => 0,
            ((a, a_wide), (b, b_wide), (_, year_wide)) => {
                let short_year = 2 * u16::from(year_wide == 2);
                let kind = match (a_wide.min(b_wide), a.min(b)) {
                    (1, _) => 1 + short_year,
                    (_, ..10) => short_year,
                    _ => EITHER_WAY,
                };
                match (a > 12 || b > 12, a == b) {
                    (true, _) => Self::above(kind),
                    (false, false) => Self::small(kind),
                    (false, true) => 0,
                }
            }
        })
    }

    /// The same with what the value says about the order that the mapping names.
    pub fn under(self, named: Option<DateOrder>, written: WrittenDate, years_from: Option<i16>) -> Self {
        let WrittenDate::Numbers(_) = written else { return self };
        let Some(named) = named else { return self };
        let can = |order: DateOrder| written.day(order, years_from).is_some();
        let others = DateOrder::ALL.into_iter().filter(|order| *order != named).any(can);
        Self(match (can(named), others) {
            (true, false) => self.0 | Self::FITS,
            (false, true) => self.0 | Self::DENIES,
            _ => self.0,
        })
    }

    /// True when dates deny the order that the mapping names, and none proves it.
    pub fn deny_named(self) -> bool {
        self.0 & Self::DENIES != 0 && self.0 & Self::FITS == 0
    }

    /// True when some dates deny the order that the mapping names.
    pub fn some_deny(self) -> bool {
        self.0 & Self::DENIES != 0
    }

    /// True when dates would be other days under another order, and none proves the one that the mapping
    /// names.
    pub fn nothing_proves(self) -> bool {
        let could_be_others = (0..KINDS).any(|kind| self.0 & Self::small(kind) != 0);
        could_be_others && self.0 & (Self::FITS | Self::DENIES) == 0
    }

    /// Takes in what another value signals.
    pub fn add(&mut self, other: Self) {
        self.0 |= other.0;
    }

    /// True when what fitted may have been swapped and what did not was left alone: every date that
    /// begins with the year could be swapped and no text could, or texts of one kind are all small
    /// and those of another all above 12.
    pub fn look_half_converted(self) -> bool {
        let has = |sign: u16| self.0 & sign != 0;
        let any = |sign: fn(u16) -> u16| (0..KINDS).any(|kind| has(sign(kind)));
        let year_first =
            has(Self::SWAPPABLE) && !has(Self::NOT_SWAPPABLE) && any(Self::above) && !any(Self::small);
        let told_apart = || 0..EITHER_WAY;
        let mixed = told_apart().any(|kind| has(Self::above(kind)) && has(Self::small(kind)));
        let all_small = told_apart().any(|kind| has(Self::small(kind)));
        let all_above = told_apart().any(|kind| has(Self::above(kind)));
        year_first || all_small && all_above && !mixed
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_named_order_is_denied_by_dates_that_another_one_alone_can_read() {
        let denied = |values: &[&str]| {
            let mut signs = DateSigns::default();
            for value in values {
                let written = WrittenDate::read(value).unwrap().0;
                signs.add(DateSigns::of(written).under(Some(DateOrder::DayMonthYear), written, None));
            }
            signs.deny_named()
        };
        assert!(denied(&["07/13/2026", "07/04/2026", "01/01/2026"]));
        assert!(!denied(&["07/13/2026", "25/04/2026"]), "one wrong value among those that prove it");
        assert!(!denied(&["07/04/2026", "2026-03-04", "5 May 2026", "31/02/2026"]));
    }

    #[test]
    fn a_half_conversion_shows_in_the_kinds_of_value_alone() {
        let look = |values: &[&str]| {
            let mut signs = DateSigns::default();
            for value in values {
                signs.add(DateSigns::of(WrittenDate::read(value).unwrap().0));
            }
            signs.look_half_converted()
        };
        assert!(look(&["2026-03-04", "25/03/2026", "2026-04-04", "4 Mar 2026"]));
        assert!(!look(&["2026-03-04", "25/03/2026", "03/04/2026"]), "what fits was left alone");
        assert!(!look(&["2026-03-14", "2026-03-04", "25/03/2026"]), "not all can be swapped");
        assert!(!look(&["2026-03-04", "2026-03-05"]), "there is no text");
        assert!(!look(&["25/03/2026", "03/04/2026"]), "nothing was converted");
        assert!(look(&["3/4/2026", "25/03/2026"]), "written back without zeros");
        assert!(look(&["03/04/26", "25/03/2026", "11/12/2026"]), "written back with two digits of the year");
        assert!(!look(&["3/4/2026", "25/3/2026", "25/03/2026"]), "what has no zeros is above 12 as well");
        assert!(!look(&["11/12/2026", "25/03/2026"]), "parts of two digits are of no kind of their own");
    }
}
