//! An upload file exactly as it is written, with marks, blanks and line ends made visible, and held against the owner's own.

use dusk_core::description::{Target, UploadEncoding, UploadFormat, quotes_of};

use super::layout::grouped;
use super::style::{QUIET, styled};
use super::visible::visible;

/// How many characters of a line are shown.
const WIDEST: usize = 400;

/// A text file as bytes, with what they are in.
pub(crate) struct FileText {
    /// Whether it begins with a byte order mark.
    has_mark: bool,
    /// Its lines, each with its end.
    lines: Vec<String>,
}

impl FileText {
    /// Decodes bytes; nothing where they are not a text of that encoding.
    pub(crate) fn of(bytes: &[u8], encoding: UploadEncoding) -> Option<Self> {
        let of = match encoding {
            UploadEncoding::Whatwg(encoding) => encoding,
            UploadEncoding::Utf16Le => dusk_core::sources::encoding_named("utf-16le")?,
            UploadEncoding::Utf16Be => dusk_core::sources::encoding_named("utf-16be")?,
        };
        // A file of somebody else's may be in another encoding, which its mark says.
        let of = dusk_core::sources::encoding_by_mark(bytes).unwrap_or(of);
        let text = of.decode_without_bom_handling_and_without_replacement(bytes)?.into_owned();
        let body = text.strip_prefix('\u{feff}');
        let lines = split_lines(body.unwrap_or(&text));
        Some(Self { has_mark: body.is_some(), lines })
    }

    /// Its first lines as they are seen.
    pub(crate) fn shown(&self, most: usize) -> String {
        let wide = most.min(self.lines.len()).to_string().len();
        let mut text = String::new();
        if self.has_mark {
            text.push_str(&format!("{:wide$}  {}\n", "", styled(QUIET, "a byte order mark")));
        }
        for (number, line) in (1..).zip(&self.lines).take(most) {
            text.push_str(&format!("{number:>wide$}  {}\n", line_shown(line)));
        }
        let more = self.lines.len().saturating_sub(most);
        if more > 0 {
            text.push_str(&format!(
                "{:wide$}  {}\n",
                "",
                styled(QUIET, &format!("and {} more", grouped(more as u64)))
            ));
        }
        text
    }

    /// In what it differs from the owner's own file: the byte order mark, the first line, the line ends, the quotes.
    pub(crate) fn unlike(&self, own: &Self, target: &Target) -> Vec<String> {
        let mut found = Vec::new();
        match (self.has_mark, own.has_mark) {
            (true, false) => {
                found.push("the upload begins with a byte order mark, and that file does not".into())
            }
            (false, true) => {
                found.push("that file begins with a byte order mark, and the upload does not".into())
            }
            _ => {}
        }
        let first = |text: &Self| text.lines.first().cloned().unwrap_or_default();
        let (ours, theirs) = (first(self), first(own));
        let (ours_end, theirs_end) = (end_of(&ours), end_of(&theirs));
        if ours_end != theirs_end && !theirs_end.is_empty() {
            found.push(format!(
                "lines end with {} in the upload, and with {} in that file",
                end_name(ours_end),
                end_name(theirs_end)
            ));
        }
        let (ours, theirs) = (body_of(&ours), body_of(&theirs));
        if ours != theirs {
            let at = ours.chars().zip(theirs.chars()).take_while(|(ours, theirs)| ours == theirs).count();
            let rest = |line: &str| visible(&line.chars().skip(at).take(24).collect::<String>()).into_owned();
            let says = format!(
                "line 1 differs from character {} on: \"{}\" in the upload, \"{}\" in that file",
                at + 1,
                rest(ours),
                rest(theirs)
            );
            found.push(says);
        }
        if target.upload.format == UploadFormat::Delimited {
            found.extend(self.quoted_unlike(own, target));
        }
        found
    }

    /// The columns whose values are quoted otherwise than in the owner's own file, where both show it.
    fn quoted_unlike(&self, own: &Self, target: &Target) -> Vec<String> {
        let upload = &target.upload;
        let skip = target.header_rows().len();
        let quotes = |text: &Self| quotes_of(&text.lines.concat(), (&upload.delimiter, &upload.quote), skip);
        let quoted = |quoted: bool| if quoted { "quoted" } else { "bare" };
        let mut found = Vec::new();
        let columns = target.upload_columns();
        for ((ours, theirs), (_, heading)) in quotes(self).iter().zip(quotes(own)).zip(columns) {
            let mut differ = |what: &str, ours: Option<bool>, theirs: Option<bool>| {
                if let (Some(ours), Some(theirs)) = (ours, theirs)
                    && ours != theirs
                {
                    let (ours, theirs) = (quoted(ours), quoted(theirs));
                    found.push(format!(
                        "{what} of \"{heading}\" are {ours} in the upload, and {theirs} in that file"
                    ));
                }
            };
            differ("values", ours.are_quoted(), theirs.are_quoted());
            differ("blanks", ours.are_blanks_quoted(), theirs.are_blanks_quoted());
        }
        found
    }
}

fn split_lines(text: &str) -> Vec<String> {
    let mut lines = Vec::new();
    let mut line = String::new();
    let mut letters = text.chars().peekable();
    while let Some(letter) = letters.next() {
        line.push(letter);
        if letter == '\n' || letter == '\r' && letters.peek() != Some(&'\n') {
            lines.push(std::mem::take(&mut line));
        }
    }
    if !line.is_empty() {
        lines.push(line);
    }
    lines
}

fn body_of(line: &str) -> &str {
    line.trim_end_matches(['\r', '\n'])
}

fn end_of(line: &str) -> &str {
    line.get(body_of(line).len()..).unwrap_or_default()
}

fn end_name(end: &str) -> &'static str {
    match end {
        "\r\n" => "CR LF",
        "\n" => "LF",
        "\r" => "CR",
        _ => "nothing",
    }
}

/// A line with its end, and with the blanks at its ends, where nobody sees them.
fn line_shown(line: &str) -> String {
    let body = body_of(line);
    let cut: String = body.chars().take(WIDEST).collect();
    let more = body.chars().count() - cut.chars().count();
    let inner = cut.trim_matches(' ');
    let before = cut.len() - cut.trim_start_matches(' ').len();
    let behind = if inner.is_empty() { 0 } else { cut.len() - cut.trim_end_matches(' ').len() };
    let end: String = end_of(line).chars().map(|letter| if letter == '\r' { '␍' } else { '␊' }).collect();
    let more =
        if more > 0 { format!(" … {} characters more ", grouped(more as u64)) } else { String::new() };
    format!("{}{}{}{more}{}", "·".repeat(before), visible(inner), "·".repeat(behind), styled(QUIET, &end))
}
