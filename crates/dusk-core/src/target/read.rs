//! `target.toml` and its code lists are read, and everything wrong with them is said at once.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use hashbrown::HashMap;
use jiff::civil::Date;
use regex::Regex;

use super::{Bound, CodeList, CodesLayout, Field, FieldType, Quoting, Target, Upload, UploadEncoding};
use crate::files::{At, Problems, Settings, SettingsFile, Template};
use crate::source::Line;
use crate::validate::Rule;
use crate::value::{DatePattern, Decimal, Unit, ValueType};
use crate::{Error, Result};

/// The keys that go with some types of field only.
const KEYS_OF_TYPES: [(&str, &[&str]); 13] = [
    ("digits", &["text"]),
    ("max_length", &["text"]),
    ("pattern", &["text"]),
    ("min", &["integer", "decimal"]),
    ("max", &["integer", "decimal"]),
    ("unit", &["integer", "decimal"]),
    ("decimals", &["decimal"]),
    ("format", &["date", "datetime", "time", "boolean", "codes"]),
    ("not_before", &["date", "datetime"]),
    ("not_after", &["date", "datetime"]),
    ("codes", &["code", "codes"]),
    ("within", &["code"]),
    ("separator", &["codes"]),
];

impl Target {
    /// Reads the description at `path` and the code lists that it names, which stand beside it.
    ///
    /// # Errors
    /// [`Error::File`] when the description cannot be read; [`Error::Problems`] with everything
    /// that is wrong with it.
    pub fn read(path: &Path) -> Result<Self> {
        let file = SettingsFile::read(path)?;
        let mut problems = Problems::default();
        let folder = path.parent().unwrap_or(Path::new(""));
        let target = Self::read_from(&file, path, folder, &mut problems)?;
        problems.or(target)
    }

    fn read_from(file: &SettingsFile, path: &Path, folder: &Path, problems: &mut Problems) -> Result<Self> {
        let mut lists = CodeLists { folder, files: vec![path.to_path_buf()], lists: HashMap::new() };
        // The code lists' own problems come after those of the description.
        let mut draft = file.read_with(problems, |top| {
            let (name, version) = top.table("target", |target| {
                let name = target.required_text("name").map_or_else(String::new, |name| name.value);
                (name, target.text("version").map_or_else(String::new, |version| version.value))
            });
            let upload = top.table("upload", read_upload);
            let fields = top.tables("field", |field| read_field(field, &lists));
            let rules = top.tables("rule", read_rule);
            if fields.is_empty() && !top.has("field") {
                top.problem(Line::FIRST, "describes no field", |problem| {
                    problem.hint("each field of the template is a [[field]] with a name and a type");
                });
            }
            Draft { name, version, upload, fields: fields.into_iter().flatten().collect(), rules }
        });
        lists.load(&mut draft.fields, &file.name, problems)?;
        check_names(&draft, &file.name, problems);
        let parents = resolve_parents(&draft, &file.name, problems);
        let mut fields = Vec::new();
        for (field, parent) in draft.fields.into_iter().zip(parents) {
            fields.push(field.finish(parent));
        }
        let mut rules = Vec::new();
        for rule in draft.rules.into_iter().flatten() {
            let known = |name: &str| {
                let place = fields.iter().position(|field: &Field| field.name == name)?;
                fields.get(place).map(|field| (place, field.kind.value_type()))
            };
            let names: Vec<&str> = fields.iter().map(|field| field.name.as_str()).collect();
            match Rule::parse(&rule.name.value, &rule.must.value, &rule.says, &known) {
                Ok(parsed) => rules.push(parsed),
                Err(wrong) => {
                    let problem = problems.at(
                        &file.name,
                        Some(rule.must.line),
                        format!("[[rule]] \"{}\": {}", rule.must.value, wrong.says),
                    );
                    match wrong.unknown_field {
                        Some(word) => problem.suggest(&word, names),
                        None => problem.hint(wrong.hint),
                    }
                }
            }
        }
        Ok(Self {
            name: draft.name,
            version: draft.version,
            upload: draft.upload,
            fields,
            rules,
            files: lists.files,
        })
    }
}

struct Draft {
    name: String,
    version: String,
    upload: Upload,
    fields: Vec<DraftField>,
    rules: Vec<Option<DraftRule>>,
}

struct DraftRule {
    name: At<String>,
    must: At<String>,
    says: String,
}

/// A field before its code list is loaded and its parent is found.
struct DraftField {
    field: Field,
    list: Option<At<PathBuf>>,
    within: Option<At<String>>,
    spread: Option<At<Template>>,
}

impl DraftField {
    fn finish(mut self, parent: Option<usize>) -> Field {
        if let FieldType::Code { within, .. } = &mut self.field.kind {
            *within = parent;
        }
        self.field
    }
}

fn read_rule(rule: &mut Settings<'_>) -> Option<DraftRule> {
    let line = rule.line();
    let must = rule.required_text("must");
    let name = rule.text("name");
    let says = rule.text("says");
    let must = must?;
    Some(DraftRule {
        name: name.unwrap_or(At { value: must.value.clone(), line }),
        says: says.map_or_else(|| format!("it must be that {}", must.value), |says| says.value),
        must,
    })
}

fn read_upload(upload: &mut Settings<'_>) -> Upload {
    if let Some(format) = upload.text("format")
        && format.value != "delimited"
    {
        upload.problem(format.line, format!("[upload] format cannot be \"{}\"", format.value), |problem| {
            problem.hint("this version writes \"delimited\" files");
        });
    }
    let encoding = upload.text("encoding").and_then(|label| {
        let encoding = UploadEncoding::named(&label.value);
        if encoding.is_none() {
            upload.problem(label.line, format!("there is no encoding \"{}\"", label.value), |problem| {
                problem.suggest(
                    &label.value,
                    [
                        "utf-8",
                        "utf-16le",
                        "utf-16be",
                        "windows-1252",
                        "windows-1250",
                        "iso-8859-1",
                        "iso-8859-2",
                        "iso-8859-15",
                    ],
                );
            });
        }
        encoding
    });
    let encoding = encoding.unwrap_or(UploadEncoding::Whatwg(encoding_rs::UTF_8));
    let bom = upload.flag("bom", false);
    let is_unicode = !matches!(encoding, UploadEncoding::Whatwg(other) if other != encoding_rs::UTF_8);
    if bom && !is_unicode {
        upload.problem(
            upload.line(),
            format!("[upload] bom = true does not go with {}", encoding.label()),
            |problem| {
                problem.hint("only UTF-8 and UTF-16 have a byte order mark");
            },
        );
    }
    let delimiter = one_character(upload, "delimiter").unwrap_or_else(|| ",".into());
    let quote = one_character(upload, "quote").unwrap_or_else(|| "\"".into());
    if delimiter == quote {
        upload.problem(upload.line(), "[upload] delimiter and quote are the same", |_| {});
    }
    let quoting = upload
        .choice(
            "quoting",
            &[("always", Quoting::Always), ("when-needed", Quoting::WhenNeeded), ("never", Quoting::Never)],
        )
        .unwrap_or(Quoting::WhenNeeded);
    let line_end =
        upload.choice("line_end", &[("crlf", "\r\n"), ("lf", "\n"), ("cr", "\r")]).unwrap_or("\r\n");
    let header = upload.flag("header", true);
    let max_rows = upload.whole("max_rows", 1);
    let file_name =
        upload.text("file_name").unwrap_or(At { value: "{batch}-{part}.csv".into(), line: upload.line() });
    Upload {
        encoding,
        bom,
        delimiter,
        quote,
        quoting,
        line_end,
        header,
        file_name: read_file_name(upload, &file_name, max_rows.is_some()),
        max_rows: max_rows.map(|rows| rows.value),
    }
}

/// A delimiter or a quote: a single character that is not half of a line end.
fn one_character(upload: &mut Settings<'_>, key: &'static str) -> Option<String> {
    let text = upload.text(key)?;
    let mut letters = text.value.chars();
    match (letters.next(), letters.next()) {
        (Some(letter), None) if !matches!(letter, '\n' | '\r') => Some(text.value),
        _ => {
            upload.problem(text.line, format!("[upload] {key} is to be one character"), |problem| {
                problem.hint(format!("for example {key} = \";\", or \"\\t\" for a tab"));
            });
            None
        }
    }
}

fn read_file_name(upload: &Settings<'_>, written: &At<String>, in_parts: bool) -> Template {
    let template = match Template::parse(&written.value) {
        Ok(template) => template,
        Err(says) => {
            upload.problem(written.line, format!("[upload] file_name {says}"), |_| {});
            return Template { pieces: Vec::new() };
        }
    };
    const KNOWN: [&str; 3] = ["batch", "part", "today"];
    for name in template.names().filter(|name| !KNOWN.contains(name)) {
        upload.problem(written.line, format!("[upload] file_name does not know {{{name}}}"), |problem| {
            problem.suggest(name, KNOWN);
        });
    }
    if in_parts && !template.names().any(|name| name == "part") {
        upload.problem(
            written.line,
            "[upload] max_rows may make several files, and file_name gives them all one name",
            |problem| {
                problem.hint("put {part} into file_name");
            },
        );
    }
    if written.value.contains(['/', '\\']) || written.value.is_empty() {
        upload.problem(written.line, "[upload] file_name is to be a file's name without a folder", |_| {});
    }
    template
}

fn read_field(field: &mut Settings<'_>, lists: &CodeLists<'_>) -> Option<DraftField> {
    let line = field.line();
    let name = field.required_text("name");
    let label = field.text("label");
    let also = field.texts("also");
    let required = field.flag("required", false);
    let key = field.flag("key", false);
    let type_name = field.required_text("type");
    let Some(word) =
        type_name.as_ref().and_then(|word| FieldType::WORDS.iter().find(|known| **known == word.value))
    else {
        if let Some(word) = &type_name {
            field.problem(word.line, format!("there is no type \"{}\"", word.value), |problem| {
                problem.suggest(&word.value, FieldType::WORDS);
            });
        }
        // Without a type nobody knows which of the other keys are right.
        field.ignore_rest();
        return None;
    };
    for (key, types) in KEYS_OF_TYPES {
        if field.has(key) && !types.contains(word) {
            field.misplaced(
                key,
                &format!("a field of type {word} does not take {key}, which goes with {}", types.join(", ")),
            );
        }
    }
    if field.has("spread") && *word != "codes" {
        field.misplaced(
            "spread",
            &format!("a field of type {word} does not take spread, which goes with codes"),
        );
    }
    let (kind, list, within, spread) = read_type(field, word, lists);
    let name = name?;
    if name.value.trim().is_empty() {
        field.problem(name.line, "[[field]] name is empty", |_| {});
    }
    Some(DraftField {
        field: Field {
            name: name.value,
            label: label.map(|label| label.value),
            also: also.into_iter().map(|also| also.value).collect(),
            kind,
            required,
            key,
            line,
        },
        list,
        within,
        spread,
    })
}

type ReadType = (FieldType, Option<At<PathBuf>>, Option<At<String>>, Option<At<Template>>);

fn read_type(field: &mut Settings<'_>, word: &str, lists: &CodeLists<'_>) -> ReadType {
    let empty = || Arc::new(CodeList::new(String::new(), Vec::new()));
    match word {
        "text" => (read_text(field), None, None, None),
        "integer" | "decimal" => (read_number(field, word == "decimal"), None, None, None),
        "boolean" => {
            let (yes, no) = yes_and_no(field, "true/false");
            (FieldType::Boolean { yes, no }, None, None, None)
        }
        "code" => {
            let list = lists.wanted_by(field);
            let within = field.text("within");
            (FieldType::Code { list: empty(), within: None }, list, within, None)
        }
        "codes" => {
            let list = lists.wanted_by(field);
            let (layout, spread) = read_codes_layout(field);
            (FieldType::Codes { list: empty(), layout }, list, None, spread)
        }
        "datetime" => (read_date(field, ValueType::DateTime, "yyyy-MM-dd'T'HH:mm:ss"), None, None, None),
        "time" => (read_date(field, ValueType::Time, "HH:mm:ss"), None, None, None),
        _ => (read_date(field, ValueType::Date, "yyyy-MM-dd"), None, None, None),
    }
}

fn read_text(field: &mut Settings<'_>) -> FieldType {
    let digits = field.whole("digits", 1).map(|digits| digits.value as usize);
    let max_length = field.whole("max_length", 1).map(|length| length.value as usize);
    let pattern =
        field.text("pattern").and_then(|pattern| match Regex::new(&format!("^(?:{})$", pattern.value)) {
            Ok(regex) => Some((regex, pattern.value)),
            Err(error) => {
                let reason = error.to_string();
                let reason =
                    reason.lines().last().unwrap_or_default().trim_start_matches("error: ").to_owned();
                field.problem(
                    pattern.line,
                    format!("pattern \"{}\" cannot be read: {reason}", pattern.value),
                    |_| {},
                );
                None
            }
        });
    FieldType::Text { digits, max_length, pattern }
}

fn read_number(field: &mut Settings<'_>, decimal: bool) -> FieldType {
    let decimals = if decimal {
        let decimals = field.whole("decimals", 1);
        match decimals {
            Some(decimals) if decimals.value <= 20 => u32::try_from(decimals.value).unwrap_or(20),
            Some(decimals) => {
                field.problem(decimals.line, "decimals is to be 20 or fewer", |_| {});
                20
            }
            None => {
                if !field.has("decimals") {
                    field.problem(
                        field.line(),
                        "[[field]] a decimal needs decimals, the most digits after the point",
                        |problem| {
                            problem
                                .hint("for example decimals = 2; for whole numbers write type = \"integer\"");
                        },
                    );
                }
                0
            }
        }
    } else {
        0
    };
    let unit = field.text("unit").and_then(|symbol| match Unit::named(&symbol.value) {
        Ok(unit) => Some(unit),
        Err(error) => {
            field.problem(symbol.line, error.says, |problem| problem.hint(error.hint));
            None
        }
    });
    let mut limit = |key: &'static str| {
        let text = field.number_text(key)?;
        let number = Decimal::parse(&text.value);
        if number.is_none() {
            field.problem(text.line, format!("{key} \"{}\" is not a plain number", text.value), |problem| {
                problem.hint("write it with digits and a point, for example min = \"0.5\"");
            });
        }
        number.map(|number| At { value: number, line: text.line })
    };
    let min = limit("min");
    let max = limit("max");
    if let (Some(min), Some(max)) = (&min, &max)
        && min.value > max.value
    {
        field.problem(
            max.line,
            format!("max {} is below min {}, so no number is allowed", max.value, min.value),
            |_| {},
        );
    }
    FieldType::Number { decimals, unit, min: min.map(|at| at.value), max: max.map(|at| at.value) }
}

fn read_date(field: &mut Settings<'_>, holds: ValueType, usual: &str) -> FieldType {
    let written = field.text("format").unwrap_or(At { value: usual.to_owned(), line: field.line() });
    let format = DatePattern::parse(&written.value).and_then(|pattern| {
        let right = match holds {
            ValueType::Date => pattern.has_date() && !pattern.has_time(),
            ValueType::DateTime => pattern.has_date() && pattern.has_time(),
            _ => !pattern.has_date() && pattern.has_time(),
        };
        if right { Ok(pattern) } else { Err(format!("does not write exactly what a {} holds", holds.word())) }
    });
    let format = format.or_else(|says| {
        field.problem(written.line, format!("format \"{}\": {says}", written.value), |problem| {
            problem.hint(format!("write a Unicode date pattern, for example \"{usual}\""));
        });
        DatePattern::parse(usual)
    });
    let bound = |text: Option<At<String>>, key: &str, field: &Settings<'_>| {
        let text = text?;
        if text.value == "today" {
            return Some(Bound::Today);
        }
        let day = text.value.parse::<Date>().ok();
        if day.is_none() {
            field.problem(text.line, format!("{key} \"{}\" is not a day", text.value), |problem| {
                problem.hint("write \"today\", or a day as yyyy-MM-dd");
            });
        }
        day.map(Bound::Day)
    };
    let (mut not_before, mut not_after) = (None, None);
    if holds != ValueType::Time {
        let text = field.text("not_before");
        not_before = bound(text, "not_before", field);
        let text = field.text("not_after");
        not_after = bound(text, "not_after", field);
    }
    match format {
        Ok(format) => FieldType::Date { holds, format, not_before, not_after },
        Err(_) => FieldType::Text { digits: None, max_length: None, pattern: None },
    }
}

fn yes_and_no(field: &mut Settings<'_>, usual: &str) -> (String, String) {
    let format = field.text("format").unwrap_or(At { value: usual.to_owned(), line: field.line() });
    match format.value.split_once('/') {
        Some((yes, no)) if !yes.trim().is_empty() && yes.trim() != no.trim() => {
            (yes.trim().into(), no.trim().into())
        }
        _ => {
            field.problem(
                format.line,
                format!("format \"{}\" does not give a word for true and one for false", format.value),
                |problem| {
                    problem.hint("write the two with a slash between them, for example format = \"1/0\"");
                },
            );
            ("1".into(), "0".into())
        }
    }
}

fn read_codes_layout(field: &mut Settings<'_>) -> (CodesLayout, Option<At<Template>>) {
    let separator = field.text("separator");
    let spread = field.text("spread");
    match (separator, spread) {
        (Some(separator), None) => {
            if field.has("format") {
                field.misplaced("format", "format goes with spread, not with separator");
            }
            if separator.value.is_empty() {
                field.problem(separator.line, "separator is empty", |_| {});
            }
            (CodesLayout::Joined(separator.value), None)
        }
        (None, Some(spread)) => {
            let (yes, no) = yes_and_no(field, "1/0");
            let template = Template::parse(&spread.value);
            let good = template.as_ref().is_ok_and(|template| template.names().eq(["code"]));
            if !good {
                field.problem(
                    spread.line,
                    format!("spread \"{}\" does not name the columns by their codes", spread.value),
                    |problem| {
                        problem.hint("write for example spread = \"treat_{code}\"");
                    },
                );
            }
            let template = template.ok().map(|value| At { value, line: spread.line });
            (CodesLayout::Spread { columns: Vec::new(), yes, no }, template)
        }
        (both, _) => {
            let says = if both.is_some() {
                "has both separator and spread"
            } else {
                "does not say how several codes stand in the file"
            };
            field.problem(field.line(), format!("[[field]] {says}"), |problem| {
                problem.hint("write separator = \"|\" for one column, or spread = \"name_{code}\" for a column per code");
            });
            if field.has("format") {
                let _ = field.text("format");
            }
            (CodesLayout::Joined("|".into()), None)
        }
    }
}

/// The code lists of a target, each loaded once.
struct CodeLists<'a> {
    folder: &'a Path,
    files: Vec<PathBuf>,
    lists: HashMap<PathBuf, Option<Arc<CodeList>>>,
}

impl CodeLists<'_> {
    fn wanted_by(&self, field: &mut Settings<'_>) -> Option<At<PathBuf>> {
        let codes = field.required_text("codes")?;
        let path = self.folder.join(&codes.value);
        Some(At { value: path, line: codes.line })
    }

    fn load(&mut self, fields: &mut [DraftField], file: &str, problems: &mut Problems) -> Result<()> {
        for draft in fields.iter_mut() {
            let Some(At { value: path, line }) = &draft.list else { continue };
            let Some(list) = self.list(path, *line, file, problems)? else { continue };
            match &mut draft.field.kind {
                FieldType::Code { list: slot, .. } => *slot = list,
                FieldType::Codes { list: slot, layout } => {
                    if let (CodesLayout::Spread { columns, .. }, Some(spread)) = (layout, &draft.spread) {
                        *columns = list
                            .codes()
                            .iter()
                            .filter_map(|code| spread.value.fill(|_| Some(code.code.as_str())))
                            .collect();
                    }
                    if list.divided {
                        problems.at(
                            file,
                            Some(*line),
                            format!("{} is divided by within, which goes with type code only", list.name),
                        );
                    }
                    *slot = list;
                }
                _ => {}
            }
        }
        Ok(())
    }

    fn list(
        &mut self,
        path: &Path,
        line: Line,
        file: &str,
        problems: &mut Problems,
    ) -> Result<Option<Arc<CodeList>>> {
        if let Some(list) = self.lists.get(path) {
            return Ok(list.clone());
        }
        let list = match CodeList::read(path, problems) {
            Ok(list) => list.map(Arc::new),
            Err(Error::File { cause, .. }) if cause.kind() == std::io::ErrorKind::NotFound => {
                let others = files_beside(path);
                let name =
                    path.file_name().map_or_else(String::new, |name| name.to_string_lossy().into_owned());
                problems
                    .at(file, Some(line), format!("the code list {} is missing", path.display()))
                    .suggest(&name, others.iter().map(String::as_str));
                None
            }
            Err(other) => return Err(other),
        };
        self.files.push(path.to_path_buf());
        self.lists.insert(path.to_path_buf(), list.clone());
        Ok(list)
    }
}

fn files_beside(path: &Path) -> Vec<String> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut names: Vec<String> = std::fs::read_dir(folder)
        .into_iter()
        .flatten()
        .filter_map(|entry| entry.ok()?.file_name().into_string().ok())
        .filter(|name| name.ends_with(".csv"))
        .collect();
    names.sort();
    names
}

/// No two fields, and no two columns of the upload file, may have one name.
fn check_names(draft: &Draft, file: &str, problems: &mut Problems) {
    let mut fields: HashMap<&str, Line> = HashMap::new();
    let mut columns: HashMap<&str, &str> = HashMap::new();
    for DraftField { field, .. } in &draft.fields {
        if let Some(first) = fields.insert(&field.name, field.line) {
            problems
                .at(file, Some(field.line), format!("the field \"{}\" is described twice", field.name))
                .hint(format!("the first is on line {first}; keep one of the two"));
            continue;
        }
        let headings: Vec<&str> = match &field.kind {
            FieldType::Codes { layout: CodesLayout::Spread { columns, .. }, .. } => {
                columns.iter().map(String::as_str).collect()
            }
            _ => vec![&field.name],
        };
        for heading in headings {
            if let Some(other) = columns.insert(heading, &field.name) {
                problems.at(
                    file,
                    Some(field.line),
                    format!(
                        "the upload file would have two columns \"{heading}\", for {other} and {}",
                        field.name
                    ),
                );
            }
        }
    }
}

/// The parent of every field that has one, checked to be a code and not to go round in a circle.
fn resolve_parents(draft: &Draft, file: &str, problems: &mut Problems) -> Vec<Option<usize>> {
    let place = |name: &str| draft.fields.iter().position(|other| other.field.name == name);
    let mut parents: Vec<Option<usize>> = Vec::new();
    for DraftField { field, within, .. } in &draft.fields {
        let Some(within) = within else {
            if let FieldType::Code { list, .. } = &field.kind
                && list.divided
            {
                problems
                    .at(file, Some(field.line), format!("the codes of {} are divided by within, but the field does not say which field decides", field.name))
                    .hint("write within = \"…\" with the name of the field that holds the parent code");
            }
            parents.push(None);
            continue;
        };
        let parent = place(&within.value);
        match parent.and_then(|parent| draft.fields.get(parent)) {
            None => problems
                .at(file, Some(within.line), format!("within names no field \"{}\"", within.value))
                .suggest(&within.value, draft.fields.iter().map(|other| other.field.name.as_str())),
            Some(parent) if !matches!(parent.field.kind, FieldType::Code { .. }) => {
                problems.at(
                    file,
                    Some(within.line),
                    format!("within names {}, which is not of type code", within.value),
                );
            }
            Some(_) => {}
        }
        parents.push(parent);
    }
    for (start, draft_field) in draft.fields.iter().enumerate() {
        let mut at = start;
        for _ in 0..draft.fields.len() {
            match parents.get(at).copied().flatten() {
                Some(next) if next == start => {
                    problems.at(
                        file,
                        Some(draft_field.field.line),
                        format!("{} is within itself, by way of its parents", draft_field.field.name),
                    );
                    if let Some(parent) = parents.get_mut(start) {
                        *parent = None;
                    }
                    break;
                }
                Some(next) => at = next,
                None => break,
            }
        }
    }
    parents
}
