//! Words become a condition, and everything in it is of the right type.

use regex::Regex;

use super::RuleError;
use super::tree::{Comparison, Condition, Form, Over, Part, RESERVED, Term};
use super::words::{Placed, Word};
use dusk_evidence::FieldId;
use dusk_values::ValueType;

/// How deep brackets and signs may stand inside one another.
const DEEPEST: usize = 50;

/// The place and the type of a field by its name.
pub(super) type Fields<'a> = &'a dyn Fn(&str) -> Option<(FieldId, ValueType)>;

pub(super) struct Parser<'a> {
    pub(super) words: &'a [Placed],
    pub(super) at: usize,
    end: usize,
    fields: Fields<'a>,
    depth: usize,
}

/// A term, its type, and where it stands.
pub(super) type Typed = (Term, ValueType, std::ops::Range<usize>);

impl<'a> Parser<'a> {
    pub(super) fn new(words: &'a [Placed], end: usize, fields: Fields<'a>) -> Self {
        Self { words, at: 0, end, fields, depth: 0 }
    }

    pub(super) fn parse(mut self) -> Result<Condition, RuleError> {
        let condition = self.any()?;
        match self.peek() {
            None => Ok(condition),
            Some(_) => Err(self.wrong("comes after the end of the rule", "join comparisons with and, or")),
        }
    }

    /// A number alone.
    pub(super) fn expression(mut self) -> Result<Term, RuleError> {
        let (term, kind, at) = self.sum()?;
        if self.peek().is_some() {
            return Err(self.wrong(
                "comes after the end of the number",
                "write numbers and columns with + - * between them",
            ));
        }
        if kind != ValueType::Number {
            return Err(RuleError::new(
                "is not a number",
                "write numbers and columns with + - * between them",
                at,
            ));
        }
        let mut over = false;
        term.each(&mut |term| over |= matches!(term, Term::Over(..)));
        if over {
            return Err(RuleError::new("is over many records, and this is one record's", "take it away", at));
        }
        Ok(term)
    }

    pub(super) fn peek(&self) -> Option<&'a Word> {
        self.words.get(self.at).map(|placed| &placed.word)
    }

    pub(super) fn peek_name(&self, ahead: usize) -> Option<&'a str> {
        match self.words.get(self.at + ahead).map(|placed| &placed.word) {
            Some(Word::Name(name)) => Some(name),
            _ => None,
        }
    }

    pub(super) fn takes(&mut self, word: &Word) -> bool {
        let found = self.peek() == Some(word);
        self.at += usize::from(found);
        found
    }

    fn takes_name(&mut self, name: &str) -> bool {
        let found = self.peek_name(0) == Some(name);
        self.at += usize::from(found);
        found
    }

    /// Where the next word stands; the end of the text where there is none.
    pub(super) fn place(&self) -> std::ops::Range<usize> {
        self.words.get(self.at).map_or(self.end..self.end, |placed| placed.at.clone())
    }

    pub(super) fn place_since(&self, start: usize) -> std::ops::Range<usize> {
        let last =
            self.at.checked_sub(1).and_then(|at| self.words.get(at)).map_or(start, |placed| placed.at.end);
        start..last.max(start)
    }

    /// An error about the next word, or about the end.
    pub(super) fn wrong(&self, says: &str, hint: &str) -> RuleError {
        match self.peek() {
            Some(_) => RuleError::new(format!("this {says}"), hint, self.place()),
            None => RuleError::new(says.replacen("is where", "the rule ends where", 1), hint, self.place()),
        }
    }

    fn deeper<T>(&mut self, read: impl FnOnce(&mut Self) -> Result<T, RuleError>) -> Result<T, RuleError> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err(RuleError::new(
                "this is inside too many brackets",
                "write the rule as several rules",
                self.place(),
            ));
        }
        let read = read(self)?;
        self.depth -= 1;
        Ok(read)
    }

    fn any(&mut self) -> Result<Condition, RuleError> {
        let mut parts = vec![self.all()?];
        while self.takes_name("or") {
            parts.push(self.all()?);
        }
        Ok(one_or(parts, Condition::Any))
    }

    fn all(&mut self) -> Result<Condition, RuleError> {
        let mut parts = vec![self.single()?];
        while self.takes_name("and") {
            parts.push(self.single()?);
        }
        Ok(one_or(parts, Condition::All))
    }

    fn single(&mut self) -> Result<Condition, RuleError> {
        if self.takes_name("not") {
            return self.deeper(|parser| Ok(Condition::Not(Box::new(parser.single()?))));
        }
        if self.peek() == Some(&Word::Open) && self.opens_condition() {
            self.at += 1;
            let inner = self.deeper(Self::any)?;
            if !self.takes(&Word::Close) {
                return Err(self.wrong("is where a closing bracket should be", "put ) after the comparison"));
            }
            return Ok(inner);
        }
        let left = self.sum()?;
        self.comparison(left)
    }

    /// A bracket may hold comparisons or a sum: what stands before its end decides.
    fn opens_condition(&self) -> bool {
        let mut depth = 0_usize;
        let rest = self.words.get(self.at..).unwrap_or_default();
        for (place, placed) in rest.iter().enumerate() {
            match &placed.word {
                Word::Open => depth += 1,
                Word::Close => {
                    depth -= 1;
                    if depth == 0 {
                        // A sum in brackets is compared or reckoned with; a condition is joined or ends.
                        let name = match rest.get(place + 1).map(|placed| &placed.word) {
                            None | Some(Word::Close) => return true,
                            Some(Word::Name(name)) => name.as_str(),
                            Some(_) => return false,
                        };
                        return matches!(name, "and" | "or");
                    }
                }
                _ => {}
            }
        }
        true
    }

    fn comparison(&mut self, left: Typed) -> Result<Condition, RuleError> {
        let (term, kind, at) = left;
        if self.takes_name("is") {
            let negated = self.takes_name("not");
            if self.takes_name("blank") {
                return Ok(Condition::Blank(term, negated));
            }
            let right = self.sum()?;
            let comparison = if negated { Comparison::NotEqual } else { Comparison::Equal };
            return compare((term, kind, at), comparison, right);
        }
        if let Some(Word::Compare(comparison)) = self.peek() {
            self.at += 1;
            let right = self.sum()?;
            return compare((term, kind, at), *comparison, right);
        }
        if self.takes_name("between") {
            return self.between((term, kind, at));
        }
        let negated =
            self.peek_name(0) == Some("not") && self.peek_name(1) == Some("in") && self.takes_name("not");
        if self.takes_name("in") {
            return self.among((term, kind, at), negated);
        }
        let does_not = self.peek_name(0) == Some("does")
            && self.peek_name(1) == Some("not")
            && self.peek_name(2) == Some("match");
        if does_not || self.peek_name(0) == Some("matches") {
            self.at += if does_not { 3 } else { 1 };
            return self.matches((term, kind, at), does_not);
        }
        if kind == ValueType::Boolean {
            return Ok(Condition::Holds(term));
        }
        Err(self.wrong(
            "is where a comparison should be",
            "write =, !=, <, <=, > or >=, in (…), is blank, matches \"…\"",
        ))
    }

    fn between(&mut self, left: Typed) -> Result<Condition, RuleError> {
        let least = self.sum()?;
        if !self.takes_name("and") {
            return Err(self.wrong("is where \"and\" should be", "write x between 1 and 5"));
        }
        let most = self.sum()?;
        same_type(&left, &least)?;
        same_type(&left, &most)?;
        Ok(Condition::Between(left.0, least.0, most.0))
    }

    fn among(&mut self, left: Typed, negated: bool) -> Result<Condition, RuleError> {
        if !self.takes(&Word::Open) {
            return Err(
                self.wrong("is where a list should be", "write the values in brackets: in (\"A\", \"B\")")
            );
        }
        let mut list = Vec::new();
        loop {
            let value = self.sum()?;
            same_type(&left, &value)?;
            list.push(value.0);
            if !self.takes(&Word::Comma) {
                break;
            }
        }
        if !self.takes(&Word::Close) {
            return Err(self.wrong(
                "is where the list should end",
                "put a comma between two values, and ) after the last",
            ));
        }
        Ok(Condition::Among(left.0, list, negated))
    }

    fn matches(&mut self, (term, kind, at): Typed, negated: bool) -> Result<Condition, RuleError> {
        if kind != ValueType::Text {
            return Err(RuleError::new(
                format!("this is a {}, and only a text can match a form", kind.word()),
                "compare it with a value",
                at,
            ));
        }
        let place = self.place();
        let Some(Word::Text(written)) = self.peek() else {
            return Err(self.wrong(
                "is where a form should be",
                "write a regular expression in quotes: matches \"[A-Z][0-9]+\"",
            ));
        };
        self.at += 1;
        match Regex::new(&format!("^(?:{written})$")) {
            Ok(regex) => Ok(Condition::Matches(term, Form { regex, written: written.clone() }, negated)),
            Err(error) => {
                let reason = error.to_string();
                let reason =
                    reason.lines().last().unwrap_or_default().trim_start_matches("error: ").to_owned();
                Err(RuleError::new(
                    format!("this form cannot be read: {reason}"),
                    "write a regular expression",
                    place,
                ))
            }
        }
    }

    fn sum(&mut self) -> Result<Typed, RuleError> {
        let mut left = self.product()?;
        loop {
            let minus = match self.peek() {
                Some(Word::Plus) => false,
                Some(Word::Minus) => true,
                _ => return Ok(left),
            };
            self.at += 1;
            let right = self.product()?;
            let at = left.2.start..right.2.end;
            use ValueType::{Date, Number};
            let kind = match (left.1, right.1, minus) {
                (Number, Number, _) => Number,
                (Date, Number, _) => Date,
                (Date, Date, true) => Number,
                (Number, Date, false) => Date,
                (one, other, _) => {
                    let says = format!("a {} and a {} cannot be used in one sum", one.word(), other.word());
                    return Err(RuleError::new(says, "numbers go together, and days are added to dates", at));
                }
            };
            let (one, other) = (Box::new(left.0), Box::new(right.0));
            left = (if minus { Term::Difference(one, other) } else { Term::Sum(one, other) }, kind, at);
        }
    }

    fn product(&mut self) -> Result<Typed, RuleError> {
        let mut left = self.signed()?;
        while self.takes(&Word::Times) {
            let right = self.signed()?;
            let at = left.2.start..right.2.end;
            if let Some(wrong) = [&left, &right].into_iter().find(|side| side.1 != ValueType::Number) {
                let says = format!("this is a {}, and only numbers are multiplied", wrong.1.word());
                return Err(RuleError::new(says, "multiply two numbers", wrong.2.clone()));
            }
            left = (Term::Product(Box::new(left.0), Box::new(right.0)), ValueType::Number, at);
        }
        Ok(left)
    }

    fn signed(&mut self) -> Result<Typed, RuleError> {
        let start = self.place().start;
        if !self.takes(&Word::Minus) {
            return self.term();
        }
        let (term, kind, at) = self.deeper(Self::signed)?;
        if kind != ValueType::Number {
            return Err(RuleError::new(
                format!("this is a {}, which has no negative", kind.word()),
                "put - before a number",
                at,
            ));
        }
        Ok((Term::Minus(Box::new(term)), kind, start..at.end))
    }

    fn term(&mut self) -> Result<Typed, RuleError> {
        let at = self.place();
        let Some(word) = self.peek() else {
            return Err(self.wrong(
                "is where a field or a value should be",
                "write a field's name, a number, a day or a \"text\"",
            ));
        };
        self.at += 1;
        Ok(match word {
            Word::Number(number) => (Term::Number(*number), ValueType::Number, at),
            Word::Text(text) => (Term::Text(text.clone()), ValueType::Text, at),
            Word::Date(day) => (Term::Date(*day), ValueType::Date, at),
            Word::Time(time) => (Term::Time(*time), ValueType::Time, at),
            Word::Braced(name) => self.field(name, at)?,
            Word::Name(name) => self.named(name, at)?,
            Word::Open => {
                let inner = self.deeper(Self::sum)?;
                if !self.takes(&Word::Close) {
                    return Err(self.wrong("is where a closing bracket should be", "put ) after the sum"));
                }
                inner
            }
            _ => {
                self.at -= 1;
                return Err(self.wrong(
                    "is where a field or a value should be",
                    "write a field's name, a number, a day or a \"text\"",
                ));
            }
        })
    }

    pub(super) fn field(&self, name: &str, at: std::ops::Range<usize>) -> Result<Typed, RuleError> {
        match (self.fields)(name) {
            Some((place, kind)) => Ok((Term::Field(place, name.to_owned()), kind, at)),
            None => Err(RuleError {
                unknown_field: Some(name.to_owned()),
                ..RuleError::new(format!("there is no field \"{name}\""), "", at)
            }),
        }
    }

    /// A word that begins a part, something over many records, or names a field.
    fn named(&mut self, name: &str, at: std::ops::Range<usize>) -> Result<Typed, RuleError> {
        let start = at.start;
        match name {
            "true" | "false" => return Ok((Term::True(name == "true"), ValueType::Boolean, at)),
            "today" => return Ok((Term::Today, ValueType::Date, at)),
            "days" if self.peek_name(0) == Some("between") => return self.days_between(start),
            "number" if self.peek_name(0) == Some("of") && self.peek_name(1) == Some("records") => {
                self.at += 2;
                return Ok((
                    Term::Over(Over::Records, Vec::new()),
                    ValueType::Number,
                    self.place_since(start),
                ));
            }
            "number" if self.peek_name(0) == Some("of") && self.peek_name(1) == Some("different") => {
                self.at += 2;
                return self.over(Over::Different, start);
            }
            "sum" if self.takes_name("of") => return self.over(Over::Sum, start),
            "smallest" if self.is_field_next() => return self.over(Over::Smallest, start),
            "largest" if self.is_field_next() => return self.over(Over::Largest, start),
            _ => {}
        }
        let part = Part::WORDS.iter().find(|(word, _)| *word == name).map(|(_, part)| *part);
        if let Some(part) = part.filter(|_| self.peek_name(0) == Some("of")) {
            self.at += 1;
            let inner = self.deeper(Self::term)?;
            return self.part(part, inner, start);
        }
        self.field(name, at)
    }

    fn is_field_next(&self) -> bool {
        matches!(self.peek(), Some(Word::Braced(_)))
            || self.peek_name(0).is_some_and(|name| !RESERVED.contains(&name))
    }

    fn days_between(&mut self, start: usize) -> Result<Typed, RuleError> {
        self.at += 1;
        let first = self.sum()?;
        if !self.takes_name("and") {
            return Err(self.wrong("is where \"and\" should be", "write days between one date and another"));
        }
        let last = self.sum()?;
        for side in [&first, &last] {
            if side.1 != ValueType::Date {
                let says = format!("this is a {}, and days are counted between two dates", side.1.word());
                return Err(RuleError::new(says, "write date of … for a date with a time", side.2.clone()));
            }
        }
        Ok((
            Term::DaysBetween(Box::new(first.0), Box::new(last.0)),
            ValueType::Number,
            self.place_since(start),
        ))
    }

    fn part(&self, part: Part, (term, kind, at): Typed, start: usize) -> Result<Typed, RuleError> {
        use ValueType::{Date, DateTime, Number, Text, Time};
        let whole = self.place_since(start);
        let gives = match (part, kind) {
            (Part::Length, Text) => Number,
            (Part::Year | Part::Month | Part::Day | Part::Weekday, Date | DateTime) => Number,
            (Part::Date, DateTime) => Date,
            (Part::Time, DateTime) => Time,
            _ => {
                let (of, hint) = match part {
                    Part::Length => ("a text", "write length of a text field"),
                    Part::Date | Part::Time => ("a date with a time", "use the field as it is"),
                    _ => ("a date", "write it of a field of type date or datetime"),
                };
                return Err(RuleError::new(
                    format!("this is a {}, and that is a part of {of}", kind.word()),
                    hint,
                    at,
                ));
            }
        };
        Ok((Term::Part(part, Box::new(term)), gives, whole))
    }
}

fn same_type(left: &Typed, right: &Typed) -> Result<(), RuleError> {
    if left.1 == right.1 {
        return Ok(());
    }
    let hint = match (left.1, right.1) {
        (ValueType::DateTime, ValueType::Date) | (ValueType::Date, ValueType::DateTime) => {
            "write date of … for the date with a time"
        }
        _ => "compare fields and values of one type; write texts in quotes",
    };
    let says = format!("a {} and a {} cannot be compared", left.1.word(), right.1.word());
    Err(RuleError::new(says, hint, left.2.start.min(right.2.start)..left.2.end.max(right.2.end)))
}

fn compare(left: Typed, comparison: Comparison, right: Typed) -> Result<Condition, RuleError> {
    same_type(&left, &right)?;
    let ordered = !matches!(comparison, Comparison::Equal | Comparison::NotEqual);
    if ordered && left.1 == ValueType::Boolean {
        return Err(RuleError::new(
            "true and false have no order",
            "write = or !=",
            left.2.start..right.2.end,
        ));
    }
    Ok(Condition::Compare(left.0, comparison, right.0))
}

fn one_or(mut parts: Vec<Condition>, join: fn(Vec<Condition>) -> Condition) -> Condition {
    match (parts.pop(), parts.is_empty()) {
        (Some(only), true) => only,
        (last, _) => {
            parts.extend(last);
            join(parts)
        }
    }
}
