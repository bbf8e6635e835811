//! What the target holds is read: every list of `[holds]`, brought into the form in which the target writes values.

use std::io::Seek as _;
use std::path::Path;

use super::job::{Demands, Job};
use super::own_layout::{own_layout, own_positions};
use crate::Ready;
use crate::running::rows_above::RowsAbove;
use dusk_conforming::{Above, Bound, Conformer, Fit, Shape};
use dusk_description::{FieldType, HeldList, Holds, Target, UploadEncoding};
use dusk_evidence::{Error, FieldId, Finding, Result, SourceId, Unproven};
use dusk_held::{HeldBlock, HeldBuilder, HeldRecords, HeldShape, HeldSource, WayFields};
use dusk_mapping::{Feed, Mapping, learn_target};
use dusk_sources::{
    Known, Progress, Rejoined, Source, SourceSettings, Threads, Tray, encoding_named, in_order,
};

use encoding_rs::Encoding;
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// A list that is open.
pub(crate) struct OpenList {
    name: String,
    pub(crate) source: Source,
    pub(crate) mapping: Mapping,
    is_file: bool,
    /// It is laid out as the target writes it: nobody says how its columns are read.
    is_own: bool,
    /// Fields whose dates are taken in the target's order as long as each can be read so.
    in_own_order: Vec<FieldId>,
}

impl OpenList {
    fn new(source: Source, mapping: Mapping, (is_file, is_own): (bool, bool)) -> Self {
        Self { name: source.name.clone(), source, mapping, is_file, is_own, in_own_order: Vec::new() }
    }

    /// A list in the target's own layout.
    pub(crate) fn own(path: &Path, target: &Target, encoding: Option<&'static Encoding>) -> Result<Self> {
        let mut known = Known::default();
        learn_target(&mut known, target);
        let positions = own_positions(target);
        let settings = SourceSettings { encoding, positions, ..SourceSettings::default() };
        let looked = Source::look(path, &settings, &known)?;
        let mut mapping = own_layout(target, &looked);
        mapping.source = settings;
        known.headings = mapping.wanted();
        let source = Source::open(path, &mapping.source, &known)?;
        Ok(Self::new(source, mapping, (true, true)))
    }

    /// Names the order in which the target writes dates, for those of its own layout.
    pub(crate) fn take_own_orders(&mut self, target: &Target) {
        for map in self.mapping.maps.iter_mut().filter(|_| self.is_own) {
            let kind = target.fields.get(map.field).map(|field| &field.kind);
            let Some(FieldType::Date(date)) = kind else { continue };
            map.date.order = date.format.order();
            if map.date.order.is_some() {
                self.in_own_order.push(map.field);
            }
        }
    }

    /// Names no order any more, so that the values are weighed.
    fn give_back_orders(&mut self) {
        let taken = std::mem::take(&mut self.in_own_order);
        for map in self.mapping.maps.iter_mut().filter(|map| taken.contains(&map.field)) {
            map.date.order = None;
        }
    }
}

/// Reads what the target holds, for comparing records that `mapping` makes; nothing where the description does not
/// say where that is listed.
///
/// # Errors
/// [`Error::Request`] where a list lacks the fields by which records are found, or a row of it cannot be read;
/// whatever stops reading it.
pub fn read_held(
    target: &Target,
    mapping: &Mapping,
    (today, threads): (Date, Threads),
    progress: &Progress<'_>,
) -> Result<Option<HeldRecords>> {
    let Some(holds) = &target.holds else { return Ok(None) };
    let mut lists = holds.lists.iter().map(|list| open(list, target)).collect::<Result<Vec<_>>>()?;
    let fields = common_fields(target, &lists);
    refuse_lists_without_keys(target, holds, &lists)?;
    let compared = compared(target, mapping, holds, &fields);
    let ways = ways(target, holds, &fields);
    let shape = HeldShape::new(target, fields, compared, ways);
    // Numbers that the first rows leave out of doubt are mostly so to the end, and the target's own dates mostly have
    // the order in which it writes them. Where a value says otherwise, all are weighed.
    lists.iter_mut().for_each(|list| list.take_own_orders(target));
    match read_lists(&mut lists, &shape, false, (today, threads), progress) {
        Err(Error::LateDoubt) => {}
        done => return done.map(Some),
    }
    lists.iter_mut().for_each(OpenList::give_back_orders);
    read_lists(&mut lists, &shape, true, (today, threads), progress).map(Some)
}

/// Reads all lists; with `weigh_all` the values of all rows are weighed, whatever the first ones hold.
fn read_lists(
    lists: &mut [OpenList],
    shape: &HeldShape<'_>,
    weigh_all: bool,
    (today, threads): (Date, Threads),
    progress: &Progress<'_>,
) -> Result<HeldRecords> {
    let target = shape.target;
    let mut builder = HeldBuilder::new(shape.clone())?;
    let mut read = Vec::new();
    for (place, list) in lists.iter_mut().enumerate() {
        let lacks =
            fed(target).filter(|field| !list.mapping.maps.iter().any(|map| map.field == *field)).collect();
        let demands = Demands { all_numbers: weigh_all, ..Demands::default() };
        let given = (place, &demands, today, threads);
        let (records, blake3) = read_list(list, target, given, &mut builder, progress)?;
        let blake3 = list.is_file.then_some(blake3);
        let changed_on = list.is_file.then(|| changed_on(Path::new(&list.name))).flatten();
        read.push(HeldSource { name: list.name.clone(), records, blake3, changed_on, lacks });
    }
    builder.finish(read)
}

/// The held records as cells of the upload file: a row each, a cell for each heading.
///
/// # Errors
/// [`Error::File`] when they cannot be read back.
pub fn held_cells(target: &Target, held: &HeldRecords) -> Result<Vec<Vec<String>>> {
    let mut reader = held.reader()?;
    let mut rows = Vec::new();
    for number in 0..held.len() {
        let record = reader.read(number)?;
        let sent = target.fields.with_ids().filter(|(_, field)| field.is_sent());
        let cells =
            sent.flat_map(|(id, field)| field.kind.cells_of(record.text(held, id).unwrap_or_default()));
        rows.push(cells.collect());
    }
    Ok(rows)
}

/// The day on which a file was changed, of the clock of UTC.
fn changed_on(path: &Path) -> Option<Date> {
    let changed = std::fs::metadata(path).and_then(|metadata| metadata.modified()).ok()?;
    Some(Timestamp::try_from(changed).ok()?.to_zoned_datetime(TimeZone::UTC).date())
}

/// The fields that a list may have columns for.
fn fed(target: &Target) -> impl Iterator<Item = FieldId> {
    let is_told = |id: &FieldId| {
        target.fields.get(*id).is_some_and(|field| field.is_sent() && field.operation.is_none())
    };
    target.fields.ids().filter(is_told)
}

fn open(list: &HeldList, target: &Target) -> Result<OpenList> {
    match list {
        HeldList::File { path, mapping: None } => {
            // What nothing in it proves is as in the target's own files.
            OpenList::own(path, target, None).or_else(|error| match target.upload.encoding {
                UploadEncoding::Whatwg(encoding) if encoding.name() != "UTF-8" => {
                    OpenList::own(path, target, Some(encoding))
                }
                _ => Err(error),
            })
        }
        HeldList::File { path, mapping: Some(mapping) } => {
            let (mapping, own) = dusk_mapping::read(mapping)?;
            if own.name != target.name {
                return Err(Error::Request(format!(
                    "{} is for the target {}, and is to read what {} holds\n  write target = \"…\" in it as in the mapping of the export",
                    mapping.path.display(),
                    own.name,
                    target.name
                )));
            }
            let source = Source::open(path, &mapping.source, &mapping.known(target))?;
            Ok(OpenList::new(source, mapping, (true, false)))
        }
        HeldList::Table { database, table } => open_table(database, table, target),
    }
}

/// A table's rows as a list of their own.
fn open_table(database: &Path, table: &str, target: &Target) -> Result<OpenList> {
    let name = format!("{table} in {}", dusk_database::shown(database));
    let mut file = tempfile::tempfile().map_err(Error::writing(Path::new("the temporary folder")))?;
    let wanted: Vec<&str> = target.headings();
    dusk_database::copy_table(database, table, &wanted, &mut file)?;
    file.rewind().map_err(Error::reading(Path::new("the temporary folder")))?;
    let settings = SourceSettings {
        encoding: encoding_named("utf-8"),
        delimiter: Some(",".into()),
        header_row: Some(1),
        ..SourceSettings::default()
    };
    let source = Source::open_stream(name.clone(), &mut file, &settings, &Known::default(), true)?;
    let mapping = own_layout(target, &source);
    Ok(OpenList::new(source, mapping, (false, true)))
}

/// The fields that every list has.
fn common_fields(target: &Target, lists: &[OpenList]) -> Vec<FieldId> {
    let has = |list: &OpenList, field: FieldId| list.mapping.maps.iter().any(|map| map.field == field);
    fed(target).filter(|field| lists.iter().all(|list| has(list, *field))).collect()
}

/// A list without the columns by which its records are found is no list of them.
fn refuse_lists_without_keys(target: &Target, holds: &Holds, lists: &[OpenList]) -> Result<()> {
    let given = target.fields.with_ids().filter(|(_, field)| field.given_by_target).map(|(id, _)| id);
    for list in lists {
        let lacks = |field: &FieldId| !list.mapping.maps.iter().any(|map| map.field == *field);
        let missing: Vec<&str> = holds
            .found_by
            .iter()
            .copied()
            .chain(given.clone().filter(|_| holds.found_by.is_empty()))
            .filter(lacks)
            .filter_map(|field| target.fields.get(field))
            .map(|field| field.name.as_str())
            .collect();
        if !missing.is_empty() {
            return Err(Error::Request(format!(
                "{}, which lists what the target holds, has no column for {}, by which its records are found\n  export it with that column, or say how its columns are read with mapping = \"…\" under [holds]",
                list.name,
                missing.join(" and ")
            )));
        }
    }
    Ok(())
}

/// The fields in which records are compared: those that an export feeds.
fn compared(target: &Target, mapping: &Mapping, holds: &Holds, known: &[FieldId]) -> Vec<FieldId> {
    let is_compared = |id: &FieldId| {
        let Some(field) = target.fields.get(*id) else { return false };
        let is_fed = mapping.maps.iter().any(|map| map.field == *id && !is_asked(&map.feed))
            || field.fixed.is_some()
            || field.made_of.is_some();
        let is_key = field.key && holds.found_by.contains(id);
        is_fed && !is_key && !field.only_when_new && !field.given_by_target
    };
    known.iter().copied().filter(is_compared).collect()
}

/// Whether a field is what every run is asked for, as who loads it: that is news of the run, and none of the record.
fn is_asked(feed: &Feed) -> bool {
    matches!(feed, Feed::Constant(template) if template.names().next().is_some())
}

/// How records are found: by the identifier that the target has given, then by what tells them apart.
fn ways(target: &Target, holds: &Holds, known: &[FieldId]) -> Vec<WayFields> {
    let is_given = |id: &FieldId| target.fields.get(*id).is_some_and(|field| field.given_by_target);
    let given: Vec<FieldId> = known.iter().copied().filter(is_given).collect();
    let mut ways = Vec::new();
    if !given.is_empty() {
        ways.push(WayFields { fields: given, given_by_target: true });
    }
    if !holds.found_by.is_empty() {
        ways.push(WayFields { fields: holds.found_by.clone(), given_by_target: false });
    }
    ways
}

/// Reads one list; gives back how many records it has, and its hash.
fn read_list(
    list: &mut OpenList,
    target: &Target,
    given: (usize, &Demands, Date, Threads),
    builder: &mut HeldBuilder<'_>,
    progress: &Progress<'_>,
) -> Result<(u64, String)> {
    let result = read_as(list, target, given, builder, progress);
    let Err(Error::Undecided(open)) = result else { return result };
    // What its values leave open is as the target writes it.
    for undecided in &open {
        let order = match target.fields.get(undecided.field).map(|field| &field.kind) {
            Some(FieldType::Date(date)) if undecided.why == Unproven::NoOrder => date.format.order(),
            _ => None,
        };
        let map = list.mapping.maps.iter_mut().find(|map| map.field == undecided.field);
        match (map, order) {
            (Some(map), Some(order)) => map.date.order = Some(order),
            _ => return Err(Error::Undecided(open)),
        }
    }
    read_as(list, target, given, builder, progress)
}

fn read_as(
    list: &OpenList,
    target: &Target,
    (place, demands, today, threads): (usize, &Demands, Date, Threads),
    builder: &mut HeldBuilder<'_>,
    progress: &Progress<'_>,
) -> Result<(u64, String)> {
    let job = Job::new(target, &list.mapping, std::slice::from_ref(&list.source), today, threads);
    // Nothing is taken in before it is certain how all of it is read.
    let ready = job.prepare_as(demands, &|_, _| {})?;
    let shape = builder.shape().clone();
    let columns = vec![ready.plan.bind(&list.source)?];
    let make_worker = |_| {
        let conformer = Conformer::new(&ready.plan, false)?;
        let to_doubt = ready.not_weighed.iter().chain(&list.in_own_order).copied().collect();
        let mut worker = HeldWorker { conformer, ready: &ready, shape: &shape, list: place, to_doubt };
        let columns = &columns;
        Ok(move |tray: &mut Tray<HeldRows>| worker.work(tray, columns))
    };
    let mut above = RowsAbove::new(&ready.plan, job.sources, &columns);
    let begin = |tray: &mut Tray<HeldRows>| above.begin(tray.source, &tray.block, &mut tray.result.above);
    let mut records = 0;
    let identities = in_order(job.sources, threads, begin, make_worker, |tray| {
        if let Some(finding) = tray.result.unreadable.take() {
            return Err(unreadable(&list.name, &finding));
        }
        if tray.result.is_doubtful {
            return Err(Error::LateDoubt);
        }
        if records == 0 {
            builder.make_room_for(tray.block.rows_expected(tray.result.block.len(), list.source.bytes));
        }
        records += tray.result.block.len() as u64;
        builder.take(&tray.result.block)?;
        progress(records, tray.block.bytes_read);
        Ok(())
    })?;
    Ok((records, identities.into_iter().next().map_or_else(String::new, |identity| identity.blake3)))
}

/// A row that cannot be told into cells could be any record.
fn unreadable(list: &str, finding: &Finding) -> Error {
    Error::Request(format!(
        "row {} of {list}, which lists what the target holds, {}\n  right would be: {}",
        finding.row,
        finding.fault.wrong(),
        finding.fault.right()
    ))
}

/// The records of a block.
#[derive(Debug, Default)]
struct HeldRows {
    above: Vec<Above>,
    block: HeldBlock,
    /// A row that cannot be told into cells.
    unreadable: Option<Finding>,
    /// A value might be read otherwise, and its column was not weighed.
    is_doubtful: bool,
}

/// Reads blocks of a list.
struct HeldWorker<'r> {
    conformer: Conformer<'r>,
    ready: &'r Ready<'r>,
    shape: &'r HeldShape<'r>,
    /// Which list it is.
    list: usize,
    /// Fields whose columns were not weighed.
    to_doubt: Vec<FieldId>,
}

impl HeldWorker<'_> {
    /// Whether a value of the record at hand might be read otherwise, and its column was not weighed.
    fn is_doubtful(&self) -> bool {
        self.to_doubt.iter().any(|field| self.conformer.said(*field).is_none())
    }

    fn work(&mut self, tray: &mut Tray<HeldRows>, columns: &[Vec<Bound>]) {
        let result = &mut tray.result;
        result.block.clear();
        result.is_doubtful = false;
        let (Some(source), Some(columns)) = (self.ready.job.sources.first(), columns.first()) else { return };
        let shape = Shape::of(source, SourceId::FIRST, columns);
        let mut rows = tray.block.rows(&source.dialect);
        let (mut text, mut ends) = (String::new(), Vec::new());
        self.conformer.start_below(&result.above);
        while let Some(as_read) = rows.next() {
            let (mut room, mut findings) = (Rejoined::default(), Vec::new());
            let (row, fit) = self.conformer.fit(as_read, &shape, &mut room, &mut findings);
            match fit {
                Fit::LeftOut => {}
                Fit::Rejected => result.unreadable = result.unreadable.take().or(findings.into_iter().next()),
                Fit::Whole => {
                    for record in shape.records(&row, &self.ready.plan) {
                        let is_faulty = self.conformer.only_values(&row, &record);
                        result.is_doubtful |= is_faulty && self.is_doubtful();
                        text.clear();
                        ends.clear();
                        for field in &self.shape.fields {
                            self.conformer.held_text(*field, &row, &record, &mut text);
                            ends.push(text.len());
                        }
                        result.block.add(self.shape, (self.list, row.row()), &text, &ends);
                    }
                }
            }
            self.conformer.pass(&as_read, &shape);
        }
        // What was met is of no use here, and would fill the memory.
        drop(self.conformer.take_met());
    }
}
