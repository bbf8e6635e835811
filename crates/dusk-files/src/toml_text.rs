//! Texts written into TOML files.

use std::fmt::Write as _;

/// A text in quotes on one line, as TOML has it.
pub fn toml_text(text: &str) -> String {
    let mut out = String::from("\"");
    for letter in text.chars() {
        match letter {
            '"' => out.push_str("\\\""),
            '\\' => out.push_str("\\\\"),
            '\n' => out.push_str("\\n"),
            '\r' => out.push_str("\\r"),
            '\t' => out.push_str("\\t"),
            c if c.is_control() => {
                let _ = write!(out, "\\u{:04X}", u32::from(c));
            }
            c => out.push(c),
        }
    }
    out.push('"');
    out
}

#[cfg(test)]
mod tests {
    use super::toml_text;

    #[test]
    fn every_text_reads_back() {
        for text in ["plain", "a \"b\" \\c", "line\r\nbreak\t", "\u{1}\u{feff}é蜂", ""] {
            let written = format!("key = {}", toml_text(text));
            assert_eq!(written.lines().count(), 1);
            let read: toml_edit::DocumentMut = written.parse().unwrap();
            assert_eq!(read["key"].as_str(), Some(text));
        }
    }
}
