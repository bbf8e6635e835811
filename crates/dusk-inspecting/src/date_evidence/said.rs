//! What the evidence of a column's dates comes to, in words for whoever has to decide.

use super::judge::Judgement;
use super::{Block, DateEvidence, OrderCount, Spoken};
use crate::DateShape;
use dusk_evidence::{Claim, ColumnClaim, Evidence, Example, Id as _, Reading, Verdict};
use dusk_values::DateOrder;

/// Which dates evidence is about.
#[derive(Debug, Clone, Copy)]
pub struct DatesOf<'o> {
    /// Their column, or what they are made of.
    pub column: &'o str,
    /// The field that they feed.
    pub field: &'o str,
    /// The column feeds the field by itself.
    pub by_itself: bool,
}

impl DatesOf<'_> {
    /// The first lines of the `[[map]]`.
    fn head(&self) -> Vec<String> {
        let from = self.by_itself.then(|| format!("from  = \"{}\"", self.column));
        ["[[map]]".to_owned(), format!("field = \"{}\"", self.field)].into_iter().chain(from).collect()
    }
}

impl DateEvidence {
    /// The evidence for the order of these dates. `sources` are the sources' names, used where there
    /// are several.
    pub fn evidence(&self, of: DatesOf<'_>, sources: &[String]) -> Evidence {
        let judgement = self.judge();
        let possible = self.possible_orders();
        let words = possible.iter().map(|word| format!("\"{word}\"")).collect::<Vec<_>>().join(" or ");
        let ask = format!("order = …   # {words}");
        let head = of.head();
        let (verdict, settle) = match &judgement {
            Judgement::NotNeeded => (Verdict::NotNeeded, Vec::new()),
            Judgement::Proven(order) => {
                (Verdict::Proven(order.word().into()), vec![format!("order = \"{}\"", order.word())])
            }
            Judgement::Undecided => (Verdict::Undecided(possible), [head, vec![ask]].concat()),
            Judgement::HiddenHalf(shapes) => self.hidden_half(shapes, head, &words),
            Judgement::Half(order, shapes) => half_converted(*order, shapes, head),
            Judgement::Contradicted => self.contradiction(head, ask),
        };
        let claim = Claim::Column(ColumnClaim::DateOrder, of.column.to_owned());
        let mut evidence = Evidence::new(claim, verdict);
        evidence.settle = settle;
        evidence.readings = self.readings(sources, &judgement);
        if matches!(judgement, Judgement::Undecided | Judgement::HiddenHalf(_)) {
            evidence.suggests = self.suggestions();
        }
        evidence
    }

    /// The words of the orders that some value allows.
    fn possible_orders(&self) -> Vec<String> {
        let allows = |place: usize| {
            let counts = self.groups.iter().filter_map(|group| group.orders.get(place));
            counts.into_iter().any(|count| count.proof.is_some() || count.possible.is_some())
        };
        let orders = DateOrder::ALL.iter().enumerate().filter(|(place, _)| allows(*place));
        orders.map(|(_, order)| order.word().to_owned()).collect()
    }

    /// Shapes without a proof, which a program may have made of dates beside them.
    fn hidden_half(&self, shapes: &[DateShape], head: Vec<String>, words: &str) -> (Verdict, Vec<String>) {
        let named: Vec<String> = shapes.iter().map(ToString::to_string).collect();
        let says = format!(
            "dates like {} prove no order of their own, and those beside them always have a part above 12, so a program may have converted some of them",
            named.join(" and ")
        );
        let base = self.blocks.first().map_or("…", |block| block.order.word());
        let each: Vec<String> =
            shapes.iter().map(|shape| format!("{{ shape = \"{}\", order = … }}", shape.word())).collect();
        let lines =
            vec![format!("order = \"{base}\""), format!("order_where = [{}]   # {words}", each.join(", "))];
        (Verdict::HalfConverted(says), [head, lines].concat())
    }

    /// Blocks of rows that disagree, if there are few of them.
    fn contradiction(&self, head: Vec<String>, ask: String) -> (Verdict, Vec<String>) {
        let in_blocks = self.blocks.len() <= 8 && self.blocks.iter().all(|block| block.count > 1);
        if !in_blocks {
            return (Verdict::Contradicted(self.proofs()), [head, vec![ask]].concat());
        }
        let rows = |block: &Block| format!("{}-{}", block.first, block.last);
        let says =
            self.blocks.iter().map(|block| format!("rows {} {}", rows(block), block.order.word())).collect();
        let each: Vec<String> = self
            .blocks
            .iter()
            .map(|block| format!("{{ rows = \"{}\", order = \"{}\" }}", rows(block), block.order.word()))
            .collect();
        let lines =
            vec![format!("order_where = [{}]   # widen to the row where it changes", each.join(", "))];
        (Verdict::Contradicted(says), [head, lines].concat())
    }

    /// How many values prove each order.
    fn proofs(&self) -> Vec<String> {
        let count = |order: &DateOrder| {
            let blocks = self.blocks.iter().filter(|block| block.order == *order);
            (*order, blocks.map(|block| block.count).sum::<u64>())
        };
        let counts = DateOrder::ALL.iter().map(count).filter(|(_, count)| *count > 0);
        let values = |count: u64| if count == 1 { "value proves" } else { "values prove" };
        counts.map(|(order, count)| format!("{count} {} {}", values(count), order.word())).collect()
    }

    fn readings(&self, sources: &[String], judgement: &Judgement) -> Vec<Reading> {
        let example = |spoken: &Spoken| spoken.example(sources);
        let is_proven = matches!(judgement, Judgement::Proven(_));
        let orders = DateOrder::ALL.into_iter().enumerate();
        let mut readings: Vec<Reading> =
            orders.filter_map(|(place, order)| self.reading(place, order, is_proven, &example)).collect();
        match self.undecided() {
            0 => {}
            1 => readings.push(counted(1, "value fits more than one order")),
            more => readings.push(counted(more, "values fit more than one order")),
        }
        let others = [
            (self.named_months, "values name the month"),
            (self.partial, "values are a part of a date only"),
            (self.others, "values are not dates"),
        ];
        let met = others.into_iter().filter(|(count, _)| *count > 0);
        readings.extend(met.map(|(count, says)| counted(count, says)));
        match judgement {
            Judgement::HiddenHalf(shapes) => readings.extend(self.unproven_shapes(shapes, &example)),
            Judgement::Half(..) => readings.extend(self.swappable_shapes(&example)),
            _ => {}
        }
        readings
    }

    /// Shapes that prove no order of their own.
    fn unproven_shapes(&self, shapes: &[DateShape], example: &dyn Fn(&Spoken) -> Example) -> Vec<Reading> {
        let groups = self.settled_groups();
        let unproven = groups.iter().filter(|group| shapes.contains(&group.shape));
        unproven
            .map(|group| Reading {
                name: format!("like {}", group.shape),
                examples: (group.orders.iter())
                    .filter_map(|count| count.possible.as_ref())
                    .map(example)
                    .collect(),
                ..counted(group.undecided, "values, none with a part above 12")
            })
            .collect()
    }

    /// Shapes whose day and month a program may have swapped.
    fn swappable_shapes(&self, example: &dyn Fn(&Spoken) -> Example) -> Vec<Reading> {
        let swappable = self.groups.iter().filter(|group| group.small > 0);
        swappable
            .map(|group| Reading {
                name: if group.shape.typed { "typed".to_owned() } else { format!("like {}", group.shape) },
                examples: group.first_small.iter().map(example).collect(),
                ..counted(group.small, "values, none with a day above 12")
            })
            .collect()
    }

    /// What speaks for one order; nothing where nothing does.
    fn reading(
        &self,
        place: usize,
        order: DateOrder,
        is_proven: bool,
        example: &dyn Fn(&Spoken) -> Example,
    ) -> Option<Reading> {
        let counts: Vec<&OrderCount> =
            self.groups.iter().filter_map(|group| group.orders.get(place)).collect();
        let only: u64 = counts.iter().map(|count| count.only).sum();
        let first = |pick: fn(&OrderCount) -> Option<&Spoken>| {
            counts.iter().filter_map(|count| pick(count)).min_by_key(|spoken| (spoken.source, spoken.row))
        };
        let proof = first(|count| count.proof.as_ref());
        let possible = first(|count| count.possible.as_ref());
        if only == 0 && (possible.is_none() || is_proven) {
            return None;
        }
        let all = self.groups.iter().flat_map(|group| group.orders.iter().enumerate());
        let counted = if only == 1 { "value allows no other order" } else { "values allow no other order" };
        Some(Reading {
            name: order.word().into(),
            supports: only,
            contradicts: all.filter(|(other, _)| *other != place).map(|(_, count)| count.only).sum(),
            counted: counted.into(),
            examples: proof.or(possible).map(example).into_iter().collect(),
            against: Vec::new(),
        })
    }

    /// What else points one way.
    fn suggestions(&self) -> Vec<String> {
        let mut suggestions = Vec::new();
        let forward = |place: &usize| {
            self.steps.get(*place).is_some_and(|(forward, steps)| *steps >= 5 && forward * 10 >= steps * 9)
        };
        // That speaks for an order only if the others make the dates jump.
        let going: Vec<usize> = (0..DateOrder::ALL.len()).filter(forward).collect();
        if let [only] = going.as_slice()
            && let (Some(order), Some((forward, steps))) = (DateOrder::ALL.get(*only), self.steps.get(*only))
        {
            suggestions.push(format!(
                "the dates go forward down the file only when read as {} ({forward} of {steps} steps)",
                order.word()
            ));
        }
        for (order, outside) in DateOrder::ALL.iter().zip(self.outside).filter(|(_, outside)| *outside > 0) {
            suggestions.push(format!(
                "read as {}, {outside} would be outside the dictionary's limits",
                order.word()
            ));
        }
        suggestions
    }
}

fn counted(supports: u64, says: &str) -> Reading {
    Reading { supports, counted: says.into(), ..Reading::default() }
}

/// Dates that a spreadsheet program read with day and month swapped, beside texts that it could not read.
fn half_converted(order: DateOrder, shapes: &[DateShape], head: Vec<String>) -> (Verdict, Vec<String>) {
    let name = |shape: &DateShape| match shape.typed {
        true => "typed dates".into(),
        false => format!("dates like {shape}"),
    };
    let named: Vec<String> = shapes.iter().map(name).collect();
    let says = format!(
        "all {} have a day of 12 or less, and all texts a part above 12, so a spreadsheet program swapped day and month in the first",
        named.join(" and ")
    );
    let each: Vec<String> = shapes
        .iter()
        .map(|shape| format!("{{ shape = \"{}\", order = \"year-day-month\" }}", shape.word()))
        .collect();
    let lines = vec![
        format!("order = \"{}\"", order.word()),
        format!("order_where = [{}]   # undoes it, row by row", each.join(", ")),
    ];
    (Verdict::HalfConverted(says), [head, lines].concat())
}

impl Spoken {
    /// The value with its place; the source is named where there are several.
    pub(super) fn example(&self, sources: &[String]) -> Example {
        let source = match sources {
            [_, _, ..] => format!("{}, ", sources.get(self.source.index()).map_or("", String::as_str)),
            _ => String::new(),
        };
        Example {
            place: format!("{source}row {}", self.row.with_line(self.line)),
            value: self.value.clone(),
            reads: self.reads.clone(),
        }
    }
}
