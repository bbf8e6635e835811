//! What is at hand while causes are settled: the causes with their rows and answers, and each decision written to the
//! steward's files at once.

use dusk_core::conforming::{Judged, Plan};
use dusk_core::decisions::{
    Answer, BEYOND, Correction, Crosswalk, CrosswalkLine, DOUBLE, KEEP_OUT, LEAVE_BLANK, NEW_TERM, WHOLE_ROW,
    corrections_path, crosswalk_path, is_double,
};
use dusk_core::description::{BooleanType, Code, Field, FieldType, MeansA, Unmatched};
use dusk_core::evidence::{
    Cause, ColumnId, FieldId, Finding, Id as _, Kind, Problems, Row, Severity, SourceId, is_one_decision,
};
use dusk_core::run::{Review, Settle, Summary};

use super::own_lines::{Back, Decision, OwnCorrection, Undone, Written, changed_since, read_if_there};
use super::state::{AnswerItem, Item};
use crate::holding::{hold_corrections, hold_crosswalk};
use crate::loaded::Loaded;
use crate::outcome::Failure;
use crate::show::{cause_label, cause_says, cause_short_label, field_entry, in_one_line, visible};

/// Reads everything anew and runs the job.
pub(super) type Again<'a> = dyn Fn() -> Result<(Loaded, Review)> + 'a;

type Result<T> = std::result::Result<T, Failure>;

/// What is at hand while causes are settled.
pub(super) struct Desk<'a> {
    pub(super) loaded: Loaded,
    pub(super) review: Review,
    /// How many rows were rejected at first.
    pub(super) began_with: u64,
    again: &'a Again<'a>,
    by: String,
    /// The causes of the run, of which some know what the same records had earlier.
    of_run: Vec<Cause>,
    /// How each cause would be settled, as it was when it came up.
    causes: Vec<(Cause, Item)>,
    pub(super) undo: Vec<Undone>,
    /// Decisions that were taken back and can be made again, the last taken back last.
    pub(super) redo: Vec<Decision>,
}

impl<'a> Desk<'a> {
    pub(super) fn new(
        loaded: Loaded,
        review: Review,
        (summary, again): (&Summary, &'a Again<'a>),
        by: String,
    ) -> Self {
        let began_with = summary.totals.rejected;
        let of_run = summary.causes.iter().filter(|cause| cause.earlier.is_some()).cloned().collect();
        Self {
            loaded,
            review,
            began_with,
            again,
            by,
            of_run,
            causes: Vec::new(),
            undo: Vec::new(),
            redo: Vec::new(),
        }
    }

    /// Whether everything has to be read again to see what a decision does.
    pub(super) fn takes_a_run(&self) -> bool {
        Review::needs_a_run(&self.loaded.job())
    }

    fn run_again(&mut self) -> Result<()> {
        (self.loaded, self.review) = (self.again)()?;
        Ok(())
    }

    /// How many decisions were made and not taken back.
    pub(super) fn decisions(&self) -> usize {
        self.undo.len()
    }

    /// The causes as the screen shows them: those that were there stay where they are, new ones come last.
    pub(super) fn items(&mut self) -> Vec<Item> {
        let ranked = self.review.causes().causes;
        let same = |one: &Cause, other: &Cause| {
            (one.kind, one.field, &one.about, &one.value, &one.within)
                == (other.kind, other.field, &other.about, &other.value, &other.within)
        };
        for mut cause in ranked {
            let known = self.of_run.iter().find(|known| same(known, &cause));
            cause.earlier = known.and_then(|known| known.earlier.clone());
            match self.causes.iter_mut().find(|(known, _)| same(known, &cause)) {
                Some((known, _)) => *known = cause,
                None => {
                    let item = self.item(&cause, &self.loaded.job().way_to_settle(&cause));
                    self.causes.push((cause, item));
                }
            }
        }
        // Which rows have which cause, and where, in one pass.
        let mut places: Vec<(Vec<usize>, Vec<Option<ColumnId>>)> =
            vec![Default::default(); self.causes.len()];
        for (place, row) in self.review.rows.iter().enumerate() {
            if row.judged != Judged::Rejected {
                continue;
            }
            for finding in row.findings.iter().filter(|finding| rejects(finding)) {
                let of = self.causes.iter().position(|(cause, _)| belongs(finding, cause));
                if let Some((rows, cells)) =
                    of.and_then(|of| places.get_mut(of)).filter(|(rows, _)| rows.last() != Some(&place))
                {
                    rows.push(place);
                    cells.push(self.faulty_column(finding));
                }
            }
        }
        let items = self.causes.iter().zip(places).map(|((_, item), (rows, cells))| {
            let was = item.was.max(rows.len() as u64);
            Item { rows, cells, was, ..item.clone() }
        });
        items.collect()
    }

    /// The column that a finding is about, by its place in its source.
    fn faulty_column(&self, finding: &Finding) -> Option<ColumnId> {
        let source = self.loaded.sources.get(finding.source.index())?;
        let headings = self.loaded.mapping.headings_for(finding.field?, &finding.repeat);
        headings.first().and_then(|heading| source.column(heading))
    }

    fn item(&self, cause: &Cause, settle: &Settle) -> Item {
        let field = cause.field.and_then(|place| self.loaded.target.fields.get(place));
        let value = cause.value.as_deref().filter(|value| !value.is_empty());
        let mut item = Item {
            short: cause_short_label(&self.loaded.mapping, cause),
            label: cause_label(&self.loaded.mapping, cause, true),
            says: cause_says(cause),
            was: cause.rows,
            entry: cause.field.map(|place| field_entry(&self.loaded.target, place)).unwrap_or_default(),
            may_be_blank: field.is_some_and(|field| !field.required),
            ..Item::default()
        };
        if let Settle::Mapping { lines, .. } = settle {
            let mapping = self.loaded.mapping.path.display();
            item.elsewhere = format!("This is for {mapping}: {}", in_one_line(lines));
        }
        // What a value means can be said of any value that a field has, but not where another field may be the
        // wrong one, nor where different values have lost what told them apart.
        let differs = matches!(cause.kind, Kind::CodeOutsideParent | Kind::PowerOfTen | Kind::DigitsLost);
        let about_a_value = value.is_some() && !differs;
        if let (Some(field), true) = (field, about_a_value) {
            item.by_value = true;
            item.list = cause.field.map(|field| (field, cause.within.clone()));
            item.answers = answers(field, settle, &cause.within);
            item.takes_text = field.kind.means() == MeansA::Value;
        }
        item
    }

    /// Settles a cause by a line of its field's crosswalk; says what was done.
    pub(super) fn settle(&mut self, at: usize, answer: &str) -> Result<String> {
        let Some((cause, _)) = self.causes.get(at) else { return Ok(String::new()) };
        let cause = cause.clone();
        let (Some(place), Some(value)) = (cause.field, cause.value.clone()) else { return Ok(String::new()) };
        let Some(field) = self.loaded.target.fields.get(place) else { return Ok(String::new()) };
        let is_value = field.kind.means() == MeansA::Value && field.unmatched != Unmatched::Open;
        if let (Answer::Means(text), true) = (Answer::of(answer), is_value)
            && let Some(why) = Plan::cannot_hold(&self.loaded.target, place, text, self.loaded.today)?
        {
            return Err(Failure::Stopped(format!("\"{text}\" {why}")));
        }
        let line = CrosswalkLine {
            value: value.trim().to_owned(),
            within: cause.within.clone(),
            code: answer.to_owned(),
            by: self.by.clone(),
            on: self.loaded.today.to_string(),
            note: String::new(),
        };
        let (held, mut crosswalk) = hold_crosswalk(&self.loaded.mapping.path, field, None)?;
        let bytes = read_if_there(&held)?;
        let earlier = crosswalk.set(line.clone(), field)?;
        crosswalk.write(&held)?;
        let written = Written::since(bytes, &held)?;
        drop(held);
        let says = format!("{} \"{}\" = {answer}", field.name, visible(&value));
        let decision = Decision::Settle(vec![at], answer.to_owned());
        let back = vec![Back::Crosswalk(place, line, earlier, written)];
        self.undo.push(Undone { says: says.clone(), decision, back });
        let before = self.review.left();
        if let Err(wrong) = self.read_crosswalk(place) {
            self.take_last_back()?;
            return Err(wrong);
        }
        let settled = before.saturating_sub(self.review.left());
        let rows = if settled == 1 { "row" } else { "rows" };
        Ok(format!("{says}: {settled} {rows} settled, {} left", self.review.left()))
    }

    /// Takes the crosswalk of a field as its file has it now.
    pub(super) fn read_crosswalk(&mut self, place: FieldId) -> Result<()> {
        if self.takes_a_run() {
            return self.run_again();
        }
        let Some(field) = self.loaded.target.fields.get(place) else { return Ok(()) };
        let path = crosswalk_path(&self.loaded.mapping.path, &field.name);
        let mut problems = Problems::default();
        let crosswalk =
            if path.exists() { Crosswalk::read(&path, field, &mut problems)? } else { Crosswalk::default() };
        problems.or(())?;
        for map in self.loaded.mapping.maps.iter_mut().filter(|map| map.field == place) {
            map.crosswalk = crosswalk.clone();
        }
        let about = |finding: &Finding| finding.field == Some(place);
        // What is within the field is judged once the field is.
        let depends =
            |row: &dusk_core::run::ReviewRow| row.findings.iter().any(about) || row.judged == Judged::LeftOut;
        Ok(self.review.judge_again(&self.loaded.job(), &depends)?)
    }

    /// Corrects a cell; says what was done.
    pub(super) fn correct(&mut self, place: usize, column: ColumnId, now: &str) -> Result<String> {
        let Some(row) = self.review.rows.get(place) else { return Ok(String::new()) };
        let Some(source) = self.loaded.sources.get(row.source.index()) else { return Ok(String::new()) };
        let before = row.cells.get(column.index()).cloned().unwrap_or_default();
        if before == now {
            return Ok("nothing was changed".into());
        }
        let heading = source.columns.get(column.index()).map_or(BEYOND, String::as_str).to_owned();
        let says = format!("row {}, {heading}: \"{}\"", row.row, visible(now));
        let (at, was) = ((row.source, row.row), row.exported(column).to_owned());
        if let Some(own) = self.remember(place, [&heading, &was, now])? {
            let decision = Decision::Correct(at, column, now.to_owned());
            let back = vec![Back::Cell(at, column, before, own)];
            self.undo.push(Undone { says: says.clone(), decision, back });
        }
        if let Err(wrong) = self.judge_cell(at, column, now) {
            self.take_last_back()?;
            return Err(wrong);
        }
        let fate = match self.place_of(at).and_then(|place| self.review.rows.get(place)) {
            Some(row) if row.judged == Judged::Rejected => "the row is still rejected",
            Some(row) if row.judged == Judged::LeftOut => "the row is left out now",
            _ => "the row fits now",
        };
        Ok(format!("{says}: {fate}, {} left", self.review.left()))
    }

    /// Keeps one row out; says what was done.
    pub(super) fn keep_out(&mut self, place: usize) -> Result<String> {
        let Some(row) = self.review.rows.get(place) else { return Ok(String::new()) };
        let (at, says) = ((row.source, row.row), format!("row {} is kept out", row.row));
        let Some(source) = self.loaded.sources.get(row.source.index()) else { return Ok(String::new()) };
        let says_so =
            |finding: &Finding| matches!(finding.fault.kind(), Kind::DuplicateKey | Kind::KeyWithOtherFacts);
        let prints = self.loaded.mapping.row_hashes(source, &self.loaded.target);
        let double = row.findings.iter().any(says_so) && is_double(source, &prints, row.print)?;
        let was = if double { DOUBLE } else { "" };
        if let Some(own) = self.remember(place, [WHOLE_ROW, was, KEEP_OUT])? {
            let back = vec![Back::Row(at, own)];
            self.undo.push(Undone { says: says.clone(), decision: Decision::KeepOut(at), back });
        }
        if let Err(wrong) = self.judge_row(at, true) {
            self.take_last_back()?;
            return Err(wrong);
        }
        Ok(format!("{says}, {} left", self.review.left()))
    }

    /// Writes a correction of a row: the heading, what the source has there, and what is taken instead.
    fn remember(&self, place: usize, [heading, was, now]: [&str; 3]) -> Result<Option<OwnCorrection>> {
        let Some(row) = self.review.rows.get(place) else { return Ok(None) };
        let Some(source) = self.loaded.sources.get(row.source.index()) else { return Ok(None) };
        let path = corrections_path(&self.loaded.mapping.path, &source.name);
        let (held, mut file) = hold_corrections(&path, None)?;
        let bytes = read_if_there(&held)?;
        let before = file.set(Correction {
            row: row.row,
            column: heading.to_owned(),
            was: was.to_owned(),
            now: now.to_owned(),
            by: self.by.clone(),
            on: self.loaded.today.to_string(),
            note: String::new(),
            print: Some(row.print),
        });
        file.write(&held)?;
        let now = file.find(row.row, row.print, heading).cloned();
        let written = Written::since(bytes, &held)?;
        Ok(Some(OwnCorrection { path, cell: (row.row, row.print, heading.to_owned()), now, before, written }))
    }

    /// Where a row is among those at hand.
    pub(super) fn place_of(&self, (source, row): (SourceId, Row)) -> Option<usize> {
        self.review.rows.iter().position(|one| one.source == source && one.row == row)
    }

    pub(super) fn judge_cell(&mut self, at: (SourceId, Row), column: ColumnId, now: &str) -> Result<()> {
        if self.takes_a_run() {
            return self.run_again();
        }
        if let Some(place) = self.place_of(at) {
            self.review.correct(place, column, now);
        }
        Ok(self.review.judge_again(&self.loaded.job(), &|one| (one.source, one.row) == at)?)
    }

    pub(super) fn judge_row(&mut self, at: (SourceId, Row), kept_out: bool) -> Result<()> {
        if self.takes_a_run() {
            return self.run_again();
        }
        if let Some(place) = self.place_of(at) {
            self.review.keep_out(place, kept_out);
        }
        Ok(self.review.judge_again(&self.loaded.job(), &|one| (one.source, one.row) == at)?)
    }

    /// Takes a line of a crosswalk back.
    pub(super) fn take_back(
        &self,
        place: FieldId,
        line: CrosswalkLine,
        before: Option<CrosswalkLine>,
        written: &Written,
    ) -> Result<()> {
        let Some(field) = self.loaded.target.fields.get(place) else { return Ok(()) };
        let (held, mut crosswalk) = hold_crosswalk(&self.loaded.mapping.path, field, None)?;
        if written.put_back(&held)? {
            return Ok(());
        }
        if !crosswalk.lines().contains(&line) {
            return Err(changed_since(held.path()));
        }
        match before {
            Some(before) => drop(crosswalk.set(before, field)?),
            None => drop(crosswalk.remove(&line.value, &line.within)),
        }
        Ok(crosswalk.write(&held)?)
    }
}

fn rejects(finding: &Finding) -> bool {
    finding.fault.kind().severity() == Severity::Reject
}

/// Whether a finding is one of a cause.
fn belongs(finding: &Finding, cause: &Cause) -> bool {
    let value = finding.fault.part.as_ref().unwrap_or(&finding.value);
    if let Some(column) = &cause.column {
        return column.explains.takes(finding.fault.kind(), finding.field, &finding.about, value);
    }
    finding.fault.kind() == cause.kind
        && finding.about == cause.about
        && cause.value.as_ref().is_none_or(|known| {
            is_one_decision(cause.kind, known, value) && cause.within == finding.fault.within
        })
}

/// What a field's value may mean: the likely answers first, then the whole list, then nothing.
fn answers(field: &Field, settle: &Settle, within: &str) -> Vec<AnswerItem> {
    let mut answers = Vec::new();
    if let Settle::Crosswalk { answers: likely, .. } | Settle::Cell { answers: likely, .. } = settle {
        answers.extend(likely.iter().map(|likely| AnswerItem {
            answer: likely.answer.clone(),
            shown: likely.shown.clone(),
            why: likely.why.clone(),
            is_whole: likely.is_whole,
        }));
    }
    let plain = |answer: &str, shown: String| AnswerItem {
        answer: answer.into(),
        shown,
        why: String::new(),
        is_whole: false,
    };
    if let FieldType::Boolean(BooleanType { yes, no }) = &field.kind {
        answers.push(plain(yes, format!("{yes} (true)")));
        answers.push(plain(no, format!("{no} (false)")));
    }
    let inside = |code: &&Code| within.is_empty() || code.within.is_empty() || code.within == within;
    for code in field.kind.codes().iter().flat_map(|list| list.codes()).filter(inside) {
        if !answers.iter().any(|known| known.answer == code.code) {
            answers.push(plain(&code.code, code.shown()));
        }
    }
    if field.unmatched == Unmatched::Open {
        answers.push(plain(NEW_TERM, "allow it as a new term".into()));
    }
    if !field.required {
        answers.push(plain(LEAVE_BLANK, "leave blank".into()));
    }
    answers.push(plain(KEEP_OUT, "keep the record out".into()));
    answers
}
