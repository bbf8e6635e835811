//! All texts of the program are in plain English: the rules of `docs/style.md` that can be checked.

use std::fs;
use std::path::{Path, PathBuf};

use crate::docs::root;

/// What no text says, and what it says instead.
const BANNED: [(&str, &str); 14] = [
    ("is no ", "is not a"),
    ("are no ", "are not"),
    ("is none", "is not one"),
    ("stands", "is"),
    ("parted", "separated"),
    ("reckon", "calculate"),
    ("nobody", "it is not known"),
    ("whoever", "the person who"),
    ("taken for nothing", "not used"),
    ("cannot be told", "is not known"),
    (" is to be ", "must be"),
    (" are to be ", "must be"),
    ("no such ", "does not exist"),
    ("mended", "corrected"),
];

/// Where such words are right: "there is no", "is no longer", and a few others.
const ALLOWED: [&str; 7] = [
    "understand",
    "there is no ",
    "there are no ",
    "is no longer",
    "are no longer",
    "is no more",
    "stands for",
];

/// The longest line of a text, in characters; longer ones are not read to their end.
const LONGEST: usize = 260;

fn sources(folder: &Path, all: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap().flatten() {
        let path = entry.path();
        if path.is_dir() {
            if path.file_name().is_none_or(|name| name != "tests" && name != "target" && name != "demo") {
                sources(&path, all);
            }
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            all.push(path);
        }
    }
}

/// The literals of a source without its tests and comments, each with its line.
fn literals(text: &str) -> Vec<(usize, String)> {
    let mut found = Vec::new();
    for (number, line) in (1..).zip(text.lines()) {
        if line.trim_start() == "#[cfg(test)]" {
            break;
        }
        let code = line.trim_start();
        if code.starts_with("//") || code.starts_with("#[") {
            continue;
        }
        let mut rest = line;
        while let Some((_, behind)) = rest.split_once('"') {
            let mut end = 0;
            let bytes = behind.as_bytes();
            while end < bytes.len() && bytes[end] != b'"' {
                end += if bytes[end] == b'\\' { 2 } else { 1 };
            }
            found.push((number, behind.get(..end).unwrap_or(behind).to_owned()));
            rest = behind.get(end + 1..).unwrap_or("");
        }
    }
    found
}

#[test]
fn literals_are_found_and_comments_and_tests_are_none() {
    let text = "let a = \"one \\\" two\"; // \"x\"\n    // \"three\"\nf(\"four\", \"five\");\n#[cfg(test)]\nlet b = \"six\";\n";
    let found: Vec<String> = literals(text).into_iter().map(|(_, text)| text).collect();
    assert_eq!(found[..2], ["one \\\" two".to_owned(), "x".to_owned()]);
    assert_eq!(found[2..], ["four".to_owned(), "five".to_owned()]);
}

#[test]
fn every_text_of_the_program_is_plain_english() {
    let mut files = Vec::new();
    sources(&root().join("crates"), &mut files);
    assert!(files.len() > 300, "{} sources are read", files.len());
    let (mut wrong, mut read) = (Vec::new(), 0);
    for path in files {
        for (line, text) in literals(&fs::read_to_string(&path).unwrap()) {
            // What has blanks between its words is for people.
            if text.split(' ').count() < 3 {
                continue;
            }
            read += 1;
            let bare = ALLOWED.iter().fold(text.to_lowercase(), |text, allowed| text.replace(allowed, ""));
            let place = format!("{}:{line}", path.strip_prefix(root()).unwrap_or(&path).display());
            for (banned, instead) in BANNED {
                if bare.contains(banned) {
                    wrong.push(format!("{place}: \"{banned}\" (write {instead}): {text}"));
                }
            }
            if let Some(long) = text.split("\\n").find(|line| line.chars().count() > LONGEST) {
                wrong.push(format!("{place}: {} characters in one line: {text}", long.chars().count()));
            }
        }
    }
    assert!(read > 1_500, "{read} texts are read");
    assert!(wrong.is_empty(), "{} texts:\n{}", wrong.len(), wrong.join("\n"));
}
