//! What columns the records of a record file have, and its rows on their way into the spool.

use std::fs::File;
use std::io::{BufWriter, Write as _};
use std::sync::Arc;

use dusk_evidence::{Refusal, plain_reason};
use dusk_workbooks::{CellKind, DAMAGED_RECORD, SPOOL_MARKS, push_spooled};
use hashbrown::HashMap;

use crate::by_indicator::told_apart;
use crate::chosen_list::{Chosen, chosen, json_lists, nothing_there};
use crate::decoded::Decoded;
use crate::format::RecordFormat;
use crate::met::{MOST_COLUMNS, Met, Record};
use crate::node::{RowValues, lists_inside, rows_of};
use crate::noticed::{RecordChoice, RecordFacts};
use crate::{iso2709, json, tagged_lines, xml};

/// What stands between several values of one cell, where nothing else is said.
const BETWEEN: &str = "|";

/// The most that a file may become, in bytes for each of its own.
const MOST_TIMES: u64 = 200;

/// The least that any file may become, in bytes.
const ALWAYS: u64 = 64 << 20;

/// A record file as a delimited file of the program's own.
#[derive(Debug)]
pub struct Unpacked {
    /// The file, which has no name and goes away with this. It has no row for the headings.
    pub file: File,
    /// What was noticed about it.
    pub facts: RecordFacts,
}

/// Reads the records of a file.
///
/// # Errors
/// A [`Refusal`] where it is damaged as a whole, or has no list of records or several and none is chosen.
pub fn unpack(file: &Arc<File>, format: RecordFormat, choice: &RecordChoice) -> Result<Unpacked, Refusal> {
    let mut list = match format {
        RecordFormat::Xml => chosen(&xml::lists_of(Decoded::of(file)?)?, choice, format)?,
        RecordFormat::Json => chosen(&json_lists(file)?, choice, format)?,
        _ => Chosen::inside("", choice.each.as_deref().unwrap_or_default()),
    };
    list.by_indicator.clone_from(&choice.by_indicator);
    let between = choice.between.clone().unwrap_or_else(|| BETWEEN.to_owned());
    let mut facts = RecordFacts {
        format: format.name().into(),
        each: list.each.clone(),
        between,
        ..RecordFacts::default()
    };
    let columns = surveyed(file, format, &list, &mut facts)?;
    if facts.rows == 0 && facts.damaged == 0 {
        return Err(nothing_there(&list, &facts));
    }
    let out = tempfile::tempfile().map_err(|error| not_unpacked(&error))?;
    write(file, format, &list, (&columns, &facts.between), &out)?;
    Ok(Unpacked { file: out, facts })
}

/// Gives every record of the chosen list.
fn each_record(
    file: &Arc<File>,
    format: RecordFormat,
    list: &Chosen,
    met: &mut Met<'_>,
) -> Result<(), Refusal> {
    let text = Decoded::of(file)?;
    let met: &mut Met<'_> = &mut |path, record| match record {
        Record::Read(node) if !list.by_indicator.is_empty() => {
            met(path, Record::Read(told_apart(node, &list.by_indicator)))
        }
        record => met(path, record),
    };
    match format {
        RecordFormat::Json if list.is_whole => json::whole(text, met),
        RecordFormat::Json => json::each_of_document(text, &mut |path, record| {
            if path == list.outer { met(path, record) } else { Ok(()) }
        }),
        RecordFormat::JsonLines => json::each_line(text, met),
        RecordFormat::Xml => xml::each_element(text, &list.outer, met),
        RecordFormat::Iso2709 => iso2709::each_record(text, met),
        RecordFormat::TaggedLines => {
            if text.encoding() != encoding_rs::UTF_8 {
                return Err(Refusal::new(
                    "is not UTF-8",
                    "export it as UTF-8 from the program that it comes from",
                ));
            }
            tagged_lines::each_record(text, met)
        }
    }
}

/// The columns of the records, by their paths, and what else is to be noticed.
fn surveyed(
    file: &Arc<File>,
    format: RecordFormat,
    list: &Chosen,
    facts: &mut RecordFacts,
) -> Result<HashMap<String, usize>, Refusal> {
    let names = list.names();
    let mut columns: HashMap<String, usize> = HashMap::new();
    each_record(file, format, list, &mut |_, record| {
        let Record::Read(node) = record else {
            facts.damaged += u64::from(matches!(record, Record::Damaged(_)));
            return Ok(());
        };
        lists_inside(&node, "", &mut facts.lists);
        let holds = |rows: &Vec<RowValues>| {
            rows.iter().flat_map(|row| &row.values).all(|value| value.cell(&facts.between).is_ok())
        };
        let Some(rows) = rows_of(&node, &names).ok().filter(holds) else {
            facts.damaged += 1;
            return Ok(());
        };
        facts.without_row += u64::from(rows.is_empty());
        for row in rows {
            facts.rows += 1;
            for path in row.lists() {
                if !facts.several.iter().any(|known| known == path) {
                    facts.several.push(path.to_owned());
                }
            }
            for value in &row.values {
                if !columns.contains_key(&value.path) {
                    columns.insert(value.path.clone(), columns.len());
                    facts.columns.push(value.path.clone());
                }
            }
            if columns.len() > MOST_COLUMNS {
                return Err(Refusal::new(
                    format!("has records with more than {MOST_COLUMNS} different names"),
                    "names that are values themselves, such as days, make no columns: export them as values",
                ));
            }
        }
        Ok(())
    })?;
    let outer =
        |path: &String| if list.outer.is_empty() { path.clone() } else { format!("{}.{path}", list.outer) };
    for (path, _) in &mut facts.lists {
        *path = outer(path);
    }
    facts.lists.retain(|(path, _)| *path != list.each);
    Ok(columns)
}

/// Writes the rows.
fn write(
    file: &Arc<File>,
    format: RecordFormat,
    list: &Chosen,
    (columns, between): (&HashMap<String, usize>, &str),
    out: &File,
) -> Result<(), Refusal> {
    let most = file.metadata().map_or(0, |metadata| metadata.len()).saturating_mul(MOST_TIMES).max(ALWAYS);
    let mut writer = BufWriter::with_capacity(1 << 18, out);
    let names = list.names();
    let (mut line, mut written) = (String::new(), 0_u64);
    let mut cells: Vec<(CellKind, String)> = Vec::new();
    let mut put = |line: &mut String| -> Result<(), Refusal> {
        line.push('\n');
        written += line.len() as u64;
        if written > most {
            return Err(Refusal::new(
                "becomes far larger as a table than a file of its size should",
                "export fewer columns, or records with fewer different names",
            ));
        }
        writer.write_all(line.as_bytes()).map_err(|error| not_unpacked(&error))?;
        line.clear();
        Ok(())
    };
    each_record(file, format, list, &mut |_, record| {
        let rows = match record {
            Record::Blank => return put(&mut line),
            Record::Damaged(says) => Err(says),
            Record::Read(node) => rows_of(&node, &names),
        };
        let spooled = rows.and_then(|rows| {
            let mut lines = Vec::new();
            for row in &rows {
                cells.clear();
                for value in &row.values {
                    let place = columns.get(&value.path).copied().unwrap_or(usize::MAX);
                    if place < columns.len() {
                        cells.resize(cells.len().max(place + 1), (CellKind::Text, String::new()));
                        if let Some(cell) = cells.get_mut(place) {
                            *cell = value.cell(between)?;
                        }
                    }
                }
                lines.push(spooled(&cells));
            }
            Ok(lines)
        });
        match spooled {
            Ok(mut lines) => lines.iter_mut().try_for_each(&mut put),
            Err(says) => {
                // A reason may quote the record, and stays on one line, or the rows below it would move.
                let says = says.replace(char::is_control, " ");
                push_spooled(&mut line, CellKind::Text, &says);
                line.insert(0, DAMAGED_RECORD);
                put(&mut line)
            }
        }
    })?;
    writer.flush().map_err(|error| not_unpacked(&error))
}

/// A row as a line of the spool.
fn spooled(cells: &[(CellKind, String)]) -> String {
    let mut line = String::new();
    for (place, (kind, text)) in cells.iter().enumerate() {
        if place > 0 {
            line.push_str(SPOOL_MARKS.0);
        }
        if !text.is_empty() {
            push_spooled(&mut line, *kind, text);
        }
    }
    line
}

fn not_unpacked(error: &std::io::Error) -> Refusal {
    Refusal::new(
        format!("cannot be unpacked into {}: {}", std::env::temp_dir().display(), plain_reason(error)),
        "TMPDIR names another folder to unpack it in",
    )
}

#[cfg(test)]
mod tests {
    use std::io::Read as _;

    use proptest::prelude::*;

    use super::*;
    use crate::iso2709::tests::record;

    fn file_of(bytes: &[u8]) -> Arc<File> {
        let mut file = tempfile::tempfile().unwrap();
        file.write_all(bytes).unwrap();
        Arc::new(file)
    }

    /// The columns and the rows of a file, each cell parted by bars.
    fn read(bytes: &[u8], each: Option<&str>) -> Result<(RecordFacts, Vec<String>), Refusal> {
        let format = crate::format::format_of(bytes).ok_or_else(|| Refusal::new("no record file", ""))?;
        let choice = RecordChoice { each: each.map(str::to_owned), ..RecordChoice::default() };
        let unpacked = unpack(&file_of(bytes), format, &choice)?;
        let mut text = String::new();
        dusk_workbooks::PlacedFile::new(&Arc::new(unpacked.file)).read_to_string(&mut text).unwrap();
        let row = |line: &str| dusk_workbooks::without_marks(line).replace(SPOOL_MARKS.0, "¦");
        Ok((unpacked.facts, text.lines().map(row).collect()))
    }

    const DOCUMENT: &str = r#"{"made": "2026", "trips": [
        {"id": 1.50, "boat": {"name": "Öst"}, "crew": [{"who": "Eva"}, {"who": "Bo", "paid": true}]},
        {"id": 2, "tags": ["a", "b"], "crew": []}], "keepers": ["x"]}"#;
    const XML: &str = "<r><made>1</made><trips><trip no='1'><boat>\u{d6}st &amp; Co</boat><crew><who>Eva</who></crew><crew><who>Bo</who></crew></trip><trip no='2'><boat/></trip></trips></r>";
    const LINES: &str = "{\"id\": 1}\n\n{\"id\": 2\n{\"id\": 3}\n";
    const TAGGED: &str = "=LDR  00714cam a2200205 a 4500\n=001  77\n=245  10$aBees$bof Wax\n=650  \\0$aHoney\n\n=001  78\n=650  \\0$aWax\n=650  \\0$aHives\n";

    #[test]
    fn each_form_gives_its_records_as_rows() {
        let (facts, rows) = read(DOCUMENT.as_bytes(), None).unwrap();
        assert_eq!((facts.each.as_str(), facts.rows), ("trips", 2));
        assert_eq!(facts.columns, ["id", "boat.name", "crew.who", "crew.paid", "tags"]);
        assert_eq!(rows, ["1.50¦Öst¦Eva|Bo¦|TRUE", "2¦¦¦¦a|b"]);
        assert_eq!(facts.lists, [("trips.crew".to_owned(), 2)]);
        let (facts, rows) = read(DOCUMENT.as_bytes(), Some("trips.crew")).unwrap();
        assert_eq!(
            (rows, facts.without_row),
            (vec!["1.50¦Öst¦Eva".to_owned(), "1.50¦Öst¦Bo¦TRUE".to_owned()], 1)
        );

        let (facts, rows) = read(XML.as_bytes(), None).unwrap();
        assert_eq!(
            (facts.each.as_str(), facts.columns.join(" ")),
            ("trips.trip", "@no boat crew.who".into())
        );
        assert_eq!(rows, ["1¦Öst & Co¦Eva|Bo", "2¦"]);
        let (_, rows) = read(XML.as_bytes(), Some("trips.trip.crew")).unwrap();
        assert_eq!(rows, ["1¦Öst & Co¦Eva", "1¦Öst & Co¦Bo"]);

        let (facts, rows) = read(LINES.as_bytes(), None).unwrap();
        assert_eq!(
            (facts.rows, facts.damaged, rows.len()),
            (2, 1, 4),
            "a row for each line, so that their numbers agree"
        );

        let (facts, rows) = read(TAGGED.as_bytes(), None).unwrap();
        assert_eq!(facts.columns, ["LDR", "001", "245@1", "245@2", "245$a", "245$b", "650@2", "650$a"]);
        assert_eq!(rows.last().map(String::as_str), Some("¦78¦¦¦¦¦0|0¦Wax|Hives"));
        let mut both =
            record('a', &[("001", "77"), ("245", "10$aBees"), ("650", " 0$aHoney"), ("650", " 0$aWax")]);
        both.extend(record('a', &[("001", "78")]));
        let (facts, rows) = read(&both, Some("650")).unwrap();
        assert_eq!((rows.len(), facts.without_row), (2, 1));
    }

    #[test]
    fn what_is_not_certain_is_asked_and_what_is_cut_is_refused() {
        let two = r#"{"trips": [{"id": 1}], "boats": [{"id": 2}, {"id": 3}]}"#;
        let asked = read(two.as_bytes(), None).unwrap_err();
        assert!(
            asked.says.contains("2 lists of records") && asked.hint.contains("each = \"boats\""),
            "{asked:?}"
        );
        assert_eq!(read(two.as_bytes(), Some("trips")).unwrap().1, ["1"]);
        assert!(
            read(two.as_bytes(), Some("crews")).unwrap_err().hint.contains("\"trips\" (1), \"boats\" (2)")
        );
        for cut in [&DOCUMENT.as_bytes()[..90], &XML.as_bytes()[..90]] {
            assert!(read(cut, None).unwrap_err().says.contains("ends in the middle"));
        }
        assert!(read(b"{\"a\": [{\"id\": 1}]} more", None).unwrap_err().says.contains("damaged JSON"));
        assert!(read(b"<r><a>&nothing;</a></r>", None).unwrap_err().says.contains("&nothing;"));
        assert!(read(b"{\"a\": 5}", None).is_ok_and(|(_, rows)| rows == ["5"]), "one object is one record");
        let mixed = "<r><v no='1'><note>some <b>bold</b> text</note></v><v no='2'><note>plain</note></v></r>";
        let (facts, rows) = read(mixed.as_bytes(), None).unwrap();
        assert_eq!((facts.damaged, rows.len()), (1, 2));
        assert!(
            rows[0].contains("<note> holds text with elements in it") && rows[1] == "2¦plain",
            "{rows:?}"
        );
        for text in [
            "No;Date\n117;3\n",
            "[No],[Date]\n1,2\n",
            "{No},Date\n1,2\n",
            "<No>,Date\n1,2\n",
            "<!DOCTYPE html><html></html>",
        ] {
            assert_eq!(crate::format::format_of(text.as_bytes()), None, "{text}");
        }
    }

    #[test]
    fn other_encodings_are_read_as_they_are_declared_or_marked() {
        let xml = XML.replacen("<r>", "<?xml version=\"1.0\" encoding=\"ISO-8859-1\"?><r>", 1);
        let bytes: Vec<u8> = xml.chars().map(|letter| u8::try_from(u32::from(letter)).unwrap()).collect();
        assert_eq!(read(&bytes, None).unwrap().1, ["1¦Öst & Co¦Eva|Bo", "2¦"]);
        let wide: Vec<u8> = format!("\u{feff}{DOCUMENT}").encode_utf16().flat_map(u16::to_le_bytes).collect();
        assert_eq!(read(&wide, None).unwrap().1.len(), 2);
        assert!(
            read(xml.replace("ISO-8859-1", "EBCDIC-9").as_bytes(), None)
                .unwrap_err()
                .says
                .contains("EBCDIC-9")
        );
    }

    fn samples() -> Vec<Vec<u8>> {
        let mut binary = record('a', &[("001", "77"), ("245", "10$aBees$bof Öst")]);
        binary.extend(record(' ', &[("001", "78"), ("650", " 0$aWax")]));
        let texts = [DOCUMENT, XML, LINES, TAGGED].map(|text| text.as_bytes().to_vec());
        texts.into_iter().chain([binary]).collect()
    }

    proptest! {
        #[test]
        fn whatever_bytes_are_changed_nothing_panics_and_every_row_is_written(
            sample in 0_usize..5,
            changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>(), 0_u8..3), 1..12),
            each in prop::option::of("[a-z.]{0,8}"),
        ) {
            let mut bytes = samples().swap_remove(sample);
            for (at, byte, how) in changes {
                let at = at.index(bytes.len().max(1)).min(bytes.len().saturating_sub(1));
                match how {
                    0 if !bytes.is_empty() => bytes[at] = byte,
                    1 => bytes.truncate(at.max(1)),
                    _ => bytes.insert(at, byte),
                }
            }
            if let Ok((facts, rows)) = read(&bytes, each.as_deref()) {
                let blank = rows.iter().filter(|row| row.is_empty()).count() as u64;
                prop_assert!(rows.len() as u64 >= facts.rows + facts.damaged - blank.min(facts.rows));
            }
        }
    }
}
