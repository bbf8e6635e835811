//! What a step rests on, in words.

use std::fmt;

use super::basis::{Basis, BesideBasis, DateBasis, HowRead, LaidOut, Lost};
use dusk_description::HowFound;
use dusk_evidence::decided;
use dusk_mapping::{TextForm, Which};
use dusk_values::{Decimal, Rounding, UnitConversion, is_no_break_space, named_character, shown};

impl fmt::Display for Basis {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Constant => f.write_str("the same in every record, as the mapping says"),
            Self::IfBlank => f.write_str("the source is blank, and the mapping says what to put there"),
            Self::FillDown => {
                f.write_str("the cell is blank, and the mapping says to take the value above it (fill_down)")
            }
            Self::MadeOf => f.write_str("made of other fields, as the target wants it"),
            Self::Join => f.write_str("joined as the mapping says"),
            Self::FirstOf { heading } => write!(f, "from \"{heading}\", the first that is not blank"),
            Self::Filled { heading, nth } if heading.is_empty() => {
                write!(f, "number {nth} of the columns that are not blank, with all that are left over")
            }
            Self::Filled { heading, nth } => {
                write!(f, "from \"{heading}\", number {nth} of the columns that are not blank")
            }
            Self::WorkedOut { written } => write!(f, "worked out as {written}"),
            Self::Together { filled, of } => write!(f, "{filled} of {of} columns are not blank"),
            Self::Flags => f.write_str("the codes of the columns that say true"),
            Self::LookUp { take, row, file } => write!(f, "{take} in row {row} of {file}"),
            Self::Part { form } => write!(f, "taken out of \"{form}\""),
            Self::BlankWord { word } => write!(f, "\"{word}\" means a blank cell, as the mapping says"),
            Self::LineBreakMark { mark } => {
                write!(f, "\"{mark}\" means a line break, as the mapping says")
            }
            Self::TextForm(TextForm::Upper) => f.write_str("in capital letters, as the mapping says"),
            Self::TextForm(TextForm::Lower) => f.write_str("in small letters, as the mapping says"),
            Self::TextForm(TextForm::Initials) => f.write_str("the initials, as the mapping says"),
            Self::Ends { before, behind } => f.write_str(&taken_away(before, behind)),
            Self::Spaces { count, all_no_break } => {
                let what = if *all_no_break { "no-break space" } else { "unusual space" };
                write!(f, "made {} ordinary", counted(*count, what))
            }
            Self::LineBreaks { count } => {
                let breaks = counted(*count, "line break");
                write!(f, "made {breaks} a space, as the mapping says (line_breaks)")
            }
            Self::WronglyDecoded { encoding } => {
                write!(f, "it was UTF-8, read as {encoding} and saved; the way back is exact")
            }
            Self::Hidden(letters) => {
                let name = |c: &char| named_character(*c).split_off(c.len_utf8() + 3);
                write!(f, "took away {}", letters.iter().map(name).collect::<Vec<_>>().join(", "))
            }
            Self::Composed => {
                f.write_str("letters and accents put together (Unicode NFC), which look the same")
            }
            Self::Quotes => f.write_str("curly quotes made straight, as the mapping says"),
            Self::TextMark => {
                f.write_str("an apostrophe in front keeps a number text in a spreadsheet program")
            }
            Self::DigitsOfDictionary { digits } => write!(f, "always {digits} digits in the dictionary"),
            Self::ZerosBehindPoint => f.write_str("there is nothing but zeros behind the point"),
            Self::WholePower => f.write_str("a power of ten of which no digit is missing"),
            Self::OnlyCodeBefore { lost, list } => write!(f, "{} ({list})", only_code(*lost)),
            Self::Exact => f.write_str("plain notation"),
            Self::PlainNotation => f.write_str("the same number in plain notation"),
            Self::Rounded { how, decimals } => f.write_str(&rounded(*how, *decimals)),
            Self::Converted(conversion) => f.write_str(&converted(conversion)),
            Self::Date(date) => date.fmt(f),
            Self::PartOfDate { missing } => write!(f, "{}, which the target takes", missing.words()),
            Self::Means { word, value } => write!(f, "\"{word}\" means {value}"),
            Self::Among { wanted, is_there } => {
                write!(f, "\"{wanted}\" is {}among the values", if *is_there { "" } else { "not " })
            }
            Self::Code { how, list, label } => match how {
                HowFound::Code => write!(f, "a code of {list}; case and spaces do not count"),
                HowFound::Label => write!(f, "a label of {list}"),
                HowFound::Also => write!(f, "another name for {label} in {list}"),
            },
            Self::File { folder } => write!(f, "the one file in {folder} that is called so"),
            Self::Known { column, file, had_zeros } => {
                let how = if *had_zeros { "lost zeros put back" } else { "case and spaces do not count" };
                write!(f, "one value of {column} in {file}; {how}")
            }
            Self::Crosswalk { by, on } => f.write_str(&decided(by, on)),
            Self::Beside(beside) => beside.fmt(f),
            Self::Codes { each, layout } => {
                each.iter().try_for_each(|(code, basis)| write!(f, "{code} by {basis}; "))?;
                layout.fmt(f)
            }
        }
    }
}

impl fmt::Display for BesideBasis {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::BlankLeaves => "the source is blank, so the target keeps what it holds",
            Self::Clears => "the source is blank, and the mapping says that this clears it (blank_clears)",
            Self::OnlyWhenNew => {
                "the field is set for new records only (only_when_new), so the target keeps what it holds"
            }
            Self::Key => "the target has the key of this record in this spelling",
            Self::Identifier => "the target has given this identifier to the record",
            Self::Combined => {
                "another row of the same key says it, and the mapping makes one record of them (same_key)"
            }
            Self::Operation => "what the target is to do with the record",
        })
    }
}

impl fmt::Display for LaidOut {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Joined(separator) => write!(f, "separated by \"{separator}\", as the target expects"),
            Self::ColumnPerCode => f.write_str("one column per code as the target wants"),
            Self::Numbered => f.write_str("one after the other in numbered columns"),
        }
    }
}

impl fmt::Display for DateBasis {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match &self.how {
            HowRead::Pattern(pattern) => write!(f, "read as {pattern}, as the mapping says")?,
            HowRead::Proven(order) => write!(f, "read as {}, as the column proves", order.word())?,
            HowRead::Mapping(order) => write!(f, "read as {}, as the mapping says", order.word())?,
            HowRead::Where { which, order } => {
                let which = match which {
                    Which::Shape(shape) => format!("values like {shape}"),
                    Which::Rows(first, last) => format!("rows {first}-{last}"),
                };
                write!(f, "read as {}, as the mapping says of {which} (order_where)", order.word())?;
            }
            HowRead::Form => f.write_str("its form leaves one reading")?,
        }
        if let Some(day) = self.day {
            write!(f, ": {}", shown(day))?;
        }
        if let Some((from, to)) = &self.clocks {
            write!(f, "; from the clock of {from} to that of {to}")?;
        }
        if let Some(of_time) = self.of_time {
            write!(f, "; {of_time}")?;
        }
        Ok(())
    }
}

fn only_code(lost: Lost) -> &'static str {
    match lost {
        Lost::Zeros => "the only code with these digits; a spreadsheet program takes leading zeros away",
        Lost::Power => "the only code that a spreadsheet program reads as this number, a power of ten",
        Lost::Date => "the only code that a spreadsheet program makes this date of",
    }
}

fn rounded(how: Option<Rounding>, decimals: u32) -> String {
    let word = how.map_or("", Rounding::word);
    match decimals {
        0 => format!("rounded {word} to a whole number, as the mapping says"),
        1 => format!("rounded {word} to 1 decimal, as the mapping says"),
        more => format!("rounded {word} to {more} decimals, as the mapping says"),
    }
}

/// A conversion in words: "lb to kg: × 0.45359237".
fn converted(conversion: &UnitConversion) -> String {
    let (times, plus, by) = conversion.factors;
    let factor = match plus {
        0 => format!("× {}", fraction(times, by)),
        _ => format!("(× {times} {} {}) / {by}", if plus < 0 { '−' } else { '+' }, plus.abs()),
    };
    format!("{} to {}: {factor}", conversion.from.symbol(), conversion.to.symbol())
}

fn fraction(times: i128, by: i128) -> String {
    let exact = Decimal::whole(1).scaled((times, 0, by), 20, None);
    exact.map_or_else(|_| format!("{times} / {by}"), |(factor, _)| factor.to_string())
}

/// Says what white space stood at the ends: "took away 2 spaces before, 1 tab after".
fn taken_away(before: &str, after: &str) -> String {
    let mut places = Vec::new();
    for (text, place) in [(before, "before"), (after, "after")] {
        let mut kinds: Vec<(&str, usize)> = Vec::new();
        for c in text.chars() {
            let name = match c {
                ' ' => "space",
                '\t' => "tab",
                '\r' | '\n' => "line break",
                c if is_no_break_space(c) => "no-break space",
                _ => "unusual space",
            };
            match kinds.iter_mut().find(|(known, _)| *known == name) {
                Some((_, count)) => *count += 1,
                None => kinds.push((name, 1)),
            }
        }
        if !kinds.is_empty() {
            let kinds: Vec<String> = kinds.into_iter().map(|(name, count)| counted(count, name)).collect();
            places.push(format!("{} {place}", kinds.join(" and ")));
        }
    }
    format!("took away {}", places.join(", "))
}

fn counted(count: usize, what: &str) -> String {
    if count == 1 { format!("1 {what}") } else { format!("{count} {what}s") }
}
