//! In which order a column writes day, month and year, proven by its values or not at all.
//!
//! A value whose parts allow one order only (25/03/2026) is proof of it. A column is proven when
//! at least one value is such a proof and no value contradicts it.

use std::fmt;

use crate::source::{Line, Row};

use super::WrittenDate;

/// The order of the parts of a date.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum DateOrder {
    /// 31/12/2026.
    DayMonthYear,
    /// 12/31/2026.
    MonthDayYear,
    /// 2026/12/31.
    YearMonthDay,
}

impl DateOrder {
    /// Every order.
    pub const ALL: [Self; 3] = [Self::DayMonthYear, Self::MonthDayYear, Self::YearMonthDay];

    /// The words of the mapping.
    pub const WORDS: [(&'static str, Self); 3] = [
        ("day-month-year", Self::DayMonthYear),
        ("month-day-year", Self::MonthDayYear),
        ("year-month-day", Self::YearMonthDay),
    ];

    /// The word of the mapping.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, order)| *order == self).map_or("", |(word, _)| word)
    }
}

/// A value that speaks for an order.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct OrderExample {
    /// Which source, from 0.
    pub source: usize,
    /// Its row.
    pub row: Row,
    /// The line on which the row begins.
    pub line: Line,
    /// The value.
    pub value: String,
    /// How it reads under the order, in a form that cannot be misread.
    pub reads: String,
}

/// How the values of a column stand to one order.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct OrderCount {
    /// Values that this order alone allows.
    pub only: u64,
    /// The first of them.
    pub proof: Option<OrderExample>,
    /// The first value that this order allows and others too.
    pub possible: Option<OrderExample>,
}

/// What the values of a column say about the order of its dates.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct DateOrderEvidence {
    /// One count for each order of [`DateOrder::ALL`].
    pub orders: [OrderCount; 3],
    /// Values that more than one order allows.
    pub undecided: u64,
    /// Values whose form alone says which part is which, as 2026-03-04 and 4 Mar 2026.
    pub self_evident: u64,
    /// Of those that begin with the year: how many would be another day with month and day
    /// swapped, and how many would be none.
    pub year_first: (u64, u64),
}

impl DateOrderEvidence {
    /// Takes in one value.
    pub fn add(&mut self, source: usize, row: Row, line: Line, value: &str) {
        let Some((written, _)) = WrittenDate::read(value) else { return };
        if written.is_self_evident() {
            self.self_evident += 1;
            if let WrittenDate::Numbers([_, (month, _), (day, _)]) = written {
                self.year_first.0 += u64::from(day <= 12 && day != month);
                self.year_first.1 += u64::from(day > 12);
            }
            return;
        }
        // Which century is meant makes no difference to the order.
        let days = DateOrder::ALL.map(|order| written.day(order, Some(1970)));
        let allowed = days.iter().filter(|day| day.is_some()).count();
        if allowed > 1 && days.iter().flatten().all(|day| Some(*day) == days.iter().flatten().next().copied())
        {
            // 04/04/2026 is the same day either way.
            self.self_evident += 1;
            return;
        }
        self.undecided += u64::from(allowed > 1);
        for (count, day) in self.orders.iter_mut().zip(days) {
            let Some(day) = day else { continue };
            let slot = if allowed == 1 {
                count.only += 1;
                &mut count.proof
            } else {
                &mut count.possible
            };
            if slot.is_none() {
                let reads = if written.has_short_year() {
                    day.strftime("%-d %b '%y").to_string()
                } else {
                    shown(day)
                };
                *slot = Some(OrderExample { source, row, line, value: value.to_owned(), reads });
            }
        }
    }

    /// Adds what other rows of the same column, which come later, have to say.
    pub fn append(&mut self, later: Self) {
        self.undecided += later.undecided;
        self.self_evident += later.self_evident;
        self.year_first.0 += later.year_first.0;
        self.year_first.1 += later.year_first.1;
        for (count, other) in self.orders.iter_mut().zip(later.orders) {
            count.only += other.only;
            count.proof = count.proof.take().or(other.proof);
            count.possible = count.possible.take().or(other.possible);
        }
    }

    /// True when a spreadsheet program may have read the dates that fitted with day and month
    /// swapped, and left the others as text: every date that begins with the year could be
    /// swapped, and none of the others could. Then neither half proves anything about the other.
    pub fn may_be_half_converted(&self) -> bool {
        let texts = self.orders.iter().any(|count| count.only > 0);
        texts && self.undecided == 0 && self.year_first.0 > 0 && self.year_first.1 == 0
    }

    /// The proven order, if there is exactly one with proof.
    pub fn proven(&self) -> Option<DateOrder> {
        if self.may_be_half_converted() {
            return None;
        }
        let mut with_proof = DateOrder::ALL.iter().zip(&self.orders).filter(|(_, count)| count.only > 0);
        match (with_proof.next(), with_proof.next()) {
            (Some((order, _)), None) => Some(*order),
            _ => None,
        }
    }

    /// True when no value needs an order to be read.
    pub fn is_not_needed(&self) -> bool {
        self.undecided == 0 && self.orders.iter().all(|count| count.only == 0)
    }

    /// How many values speak for an order and no other.
    pub fn proofs(&self, order: DateOrder) -> &OrderCount {
        let [day, month, year] = &self.orders;
        match order {
            DateOrder::DayMonthYear => day,
            DateOrder::MonthDayYear => month,
            DateOrder::YearMonthDay => year,
        }
    }
}

/// A day in a form that cannot be misread: 4 Mar 2026.
pub(crate) fn shown(day: jiff::civil::Date) -> String {
    day.strftime("%-d %b %Y").to_string()
}

/// A column whose dates could mean different days, with the evidence and what to write.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DateOrderUndecided {
    /// The column.
    pub column: String,
    /// The field that it feeds.
    pub field: String,
    /// The sources as the steward named them.
    pub sources: Vec<String>,
    /// The mapping, as the steward named it.
    pub mapping: String,
    /// What the values say.
    pub evidence: DateOrderEvidence,
}

impl fmt::Display for DateOrderUndecided {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let evidence = &self.evidence;
        let contradicted = evidence.orders.iter().filter(|count| count.only > 0).count() > 1;
        let says = if contradicted {
            "contradict each other about the order"
        } else if evidence.may_be_half_converted() {
            "may be half converted (those that begin with the year all have a day of 12 or less, \
             the others all a part above 12: a spreadsheet program may have swapped day and month \
             in the first), which leaves open the order"
        } else {
            "do not prove the order"
        };
        writeln!(
            f,
            "{}: column \"{}\": its dates {says} of day, month and year, so nothing was written",
            self.sources.join(", "),
            self.column
        )?;
        let example = |example: &OrderExample| {
            let source = match self.sources.as_slice() {
                [_, _, ..] => format!("{}, ", self.sources.get(example.source).map_or("", String::as_str)),
                _ => String::new(),
            };
            format!(
                "{source}row {} \"{}\" = {}",
                example.row.with_line(example.line),
                example.value,
                example.reads
            )
        };
        for (order, count) in DateOrder::ALL.iter().zip(&evidence.orders) {
            if count.only == 0 && count.possible.is_none() {
                continue;
            }
            write!(f, "  {:<15} {:>6} values allow no other order", order.word(), count.only)?;
            match (&count.proof, &count.possible) {
                (Some(proof), _) => writeln!(f, "; first {}", example(proof))?,
                (None, Some(possible)) => writeln!(f, "; it would make {}", example(possible))?,
                (None, None) => writeln!(f)?,
            }
        }
        writeln!(f, "  {:<15} {:>6} values fit more than one order", "", evidence.undecided)?;
        // No order is filled in: a line pasted without thinking would be a guess after all.
        let possible: Vec<String> = DateOrder::ALL
            .iter()
            .zip(&evidence.orders)
            .filter(|(_, count)| count.proof.is_some() || count.possible.is_some())
            .map(|(order, _)| format!("\"{}\"", order.word()))
            .collect();
        writeln!(f, "  Ask whoever made the export, then write the order into {}:", self.mapping)?;
        writeln!(f, "    [[map]]\n    field = \"{}\"\n    from  = \"{}\"", self.field, self.column)?;
        write!(f, "    order = …   # {}", possible.join(" or "))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn evidence(values: &[&str]) -> DateOrderEvidence {
        let mut evidence = DateOrderEvidence::default();
        for (value, row) in values.iter().zip(2..) {
            evidence.add(0, Row(row), Line(row), value);
        }
        evidence
    }

    #[test]
    fn an_order_is_proven_by_a_value_that_allows_no_other() {
        assert_eq!(evidence(&["03/04/2026", "25/03/2026"]).proven(), Some(DateOrder::DayMonthYear));
        assert_eq!(evidence(&["03/04/2026", "03/25/26"]).proven(), Some(DateOrder::MonthDayYear));
        assert_eq!(evidence(&["03/04/2026", "04/05/2026"]).proven(), None);
        assert_eq!(evidence(&["25/03/2026", "03/25/2026"]).proven(), None);
        assert_eq!(evidence(&["25-03-26"]).proven(), None, "2025-03-26 is a reading as well");
    }

    #[test]
    fn two_shapes_that_a_half_conversion_would_leave_prove_nothing() {
        let day_first = Some(DateOrder::DayMonthYear);
        assert_eq!(evidence(&["2026-03-04", "25/03/2026"]).proven(), None);
        assert_eq!(evidence(&["2026-03-04", "25/03/2026", "04/05/2026"]).proven(), day_first);
        assert_eq!(evidence(&["2026-03-14", "25/03/2026"]).proven(), day_first);
        assert_eq!(evidence(&["2026-04-04", "25/03/2026"]).proven(), day_first);
    }

    #[test]
    fn forms_that_speak_for_themselves_need_no_order() {
        assert!(
            evidence(&["2026-03-04", "4 Mar 2026", "March 4th, 2026", "04/04/2026", "soon"]).is_not_needed()
        );
    }
}
