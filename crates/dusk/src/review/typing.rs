//! A line of text while it is typed: letters go in where the cursor stands.

use crossterm::event::KeyCode;
use unicode_width::UnicodeWidthChar as _;

/// A text, and before which of its letters the cursor stands.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub(super) struct Typing {
    letters: Vec<char>,
    at: usize,
}

impl Typing {
    /// A text that was there already, with the cursor at its end.
    pub(super) fn over(text: &str) -> Self {
        let letters: Vec<char> = text.chars().collect();
        Self { at: letters.len(), letters }
    }

    /// What is typed so far.
    pub(super) fn text(&self) -> String {
        self.letters.iter().collect()
    }

    /// What a key does to it.
    pub(super) fn press(&mut self, key: KeyCode) {
        match key {
            KeyCode::Left => self.at = self.at.saturating_sub(1),
            KeyCode::Right => self.at = (self.at + 1).min(self.letters.len()),
            KeyCode::Home => self.at = 0,
            KeyCode::End => self.at = self.letters.len(),
            KeyCode::Backspace if self.at > 0 => {
                self.at -= 1;
                self.letters.remove(self.at);
            }
            KeyCode::Delete if self.at < self.letters.len() => drop(self.letters.remove(self.at)),
            KeyCode::Char(letter) => {
                self.letters.insert(self.at, letter);
                self.at += 1;
            }
            _ => {}
        }
    }

    /// Takes everything away.
    pub(super) fn clear(&mut self) {
        *self = Self::default();
    }

    /// What can be seen of it in `columns` columns, before the cursor and behind it. The cursor is always in
    /// view, and has a column of its own.
    pub(super) fn in_view(&self, columns: usize) -> (String, String) {
        let (before, behind) = self.letters.split_at_checked(self.at).unwrap_or((&self.letters, &[]));
        let wide = |letter: &char| letter.width().unwrap_or(1);
        let room = columns.saturating_sub(1);
        let all: usize = self.letters.iter().map(wide).sum();
        // Some of what follows stays in view as well.
        let mut left =
            if all <= room { all } else { room - behind.iter().map(wide).sum::<usize>().min(room / 4) };
        let mut take = |letter: &&char| {
            let fits = wide(letter) <= left;
            left = if fits { left - wide(letter) } else { 0 };
            fits
        };
        let mut shown: Vec<char> = before.iter().rev().take_while(&mut take).copied().collect();
        shown.reverse();
        let mut rest = room - shown.iter().map(wide).sum::<usize>().min(room);
        let follows = behind.iter().take_while(|letter| {
            let fits = wide(letter) <= rest;
            rest = if fits { rest - wide(letter) } else { 0 };
            fits
        });
        (shown.into_iter().collect(), follows.collect())
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use unicode_width::UnicodeWidthStr as _;

    use super::*;

    #[test]
    fn letters_go_in_and_out_where_the_cursor_stands() {
        let mut typing = Typing::over("31/02/2026");
        for _ in 0..5 {
            typing.press(KeyCode::Left);
        }
        typing.press(KeyCode::Backspace);
        typing.press(KeyCode::Char('3'));
        assert_eq!(typing.text(), "31/03/2026");
        typing.press(KeyCode::Home);
        typing.press(KeyCode::Backspace);
        typing.press(KeyCode::Delete);
        typing.press(KeyCode::Char('2'));
        typing.press(KeyCode::End);
        typing.press(KeyCode::Delete);
        typing.press(KeyCode::Right);
        typing.press(KeyCode::Char('!'));
        assert_eq!(typing.text(), "21/03/2026!");
        typing.clear();
        assert_eq!(typing, Typing::over(""));
    }

    proptest! {
        /// Whatever is typed, the cursor is in view, and what is shown around it is what stands there.
        #[test]
        fn the_cursor_is_always_in_view(text in "[a蜂é ]{0,40}", left in 0..45_usize, columns in 2..30_usize) {
            let mut typing = Typing::over(&text);
            (0..left).for_each(|_| typing.press(KeyCode::Left));
            let (before, behind) = typing.in_view(columns);
            prop_assert!(before.width() + 1 + behind.width() <= columns);
            let all: Vec<char> = text.chars().collect();
            let (first, last) = all.split_at(all.len().saturating_sub(left));
            prop_assert!(String::from_iter(first).ends_with(&before));
            prop_assert!(String::from_iter(last).starts_with(&behind));
            if text.width() < columns {
                prop_assert_eq!(before + &behind, text);
            }
        }
    }
}
