//! A table of texts for a screen: cells wrap between words only. Where even the longest words do not fit beside one
//! another, each row stands by itself, cell under cell.

use super::layout::{columns, padded, wrapped};
use super::style::{NAME, QUIET, styled};
use super::visible::visible;

/// What stands between two columns.
const GAP: usize = 2;

/// The lines of a table in so much room, the headings first; no line ends with a blank.
pub(super) fn table_lines(headings: &[&str], rows: &[Vec<String>], room: usize) -> Vec<String> {
    let rows: Vec<Vec<String>> =
        rows.iter().map(|row| row.iter().map(|cell| visible(cell).into_owned()).collect()).collect();
    match widths(headings, &rows, room) {
        Some(widths) => beside_one_another(headings, &rows, &widths),
        None => one_by_one(headings, &rows, room),
    }
}

/// The longest word of a text.
fn longest_word(text: &str) -> usize {
    text.split(' ').map(columns).max().unwrap_or(0)
}

/// How wide each column is: as wide as its longest word, and wider as far as there is room; nothing where there is none.
fn widths(headings: &[&str], rows: &[Vec<String>], room: usize) -> Option<Vec<usize>> {
    let cells = |place: usize| rows.iter().filter_map(move |row| row.get(place)).map(String::as_str);
    let widest = |place: usize, heading: &str, wide: fn(&str) -> usize| {
        cells(place).map(wide).chain([wide(heading)]).max().unwrap_or(0)
    };
    let all = || headings.iter().enumerate();
    let most: Vec<usize> = all().map(|(place, heading)| widest(place, heading, columns)).collect();
    let mut widths: Vec<usize> = all().map(|(place, heading)| widest(place, heading, longest_word)).collect();
    let used = 1 + GAP * headings.len().saturating_sub(1) + widths.iter().sum::<usize>();
    let mut left = room.checked_sub(used)?;
    // Those that want the least more get all of it, so that only the longest texts wrap; these share what is over.
    let mut wanting: Vec<(usize, usize)> =
        widths.iter().zip(&most).map(|(width, most)| most - width).enumerate().collect();
    wanting.sort_by_key(|(_, wants)| *wants);
    for (behind, (place, wants)) in wanting.iter().rev().enumerate().rev() {
        let more = if *wants <= left { *wants } else { left / (behind + 1) };
        if let Some(width) = widths.get_mut(*place) {
            *width += more;
            left -= more;
        }
    }
    Some(widths)
}

fn beside_one_another(headings: &[&str], rows: &[Vec<String>], widths: &[usize]) -> Vec<String> {
    let line = |cells: Vec<String>| format!(" {}", cells.join(&" ".repeat(GAP))).trim_end().to_owned();
    let row = |cells: &[&str]| -> Vec<String> {
        let wrapped: Vec<Vec<String>> =
            cells.iter().zip(widths).map(|(cell, width)| wrapped(cell, *width, 0)).collect();
        let height = wrapped.iter().map(Vec::len).max().unwrap_or(0);
        let at = |place: usize| {
            let cells = wrapped.iter().zip(widths);
            line(
                cells
                    .map(|(lines, width)| padded(lines.get(place).map_or("", String::as_str), *width))
                    .collect(),
            )
        };
        (0..height).map(at).collect()
    };
    let mut lines: Vec<String> = row(headings).iter().map(|line| styled(QUIET, line)).collect();
    for cells in rows {
        lines.extend(row(&cells.iter().map(String::as_str).collect::<Vec<_>>()));
    }
    lines
}

/// Each row as a heading, its first cell, and a line for each other cell that is filled.
fn one_by_one(headings: &[&str], rows: &[Vec<String>], room: usize) -> Vec<String> {
    let widest = headings.iter().skip(1).map(|heading| columns(heading)).max().unwrap_or(0);
    let margin = widest + 4;
    let mut lines = Vec::new();
    for row in rows {
        if !lines.is_empty() {
            lines.push(String::new());
        }
        let first = row.first().map_or("", String::as_str);
        lines.extend(wrapped(first, room, 0).iter().map(|line| styled(NAME, line)));
        for (heading, cell) in headings.iter().zip(row).skip(1).filter(|(_, cell)| !cell.is_empty()) {
            for (place, text) in wrapped(cell, room.saturating_sub(margin), 0).iter().enumerate() {
                let heading = if place == 0 { *heading } else { "" };
                lines.push(format!("  {}  {text}", styled(QUIET, &padded(heading, widest))));
            }
        }
    }
    lines
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    /// The lines without the marks of a style, which take no room on a screen.
    fn bare_lines(headings: &[&str], rows: &[Vec<String>], room: usize) -> Vec<String> {
        let bare = |line: &String| line.chars().filter(|c| u32::from(*c) < 0x2_0000).collect();
        table_lines(headings, rows, room).iter().map(bare).collect()
    }

    fn rows(cells: &[[&str; 3]]) -> Vec<Vec<String>> {
        cells.iter().map(|row| row.iter().map(|cell| (*cell).to_owned()).collect()).collect()
    }

    #[test]
    fn cells_wrap_between_words_and_columns_share_the_room() {
        let rows = rows(&[["hive_number", "what is written on the roof", "6 digits"], ["day", "", "a date"]]);
        let wide = bare_lines(&["field", "meaning", "is"], &rows, 80);
        assert_eq!(wide[1], " hive_number  what is written on the roof  6 digits");
        let narrow = bare_lines(&["field", "meaning", "is"], &rows, 36);
        assert_eq!(narrow[1..3], [" hive_number  what is       6 digits", "              written on"]);
        // The name alone leaves no room for the others beside it.
        let cards = bare_lines(&["field", "meaning", "is"], &rows, 24);
        assert_eq!(cards[..3], ["hive_number", "  meaning  what is", "           written on"]);
        assert!(
            cards.contains(&"  is       a date".to_owned()) && cards.contains(&String::new()),
            "{cards:?}"
        );
    }

    proptest! {
        /// Whatever the cells hold, no line passes the edge but for a word that is too long for it, and no word is lost
        /// or broken.
        #[test]
        fn no_word_is_broken(
            cells in prop::collection::vec(["[a-z]{0,12}", "([a-z蜂é]{1,9} ){0,6}[a-z]{1,9}", "[0-9]{0,4}"], 1..6),
            room in 10..90_usize,
        ) {
            let rows: Vec<Vec<String>> = cells.iter().map(|row| row.to_vec()).collect();
            let lines = bare_lines(&["name", "what it says", "how many"], &rows, room);
            let shown = lines.join("\n");
            let mut words: Vec<&str> = shown.split_whitespace().collect();
            for word in cells.iter().flatten().flat_map(|cell| cell.split_whitespace()) {
                let at = words.iter().position(|shown| *shown == word);
                prop_assert!(at.is_some(), "{word} is not in\n{shown}");
                words.remove(at.unwrap_or(0));
            }
            for line in &lines {
                let alone = line.split_whitespace().map(columns).max().unwrap_or(0);
                prop_assert!(columns(line) <= room || alone + 16 > room, "{room}: {line}");
                prop_assert!(!line.ends_with(' '));
            }
        }
    }
}
