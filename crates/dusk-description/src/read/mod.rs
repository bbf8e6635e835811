//! `target.toml` and its code lists are read, and everything wrong with them is said at once.

mod answer;
mod checks;
mod control;
mod delivery;
mod field;
mod groups;
mod holds;
mod lists;
mod open_field;
mod upload;
mod widths;

use std::path::Path;

use super::{Control, Delivery, Field, Target, Upload};
use crate::beside::Beside;
use crate::{FieldType, Rule, RuleText, UploadFormat};
use dusk_evidence::{ById, FieldId, Line, Problems, Result, Severity};
use dusk_files::{At, Settings, SettingsFile};

use answer::{AnswerDraft, read_answer, settle_answer};
use checks::{check_columns, check_names, check_parts, check_units, resolve_parents};
use control::{check_control, read_control};
use delivery::read_delivery;
use field::read_fields;
use groups::{GroupNames, check_rows, settle_groups};
use holds::{HoldsDraft, read_holds, settle_holds};
use lists::CodeLists;
use open_field::OpenField;
use upload::read_upload;
use widths::{check_record_places, settle_quoted, settle_widths};

impl Target {
    /// Reads the description at `path` and the code lists that it names, which stand beside it.
    ///
    /// # Errors
    /// [`Error::File`](dusk_evidence::Error::File) when the description cannot be read;
    /// [`Error::Problems`](dusk_evidence::Error::Problems) with everything that is wrong with it.
    pub fn read(path: &Path) -> Result<Self> {
        let file = SettingsFile::read(path)?;
        let mut problems = Problems::default();
        let folder = path.parent().unwrap_or(Path::new(""));
        let target = Self::read_from(&file, path, folder, &mut problems)?;
        problems.or(target)
    }

    fn read_from(file: &SettingsFile, path: &Path, folder: &Path, problems: &mut Problems) -> Result<Self> {
        let mut lists = CodeLists::new(path);
        // The code lists' own problems come after those of the description.
        let mut draft = file.read_with(problems, |top| read_draft(top, folder));
        // One [[field]] for several fields says what is wrong with it for each of them.
        problems.each_once();
        lists.load(&mut draft.fields, &file.name, problems)?;
        check_names(&draft, &file.name, problems);
        check_columns(&draft, &file.name, problems);
        check_parts(&draft, &file.name, problems);
        check_units(&draft, &file.name, problems);
        find_split_by(&mut draft, &file.name, problems);
        let parents = resolve_parents(&draft, &file.name, problems);
        let groups = settle_groups(&mut draft, &file.name, problems);
        let holds = settle_holds(&mut draft, &file.name, problems);
        refuse_delivery(&draft, &file.name, problems);
        let answers = std::mem::take(&mut draft.answers);
        let answers =
            answers.into_iter().map(|answer| settle_answer(answer, &draft.fields, &file.name, problems));
        let answers = answers.collect();
        let fields: ById<FieldId, Field> =
            draft.fields.into_iter().zip(parents).map(|(field, parent)| field.finish(parent)).collect();
        check_control(draft.control.as_ref(), &fields, &file.name, problems);
        let widths = settle_widths(&draft.upload.format, &fields, &file.name, problems);
        check_record_places(&draft.upload.format, &fields, &file.name, problems);
        let quoted = settle_quoted(draft.upload.quoting, &fields, &file.name, problems);
        let rules = parse_rules(draft.rules, &fields, &file.name, problems);
        if let Some(groups) = &groups {
            check_rows(groups, (&fields, draft.upload.split_by), &rules, &file.name, problems);
        }
        Ok(Self {
            name: draft.name,
            version: draft.version,
            upload: Upload { widths, quoted, ..draft.upload },
            fields,
            rules,
            groups,
            holds,
            delivery: draft.delivery,
            control: draft.control,
            answers,
            files: lists.files,
        })
    }
}

/// The tables of a description, each by itself.
fn read_draft(top: &mut Settings<'_>, folder: &Path) -> Draft {
    let beside = Beside { folder };
    let (name, version) = top.table("target", |target| {
        let name = target.required_text("name").map_or_else(String::new, |name| name.value);
        let version = target.text("version").map_or_else(String::new, |version| version.value);
        if let Some(old) = target.text("holds") {
            target.problem(old.line, "[target] holds has a table of its own now", |problem| {
                problem.hint(format!("write [holds] with file = \"{}\" instead", old.value));
            });
        }
        (name, version)
    });
    let holds = top.has("holds").then(|| top.table("holds", |holds| read_holds(holds, folder)));
    let control = top.has("control").then(|| top.table("control", read_control)).flatten();
    let delivery = top.has("delivery").then(|| top.table("delivery", read_delivery)).flatten();
    let answers = top.table_or_tables("answer", read_answer);
    let ((upload, split_by), group_names) =
        top.table("upload", |upload| (read_upload(upload, folder), GroupNames::read(upload)));
    let fields = top.tables("field", |field| read_fields(field, &beside));
    let rules = top.tables("rule", read_rule);
    if fields.is_empty() && !top.has("field") {
        top.problem(Line::FIRST, "describes no field", |problem| {
            problem.hint("each field of the template is a [[field]] with a name and a type");
        });
    }
    let fields = fields.into_iter().flatten().collect();
    Draft { name, version, holds, control, delivery, answers, upload, split_by, group_names, fields, rules }
}

/// A table is loaded as a whole while its batch is made, so there is nothing to hand over.
fn refuse_delivery(draft: &Draft, file: &str, problems: &mut Problems) {
    if draft.delivery.is_some() && matches!(draft.upload.format, UploadFormat::Database { .. }) {
        problems
            .at(file, None, "[delivery] does not go with [upload] format = \"database\"")
            .hint("dusk conform loads the table itself, in one step; take [delivery] out");
    }
}

/// Finds the field by which upload files are split.
fn find_split_by(draft: &mut Draft, file: &str, problems: &mut Problems) {
    let Some(name) = &draft.split_by else { return };
    draft.upload.split_by = draft.fields.find(|draft| draft.field.name == name.value);
    if draft.upload.split_by.is_none() {
        problems
            .at(file, Some(name.line), format!("split_by names no field \"{}\"", name.value))
            .suggest(&name.value, draft.fields.iter().map(|draft| draft.field.name.as_str()));
    }
    let kind = draft.upload.split_by.and_then(|field| draft.fields.get(field)).map(|open| &open.field.kind);
    let holds_days = matches!(kind, None | Some(FieldType::Date(_)));
    if draft.upload.split_form.is_some() && !holds_days {
        problems
            .at(
                file,
                Some(name.line),
                format!("split_form takes a part of a date, and {} holds none", name.value),
            )
            .hint("take split_form out, or name a field of dates in split_by");
    }
}

/// The rules, which speak of fields that are known by now.
fn parse_rules(
    drafts: Vec<Option<DraftRule>>,
    fields: &ById<FieldId, Field>,
    file: &str,
    problems: &mut Problems,
) -> Vec<Rule> {
    let known = |name: &str| {
        let place = fields.find(|field: &Field| field.name == name)?;
        fields.get(place).map(|field| (place, field.kind.value_type()))
    };
    let mut rules = Vec::new();
    for rule in drafts.into_iter().flatten() {
        let line = rule.must.line;
        let wrong = match Rule::parse(rule.text(), &known) {
            Ok(parsed) => {
                rules.push(parsed);
                continue;
            }
            Err(wrong) => wrong,
        };
        let problem = problems.at(file, Some(line), format!("[[rule]] {}\n{}", wrong.says, wrong.pointed()));
        match wrong.unknown_field {
            Some(word) => problem.suggest(&word, fields.iter().map(|field| field.name.as_str())),
            None if wrong.hint.is_empty() => {}
            None => problem.hint(wrong.hint),
        }
    }
    rules
}

struct Draft {
    name: String,
    version: String,
    holds: Option<HoldsDraft>,
    control: Option<Control>,
    delivery: Option<Delivery>,
    answers: Vec<AnswerDraft>,
    upload: Upload,
    split_by: Option<At<String>>,
    group_names: GroupNames,
    fields: ById<FieldId, OpenField>,
    rules: Vec<Option<DraftRule>>,
}

struct DraftRule {
    must: At<String>,
    text: RuleText,
}

impl DraftRule {
    fn text(self) -> RuleText {
        RuleText { must: self.must.value, ..self.text }
    }
}

fn read_rule(rule: &mut Settings<'_>) -> Option<DraftRule> {
    let must = rule.required_text("must");
    let name = rule.text("name");
    let when = rule.text("when").map(|when| when.value);
    let says = rule.text("says");
    let severity = rule.choice("severity", &[("reject", Severity::Reject), ("warn", Severity::Warn)]);
    let for_each = rule.texts("for_each").into_iter().map(|name| name.value).collect();
    let leave_out_first = rule.text_or_texts("leave_out_first").into_iter().map(|name| name.value).collect();
    let must = must?;
    let applies = when.as_ref().map_or_else(String::new, |when| format!(" when {when}"));
    let text = RuleText {
        name: name.map_or_else(|| must.value.clone(), |name| name.value),
        must: String::new(),
        says: says.map_or_else(|| format!("it must be that {}{applies}", must.value), |says| says.value),
        when,
        severity: severity.unwrap_or(Severity::Reject),
        for_each,
        leave_out_first,
    };
    Some(DraftRule { must, text })
}
