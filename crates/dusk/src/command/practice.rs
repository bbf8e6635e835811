//! `dusk practice`: a stand-in for the target, from a drop folder or on loopback.

use std::path::Path;
use std::time::Duration;

use dusk_core::description::{AnswerOutcome, DeliveryWay, HttpDelivery, Target};
use dusk_core::files::beside;
use dusk_core::practice::{Intake, Judged, Manners, PracticeServer, take_folder};

use crate::args::PracticeArgs;
use crate::outcome::{Ended, Failure, Outcome, print};
use crate::secrets;
use crate::show::{counted, visible};

/// How often a drop folder is looked into.
const PAUSE: Duration = Duration::from_millis(300);

pub(super) fn run(args: &PracticeArgs) -> Outcome {
    let target = Target::read(&args.target)?;
    let way = target.delivery.as_ref().map(|delivery| &delivery.way);
    let knows_repeats = matches!(way, Some(DeliveryWay::Http(http)) if http.knows_repeats);
    let manners = Manners {
        refuses: args.refuse.clone(),
        warns: args.warn.clone(),
        behaves: args.behave,
        mentions_few: args.mention_few,
        overwrites: args.overwrite,
        waits: Duration::from_secs(args.wait),
        knows_repeats,
    };
    let intake = Intake::new(&target, manners, &args.state)?;
    let folder_of = args.target.parent().unwrap_or(Path::new(""));
    match (way, args.port) {
        (Some(DeliveryWay::Folder(described)), None) => {
            let folder = beside(folder_of, &described.folder)?;
            if !folder.is_dir() {
                std::fs::create_dir_all(&folder)?;
            }
            from_folder(intake, &folder, args.once)
        }
        (way, port) => {
            let http = match way {
                Some(DeliveryWay::Http(http)) => Some(http),
                _ => None,
            };
            let Some(port) = port.or_else(|| http.and_then(port_of)) else {
                return Err(Failure::Stopped(
                    "nothing says where files come from\n  write [delivery] with folder = \"…\" into target.toml, or give --port".into(),
                ));
            };
            serve(intake, port, http, folder_of)
        }
    }
}

/// The port of a URL that leads to this machine.
fn port_of(http: &HttpDelivery) -> Option<u16> {
    let url = http.url.written();
    let host = url.split("://").nth(1)?.split('/').next()?;
    host.rsplit_once(':')?.1.parse().ok()
}

fn from_folder(mut intake: Intake<'_>, folder: &Path, once: bool) -> Outcome {
    if !once {
        print(&format!("the practice target takes files from {}; Ctrl+C ends it\n", folder.display()))?;
    }
    loop {
        let taken = take_folder(&mut intake, folder)?;
        for (file, judged, answer) in &taken {
            let says = judged.as_ref().map_or_else(|| "it cannot be read".to_owned(), counts);
            print(&format!("{}: {says}\n  its answer is {}\n", visible(file), answer.display()))?;
        }
        if once {
            if taken.is_empty() {
                print(&format!("there is no file in {}\n", folder.display()))?;
            }
            return Ok(Ended::AllAccepted);
        }
        std::thread::sleep(PAUSE);
    }
}

fn counts(judged: &Judged) -> String {
    if judged.breaks_off {
        return "broken off, without an answer".into();
    }
    let count =
        |outcome: AnswerOutcome| judged.verdicts.iter().filter(|verdict| verdict.outcome == outcome).count();
    format!(
        "{}, {} loaded, {} loaded with a warning, {} refused",
        counted(judged.verdicts.len() as u64, "record"),
        count(AnswerOutcome::Loaded),
        count(AnswerOutcome::Warned),
        count(AnswerOutcome::Refused)
    )
}

fn serve(intake: Intake<'_>, port: u16, http: Option<&HttpDelivery>, folder: &Path) -> Outcome {
    // It wants the secret that the description names, as the target would.
    let secret = match http.and_then(|http| http.secret.as_ref()) {
        None => None,
        Some(wanted) => {
            let secret = secrets::of_target(&wanted.from, folder)?;
            let written = wanted.written.fill(|name| (name == "secret").then_some(secret.as_str()));
            Some((wanted.header.clone(), written.unwrap_or_default()))
        }
    };
    let mut server = PracticeServer::listen(intake, port, secret)?;
    let address = server.address().map_or_else(String::new, |address| address.to_string());
    print(&format!("the practice target listens on http://{address}; Ctrl+C ends it\n"))?;
    server
        .serve(&mut |seen| print(&format!("{}: {}\n", visible(&seen.asked), visible(&seen.says))).is_ok())?;
    Ok(Ended::AllAccepted)
}
