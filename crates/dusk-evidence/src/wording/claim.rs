//! Words for what evidence is about.

use crate::{Claim, ColumnClaim};

/// "date order of "Date"", "encoding".
pub(crate) fn claim(claim: &Claim) -> String {
    match claim {
        Claim::Encoding => "encoding".into(),
        Claim::Delimiter => "delimiter".into(),
        Claim::Header => "header".into(),
        Claim::ClosingLines => "closing lines".into(),
        Claim::Records => "records".into(),
        Claim::Column(about, column) => match about {
            ColumnClaim::DateOrder => format!("date order of \"{column}\""),
            ColumnClaim::DecimalMark => format!("decimal mark of \"{column}\""),
            ColumnClaim::DayCounts => format!("counts of days in \"{column}\""),
            ColumnClaim::ShortYears => format!("years of two digits in \"{column}\""),
            ColumnClaim::Brackets => format!("brackets in \"{column}\""),
            ColumnClaim::Unit => format!("unit of \"{column}\""),
            ColumnClaim::Percents => format!("percent signs in \"{column}\""),
        },
    }
}
