//! Crosswalks: remembered translations, one file per field, `crosswalks/<field>.csv` beside the
//! mapping. Every line says who decided it and when.

use std::path::{Path, PathBuf};

use hashbrown::HashMap;

use dusk_description::{BooleanType, CodeType, CodesType, Field, FieldType, Lookup, ReadAs, Unmatched, fold};
use dusk_evidence::{Error, Problems, Result};
use dusk_files::{FileName, Held, List, guarded, unguarded};

/// The columns of a crosswalk file.
const COLUMNS: [&str; 6] = ["value", "within", "code", "by", "on", "note"];

/// Stands in the place of a code: the field stays blank.
pub const LEAVE_BLANK: &str = "(leave blank)";

/// Stands in the place of a code: the record is kept out.
pub const KEEP_OUT: &str = "(keep out)";

/// Stands in the place of a code: the value may go in as a new term of an open list.
pub const NEW_TERM: &str = "(new term)";

/// What was decided about a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Answer<'a> {
    /// It means this: a code, a word for true or false, or a value as the target writes it.
    Means(&'a str),
    /// The field stays blank.
    LeaveBlank,
    /// The record is kept out.
    KeepOut,
    /// It is a new term of an open list, and may go in as the line writes it.
    NewTerm,
}

impl<'a> Answer<'a> {
    /// What the text in the place of a code says.
    pub fn of(text: &'a str) -> Self {
        match text {
            LEAVE_BLANK => Self::LeaveBlank,
            KEEP_OUT => Self::KeepOut,
            NEW_TERM => Self::NewTerm,
            text => Self::Means(text),
        }
    }
}

/// One remembered translation.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct CrosswalkLine {
    /// The value as the source has it.
    pub value: String,
    /// The parent code inside which the translation holds; empty for anywhere.
    pub within: String,
    /// What it means: a code, a word for true or false, a value as the target writes it, or one of
    /// [`LEAVE_BLANK`], [`KEEP_OUT`] and [`NEW_TERM`].
    pub code: String,
    /// Who decided.
    pub by: String,
    /// The day of the decision, as yyyy-MM-dd.
    pub on: String,
    /// Why, in the steward's words.
    pub note: String,
}

/// The remembered translations of one field.
#[derive(Debug, Clone, Default)]
pub struct Crosswalk {
    lines: Vec<CrosswalkLine>,
    places: HashMap<(String, String), usize>,
}

impl CrosswalkLine {
    /// What was decided.
    pub fn answer(&self) -> Answer<'_> {
        Answer::of(&self.code)
    }
}

/// Where the crosswalk of a field stands beside the mapping at `mapping`.
pub fn crosswalk_path(mapping: &Path, field: &str) -> PathBuf {
    let folder = mapping.parent().unwrap_or(Path::new(""));
    folder.join("crosswalks").join(format!("{}.csv", FileName::word(field)))
}

impl Crosswalk {
    /// Reads the crosswalk at `path`, which belongs to `field`.
    ///
    /// # Errors
    /// [`Error::File`] when the file is there but cannot be read.
    pub fn read(path: &Path, field: &Field, problems: &mut Problems) -> Result<Self> {
        let mut crosswalk = Self::default();
        let Some(list) = List::read(path, &["value", "code"], &["within", "by", "on", "note"], problems)?
        else {
            return Ok(crosswalk);
        };
        let terms: Vec<String> = list
            .rows
            .iter()
            .filter(|row| unguarded(row.cell(1)) == NEW_TERM)
            .map(|row| fold(&unguarded(row.cell(0))))
            .collect();
        for row in &list.rows {
            let [value, code, within, by, on, note] =
                [0, 1, 2, 3, 4, 5].map(|index| unguarded(row.cell(index)).into_owned());
            if value.is_empty() {
                problems.at(&list.name, Some(row.line), "has no value to translate");
                continue;
            }
            if let Err((says, known)) = is_answer(field, &code, &within, |code| terms.contains(&fold(code))) {
                problems
                    .at(&list.name, Some(row.line), says)
                    .suggest(&code, known.iter().map(String::as_str));
            }
            let line = CrosswalkLine { value, within, code, by, on, note };
            match crosswalk
                .find(&line.value, Some(&line.within).filter(|within| !within.is_empty()).map(String::as_str))
            {
                Some(first) if first.within == line.within => {
                    let code = first.code.clone();
                    problems
                        .at(&list.name, Some(row.line), format!("translates \"{}\" again", line.value))
                        .hint(format!(
                            "an earlier line says {code}; case and spaces do not count; keep one of the two"
                        ));
                }
                _ => crosswalk.push(line),
            }
        }
        Ok(crosswalk)
    }

    /// The lines in the order of the file.
    pub fn lines(&self) -> &[CrosswalkLine] {
        &self.lines
    }

    /// The line that translates `value`, one for this `parent` before one for any. Case and white
    /// space do not count.
    pub fn find(&self, value: &str, parent: Option<&str>) -> Option<&CrosswalkLine> {
        self.lines.get(self.place_of(value, parent)?)
    }

    /// Where among [`Crosswalk::lines`] that line is.
    pub fn place_of(&self, value: &str, parent: Option<&str>) -> Option<usize> {
        if self.lines.is_empty() {
            return None;
        }
        let value = fold(value);
        let inside = parent.and_then(|parent| self.places.get(&(value.clone(), parent.to_owned())));
        inside.or_else(|| self.places.get(&(value, String::new()))).copied()
    }

    /// The line that allows the term which `value` is, or which its own line leads to; one for this `parent` before
    /// one for any.
    pub fn term(&self, value: &str, parent: Option<&str>) -> Option<&CrosswalkLine> {
        let line = self.find(value, parent)?;
        match line.answer() {
            Answer::NewTerm => Some(line),
            Answer::Means(term) => self.find(term, parent).filter(|line| line.answer() == Answer::NewTerm),
            Answer::LeaveBlank | Answer::KeepOut => None,
        }
    }

    /// What is odd about the lines, although they can be used: each with what is to be said about it.
    pub fn doubts(&self, field: &Field, today: jiff::civil::Date) -> Vec<(&CrosswalkLine, String)> {
        let mut doubts = Vec::new();
        for line in &self.lines {
            let means = match line.answer() {
                Answer::Means(means) => means,
                Answer::NewTerm => &line.value,
                Answer::LeaveBlank | Answer::KeepOut => continue,
            };
            let inside = Some(line.within.as_str()).filter(|within| !within.is_empty());
            if let Some(list) = field.kind.codes() {
                match list.look_up(&line.value, inside, ReadAs::Either) {
                    Lookup::Found(code, _) if line.answer() == Answer::NewTerm => {
                        doubts.push((line, format!("is not needed: {} has {}", list.name, code.shown())));
                    }
                    Lookup::Found(code, _) if code.code == means => {
                        let says = format!("is not needed: {} has it already", list.name);
                        doubts.push((line, says));
                    }
                    Lookup::Found(code, _) => {
                        let says = format!("contradicts {}, where it is {}", list.name, code.shown());
                        doubts.push((line, says));
                    }
                    _ => {}
                }
                let known = list.codes().iter().find(|code| code.code == means);
                if let Some(until) = known.and_then(|code| code.until).filter(|until| *until < today) {
                    let day = dusk_values::shown(until);
                    doubts.push((line, format!("leads to {means}, which was retired on {day}")));
                }
            }
            let back = self.places.get(&(fold(means), line.within.clone()));
            let circles = |back: &&CrosswalkLine| *back != line && back.answer() != Answer::NewTerm;
            if let Some(back) = back.and_then(|place| self.lines.get(*place)).filter(circles) {
                doubts.push((line, format!("goes in a circle: \"{}\" means {}", back.value, back.code)));
            }
        }
        doubts
    }

    /// Adds a line, or replaces the one for the same value and parent; gives back the replaced one.
    ///
    /// # Errors
    /// [`Error::Request`] when the code is none that the field may hold.
    pub fn set(&mut self, line: CrosswalkLine, field: &Field) -> Result<Option<CrosswalkLine>> {
        let is_term =
            |code: &str| self.find(code, Some(&line.within)).is_some_and(|known| known.code == NEW_TERM);
        if let Err((says, known)) = is_answer(field, &line.code, &line.within, is_term) {
            let mut hint = dusk_evidence::Problems::default();
            hint.at(&field.name, None, says).suggest(&line.code, known.iter().map(String::as_str));
            return Err(Error::Request(hint.to_string()));
        }
        let key = (fold(&line.value), line.within.clone());
        if let Some(old) = self.places.get(&key).and_then(|place| self.lines.get_mut(*place)) {
            return Ok(Some(std::mem::replace(old, line)));
        }
        self.push(line);
        Ok(None)
    }

    /// Takes away the line for this value and parent (empty for anywhere).
    pub fn remove(&mut self, value: &str, within: &str) -> Option<CrosswalkLine> {
        let place = *self.places.get(&(fold(value), within.to_owned()))?;
        let removed = self.lines.remove(place);
        let lines = std::mem::take(&mut self.lines);
        self.places.clear();
        lines.into_iter().for_each(|line| self.push(line));
        Some(removed)
    }

    /// Holds the crosswalk at `path`, which belongs to `field`, together with what is held already, and reads it as it is now; one that is not there has
    /// no lines.
    ///
    /// # Errors
    /// As [`Held::file`] and [`Crosswalk::read`]; [`Error::Problems`] for lines that are wrong.
    pub fn hold(path: &Path, field: &Field, among: Option<&Held>) -> Result<(Held, Self)> {
        let held = Held::among(among, path)?;
        let mut problems = Problems::default();
        let crosswalk = if path.exists() { Self::read(path, field, &mut problems)? } else { Self::default() };
        Ok((held, problems.or(crosswalk)?))
    }

    /// Writes the lines to the file that is held, whole or not at all; a file without lines is taken away.
    ///
    /// # Errors
    /// [`Error::File`] when the file cannot be written.
    pub fn write(&self, held: &Held) -> Result<()> {
        let path = held.path();
        if self.lines.is_empty() {
            return held.remove();
        }
        let mut writer = csv::Writer::from_writer(Vec::new());
        let wrong = |error: csv::Error| Error::writing(path)(error.into());
        writer.write_record(COLUMNS).map_err(wrong)?;
        for line in &self.lines {
            let cells = [&line.value, &line.within, &line.code, &line.by, &line.on, &line.note];
            writer.write_record(cells.map(|cell| guarded(cell).into_owned())).map_err(wrong)?;
        }
        let bytes = writer.into_inner().map_err(|error| Error::writing(path)(error.into_error()))?;
        held.write(&bytes)
    }

    fn push(&mut self, line: CrosswalkLine) {
        self.places.insert((fold(&line.value), line.within.clone()), self.lines.len());
        self.lines.push(line);
    }
}

/// Whether `code` may stand in `field`; if not, why, and what may. `is_term` says what was allowed as a new term.
fn is_answer(
    field: &Field,
    code: &str,
    within: &str,
    is_term: impl Fn(&str) -> bool,
) -> std::result::Result<(), (String, Vec<String>)> {
    match Answer::of(code) {
        Answer::KeepOut => return Ok(()),
        Answer::LeaveBlank if field.required && !matches!(field.kind, FieldType::Codes(_)) => {
            let says = format!("{} must be filled, so no value of it can be left blank", field.name);
            return Err((says, Vec::new()));
        }
        Answer::NewTerm if field.unmatched != Unmatched::Open => {
            let says = format!("the list of {} is closed, so it takes no new term", field.name);
            return Err((format!("{says}; unmatched = \"new-term\" in the target opens it"), Vec::new()));
        }
        Answer::LeaveBlank | Answer::NewTerm => return Ok(()),
        Answer::Means(code) if field.unmatched == Unmatched::Open && is_term(code) => return Ok(()),
        Answer::Means(_) => {}
    }
    match &field.kind {
        FieldType::Codes(CodesType { list, .. }) if list.several(code).is_some() => Ok(()),
        FieldType::Code(CodeType { list, .. }) | FieldType::Codes(CodesType { list, .. }) => {
            let inside = |known: &&dusk_description::Code| within.is_empty() || known.within == within;
            if list.codes().iter().filter(inside).any(|known| known.code == code) {
                return Ok(());
            }
            let known = list.codes().iter().filter(inside).map(|known| known.code.clone()).collect();
            let place = if within.is_empty() { String::new() } else { format!(" within \"{within}\"") };
            Err((format!("\"{code}\" is not a code of {}{place}", list.name), known))
        }
        FieldType::Boolean(BooleanType { yes, no }) => {
            if code == yes || code == no {
                Ok(())
            } else {
                Err((format!("\"{code}\" is neither \"{yes}\" nor \"{no}\""), vec![yes.clone(), no.clone()]))
            }
        }
        _ if code.is_empty() => Err((
            format!("nothing is said for {}; write {LEAVE_BLANK} to leave it blank", field.name),
            Vec::new(),
        )),
        // Whether the dictionary allows it is checked where values are conformed.
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;
    use dusk_description::Target;

    fn fields() -> Vec<Field> {
        let folder = tempfile::tempdir().unwrap();
        let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
        write("region.csv", "code,label\nNF,North\nSF,South\n");
        write("district.csv", "code,label,within,until\n1,Fen,NF,\n2,Hill,NF,2020-01-01\n1,End,SF,\n");
        write(
            "target.toml",
            "[target]\nname = \"T\"\n[upload]\nfile_name = \"u.csv\"\n\
             [[field]]\nname = \"note\"\ntype = \"text\"\n\
             [[field]]\nname = \"region\"\ntype = \"code\"\ncodes = \"region.csv\"\nrequired = true\n\
             [[field]]\nname = \"district\"\ntype = \"code\"\ncodes = \"district.csv\"\nwithin = \"region\"\n",
        );
        Target::read(&folder.path().join("target.toml")).unwrap().fields.into_iter().collect()
    }

    fn line(value: &str, within: &str, code: &str) -> CrosswalkLine {
        let text = str::to_owned;
        CrosswalkLine {
            value: text(value),
            within: text(within),
            code: text(code),
            ..CrosswalkLine::default()
        }
    }

    proptest! {
        /// Whatever the values are, and whatever a spreadsheet program would run of them, the file holds them.
        #[test]
        fn a_crosswalk_is_read_back_as_it_was_written(
            values in prop::collection::vec(("[-+=@'\"a,; \n\u{ff1d}é]{1,6}", "[-=@'\"b,;]{1,5}"), 1..8),
        ) {
            let fields = fields();
            let note = fields.first().unwrap();
            let mut written = Crosswalk::default();
            for (value, code) in &values {
                if !value.trim().is_empty() {
                    written.set(line(value.trim(), "", code), note).unwrap();
                }
            }
            let folder = tempfile::tempdir().unwrap();
            let path = crosswalk_path(&folder.path().join("mapping.toml"), "note");
            written.write(&Held::file(&path).unwrap()).unwrap();
            let (_, read) = Crosswalk::hold(&path, note, None).unwrap();
            prop_assert_eq!(read.lines(), written.lines());
            for known in written.lines() {
                prop_assert_eq!(read.find(&known.value.to_uppercase(), Some("NF")), Some(known));
            }
        }
    }

    #[test]
    fn a_line_holds_inside_its_parent_and_says_only_what_the_field_takes() {
        let fields = fields();
        let [_, region, district] = fields.as_slice() else { panic!("three fields") };
        let mut crosswalk = Crosswalk::default();
        for (within, code) in [("NF", "2"), ("SF", "1"), ("", KEEP_OUT)] {
            assert_eq!(crosswalk.set(line("the fen", within, code), district).unwrap(), None);
        }
        let code = |parent| crosswalk.find(" The  Fen", parent).unwrap().code.as_str();
        assert_eq!(
            [code(Some("NF")), code(Some("SF")), code(Some("x")), code(None)],
            ["2", "1", KEEP_OUT, KEEP_OUT]
        );
        assert!(crosswalk.set(line("x", "SF", "2"), district).is_err(), "a code of another parent");
        assert!(crosswalk.set(line("x", "", LEAVE_BLANK), region).is_err(), "it must be filled");
        assert_eq!(crosswalk.set(line("THE FEN", "NF", "1"), district).unwrap().unwrap().code, "2");
        assert_eq!(crosswalk.remove("the fen", "SF").unwrap().code, "1");
        assert_eq!(crosswalk.find("the fen", Some("SF")).unwrap().code, KEEP_OUT);
    }

    #[test]
    fn odd_lines_are_named() {
        let fields = fields();
        let [_, region, district] = fields.as_slice() else { panic!("three fields") };
        let mut crosswalk = Crosswalk::default();
        for (value, code) in [("North", "SF"), ("south", "SF"), ("NF", "SF"), ("SF", "NF")] {
            crosswalk.set(line(value, "", code), region).unwrap();
        }
        let today = jiff::civil::date(2026, 4, 30);
        let doubts = |crosswalk: &Crosswalk, field| {
            let doubts = crosswalk.doubts(field, today).into_iter();
            doubts.map(|(line, says)| format!("{}: {says}", line.value)).collect::<Vec<_>>().join("\n")
        };
        let said = doubts(&crosswalk, region);
        for expected in
            ["North: contradicts", "south: is not needed", "NF: goes in a circle", "SF: goes in a circle"]
        {
            assert!(said.contains(expected), "{expected}\n{said}");
        }
        let mut retired = Crosswalk::default();
        retired.set(line("hills", "NF", "2"), district).unwrap();
        assert!(doubts(&retired, district).contains("hills: leads to 2, which was retired on 1 Jan 2020"));
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        /// Whatever is set and taken away, a value is found as a list looked through from its end has it: inside
        /// its parent first, then anywhere; and the file holds the same.
        #[test]
        fn lines_are_found_as_a_plain_list_has_them(
            steps in prop::collection::vec((0..4_usize, 0..3_usize, prop::option::of(0..3_usize)), 1..24),
        ) {
            const VALUES: [&str; 4] = ["yel.", "YEL.", " sky  blue", "=x"];
            const PARENTS: [&str; 3] = ["", "NF", "SF"];
            const CODES: [&str; 3] = ["1", "(leave blank)", "(keep out)"];
            let field = fields().swap_remove(2);
            let mut crosswalk = Crosswalk::default();
            let mut plain: Vec<(String, &str, &str)> = Vec::new();
            for (value, within, code) in steps {
                let (value, within) = (VALUES[value], PARENTS[within]);
                plain.retain(|(known, parent, _)| (known.as_str(), *parent) != (fold(value).as_str(), within));
                match code.map(|code| CODES[code]) {
                    Some(code) => {
                        let line = CrosswalkLine { value: value.trim().into(), within: within.into(), code: code.into(), ..CrosswalkLine::default() };
                        crosswalk.set(line, &field).unwrap();
                        plain.push((fold(value), within, code));
                    }
                    None => drop(crosswalk.remove(value, within)),
                }
            }
            let place = tempfile::tempdir().unwrap();
            let path = place.path().join("queen.csv");
            crosswalk.write(&Held::file(&path).unwrap()).unwrap();
            let again = Crosswalk::hold(&path, &field, None).unwrap().1;
            prop_assert_eq!(again.lines(), crosswalk.lines());
            for value in VALUES {
                for parent in PARENTS {
                    let of = |within: &str| {
                        plain.iter().find(|(known, parent, _)| *known == fold(value) && *parent == within).map(|(_, _, code)| *code)
                    };
                    let expected = of(parent).or_else(|| of(""));
                    let parent = Some(parent).filter(|parent| !parent.is_empty());
                    let found = again.find(value, parent).map(|line| line.code.as_str());
                    prop_assert_eq!(found, expected, "{} in {:?}", value, parent);
                }
            }
        }
    }
}
