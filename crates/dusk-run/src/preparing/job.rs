//! What a run is given, and what is settled before its first row.

use std::collections::{BTreeMap, BTreeSet};

use jiff::civil::Date;

use crate::SentBefore;
use dusk_conforming::{Plan, Proven};
use dusk_description::Target;
use dusk_evidence::{Error, FieldEvidence, FieldId, Finding, Id as _, Result, Row, SourceId, Undecided};
use dusk_held::HeldRecords;
use dusk_mapping::Mapping;
use dusk_memory::KnownRecords;
use dusk_sources::{Progress, Source, Threads};
use dusk_values::nearest;

/// What a run is given. Nothing else has a part in the result.
#[derive(Debug)]
pub struct Job<'j> {
    /// The target.
    pub target: &'j Target,
    /// The mapping.
    pub mapping: &'j Mapping,
    /// The sources, which together make one batch.
    pub sources: &'j [Source],
    /// The values given for `[ask]`.
    pub asked: &'j [(String, String)],
    /// The day of the run.
    pub today: Date,
    /// How many threads share the work; the result is the same for any number.
    pub threads: Threads,
    /// The orders that the dates of the last batch proved, by the names of the fields: a suggestion, no proof.
    pub last_orders: Option<&'j BTreeMap<String, String>>,
    /// The records of the last batch, to tell which are there again.
    pub known_records: Option<&'j KnownRecords>,
    /// The records that the target holds, where its description says where they are listed.
    pub held: Option<&'j HeldRecords>,
    /// What became of the records in batches before, of which this one sends the rest.
    pub sent_before: Option<&'j SentBefore>,
    /// The rows that are sent first, where the others wait.
    pub only_rows: Option<&'j BTreeSet<(SourceId, Row)>>,
    /// Which records are told one by one beside those that the target holds.
    pub told: ToldBeside,
}

/// Which records are told one by one beside those that the target holds.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum ToldBeside {
    /// Those that change, with what changes.
    #[default]
    Changed,
    /// New ones as well, with all of their values.
    New,
    /// And those that are held as they are, with their keys.
    Same,
}

/// How far readings have to be settled before the first row.
#[derive(Debug, Clone, Default)]
pub struct Demands {
    /// The numbers of all rows are weighed, whatever the first rows hold.
    pub all_numbers: bool,
    /// Where dates do not prove their order the job goes on, and they are rejected: so everything else is
    /// seen as well. No batch can be written then.
    pub leave_open: bool,
    /// Columns of which a run has shown that their dates deny what the mapping names.
    pub denied: Vec<Undecided>,
    /// A run has shown that more rows are split by a delimiter inside a value than is left to a warning.
    pub many_split: bool,
    /// Fields of whose long numbers a run has shown that a spreadsheet program took the last digit.
    pub damaged: Vec<FieldId>,
}

/// A job whose readings are settled, but for those that were left open.
#[derive(Debug)]
pub struct Ready<'j> {
    /// The job.
    pub job: &'j Job<'j>,
    /// The compiled plan.
    pub plan: Plan<'j>,
    /// The evidence for the readings that the mapping does not name.
    pub evidence: Vec<FieldEvidence>,
    /// The columns whose dates nobody can read with certainty yet, where that was allowed.
    pub open: Vec<Undecided>,
    /// What was noticed about whole columns and fields.
    pub noticed: Vec<Finding>,
    /// Fields of numbers whose columns were not weighed, since their first rows left no doubt.
    pub(crate) not_weighed: Vec<FieldId>,
    /// What the data proved.
    pub(crate) proven: Proven,
}

impl<'j> Job<'j> {
    /// A job over these sources and nothing beside them: no last month, nothing held, nothing sent before.
    #[must_use]
    pub fn new(
        target: &'j Target,
        mapping: &'j Mapping,
        sources: &'j [Source],
        today: Date,
        threads: Threads,
    ) -> Self {
        Self {
            target,
            mapping,
            sources,
            asked: &[],
            today,
            threads,
            last_orders: None,
            known_records: None,
            held: None,
            sent_before: None,
            only_rows: None,
            told: ToldBeside::default(),
        }
    }

    /// The sources, in order.
    pub(crate) fn sources_with_ids(&self) -> impl Iterator<Item = (SourceId, &'j Source)> {
        self.sources.iter().enumerate().map(|(index, source)| (SourceId::new(index), source))
    }

    /// Settles every reading: asked values are there, date orders and decimal marks are proven by
    /// the data, and constants and defaults are allowed.
    ///
    /// # Errors
    /// [`Error::Asked`] for a value that is missing or that nobody asks for;
    /// [`Error::Undecided`] for columns that do not prove their order.
    pub fn prepare(&'j self, progress: &Progress<'_>) -> Result<Ready<'j>> {
        self.prepare_as(&Demands::default(), progress)
    }

    /// As [`Job::prepare`], as far as is demanded.
    ///
    /// # Errors
    /// As [`Job::prepare`].
    pub fn prepare_as(&'j self, demands: &Demands, progress: &Progress<'_>) -> Result<Ready<'j>> {
        self.check_asked()?;
        // What values are made of is known before it is known how they are read.
        let unproven = Plan::compile(self.target, self.mapping, self.asked, self.today, &Proven::default())?;
        let settled = self.settle(&unproven, demands, progress)?;
        if !settled.open.is_empty() && !demands.leave_open {
            return Err(Error::Undecided(settled.open));
        }
        let plan = Plan::compile(self.target, self.mapping, self.asked, self.today, &settled.proven)?;
        let plan = match self.combine(&plan)? {
            Some(combined) => plan.combining(combined),
            None => plan,
        };
        let plan = plan.beside(self.held, self.told >= ToldBeside::New);
        Ok(Ready {
            job: self,
            plan,
            evidence: settled.evidence,
            open: settled.open,
            noticed: self.notice(),
            not_weighed: settled.not_weighed,
            proven: settled.proven,
        })
    }

    /// The order that the dates of a field proved in the last batch.
    pub(crate) fn last_order(&self, field: FieldId) -> Option<&'j str> {
        let name = &self.target.fields.get(field)?.name;
        self.last_orders?.get(name).map(String::as_str)
    }

    pub(crate) fn source_names(&self) -> Vec<String> {
        self.sources.iter().map(|source| source.name.clone()).collect()
    }

    fn check_asked(&self) -> Result<()> {
        let mapping = &self.mapping;
        let missing: Vec<String> = mapping
            .ask
            .iter()
            .filter(|(name, _)| {
                !self.asked.iter().any(|(given, value)| given == name && !value.trim().is_empty())
            })
            .map(|(name, question)| format!("  {question}\n    --set {name}=…"))
            .collect();
        if !missing.is_empty() {
            return Err(Error::Asked(format!(
                "{} asks for values that every run must be given:\n{}",
                mapping.path.display(),
                missing.join("\n")
            )));
        }
        let is_unknown = |name: &&str| !mapping.ask.iter().any(|(known, _)| known == name);
        match self.asked.iter().map(|(name, _)| name.as_str()).find(is_unknown) {
            Some(name) => Err(self.nothing_asks_for(name)),
            None => Ok(()),
        }
    }

    fn nothing_asks_for(&self, name: &str) -> Error {
        let hint = match nearest(name, self.mapping.ask.iter().map(|(known, _)| known.as_str())) {
            Some(near) => format!("did you mean {near}?"),
            None => {
                let path = self.mapping.path.display();
                format!("write {name} = \"a question\" under [ask] in {path}")
            }
        };
        Error::Asked(format!("nothing asks for --set {name}=…; {hint}"))
    }
}
