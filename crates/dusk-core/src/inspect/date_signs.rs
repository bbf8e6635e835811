//! Signs of a half conversion that are met while a column is conformed, at no cost for the rows.

use super::WrittenDate;

/// Signs of a half conversion in a column whose order the mapping names: kinds of values that were
/// met, gathered while it is conformed.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct DateSigns(u8);

impl DateSigns {
    const SWAPPABLE: u8 = 1;
    const NOT_SWAPPABLE: u8 = 2;
    const TEXT_ABOVE: u8 = 4;
    const TEXT_SMALL: u8 = 8;

    /// The sign that a value gives.
    pub(crate) fn of(written: WrittenDate) -> Self {
        let WrittenDate::Numbers([a, b, c]) = written else { return Self(0) };
        Self(match (a, b, c) {
            ((_, 4), (month, _), (day, _)) if day > 12 || month > 12 => Self::NOT_SWAPPABLE,
            ((_, 4), (month, _), (day, _)) if day != month => Self::SWAPPABLE,
            ((_, 4), ..) => 0,
            ((a, _), (b, _), _) if a > 12 || b > 12 => Self::TEXT_ABOVE,
            ((a, _), (b, _), _) if a != b => Self::TEXT_SMALL,
            _ => 0,
        })
    }

    pub(crate) fn add(&mut self, other: Self) {
        self.0 |= other.0;
    }

    /// True when every date that begins with the year could be swapped and no other one could.
    pub(crate) fn look_half_converted(self) -> bool {
        self.0 == Self::SWAPPABLE | Self::TEXT_ABOVE
    }
}

#[cfg(test)]
mod tests {
    use super::*;

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
    }
}
