//! What a draft leaves to be settled, asked one by one.

use std::io::BufRead as _;
use std::path::Path;

use dusk_core::drafting::{Answered, Drafted, Grouped, Weight, answer};

use crate::outcome::{Failure, print, say};
use crate::show::{show_question, visible};

/// Asks each question, and writes the answers into the description at `path`. Likely readings are gone through only
/// where somebody wants to. The end of what is typed ends it.
pub(super) fn ask_one_by_one(drafted: &Drafted, path: &Path) -> Result<(), Failure> {
    let (looks, open): (Vec<Grouped>, Vec<Grouped>) =
        drafted.grouped_questions().into_iter().partition(|question| question.weight == Weight::Look);
    let mut asking = Asking { drafted, path, settled: 0 };
    if asking.each(&open)? && !looks.is_empty() {
        let about = looks.iter().map(|question| question.about.as_str()).collect::<Vec<_>>().join(", ");
        say(&format!(
            "\n{} likely: {}\n  Look through them as well? [y]es, [n]o: ",
            if looks.len() == 1 {
                "1 reading is".to_owned()
            } else {
                format!("{} readings are", looks.len())
            },
            visible(&about)
        ));
        if matches!(typed()?.as_deref(), Some("y" | "yes")) {
            asking.each(&looks)?;
        }
    }
    let left = (open.len() + looks.len()).saturating_sub(asking.settled);
    print(&format!("\nsettled: {}, still open: {left}; {} has both\n", asking.settled, path.display()))?;
    Ok(())
}

/// The next line that is typed; nothing where there are no more. What asks next reads from the same place, so that it
/// is held for one line only.
fn typed() -> Result<Option<String>, Failure> {
    let mut line = String::new();
    let read = std::io::stdin().lock().read_line(&mut line)?;
    Ok((read > 0).then(|| line.trim().to_owned()))
}

struct Asking<'a> {
    drafted: &'a Drafted,
    path: &'a Path,
    settled: usize,
}

impl Asking<'_> {
    /// Asks these; whether there may be more questions.
    fn each(&mut self, questions: &[Grouped]) -> Result<bool, Failure> {
        for (number, question) in (1..).zip(questions) {
            print(&show_question(question, (number, questions.len()), self.drafted))?;
            if !self.one(question)? {
                return Ok(false);
            }
        }
        Ok(true)
    }

    fn one(&mut self, question: &Grouped) -> Result<bool, Failure> {
        loop {
            say(prompt(question));
            let Some(line) = typed()? else { return Ok(false) };
            let line = match (line.as_str(), question.suggestion()) {
                ("q" | "quit" | "stop", _) => return Ok(false),
                ("", _) => return Ok(true),
                ("ok", _) => String::new(),
                ("yes", Some(rule)) => rule,
                (line, _) => line.to_owned(),
            };
            match answer(self.path, &question.about, &question.says, &line) {
                Ok(Answered::Written) => {
                    self.settled += 1;
                    return Ok(true);
                }
                Ok(Answered::Refused(says)) => {
                    say(&format!("  that cannot be written:\n{}\n", visible(&says)))
                }
                Err(wrong) => say(&format!("  {}\n", visible(&wrong.to_string()))),
            }
        }
    }
}

/// What may be typed.
fn prompt(question: &Grouped) -> &'static str {
    if question.suggestion().is_some() {
        "  yes writes that rule; or type a line, ok if it is right as it is, Enter to leave it open, q to stop: "
    } else {
        "  type a line to write (key = value), ok if it is right as it is, Enter to leave it open, q to stop: "
    }
}
