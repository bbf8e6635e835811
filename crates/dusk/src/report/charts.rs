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
    /// As CSS has it.
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
                    rect x=(begins) y="0" width=(wide) height="44" style={ "fill:" (part.colour) } {}
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
                    rect x=(LABEL) y=(y + 4) width=(WIDTH - LABEL - BEHIND) height="17" style="fill:var(--ground)" {}
                    rect x=(LABEL) y=(y + 4) width=(share(bar.count, of, WIDTH - LABEL - BEHIND)) height="17" style={ "fill:" (colour) } {}
                    text.small x=(WIDTH - BEHIND + 10) y=(y + 17) { (bar.says) }
                }
            }
        }
    }
}

/// One band of rows, and how much of it is so, from below upwards.
pub(super) struct Slice {
    pub(super) whole: u64,
    /// How many, and in which colour.
    pub(super) parts: [(u64, &'static str); 2],
}

/// Bands of rows beside one another, the first on the left, each filled from below as far as it goes.
pub(super) fn down_the_rows(slices: &[Slice], says: &str, (first, last): (String, String)) -> Markup {
    const HEIGHT: u64 = 36;
    let count = (slices.len() as u64).max(1);
    html! {
        div.figure {
            svg viewBox={ "0 0 " (WIDTH) " " (HEIGHT + 18) } role="img" aria-label=(says) {
                title { (says) }
                @for (place, slice) in (0..).zip(slices) {
                    @let x = place * WIDTH / count;
                    @let wide = (place + 1) * WIDTH / count - x;
                    rect x=(x) y="0" width=(wide.saturating_sub(1)) height=(HEIGHT) style="fill:var(--ground)" {}
                    @let below = share(slice.parts[0].0, slice.whole, HEIGHT).min(HEIGHT);
                    @let above = share(slice.parts[1].0, slice.whole, HEIGHT).min(HEIGHT - below);
                    @if below > 0 { rect x=(x) y=(HEIGHT - below) width=(wide.saturating_sub(1)) height=(below) style={ "fill:" (slice.parts[0].1) } {} }
                    @if above > 0 { rect x=(x) y=(HEIGHT - below - above) width=(wide.saturating_sub(1)) height=(above) style={ "fill:" (slice.parts[1].1) } {} }
                }
                text.small x="0" y=(HEIGHT + 14) { (first) }
                text.small x=(WIDTH) y=(HEIGHT + 14) text-anchor="end" { (last) }
            }
        }
    }
}

/// One column of a chart of columns.
pub(super) struct Column {
    pub(super) label: String,
    pub(super) count: u64,
}

/// Columns beside one another, as high as their counts, with as many labels as have room.
pub(super) fn columns(all: &[Column], says: &str) -> Markup {
    const HEIGHT: u64 = 110;
    /// How wide a letter of a label is at most.
    const LETTER: u64 = 7;
    /// How many letters of a label are shown.
    const LETTERS: usize = 11;
    let longest = all.iter().map(|column| column.label.chars().count()).max().unwrap_or(0).min(LETTERS);
    let label = (longest as u64 + 1) * LETTER;
    let most = all.iter().map(|column| column.count).max().unwrap_or(0);
    let wide = (WIDTH / (all.len() as u64).max(1)).clamp(2, 60);
    let every = label.div_ceil(wide);
    html! {
        div.figure {
            svg viewBox={ "0 0 " (WIDTH) " " (HEIGHT + 36) } role="img" aria-label=(says) {
                title { (says) }
                text.small x="0" y="12" { (super::grouped(most)) " at most" }
                @for (place, column) in (0..).zip(all) {
                    @let high = share(column.count, most, HEIGHT);
                    rect x=(place * wide) y=(18 + HEIGHT - high) width=(wide.saturating_sub(1).max(1)) height=(high) style="fill:var(--bar)" { title { (column.label) ": " (super::grouped(column.count)) } }
                    @if place % every == 0 { text.small x=(place * wide) y=(HEIGHT + 33) { (cut(&column.label, LETTERS)) } }
                }
            }
            p.quiet { (says) }
        }
    }
}

/// One column of a chart, made of parts.
pub(super) struct Stack {
    pub(super) label: String,
    pub(super) parts: Vec<Part>,
}

/// Columns made of the same parts beside one another, the first part at the bottom.
pub(super) fn stacks(all: &[Stack], says: &str) -> Markup {
    const HEIGHT: u64 = 120;
    let whole = |stack: &Stack| stack.parts.iter().map(|part| part.count).sum::<u64>();
    let most = all.iter().map(whole).max().unwrap_or(0);
    let room = WIDTH / (all.len() as u64).max(1);
    let wide = (room * 2 / 3).clamp(2, 90);
    let placed = |stack: &Stack| {
        let mut top = HEIGHT + 20;
        let pieces = stack.parts.iter().filter(|part| part.count > 0).map(|part| {
            let high = share(part.count, most, HEIGHT);
            top = top.saturating_sub(high);
            (top, high, part.colour)
        });
        pieces.collect::<Vec<_>>()
    };
    html! {
        div.figure {
            svg viewBox={ "0 0 " (WIDTH) " " (HEIGHT + 40) } role="img" aria-label=(says) {
                title { (says) }
                @for (place, stack) in (0..).zip(all) {
                    @for (y, high, colour) in placed(stack) {
                        rect x=(place * room) y=(y) width=(wide) height=(high) style={ "fill:" (colour) } {}
                    }
                    text.small x=(place * room) y=(20 + HEIGHT - share(whole(stack), most, HEIGHT) - 5) { (super::grouped(whole(stack))) }
                    text.small x=(place * room) y=(HEIGHT + 36) { (cut(&stack.label, 12)) }
                }
            }
            ul.key { @for part in all.first().iter().flat_map(|stack| &stack.parts) {
                li { span style={ "background:" (part.colour) } {} (part.name) }
            } }
            p.quiet { (says) }
        }
    }
}
