//! `dusk crosswalk`: remembered translations.

use std::path::Path;

use dusk_core::conforming::Plan;
use dusk_core::decisions::{
    Answer, Crosswalk, CrosswalkLine, KEEP_OUT, LEAVE_BLANK, NEW_TERM, crosswalk_path,
};
use dusk_core::description::{Code, Field, Lookup, MeansA, ReadAs, Target, Unmatched};
use dusk_core::evidence::Problems;
use dusk_core::files::{Held, List, unguarded};
use dusk_core::mapping;
use dusk_core::values::nearest;

use crate::args::{AddArgs, CheckArgs, CrosswalkArgs, CrosswalkCommand, Format, MappingArgs, RunArgs};
use crate::holding::hold_crosswalk;
use crate::loaded::{Loaded, today, user_name};
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, crosswalk_table, visible};

pub(super) fn run(args: &CrosswalkArgs, quiet: bool) -> Outcome {
    let Some(command) = &args.command else { return super::wanted::run(&args.asked, quiet) };
    match command {
        CrosswalkCommand::Add(args) => match &args.from {
            Some(file) => add_many(args, file),
            None => add_one(args),
        },
        CrosswalkCommand::List { field, mapping, format } => list(mapping, field.as_deref(), *format),
        CrosswalkCommand::Remove { field, value, within, mapping } => remove(mapping, field, value, within),
        CrosswalkCommand::Check(args) => check(args, quiet),
    }
}

fn add_one(args: &AddArgs) -> Outcome {
    let decided = [(args.leave_blank, LEAVE_BLANK), (args.keep_out, KEEP_OUT), (args.new_term, NEW_TERM)];
    let decided = decided.into_iter().find(|(is_given, _)| *is_given).map_or("", |(_, code)| code);
    let code = args.code.as_deref().unwrap_or(decided);
    let line = CrosswalkLine {
        value: args.value.as_deref().unwrap_or_default().trim().to_owned(),
        within: args.within.clone().unwrap_or_default(),
        code: code.to_owned(),
        by: args.by.clone().unwrap_or_else(user_name),
        on: today(args.mapping.today).to_string(),
        note: args.note.clone(),
    };
    add(args, args.field.as_deref().unwrap_or_default(), line)
}

/// Remembers every line of a file, or none of them.
fn add_many(args: &AddArgs, file: &Path) -> Outcome {
    let (_, target) = mapping::read(&args.mapping.mapping)?;
    let mut problems = Problems::default();
    // new-values.csv and decided-values.csv have columns of its own beside them.
    let optional = ["field", "within", "note", "by", "on", "finding", "rows", "source", "first row"];
    let list = List::read(file, &["value", "code"], &optional, &mut problems)?;
    let list = problems.or(list)?.map_or_else(Vec::new, |list| list.rows);
    let name = file.display().to_string();
    let mut problems = Problems::default();
    let mut opened: Vec<Opened<'_>> = Vec::new();
    let mut passed_over = 0;
    for row in &list {
        let text = |index: usize| unguarded(row.cell(index)).into_owned();
        let (value, code) = (text(0), text(1));
        if code.is_empty() || value.is_empty() {
            passed_over += 1;
            continue;
        }
        let of_row = text(2);
        let field = args.field.as_deref().filter(|_| of_row.is_empty()).unwrap_or(&of_row);
        if field.is_empty() {
            problems.at(&name, Some(row.line), "names no field").hint("name it before --from");
            continue;
        }
        let place = match opened.iter().position(|known| known.field.name == field) {
            Some(place) => place,
            None => {
                let found = field_of(&target, field)?;
                let (held, crosswalk) =
                    hold_crosswalk(&args.mapping.mapping, found, opened.first().map(|known| &known.held))?;
                opened.push(Opened { field: found, held, crosswalk, count: 0 });
                opened.len() - 1
            }
        };
        let Some(Opened { field, crosswalk, count, .. }) = opened.get_mut(place) else { continue };
        let note = text(4);
        let line = CrosswalkLine {
            value,
            within: text(3),
            code,
            by: args.by.clone().unwrap_or_else(user_name),
            on: today(args.mapping.today).to_string(),
            note: if note.is_empty() { args.note.clone() } else { note },
        };
        *count += 1;
        let checked = fits(&target, field, &line, args.mapping.today);
        if let Err(wrong) = checked.and_then(|()| crosswalk.set(line, field)) {
            problems.at(&name, Some(row.line), wrong.to_string());
        }
    }
    problems.or(())?;
    remember(&opened, passed_over)
}

/// A crosswalk that nobody else writes meanwhile.
struct Opened<'t> {
    field: &'t Field,
    held: Held,
    crosswalk: Crosswalk,
    /// How many lines are new.
    count: usize,
}

/// Writes the crosswalks, and says so.
fn remember(opened: &[Opened<'_>], passed_over: usize) -> Outcome {
    let mut text = String::new();
    for Opened { field, held, crosswalk, count } in opened {
        crosswalk.write(held)?;
        let path = held.path();
        let lines = if *count == 1 { "1 line".to_owned() } else { format!("{count} lines") };
        text.push_str(&format!("{}: {lines} remembered in {}\n", field.name, path.display()));
    }
    if opened.is_empty() {
        text.push_str("nothing to remember: no line of it has a value and a code\n");
    } else if passed_over > 0 {
        text.push_str(&format!("  {passed_over} without a code passed over\n"));
    }
    print(&text)?;
    Ok(Ended::AllAccepted)
}

/// A value that is no code is checked as the dictionary has it.
fn fits(
    target: &Target,
    field: &Field,
    line: &CrosswalkLine,
    day: Option<jiff::civil::Date>,
) -> Result<(), dusk_core::Error> {
    // Of an open list the run says what is not allowed yet.
    let is_value = field.kind.means() == MeansA::Value && field.unmatched != Unmatched::Open;
    let (Answer::Means(value), true) = (line.answer(), is_value) else { return Ok(()) };
    let Some(place) = target.field(&field.name) else {
        return Err(dusk_core::Error::Invariant(format!("{} is not a field of the target", field.name)));
    };
    match Plan::cannot_hold(target, place, value, today(day))? {
        None => Ok(()),
        Some(says) => Err(dusk_core::Error::Request(format!("{}: \"{value}\" {says}", field.name))),
    }
}

/// Lines that are in doubt.
fn check(args: &CheckArgs, quiet: bool) -> Outcome {
    let run = RunArgs { mapping: args.mapping.clone(), asked: args.asked.clone(), format: args.format };
    let loaded = Loaded::read(&run, args.sources.iter().map(AsRef::as_ref), quiet)?;
    let job = loaded.job();
    let ran = if args.sources.is_empty() {
        None
    } else {
        let bar = Bar::new(loaded.bytes(), quiet);
        let (ready, _) = job.work_with_open_dates(&bar.reader("weighing evidence"), |ready| {
            ready.check(&bar.reader("checking"))
        })?;
        bar.done();
        Some(ready)
    };
    let mut doubts: Vec<(&Field, &CrosswalkLine, String)> = Vec::new();
    for map in &loaded.mapping.maps {
        let Some(field) = loaded.target.fields.get(map.field) else { continue };
        let found = map.crosswalk.doubts(field, loaded.today).into_iter();
        doubts.extend(found.map(|(line, says)| (field, line, says)));
        let lines = ran.iter().flat_map(|ready| ready.plan.crosswalk_lines());
        let unused = lines.filter(|(place, _, used)| *place == map.field && !used);
        doubts.extend(unused.map(|(_, line, _)| (field, line, "is not used by these sources".to_owned())));
    }
    show_doubts(&doubts, args.format)?;
    Ok(if doubts.is_empty() { Ended::AllAccepted } else { Ended::SomeRejected })
}

fn show_doubts(doubts: &[(&Field, &CrosswalkLine, String)], format: Format) -> Result<(), Failure> {
    match format {
        Format::Json => {
            let lines = doubts.iter().map(|(field, line, says)| {
                serde_json::json!({
                    "field": field.name, "value": line.value, "within": line.within, "code": line.code, "says": says,
                })
            });
            print_json(&lines.collect::<Vec<_>>())?;
        }
        Format::Text if doubts.is_empty() => print("no line is in doubt\n")?,
        Format::Text => {
            let lines = doubts.iter().map(|(field, line, says)| {
                let within =
                    if line.within.is_empty() { String::new() } else { format!(" within {}", line.within) };
                format!("{}: \"{}\"{within} = {}  {says}\n", field.name, visible(&line.value), line.code)
            });
            print(&lines.collect::<String>())?;
        }
    }
    Ok(())
}

/// The field of this name.
fn field_of<'t>(target: &'t Target, field: &str) -> Result<&'t Field, Failure> {
    let found = target.fields.iter().find(|known| known.name == field);
    found.ok_or_else(|| {
        let names: Vec<&str> = target
            .fields
            .iter()
            .filter(|known| known.kind.codes().is_some())
            .map(|known| known.name.as_str())
            .collect();
        let hint = match nearest(field, names.iter().copied()) {
            Some(near) => format!("did you mean \"{near}\"?"),
            None => format!("fields with a code list: {}", names.join(", ")),
        };
        Failure::Stopped(format!("the target has no field \"{field}\"\n  {hint}"))
    })
}

/// A field, and its crosswalk as it is to be read.
fn open<'t>(target: &'t Target, args: &MappingArgs, field: &str) -> Result<(&'t Field, Crosswalk), Failure> {
    let field = field_of(target, field)?;
    let path = crosswalk_path(&args.mapping, &field.name);
    let mut problems = Problems::default();
    let crosswalk =
        if path.exists() { Crosswalk::read(&path, field, &mut problems)? } else { Crosswalk::default() };
    Ok((field, problems.or(crosswalk)?))
}

fn add(args: &AddArgs, field: &str, line: CrosswalkLine) -> Outcome {
    let day = args.mapping.today;
    let args = &args.mapping;
    let (_, target) = mapping::read(&args.mapping)?;
    let field = field_of(&target, field)?;
    fits(&target, field, &line, day)?;
    if line.value.is_empty() {
        return Err(Failure::Stopped(
            "a blank value cannot be translated; write if_blank for the field in the mapping".into(),
        ));
    }
    let (value, code) = (visible(&line.value).into_owned(), line.code.clone());
    let known = field.kind.codes().and_then(|list| list.several(&code));
    let shown = match Answer::of(&code) {
        Answer::LeaveBlank => "is left blank".to_owned(),
        Answer::KeepOut => "keeps its record out".to_owned(),
        Answer::NewTerm => "may go in as a new term".to_owned(),
        Answer::Means(_) => {
            let shown =
                known.map(|codes| codes.into_iter().map(Code::shown).collect::<Vec<_>>().join(" and "));
            format!("means {}", shown.unwrap_or_else(|| code.clone()))
        }
    };
    let overrides = field.kind.codes().and_then(|list| {
        match list.look_up(
            &line.value,
            Some(line.within.as_str()).filter(|within| !within.is_empty()),
            ReadAs::Either,
        ) {
            Lookup::Found(already, _) if already.code != line.code => Some(already.shown()),
            _ => None,
        }
    });
    if let (Answer::NewTerm, Some(already)) = (line.answer(), &overrides) {
        let says = format!("\"{value}\" is in the list of {} already: {already}", field.name);
        return Err(Failure::Stopped(format!("{says}\n  nothing has to be allowed")));
    }
    let (held, mut crosswalk) = hold_crosswalk(&args.mapping, field, None)?;
    let replaced = crosswalk.set(line, field)?;
    crosswalk.write(&held)?;
    let path = held.path();
    let mut text = format!("{}: \"{value}\" {shown} (remembered in {})\n", field.name, path.display());
    if let Some(old) = replaced {
        text.push_str(&format!("  it meant {} before\n", old.code));
    }
    if let Some(already) = overrides {
        text.push_str(&format!("  without this line it would mean {already}\n"));
    }
    print(&text)?;
    Ok(Ended::AllAccepted)
}

fn remove(args: &MappingArgs, field: &str, value: &str, within: &str) -> Outcome {
    let (_, target) = mapping::read(&args.mapping)?;
    let field = field_of(&target, field)?;
    let (held, mut crosswalk) = hold_crosswalk(&args.mapping, field, None)?;
    let Some(line) = crosswalk.remove(value, within) else {
        let inside = if within.is_empty() { String::new() } else { format!(" within \"{within}\"") };
        let known = nearest(value, crosswalk.lines().iter().map(|line| line.value.as_str()));
        let hint = match known {
            Some(near) => format!("did you mean \"{near}\"?"),
            None => format!("dusk crosswalk list {}", field.name),
        };
        return Err(Failure::Stopped(format!(
            "{}: nothing is remembered for \"{}\"{inside}\n  {hint}",
            field.name,
            visible(value)
        )));
    };
    crosswalk.write(&held)?;
    print(&format!("{}: \"{}\" no longer means {}\n", field.name, visible(&line.value), line.code))?;
    Ok(Ended::AllAccepted)
}

fn list(args: &MappingArgs, field: Option<&str>, format: Format) -> Outcome {
    let (_, target) = mapping::read(&args.mapping)?;
    let names: Vec<&str> = match field {
        Some(field) => vec![field],
        None => target.fields.iter().map(|field| field.name.as_str()).collect(),
    };
    let mut lines = Vec::new();
    for name in names {
        let (field, crosswalk) = open(&target, args, name)?;
        lines.extend(crosswalk.lines().iter().map(|line| (field, line.clone())));
    }
    match format {
        Format::Json => print_json(&lines.iter().map(line_json).collect::<Vec<_>>())?,
        Format::Text if lines.is_empty() => {
            print("nothing is remembered yet: dusk crosswalk add FIELD VALUE CODE\n")?
        }
        Format::Text => print(&crosswalk_table(&lines))?,
    }
    Ok(Ended::AllAccepted)
}

fn line_json((field, line): &(&Field, CrosswalkLine)) -> serde_json::Value {
    serde_json::json!({
        "field": field.name, "value": line.value, "within": line.within, "code": line.code,
        "by": line.by, "on": line.on, "note": line.note,
    })
}
