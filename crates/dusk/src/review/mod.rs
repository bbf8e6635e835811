//! `dusk review`: causes settled and cells mended on one screen.
//!
//! ```text
//! state  what is shown and what a key does to it, without a terminal
//! typing a line of text while it is typed
//! desk   decisions written to the steward's files at once, and taken back
//! view   the screen drawn
//! ```

mod desk;
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
use desk::{Again, Desk};
use dusk_core::evidence::Id as _;
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
            Asked::Nothing | Asked::Write(..) => {}
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
        Asked::Settle(answer) => desk.settle(screen.at, &answer),
        Asked::Correct(row, column, text) => desk.correct(row, column, &text),
        Asked::KeepRowOut(row) => desk.keep_out(row),
        Asked::Undo => desk.undo(),
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
