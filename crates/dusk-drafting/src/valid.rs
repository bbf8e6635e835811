//! A draft is held against the reader of descriptions before it is written: what that refuses is left out, and asked.

use dusk_description::Target;
use dusk_evidence::{Error, Problem, Result};
use dusk_files::write_whole;

use super::claim::{Drafted, Place, Setting};

/// How often what is left is read anew: each time at least one thing less is there.
const MOST_ROUNDS: usize = 200;

/// What stands in a line of a draft.
enum Part {
    Upload(String),
    Field(usize, String),
    Rule(usize),
}

impl Drafted {
    /// Leaves out what a description cannot hold, and asks about each.
    ///
    /// # Errors
    /// [`Error::Problems`] where nothing can be left out that would help; [`Error::File`] when the temporary folder
    /// cannot be written to.
    pub fn leave_out_what_is_refused(&mut self) -> Result<()> {
        let mut refused = None;
        for _ in 0..MOST_ROUNDS {
            let text = self.toml();
            let Err(error) = self.read_back(&text) else { return Ok(()) };
            let Error::Problems(problems) = &error else { return Err(error) };
            // From the end, so that the lines before it are still those that were read.
            let mut problems: Vec<&Problem> = problems.iter().collect();
            problems.sort_by_key(|problem| std::cmp::Reverse(problem.line));
            problems.dedup_by_key(|problem| (problem.file.clone(), problem.line));
            let mut any = false;
            for problem in problems {
                any |= self.leave_out(problem, &text);
            }
            if !any {
                return Err(error);
            }
            refused = Some(error);
        }
        refused.map_or(Ok(()), Err)
    }

    /// Reads the draft from a folder that is gone afterwards.
    fn read_back(&self, text: &str) -> Result<()> {
        let folder = tempfile::tempdir().map_err(Error::writing(&std::env::temp_dir()))?;
        let path = folder.path().join("target.toml");
        write_whole(&path, text.as_bytes())?;
        for list in &self.lists {
            write_whole(&folder.path().join(format!("codes/{}.csv", list.name)), &list.csv()?)?;
        }
        Target::read(&path).map(|_| ())
    }

    /// Leaves out what a problem is about; true where something was.
    fn leave_out(&mut self, problem: &Problem, text: &str) -> bool {
        let file = problem.file.replace('\\', "/");
        let list = file.rsplit('/').next().and_then(|name| name.strip_suffix(".csv"));
        let line = match (problem.line, list) {
            (Some(line), Some(list)) => return self.leave_out_code(list, line.0, &problem.says),
            (None, Some(list)) => return self.leave_out_list(list, &problem.says),
            (Some(line), None) => line.0,
            (None, None) => return false,
        };
        match part_at(text, line) {
            Some(Part::Upload(key)) => self.leave_out_key(None, &key, &problem.says),
            Some(Part::Field(number, key)) => self.leave_out_key(Some(number), &key, &problem.says),
            Some(Part::Rule(number)) if number < self.rules.len() => {
                let rule = self.rules.remove(number);
                let says = format!("the rule \"{}\" was left out: {}", rule.must, problem.says);
                self.ask(rule.says, says, &rule.from);
                true
            }
            _ => false,
        }
    }

    /// Leaves a whole list out; the fields that take it are text.
    fn leave_out_list(&mut self, name: &str, why: &str) -> bool {
        let Some(place) = self.lists.iter().position(|list| list.name == name) else { return false };
        let list = self.lists.remove(place);
        let file = format!("codes/{name}.csv");
        let takes = |number: &usize| {
            self.fields.get(*number).is_some_and(|field| field.claims.text("codes") == Some(file.as_str()))
        };
        let fields: Vec<usize> = (0..self.fields.len()).filter(takes).collect();
        for field in fields {
            self.leave_out_key(Some(field), "codes", why);
        }
        self.ask(list.title, format!("the code list was left out: it {why}"), &list.from);
        true
    }

    fn leave_out_code(&mut self, name: &str, line: u64, why: &str) -> bool {
        let place = usize::try_from(line).ok().and_then(|line| line.checked_sub(2));
        let list = self.lists.iter_mut().find(|list| list.name == name);
        let (Some(list), Some(place)) = (list, place) else { return false };
        if place >= list.codes.len() {
            return false;
        }
        let code = list.codes.remove(place);
        let (title, from) = (list.title.clone(), list.from.clone());
        let says = format!("the code \"{}\", \"{}\", was left out: it {why}", code.code, code.label);
        self.ask(title, says, &from);
        true
    }

    /// Leaves a key out of a field, or of the upload where no field is named.
    fn leave_out_key(&mut self, field: Option<usize>, key: &str, why: &str) -> bool {
        let (claims, about, from): (_, _, Place) = match field {
            None => (&mut self.upload, "[upload]".to_owned(), super::claim::nowhere()),
            Some(number) => {
                let Some(field) = self.fields.get_mut(number) else { return false };
                (&mut field.claims, field.name.clone(), field.from.clone())
            }
        };
        let claim = claims.0.iter().find(|claim| claim.key == key).cloned();
        let Some(claim) = claim else {
            // It is about the field itself.
            let Some(number) = field.filter(|number| *number < self.fields.len()) else { return false };
            let field = self.fields.remove(number);
            self.ask(field.name, format!("the field was left out: {why}"), &field.from);
            return true;
        };
        claims.unset(key);
        let is_text = claim.value == Setting::Text("text".into());
        if matches!(key, "type" | "codes" | "format") && !is_text && field.is_some() {
            claims.0.retain(|claim| {
                !matches!(claim.key, "codes" | "within" | "separator" | "column_per_code" | "format")
            });
            claims.set("type", Setting::Text("text".into()), &from);
        }
        let says = format!("{key} = {} was left out: {why}", claim.value.toml());
        self.ask(about, says, &claim.from);
        true
    }
}

/// What stands in a line of a draft.
fn part_at(text: &str, line: u64) -> Option<Part> {
    let (mut fields, mut rules, mut is_upload) = (0_usize, 0_usize, false);
    let mut last = None;
    for (line_text, _) in text.lines().zip(0..line) {
        match line_text.trim() {
            "[[field]]" => fields += 1,
            "[[rule]]" => rules += 1,
            _ => {}
        }
        if line_text.starts_with('[') {
            is_upload = line_text.trim() == "[upload]";
        }
        last = Some(line_text);
    }
    let key = last?.split(['=', '[']).next().unwrap_or_default().trim().to_owned();
    if is_upload {
        return Some(Part::Upload(key));
    }
    match (fields.checked_sub(1), rules.checked_sub(1)) {
        (_, Some(rule)) => Some(Part::Rule(rule)),
        (Some(field), None) => Some(Part::Field(field, key)),
        (None, None) => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::claim::{Claims, DraftedField, DraftedList, DraftedRule};
    use dusk_description::Code;

    #[test]
    fn what_a_description_cannot_hold_is_left_out_and_asked_and_the_rest_stays() {
        let from = Place { file: "dictionary.xlsx".into(), at: "Fields!A2".into() };
        let field = |name: &str, keys: &[(&'static str, Setting)]| {
            let mut claims = Claims::default();
            keys.iter().for_each(|(key, value)| claims.set(key, value.clone(), &from));
            DraftedField { name: name.into(), claims, from: from.clone() }
        };
        let text = |text: &str| Setting::Text(text.into());
        let code = |code: &str| Code {
            code: code.into(),
            label: "a kind".into(),
            also: Vec::new(),
            within: String::new(),
            until: None,
            replaced_by: String::new(),
        };
        let codes = ["a", "b", "a"].map(code).to_vec();
        let mut drafted = Drafted {
            name: "Nests".into(),
            fields: vec![
                field(
                    "no",
                    &[
                        ("type", text("integer")),
                        ("min", text("9")),
                        ("max", text("1")),
                        ("decimals", Setting::Whole(99)),
                    ],
                ),
                field("kind", &[("type", text("code")), ("codes", text("codes/kinds.csv"))]),
                field("day", &[("type", text("date")), ("format", text("yyyy-MM-ddQ"))]),
                field("state", &[("type", text("code")), ("codes", text("codes/none.csv"))]),
                field("no", &[("type", text("text"))]),
            ],
            lists: vec![DraftedList {
                name: "kinds".into(),
                title: "Kinds".into(),
                codes,
                from: from.clone(),
            }],
            rules: vec![DraftedRule { must: "no >".into(), says: "wrong".into(), from: from.clone() }],
            ..Drafted::default()
        };
        drafted.leave_out_what_is_refused().unwrap();
        assert!(drafted.read_back(&drafted.toml()).is_ok());
        let names: Vec<&str> = drafted.fields.iter().map(|field| field.name.as_str()).collect();
        assert_eq!(names, ["no", "kind", "day", "state"]);
        assert_eq!((drafted.fields[3].claims.text("type"), drafted.lists.len()), (Some("text"), 1));
        assert_eq!(drafted.fields[1].claims.text("codes"), Some("codes/kinds.csv"));
        assert_eq!((drafted.lists[0].codes.len(), drafted.rules.len()), (2, 0));
        assert!(drafted.questions.len() >= 5, "{:?}", drafted.questions);
    }
    const DICTIONARY: &str = "Pflichtfeld;Feldname;Bezeichnung;Typ;Länge;NK;von;bis;Werte;Format
Ja;nest_no;Nummer;Text;6;;;;;
Nein;found_on;Tag;Datum;;;;;;TT.MM.JJJJ
Ja;kind;Art;Schlüssel;2;;;;o = offen, h = Höhle;
Nein;eggs;Eier;Ganzzahl;2;;0;12;;
Nein;mass;Masse;Dezimalzahl;5;2;0,5;99,5;;
Ja;ringed;Beringt;Ja/Nein;;;;;;
bedingt;ring;Ring;Text;8;;;;;[A-Z]{2}[0-9]{6}
";

    proptest::proptest! {
        #![proptest_config(proptest::prelude::ProptestConfig::with_cases(48))]
        #[test]
        fn no_draft_of_a_mangled_dictionary_is_refused(
            rows in proptest::collection::vec(0_usize..8, 1..14),
            columns in proptest::collection::vec(0_usize..10, 2..13),
            moved in proptest::collection::vec((0_usize..8, 0_usize..10, 0_usize..8, 0_usize..10), 0..6),
        ) {
            let mut cells: Vec<Vec<&str>> =
                DICTIONARY.lines().map(|line| line.split(';').collect()).collect();
            for (row, column, from_row, from_column) in moved {
                cells[row][column] = cells[from_row][from_column];
            }
            let line = |row: usize| columns.iter().map(|column| cells[row][*column]).collect::<Vec<_>>().join(";");
            let text: Vec<String> = [0].into_iter().chain(rows).map(line).collect();
            let folder = tempfile::tempdir().unwrap();
            let path = folder.path().join("felder.csv");
            std::fs::write(&path, text.join("\n")).unwrap();
            if let Ok(mut drafted) = crate::draft(&[path], &crate::DraftOptions::default()) {
                drafted.leave_out_what_is_refused().unwrap();
                proptest::prop_assert!(drafted.read_back(&drafted.toml()).is_ok());
            }
        }
    }
}
