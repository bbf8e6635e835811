//! Texts with names in braces, as `inspections-{batch}-{part}.csv` or `{Town}, {Region}`.

/// One piece of a template.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Piece {
    /// Text that stands as it is.
    Text(String),
    /// A name, to be replaced by what it stands for.
    Name(String),
}

/// A text with names in braces. A doubled brace is one brace.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Template {
    /// The pieces in order.
    pub pieces: Vec<Piece>,
}

impl Template {
    /// Reads a template.
    ///
    /// # Errors
    /// Says which brace is not closed or not opened.
    pub fn parse(text: &str) -> Result<Self, String> {
        let mut pieces: Vec<Piece> = Vec::new();
        let mut literal = String::new();
        let mut letters = text.chars().peekable();
        while let Some(letter) = letters.next() {
            match letter {
                '{' | '}' if letters.next_if_eq(&letter).is_some() => literal.push(letter),
                '}' => {
                    return Err(format!(
                        "\"{text}\" closes a brace that it did not open; write }}}} for a brace"
                    ));
                }
                '{' => {
                    let mut name = String::new();
                    // A name may hold braces of its own: {Frame {n}}.
                    let mut inner = 0_usize;
                    loop {
                        match letters.next() {
                            Some('}') if inner == 0 => break,
                            Some(letter @ ('{' | '}')) => {
                                inner = if letter == '{' { inner + 1 } else { inner - 1 };
                                name.push(letter);
                            }
                            Some(letter) => name.push(letter),
                            None => {
                                return Err(format!(
                                    "\"{text}\" opens a brace and does not close it; write {{{{ for a brace"
                                ));
                            }
                        }
                    }
                    if !literal.is_empty() {
                        pieces.push(Piece::Text(std::mem::take(&mut literal)));
                    }
                    pieces.push(Piece::Name(name.trim().to_owned()));
                }
                _ => literal.push(letter),
            }
        }
        if !literal.is_empty() {
            pieces.push(Piece::Text(literal));
        }
        Ok(Self { pieces })
    }

    /// The template as it is written.
    pub fn written(&self) -> String {
        let doubled = |text: &str| text.replace('{', "{{").replace('}', "}}");
        let piece = |piece: &Piece| match piece {
            Piece::Text(text) => doubled(text),
            Piece::Name(name) => format!("{{{name}}}"),
        };
        self.pieces.iter().map(piece).collect()
    }

    /// The names in braces, in order.
    pub fn names(&self) -> impl Iterator<Item = &str> {
        self.pieces.iter().filter_map(|piece| match piece {
            Piece::Name(name) => Some(name.as_str()),
            Piece::Text(_) => None,
        })
    }

    /// The text with every name replaced; nothing where `value` does not know one.
    pub fn fill<'v>(&self, value: impl Fn(&str) -> Option<&'v str>) -> Option<String> {
        let mut text = String::new();
        for piece in &self.pieces {
            match piece {
                Piece::Text(literal) => text.push_str(literal),
                Piece::Name(name) => text.push_str(value(name)?),
            }
        }
        Some(text)
    }
}

#[cfg(test)]
mod tests {
    use super::{Piece, Template};

    fn filled(text: &str) -> Result<Option<String>, String> {
        Template::parse(text).map(|template| template.fill(|name| (name == "a b").then_some("x")))
    }

    #[test]
    fn names_are_replaced_and_doubled_braces_are_one() {
        assert_eq!(filled("{{{a b}}}-{ a b }"), Ok(Some("{x}-x".into())));
        assert_eq!(Template::parse("{{{a b}}}-").map(|template| template.written()), Ok("{{{a b}}}-".into()));
        assert_eq!(filled("plain"), Ok(Some("plain".into())));
        assert_eq!(filled("{other}"), Ok(None));
        let nested = Template::parse("{Frame {n}}!").map(|template| template.pieces);
        assert_eq!(nested, Ok(vec![Piece::Name("Frame {n}".into()), Piece::Text("!".into())]));
        assert!(filled("{a").unwrap_err().contains("does not close it"));
        assert!(filled("a}").unwrap_err().contains("did not open"));
    }
}
