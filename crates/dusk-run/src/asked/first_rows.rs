//! The few rows that are sent first, to see what the target says of them.

use std::collections::BTreeSet;

use crate::{Ready, Sent, Sink, Wanted, try_rows};
use dusk_evidence::{Result, Row, SourceId};
use dusk_sources::Progress;

/// Which rows go first.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FirstRows {
    /// So many of the telling ones, which together show the most.
    Telling(usize),
    /// The first so many that are sent.
    First(usize),
}

impl Ready<'_> {
    /// Chooses the rows that are sent first, among those that would be sent.
    ///
    /// # Errors
    /// Whatever stops reading.
    pub fn first_rows(
        &self,
        wanted: FirstRows,
        progress: &Progress<'_>,
    ) -> Result<BTreeSet<(SourceId, Row)>> {
        let (most, telling) = match wanted {
            FirstRows::First(most) => (most, Vec::new()),
            FirstRows::Telling(most) => {
                let mut rows = try_rows(self, &Wanted::Telling(usize::MAX), progress)?.rows;
                rows.sort_by_key(|row| std::cmp::Reverse(row.shows.len()));
                (most, rows.into_iter().map(|row| (SourceId::FIRST, row.row)).collect())
            }
        };
        let mut sent = SentPlaces { most, asked: telling.iter().copied().collect(), ..SentPlaces::default() };
        self.run(&mut sent, progress)?;
        let mut chosen: BTreeSet<(SourceId, Row)> =
            telling.into_iter().filter(|place| sent.met.contains(place)).take(most).collect();
        // Where the telling ones are fewer, the first ones fill up.
        for place in sent.first {
            if chosen.len() >= most {
                break;
            }
            chosen.insert(place);
        }
        Ok(chosen)
    }
}

/// Which rows are sent: the first ones, and those that are asked about.
#[derive(Debug, Default)]
struct SentPlaces {
    most: usize,
    asked: BTreeSet<(SourceId, Row)>,
    first: Vec<(SourceId, Row)>,
    met: BTreeSet<(SourceId, Row)>,
}

impl Sink for SentPlaces {
    fn accepted(&mut self, sent: &Sent<'_>) -> Result<()> {
        let place = (sent.place.source, sent.place.row);
        if self.first.len() < self.most && self.first.last() != Some(&place) {
            self.first.push(place);
        }
        if self.asked.contains(&place) {
            self.met.insert(place);
        }
        Ok(())
    }
}
