//! What the sent records come to, field by field, for people.

use dusk_core::run::{BatchLimit, FieldTotal};
use dusk_core::values::shown;

use super::layout::{behind, columns, counted, cut, grouped, padded};
use super::style::{NAME, WRONG, styled};
use super::visible::visible;

/// How many codes of a field are named.
const MOST_CODES: usize = 8;

/// A line for each field: its name, and what it comes to.
pub(crate) fn field_totals(totals: &[&FieldTotal]) -> String {
    /// How wide a name may get.
    const WIDEST: usize = 30;
    let widest = totals.iter().map(|total| columns(&total.field)).max().unwrap_or(0).min(WIDEST);
    let line = |total: &&FieldTotal| {
        let name = padded(&cut(&visible(&total.field), widest), widest);
        behind(&format!("  {}  ", styled(NAME, &name)), widest + 4, &total_words(total))
    };
    totals.iter().map(line).collect()
}

/// A line for each rule over the whole batch: what it comes to beside what must hold.
pub(crate) fn limit_lines(limits: &[BatchLimit]) -> String {
    let line = |limit: &BatchLimit| {
        let (sum, must) = (limit.reckoned.join(", "), visible(&limit.must));
        let says = format!("{}: {sum}; must be {must}", visible(&limit.rule));
        format!("  {}\n", if limit.is_broken { styled(WRONG, &says) } else { says })
    };
    limits.iter().map(line).collect()
}

/// What a field comes to, in words.
pub(crate) fn total_words(total: &FieldTotal) -> String {
    let filled = format!("in {}", counted(total.filled, "record"));
    if total.filled == 0 {
        return "blank in every record".into();
    }
    let range = total.least.as_deref().zip(total.most.as_deref()).map(|(least, most)| match least == most {
        true => format!("{} throughout", day(least)),
        false => format!("from {} to {}", day(least), day(most)),
    });
    let mut parts = Vec::new();
    parts.extend(total.sum.as_ref().map(|sum| format!("sum {sum}")));
    parts.push(filled);
    parts.extend(range);
    let mut counts: Vec<(&String, &u64)> = total.counts.iter().collect();
    counts.sort_by(|(a, many), (b, more)| more.cmp(many).then(a.cmp(b)));
    parts.extend(
        counts.iter().take(MOST_CODES).map(|(code, count)| format!("{} {}", visible(code), grouped(**count))),
    );
    let more = counts.len().saturating_sub(MOST_CODES);
    if more > 0 {
        parts.push(format!("{more} more codes"));
    }
    if total.others > 0 {
        parts.push("too many codes to count them one by one".into());
    }
    parts.join(", ")
}

/// A day as people write it; a number, or a moment, as it is.
fn day(text: &str) -> String {
    text.parse().map_or_else(|_| text.to_owned(), shown)
}
