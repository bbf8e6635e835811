//! Remembered translations as a table.

use comfy_table::{ContentArrangement, Table, presets};
use dusk_core::decisions::CrosswalkLine;
use dusk_core::description::{Code, Field};
use dusk_core::values::shown_day;

use super::layout::width;
use super::visible::visible;

/// A table of crosswalk lines.
pub(crate) fn crosswalk_table(lines: &[(&Field, CrosswalkLine)]) -> String {
    let mut table = Table::new();
    table
        .load_style(presets::NOTHING)
        .set_content_arrangement(ContentArrangement::Dynamic)
        .set_width(u16::try_from(width()).unwrap_or(100))
        .set_header(["field", "value", "within", "means", "by", "on", "note"]);
    for (field, line) in lines {
        let known =
            field.kind.codes().and_then(|list| list.codes().iter().find(|code| code.code == line.code));
        let means = known.map_or_else(|| line.code.clone(), Code::shown);
        table.add_row(
            [&field.name, &line.value, &line.within, &means, &line.by, &shown_day(&line.on), &line.note]
                .map(|cell| visible(cell).into_owned()),
        );
    }
    let lines: Vec<String> = table.lines().map(|line| line.trim_end().to_owned()).collect();
    format!("{}\n", lines.join("\n"))
}
