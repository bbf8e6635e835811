//! Years of two digits: which of the hundred there are, under each order of the date's parts.

use jiff::civil::Date;

/// The years of two digits of a column: a bit for each, the lowest for 00, under each order.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub(crate) struct ShortYears {
    /// Values with a year of two digits.
    pub(crate) count: u64,
    years: [u128; 3],
}

impl ShortYears {
    /// Takes in a value by the days that it is under each order.
    pub(crate) fn see(&mut self, days: [Option<Date>; 3]) {
        self.count += 1;
        for (years, day) in self.years.iter_mut().zip(days) {
            *years |= day.map_or(0, |day| 1 << day.year().rem_euclid(100));
        }
    }

    pub(crate) fn add(&mut self, other: Self) {
        self.count += other.count;
        for (years, more) in self.years.iter_mut().zip(other.years) {
            *years |= more;
        }
    }

    /// Where the years lie, "21 to 26 and 51 to 58", under the order at this place, or whatever the order is;
    /// nothing where they are not parted by ten years or more, or where it depends on the order.
    pub(crate) fn shown(self, order: Option<usize>) -> Option<String> {
        let [first, others @ ..] = self.years;
        let years = match order {
            Some(order) => self.years.get(order).copied()?,
            None => Some(first).filter(|first| others.iter().all(|other| other == first))?,
        };
        let spans = spans(years);
        let shown = |(from, to): &(u8, u8)| match from == to {
            true => format!("{from:02}"),
            false => format!("{from:02} to {to:02}"),
        };
        let words: Vec<String> = spans.iter().map(shown).collect();
        let (last, before) = words.split_last()?;
        (!before.is_empty()).then(|| format!("{} and {last}", before.join(", ")))
    }
}

/// The first and the last year of each stretch that no ten empty years interrupt, from the lowest on. 99 and 00
/// are neighbours: a stretch may run over the end of a hundred.
fn spans(years: u128) -> Vec<(u8, u8)> {
    const EMPTY: u8 = 10;
    let met = (0..100_u8).filter(|year| years & (1 << year) != 0);
    let mut spans: Vec<(u8, u8)> = Vec::new();
    for year in met {
        match spans.last_mut() {
            Some((_, last)) if year - *last <= EMPTY => *last = year,
            _ => spans.push((year, year)),
        }
    }
    if let [(first, end), .., (_, last)] = spans.as_mut_slice()
        && *first + 100 - *last <= EMPTY
    {
        *last = *end;
        spans.remove(0);
    }
    spans
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shown(years: &[i16]) -> Option<String> {
        let mut short = ShortYears::default();
        years.iter().for_each(|year| short.see([Date::new(*year, 3, 4).ok(); 3]));
        short.shown(None)
    }

    #[test]
    fn stretches_of_years_are_told_apart_by_ten_empty_ones() {
        assert_eq!(shown(&[1951, 1958, 2021, 2026]).as_deref(), Some("21 to 26 and 51 to 58"));
        assert_eq!(shown(&[1998, 2004, 2011]), None, "one stretch over the end of the hundred");
        assert_eq!(shown(&[1988, 1996, 2004, 2040]).as_deref(), Some("40 and 88 to 04"));
        assert_eq!(shown(&[]), None);
        let mut of_two_orders = ShortYears::default();
        of_two_orders.see([
            Date::new(2003, 4, 26).ok(),
            Date::new(2003, 4, 26).ok(),
            Date::new(2026, 4, 3).ok(),
        ]);
        of_two_orders.see([
            Date::new(2060, 4, 26).ok(),
            Date::new(2060, 4, 26).ok(),
            Date::new(2026, 4, 3).ok(),
        ]);
        assert_eq!(of_two_orders.shown(None), None, "it depends on the order");
        assert_eq!(of_two_orders.shown(Some(0)).as_deref(), Some("03 and 60"));
    }
}
