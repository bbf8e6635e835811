//! The pictures of the page, as inline SVG with their meaning in words, so that a screen reader and a printer
//! without colours show the same. Lengths are whole units of the picture; there are no fractions to round.

use maud::{Markup, html};

use crate::show::cut;

/// How wide a picture is, in units of its own.
const WIDTH: u64 = 900;

/// One part of a whole.
pub(super) struct Part {
    pub(super) name: &'static str,
    pub(super) count: u64,
    pub(super) colour: &'static str,
}

/// How much of the width a count takes; at least a line where there is any.
fn share(count: u64, of: u64, width: u64) -> u64 {
    let share = count.saturating_mul(width).checked_div(of).unwrap_or(0);
    if count > 0 { share.max(2) } else { 0 }
}

/// A bar parted by what became of the rows.
pub(super) fn outcome_bar(parts: &[Part], says: &str) -> Markup {
    let whole: u64 = parts.iter().map(|part| part.count).sum();
    let mut at = 0;
    let pieces: Vec<(u64, u64, &Part)> = parts
        .iter()
        .filter(|part| part.count > 0)
        .map(|part| {
            let wide = share(part.count, whole, WIDTH);
            let begins = at;
            at += wide;
            (begins, wide, part)
        })
        .collect();
    html! {
        div.figure {
            svg viewBox={ "0 0 " (WIDTH) " 44" } role="img" aria-label=(says) {
                title { (says) }
                @for (begins, wide, part) in &pieces {
                    rect x=(begins) y="0" width=(wide) height="44" fill=(part.colour) {}
                }
            }
            ul.key {
                @for part in parts {
                    li { span style={ "background:" (part.colour) } {} (super::grouped(part.count)) " " (part.name) }
                }
            }
        }
    }
}

/// One bar of a ranked chart.
pub(super) struct Bar {
    pub(super) label: String,
    pub(super) count: u64,
    /// What stands behind the bar.
    pub(super) says: String,
}

/// Bars below one another, each as long as its count, with its name before it.
pub(super) fn bars(bars: &[Bar], of: u64, colour: &str, says: &str) -> Markup {
    const LABEL: u64 = 330;
    const BEHIND: u64 = 150;
    /// How many columns of text have room there, wide letters among them.
    const MOST: usize = 40;
    const LINE: u64 = 26;
    let height = LINE * bars.len() as u64;
    html! {
        div.figure {
            svg viewBox={ "0 0 " (WIDTH) " " (height) } role="img" aria-label=(says) {
                title { (says) }
                @for (y, bar) in (0..).map(|place: u64| place * LINE).zip(bars) {
                    text x=(LABEL - 10) y=(y + 17) text-anchor="end" { (cut(&bar.label, MOST)) }
                    rect x=(LABEL) y=(y + 4) width=(WIDTH - LABEL - BEHIND) height="17" fill="#eef1f5" {}
                    rect x=(LABEL) y=(y + 4) width=(share(bar.count, of, WIDTH - LABEL - BEHIND)) height="17" fill=(colour) {}
                    text.small x=(WIDTH - BEHIND + 10) y=(y + 17) { (bar.says) }
                }
            }
        }
    }
}
