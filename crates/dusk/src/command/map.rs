//! `dusk map`: which column feeds which field, proposed, asked about, shown.

use std::path::Path;

use dusk_core::description::Target;
use dusk_core::drafting::stated_limits;
use dusk_core::files::way_from;
use dusk_core::mapping;
use dusk_core::mapping::{Mapping, learn_target, read_incomplete};
use dusk_core::proposing::{Fed, Proposals, Proposing, Sureness, Written, propose, write_mapping};
use dusk_core::run::{Job, examples, learnt_headings};
use dusk_core::sources::{Known, Source, SourceSettings};
use serde_json::json;

use super::lines_tried::try_lines;
use super::{asking, reading, saved};
use crate::args::{Format, MapArgs};
use crate::holding::hold_file;
use crate::loaded::{opening, threads, today};
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Bar, Mapped, Picture};

pub(super) fn run(args: &MapArgs, quiet: bool) -> Outcome {
    let Some(export) = args.source.as_deref().filter(|_| !args.list) else { return saved::run(args) };
    if args.show {
        return show(args, export, quiet);
    }
    if args.ask && export == Path::new("-") {
        return Err(Failure::Stopped(
            "--ask reads the answers from standard input, so the export cannot come from there\n  name the file".into(),
        ));
    }
    let earlier = Earlier::read(args)?;
    let target = match &earlier {
        Some(_) => None,
        None => Some(read_target(args)?),
    };
    let (target, mapping) = match (&earlier, &target) {
        (Some(earlier), _) => (&earlier.target, Some(&earlier.mapping)),
        (None, Some(target)) => (target, None),
        (None, None) => return Err(Failure::Stopped("there is no target".into())),
    };
    let mut settings = mapping.map(|mapping| mapping.source.clone()).unwrap_or_default();
    reading::apply(&args.reading, &mut settings)?;
    let source = look(export, &settings, target, mapping, quiet)?;
    let bar = Bar::new(source.bytes, quiet);
    let path_of_target = mapping.map_or_else(|| target_path(args), |mapping| mapping.target_path.clone());
    let learnt = learnt_headings(&args.mapping, (&path_of_target, target));
    let mut proposals = propose(
        &source,
        target,
        &Proposing {
            mapping,
            learnt: &learnt,
            ..Proposing::new(today(args.today), threads(), stated_limits)
        },
        &bar.reader("looking at values"),
    )?;
    bar.done();
    if args.ask {
        asking::ask(&mut proposals, &source, target, mapping)?;
    }
    let folder = args.mapping.parent().unwrap_or(Path::new(""));
    std::fs::create_dir_all(if folder.as_os_str().is_empty() { Path::new(".") } else { folder })?;
    let way = match &earlier {
        Some(_) => String::new(),
        None => way_from(folder, &target_path(args))?.display().to_string().replace('\\', "/"),
    };
    let kept = earlier.as_ref().map(|earlier| (earlier.text.as_str(), &earlier.mapping));
    let reading = reading::lines(&args.reading);
    let write = |proposals: &Proposals| write_mapping(proposals, &source, target, (&way, &reading), kept);
    let mut written = write(&proposals)?;
    let (day, bar) = (today(args.today), Bar::new(source.bytes, quiet));
    let tried = (args.mapping.as_path(), written.text.as_str());
    if try_lines(&mut proposals, tried, &source, day, &bar.reader("trying the lines")) {
        written = write(&proposals)?;
    }
    bar.done();
    let is_new = earlier.as_ref().is_none_or(|earlier| earlier.text != written.text);
    if is_new {
        let held = hold_file(&args.mapping)?;
        refuse_where_changed(&args.mapping, earlier.as_ref().map(|earlier| earlier.text.as_str()))?;
        held.write(written.text.as_bytes())?;
        read_incomplete(&args.mapping).map_err(|wrong| {
            Failure::Stopped(format!("the mapping was written, and something is wrong with it:\n{wrong}"))
        })?;
    }
    let mapped = Mapped {
        path: &args.mapping,
        source: &source,
        target,
        proposals: &proposals,
        earlier: mapping,
        is_new,
        quiet,
    };
    match args.format {
        Format::Text => print(&mapped.to_string())?,
        Format::Json => print_json(&as_json(&mapped, &written))?,
    }
    let undecided = proposals.proposals.iter().any(|proposal| proposal.sureness == Sureness::Likely)
        || !proposals.doubts.is_empty()
        || proposals.fields_without(target, mapping).iter().any(|(_, required)| *required);
    Ok(if undecided { Ended::SomeRejected } else { Ended::AllAccepted })
}

/// A mapping that is there already.
struct Earlier {
    text: String,
    mapping: Mapping,
    target: Target,
}

impl Earlier {
    fn read(args: &MapArgs) -> Result<Option<Self>, Failure> {
        if !args.mapping.exists() {
            return Ok(None);
        }
        let path = args.mapping.display();
        if !reading::lines(&args.reading).is_empty() {
            return Err(Failure::Stopped(format!(
                "{path} is there already, and says how the source is read\n  change it under [source] in that file"
            )));
        }
        let (mapping, target) = read_incomplete(&args.mapping)?;
        if let Some(wanted) = &args.target
            && wanted.canonicalize().ok() != mapping.target_path.canonicalize().ok()
        {
            return Err(Failure::Stopped(format!(
                "{path} is a mapping into {}, not into {}\n  name another mapping with -m, or take -t away",
                mapping.target_path.display(),
                wanted.display()
            )));
        }
        let text = std::fs::read_to_string(&args.mapping)
            .map_err(|error| Failure::Stopped(format!("{path} cannot be read: {error}")))?;
        Ok(Some(Self { text, mapping, target }))
    }
}

fn target_path(args: &MapArgs) -> std::path::PathBuf {
    args.target.clone().unwrap_or_else(|| "target.toml".into())
}

fn read_target(args: &MapArgs) -> Result<Target, Failure> {
    let path = target_path(args);
    if !path.exists() {
        let path = path.display();
        return Err(Failure::Stopped(format!(
            "there is no target description {path}\n  name it with -t, or draft one: dusk target draft DICTIONARY -o {path}"
        )));
    }
    Ok(Target::read(&path)?)
}

/// Opens a source by the headings that the mapping uses, or without them where one is gone.
fn look(
    path: &Path,
    settings: &SourceSettings,
    target: &Target,
    mapping: Option<&Mapping>,
    quiet: bool,
) -> Result<Source, Failure> {
    let mut words = Known::default();
    learn_target(&mut words, target);
    let known = mapping.map_or_else(|| words.clone(), |mapping| mapping.known(target));
    if path == Path::new("-") {
        let mut input = std::io::stdin().lock();
        return Ok(Source::open_stream("standard input".into(), &mut input, settings, &words, false)?);
    }
    let source = opening(path, quiet, || {
        Source::look(path, settings, &known).or_else(|_| Source::look(path, settings, &words))
    });
    source.map_err(|error| match (&error, mapping) {
        // There is no mapping yet to write it into.
        (dusk_core::Error::Source { .. }, None) => Failure::Stopped(format!(
            "{error}\n  or say it here: --sheet, --encoding, --delimiter, --header-row"
        )),
        _ => error.into(),
    })
}

/// The mapping as a picture.
fn show(args: &MapArgs, export: &Path, quiet: bool) -> Outcome {
    let (mapping, target) = mapping::read_incomplete(&args.mapping)?;
    let source = look(export, &mapping.source, &target, Some(&mapping), quiet)?;
    let bar = Bar::new(source.bytes, quiet);
    let today = today(args.today);
    let proposals = propose(
        &source,
        &target,
        &Proposing { mapping: Some(&mapping), ..Proposing::new(today, threads(), stated_limits) },
        &bar.reader("looking at values"),
    )?;
    let gone = proposals.doubts.iter().any(|doubt| doubt.is_gone);
    let sources = [source];
    // What is asked at every run has no part in what the mapping looks like.
    let asked: Vec<(String, String)> = mapping
        .ask
        .iter()
        .map(|(name, _)| {
            let given = args.asked.iter().find(|(known, _)| known == name);
            given.cloned().unwrap_or_else(|| (name.clone(), format!("({name})")))
        })
        .collect();
    let job = Job { asked: &asked, ..Job::new(&target, &mapping, &sources, today, threads()) };
    let prepared = if gone { None } else { Some(job.prepare(&bar.reader("weighing evidence"))) };
    bar.done();
    let (ready, undecided) = match prepared {
        Some(Ok(ready)) => (Some(ready), None),
        Some(Err(error)) => (None, Some(error.to_string())),
        None => (None, None),
    };
    let shown = match &ready {
        Some(ready) => examples(ready)?,
        None => Vec::new(),
    };
    let picture = Picture {
        job: &job,
        ready: ready.as_ref(),
        examples: &shown,
        proposals: &proposals,
        undecided: undecided.as_deref(),
    };
    match args.format {
        Format::Text => print(&picture.to_string())?,
        Format::Json => print_json(&picture.json())?,
    }
    let open = !proposals.doubts.is_empty() || undecided.is_some();
    Ok(if open { Ended::SomeRejected } else { Ended::AllAccepted })
}

/// A mapping that somebody has written since it was read is not written over.
fn refuse_where_changed(path: &Path, read: Option<&str>) -> Result<(), Failure> {
    let now = match std::fs::read_to_string(path) {
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => None,
        now => Some(now?),
    };
    if now.as_deref() == read {
        return Ok(());
    }
    Err(Failure::Stopped(format!(
        "{}: somebody has written it meanwhile, so it was left as it is\n  run dusk map again",
        path.display()
    )))
}

fn as_json(mapped: &Mapped<'_>, written: &Written) -> serde_json::Value {
    let (source, target) = (mapped.source, mapped.target);
    let proposals: Vec<serde_json::Value> = mapped
        .proposals
        .proposals
        .iter()
        .map(|proposal| {
            let field = target.fields.get(proposal.field).map_or("", |field| field.name.as_str());
            let column = proposal.fed.columns().first().map(|column| source.heading(*column));
            let keys = proposal
                .keys
                .iter()
                .map(|key| json!({"line": key.line, "says": key.says, "open": key.is_open}));
            json!({
                "field": field, "column": column, "join": match &proposal.fed { Fed::Join(_, written) => Some(written), _ => None },
                "constant": match &proposal.fed { Fed::Constant(text) => Some(text), _ => None }, "sureness": proposal.sureness.word(),
                "written": written.added.contains(&proposal.field), "reasons": proposal.reasons,
                "keys": keys.collect::<Vec<_>>(),
            })
        })
        .collect();
    let doubts: Vec<serde_json::Value> = mapped
        .proposals
        .doubts
        .iter()
        .map(|doubt| {
            let instead = doubt.instead.map(|column| source.heading(column));
            let field = target.fields.get(doubt.field).map(|field| &field.name);
            json!({"field": field, "column": doubt.column, "gone": doubt.is_gone, "instead": instead, "reasons": doubt.reasons})
        })
        .collect();
    let namesakes: Vec<serde_json::Value> = mapped
        .proposals
        .namesakes
        .iter()
        .map(|(field, column, why)| {
            let field = target.fields.get(*field).map(|field| &field.name);
            json!({"field": field, "column": source.heading(*column), "why": why})
        })
        .collect();
    let without = mapped.proposals.fields_without(target, mapped.earlier);
    json!({
        "form": 1,
        "mapping": mapped.path.display().to_string(),
        "source": source.name,
        "changed": mapped.is_new,
        "proposals": proposals,
        "doubts": doubts,
        "not_proposed": namesakes,
        "fields_without": without.iter().map(|(name, required)| json!({"field": name, "required": required})).collect::<Vec<_>>(),
        "columns_without": mapped.proposals.columns_without(source, mapped.earlier),
    })
}
