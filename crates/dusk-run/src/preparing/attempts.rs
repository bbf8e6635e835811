//! Work with a job whose readings are settled: begun anew with more evidence where rows met on the way
//! contradict what the first ones left out of doubt.

use super::job::{Demands, Job, Ready};
use dusk_evidence::{Error, Result};
use dusk_sources::Progress;

impl<'j> Job<'j> {
    /// Settles the readings and does `work` with them.
    ///
    /// # Errors
    /// As [`Job::prepare`], and whatever `work` says.
    pub fn work<T>(
        &'j self,
        weighing: &Progress<'_>,
        work: impl Fn(&Ready<'j>) -> Result<T>,
    ) -> Result<(Ready<'j>, T)> {
        self.attempt(Demands::default(), weighing, work)
    }

    /// As [`Job::work`], but dates that do not prove their order are a cause among others. No batch can be
    /// written then.
    ///
    /// # Errors
    /// As [`Job::work`].
    pub fn work_with_open_dates<T>(
        &'j self,
        weighing: &Progress<'_>,
        work: impl Fn(&Ready<'j>) -> Result<T>,
    ) -> Result<(Ready<'j>, T)> {
        self.attempt(Demands { leave_open: true, ..Demands::default() }, weighing, work)
    }

    /// Each demand is added once, so there are five attempts at the most.
    fn attempt<T>(
        &'j self,
        mut demands: Demands,
        weighing: &Progress<'_>,
        work: impl Fn(&Ready<'j>) -> Result<T>,
    ) -> Result<(Ready<'j>, T)> {
        loop {
            let ready = self.prepare_as(&demands, weighing)?;
            match work(&ready) {
                Err(Error::LateDoubt) if !demands.all_numbers => demands.all_numbers = true,
                Err(Error::LateSplits) if !demands.many_split => demands.many_split = true,
                Err(Error::LateDamage(fields)) if demands.damaged.is_empty() => demands.damaged = fields,
                Err(Error::Undecided(denied)) if demands.leave_open && demands.denied.is_empty() => {
                    demands.denied = denied;
                }
                done => return Ok((ready, done?)),
            }
        }
    }
}
