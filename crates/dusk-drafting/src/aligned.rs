//! Plain text whose columns are aligned by spaces, with a line of dashes below the headings, as record layouts are.

use dusk_sources::{CellKind, Sheet};

/// A larger text is no record layout.
const LARGEST: usize = 4 << 20;

/// Where the columns of a text begin, in characters.
struct Columns(Vec<usize>);

impl Columns {
    /// Those that a line of dashes marks: three groups or more.
    fn marked_by(line: &str) -> Option<Self> {
        let is_mark = |c: char| matches!(c, '-' | '=' | '─');
        if !line.chars().all(|c| is_mark(c) || c == ' ') {
            return None;
        }
        let letters: Vec<char> = line.chars().collect();
        let begins = |at: &usize| {
            letters.get(*at).is_some_and(|c| is_mark(*c))
                && at.checked_sub(1).and_then(|before| letters.get(before)).is_none_or(|c| *c == ' ')
        };
        let starts: Vec<usize> = (0..letters.len()).filter(begins).collect();
        (starts.len() >= 3).then_some(Self(starts))
    }

    /// The cells of a line. One that has nothing in the first columns goes on with what stands above its last one, wherever
    /// it begins.
    fn cells(&self, line: &str) -> Vec<String> {
        let letters: Vec<char> = line.chars().collect();
        let begins = letters.iter().position(|c| *c != ' ').unwrap_or(0);
        if self.0.get(2).is_some_and(|third| begins >= *third) {
            let mut cells = vec![String::new(); self.0.len()];
            if let Some(last) = cells.last_mut() {
                line.trim().clone_into(last);
            }
            return cells;
        }
        let ends =
            self.0.iter().skip(1).copied().chain([letters.len().max(self.0.last().copied().unwrap_or(0))]);
        let starts = [0].into_iter().chain(self.0.iter().skip(1).copied());
        starts
            .zip(ends)
            .map(|(start, end)| {
                let cell: String = letters.iter().skip(start).take(end.saturating_sub(start)).collect();
                cell.trim().to_owned()
            })
            .collect()
    }
}

/// The table of a text as a sheet, its pages together; nothing where no line of dashes marks columns.
pub(super) fn sheet(bytes: &[u8]) -> Option<Sheet> {
    if bytes.len() > LARGEST || !bytes.windows(2).any(|pair| pair == b"--" || pair == b"==") {
        return None;
    }
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    // What is no UTF-8 is of Western Europe mostly; only words for people would suffer.
    let text = std::str::from_utf8(bytes)
        .map_or_else(|_| bytes.iter().map(|byte| char::from(*byte)).collect(), str::to_owned);
    let lines: Vec<&str> = text.lines().map(str::trim_end).collect();
    let (mut rows, mut columns, mut heading): (Vec<Vec<String>>, Option<Columns>, Vec<String>) =
        (Vec::new(), None, Vec::new());
    for (number, line) in lines.iter().enumerate() {
        let mut row = Vec::new();
        if let Some(marked) = Columns::marked_by(line) {
            let above = number.checked_sub(1).and_then(|above| lines.get(above)).copied().unwrap_or_default();
            let again = marked.cells(above);
            if heading.is_empty() && again.iter().filter(|cell| !cell.is_empty()).count() >= 3 {
                heading.clone_from(&again);
                if let Some(above) = rows.last_mut() {
                    above.clone_from(&again);
                }
            }
            // Another page goes on with the same table.
            columns = (again == heading).then_some(marked);
        } else if line.is_empty() {
            columns = None;
        } else {
            match &columns {
                Some(columns) => row = columns.cells(line),
                None if heading.is_empty() => row = vec![line.trim().to_owned()],
                None => {}
            }
        }
        while row.last().is_some_and(String::is_empty) {
            row.pop();
        }
        rows.push(row);
    }
    if heading.is_empty() {
        return None;
    }
    let kinds = rows.iter().map(|row| vec![CellKind::Text; row.len()]).collect();
    Some(Sheet { rows, kinds, ..Sheet::default() })
}

#[cfg(test)]
mod tests {
    use super::sheet;

    #[test]
    fn pages_of_a_record_layout_are_one_table_with_its_lines() {
        let text = "LAYOUT OF THE REGISTER   Page 1\n\n No  Len  Name    Title\n---  ---  ------  -----\n 01    1  KIND    Kind\n                  P   plough\n\nLAYOUT   Page 2\n\n No  Len  Name    Title\n---  ---  ------  -----\n 02    5  SIZE    Größe\n\nEnd of record.\n";
        let rows: Vec<(usize, String)> = sheet(text.as_bytes())
            .unwrap()
            .rows
            .iter()
            .enumerate()
            .filter(|(_, row)| row.len() > 1)
            .map(|(number, row)| (number + 1, row.join("|")))
            .collect();
        let wanted =
            [(3, "No|Len|Name|Title"), (5, "01|1|KIND|Kind"), (6, "|||P   plough"), (12, "02|5|SIZE|Größe")];
        assert_eq!(rows, wanted.map(|(row, text)| (row, text.to_owned())));
        assert!(sheet(b"a;b;c\n--\n1;2;3\n").is_none());
    }
}
