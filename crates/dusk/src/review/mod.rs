//! `dusk review`: causes settled and cells mended on one screen.
//!
//! ```text
//! state      what is shown and what a key does to it, without a terminal
//! typing     a line of text while it is typed
//! desk       the causes with their rows and answers, and decisions written to the steward's files at once
//! decision   a decision carried out, taken back as a whole, and made again
//! own_lines  the lines that were written, to be taken back to the byte
//! around     a row found by its number or key, and as its file has it
//! room       how the height of the screen is shared among its parts
//! view       the screen drawn
//! ```

mod around;
mod decision;
mod desk;
mod own_lines;
mod room;
mod state;
mod typing;
mod view;

use std::io::{IsTerminal as _, stdout};

use crossterm::event::{Event, KeyEventKind, read};
use crossterm::execute;
use crossterm::terminal::{EnterAlternateScreen, LeaveAlternateScreen, disable_raw_mode, enable_raw_mode};
use dusk_core::run::{Review, Summary};
use ratatui::Terminal;
use ratatui::backend::CrosstermBackend;

use crate::loaded::Loaded;
use crate::outcome::Failure;
use crate::show::visible;
use desk::{Again, Desk};
use dusk_core::evidence::Id as _;
use own_lines::Decision;
use state::{Asked, Screen};

/// What came of a review.
pub(crate) struct Reviewed {
    /// How many decisions were made.
    pub(crate) decisions: usize,
    /// How many rows were rejected at first, and how many are left.
    pub(crate) began_with: u64,
    pub(crate) left: u64,
    /// Rejected rows that were not at hand, because there are too many.
    pub(crate) not_kept: u64,
}

/// Whether there is a terminal to draw on.
pub(crate) fn has_terminal() -> bool {
    stdout().is_terminal() && std::io::stdin().is_terminal()
}

/// A terminal taken over, and given back however the review ends.
struct Taken;

impl Taken {
    fn over() -> std::io::Result<Self> {
        enable_raw_mode()?;
        execute!(stdout(), EnterAlternateScreen)?;
        Ok(Self)
    }
}

impl Drop for Taken {
    fn drop(&mut self) {
        // Where the terminal is gone, nobody is left to see it.
        let _ = disable_raw_mode();
        let _ = execute!(stdout(), LeaveAlternateScreen);
    }
}

/// Shows the causes until the steward leaves. `again` reads everything anew, for jobs whose rows cannot be
/// judged one by one.
pub(crate) fn review(
    loaded: Loaded,
    (review, summary): (Review, &Summary),
    (by, colours): (String, bool),
    again: &Again<'_>,
) -> Result<Reviewed, Failure> {
    let mut desk = Desk::new(loaded, review, (summary, again), by);
    let mut screen = first_screen(&mut desk);
    let taken = Taken::over()?;
    let mut terminal = Terminal::new(CrosstermBackend::new(stdout()))?;
    loop {
        terminal.draw(|frame| view::draw(frame, &screen, &desk, colours))?;
        let key = match read()? {
            Event::Key(key) if key.kind != KeyEventKind::Release => key,
            _ => continue,
        };
        screen.message.clear();
        let asked = screen.press(key);
        match asked {
            Asked::Leave => break,
            Asked::Nothing | Asked::Write(..) | Asked::Jump(_) | Asked::Around(_) => {}
            _ if desk.takes_a_run() => {
                screen.message = "reading it all again: rows take the values above them".into();
                terminal.draw(|frame| view::draw(frame, &screen, &desk, colours))?;
            }
            _ => {}
        }
        act(&mut desk, &mut screen, asked)?;
    }
    drop(taken);
    Ok(Reviewed {
        decisions: desk.decisions(),
        began_with: desk.began_with,
        left: desk.review.left(),
        not_kept: desk.review.not_kept,
    })
}

/// The screen as it is at first, with the largest cause at hand.
fn first_screen(desk: &mut Desk<'_>) -> Screen {
    let width = desk.loaded.sources.first().map_or(0, |source| source.columns.len()) + 1;
    let mut screen = Screen { items: desk.items(), width, ..Screen::default() };
    screen.go_to(0);
    screen
}

/// Does what was asked, and goes on to what is left.
fn act(desk: &mut Desk<'_>, screen: &mut Screen, asked: Asked) -> Result<(), Failure> {
    let undone = asked == Asked::Undo;
    let done = match asked {
        Asked::Nothing | Asked::Leave => return Ok(()),
        Asked::Write(row, column) => {
            let now = desk.review.rows.get(row).and_then(|row| row.cells.get(column.index()));
            screen.write_over(column, now.map_or("", String::as_str));
            return Ok(());
        }
        Asked::Jump(text) => {
            let found = desk.find(&text).is_some_and(|place| screen.go_to_place(place));
            if !found {
                screen.message =
                    format!("no rejected row has the number or the key \"{}\"", visible(text.trim()));
            }
            return Ok(());
        }
        Asked::Around(place) => {
            screen.mode = state::Mode::Around(desk.around(place)?);
            return Ok(());
        }
        Asked::Settle(at, answer) => {
            screen.marked.clear();
            desk.decide(Decision::Settle(at, answer))
        }
        Asked::Correct(row, column, text) => match desk.at(row) {
            Some(at) => desk.decide(Decision::Correct(at, column, text)),
            None => return Ok(()),
        },
        Asked::KeepRowOut(row) => match desk.at(row) {
            Some(at) => desk.decide(Decision::KeepOut(at)),
            None => return Ok(()),
        },
        Asked::Undo => desk.undo(),
        Asked::Redo => desk.redo(),
    };
    screen.message = match done {
        Ok(says) => says,
        Err(Failure::Stopped(says)) => says.replace('\n', " "),
    };
    let before: Vec<usize> = screen.items.iter().map(|item| item.rows.len()).collect();
    screen.items = desk.items();
    let came_back = |(item, before): (&state::Item, &usize)| item.rows.len() > *before;
    match screen.items.iter().zip(&before).position(came_back) {
        Some(at) if undone => screen.go_to(at),
        _ => screen.go_on(),
    }
    Ok(())
}

#[cfg(test)]
mod tests;
