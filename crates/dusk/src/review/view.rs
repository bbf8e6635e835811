//! The review screen as it is drawn, at any size and with or without colours. Nothing is said by colour alone:
//! what is at hand has a mark before it, what is faulty another.

use std::borrow::Cow;

use ratatui::Frame;
use ratatui::layout::{Constraint, Layout, Rect};
use ratatui::style::{Color, Modifier, Style};
use ratatui::text::{Line, Span};
use ratatui::widgets::{Block, Borders, Clear, Paragraph, Wrap};
use unicode_width::UnicodeWidthStr as _;

use super::desk::Desk;
use super::room::{Wants, shared};
use super::state::{Item, Mode, Pane, Screen};
use super::typing::Typing;
use crate::show::{cut, visible, wrapped};
use dusk_core::evidence::{ColumnId, Id as _};

/// From which width on the record and the answers stand side by side.
const WIDE: u16 = 120;

/// How things look.
struct Looks {
    colours: bool,
}

impl Looks {
    fn of(&self, colour: Color) -> Style {
        if self.colours { Style::default().fg(colour) } else { Style::default() }
    }

    fn wrong(&self) -> Style {
        self.of(Color::Red).add_modifier(Modifier::BOLD)
    }

    fn good(&self) -> Style {
        self.of(Color::Green)
    }

    fn command(&self) -> Style {
        self.of(Color::Cyan)
    }

    fn quiet(&self) -> Style {
        Style::default().add_modifier(Modifier::DIM)
    }

    fn at_hand(&self, has_keys: bool) -> Style {
        let style = Style::default().add_modifier(Modifier::BOLD);
        if has_keys { style.add_modifier(Modifier::REVERSED) } else { style }
    }
}

/// Draws the screen.
pub(super) fn draw(frame: &mut Frame<'_>, screen: &Screen, desk: &Desk, colours: bool) {
    draw_all(frame, screen, desk, colours);
    // Whatever stands in a file or its name, nothing of it acts or hides.
    for cell in &mut frame.buffer_mut().content {
        if let Cow::Owned(seen) = visible(cell.symbol()) {
            let mark = seen.chars().next().map_or_else(String::new, String::from);
            cell.set_symbol(&mark);
        }
    }
}

fn draw_all(frame: &mut Frame<'_>, screen: &Screen, desk: &Desk, colours: bool) {
    let looks = Looks { colours };
    let [head, body, message, keys] = Layout::vertical([
        Constraint::Length(1),
        Constraint::Min(3),
        Constraint::Length(1),
        Constraint::Length(1),
    ])
    .areas(frame.area());
    draw_head(frame, head, desk, &looks);
    let left = causes_width(screen, body.width);
    let [causes, rest] =
        Layout::horizontal([Constraint::Length(left), Constraint::Min(20)]).spacing(1).areas(body);
    draw_causes(frame, causes, screen, &looks);
    let none = Item::default();
    let item = screen.item().unwrap_or(&none);
    let rows = Wants::lines(3, item.rows.len());
    let cells = Wants::lines(5, screen.width.saturating_sub(1));
    // A small screen shows the dictionary's words where there are no answers.
    if body.width >= WIDE {
        let [middle, right] =
            Layout::horizontal([Constraint::Percentage(56), Constraint::Min(30)]).spacing(2).areas(rest);
        let says = Wants::lines(3, wrapped_lines(&says_of(item), middle.width) + 1);
        let heights = shared(middle.height, [says, rows, cells]).map(Constraint::Length);
        let [says, rows, cells] = Layout::vertical(heights).areas(middle);
        draw_says(frame, says, screen, &looks);
        draw_rows(frame, rows, screen, desk, &looks);
        draw_cells(frame, cells, screen, desk, &looks);
        let entry: usize = item.entry.iter().map(|line| wrapped_lines(line, right.width)).sum();
        let answers = Wants::lines(6, item.answers.len());
        let heights = shared(right.height, [answers, Wants::lines(3, entry)]).map(Constraint::Length);
        let [answers, entry] = Layout::vertical(heights).areas(right);
        draw_answers(frame, answers, screen, &looks);
        draw_entry(frame, entry, screen, &looks);
    } else {
        let answers = if item.answers.is_empty() { item.entry.len() } else { item.answers.len() };
        let says = Wants::lines(3, wrapped_lines(&says_of(item), rest.width).min(3) + 1);
        let wants = [says, rows, cells, Wants::lines(4, answers)];
        let [says, rows, cells, answers] =
            Layout::vertical(shared(rest.height, wants).map(Constraint::Length)).areas(rest);
        draw_says(frame, says, screen, &looks);
        draw_rows(frame, rows, screen, desk, &looks);
        draw_cells(frame, cells, screen, desk, &looks);
        draw_answers(frame, answers, screen, &looks);
    }
    frame
        .render_widget(Paragraph::new(visible(&screen.message).into_owned()).style(looks.command()), message);
    frame.render_widget(Paragraph::new(keys_of(screen)).style(looks.quiet()), keys);
    match &screen.mode {
        Mode::Choose { typed, at } => draw_choice(frame, screen, (typed, *at), &looks),
        Mode::Write { column, typing } => draw_writing(frame, desk, screen, (*column, typing), &looks),
        Mode::Jump { typing } => draw_jump(frame, typing, &looks),
        Mode::Around(lines) => draw_around(frame, lines),
        Mode::Help => draw_help(frame, &looks),
        Mode::Look => {}
    }
}

/// How wide the list of causes is: as wide as its longest line, and no more than there is room for.
fn causes_width(screen: &Screen, whole: u16) -> u16 {
    /// The mark and the number of rows before each.
    const BEFORE: usize = 9;
    let longest = screen.items.iter().map(|item| item.label.width()).max().unwrap_or(0) + BEFORE;
    let most = (whole * 2 / 5).clamp(28, 72);
    u16::try_from(longest).unwrap_or(u16::MAX).clamp(28, most)
}

/// What is wrong, and what settles it elsewhere.
fn says_of(item: &Item) -> String {
    let elsewhere = if item.elsewhere.is_empty() { String::new() } else { format!(" {}", item.elsewhere) };
    format!("{}{elsewhere}", item.says)
}

/// How many lines a text takes in so many columns, about.
fn wrapped_lines(text: &str, room: u16) -> usize {
    let room = usize::from(room).max(1);
    wrapped(text, room, 0).iter().map(|line| line.width().div_ceil(room).max(1)).sum()
}

fn keys_of(screen: &Screen) -> &'static str {
    match screen.mode {
        Mode::Look if !screen.marked.is_empty() => {
            " s settle all that are marked  b blank  k keep out  Space mark  m no marks  q quit"
        }
        Mode::Look => " ↑↓ Tab move  s settle  e edit  b blank  k keep out  u undo  ? keys  q quit",
        Mode::Choose { .. } => " type to search  ↑↓ choose  Enter settle  Esc back",
        Mode::Write { .. } => " type the value  ←→ move  Ctrl+U clear  Enter record  Esc back",
        Mode::Jump { .. } => " type the number of a row, or a key  Enter go there  Esc back",
        Mode::Help | Mode::Around(_) => " any key to go back",
    }
}

fn draw_head(frame: &mut Frame<'_>, area: Rect, desk: &Desk, looks: &Looks) {
    let names: Vec<&str> = desk.loaded.sources.iter().map(|source| source.name.as_str()).collect();
    /// How many steps there are towards nothing left.
    const STEPS: usize = 10;
    let left = desk.review.left();
    let done = desk.began_with.saturating_sub(left) * STEPS as u64;
    let settled = done.checked_div(desk.began_with).and_then(|steps| usize::try_from(steps).ok());
    let settled = settled.unwrap_or(STEPS).min(STEPS);
    let decisions = match desk.decisions() {
        0 => String::new(),
        1 => ", 1 decision".to_owned(),
        count => format!(", {count} decisions"),
    };
    let line = Line::from(vec![
        Span::styled(
            format!(" {} ", visible(&names.join(", "))),
            Style::default().add_modifier(Modifier::BOLD),
        ),
        Span::styled("█".repeat(settled), looks.good()),
        Span::styled("░".repeat(STEPS - settled), looks.quiet()),
        Span::raw(format!(" {} rejected, ", desk.began_with)),
        Span::styled(format!("{left} left"), if left == 0 { looks.good() } else { looks.wrong() }),
        Span::raw(decisions),
        Span::styled(format!("  for {}", visible(&desk.loaded.target.name)), looks.quiet()),
    ]);
    frame.render_widget(Paragraph::new(line), area);
}

/// A pane with its name; the one that has the keys is marked.
fn pane<'t>(name: &'t str, has_keys: bool, looks: &Looks) -> Block<'t> {
    let title = if has_keys { format!("▸ {name} ") } else { format!("  {name} ") };
    let style = if has_keys { Style::default().add_modifier(Modifier::BOLD) } else { looks.quiet() };
    Block::new().borders(Borders::TOP).border_style(looks.quiet()).title(Span::styled(title, style))
}

/// Draws the lines of a list around the one at hand.
fn draw_list(
    frame: &mut Frame<'_>,
    area: Rect,
    block: Block<'_>,
    (count, at): (usize, usize),
    line: &dyn Fn(usize) -> Line<'static>,
) {
    let inside = block.inner(area);
    let height = usize::from(inside.height);
    let first = at.saturating_sub(height / 2).min(count.saturating_sub(height));
    let lines: Vec<Line<'_>> = (first..count.min(first + height)).map(line).collect();
    frame.render_widget(Paragraph::new(lines).block(block), area);
}

fn draw_causes(frame: &mut Frame<'_>, area: Rect, screen: &Screen, looks: &Looks) {
    let has_keys = screen.pane == Pane::Causes;
    let line = |place: usize| {
        let Some(item) = screen.items.get(place) else { return Line::default() };
        let left = item.rows.len();
        let mark = match (place == screen.at, screen.marked.contains(&place)) {
            (true, true) => '◆',
            (true, false) => '▸',
            (false, true) => '◇',
            (false, false) => ' ',
        };
        let count = if left == 0 { "   ✓".to_owned() } else { format!("{left:>4}") };
        let room = usize::from(area.width).saturating_sub(6);
        let label = if item.label.width() <= room { &item.label } else { &item.short };
        let text = cut(&format!("{mark}{count} {label}"), usize::from(area.width));
        let style = match (place == screen.at, left) {
            (true, _) => looks.at_hand(has_keys),
            (false, 0) => looks.good(),
            (false, _) => Style::default(),
        };
        Line::styled(text, style)
    };
    draw_list(frame, area, pane("Causes", has_keys, looks), (screen.items.len(), screen.at), &line);
}

fn draw_says(frame: &mut Frame<'_>, area: Rect, screen: &Screen, looks: &Looks) {
    let (label, says) =
        screen.item().map_or_else(Default::default, |item| (item.label.clone(), says_of(item)));
    let lines = vec![Line::styled(label, Style::default().add_modifier(Modifier::BOLD)), Line::raw(says)];
    let block = Block::new().borders(Borders::TOP).border_style(looks.quiet());
    frame.render_widget(Paragraph::new(lines).wrap(Wrap { trim: true }).block(block), area);
}

fn draw_rows(frame: &mut Frame<'_>, area: Rect, screen: &Screen, desk: &Desk, looks: &Looks) {
    let has_keys = screen.pane == Pane::Rows;
    let none = Item::default();
    let item = screen.item().unwrap_or(&none);
    let several = desk.loaded.sources.len() > 1;
    let line = |place: usize| {
        let Some(row) = item.rows.get(place).and_then(|row| desk.review.rows.get(*row)) else {
            return Line::default();
        };
        let mark = if place == screen.row { '▸' } else { ' ' };
        let value = item
            .cells
            .get(place)
            .copied()
            .flatten()
            .and_then(|column| row.cells.get(column.index()))
            .map_or("", String::as_str);
        let source = match desk.loaded.sources.get(row.source.index()) {
            Some(source) if several => format!(" of {}", source.name),
            _ => String::new(),
        };
        let others = row.findings.len().saturating_sub(1);
        let more = if others > 0 { format!("  and {others} more") } else { String::new() };
        let text = format!("{mark} row {}{source}  {}{more}", row.row, visible(value));
        let style = if place == screen.row { looks.at_hand(has_keys) } else { Style::default() };
        Line::styled(text, style)
    };
    let name = format!("Rows with it: {}", item.rows.len());
    draw_list(frame, area, pane(&name, has_keys, looks), (item.rows.len(), screen.row), &line);
}

fn draw_cells(frame: &mut Frame<'_>, area: Rect, screen: &Screen, desk: &Desk, looks: &Looks) {
    let has_keys = screen.pane == Pane::Cells;
    let row = screen.row().and_then(|place| desk.review.rows.get(place));
    let Some(row) = row else {
        let says = if desk.review.left() == 0 { "Nothing is left." } else { "No row has it any more." };
        let block = pane("Record", has_keys, looks);
        frame.render_widget(Paragraph::new(says).block(block), area);
        return;
    };
    let columns = desk.loaded.sources.get(row.source.index()).map(|source| &source.columns);
    let faulty = faulty_columns(desk, row);
    let widest = columns
        .map_or(0, |columns| columns.iter().map(|name| name.chars().count()).max().unwrap_or(0).min(22));
    let line = |place: usize| {
        let heading = columns.and_then(|columns| columns.get(place)).map_or("", String::as_str);
        let value = row.cells.get(place).map_or("", String::as_str);
        let is_faulty = faulty.contains(&ColumnId::new(place));
        let mark = if place == screen.cell { '▸' } else { ' ' };
        let fault = if is_faulty { '!' } else { ' ' };
        let heading: String = heading.chars().take(widest).collect();
        let style = match (place == screen.cell, is_faulty) {
            (true, _) => looks.at_hand(has_keys),
            (false, true) => looks.wrong(),
            (false, false) => Style::default(),
        };
        Line::styled(format!("{mark}{fault}{heading:<widest$}  {}", visible(value)), style)
    };
    let name = format!("Record in row {}", row.row);
    draw_list(frame, area, pane(&name, has_keys, looks), (screen.width, screen.cell), &line);
}

/// The columns of a row that its findings are about.
fn faulty_columns(desk: &Desk, row: &dusk_core::run::ReviewRow) -> Vec<ColumnId> {
    let source = desk.loaded.sources.get(row.source.index());
    let headings = row
        .findings
        .iter()
        .filter_map(|finding| Some(desk.loaded.mapping.headings_for(finding.field?, &finding.repeat)));
    headings.flatten().filter_map(|heading| source?.column(&heading)).collect()
}

fn draw_entry(frame: &mut Frame<'_>, area: Rect, screen: &Screen, looks: &Looks) {
    let lines: Vec<Line<'_>> = screen
        .item()
        .map(|item| item.entry.iter().map(|line| Line::raw(visible(line).into_owned())).collect())
        .unwrap_or_default();
    let block = pane("Dictionary", false, looks);
    frame.render_widget(Paragraph::new(lines).wrap(Wrap { trim: false }).block(block), area);
}

fn draw_answers(frame: &mut Frame<'_>, area: Rect, screen: &Screen, looks: &Looks) {
    let mut lines: Vec<Line<'_>> = Vec::new();
    if let Some(item) = screen.item() {
        for answer in &item.answers {
            let (look, why) = match answer.why.as_str() {
                "" => (Style::default(), String::new()),
                why => (looks.command(), format!("  {why}")),
            };
            let text = visible(&answer.shown).into_owned();
            lines.push(Line::from(vec![Span::styled(text, look), Span::styled(why, looks.quiet())]));
        }
        if lines.is_empty() {
            // On a small screen the dictionary's words stand here.
            lines.extend(item.entry.iter().map(|line| Line::raw(visible(line).into_owned())));
        }
    }
    let block = pane("What it may be", false, looks);
    frame.render_widget(Paragraph::new(lines).block(block), area);
}

/// A window over the screen.
fn window(frame: &mut Frame<'_>, title: &str, (width, height): (u16, u16)) -> Rect {
    let whole = frame.area();
    let (width, height) = (width.min(whole.width), height.min(whole.height));
    let area = Rect {
        x: whole.x + (whole.width - width) / 2,
        y: whole.y + (whole.height - height) / 2,
        width,
        height,
    };
    frame.render_widget(Clear, area);
    let block = Block::bordered().title(format!(" {title} "));
    let inside = block.inner(area);
    frame.render_widget(block, area);
    inside
}

fn draw_choice(frame: &mut Frame<'_>, screen: &Screen, (typed, at): (&str, Option<usize>), looks: &Looks) {
    let answers = screen.answers(typed);
    let title = match screen.marked.len() {
        0 | 1 => screen.item().map_or_else(String::new, |item| format!("{} is", item.label)),
        several => format!("each of the {several} marked values is"),
    };
    let height =
        u16::try_from(answers.len()).unwrap_or(u16::MAX).clamp(4, frame.area().height.max(12) - 8) + 4;
    let inside = window(frame, &title, (76, height));
    let [search, list] = Layout::vertical([Constraint::Length(2), Constraint::Min(1)]).areas(inside);
    let asks = if screen.item().is_some_and(|item| item.takes_text) {
        "value as the target writes it"
    } else {
        "search"
    };
    let line = Line::from(vec![
        Span::styled(format!("{asks}: "), looks.quiet()),
        Span::styled(format!("{}▏", visible(typed)), Style::default().add_modifier(Modifier::BOLD)),
        Span::styled(found_of(answers.len(), screen), looks.quiet()),
    ]);
    frame.render_widget(Paragraph::new(line), search);
    let line = |place: usize| {
        let Some(answer) = answers.get(place) else { return Line::default() };
        let mark = if at == Some(place) { '▸' } else { ' ' };
        let why = if answer.why.is_empty() { String::new() } else { format!("   {}", answer.why) };
        let style = if at == Some(place) { looks.at_hand(true) } else { Style::default() };
        Line::styled(format!("{mark} {}{why}", visible(&answer.shown)), style)
    };
    if answers.is_empty() {
        frame.render_widget(Paragraph::new("nothing in the list is like that"), list);
    } else {
        draw_list(frame, list, Block::new(), (answers.len(), at.unwrap_or(0)), &line);
    }
}

/// How many of the answers are listed, where some are not.
fn found_of(found: usize, screen: &Screen) -> String {
    let all = screen.item().map_or(0, |item| item.answers.len());
    if found < all { format!("  {found} of {all}") } else { String::new() }
}

fn draw_jump(frame: &mut Frame<'_>, typing: &Typing, looks: &Looks) {
    const ASKS: &str = "go to: ";
    let inside = window(frame, "A row by its number, or a part of its key", (60, 4));
    let (before, behind) = typing.in_view(usize::from(inside.width).saturating_sub(ASKS.len()));
    let bold = Style::default().add_modifier(Modifier::BOLD);
    let line = Line::from(vec![
        Span::styled(ASKS, looks.quiet()),
        Span::styled(visible(&before).into_owned(), bold),
        Span::raw("▏"),
        Span::styled(visible(&behind).into_owned(), bold),
    ]);
    frame.render_widget(Paragraph::new(line), inside);
}

fn draw_around(frame: &mut Frame<'_>, lines: &[String]) {
    let (width, height) = (frame.area().width.saturating_sub(4), frame.area().height.saturating_sub(2));
    let paragraph = Paragraph::new(lines.iter().map(|line| Line::raw(line.clone())).collect::<Vec<_>>())
        .wrap(Wrap { trim: false });
    let wanted: usize = lines.iter().map(|line| wrapped_lines(line, width.saturating_sub(2))).sum();
    let wanted = u16::try_from(wanted).unwrap_or(u16::MAX);
    let inside = window(frame, "The row as it is", (width, wanted.saturating_add(2).min(height)));
    frame.render_widget(paragraph, inside);
}

fn draw_writing(
    frame: &mut Frame<'_>,
    desk: &Desk,
    screen: &Screen,
    (column, typing): (ColumnId, &Typing),
    looks: &Looks,
) {
    let row = screen.row().and_then(|place| desk.review.rows.get(place));
    let source = row.and_then(|row| desk.loaded.sources.get(row.source.index()));
    let heading = source.map_or("", |source| source.heading(column));
    let title = row.map_or_else(String::new, |row| format!("row {}, {heading}", row.row));
    let was = row.map_or("", |row| row.exported(column));
    let inside = window(frame, &title, (76, 6));
    const ASKS: &str = "to be read: ";
    let (before, behind) = typing.in_view(usize::from(inside.width).saturating_sub(ASKS.len()));
    let bold = Style::default().add_modifier(Modifier::BOLD);
    let lines = vec![
        Line::styled(format!("the source has: {}", visible(was)), looks.quiet()),
        Line::raw(""),
        Line::from(vec![
            Span::styled(ASKS, looks.quiet()),
            Span::styled(visible(&before).into_owned(), bold),
            Span::raw("▏"),
            Span::styled(visible(&behind).into_owned(), bold),
        ]),
    ];
    frame.render_widget(Paragraph::new(lines), inside);
}

fn draw_help(frame: &mut Frame<'_>, looks: &Looks) {
    const HELP: [(&str, &str); 15] = [
        ("↑ ↓ PgUp PgDn", "move in the pane that is marked ▸"),
        ("Tab ← →", "causes, rows with the cause, the record"),
        ("g", "go to a row by its number or its key"),
        ("w", "the whole row as the file has it, and its neighbours"),
        ("s, Enter", "settle the cause at hand: say what its value means"),
        ("Space, m", "mark values that mean the same, to settle them together; no marks"),
        ("e, Enter", "edit the cell at hand, in this row only"),
        ("b", "leave blank: the value means nothing"),
        ("k", "keep out: all that have the value, or among the rows this one"),
        ("u, r", "take the last decision back; make it again"),
        ("q, Esc", "leave; everything is saved already"),
        ("", ""),
        ("", "A count before a cause says how many rows wait; ✓ is settled."),
        ("", "Values are remembered in crosswalks/, cells in corrections/."),
        ("", "The source itself is never written to."),
    ];
    let inside = window(frame, "Keys", (78, 19));
    let line = |(key, does): &(&str, &str)| {
        Line::from(vec![Span::styled(format!("{key:<15}"), looks.command()), Span::raw((*does).to_owned())])
    };
    frame.render_widget(Paragraph::new(HELP.iter().map(line).collect::<Vec<_>>()), inside);
}
