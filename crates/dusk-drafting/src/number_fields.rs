//! Fields that hold numbers: decimals, units, limits, and the largest number of a size.

use super::claim::{Place, Setting};
use super::facts::{FieldFact, FieldKind};
use super::fields::Resolver;
use super::file_words::decimal_mark;
use dusk_values::{Decimal, Unit};

impl Resolver<'_> {
    /// A number with its decimals, unit and limits.
    pub(super) fn number(&mut self, kind: FieldKind, from: &Place) {
        let decimals =
            self.fact(|fact| if let FieldFact::Decimals(decimals) = fact { Some(*decimals) } else { None });
        let precision = self.fact(|fact| {
            if let FieldFact::Precision(total, decimals) = fact { Some((*total, *decimals)) } else { None }
        });
        let length =
            self.fact(|fact| if let FieldFact::Length(length) = fact { Some(*length) } else { None });
        let length = length.filter(|(length, _)| *length > 0);
        if let (Some((one, _)), Some(((_, other), place))) = (&decimals, &precision)
            && one != other
        {
            let says = format!("has {one} decimals by one cell and {other} by another; {one} was written");
            self.drafted.contradict(self.name.clone(), says, place);
        }
        let total = precision.clone().map(|((total, _), place)| (total, place)).or(length.clone());
        let after = decimals.or(precision.map(|((_, decimals), place)| (decimals, place)));
        let after = after.or_else(|| self.told_decimals());
        let after = self.decimals(kind, after, length.is_some(), from);
        let word = if after == 0 { "integer" } else { "decimal" };
        self.claim("type", Setting::Text(word.into()), from);
        if after > 0 {
            self.claim("decimals", Setting::Whole(after), from);
        }
        let all = self.fact(|fact| (*fact == FieldFact::AllDecimals).then_some(())).map(|((), place)| place);
        if let Some(place) = all.or_else(|| self.told_all_decimals()).filter(|_| after > 0) {
            self.claim("all_decimals", Setting::Flag(true), &place);
        }
        // What the words beside one field say of its decimals is so in the whole file.
        if after > 0
            && let Some((mark, place)) = self.told(|clause| decimal_mark(&clause.to_lowercase()))
            && mark == ","
            && let Some(says) = self.drafted.upload.claim("decimal_mark", Setting::Text(mark), &place)
        {
            self.ask(&says, &place);
        }
        for (fact, place) in &self.one.facts {
            match fact {
                FieldFact::Unit(unit) => self.claim("unit", Setting::Text(unit.clone()), place),
                FieldFact::Min(least) => self.claim("min", Setting::Text(least.clone()), place),
                FieldFact::Max(most) => self.claim("max", Setting::Text(most.clone()), place),
                _ => {}
            }
        }
        if self.claims.get("unit").is_none()
            && let Some((unit, place)) = self.told_unit()
        {
            self.claim("unit", Setting::Text(unit.symbol().to_owned()), &place);
        }
        if let Some((told, place)) = self.told_limits() {
            for limit in told {
                match limit {
                    FieldFact::Min(least) => self.claim("min", Setting::Text(least), &place),
                    FieldFact::Max(most) => self.claim("max", Setting::Text(most), &place),
                    FieldFact::Rule(rule) => self.take_rule(&rule, &place),
                    _ => {}
                }
            }
        }
        if let Some((total, place)) = total {
            self.largest_of_size(total, after, &place);
        }
    }

    /// How many digits may follow the point, as `said` or as the limits have it.
    fn decimals(
        &mut self,
        kind: FieldKind,
        said: Option<(u64, Place)>,
        has_length: bool,
        from: &Place,
    ) -> u64 {
        let limits = self.one.facts.iter().filter_map(|(fact, _)| match fact {
            FieldFact::Min(limit) | FieldFact::Max(limit) => Some(limit),
            _ => None,
        });
        let of_limits = limits.filter_map(|limit| Some(limit.split_once('.')?.1.len() as u64)).max();
        match (kind, said) {
            (FieldKind::Integer, Some((decimals, place))) if decimals > 0 => {
                self.ask(
                    "is a whole number by its type and has decimals by another cell; decimals were written",
                    &place,
                );
                decimals
            }
            (FieldKind::Integer, _) => 0,
            (_, Some((decimals, _))) => decimals,
            (FieldKind::Decimal, None) => {
                let decimals = of_limits.unwrap_or(2);
                let says =
                    format!("how many digits may follow the point is not said; {decimals} was written");
                self.ask(says, from);
                decimals
            }
            // A size without decimals is the size of a whole number.
            (_, None) if (has_length || self.digits().is_some()) && of_limits.is_none() => 0,
            (_, None) => {
                let decimals = of_limits.unwrap_or(0);
                let says =
                    format!("whether the number may have decimals is not said; {decimals} was written");
                self.ask(says, from);
                decimals
            }
        }
    }

    /// The largest number of so many digits, where nothing else limits it.
    fn largest_of_size(&mut self, total: u64, after: u64, place: &Place) {
        if self.claims.get("max").is_some() || total <= after || total > 28 {
            return;
        }
        let nines = |count: u64| "9".repeat(usize::try_from(count).unwrap_or(0));
        let point = if after > 0 { format!(".{}", nines(after)) } else { String::new() };
        self.claim("max", Setting::Text(format!("{}{point}", nines(total - after))), place);
        if after > 0 {
            let says = format!(
                "its size was read as {total} digits, {after} of them after the point, which makes the largest number"
            );
            self.drafted.point_out(self.name.clone(), says, place);
        }
    }

    /// Makes a limit that is not allowed itself one that is, a step further: with two decimals, more than 0 is 0.01 or more.
    pub(super) fn take_limit(&mut self, rule: &str, place: &Place) -> bool {
        let decimals = match (self.claims.text("type"), self.claims.get("decimals")) {
            (Some("integer"), _) => 0,
            (Some("decimal"), Some(Setting::Whole(decimals))) => *decimals,
            _ => return false,
        };
        let (key, sign) = if rule.contains('>') { ("min", '>') } else { ("max", '<') };
        let limit = rule.split_once(sign).and_then(|(_, limit)| Decimal::parse(limit.trim()));
        let zeros = "0".repeat(usize::try_from(decimals).unwrap_or(0));
        let step =
            if decimals == 0 { "1".to_owned() } else { format!("0.{}1", zeros.get(1..).unwrap_or_default()) };
        let step = if key == "min" { step } else { format!("-{step}") };
        let moved = limit.zip(Decimal::parse(&step)).and_then(|(limit, step)| limit.plus(step));
        let is_fine = limit.is_some_and(|limit| u64::from(limit.decimals()) <= decimals);
        match moved.filter(|_| is_fine && self.claims.get(key).is_none()) {
            Some(moved) => {
                self.claim(key, Setting::Text(moved.to_string()), place);
                true
            }
            None => false,
        }
    }

    /// The unit in brackets behind what the field is called, or by itself beside it: "Mass (kg)", "Degrees Celsius."
    fn told_unit(&self) -> Option<(&'static Unit, Place)> {
        let names = [(&self.one.name, Some(&self.one.from)), (&self.one.label, self.one.label_from.as_ref())];
        let in_brackets = names.into_iter().find_map(|(name, from)| {
            let inner = name.rsplit_once('(')?.1.split_once(')')?.0.trim();
            Some((Unit::find(inner)?, from.unwrap_or(&self.one.from).clone()))
        });
        in_brackets.or_else(|| {
            self.told(|clause| {
                Unit::find(clause).filter(|unit| clause.chars().count() > 1 || unit.symbol() == "%")
            })
        })
    }
}
