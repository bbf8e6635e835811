//! A mapping in words: what feeds a field, and what is done to it.

use super::{DayCount, Feed, Map, Mapping, Which};
use dusk_description::{DateType, Field, FieldType, NumberType, ReadAs, Target, TextType};
use dusk_evidence::FieldId;
use dusk_values::{DateOrder, Rounding};

impl Feed {
    /// What feeds a field, in a few words.
    pub fn words(&self) -> String {
        let quoted = |names: Vec<&str>, between: &str| {
            names.iter().map(|name| format!("\"{name}\"")).collect::<Vec<_>>().join(between)
        };
        match self {
            Self::Column(name) => format!("\"{name}\""),
            Self::Constant(template) => {
                format!("always \"{}\"", template.written())
            }
            Self::Join(template) => template.written(),
            Self::InUnits(name, unit) => format!("\"{name}\", in the unit that \"{unit}\" names"),
            Self::FirstOf(_) => quoted(self.columns(), ", else "),
            Self::Filled { nth, .. } => {
                format!("number {nth} of {} that are not blank", quoted(self.columns(), ", "))
            }
            Self::WorkedOut(worked_out) => worked_out.written.clone(),
            Self::Together(_) => quoted(self.columns(), " and "),
            Self::Flags(flags) => {
                let each: Vec<String> =
                    flags.iter().map(|(column, code)| format!("{code} if \"{column}\"")).collect();
                each.join(", ")
            }
            Self::LookUp(look_up) => {
                format!("{} in {} by {}", look_up.take, look_up.file, quoted(self.columns(), " and "))
            }
            Self::Number => "the number of the repeat".into(),
            Self::Group => "the name of the row's group".into(),
        }
    }
}

impl Map {
    /// What is done to a value on its way to `field`, each in a few words. `proven` is the order of
    /// dates that the data proves.
    pub fn done(&self, field: &Field, proven: Option<DateOrder>) -> Vec<String> {
        let mut done: Vec<String> = Vec::new();
        if self.fill_down {
            done.push("blanks filled from above".into());
        }
        if let Some(form) = &self.date.form {
            done.push(format!("{} of the date", form.text()));
        }
        if let Some(part) = &self.part {
            done.push(format!("a part of {}", part.written));
        }
        if !self.between.is_empty() {
            let each = self.between.iter().map(|between| format!("\"{}\"", between.replace('\n', "\\n")));
            let each = each.collect::<Vec<_>>().join(" and ");
            done.push(match self.feed {
                Feed::Together(_) => format!("{each} between them"),
                _ => format!("separated at {each}"),
            });
        }
        if let Some(value) = &self.true_where {
            done.push(format!("whether \"{value}\" is there"));
        }
        if let Some(form) = self.text.form {
            done.push(format!("as {}", form.word()));
        }
        if let Some((yes, no)) = &self.words {
            done.push(format!("{yes} is true, {no} false"));
        }
        match self.read_as {
            ReadAs::Either => {}
            ReadAs::Codes => done.push("codes only".into()),
            ReadAs::Labels => done.push("labels only".into()),
        }
        self.numbers_done(field, &mut done);
        self.dates_done(field, proven, &mut done);
        if self.text.one_line {
            done.push("line breaks made spaces".into());
        }
        if let FieldType::Text(TextType { digits: Some(digits), .. }) = &field.kind {
            done.push(format!("lost zeros put back ({digits} digits)"));
        }
        if let Some(list) = field.kind.codes() {
            done.push(format!("codes of {}", list.name));
        }
        match self.crosswalk.lines().len() {
            0 => {}
            1 => done.push("1 translation".into()),
            lines => done.push(format!("{lines} translations")),
        }
        if let Some(fill) = &self.if_blank {
            done.push(format!("\"{fill}\" where blank"));
        }
        done
    }

    fn numbers_done(&self, field: &Field, done: &mut Vec<String>) {
        if let FieldType::Number(NumberType { unit: Some(wanted), .. }) = &field.kind
            && let Some(unit) = self.number.unit
        {
            done.push(format!("{} to {}", unit.symbol(), wanted.symbol()));
        }
        if let Some(round) = self.number.round {
            let word = Rounding::WORDS.iter().find(|(_, known)| *known == round).map_or("", |(word, _)| word);
            done.push(format!("rounded {word}"));
        }
        if let Some(mark) = self.number.decimal_mark {
            done.push(format!("decimals behind \"{mark}\""));
        }
    }

    fn dates_done(&self, field: &Field, proven: Option<DateOrder>, done: &mut Vec<String>) {
        let FieldType::Date(DateType { format, .. }) = &field.kind else { return };
        let order = match (self.date.order, &self.date.pattern, proven) {
            (Some(order), ..) => Some(order.word().to_owned()),
            (None, Some(pattern), _) => Some(pattern.text().to_owned()),
            (None, None, Some(order)) => Some(format!("{} (proven)", order.word())),
            (None, None, None) => None,
        };
        match order {
            Some(order) => done.push(format!("{order} to {}", format.text())),
            None => done.push(format!("to {}", format.text())),
        }
        for one in &self.date.order_where {
            done.push(match one.which {
                Which::Shape(shape) => format!("those like {shape} {}", one.order.word()),
                Which::Rows(first, last) => format!("rows {first}-{last} {}", one.order.word()),
            });
        }
        match self.date.day_count {
            Some(DayCount::From1900) => done.push("whole numbers count days from 1900".into()),
            Some(DayCount::From1904) => done.push("whole numbers count days from 1904".into()),
            None => {}
        }
        if let Some(zone) = &self.date.zone {
            done.push(format!("read as the clock of {}", zone.name()));
        }
    }
}

impl Mapping {
    /// The mapping in a line: how many fields are fed, and how.
    pub fn in_short(&self, target: &Target) -> String {
        let columns = |map: &&Map| matches!(map.feed, Feed::Column(_));
        let constants = |map: &&Map| matches!(map.feed, Feed::Constant(_));
        let one = self.maps.iter().filter(columns).count();
        let same = self.maps.iter().filter(constants).count();
        let more = self.maps.len() - one - same;
        let mut parts = vec![format!("{one} from a column each")];
        if more > 0 {
            parts.push(format!("{more} from several or another file"));
        }
        if same > 0 {
            parts.push(format!("{same} the same in every record"));
        }
        let sent = target.fields.iter().filter(|field| !field.never_send).count();
        format!("{} of {sent} fields: {}", self.maps.len(), parts.join(", "))
    }

    /// The fields that nothing feeds, by their places.
    pub fn left_empty(&self, target: &Target) -> Vec<FieldId> {
        let empty = |(place, field): &(FieldId, &Field)| {
            let fills_itself = field.never_send
                || field.fixed.is_some()
                || field.made_of.is_some()
                || field.operation.is_some()
                || field.given_by_target;
            !fills_itself && !self.maps.iter().any(|map| map.field == *place)
        };
        target.fields.with_ids().filter(empty).map(|(place, _)| place).collect()
    }
}

#[cfg(test)]
mod tests {
    use crate::read_incomplete;

    #[test]
    fn a_mapping_is_told_in_words() {
        let place = tempfile::tempdir().unwrap();
        let write = |name: &str, text: &str| std::fs::write(place.path().join(name), text).unwrap();
        write("codes.csv", "code,label\nW,White\n");
        write("other.csv", "Id,Town\n1,Vik\n");
        write(
            "target.toml",
            "[target]\nname = \"T\"\n[[field]]\nname = \"day\"\ntype = \"date\"\n[[field]]\nname = \"kg\"\ntype = \"decimal\"\ndecimals = 1\nunit = \"kg\"\n\
             [[field]]\nname = \"queen\"\ntype = \"code\"\ncodes = \"codes.csv\"\n[[field]]\nname = \"town\"\ntype = \"text\"\n[[field]]\nname = \"place\"\ntype = \"text\"\n[[field]]\nname = \"rest\"\ntype = \"text\"\n",
        );
        write(
            "mapping.toml",
            "target = \"target.toml\"\n[[map]]\nfield = \"day\"\nfrom = \"D\"\norder_where = [{ rows = \"2-9\", order = \"month-day-year\" }]\nday_count = \"1900\"\n\
             [[map]]\nfield = \"kg\"\nfrom = \"W\"\nunit = \"lb\"\nround = \"half-up\"\ndecimal_mark = \",\"\n\
             [[map]]\nfield = \"queen\"\nfirst_of = [\"Q\", \"R\"]\nread_as = \"labels\"\nif_blank = \"W\"\n\
             [[map]]\nfield = \"town\"\nlook_up = { file = \"other.csv\", by = { \"No\" = \"Id\" }, take = \"Town\" }\n\
             [[map]]\nfield = \"place\"\nfrom = \"P\"\npart = \"{a}, {b}\"\ntake = \"a\"\nfill_down = true\n",
        );
        let (mapping, target) = read_incomplete(&place.path().join("mapping.toml")).unwrap();
        let told: Vec<String> = mapping
            .maps
            .iter()
            .map(|map| {
                let done = map.done(target.fields.get(map.field).unwrap(), None);
                format!("{}: {}", map.feed.words(), done.join("; "))
            })
            .collect();
        assert_eq!(
            told[0],
            "\"D\": to yyyy-MM-dd; rows 2-9 month-day-year; whole numbers count days from 1900"
        );
        assert_eq!(told[1], "\"W\": lb to kg; rounded half-up; decimals behind \",\"");
        assert_eq!(told[2], "\"Q\", else \"R\": labels only; codes of codes; \"W\" where blank");
        assert!(told[3].starts_with("Town in ") && told[3].ends_with("other.csv by \"No\": "), "{}", told[3]);
        assert_eq!(told[4], "\"P\": blanks filled from above; a part of {a}, {b}");
        assert_eq!(
            mapping.in_short(&target),
            "5 of 6 fields: 3 from a column each, 2 from several or another file"
        );
        assert_eq!(mapping.left_empty(&target), [target.field("rest").unwrap()]);
    }
}
