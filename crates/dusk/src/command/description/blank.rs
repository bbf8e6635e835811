//! `dusk target blank`: a template to fill in.

use dusk_core::description::{Blank, Filling, Target};
use dusk_core::files::write_whole;

use super::{Failure, Outcome, print, today};
use crate::args::BlankArgs;
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
    let filling = match &args.rows {
        Some(path) => Filling::read(path, &target)?,
        None => Filling::default(),
    };
    let blank = Blank { target: &target, across: args.across, today: today(args.today), filling };
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

fn filled_with(rows: usize) -> String {
    match rows {
        0 => "empty".to_owned(),
        1 => "filled with 1 row".to_owned(),
        rows => format!("filled with {rows} rows"),
    }
}
