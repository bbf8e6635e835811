//! What the records of a row are beside those that batches before this one have sent.

use super::given::MetAgain;
use super::ordered::OrderedEnd;
use crate::{Beforehand, Conformed, RowFate, Withheld};
use dusk_sources::Tray;

impl OrderedEnd<'_, '_> {
    /// Which records of an accepted row stay back; why the row does not go in at all is added to `again`. Nothing
    /// where all rows go.
    pub(crate) fn beforehand(
        &self,
        tray: &Tray<Conformed>,
        fates: &[RowFate],
        again: &mut Vec<MetAgain>,
    ) -> Vec<Option<Withheld>> {
        let (before, only) = (self.ready.job.sent_before, self.ready.job.only_rows);
        if before.is_none() && only.is_none() {
            return Vec::new();
        }
        let mut withheld = Vec::new();
        for fate in fates {
            let place = (tray.source, fate.row);
            let key = tray.result.key_of(fate);
            let judged = before.map(|before| before.judge(key, place, fate.facts, fates.len() == 1));
            withheld.push(match judged.unwrap_or(Beforehand::Goes) {
                Beforehand::Goes => only.filter(|only| !only.contains(&place)).map(|_| Withheld::Waits),
                Beforehand::Withheld(why) => Some(why),
                Beforehand::Refused { batch, says } => {
                    again.push(MetAgain::RefusedBefore { batch: batch.to_owned(), says: says.to_owned() });
                    None
                }
                Beforehand::OtherKey { batch, key } => {
                    again.push(MetAgain::OtherKey { batch: batch.to_owned(), key: key.to_owned() });
                    None
                }
            });
        }
        withheld
    }
}
