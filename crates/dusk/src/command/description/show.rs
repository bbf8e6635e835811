//! `dusk target show`: the fields, one field in depth, or where a word stands.

use dusk_core::description::Target;
use dusk_core::evidence::Id as _;
use dusk_core::values::nearest;

use super::{Failure, Outcome, print};
use crate::args::{ShowArgs, TableFormat};
use crate::outcome::{Ended, print_data};
use crate::report::fields_page;
use crate::show::{
    SimpleTable, code_table, escaped_json, field_heading, field_table, hit_table, wrapped_page,
};

pub(super) fn run(args: &ShowArgs) -> Outcome {
    let target = Target::read(&args.target)?;
    if let Some(word) = &args.find {
        let hits = target.find(word);
        print_table(&hit_table(&hits), args.format)?;
        return Ok(if hits.is_empty() { Ended::SomeRejected } else { Ended::AllAccepted });
    }
    let Some(name) = &args.field else {
        if args.format == TableFormat::Html {
            print_data(&fields_page(&target, None))?;
            return Ok(Ended::AllAccepted);
        }
        if args.format == TableFormat::Text {
            let version = if target.version.is_empty() {
                String::new()
            } else {
                format!(", version {}", target.version)
            };
            print(&format!("{}\n", wrapped_page(&format!("{}{version}", target.name))))?;
        }
        let table = field_table(&target);
        // People need no columns in which nothing stands; programs want always the same ones.
        let table = if args.format == TableFormat::Text { table.without_blank_columns() } else { table };
        print_table(&table, args.format)?;
        return Ok(Ended::AllAccepted);
    };
    let place = target.field(name).ok_or_else(|| {
        let near = nearest(name, target.fields.iter().map(|field| field.name.as_str()));
        let hint = near.map_or_else(
            || format!("dusk target show --find \"{name}\" looks in labels and codes as well"),
            |near| format!("did you mean {near}?"),
        );
        Failure::Stopped(format!("{} has no field \"{name}\"; {hint}", args.target.display()))
    })?;
    if args.format == TableFormat::Html {
        print_data(&fields_page(&target, Some(place)))?;
        return Ok(Ended::AllAccepted);
    }
    let codes = target.fields.get(place).and_then(code_table);
    match (args.format, codes) {
        (TableFormat::Text, codes) => {
            print(&field_heading(&target, place))?;
            if let Some(codes) = codes {
                print("\n")?;
                print_table(&codes, args.format)?;
            }
        }
        // For programs and documents: the codes where there are some, else the field's own row.
        (format, Some(codes)) => print_table(&codes, format)?,
        (format, None) => print_table(&field_table(&target).only(place.index()), format)?,
    }
    Ok(Ended::AllAccepted)
}

fn print_table(table: &SimpleTable, format: TableFormat) -> Result<(), Failure> {
    let text = table.print(format)?;
    match format {
        TableFormat::Text | TableFormat::Markdown => print(&text),
        TableFormat::Csv | TableFormat::Html => print_data(&text),
        TableFormat::Json => print_data(&escaped_json(&text)),
    }
}
