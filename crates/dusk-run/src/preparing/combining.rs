//! Rows of one key are found and made one record each, before the run: which row is kept, and what the others add.

use hashbrown::{HashMap, HashSet};

use super::job::Job;
use crate::running::row_numbers::RowNumbers;
use crate::running::rows_above::RowsAbove;
use dusk_conforming::{Above, Bound, Combined, CombinedRow, Conformer, Fit, Judged, Plan, Shape};
use dusk_description::FieldType;
use dusk_evidence::{
    EarlierRecord, Fact, FieldId, Finding, Id as _, Result, Row, Severity, SourceId, TextFact,
};
use dusk_held::{KeyHash, KeyRoom, Keys, WayFields, means_the_same};
use dusk_mapping::SameKey;
use dusk_sources::{Rejoined, Tray, in_order};

/// Where a row is.
type At = (SourceId, Row);

/// What the row that is kept is given by the others.
type Additions = Vec<(FieldId, String)>;

/// What each row of a key contradicts.
type Contradictions = Vec<(At, CombinedRow)>;

/// One of several rows with the same key.
struct GroupRow {
    at: At,
    /// What it says in each field, nothing where it is blank.
    says: Vec<Option<String>>,
}

impl<'j> Job<'j> {
    /// Finds the rows that share a key, and says what becomes of each of them; nothing where the mapping lets every row
    /// be a record of its own.
    pub(super) fn combine(&self, plan: &Plan<'j>) -> Result<Option<Combined>> {
        if !self.mapping.same_key.needs_all_rows() {
            return Ok(None);
        }
        let way = self.sameness();
        let columns = self.sources.iter().map(|source| plan.bind(source)).collect::<Result<Vec<_>>>()?;
        let groups = self.groups(plan, &way, &columns)?;
        let wanted: HashSet<At> = groups.values().flatten().copied().collect();
        let said = self.what_they_say(plan, &columns, &wanted)?;
        let mut combined = Combined::default();
        let mut groups: Vec<Vec<At>> = groups.into_values().collect();
        groups.sort_unstable();
        for group in groups {
            let rows: Vec<GroupRow> = group
                .into_iter()
                .filter_map(|at| Some(GroupRow { at, says: said.get(&at)?.clone() }))
                .collect();
            if rows.len() > 1 {
                self.settle_group(&rows, &mut combined);
            }
        }
        Ok(Some(combined))
    }

    /// By which fields rows are of one record.
    fn sameness(&self) -> WayFields {
        let mut fields = self.mapping.same_by.clone();
        if fields.is_empty() {
            let keys = self.target.fields.with_ids().filter(|(_, field)| field.key);
            fields = keys.map(|(id, _)| id).collect();
        }
        WayFields { fields, given_by_target: false }
    }

    /// The rows of each key that several rows have.
    fn groups(
        &self,
        plan: &Plan<'j>,
        way: &WayFields,
        columns: &[Vec<Bound>],
    ) -> Result<HashMap<u32, Vec<At>>> {
        let mut keys = Keys::default();
        let mut numbers = RowNumbers::default();
        let mut groups: HashMap<u32, Vec<At>> = HashMap::new();
        let mut above = RowsAbove::new(plan, self.sources, columns);
        let begin = |tray: &mut Tray<RowKeys>| above.begin(tray.source, &tray.block, &mut tray.result.above);
        let make_worker = |_| {
            let mut conformer = Conformer::new(plan, false)?;
            Ok(move |tray: &mut Tray<RowKeys>| self.keys_of_block(&mut conformer, way, columns, tray))
        };
        in_order(self.sources, self.threads, begin, make_worker, |tray| {
            for (row, key) in tray.result.keys.drain(..) {
                let number = numbers.number(tray.source, row)?;
                if let Some(first) = keys.insert(key, number) {
                    let first_at = numbers.row_of(first);
                    groups.entry(first).or_insert_with(|| vec![first_at]).push((tray.source, row));
                }
            }
            numbers.pass(tray.result.rows);
            Ok(())
        })?;
        Ok(groups)
    }

    fn keys_of_block(
        &self,
        conformer: &mut Conformer<'_>,
        way: &WayFields,
        columns: &[Vec<Bound>],
        tray: &mut Tray<RowKeys>,
    ) {
        tray.result.keys.clear();
        tray.result.rows = 0;
        let place = tray.source.index();
        let (Some(source), Some(columns)) = (self.sources.get(place), columns.get(place)) else { return };
        let shape = Shape::of(source, tray.source, columns);
        let mut room_for_keys = KeyRoom::default();
        conformer.start_below(&tray.result.above);
        let mut rows = tray.block.rows(&source.dialect);
        while let Some(as_read) = rows.next() {
            tray.result.rows += 1;
            let (mut room, mut findings) = (Rejoined::default(), Vec::new());
            let (row, fit) = conformer.fit(as_read, &shape, &mut room, &mut findings);
            if fit == Fit::Whole && self.takes_part(conformer.judge(&row, &shape, &mut findings), &findings) {
                let key = way.key(self.target, &mut room_for_keys, |field| conformer.said(field));
                tray.result.keys.extend(key.map(|(key, _)| (row.row(), key)));
            }
            conformer.pass(&as_read, &shape);
        }
        drop(conformer.take_met());
    }

    /// What some rows say, field by field.
    fn what_they_say(
        &self,
        plan: &Plan<'j>,
        columns: &[Vec<Bound>],
        wanted: &HashSet<At>,
    ) -> Result<HashMap<At, Vec<Option<String>>>> {
        let mut said = HashMap::new();
        if wanted.is_empty() {
            return Ok(said);
        }
        let mut conformer = Conformer::new(plan, false)?;
        for ((place, source), columns) in self.sources_with_ids().zip(columns) {
            let shape = Shape::of(source, place, columns);
            let mut walk = source.walk()?;
            conformer.start_below(&[]);
            while let Some(mut rows) = walk.more()? {
                while let Some(as_read) = rows.next() {
                    if wanted.contains(&(place, as_read.row())) {
                        let (mut room, mut findings) = (Rejoined::default(), Vec::new());
                        let (row, _) = conformer.fit(as_read, &shape, &mut room, &mut findings);
                        conformer.judge(&row, &shape, &mut findings);
                        let text = |field: FieldId| {
                            let is_said = !conformer.says_nothing(field);
                            conformer.said(field).filter(|_| is_said).map(str::to_owned)
                        };
                        said.insert((place, row.row()), plan.fields.ids().map(text).collect());
                    }
                    conformer.pass(&as_read, &shape);
                }
            }
        }
        Ok(said)
    }

    /// What becomes of the rows of one key, in their order.
    fn settle_group(&self, rows: &[GroupRow], combined: &mut Combined) {
        let filled = |row: &GroupRow| row.says.iter().flatten().count();
        let fullest = rows.iter().map(filled).max();
        let kept = match self.mapping.same_key {
            SameKey::Last => rows.last(),
            SameKey::Fullest => rows.iter().find(|row| Some(filled(row)) == fullest),
            SameKey::First | SameKey::Combine | SameKey::Reject | SameKey::Merge => rows.first(),
        };
        let Some(kept) = kept else { return };
        let mut values = Vec::new();
        if self.mapping.same_key == SameKey::Combine {
            match self.put_together(rows, kept) {
                Ok(together) => values = together,
                Err(contradictions) => {
                    combined.rows.extend(contradictions);
                    return;
                }
            }
        }
        for row in rows {
            let fate = match row.at == kept.at {
                true => CombinedRow::Kept(std::mem::take(&mut values)),
                false => CombinedRow::Into(self.as_seen_from(row.at, kept.at)),
            };
            combined.rows.insert(row.at, fate);
        }
    }

    /// What the kept row is given by the others; or what each row contradicts.
    fn put_together(
        &self,
        rows: &[GroupRow],
        kept: &GroupRow,
    ) -> std::result::Result<Additions, Contradictions> {
        let mut values = Vec::new();
        let by = self.sameness().fields;
        for (id, field) in self.target.fields.with_ids() {
            let said = |row: &GroupRow| row.says.get(id.index()).cloned().flatten();
            let mut all: Vec<(At, String)> = Vec::new();
            for row in rows {
                let Some(text) = said(row) else { continue };
                // What they are found by is the same, however it is written.
                let is_known = !all.is_empty() && by.contains(&id)
                    || all.iter().any(|(_, known)| means_the_same(&field.kind, known, &text));
                if !is_known {
                    all.push((row.at, text));
                }
            }
            let together = match (&field.kind, all.as_slice()) {
                // Each of them says by itself that it has to be filled.
                (_, []) if field.required => return Err(Vec::new()),
                (_, []) => continue,
                (_, [(_, only)]) => only.clone(),
                (FieldType::Codes(codes), several) => {
                    let mut each: Vec<&str> = Vec::new();
                    for code in several.iter().flat_map(|(_, text)| codes.layout.codes_of(text)) {
                        if !each.contains(&code) {
                            each.push(code);
                        }
                    }
                    codes.layout.joined(&each)
                }
                (_, [first, second, ..]) => return Err(self.contradicted(rows, id, first, second, &said)),
            };
            if said(kept).as_deref() != Some(together.as_str()) {
                values.push((id, together));
            }
        }
        Ok(values)
    }

    /// Every row of a key says which one it contradicts.
    fn contradicted(
        &self,
        rows: &[GroupRow],
        field: FieldId,
        first: &(At, String),
        second: &(At, String),
        said: &dyn Fn(&GroupRow) -> Option<String>,
    ) -> Vec<(At, CombinedRow)> {
        let kind = self.target.fields.get(field).map(|field| &field.kind);
        let of_row = |row: &GroupRow| {
            let says_first =
                said(row).zip(kind).is_some_and(|(text, kind)| means_the_same(kind, &text, &first.1));
            let (other, text) = if says_first { second } else { first };
            let fate = CombinedRow::Contradicted {
                field,
                other: text.clone(),
                at: self.as_seen_from(row.at, *other),
            };
            (row.at, fate)
        };
        rows.iter().map(of_row).collect()
    }

    /// Whether a row takes part: it goes in; or rows are put together, and it lacks only what another one may have.
    fn takes_part(&self, judged: Judged, findings: &[Finding]) -> bool {
        let is_blank = |finding: &Finding| *finding.fault.fact == Fact::from(TextFact::RequiredBlank);
        let rejects = |finding: &&Finding| finding.fault.kind().severity() == Severity::Reject;
        match judged {
            Judged::Accepted => true,
            Judged::Rejected if self.mapping.same_key == SameKey::Combine => {
                findings.iter().filter(rejects).all(is_blank)
            }
            Judged::Rejected | Judged::LeftOut | Judged::Merged => false,
        }
    }

    /// Where a row is, as seen from another.
    fn as_seen_from(&self, (source, _): At, (other, row): At) -> EarlierRecord {
        match self.sources.get(other.index()).filter(|_| other != source) {
            Some(opened) => EarlierRecord::RowOf(row.0, opened.name.clone()),
            None => EarlierRecord::Row(row.0),
        }
    }
}

/// The keys of a block's rows.
#[derive(Debug, Default)]
struct RowKeys {
    above: Vec<Above>,
    keys: Vec<(Row, KeyHash)>,
    /// How many rows there are.
    rows: u64,
}
