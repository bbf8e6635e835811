//! How dates stand to an order that somebody names.

use super::judge::Judgement;
use super::{Block, DateEvidence, MOST_BLOCKS};
use dusk_evidence::Reading;
use dusk_values::DateOrder;

/// How dates stand to an order that somebody names.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Standing {
    /// Values that it alone can read.
    pub fits: u64,
    /// Values that only another order can read.
    pub denies: u64,
    /// The most of those that stand one after the other, with none between that it alone can read.
    pub in_a_row: u64,
}

impl Standing {
    /// True where the values, or a part of them, are written in another order: then those that fit by
    /// chance would be other days. A single slip is rejected by itself, and denies nothing.
    pub fn is_denied(self) -> bool {
        self.denies > 0 && (self.fits == 0 || self.in_a_row > 1 || self.denies * 10 > self.fits)
    }
}

impl DateEvidence {
    /// True when the order of these dates is not certain by themselves.
    pub fn needs_decision(&self) -> bool {
        !matches!(self.judge(), Judgement::NotNeeded | Judgement::Proven(_))
    }

    /// What speaks against reading them in the order `named`, which stands in the mapping as `name`; nothing
    /// where that is no more than a slip.
    pub fn denial(&self, named: DateOrder, name: String, sources: &[String]) -> Option<Reading> {
        let standing = self.standing(named);
        let first = match named {
            DateOrder::YearDayMonth => self.groups.iter().find_map(|group| group.first_big.as_ref()),
            _ => {
                let counts =
                    self.groups.iter().flat_map(|group| DateOrder::ALL.into_iter().zip(&group.orders));
                let others = counts.filter(|(order, _)| *order != named);
                others.filter_map(|(_, count)| count.proof.as_ref()).min_by_key(|proof| proof.row)
            }
        };
        standing.is_denied().then(|| Reading {
            name,
            supports: standing.denies,
            counted: "values allow another order only".into(),
            examples: first.map(|spoken| spoken.example(sources)).into_iter().collect(),
            ..Reading::default()
        })
    }

    /// The rows whose values deny `named`, as the mapping writes orders for rows; nothing where they are too
    /// many to be named.
    pub fn denying_rows(&self, named: DateOrder) -> Option<Vec<String>> {
        /// How many groups of rows are named at most.
        const MOST: usize = 8;
        let others: Vec<&Block> = self.blocks.iter().filter(|block| block.order != named).collect();
        let line = |block: &&Block| {
            let rows = format!("{}-{}", block.first, block.last);
            format!("{{ rows = \"{rows}\", order = \"{}\" }}", block.order.word())
        };
        (1..=MOST).contains(&others.len()).then(|| others.iter().map(line).collect())
    }

    /// How the values stand to `named`.
    pub fn standing(&self, named: DateOrder) -> Standing {
        if named == DateOrder::YearDayMonth {
            // It undoes what a program swapped; what has a day above 12 it cannot have swapped.
            let never_swapped = self.groups.iter().map(|group| group.big).sum();
            return Standing { denies: never_swapped, ..Standing::default() };
        }
        let only = |wanted: &dyn Fn(DateOrder) -> bool| -> u64 {
            let counts = self.groups.iter().flat_map(|group| DateOrder::ALL.into_iter().zip(&group.orders));
            counts.filter(|(order, _)| wanted(*order)).map(|(_, count)| count.only).sum()
        };
        let others = self.blocks.iter().filter(|block| block.order != named);
        Standing {
            fits: only(&|order| order == named),
            denies: only(&|order| order != named),
            // What changes so often is followed no further, and may hold more.
            in_a_row: match self.blocks.len() < MOST_BLOCKS {
                true => others.map(|block| block.count).max().unwrap_or(0),
                false => u64::MAX,
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_part_of_a_column_denies_an_order_and_a_single_slip_does_not() {
        let denied = |values: &[&str], named: DateOrder| DateEvidence::of(values).standing(named).is_denied();
        let named = DateOrder::DayMonthYear;
        assert!(denied(&["07/13/2026", "07/04/2026"], named), "no other value proves it");
        assert!(denied(&["25/04/2026", "07/13/2026"], named), "one of two");
        let mut many = vec!["25/04/2026"; 40];
        assert!(!denied(&many, named));
        many.insert(20, "07/13/2026");
        assert!(!denied(&many, named), "a slip");
        many.insert(21, "03/04/2026");
        many.insert(22, "07/14/2026");
        assert!(denied(&many, named), "two in a row");
        let slips = |times: usize| [["25/04/2026"; 20].as_slice(), &["07/13/2026"]].concat().repeat(times);
        assert!(!denied(&slips(10), named), "ten slips far from one another");
        assert!(denied(&slips(40), named), "more changes than are followed");
        let swapped = DateOrder::YearDayMonth;
        assert!(!denied(&["2026-03-04", "2026-04-12"], swapped));
        assert!(denied(&["2026-03-04", "2026-04-13"], swapped), "what is above 12 was never swapped");
    }
}
