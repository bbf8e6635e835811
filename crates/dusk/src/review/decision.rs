//! A decision: carried out, taken back as a whole, and made again.

use super::desk::Desk;
use super::own_lines::{Back, Decision, Undone};
use crate::outcome::Failure;
use crate::show::counted;

type Result<T> = std::result::Result<T, Failure>;

impl Desk<'_> {
    /// Does what was decided, where somebody decides it now; says what was done.
    pub(super) fn decide(&mut self, decision: Decision) -> Result<String> {
        let says = self.carry_out(decision)?;
        // What was taken back before is another way that was not gone.
        self.redo.clear();
        Ok(says)
    }

    fn carry_out(&mut self, decision: Decision) -> Result<String> {
        match &decision {
            Decision::Settle(at, answer) => self.settle_all(at, answer),
            Decision::Correct(at, column, now) => {
                let Some(place) = self.place_of(*at) else { return Ok(String::new()) };
                self.correct(place, *column, now)
            }
            Decision::KeepOut(at) => {
                let Some(place) = self.place_of(*at) else { return Ok(String::new()) };
                self.keep_out(place)
            }
        }
    }

    /// Makes the decision again that was taken back last.
    pub(super) fn redo(&mut self) -> Result<String> {
        let Some(decision) = self.redo.pop() else { return Ok("nothing was taken back".into()) };
        Ok(format!("again: {}", self.carry_out(decision)?))
    }

    /// Settles causes by lines of their fields' crosswalks, as one decision; says what was done.
    fn settle_all(&mut self, at: &[usize], answer: &str) -> Result<String> {
        let (begun, before) = (self.undo.len(), self.review.left());
        let mut says = String::new();
        for one in at {
            match self.settle(*one, answer) {
                Ok(said) => says = said,
                Err(wrong) => {
                    self.join_since(begun, at, answer);
                    return Err(wrong);
                }
            }
        }
        self.join_since(begun, at, answer);
        if at.len() < 2 {
            return Ok(says);
        }
        let settled = before.saturating_sub(self.review.left());
        let rows = counted(settled, "row");
        Ok(format!("{} values = {answer}: {rows} settled, {} left", at.len(), self.review.left()))
    }

    /// Makes one decision of those since then, so that they are taken back together.
    fn join_since(&mut self, begun: usize, at: &[usize], answer: &str) {
        let parts: Vec<Undone> = self.undo.drain(begun.min(self.undo.len())..).collect();
        let says = match parts.as_slice() {
            [] => return,
            [one] => one.says.clone(),
            several => format!("{} values = {answer}", several.len()),
        };
        let back = parts.into_iter().flat_map(|part| part.back).collect();
        let decision = Decision::Settle(at.to_vec(), answer.to_owned());
        self.undo.push(Undone { says, decision, back });
    }

    /// Takes the last decision back, and nothing that others have recorded since. It can be made again.
    pub(super) fn undo(&mut self) -> Result<String> {
        let decision = self.undo.last().map(|undone| undone.decision.clone());
        let says = self.take_last_back()?;
        self.redo.extend(decision);
        Ok(says)
    }

    pub(super) fn take_last_back(&mut self) -> Result<String> {
        let Some(undone) = self.undo.pop() else { return Ok("nothing was decided yet".into()) };
        for back in undone.back.into_iter().rev() {
            self.take_part_back(back)?;
        }
        Ok(format!("taken back: {}", undone.says))
    }

    fn take_part_back(&mut self, back: Back) -> Result<()> {
        match back {
            Back::Crosswalk(place, line, before, written) => {
                self.take_back(place, line, before, &written)?;
                self.read_crosswalk(place)?;
                // A row that is rejected for another reason may have this one again.
                if !self.takes_a_run() {
                    self.review.judge_again(&self.loaded.job(), &|_| true)?;
                }
                Ok(())
            }
            Back::Cell(at, column, before, own) => {
                own.take_back()?;
                self.judge_cell(at, column, &before)
            }
            Back::Row(at, own) => {
                own.take_back()?;
                self.judge_row(at, false)
            }
        }
    }
}
