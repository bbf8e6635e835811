//! How cells of a small sheet look, and what is noted beside them: comments, text that is struck through, and how many
//! decimals a number is shown with.

use hashbrown::HashMap;

use super::super::container::{Archive, attribute, part};
use super::checks::{elements, plain};
use crate::CellLook;

/// A larger sheet is no material of a target's owner, and is not looked through.
const LARGEST: u64 = 4 << 20;

/// How many cells are looked at, and of how many rows formats are told: those of a template stand right below its headings.
const MOST: usize = 200_000;
const FORMATS_WITHIN: u32 = 30;

/// What a style of cells adds to them.
#[derive(Debug, Default, Clone, PartialEq, Eq)]
struct Style {
    is_struck: bool,
    decimals: Option<u32>,
    format: String,
    fill: String,
}

/// The cells of a sheet that look in a way of their own, or have a comment.
pub(super) fn of_part(archive: &mut Archive, name: &str) -> Vec<CellLook> {
    if !archive.by_name(name).is_ok_and(|entry| entry.size() <= LARGEST) {
        return Vec::new();
    }
    let mut looks: Vec<CellLook> = comments(archive, name);
    let styles = styles(archive);
    if styles.iter().all(|style| *style == Style::default()) {
        return looks;
    }
    let Some(text) = part(archive, name) else { return looks };
    let mut by_cell: HashMap<String, usize> =
        looks.iter().enumerate().map(|(place, look)| (look.cell.clone(), place)).collect();
    for at in memchr::memmem::find_iter(&text, b"<c ").take(MOST) {
        let tag = text.get(at + 1..).unwrap_or_default();
        let tag = tag.get(..memchr::memchr(b'>', tag).unwrap_or(tag.len())).unwrap_or_default();
        let style = attribute(tag, "s").and_then(|style| styles.get(style.parse::<usize>().ok()?));
        let (Some(cell), Some(style)) = (attribute(tag, "r"), style) else { continue };
        let row = cell.trim_start_matches(|c: char| c.is_ascii_alphabetic()).parse().unwrap_or(u32::MAX);
        let is_plain = style.format.is_empty() && style.fill.is_empty();
        if !style.is_struck && (is_plain || row > FORMATS_WITHIN) {
            continue;
        }
        let place = *by_cell.entry(cell.to_owned()).or_insert_with(|| {
            looks.push(CellLook { cell: cell.to_owned(), ..CellLook::default() });
            looks.len() - 1
        });
        if let Some(look) = looks.get_mut(place) {
            look.is_struck = style.is_struck;
            look.decimals = style.decimals;
            look.format.clone_from(&style.format);
            look.fill.clone_from(&style.fill);
        }
    }
    looks
}

/// The comments of the sheet that stands in this part.
fn comments(archive: &mut Archive, name: &str) -> Vec<CellLook> {
    let Some((folder, file)) = name.rsplit_once('/') else { return Vec::new() };
    let Some(relations) = part(archive, &format!("{folder}/_rels/{file}.rels")) else { return Vec::new() };
    let is_comments = |tag: &[u8]| attribute(tag, "Type").is_some_and(|kind| kind.ends_with("/comments"));
    let target = elements(&relations, "Relationship")
        .find(|(tag, _)| is_comments(tag))
        .and_then(|(tag, _)| attribute(tag, "Target").map(str::to_owned));
    let Some(target) = target else { return Vec::new() };
    let path = match target.strip_prefix('/') {
        Some(whole) => whole.to_owned(),
        None => format!("xl/{}", target.trim_start_matches("../")),
    };
    let Some(text) = part(archive, &path) else { return Vec::new() };
    let comment = |(tag, inner): (&[u8], &[u8])| {
        let pieces = elements(inner, "t").filter_map(|(_, text)| std::str::from_utf8(text).ok());
        let said = plain(&pieces.collect::<String>());
        // The program writes who noted it in a line of its own in front.
        let said = match said.split_once('\n') {
            Some((who, said)) if who.trim_end().ends_with(':') => said.to_owned(),
            _ => said,
        };
        let comment = said.trim().to_owned();
        Some(CellLook { cell: attribute(tag, "ref")?.to_owned(), comment, ..CellLook::default() })
    };
    elements(&text, "comment").take(MOST).filter_map(comment).collect()
}

/// What each style of the workbook adds to its cells, by its number.
fn styles(archive: &mut Archive) -> Vec<Style> {
    let Some(text) = part(archive, "xl/styles.xml") else { return Vec::new() };
    let within = |name: &str| elements(&text, name).next().map_or(&[][..], |(_, inner)| inner);
    let is_struck = |(_, font): (&[u8], &[u8])| {
        let mut strikes = elements(font, "strike");
        strikes.next().is_some_and(|(tag, _)| !matches!(attribute(tag, "val"), Some("0" | "false")))
    };
    let fonts: Vec<bool> = elements(within("fonts"), "font").map(is_struck).collect();
    let formats: HashMap<String, String> = elements(within("numFmts"), "numFmt")
        .filter_map(|(tag, _)| {
            Some((attribute(tag, "numFmtId")?.to_owned(), plain(attribute(tag, "formatCode")?)))
        })
        .collect();
    // The first two fills are none, whatever they say (ECMA-376, part 1, 18.8.20).
    let colour = |(_, fill): (&[u8], &[u8])| {
        let (tag, _) = elements(fill, "fgColor").next()?;
        let shade =
            attribute(tag, "rgb").or_else(|| attribute(tag, "theme")).or_else(|| attribute(tag, "indexed"));
        shade.map(|shade| format!("{shade} {}", attribute(tag, "tint").unwrap_or_default()))
    };
    let fills: Vec<Option<String>> = elements(within("fills"), "fill").map(colour).collect();
    let style = |(tag, _): (&[u8], &[u8])| {
        let fill =
            attribute(tag, "fillId").and_then(|fill| fill.parse::<usize>().ok()).filter(|fill| *fill > 1);
        let fill = fill.and_then(|fill| fills.get(fill).cloned().flatten()).unwrap_or_default();
        let font = attribute(tag, "fontId").and_then(|font| fonts.get(font.parse::<usize>().ok()?)).copied();
        let number = attribute(tag, "numFmtId").unwrap_or("0");
        let format = formats.get(number).cloned().unwrap_or_else(|| built_in(number).to_owned());
        Style { is_struck: font.unwrap_or(false), decimals: decimals_of(&format), format, fill }
    };
    elements(within("cellXfs"), "xf").map(style).collect()
}

/// The formats that every program knows by their numbers (ECMA-376, part 1, 18.8.30), as far as they are fixed.
fn built_in(number: &str) -> &'static str {
    match number {
        "1" | "3" => "0",
        "2" | "4" => "0.00",
        _ => "",
    }
}

/// How many decimals a format always shows.
fn decimals_of(format: &str) -> Option<u32> {
    let first = format.split(';').next()?;
    let plain: String = first.chars().filter(|c| matches!(c, '0' | '#' | '.' | ',' | ' ')).collect();
    if plain.len() != first.len() || !plain.contains('0') {
        return None;
    }
    let behind = plain.split_once('.').map_or("", |(_, behind)| behind);
    behind.chars().all(|c| c == '0').then_some(u32::try_from(behind.len()).ok()?)
}
