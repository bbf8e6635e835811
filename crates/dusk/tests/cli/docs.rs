//! The documents agree with the program.

use std::fs;
use std::path::{Path, PathBuf};

use dusk_core::evidence::Kind;

use crate::desk::Desk;

pub(crate) fn root() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../..")
}

/// The page of findings, made of the one place where they are defined.
fn findings_page() -> String {
    let mut page =
        String::from("# Findings\n\nMade from the program; `cargo test` says so when it is out of date.\n");
    for kind in Kind::ALL {
        let explanation = kind.explanation().lines().map(str::trim).collect::<Vec<_>>().join(" ");
        page.push_str(&format!(
            "\n## {}\n\n*{}* — {}\n\n{explanation}\n",
            kind.code(),
            kind.severity().word(),
            kind.title()
        ));
    }
    page
}

#[test]
fn the_page_of_findings_is_the_programs() {
    let path = root().join("docs/findings.md");
    if std::env::var_os("DUSK_WRITE_DOCS").is_some() {
        fs::write(&path, findings_page()).unwrap();
    }
    assert_eq!(
        fs::read_to_string(path).unwrap(),
        findings_page(),
        "run the tests with DUSK_WRITE_DOCS=1 to write it anew"
    );
}

#[test]
fn every_key_of_the_demos_files_is_in_the_reference() {
    let reference = fs::read_to_string(root().join("docs/files.md")).unwrap();
    for file in ["target.toml", "mapping.toml"] {
        let text = fs::read_to_string(root().join("crates/dusk/src/demo/data").join(file)).unwrap();
        let keys = text.lines().filter_map(|line| line.split_once('=')).map(|(key, _)| key.trim());
        for key in
            keys.filter(|key| key.chars().all(|c| c.is_ascii_lowercase() || c == '_') && *key != "loaded_by")
        {
            assert!(reference.contains(&format!("`{key}`")), "{key} of {file} is not in docs/files.md");
        }
    }
}

#[test]
fn the_rules_of_the_page_of_rules_are_read() {
    let page = fs::read_to_string(root().join("docs/rules.md")).unwrap();
    let rules = page.split("```toml").nth(1).unwrap().split("```").next().unwrap();
    let data = root().join("crates/dusk/src/demo/data");
    let target = fs::read_to_string(data.join("target.toml")).unwrap();
    let with_rules = target.split("[[rule]]").next().unwrap().to_owned() + rules;
    let mut desk = Desk::empty().with("target.toml", &with_rules);
    for name in ["region", "district", "queen-colour", "treatment"] {
        desk = desk.with(
            &format!("codes/{name}.csv"),
            &fs::read_to_string(data.join(format!("codes/{name}.csv"))).unwrap(),
        );
    }
    desk.run(&["target", "check"]).ended(0).says(&["9 rules"]);
    let wrong = desk.with("target.toml", &format!("{with_rules}\n[[rule]]\nmust = 'honey_kg = \"4\"'\n"));
    let shown = page.split("```text").nth(1).unwrap().split("```").next().unwrap();
    let pointed: Vec<&str> = shown.trim().lines().skip(1).collect();
    wrong
        .run(&["target", "check"])
        .ended(1)
        .says(&["a number and a text cannot be compared", &pointed.join("\n")]);
}

#[test]
fn every_shape_of_the_page_of_shapes_is_read() {
    let page = |name: &str| fs::read_to_string(root().join(format!("docs/{name}.md"))).unwrap();
    let pages = page("shapes") + &page("comparing") + &page("delivering");
    let examples: Vec<&str> =
        pages.split("```toml").skip(1).map(|part| part.split("```").next().unwrap()).collect();
    assert!(examples.len() > 12);
    let codes = root().join("crates/dusk/src/demo/data/codes");
    for example in examples {
        let mut desk = Desk::empty()
            .with("target.toml", &format!("[target]\nname = \"T\"\n{example}"))
            .with("hives.csv", "hive,founded_on\nH1,2020-05-01\n")
            .with("register.csv", "hive,record_no\nH1,7\n")
            .with("held.csv", "Id,Name\n1,A\n")
            .with("photos/one.jpg", "1");
        for name in ["region", "treatment"] {
            desk = desk.with(
                &format!("codes/{name}.csv"),
                &fs::read_to_string(codes.join(format!("{name}.csv"))).unwrap(),
            );
        }
        desk.run(&["target", "check"]).ended(0).says(&["nothing wrong"]);
    }
}

/// A block of a page that is marked by a comment: what the mark says, and what stands in the block.
fn marked_blocks(page: &str) -> Vec<(String, String)> {
    let part = |part: &str| {
        let (mark, rest) = part.split_once(" -->\n")?;
        let block = rest.split_once("```")?.1.split_once('\n')?.1.split_once("```")?.0;
        Some((mark.to_owned(), block.to_owned()))
    };
    page.split("<!-- ").skip(1).filter_map(part).collect()
}

/// Runs every command of a page as it is printed, on the files that it prints; every text that it shows has to come out
/// of one of them. Gives the desk, and how many commands ran.
fn work_through(page: &str) -> (Desk, usize) {
    let page = fs::read_to_string(root().join(page)).unwrap();
    let blocks = marked_blocks(&page);
    let (mut desk, mut checked, mut ran) = (Desk::empty(), String::new(), 0);
    for (place, (mark, block)) in blocks.iter().enumerate() {
        if let Some(name) = mark.strip_prefix("file: ") {
            desk = desk.with(name, block);
        }
        let Some(status) = mark.strip_prefix("run: ") else { continue };
        let answers = blocks.get(place + 1).filter(|(mark, _)| mark == "answers").map_or("", |next| &next.1);
        for line in block.lines() {
            let words: Vec<&str> = line.split(' ').skip(1).collect();
            let has_no_day = matches!(words[0], "target" | "inspect" | "batches");
            let today = if has_no_day { &[][..] } else { &["--today", "2026-04-30"] };
            let done = desk.answering(&[&words, today].concat(), answers).ended(status.parse().unwrap());
            checked.push_str(&done.out);
            ran += 1;
        }
    }
    for shown in page.split("\n\n```text\n").skip(1) {
        let shown = shown.split_once("```").unwrap().0;
        assert!(checked.contains(shown), "{shown}\nis not in\n{checked}");
    }
    (desk, ran)
}

#[test]
fn the_readmes_first_upload_works_as_it_is_printed() {
    let (desk, ran) = work_through("README.md");
    assert_eq!(ran, 3, "every command was run");
    let batch = desk.names("batches/2026-04-30-a/upload");
    let upload = desk.read(&format!("batches/2026-04-30-a/upload/{}", batch[0]));
    assert_eq!(
        upload,
        "apiary_id,visit_date,queen_colour,honey_kg\r\n000117,2026-03-25,W,4.5\r\n000290,2026-04-03,Y,2\r\n001208,2026-04-04,B,\r\n"
    );
}

#[test]
fn the_first_job_step_by_step_works_as_it_is_printed() {
    let (desk, ran) = work_through("docs/first-job.md");
    assert_eq!(ran, 19, "every command of the first job was run");
    assert_eq!(
        desk.read("batches/april/upload/inspections-april-1.csv"),
        "apiary_id;visit_date;queen_colour;honey_kg\r\n000117;2026-03-25;W;4.5\r\n000290;2026-04-03;Y;2\r\n001208;2026-04-04;B;\r\n"
    );
}

#[test]
fn every_way_from_page_to_page_leads_somewhere_and_the_index_leads_to_all() {
    let docs = fs::read_dir(root().join("docs")).unwrap().flatten().map(|entry| entry.path());
    let pages: Vec<PathBuf> =
        docs.filter(|path| path.extension().is_some_and(|ending| ending == "md")).collect();
    let ours = ["README.md", "CONTRIBUTING.md", "SECURITY.md"].map(|name| root().join(name));
    let mut led_to = std::collections::BTreeSet::new();
    for page in pages.iter().chain(&ours) {
        let text = fs::read_to_string(page).unwrap();
        let links = text.split("](").skip(1).filter_map(|rest| rest.split_once(')')).map(|(link, _)| link);
        for link in links.filter(|link| !link.starts_with("http") && !link.starts_with('#')) {
            let path = page.parent().unwrap().join(link.split('#').next().unwrap());
            assert!(path.exists(), "{link} in {}", page.display());
            if page.ends_with("docs/README.md") {
                led_to.insert(path.canonicalize().unwrap());
            }
        }
    }
    for page in pages.iter().filter(|page| !page.ends_with("docs/README.md")) {
        assert!(led_to.contains(&page.canonicalize().unwrap()), "{} is not in the index", page.display());
    }
}

#[test]
fn every_command_is_on_the_page_of_commands() {
    let page = fs::read_to_string(root().join("docs/commands.md")).unwrap();
    let help = Desk::empty().run(&["--help"]).ended(0).out;
    let listed = help.split_once("Commands:\n").unwrap().1.split_once("\nOptions:").unwrap().0;
    let names = listed.lines().filter_map(|line| {
        line.strip_prefix("  ")?.split_whitespace().next().filter(|_| !line.starts_with("   "))
    });
    let names: Vec<&str> = names.filter(|name| *name != "help").collect();
    assert!(names.len() > 20, "{names:?}");
    for name in names {
        assert!(page.contains(&format!("`dusk {name}")), "dusk {name} is not in docs/commands.md");
    }
}

/// Whatever the program knows as a key of a table, it says when it meets one that it does not know.
#[test]
fn every_key_that_the_program_knows_is_documented() {
    let pages: String = ["files", "mappings", "shapes", "rules"]
        .iter()
        .map(|page| fs::read_to_string(root().join(format!("docs/{page}.md"))).unwrap())
        .collect();
    let known = |ran: crate::desk::Ran| -> Vec<String> {
        let keys = ran
            .err
            .lines()
            .chain(ran.out.lines())
            .filter_map(|line| line.trim().strip_prefix("known here: "));
        keys.flat_map(|keys| keys.split(", ")).map(str::to_owned).collect()
    };
    let types = [
        ("text", ""),
        ("decimal", "decimals = 1"),
        ("datetime", ""),
        ("date", ""),
        ("boolean", ""),
        ("code", "codes = \"codes/queen.csv\""),
        ("codes", "codes = \"codes/queen.csv\"\nseparator = \"|\""),
        ("reference", "values = \"export.csv\"\ncolumn = \"No\""),
        ("file", "folder = \"codes\""),
    ];
    let mut keys: Vec<String> = Vec::new();
    for (kind, more) in types {
        let target = format!("[target]\nname = \"T\"\n[[field]]\nname = \"it\"\ntype = \"{kind}\"\n{more}\n");
        let desk = Desk::new().with("target.toml", &format!("{target}qqqqqqqq = 1\n"));
        keys.extend(known(desk.run(&["target", "check"])));
        let desk = desk.with("target.toml", &target).with(
            "mapping.toml",
            "target = \"target.toml\"\n[source]\nqqqqqqqq = 1\n[rows]\nqqqqqqqq = 1\n[repeat]\nqqqqqqqq = 1\nnumbers = [\"1\"]\n[[map]]\nfield = \"it\"\nfrom = \"No\"\nqqqqqqqq = 1\n",
        );
        keys.extend(known(desk.run(&["check", "export.csv"])));
    }
    let upload =
        Desk::new().edited("target.toml", "[upload]", "[holds]\nqqqqqqqq = 1\n[upload]\nqqqqqqqq = 1");
    keys.extend(known(upload.run(&["target", "check"])));
    keys.sort();
    keys.dedup();
    assert!(keys.len() > 80, "{keys:?}");
    let missing: Vec<&String> = keys
        .iter()
        .filter(|key| !pages.contains(&format!("`{key}`")) && !pages.contains(&format!("`{key} =")))
        .collect();
    assert!(missing.is_empty(), "{missing:?}");
}
