//! The picture of the layers in docs/architecture.svg is drawn from what the crates say that they name, so that it cannot
//! grow old: a crate stands above all that it names, and an arrow leads to what no other arrow leads to already.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write as _;
use std::fs;

use crate::docs::root;

type Names = BTreeMap<String, BTreeSet<String>>;

/// Which crates each crate names, tests left out.
fn named() -> Names {
    let manifests = fs::read_dir(root().join("crates")).unwrap().flatten();
    let mut named = Names::new();
    for folder in manifests {
        let text = fs::read_to_string(folder.path().join("Cargo.toml")).unwrap();
        let own =
            text.lines().find_map(|line| line.strip_prefix("name = ")).unwrap().trim_matches('"').to_owned();
        let needs =
            text.split_once("[dependencies]\n").map_or("", |(_, rest)| rest.split("\n[").next().unwrap());
        let needs = needs.lines().filter_map(|line| line.split(['.', ' ', '=']).next());
        named.insert(own, needs.filter(|name| name.starts_with("dusk-")).map(str::to_owned).collect());
    }
    named
}

/// Everything that a crate names, and what those name.
fn all_below(named: &Names, name: &str) -> BTreeSet<String> {
    let direct = named.get(name).into_iter().flatten();
    direct.flat_map(|one| all_below(named, one).into_iter().chain([one.clone()])).collect()
}

/// How many crates there are below one another under this one.
fn floor_of(named: &Names, name: &str) -> usize {
    named.get(name).into_iter().flatten().map(|one| floor_of(named, one) + 1).max().unwrap_or(0)
}

/// What a crate names and nothing else that it names does.
fn arrows(named: &Names, name: &str) -> Vec<String> {
    let direct = named.get(name).cloned().unwrap_or_default();
    let by_others: BTreeSet<String> = direct.iter().flat_map(|one| all_below(named, one)).collect();
    direct.into_iter().filter(|one| !by_others.contains(one)).collect()
}

fn drawn(named: &Names) -> String {
    const WIDTH: usize = 1000;
    const BOX: (usize, usize) = (150, 30);
    const FLOOR: usize = 62;
    let mut floors: BTreeMap<usize, Vec<&String>> = BTreeMap::new();
    named.keys().for_each(|name| floors.entry(floor_of(named, name)).or_default().push(name));
    let top = floors.keys().max().copied().unwrap_or(0);
    let mut places: BTreeMap<&str, (usize, usize)> = BTreeMap::new();
    for (floor, names) in &floors {
        for (place, name) in names.iter().enumerate() {
            places.insert(name, (WIDTH * (2 * place + 1) / (2 * names.len()), 30 + (top - floor) * FLOOR));
        }
    }
    let height = 30 + top * FLOOR + 40;
    let mut svg = format!(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {WIDTH} {height}\" role=\"img\" aria-label=\"The layers of Dusk Button: each crate stands above those that it names\">\n\
         <style>rect{{fill:#eef1f5;stroke:#3d5f8c}}path{{fill:none;stroke:#8a97ab}}text{{font:13px sans-serif;fill:#1d2430;text-anchor:middle}}</style>\n\
         <rect width=\"{WIDTH}\" height=\"{height}\" style=\"fill:#fff;stroke:none\"/>\n"
    );
    for (name, (x, y)) in &places {
        for below in arrows(named, name) {
            let (to_x, to_y) = places[below.as_str()];
            let (from_y, end) = (y + BOX.1 / 2, to_y - BOX.1 / 2);
            let middle = (from_y + end) / 2;
            writeln!(svg, "<path d=\"M{x} {from_y}C{x} {middle} {to_x} {middle} {to_x} {end}\"/>").unwrap();
        }
    }
    for (name, (x, y)) in &places {
        let shown = name.strip_prefix("dusk-").unwrap_or(name);
        let shown = if shown == "button" { "the program" } else { shown };
        let (left, up) = (x - BOX.0 / 2, y - BOX.1 / 2);
        writeln!(svg, "<rect x=\"{left}\" y=\"{up}\" width=\"{}\" height=\"{}\" rx=\"4\"/><text x=\"{x}\" y=\"{}\">{shown}</text>", BOX.0, BOX.1, y + 5).unwrap();
    }
    svg + "</svg>\n"
}

#[test]
fn the_picture_of_the_layers_is_that_of_the_crates() {
    let (path, now) = (root().join("docs/architecture.svg"), drawn(&named()));
    if std::env::var_os("DUSK_WRITE_DOCS").is_some() {
        fs::write(&path, &now).unwrap();
    }
    assert_eq!(
        fs::read_to_string(path).unwrap(),
        now,
        "run the tests with DUSK_WRITE_DOCS=1 to draw it anew"
    );
}

#[test]
fn every_crate_is_in_the_table_of_layers_below_all_that_it_names() {
    let page = fs::read_to_string(root().join("docs/architecture.md")).unwrap();
    let named = named();
    let place = |name: &str| {
        page.find(&format!("| `{name}`")).unwrap_or_else(|| panic!("{name} is not in the table"))
    };
    for (name, needs) in &named {
        for below in needs {
            assert!(place(below) < place(name), "{name} stands above {below}, which it names");
        }
    }
    assert!(named.values().any(|needs| needs.len() > 5) && floor_of(&named, "dusk-button") > 6);
}

#[test]
fn arrows_lead_only_where_no_other_way_leads() {
    let of = |names: &[&str]| names.iter().map(|name| (*name).to_owned()).collect::<BTreeSet<String>>();
    let named: Names = [("a", of(&["b", "c", "d"])), ("b", of(&["c"])), ("c", of(&["d"])), ("d", of(&[]))]
        .map(|(name, needs)| (name.to_owned(), needs))
        .into();
    assert_eq!((arrows(&named, "a"), arrows(&named, "b")), (vec!["b".to_owned()], vec!["c".to_owned()]));
    assert_eq!((floor_of(&named, "a"), floor_of(&named, "d")), (3, 0));
    assert_eq!(all_below(&named, "b"), of(&["c", "d"]));
}
