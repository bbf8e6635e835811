//! Every page in a real browser: nothing runs past the edge, every picture has its meaning in words, headings follow one
//! another, and letters can be told from what is behind them, in the light and in the dark. Where no Chromium is
//! installed, the tests say so and check nothing.

use std::process::Command;

use crate::desk::Desk;

/// What looks a page over, in the page that frames it; it writes what is wrong into its own title.
const LOOK: &str = r#"
const wrong = [];
const page = frame.contentDocument, view = frame.contentWindow;
const tell = (element, says) => wrong.push(says + ": " + (element.outerHTML || "").slice(0, 90));
const root = page.documentElement;
if (root.scrollWidth > root.clientWidth + 1) {
  const wide = [...page.querySelectorAll("body *")].find(one => one.getBoundingClientRect().right > root.clientWidth + 1);
  tell(wide || root, "runs past the edge");
}
for (const svg of page.querySelectorAll("svg")) {
  if (!(svg.getAttribute("aria-label") || "").trim()) tell(svg, "a picture without words");
  const edge = svg.getBoundingClientRect();
  for (const text of svg.querySelectorAll("text")) {
    const box = text.getBoundingClientRect();
    if (box.left < edge.left - 1 || box.right > edge.right + 1) tell(text, "a label outside of its picture");
  }
}
for (const head of page.querySelectorAll("thead th")) if (head.scope !== "col") tell(head, "a heading without a scope");
let level = 0;
for (const heading of page.querySelectorAll("h1, h2, h3, h4")) {
  const own = Number(heading.tagName[1]);
  if (own > level + 1) tell(heading, "a heading that skips a level");
  level = own;
}
if (page.querySelectorAll("h1").length !== 1 || !page.querySelector("main")) tell(root, "no single first heading");
for (const way of page.querySelectorAll("a[href^='#']"))
  if (!page.getElementById(way.getAttribute("href").slice(1))) tell(way, "a way to nowhere");
const ids = [...page.querySelectorAll("[id]")].map(one => one.id);
if (new Set(ids).size !== ids.length) tell(root, "two elements of one id");
const light = colour => {
  const [r, g, b] = colour.match(/[\d.]+/g).map(Number).map(part => part / 255)
    .map(part => part <= 0.03928 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4);
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
};
const behind = element => {
  for (let at = element; at; at = at.parentElement) {
    const colour = view.getComputedStyle(at).backgroundColor;
    if (!/, 0\)$/.test(colour)) return colour;
  }
  return "rgb(255, 255, 255)";
};
for (const element of page.querySelectorAll("main *, footer")) {
  const own = [...element.childNodes].some(node => node.nodeType === 3 && node.data.trim());
  if (!own || element.closest("svg") || element.tagName === "TITLE") continue;
  const [a, b] = [light(view.getComputedStyle(element).color), light(behind(element))];
  if ((Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05) < 4.5) tell(element, "letters too faint");
}
document.title = "looked over";
document.body.textContent = "FOUND[" + wrong.join(" || ") + "]";
"#;

/// The browser; nothing where none is installed.
#[allow(clippy::print_stderr, reason = "what is not tested is said")]
fn browser() -> Option<&'static str> {
    let names = ["chromium", "chromium-browser", "google-chrome"];
    let found = names.into_iter().find(|name| Command::new(name).arg("--version").output().is_ok());
    if found.is_none() {
        eprintln!("no Chromium is installed, so no page was held in a browser");
    }
    found
}

/// What is wrong with a page at this width, in the light or in the dark.
fn wrong_with(browser: &str, desk: &Desk, page: &str, (width, dark): (u32, bool)) -> String {
    let frame = format!(
        "<!DOCTYPE html><meta charset=utf-8><iframe id=frame src=\"{page}\" style=\"width:{width}px;height:900px;border:0\"></iframe>\
         <script>frame.onload = () => {{ {LOOK} }}</script>"
    );
    desk.with_again("frame.html", &frame);
    let profile = desk.path("profile");
    let mut command = Command::new(browser);
    command.args([
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        "--allow-file-access-from-files",
        "--dump-dom",
    ]);
    command.args(["--virtual-time-budget=9000", &format!("--window-size={},1000", width + 40)]);
    command.arg(format!("--user-data-dir={}", profile.display()));
    command.arg(format!("--blink-settings=preferredColorScheme={}", if dark { 0 } else { 1 }));
    let output = command.arg(format!("file://{}", desk.path("frame.html").display())).output().unwrap();
    let text = String::from_utf8_lossy(&output.stdout).into_owned();
    let found = text.split_once("FOUND[").and_then(|(_, rest)| rest.rsplit_once(']'));
    found.map(|(found, _)| found.to_owned()).unwrap_or_else(|| {
        panic!("{page} was not looked over: {text} {}", String::from_utf8_lossy(&output.stderr))
    })
}

/// A steward's desk with everything that has a page, and with long words and foreign letters in it.
fn desk_with_pages() -> (Desk, Vec<String>) {
    let long = "Donaudampfschifffahrtsgesellschaftskapitänskajütentürschlossschlüssel";
    let mut export = String::from("No,Date,Queen,Honey\n");
    for row in 0..400 {
        let queen = ["white", "yel.", "", "מלכה צהובה", "蜂王黄色", long, "blue", "sky"][row % 8];
        let honey = if row % 11 == 0 { String::new() } else { format!("{}.{}", row % 37, row % 10) };
        export.push_str(&format!(
            "{},{:02}/{:02}/2026,\"{queen}\",{honey}\n",
            row + 100,
            row % 28 + 1,
            row % 5 + 1
        ));
    }
    export.push_str("\n700,31/02/2026, white ,1.2E+11,too many\n701,13/04/2026,w\u{a0}hite,15.0\n");
    let desk = Desk::new().with("export.csv", &export).edited(
        "target.toml",
        "[upload]",
        "[upload]\nsplit_by = \"queen\"",
    );
    let desk = desk.edited("target.toml", "up-{part}.csv", "up-{queen}-{part}.csv");
    desk.run(&["conform", "export.csv", "--today", "2026-04-30", "-q"]).ended(1);
    desk.run(&["crosswalk", "add", "queen", "yel.", "Y", "--by", long]).ended(0);
    let second = export.replace("2026,", "2025,").replace("sky", "white");
    let desk = desk.with("second.csv", &second);
    desk.run(&["conform", "second.csv", "--today", "2026-05-31", "-q", "--group-pages"]).ended(1);
    desk.run(&["inspect", "export.csv", "--page", "inspected.html", "-q"]).ended(0);
    let fields = desk.run(&["target", "show", "--format", "html"]).ended(0).out;
    let desk = desk.with("fields.html", &fields);
    let batch = "batches/2026-05-31-a";
    let mut pages: Vec<String> = desk
        .names(batch)
        .into_iter()
        .filter(|name| name.ends_with(".html"))
        .map(|name| format!("{batch}/{name}"))
        .collect();
    assert!(pages.len() > 2, "{pages:?}");
    pages.extend(["inspected.html".to_owned(), "fields.html".to_owned()]);
    (desk, pages)
}

#[test]
fn every_page_can_be_read_in_a_browser_wide_and_narrow_light_and_dark() {
    let Some(browser) = browser() else { return };
    let (desk, pages) = desk_with_pages();
    for page in &pages {
        for look in [(1240, false), (1240, true), (400, false)] {
            assert_eq!(wrong_with(browser, &desk, page, look), "", "{page} at {look:?}");
        }
    }
    // What looks pages over finds what is wrong.
    let faulty = "<!DOCTYPE html><main><h1>A</h1><h3>B</h3><svg></svg><a href=\"#x\">x</a>\
        <p style=\"width:3000px;color:#ccc\">faint</p></main>";
    let desk = desk.with("faulty.html", faulty);
    let found = wrong_with(browser, &desk, "faulty.html", (1240, false));
    for says in ["past the edge", "without words", "skips a level", "to nowhere", "too faint"] {
        assert!(found.contains(says), "{says}: {found}");
    }
}

#[test]
fn a_page_prints_on_a4_with_every_table_heading_on_each_sheet() {
    let Some(browser) = browser() else { return };
    let (desk, _) = desk_with_pages();
    let (page, paper) = (desk.path("inspected.html"), desk.path("paper.pdf"));
    let mut command = Command::new(browser);
    command.args(["--headless", "--no-sandbox", "--disable-gpu"]);
    command.arg(format!("--user-data-dir={}", desk.path("profile").display()));
    command.arg(format!("--print-to-pdf={}", paper.display())).arg(format!("file://{}", page.display()));
    assert!(command.output().unwrap().status.success());
    let pdf = desk.read_bytes("paper.pdf");
    let text = String::from_utf8_lossy(&pdf);
    assert!(text.starts_with("%PDF") && pdf.len() > 10_000);
    let sheets = text.matches("/Type /Page\n").count() + text.matches("/Type /Page\r").count();
    assert!((2..30).contains(&sheets), "{sheets} sheets");
}
