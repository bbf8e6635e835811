//! What the review screen shows and what a key does to it. It knows of no terminal and of no file.

use crossterm::event::{KeyCode, KeyEvent, KeyModifiers};

use super::typing::Typing;
use dusk_core::evidence::{ColumnId, FieldId, Id as _};
use dusk_core::values::fold;

/// A cause on the screen.
#[derive(Debug, Clone, Default)]
pub(super) struct Item {
    /// What it is about, and the value.
    pub(super) label: String,
    /// The same by the heading alone, for where there is little room.
    pub(super) short: String,
    /// What is wrong and what would be right.
    pub(super) says: String,
    /// How many rows had it when the screen was opened or the cause came up.
    pub(super) was: u64,
    /// The rows that have it now, by their places.
    pub(super) rows: Vec<usize>,
    /// What it can be settled with, the likeliest first.
    pub(super) answers: Vec<AnswerItem>,
    /// Whether a crosswalk line can settle it.
    pub(super) by_value: bool,
    /// Whether any text can be the answer, and not only those of the list.
    pub(super) takes_text: bool,
    /// Whether the field may stay blank.
    pub(super) may_be_blank: bool,
    /// The column that is faulty in each of these rows, by its place in the source.
    pub(super) cells: Vec<Option<ColumnId>>,
    /// What the dictionary says of the field, line by line.
    pub(super) entry: Vec<String>,
    /// What settles it outside this screen, where that is the mapping.
    pub(super) elsewhere: String,
    /// The list that an answer is taken from: the field, and the parent code within which the value was met. Causes that
    /// have the same can have one answer.
    pub(super) list: Option<(FieldId, String)>,
}

/// Something that a cause can be settled with.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct AnswerItem {
    /// What goes into the crosswalk.
    pub(super) answer: String,
    /// How it is shown.
    pub(super) shown: String,
    /// What speaks for it, where it is a suggestion.
    pub(super) why: String,
    /// It may be chosen unseen.
    pub(super) is_whole: bool,
}

/// Which part of the screen the keys move in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) enum Pane {
    #[default]
    Causes,
    Rows,
    Cells,
}

/// What the keys do at the moment.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub(super) enum Mode {
    /// Move about.
    #[default]
    Look,
    /// Choose an answer, by what is typed.
    Choose { typed: String, at: Option<usize> },
    /// Write another text into a cell.
    Write { column: ColumnId, typing: Typing },
    /// Type the row or the key to go to.
    Jump { typing: Typing },
    /// Look at the whole row as the file has it, with the rows around it.
    Around(Vec<String>),
    /// Read which keys there are.
    Help,
}

/// What a key asks for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Asked {
    Nothing,
    Leave,
    /// Settle these causes, by their places, with this answer.
    Settle(Vec<usize>, String),
    /// Write another text into the cell in this row and column.
    Write(usize, ColumnId),
    /// Take the cell in this row and column for something else.
    Correct(usize, ColumnId, String),
    /// Keep this row out.
    KeepRowOut(usize),
    /// Take the last decision back.
    Undo,
    /// Make the decision again that was taken back last.
    Redo,
    /// Go to the row of this number, or whose key has this in it.
    Jump(String),
    /// Show this row as the file has it.
    Around(usize),
}

/// The screen.
#[derive(Debug, Default)]
pub(super) struct Screen {
    pub(super) items: Vec<Item>,
    /// The cause at hand.
    pub(super) at: usize,
    /// The row at hand, among those of the cause.
    pub(super) row: usize,
    /// The cell at hand, by its column.
    pub(super) cell: usize,
    /// How many columns a row has.
    pub(super) width: usize,
    /// Causes that are settled together, by their places.
    pub(super) marked: Vec<usize>,
    pub(super) pane: Pane,
    pub(super) mode: Mode,
    /// What was done last, or why it was not.
    pub(super) message: String,
}

/// How many lines the keys for pages move by.
const PAGE: usize = 10;

impl Screen {
    /// The cause at hand.
    pub(super) fn item(&self) -> Option<&Item> {
        self.items.get(self.at)
    }

    /// The row at hand, by its place.
    pub(super) fn row(&self) -> Option<usize> {
        self.item()?.rows.get(self.row).copied()
    }

    /// The column that is faulty in the row at hand.
    fn faulty(&self) -> Option<ColumnId> {
        self.item()?.cells.get(self.row).copied().flatten()
    }

    /// Goes to another cause.
    pub(super) fn go_to(&mut self, at: usize) {
        self.at = at.min(self.items.len().saturating_sub(1));
        self.go_to_row(0);
    }

    fn go_to_row(&mut self, row: usize) {
        let rows = self.item().map_or(0, |item| item.rows.len());
        self.row = row.min(rows.saturating_sub(1));
        self.cell = self.faulty().map_or(0, ColumnId::index);
    }

    /// Goes to a row, wherever it is among the causes; false where no cause has it.
    pub(super) fn go_to_place(&mut self, place: usize) -> bool {
        let within = |item: &Item| item.rows.iter().position(|row| *row == place);
        // The cause at hand comes first: its rows are what somebody looks at.
        let all = || std::iter::once(self.at).chain(0..self.items.len());
        let found = all().find_map(|at| Some((at, within(self.items.get(at)?)?)));
        let Some((at, row)) = found else { return false };
        self.at = at;
        self.pane = Pane::Rows;
        self.go_to_row(row);
        true
    }

    /// Stays where it is as far as that is still there, after what is shown has changed.
    pub(super) fn settle_down(&mut self) {
        self.at = self.at.min(self.items.len().saturating_sub(1));
        self.go_to_row(self.row);
    }

    /// The next cause that has rows left, after the one at hand was settled.
    pub(super) fn go_on(&mut self) {
        if self.item().is_some_and(|item| !item.rows.is_empty()) {
            return self.settle_down();
        }
        let left = |place: &usize| self.items.get(*place).is_some_and(|item| !item.rows.is_empty());
        let next = (self.at..self.items.len()).chain(0..self.at).find(left);
        self.go_to(next.unwrap_or(self.at));
        self.pane = Pane::Causes;
    }

    /// The answers that fit what is typed.
    pub(super) fn answers(&self, typed: &str) -> Vec<AnswerItem> {
        let Some(item) = self.item() else { return Vec::new() };
        // Words in any order and case; what begins with them comes first.
        let wanted: Vec<String> = typed.split_whitespace().map(fold).collect();
        let begins = wanted.concat();
        let fits = |answer: &&AnswerItem| {
            let shown = fold(&answer.shown);
            wanted.iter().all(|word| shown.contains(word.as_str()))
        };
        let mut answers: Vec<AnswerItem> = item.answers.iter().filter(fits).cloned().collect();
        answers.sort_by_key(|answer| !fold(&answer.shown).starts_with(&begins));
        if item.takes_text && !typed.trim().is_empty() {
            let answer = typed.trim().to_owned();
            let shown = format!("\"{answer}\"");
            answers.insert(0, AnswerItem { answer, shown, why: "as typed".into(), is_whole: true });
        }
        answers
    }

    /// What a key does.
    pub(super) fn press(&mut self, key: KeyEvent) -> Asked {
        if key.modifiers.contains(KeyModifiers::CONTROL) && key.code == KeyCode::Char('c') {
            return Asked::Leave;
        }
        match std::mem::take(&mut self.mode) {
            Mode::Look => self.look(key.code),
            Mode::Choose { typed, at } => self.choose(key.code, typed, at),
            Mode::Write { column, typing } => self.write(key, column, typing),
            Mode::Jump { typing } => self.jump(key.code, typing),
            Mode::Help | Mode::Around(_) => Asked::Nothing,
        }
    }

    fn look(&mut self, key: KeyCode) -> Asked {
        match key {
            KeyCode::Char('q') | KeyCode::Esc => return Asked::Leave,
            KeyCode::Char('?') => self.mode = Mode::Help,
            KeyCode::Char('u') => return Asked::Undo,
            KeyCode::Char('r') => return Asked::Redo,
            KeyCode::Char('g') => self.mode = Mode::Jump { typing: Typing::default() },
            KeyCode::Char('w') => return self.row().map_or(Asked::Nothing, Asked::Around),
            KeyCode::Char(' ') if self.pane == Pane::Causes => self.mark(),
            KeyCode::Char('m') => self.marked.clear(),
            KeyCode::Char('s') | KeyCode::Enter if self.pane == Pane::Causes => return self.begin_choosing(),
            KeyCode::Char('s') => return self.begin_choosing(),
            KeyCode::Char('e') | KeyCode::Enter => {
                return self.row().map_or(Asked::Nothing, |row| Asked::Write(row, ColumnId::new(self.cell)));
            }
            KeyCode::Char('b') => return self.leave_blank(),
            KeyCode::Char('k') => return self.keep_out(),
            KeyCode::Tab | KeyCode::Right => self.pane = self.pane.next(),
            KeyCode::BackTab | KeyCode::Left => self.pane = self.pane.before(),
            KeyCode::Up => self.step(|at| at.saturating_sub(1)),
            KeyCode::Down => self.step(|at| at + 1),
            KeyCode::PageUp => self.step(|at| at.saturating_sub(PAGE)),
            KeyCode::PageDown => self.step(|at| at + PAGE),
            KeyCode::Home => self.step(|_| 0),
            KeyCode::End => self.step(|_| usize::MAX),
            _ => {}
        }
        Asked::Nothing
    }

    fn step(&mut self, to: impl Fn(usize) -> usize) {
        match self.pane {
            Pane::Causes => self.go_to(to(self.at)),
            Pane::Rows => self.go_to_row(to(self.row)),
            Pane::Cells => self.cell = to(self.cell).min(self.width.saturating_sub(1)),
        }
    }

    /// Marks the cause at hand, or takes its mark away, and goes on to the next.
    fn mark(&mut self) {
        let Some(item) = self.items.get(self.at) else { return };
        if let Some(place) = self.marked.iter().position(|marked| *marked == self.at) {
            self.marked.remove(place);
            return;
        }
        if !item.by_value || item.rows.is_empty() {
            self.message = "This cause is not about one value, so it cannot be settled with others.".into();
            return;
        }
        let first = self.marked.first().and_then(|first| self.items.get(*first));
        if first.is_some_and(|first| first.list != item.list) {
            self.message = "The marked values are of another field; m takes the marks away.".into();
            return;
        }
        self.marked.push(self.at);
        let alike = |place: &usize| self.items.get(*place).is_some_and(|other| other.list == item.list);
        if let Some(next) = (self.at + 1..self.items.len()).find(alike) {
            self.go_to(next);
        }
    }

    /// The causes that a decision is about: those that are marked, or the one at hand.
    fn decided(&self) -> Vec<usize> {
        if self.marked.is_empty() { vec![self.at] } else { self.marked.clone() }
    }

    fn begin_choosing(&mut self) -> Asked {
        if let Some(first) = self.marked.first().filter(|_| !self.marked.contains(&self.at)) {
            self.go_to(*first);
        }
        match self.item() {
            Some(item) if item.by_value && !item.rows.is_empty() => {
                // Only a suggestion is at hand before anything was chosen, and none for several values at once.
                let suggested = item.answers.first().is_some_and(|answer| answer.is_whole);
                let suggested = suggested && self.marked.len() < 2;
                self.mode = Mode::Choose { typed: String::new(), at: suggested.then_some(0) };
            }
            Some(item) if !item.elsewhere.is_empty() => self.message = item.elsewhere.clone(),
            Some(item) if !item.rows.is_empty() => {
                self.message = "This cause is not about one value: correct the rows one by one (e).".into();
            }
            _ => {}
        }
        Asked::Nothing
    }

    fn jump(&mut self, key: KeyCode, mut typing: Typing) -> Asked {
        match key {
            KeyCode::Esc => return Asked::Nothing,
            KeyCode::Enter => return Asked::Jump(typing.text()),
            code => typing.press(code),
        }
        self.mode = Mode::Jump { typing };
        Asked::Nothing
    }

    /// Begins to write into a cell that holds this now.
    pub(super) fn write_over(&mut self, column: ColumnId, now: &str) {
        self.mode = Mode::Write { column, typing: Typing::over(now) };
    }

    fn leave_blank(&mut self) -> Asked {
        let Some(item) = self.item() else { return Asked::Nothing };
        if !item.may_be_blank {
            self.message = "The field must be filled, so nothing of it can be left blank.".into();
            return Asked::Nothing;
        }
        match (item.by_value, self.row(), self.faulty()) {
            (true, Some(_), _) => Asked::Settle(self.decided(), dusk_core::decisions::LEAVE_BLANK.into()),
            (false, Some(row), Some(column)) => Asked::Correct(row, column, String::new()),
            _ => Asked::Nothing,
        }
    }

    fn keep_out(&mut self) -> Asked {
        let by_value = self.pane == Pane::Causes && self.item().is_some_and(|item| item.by_value);
        match self.row() {
            // Among the causes a value is meant, with all of its rows; among the rows the one at hand.
            Some(_) if by_value => Asked::Settle(self.decided(), dusk_core::decisions::KEEP_OUT.into()),
            Some(row) => Asked::KeepRowOut(row),
            None => Asked::Nothing,
        }
    }

    fn choose(&mut self, key: KeyCode, mut typed: String, at: Option<usize>) -> Asked {
        let last = self.answers(&typed).len().saturating_sub(1);
        let at = match key {
            KeyCode::Esc => return Asked::Nothing,
            KeyCode::Enter => {
                let answers = self.answers(&typed);
                return match at.and_then(|at| answers.get(at)) {
                    Some(answer) => Asked::Settle(self.decided(), answer.answer.clone()),
                    None => {
                        self.mode = Mode::Choose { typed, at };
                        self.message = "Choose with ↑ and ↓, or type a part of it.".into();
                        Asked::Nothing
                    }
                };
            }
            KeyCode::Up => Some(at.unwrap_or(0).saturating_sub(1)),
            KeyCode::Down => Some(at.map_or(0, |at| (at + 1).min(last))),
            KeyCode::Backspace => {
                typed.pop();
                at.map(|_| 0)
            }
            KeyCode::Char(letter) => {
                typed.push(letter);
                Some(0)
            }
            _ => at,
        };
        self.mode = Mode::Choose { typed, at };
        Asked::Nothing
    }

    fn write(&mut self, key: KeyEvent, column: ColumnId, mut typing: Typing) -> Asked {
        match key.code {
            KeyCode::Esc => return Asked::Nothing,
            KeyCode::Enter => {
                return self.row().map_or(Asked::Nothing, |row| Asked::Correct(row, column, typing.text()));
            }
            KeyCode::Char('u') if key.modifiers.contains(KeyModifiers::CONTROL) => typing.clear(),
            KeyCode::Char(_) if key.modifiers.intersects(KeyModifiers::CONTROL | KeyModifiers::ALT) => {}
            code => typing.press(code),
        }
        self.mode = Mode::Write { column, typing };
        Asked::Nothing
    }
}

impl Pane {
    fn next(self) -> Self {
        match self {
            Self::Causes => Self::Rows,
            Self::Rows => Self::Cells,
            Self::Cells => Self::Causes,
        }
    }

    fn before(self) -> Self {
        self.next().next()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn screen() -> Screen {
        let answer = |code: &str, shown: &str| AnswerItem {
            answer: code.into(),
            shown: shown.into(),
            why: String::new(),
            is_whole: false,
        };
        let colour = Item {
            label: "queen \"wht\"".into(),
            was: 2,
            rows: vec![0, 3],
            answers: vec![answer("W", "W White"), answer("Y", "Y Yellow")],
            by_value: true,
            may_be_blank: true,
            cells: vec![Some(ColumnId::new(2)); 2],
            ..Item::default()
        };
        let date = Item { rows: vec![1], cells: vec![Some(ColumnId::new(1))], ..Item::default() };
        Screen { items: vec![colour, date], width: 4, ..Screen::default() }
    }

    fn press(screen: &mut Screen, keys: &str) -> Asked {
        let mut asked = Asked::Nothing;
        for key in keys.chars() {
            let code = match key {
                '↵' => KeyCode::Enter,
                '⎋' => KeyCode::Esc,
                '↓' => KeyCode::Down,
                '→' => KeyCode::Tab,
                '⌫' => KeyCode::Backspace,
                letter => KeyCode::Char(letter),
            };
            asked = screen.press(KeyEvent::new(code, KeyModifiers::NONE));
        }
        asked
    }

    #[test]
    fn a_cause_is_settled_by_what_is_typed() {
        let mut screen = screen();
        assert_eq!(press(&mut screen, "syel↵"), Asked::Settle(vec![0], "Y".into()));
        assert_eq!(screen.mode, Mode::Look);
        assert_eq!(press(&mut screen, "sx↵"), Asked::Nothing, "no code fits");
        assert_eq!(press(&mut screen, "⌫↓↵"), Asked::Settle(vec![0], "Y".into()));
        assert_eq!(press(&mut screen, "s⎋"), Asked::Nothing);
        assert_eq!(press(&mut screen, "s↵"), Asked::Nothing, "nothing is suggested, so nothing is at hand");
        assert_eq!(press(&mut screen, "↓↵"), Asked::Settle(vec![0], "W".into()));
        assert_eq!(press(&mut screen, "k"), Asked::Settle(vec![0], "(keep out)".into()));
        assert_eq!(press(&mut screen, "b"), Asked::Settle(vec![0], "(leave blank)".into()));
        assert_eq!([press(&mut screen, "u"), press(&mut screen, "q")], [Asked::Undo, Asked::Leave]);
    }

    #[test]
    fn what_is_no_value_of_a_list_is_mended_row_by_row() {
        let mut screen = screen();
        assert_eq!(press(&mut screen, "↓s"), Asked::Nothing);
        assert!(screen.message.contains("one by one"));
        assert_eq!((screen.at, screen.cell), (1, 1), "the faulty cell is at hand");
        assert_eq!(press(&mut screen, "e"), Asked::Write(1, ColumnId::new(1)));
        screen.write_over(ColumnId::new(1), "31/02");
        assert_eq!(press(&mut screen, "⌫1↵"), Asked::Correct(1, ColumnId::new(1), "31/01".into()));
        assert_eq!(press(&mut screen, "b"), Asked::Nothing, "the field must be filled");
        // What no value is to blame for is kept out row by row, and so is the row at hand among the rows.
        assert_eq!(press(&mut screen, "k"), Asked::KeepRowOut(1));
        // Another cell of the row.
        assert_eq!(press(&mut screen, "→→↓e"), Asked::Write(1, ColumnId::new(2)));
        screen.write_over(ColumnId::new(2), "");
        screen.press(KeyEvent::new(KeyCode::Char('a'), KeyModifiers::CONTROL));
        assert_eq!(press(&mut screen, "x↵"), Asked::Correct(1, ColumnId::new(2), "x".into()));
        screen.write_over(ColumnId::new(2), "wrong");
        screen.press(KeyEvent::new(KeyCode::Char('u'), KeyModifiers::CONTROL));
        assert_eq!(press(&mut screen, "u↵"), Asked::Correct(1, ColumnId::new(2), "u".into()));
    }

    #[test]
    fn after_a_decision_the_next_cause_is_at_hand() {
        let mut screen = screen();
        press(&mut screen, "→↓");
        screen.items[0].rows = vec![3];
        screen.go_on();
        assert_eq!((screen.at, screen.row), (0, 0), "a row is left");
        screen.items[0].rows.clear();
        screen.go_on();
        assert_eq!((screen.at, screen.pane), (1, Pane::Causes));
        screen.items[1].rows.clear();
        screen.go_on();
        assert_eq!(screen.row(), None);
    }
}
