//! How much of what a careful person draws from a dictionary a draft has, and how much of what it states is right. Each folder
//! of `tests/facts` holds what an owner sends and, in `facts.toml`, what a person wrote down from it by hand, with the fields
//! that a person would ask about.

use std::collections::BTreeMap;
use std::fs;
use std::io::Write as _;
use std::path::Path;

use toml::{Table, Value};

use crate::desk::Desk;
use crate::drafts::workbook;

/// What was counted, of one kind or of all.
#[derive(Debug, Default, Clone, Copy)]
struct Count {
    right: usize,
    wrong: usize,
    missing: usize,
    /// Stated, and not in the material.
    extra: usize,
}

#[derive(Debug, Default)]
struct Score {
    kinds: BTreeMap<String, Count>,
    asked: usize,
    wanted: usize,
    needless: usize,
    says: Vec<String>,
}

/// Keys that only repeat or explain.
const PASSED_OVER: [&str; 8] = ["name", "label", "description", "also", "heading", "unit", "codes", "until"];

fn materials(folder: &Path) -> (Desk, Vec<String>) {
    let (mut desk, mut names) = (Desk::empty(), Vec::new());
    let mut paths: Vec<_> = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    paths.sort();
    for path in paths {
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        let (name, bytes) = if name == "facts.toml" {
            continue;
        } else if let Some(book) = name.strip_suffix(".d") {
            (book.to_owned(), workbook(&path))
        } else if let Some(stem) = name.strip_suffix(".document.xml") {
            let mut packed = zip::ZipWriter::new(std::io::Cursor::new(Vec::new()));
            packed.start_file("word/document.xml", zip::write::SimpleFileOptions::default()).unwrap();
            packed.write_all(&fs::read(&path).unwrap()).unwrap();
            (format!("{stem}.docx"), packed.finish().unwrap().into_inner())
        } else {
            (name, fs::read(&path).unwrap())
        };
        desk = desk.with_bytes(&name, &bytes);
        names.push(name);
    }
    (desk, names)
}

/// A value as it is compared: numbers by their value, whether they stand in quotes or not.
fn plain(value: &Value) -> String {
    let text = value.as_str().map_or_else(|| value.to_string(), str::to_owned);
    text.parse::<f64>().map_or(text, |number| number.to_string())
}

impl Score {
    fn count(&mut self, kind: &str) -> &mut Count {
        self.kinds.entry(kind.to_owned()).or_default()
    }

    fn fact(&mut self, place: &str, kind: &str, wanted: &Value, drafted: Option<&Value>) {
        let count = self.count(kind);
        match drafted.map(plain) {
            Some(drafted) if drafted == plain(wanted) => count.right += 1,
            Some(drafted) => {
                count.wrong += 1;
                self.says.push(format!("{place}.{kind} is {drafted}, and {wanted} was wanted"));
            }
            None => {
                count.missing += 1;
                self.says.push(format!("{place}.{kind} = {wanted} is missing"));
            }
        }
    }

    fn extra(&mut self, place: &str, kind: &str) {
        self.count(kind).extra += 1;
        self.says.push(format!("{place}.{kind} is not in the material"));
    }

    /// Codes with their labels, and their last days; a code within another is written `A1/01`.
    fn codes(&mut self, desk: &Desk, name: &str, wanted: &Table, drafted: Option<&Value>) {
        let none = Table::new();
        let table = |key: &str| wanted.get(key).and_then(Value::as_table).unwrap_or(&none).clone();
        let mut there: BTreeMap<String, (String, String)> = BTreeMap::new();
        if let Some(file) = drafted.and_then(Value::as_str) {
            let text = desk.read(&format!("drafted/{file}"));
            let mut reader = csv::Reader::from_reader(text.as_bytes());
            let header = reader.headers().unwrap().clone();
            for record in reader.records().map(Result::unwrap) {
                let cell = |wanted: &str| {
                    let place = header.iter().position(|name| name == wanted);
                    place.and_then(|place| record.get(place)).unwrap_or_default().to_owned()
                };
                let within = cell("within");
                let code =
                    if within.is_empty() { cell("code") } else { format!("{within}/{}", cell("code")) };
                there.insert(code, (cell("label"), cell("until")));
            }
        }
        for (code, label) in &table("codes") {
            let found = there.get(code).map(|(label, _)| Value::from(label.as_str()));
            self.fact(&format!("{name}.{code}"), "code", label, found.as_ref());
        }
        for (code, until) in &table("until") {
            let found = there.get(code).map(|(_, until)| Value::from(until.as_str()));
            self.fact(&format!("{name}.{code}"), "until", until, found.as_ref());
        }
        for code in there.keys().filter(|code| !table("codes").contains_key(*code)) {
            self.extra(&format!("{name}.{code}"), "code");
        }
    }

    fn scenario(&mut self, folder: &Path) {
        let (desk, names) = materials(folder);
        let words = ["target", "draft", "-o", "drafted/target.toml", "--format", "json"];
        let words: Vec<&str> = words.into_iter().chain(names.iter().map(String::as_str)).collect();
        let ran = desk.run(&words).ended(0);
        desk.run(&["target", "check", "drafted/target.toml"]).ended(0);
        let facts: Table = fs::read_to_string(folder.join("facts.toml")).unwrap().parse().unwrap();
        let drafted: Table = desk.read("drafted/target.toml").parse().unwrap();
        let upload = drafted.get("upload").and_then(Value::as_table).unwrap();
        for (key, wanted) in facts.get("upload").and_then(Value::as_table).into_iter().flatten() {
            self.fact("[upload]", &format!("upload.{key}"), wanted, upload.get(key));
        }
        let fields = |table: &Table| -> Vec<Table> {
            let fields = table.get("field").and_then(Value::as_array).unwrap();
            fields.iter().filter_map(Value::as_table).cloned().collect()
        };
        let name = |field: &Table| field.get("name").and_then(Value::as_str).unwrap().to_owned();
        let mut rest = fields(&drafted);
        for wanted in fields(&facts) {
            let called = name(&wanted);
            let place = rest.iter().position(|field| name(field) == called);
            let field = place.map(|place| rest.remove(place)).unwrap_or_default();
            self.fact(&called, "field", &Value::from(called.as_str()), field.get("name"));
            for (key, value) in
                wanted.iter().filter(|(key, _)| !matches!(key.as_str(), "name" | "codes" | "until"))
            {
                self.fact(&called, key, value, field.get(key));
            }
            self.codes(&desk, &called, &wanted, field.get("codes"));
            let is_settled = |key: &&String| wanted.contains_key(*key) || PASSED_OVER.contains(&key.as_str());
            // A form that nothing says is asked about.
            for key in field.keys().filter(|key| !is_settled(key) && *key != "format") {
                self.extra(&called, key);
            }
        }
        rest.iter().for_each(|field| self.extra(&name(field), "field"));
        let answer: serde_json::Value = serde_json::from_str(&ran.out).unwrap();
        let mut about: Vec<String> = answer["questions"]
            .as_array()
            .unwrap()
            .iter()
            .map(|question| question["about"].as_str().unwrap().to_owned())
            .collect();
        for wanted in facts.get("asks").and_then(Value::as_array).into_iter().flatten() {
            let wanted = wanted.as_str().unwrap();
            self.wanted += 1;
            match about.iter().position(|about| about.split(", ").any(|name| name == wanted)) {
                Some(place) => {
                    about.remove(place);
                    self.asked += 1;
                }
                None => self.says.push(format!("{wanted} is not asked about")),
            }
        }
        self.needless += about.len();
    }
}

#[test]
fn drafts_have_what_a_careful_person_draws_from_a_dictionary() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/facts");
    let mut scenarios: Vec<_> = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    scenarios.sort();
    assert!(scenarios.len() >= 12);
    let mut score = Score::default();
    scenarios.iter().for_each(|scenario| score.scenario(scenario));
    let mut all = Count::default();
    println!("{:24}{:>7}{:>7}{:>9}{:>7}", "", "right", "wrong", "missing", "extra");
    for (kind, count) in &score.kinds {
        println!("{kind:24}{:>7}{:>7}{:>9}{:>7}", count.right, count.wrong, count.missing, count.extra);
        all.right += count.right;
        all.wrong += count.wrong;
        all.missing += count.missing;
        all.extra += count.extra;
    }
    score.says.iter().for_each(|says| println!("  {says}"));
    let share = |part: usize, whole: usize| 100.0 * part as f64 / whole as f64;
    let found = share(all.right, all.right + all.wrong + all.missing);
    let right = share(all.right, all.right + all.wrong + all.extra);
    let asked = share(score.asked, score.wanted);
    println!(
        "found {found:.1} %, right {right:.1} %, asked {asked:.1} %, other questions {}",
        score.needless
    );
    assert!(
        found >= 90.0 && right >= 99.0 && asked >= 80.0,
        "found {found:.1}, right {right:.1}, asked {asked:.1}"
    );
}
