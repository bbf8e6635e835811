//! The field list of a target as a page for paper: every field with what it takes, the code lists, and the rules.

use dusk_core::description::{Target, UploadFormat};
use dusk_core::evidence::FieldId;
use maud::{DOCTYPE, Markup, PreEscaped, html};

use super::page_head;
use crate::show::{code_table, counted, visible};

/// The page about every field, or about one.
pub(crate) fn fields_page(target: &Target, only: Option<FieldId>) -> String {
    let wanted = |place: &FieldId| only.is_none_or(|only| only == *place);
    let places: Vec<FieldId> = target.fields.ids().filter(wanted).collect();
    let page = html! {
        (DOCTYPE)
        html lang="en" {
            (page_head(&target.name, true))
            body {
                main {
                    h1 { (visible(&target.name)) }
                    p class="quiet" {
                        @if !target.version.is_empty() { "version " (visible(&target.version)) ", " }
                        (counted(target.fields.len() as u64, "field")) (upload(target))
                    }
                    @if only.is_none() { h2 { "Fields" } }
                    (fields(target, &places))
                    (lists(target, &places))
                    (rules(target, only))
                }
                footer { "Made by Dusk Button " (env!("CARGO_PKG_VERSION")) " from " (target.files.first().map_or_else(String::new, |file| file.display().to_string())) "." }
            }
        }
    };
    page.into_string()
}

/// The file that it takes, in words.
fn upload(target: &Target) -> String {
    let upload = &target.upload;
    match &upload.format {
        UploadFormat::Delimited => format!(
            "; delimited text in {}, separated by {}, with a decimal {}{}",
            upload.encoding.label(),
            match upload.delimiter.as_str() {
                "\t" => "tabs".to_owned(),
                mark => format!("\"{mark}\""),
            },
            if upload.decimal_mark == ',' { "comma" } else { "point" },
            if upload.header { "" } else { ", without a line of headings" }
        ),
        UploadFormat::Workbook { sheet, .. } => format!("; a workbook with the sheet \"{sheet}\""),
        UploadFormat::Iso2709 { .. } => "; bibliographic records (ISO 2709)".into(),
        UploadFormat::FixedWidth => format!("; fixed-width text in {}", upload.encoding.label()),
        UploadFormat::Xml { record, .. } => format!("; XML, an element {record} for each record"),
        UploadFormat::JsonLines => "; an object of JSON a line".into(),
        UploadFormat::Database { table, .. } => format!("; the table {table} of a database"),
    }
}

fn fields(target: &Target, places: &[FieldId]) -> Markup {
    let any_described =
        places.iter().filter_map(|place| target.words(*place)).any(|words| !words.description.is_empty());
    html! {
        table {
            thead { tr {
                th scope="col" { "No" } th scope="col" { "Field" } th scope="col" { "Type" }
                th scope="col" { "Must be filled" } th scope="col" { "Written as" } th scope="col" { "Values" }
                @if any_described { th scope="col" { "What it is" } }
            } }
            tbody {
                @for (number, words) in (1..).zip(places.iter().filter_map(|place| target.words(*place))) {
                    tr {
                        td class="number" { (number) }
                        td class="name" {
                            code { (visible(&words.name)) }
                            @if !words.label.is_empty() { br; (visible(&words.label)) }
                        }
                        td { (words.kind) }
                        td { (visible(&words.required)) }
                        td { (visible(&words.format)) }
                        td { (visible(&words.values)) }
                        @if any_described { td { (visible(&words.description)) } }
                    }
                }
            }
        }
    }
}

/// The code lists that the fields take, each once.
fn lists(target: &Target, places: &[FieldId]) -> Markup {
    let mut seen: Vec<(&str, Vec<&str>, FieldId)> = Vec::new();
    for place in places {
        let Some(field) = target.fields.get(*place) else { continue };
        let Some(list) = field.kind.codes() else { continue };
        match seen.iter_mut().find(|(name, ..)| *name == list.name) {
            Some((_, fields, _)) => fields.push(&field.name),
            None => seen.push((&list.name, vec![&field.name], *place)),
        }
    }
    html! {
        @for (name, fields, place) in &seen {
            @if let Some(table) = target.fields.get(*place).and_then(code_table) {
                section class="together" {
                    h2 { (visible(name)) }
                    p class="quiet" { "taken by " (visible(&fields.join(", "))) }
                    (PreEscaped(table.html()))
                }
            }
        }
    }
}

fn rules(target: &Target, only: Option<FieldId>) -> Markup {
    let rules: Vec<_> =
        target.rules.iter().filter(|rule| only.is_none_or(|only| rule.fields().contains(&only))).collect();
    html! {
        @if !rules.is_empty() {
            h2 { "Rules" }
            table {
                thead { tr { th scope="col" { "When" } th scope="col" { "Must hold" } th scope="col" { "In words" } } }
                tbody {
                    @for rule in rules {
                        tr {
                            td { @if let Some(when) = &rule.text.when { code { (visible(when)) } } @else { "always" } }
                            td { code { (visible(&rule.text.must)) } }
                            td { (visible(&rule.text.says)) }
                        }
                    }
                }
            }
        }
    }
}
