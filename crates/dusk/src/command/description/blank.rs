//! `dusk target blank`: a template to fill in.

use dusk_core::description::{Blank, Filling, Target};
use dusk_core::files::write_whole;
use dusk_core::mapping::Mapping;
use dusk_core::run::{held_cells, read_held};
use jiff::civil::Date;

use super::{Failure, Outcome, print, today};
use crate::args::BlankArgs;
use crate::loaded::threads;
use crate::outcome::Ended;

pub(super) fn run(args: &BlankArgs) -> Outcome {
    let target = Target::read(&args.target)?;
    let is_workbook = args.out.extension().is_some_and(|ending| ending.eq_ignore_ascii_case("xlsx"));
    if args.out.exists() {
        return Err(Failure::Stopped(format!(
            "{} is there already, and somebody may have filled it in; give another name with -o",
            args.out.display()
        )));
    }
    let today = today(args.today);
    let filling = match &args.rows {
        Some(Some(path)) => Filling::read(path, &target)?,
        Some(None) => held_rows(&target, today)?,
        None => Filling::default(),
    };
    let blank = Blank { target: &target, across: args.across, today, filling };
    let bytes = if is_workbook { blank.workbook()? } else { blank.delimited()? };
    write_whole(&args.out, &bytes)?;
    let required = target.fields.iter().filter(|field| field.required).count();
    let rows = filled_with(blank.filling.rows.len());
    print(&format!(
        "{}: {} columns, {required} fields must be filled; {rows}\n",
        args.out.display(),
        target.headings().len()
    ))?;
    if !blank.filling.left_out.is_empty() {
        print(&format!("  of no field, and left out: {}\n", blank.filling.left_out.join(", ")))?;
    }
    Ok(Ended::AllAccepted)
}

/// What the target holds, a row each.
fn held_rows(target: &Target, today: Date) -> Result<Filling, Failure> {
    // Nothing is fed, so nothing is compared; only the values are wanted.
    let mapping = Mapping::empty(target);
    let held = read_held(target, &mapping, (today, threads()), &|_, _| {})?.ok_or_else(|| {
        Failure::Stopped(
            "--rows names no file, and target.toml has no [holds]\n  write --rows FILE, or [holds] with file = \"…\""
                .into(),
        )
    })?;
    Ok(Filling { rows: held_cells(target, &held)?, left_out: Vec::new() })
}

fn filled_with(rows: usize) -> String {
    match rows {
        0 => "empty".to_owned(),
        1 => "filled with 1 row".to_owned(),
        rows => format!("filled with {rows} rows"),
    }
}
