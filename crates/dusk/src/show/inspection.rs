//! What a source is and what has happened to it: facts, first rows, columns, damage, decisions.

use std::fmt;

use dusk_core::evidence::{Claim, Evidence};
use dusk_core::inspecting::{ColumnReport, Counted, Inspection, NumberedRow};
use dusk_core::sources::{Source, WorkbookFacts};

use super::digest::in_one_line;
use super::layout::{columns, counted, cut, grouped, labelled, padded, width, wrapped};
use super::records::record_facts;
use super::style::{COMMAND, GOOD, NAME, QUIET, REMARK, styled};
use super::visible::visible;

/// How many shapes and values of a column are shown in its one line, and how many in depth.
const SHAPES_IN_LINE: usize = 3;
const IN_DEPTH: usize = 15;

/// What is known of a source as soon as it is open, for people.
pub(crate) struct Opened<'l> {
    pub(crate) source: &'l Source,
    pub(crate) first_rows: &'l [NumberedRow],
}

impl fmt::Display for Opened<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.facts(f)?;
        self.first_rows(f)
    }
}

/// What else is known of a source once it was looked over, for people.
pub(crate) struct Look<'l> {
    pub(crate) source: &'l Source,
    pub(crate) inspection: &'l Inspection,
    /// One column in depth instead of all.
    pub(crate) column: Option<&'l ColumnReport>,
}

impl fmt::Display for Look<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some(column) = self.column {
            return in_depth(f, column);
        }
        self.rows(f)?;
        self.columns(f)?;
        self.damage(f)?;
        self.decisions(f)
    }
}

/// What a workbook says beside its cells.
fn workbook_facts(f: &mut fmt::Formatter<'_>, facts: &WorkbookFacts) -> fmt::Result {
    let shown = |(name, hidden): &(String, bool)| {
        format!("\"{}\"{}", visible(name), if *hidden { " (hidden)" } else { "" })
    };
    let others: Vec<String> =
        facts.sheets.iter().filter(|(name, _)| *name != facts.sheet).map(shown).collect();
    let others =
        if others.is_empty() { String::new() } else { format!("; other sheets: {}", others.join(", ")) };
    let says = format!("\"{}\" of a workbook ({}){others}", visible(&facts.sheet), facts.format);
    labelled(f, "sheet", &says)?;
    let kinds: Vec<String> =
        facts.kinds.iter().map(|(kind, count)| format!("{} {kind}", grouped(*count))).collect();
    labelled(f, "cells", &kinds.join(", "))?;
    if let Some((first, _)) = facts.hidden_rows.first() {
        let says = match facts.hidden_count() {
            1 => format!("row {first} is hidden, and is read like all others"),
            count => format!(
                "{count} rows are hidden, the first of them row {first}; they are read like all others"
            ),
        };
        labelled(f, "hidden", &says)?;
    }
    if let Some(first) = facts.merged.first() {
        let says = match facts.merged.len() {
            1 => format!("the cells {first} are merged; only the first of them holds the value"),
            count => format!(
                "{count} ranges of cells are merged, the first of them {first}; only the first cell of each holds the value"
            ),
        };
        labelled(f, "merged", &says)?;
    }
    if facts.zeros_by_format > 0 {
        let says = format!(
            "{} numbers have their leading zeros by the display format only; they are read as shown",
            grouped(facts.zeros_by_format)
        );
        labelled(f, "zeros", &says)?;
    }
    if facts.from_1904 {
        labelled(f, "days", "are counted from 1904 in this workbook, and are read so")?;
    }
    Ok(())
}

impl Opened<'_> {
    fn facts(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let source = self.source;
        writeln!(f, "{}", styled(NAME, &visible(&source.name)))?;
        if let Some(facts) = &source.workbook {
            workbook_facts(f, facts)?;
        }
        if let Some(facts) = &source.records {
            record_facts(f, facts)?;
        }
        for evidence in &source.evidence {
            let more = if evidence.claim == Claim::Header {
                format!("; {}", source.header_note())
            } else {
                String::new()
            };
            // What is open comes again at the end, with everything that speaks for and against it.
            let says =
                if evidence.needs_decision() { evidence.verdict_shown() } else { in_one_line(evidence) };
            labelled(f, &evidence.claim.to_string(), &format!("{}{more}", visible(&says)))?;
        }
        writeln!(f)
    }

    /// The raw first lines beside the first rows as they are read.
    fn first_rows(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let half = (width() - 3) / 2;
        let raw: Vec<String> = (1..)
            .zip(&self.source.first_lines)
            .take(8)
            .map(|(line, text)| format!("{line:>4}  {}", visible(text)))
            .collect();
        let cells = |cells: &[String]| {
            cells.iter().map(|cell| visible(cell).into_owned()).collect::<Vec<_>>().join(" │ ")
        };
        let mut parsed = vec![format!("{:>4}  {}", self.source.header_row, cells(&self.source.columns))];
        parsed.extend(
            self.first_rows.iter().take(6).map(|(row, row_cells)| format!("{row:>4}  {}", cells(row_cells))),
        );
        if raw.is_empty() {
            writeln!(f, "{}", styled(QUIET, " row  as it is read"))?;
            for line in parsed.iter().take(5) {
                writeln!(f, "{}", cut(line, width()))?;
            }
            return writeln!(f);
        }
        let head = format!("{} │ {}", padded("line  as it is", half), " row  as it is read");
        writeln!(f, "{}", styled(QUIET, &head))?;
        let nothing = String::new();
        let lines = raw.len().max(parsed.len().min(6)).min(6);
        for place in 0..lines {
            let left = cut(raw.get(place).unwrap_or(&nothing), half);
            let right = cut(parsed.get(place).unwrap_or(&nothing), half);
            writeln!(f, "{} {} {right}", padded(&left, half), styled(QUIET, "│"))?;
        }
        writeln!(f)
    }
}

impl Look<'_> {
    /// How many rows there are, and which are not like the others.
    fn rows(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let inspection = self.inspection;
        let blank = match inspection.blank_rows {
            0 => String::new(),
            1 => ", 1 of them blank".into(),
            count => format!(", {} of them blank", grouped(count)),
        };
        labelled(f, "rows", &format!("{} below the header{blank}", grouped(inspection.rows)))?;
        if let (count, Some(first)) = inspection.repeated_headers {
            let says = match count {
                1 => format!("row {first} repeats the header, and is left out"),
                count => {
                    format!(
                        "{count} rows repeat the header, the first of them row {first}; they are left out"
                    )
                }
            };
            labelled(f, "pages", &says)?;
        }
        for odd in &inspection.odd_rows {
            let rows = if odd.count == 1 { "row" } else { "rows" };
            labelled(
                f,
                "odd rows",
                &format!(
                    "{} {rows} {}; first {}",
                    grouped(odd.count),
                    odd.what,
                    visible(&odd.first.to_string())
                ),
            )?;
        }
        writeln!(f)
    }

    /// A line for each column. Where there is no room for shapes and damage, their own lines tell of the damage, and
    /// `--column` of the shapes.
    fn columns(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        /// The most that is shown of a name, of what a column holds, and of its range; and how wide its counts are.
        const MOST: [usize; 3] = [24, 18, 28];
        const COUNTS: [usize; 2] = [7, 9];
        /// The least that shapes need, and the damage behind them.
        const SHAPES: usize = 14;
        const DAMAGE: usize = 12;
        let all = &self.inspection.columns;
        let widest = |heading: &str, most: usize, text: &dyn Fn(&ColumnReport) -> usize| {
            all.iter().map(text).max().unwrap_or(0).max(columns(heading)).min(most)
        };
        // What is open has a mark behind it.
        let holds_wide = widest("holds", MOST[1], &|column| columns(&column.holds) + 2);
        let range_wide = widest("from … to", MOST[2], &|column| columns(&visible(&column.range)));
        let fixed = holds_wide + COUNTS[0] + COUNTS[1] + range_wide + 8;
        let name_wide = widest("column", MOST[0], &|column| columns(&visible(&column.name)));
        let name_wide = name_wide.min(width().saturating_sub(fixed)).max(6);
        let is_damaged = all.iter().any(|column| !column.damage.is_empty());
        let behind = if is_damaged { DAMAGE } else { 0 };
        let room = width().saturating_sub(name_wide + fixed + 2 + behind);
        let shapes_wide = (room >= SHAPES).then_some(room.min(32));
        let line = |cells: [String; 5], shapes: Option<String>, damage: String| {
            let [name, holds, blank, different, range] = cells;
            let mut line = vec![name, holds, blank, different];
            let has_room = shapes.is_some();
            line.extend(shapes);
            line.push(range);
            line.extend(has_room.then_some(damage));
            line.join("  ").trim_end().to_owned()
        };
        let head = line(
            [
                padded("column", name_wide),
                padded("holds", holds_wide),
                padded("blank", COUNTS[0]),
                padded("different", COUNTS[1]),
                padded("from … to", range_wide),
            ],
            shapes_wide.map(|wide| padded("shapes", wide)),
            if is_damaged { "damage".to_owned() } else { String::new() },
        );
        writeln!(f, "{}", styled(QUIET, &head))?;
        for column in all {
            let different =
                format!("{}{}", if column.distinct_estimated { "~" } else { "" }, grouped(column.distinct));
            let blank = if column.blank == 0 { "-".into() } else { grouped(column.blank) };
            let damage: u64 = column.damage.iter().map(|seen| seen.count).sum();
            let damage = if damage == 0 { String::new() } else { format!("{} cells", grouped(damage)) };
            let mark = if column.evidence.iter().any(Evidence::needs_decision) { " ?" } else { "" };
            let cells = [
                styled(NAME, &padded(&cut(&visible(&column.name), name_wide), name_wide)),
                padded(&cut(&format!("{}{mark}", column.holds), holds_wide), holds_wide),
                format!("{blank:>7}"),
                format!("{different:>9}"),
                padded(&cut(&visible(&column.range), range_wide), range_wide),
            ];
            let shapes =
                shapes_wide.map(|wide| padded(&cut(&shapes(&column.shapes, SHAPES_IN_LINE), wide), wide));
            writeln!(f, "{}", line(cells, shapes, styled(REMARK, &damage)))?;
        }
        writeln!(f)
    }

    fn damage(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut any = false;
        for column in &self.inspection.columns {
            for seen in &column.damage {
                any = true;
                let says = damage_line(&column.name, seen);
                for (place, line) in wrapped(&says, width() - 8, 0).iter().enumerate() {
                    let label = if place == 0 { styled(REMARK, "damage") } else { " ".repeat(6) };
                    writeln!(f, "{label}  {line}")?;
                }
            }
        }
        if any { writeln!(f) } else { Ok(()) }
    }

    fn decisions(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let columns = self.inspection.columns.iter().flat_map(|column| &column.evidence);
        let all: Vec<&Evidence> =
            self.source.evidence.iter().chain(&self.inspection.decisions).chain(columns).collect();
        let is_proof =
            |evidence: &&&Evidence| !evidence.needs_decision() && evidence.claim.of_column().is_some();
        let proofs: Vec<&&Evidence> = all.iter().filter(is_proof).collect();
        for evidence in &proofs {
            labelled(
                f,
                "proof",
                &format!("{}: {}", visible(&evidence.claim.to_string()), in_one_line(evidence)),
            )?;
        }
        let open: Vec<&&Evidence> =
            all.iter().filter(|evidence| evidence.needs_decision() && !evidence.settle.is_empty()).collect();
        if open.is_empty() {
            return writeln!(f, "{}", styled(GOOD, "Nothing needs a decision."));
        }
        for (place, evidence) in open.into_iter().enumerate() {
            if place > 0 || !proofs.is_empty() {
                writeln!(f)?;
            }
            decision(f, evidence)?;
        }
        Ok(())
    }
}

/// One open question: the verdict, the readings, and the lines that would settle it.
fn decision(f: &mut fmt::Formatter<'_>, evidence: &Evidence) -> fmt::Result {
    let head = visible(&format!("{}: {}", evidence.claim, evidence.verdict_shown())).into_owned();
    for (place, line) in wrapped(&head, width() - 8, 0).iter().enumerate() {
        let label = if place == 0 { styled(REMARK, "decide") } else { " ".repeat(6) };
        writeln!(f, "{label}  {}", styled(NAME, line))?;
    }
    for detail in evidence.details() {
        for (place, line) in wrapped(&visible(&detail), width() - 12, 0).iter().enumerate() {
            writeln!(f, "{}{line}", " ".repeat(if place == 0 { 10 } else { 12 }))?;
        }
    }
    let settle = evidence.settle.iter().map(|line| styled(COMMAND, line)).collect::<Vec<_>>();
    for line in settle {
        writeln!(f, "            {line}")?;
    }
    Ok(())
}

fn damage_line(column: &str, seen: &dusk_core::inspecting::DamageSeen) -> String {
    let reads =
        if seen.first.reads.is_empty() { String::new() } else { format!(" {}", visible(&seen.first.reads)) };
    let cells = if seen.count == 1 { "cell" } else { "cells" };
    format!(
        "{}: {} {cells} with {}, first {} \"{}\"{reads}; {}",
        cut(&visible(column), 40),
        grouped(seen.count),
        seen.damage.what(),
        seen.first.place,
        visible(&seen.first.value),
        seen.damage.mends()
    )
}

/// One column: its shapes and values with their counts, damage, evidence.
fn in_depth(f: &mut fmt::Formatter<'_>, column: &ColumnReport) -> fmt::Result {
    let estimated = if column.distinct_estimated { "about " } else { "" };
    writeln!(f, "{}  {}", styled(NAME, &visible(&column.name)), column.holds)?;
    labelled(
        f,
        "filled",
        &format!(
            "{}, {} blank, {estimated}{}",
            counted(column.filled, "cell"),
            grouped(column.blank),
            counted(column.distinct, "different value")
        ),
    )?;
    if !column.range.is_empty() {
        labelled(f, "from … to", &visible(&column.range))?;
    }
    if let Some(field) = &column.field {
        labelled(f, "field", &format!("{field}, which has the same name"))?;
    }
    if column.kinds.len() > 1 || column.kinds.iter().any(|(kind, _)| *kind != "text") {
        let kinds: Vec<String> =
            column.kinds.iter().map(|(kind, count)| format!("{} {kind}", grouped(*count))).collect();
        labelled(f, "cells", &kinds.join(", "))?;
    }
    counts(f, "shapes", &column.shapes, true)?;
    counts(f, "values", &column.values, false)?;
    for seen in &column.damage {
        labelled(f, "damage", &damage_line(&column.name, seen))?;
    }
    for evidence in &column.evidence {
        writeln!(f)?;
        if evidence.needs_decision() {
            decision(f, evidence)?;
        } else {
            labelled(f, "proof", &visible(&format!("{}: {}", evidence.claim, evidence.verdict_shown())))?;
            for detail in evidence.details() {
                labelled(f, "", &visible(&detail))?;
            }
        }
    }
    Ok(())
}

fn counts(f: &mut fmt::Formatter<'_>, label: &str, all: &[Counted], examples: bool) -> fmt::Result {
    if all.is_empty() {
        return Ok(());
    }
    writeln!(f)?;
    let widest = all.iter().take(IN_DEPTH).map(|one| columns(&visible(&one.text))).max().unwrap_or(0).min(48);
    for (place, one) in all.iter().take(IN_DEPTH).enumerate() {
        let label = if place == 0 { label } else { "" };
        let example = if examples && !one.example.is_empty() {
            format!("  \"{}\"", visible(&one.example))
        } else {
            String::new()
        };
        let first = if one.row > 0 { format!("  first row {}", one.row) } else { String::new() };
        writeln!(
            f,
            "  {}{}  {:>9}{first}{example}",
            styled(QUIET, &padded(label, 12)),
            padded(&cut(&visible(&one.text), widest), widest),
            grouped(one.count)
        )?;
    }
    if all.len() > IN_DEPTH {
        writeln!(f, "  {}and {} more", " ".repeat(12), all.len() - IN_DEPTH)?;
    }
    Ok(())
}

/// The commonest shapes: `99/99/9999 1,204, 9/9/9999 12`.
fn shapes(all: &[Counted], most: usize) -> String {
    let shown: Vec<String> = all.iter().take(most).map(|shape| visible(&shape.text).into_owned()).collect();
    let more = if all.len() > most { format!(" · +{}", all.len() - most) } else { String::new() };
    format!("{}{more}", shown.join(" · "))
}
