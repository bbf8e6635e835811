//! Remembered translations as a table.

use dusk_core::decisions::CrosswalkLine;
use dusk_core::description::{Code, Field};
use dusk_core::values::shown_day;

use super::table::SimpleTable;
use crate::args::TableFormat;

/// A table of crosswalk lines.
pub(crate) fn crosswalk_table(lines: &[(&Field, CrosswalkLine)]) -> String {
    let mut table = SimpleTable::new(&["field", "value", "within", "means", "by", "on", "note"]);
    for (field, line) in lines {
        let known =
            field.kind.codes().and_then(|list| list.codes().iter().find(|code| code.code == line.code));
        let means = known.map_or_else(|| line.code.clone(), Code::shown);
        let on = shown_day(&line.on);
        table.add(
            [&field.name, &line.value, &line.within, &means, &line.by, &on, &line.note].map(Clone::clone),
        );
    }
    table.without_blank_columns().print(TableFormat::Text).unwrap_or_default()
}
