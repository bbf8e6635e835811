//! `dusk round`: mappings that belong together, in their order.

use dusk_core::delivery::{Round, RoundStep, StepState, step_state};
use serde_json::json;

use super::history::batches_beside;
use super::{check, conform};
use crate::args::{CheckJobArgs, ConformArgs, Format, JobArgs, MappingArgs, RestArgs, RoundArgs, RunArgs};
use crate::loaded::{today, user_name};
use crate::outcome::{Ended, Failure, Outcome, print, print_json};
use crate::show::{Step, round_lines, round_page};

pub(super) fn run(args: &RoundArgs, quiet: bool) -> Outcome {
    let round = Round::read(&args.round)?;
    let mut steps: Vec<Step> = Vec::new();
    let mut is_right = true;
    for step in &round.steps {
        let mut state = step_state(step, &batches_beside(&step.mapping))?;
        let waits = waits_for(step, &steps);
        if waits.is_empty() && (args.check || args.make) {
            print(&format!("== {}\n", step.name))?;
            let ended =
                if args.make { make(args, step, &state, quiet)? } else { check_one(args, step, quiet)? };
            is_right &= ended == Ended::AllAccepted;
            print("\n")?;
            state = step_state(step, &batches_beside(&step.mapping))?;
        }
        // A mapping that cannot be read yet, as one whose parents have no numbers, says so when its turn comes.
        let target = dusk_core::mapping::read(&step.mapping).ok().map(|(_, target)| target);
        let delivery = target.and_then(|target| target.delivery);
        let needs_approval = delivery.is_some_and(|delivery| delivery.needs_approval);
        steps.push(Step { state, waits, mapping: step.mapping.clone(), needs_approval });
    }
    match args.format {
        Format::Json => print_json(&json!({
            "form": 1, "round": round.name,
            "steps": steps.iter().map(|step| json!({
                "state": step.state, "waits_for": step.waits, "complete": step.state.is_complete(),
            })).collect::<Vec<_>>(),
        }))?,
        Format::Text => print(&round_lines(&round.name, &steps))?,
    }
    if let Some(path) = &args.report {
        let day = today(args.today);
        dusk_core::files::write_whole(path, round_page(&round.name, &steps, day).as_bytes())?;
    }
    let is_complete = steps.iter().all(|step| step.state.is_complete());
    Ok(if is_right && (is_complete || args.make || args.check) {
        Ended::AllAccepted
    } else {
        Ended::SomeRejected
    })
}

/// The steps before that are not answered yet, each with what is missing of it.
fn waits_for(step: &RoundStep, before: &[Step]) -> Vec<String> {
    let parents = step.after.iter().filter_map(|place| before.get(*place));
    let open = parents.filter(|parent| !parent.state.is_answered());
    open.map(|parent| parent.state.step.clone()).collect()
}

fn run_args(args: &RoundArgs, step: &RoundStep) -> Result<RunArgs, Failure> {
    // A step is given only what its own mapping asks for.
    let (mapping, _) = dusk_core::mapping::read(&step.mapping)?;
    let is_wanted = |(name, _): &&(String, String)| mapping.ask.iter().any(|(known, _)| known == name);
    Ok(RunArgs {
        mapping: MappingArgs { mapping: step.mapping.clone(), today: args.today },
        asked: args.asked.iter().filter(is_wanted).cloned().collect(),
        format: Format::Text,
    })
}

fn job_args(args: &RoundArgs, step: &RoundStep, rest: RestArgs) -> Result<JobArgs, Failure> {
    Ok(JobArgs {
        sources: step.sources.clone(),
        run: run_args(args, step)?,
        rest,
        kinds: false,
        all_causes: false,
        evidence: false,
        totals: Vec::new(),
    })
}

fn check_one(args: &RoundArgs, step: &RoundStep, quiet: bool) -> Outcome {
    let job = job_args(args, step, RestArgs::default())?;
    check::run(&CheckJobArgs { job, leave_out_list: None }, quiet)
}

/// Makes the batch of a step, or the rest of it; nothing where a batch waits to be delivered or answered.
fn make(args: &RoundArgs, step: &RoundStep, state: &StepState, quiet: bool) -> Outcome {
    let rest = match state.batches.first() {
        None => RestArgs::default(),
        Some(_) if state.is_complete() => {
            print("everything of it is in the target\n")?;
            return Ok(Ended::AllAccepted);
        }
        Some((first, _)) if state.is_answered() => {
            RestArgs { rest: Some(first.clone()), ..RestArgs::default() }
        }
        Some(_) => {
            print("its batch is made, and not answered yet\n")?;
            return Ok(Ended::AllAccepted);
        }
    };
    // One export may feed several steps; each has its own batch then.
    let of_another = rest.rest.is_none();
    let conform = ConformArgs {
        job: job_args(args, step, rest)?,
        out: None,
        again: of_another,
        number: None,
        first: None,
        remove: None,
        by: Some(args.by.clone().unwrap_or_else(user_name)),
        no_values: false,
        group_pages: false,
    };
    conform::run(&conform, quiet)
}
