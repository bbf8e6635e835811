//! Words for what speaks for a column, and for what is wrong with one.

use crate::{ColumnFact, Grounds, Holding, Share, Undecided, Unproven, Way};

impl Grounds {
    /// Whether they say nothing.
    pub fn is_nothing(&self) -> bool {
        *self == Self::Nothing
    }

    /// In words; `column` is named where it is not clear which column is meant.
    pub fn words(&self, column: Option<&str>) -> String {
        let values = column.map_or_else(|| "values".to_owned(), |column| format!("values of \"{column}\""));
        match self {
            Self::Nothing => String::new(),
            Self::Some(share, held) => some(*share, held, &values),
            Self::NoneIn(list) => format!("not one of the {values} is in {list}"),
            Self::Different(count) => format!("there are {count} different {values}"),
        }
    }
}

fn some(Share { fit, of }: Share, held: &Holding, values: &str) -> String {
    let count = if fit == of { format!("all {of} {values}") } else { format!("{fit} of {of} {values}") };
    match held {
        Holding::In(list) => format!("{count} are in {list}"),
        Holding::InParted { between, list } => {
            let between = if *between == "\n" { "a line break" } else { between };
            format!("with \"{between}\" between them {count} are in {list}")
        }
        Holding::Files => format!("{count} are files of the folder"),
        Holding::Numbers => format!("{count} are numbers"),
        Holding::OutsideLimits => format!("{count} are outside the limits"),
        Holding::Booleans => format!("{count} are words for true and false"),
        Holding::Digits(digits) => format!("{count} have up to {digits} digits"),
        Holding::Form => format!("{count} have the form demanded"),
        Holding::TooLong => format!("{count} are longer than the field takes"),
        Holding::Times => format!("{count} are times of day"),
        Holding::Dates => format!("{count} are dates"),
        Holding::DatesWithTime => format!("{count} are dates with a time"),
        Holding::DatesWithoutTime => format!("{count} are dates, most without a time"),
    }
}

impl Unproven {
    /// In words, as the rest of a sentence about the column.
    pub fn words(self) -> &'static str {
        match self {
            Self::NoOrder => "its dates do not prove one order of day, month and year",
            Self::OtherOrder => "its dates prove another order of day, month and year than the mapping names",
            Self::NoUnit => "nothing says which unit its numbers are in",
            Self::UnclearUnit => "its heading names a unit that is not clear",
            Self::OwnUnit => "its heading names another unit than the target, and the mapping names none",
            Self::UnitsBeside => "a column beside it names other units than the one taken for granted",
            Self::OtherUnit => "its heading names another unit than the mapping",
            Self::Shares => {
                "its numbers are all between 0 and 1, and may be shares of one instead of percents"
            }
        }
    }
}

/// What the lines that let values in do to them.
fn settled_by(ways: &[Way], settled: u64, of: u64) -> String {
    let values = if settled == of { format!("all {of}") } else { format!("{settled} of {of}") };
    let becomes = |way: &Way| format!("\"{}\" becomes {}", way.value, way.becomes);
    match ways {
        [way] => format!("{} lets {values} in and changes no other value: {}", way.line, becomes(way)),
        ways => {
            let ways: Vec<String> =
                ways.iter().map(|way| format!("with {}, {}", way.line, becomes(way))).collect();
            format!("nothing proves which of these lets {values} in rightly: {}", ways.join("; "))
        }
    }
}

impl ColumnFact {
    /// What is wrong with the column as a whole, in words.
    pub fn says(&self) -> String {
        match self {
            Self::Exchanged { columns: [first, second], grounds } => format!(
                "the columns \"{first}\" and \"{second}\" seem to be exchanged: {}",
                grounds.words(Some(second))
            ),
            Self::ExchangedByRule { columns: [first, second], broken, broken_then } => {
                let then = if *broken_then == 0 { "none".to_owned() } else { format!("only {broken_then}") };
                format!(
                    "the columns \"{first}\" and \"{second}\" seem to be exchanged: of the first {broken} records that break this rule, {then} would if they were"
                )
            }
            Self::Wrong { column, better, grounds } => format!(
                "the column \"{column}\" seems to be the wrong one: of \"{better}\" {}",
                grounds.words(None)
            ),
            Self::Settled { ways, settled, of } => settled_by(ways, *settled, *of),
            Self::Unproven { why, evidence } => {
                format!("{}: {}; no batch is made until it is known", why.words(), evidence.verdict_shown())
            }
        }
    }

    /// What more there is to say, line by line.
    pub fn details(&self) -> Vec<String> {
        match self {
            Self::Unproven { evidence, .. } => evidence.details(),
            Self::Exchanged { .. }
            | Self::ExchangedByRule { .. }
            | Self::Wrong { .. }
            | Self::Settled { .. } => Vec::new(),
        }
    }
}

impl std::fmt::Display for Undecided {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let sources = self.sources.join(", ");
        writeln!(f, "{sources}: column \"{}\": {}, so nothing was written", self.column, self.why.words())?;
        for line in self.evidence.to_string().lines() {
            writeln!(f, "  {line}")?;
        }
        write!(f, "  Ask the person who made the export, then write into {}:", self.mapping)?;
        for line in &self.evidence.settle {
            write!(f, "\n    {line}")?;
        }
        Ok(())
    }
}
