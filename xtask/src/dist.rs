//! `cargo xtask dist`: what is handed to people who have no Rust: a binary that needs no library of the system, its
//! manual and completions, as an archive and as a Debian package, with their hashes.

use std::fs;
use std::path::{Path, PathBuf};
use std::process::Command;

/// The target that makes a binary without any library of the system, where it is installed.
const MUSL: &str = "x86_64-unknown-linux-musl";

/// Where everything goes.
const FOLDER: &str = "target/dist";

type Done<T = ()> = Result<T, String>;

/// Makes everything. `quick` builds with little optimisation, to try the packages themselves.
pub(crate) fn make(quick: bool) -> Done<Vec<PathBuf>> {
    let triple = triple()?;
    let binary = build(&triple, quick)?;
    let version = version(&binary)?;
    let out = PathBuf::from(FOLDER);
    // What an earlier run left is not handed out with the new.
    if out.exists() {
        fs::remove_dir_all(&out).map_err(|error| format!("{FOLDER} cannot be emptied: {error}"))?;
    }
    let name = format!("dusk-button-{version}-{triple}");
    let tree = out.join("tree");
    lay_out(&binary, &tree)?;
    let mut made = vec![archive(&tree, &out, &name)?];
    match package(&tree, &out, &version)? {
        Some(package) => made.push(package),
        None => crate::say("dpkg-deb is not installed here, so no Debian package was made\n"),
    }
    fs::remove_dir_all(&tree).map_err(|error| error.to_string())?;
    made.push(hashes(&out, &made)?);
    Ok(made)
}

/// Runs a program that has to succeed; gives what it prints.
fn run(program: &str, arguments: &[&str], folder: Option<&Path>, more: &[(&str, &str)]) -> Done<String> {
    let mut command = Command::new(program);
    command.args(arguments).envs(more.iter().copied());
    if let Some(folder) = folder {
        command.current_dir(folder);
    }
    let output = command.output().map_err(|error| format!("{program} cannot be run: {error}"))?;
    if !output.status.success() {
        return Err(format!(
            "{program} {}: {}",
            arguments.join(" "),
            String::from_utf8_lossy(&output.stderr).trim()
        ));
    }
    Ok(String::from_utf8_lossy(&output.stdout).into_owned())
}

/// The target to build for: without the system's libraries where that is installed, otherwise this machine's own.
fn triple() -> Done<String> {
    let root = run("rustc", &["--print", "sysroot"], None, &[])?;
    if Path::new(root.trim()).join("lib/rustlib").join(MUSL).exists() {
        return Ok(MUSL.to_owned());
    }
    let about = run("rustc", &["-vV"], None, &[])?;
    let host = about.lines().find_map(|line| line.strip_prefix("host: "));
    host.map(str::to_owned).ok_or_else(|| "rustc does not say for which machine it builds".to_owned())
}

/// Builds the program with everything that it needs inside.
fn build(triple: &str, quick: bool) -> Done<PathBuf> {
    let profile = if quick { "dev" } else { "release" };
    let words = ["build", "--locked", "-p", "dusk-button", "--profile", profile, "--target", triple];
    let status = Command::new(env!("CARGO"))
        .args(words)
        .args(["--target-dir", "target/static"])
        .env("RUSTFLAGS", "-C target-feature=+crt-static")
        .status()
        .map_err(|error| format!("cargo cannot be run: {error}"))?;
    if !status.success() {
        return Err("the program was not built".into());
    }
    let folder = if quick { "debug" } else { "release" };
    Ok(PathBuf::from("target/static").join(triple).join(folder).join("dusk"))
}

fn version(binary: &Path) -> Done<String> {
    let says = run(&binary.display().to_string(), &["--version"], None, &[])?;
    says.split_whitespace().nth(1).map(str::to_owned).ok_or_else(|| format!("no version in {says}"))
}

/// Lays everything out as it is installed.
fn lay_out(binary: &Path, tree: &Path) -> Done {
    let put = |from: &Path, to: &str| -> Done {
        let to = tree.join(to);
        let folder = to.parent().unwrap_or(tree);
        fs::create_dir_all(folder).map_err(|error| format!("{}: {error}", folder.display()))?;
        fs::copy(from, &to).map(drop).map_err(|error| format!("{}: {error}", from.display()))
    };
    put(binary, "usr/bin/dusk")?;
    run("strip", &["--strip-unneeded", &tree.join("usr/bin/dusk").display().to_string()], None, &[])
        .map(drop)?;
    let dusk = binary.display().to_string();
    for (shell, to) in [
        ("bash", "usr/share/bash-completion/completions/dusk"),
        ("zsh", "usr/share/zsh/vendor-completions/_dusk"),
        ("fish", "usr/share/fish/vendor_completions.d/dusk.fish"),
    ] {
        let lines = run(&dusk, &["completions", shell], None, &[])?;
        let to = tree.join(to);
        fs::create_dir_all(to.parent().unwrap_or(tree)).map_err(|error| error.to_string())?;
        fs::write(&to, lines).map_err(|error| format!("{}: {error}", to.display()))?;
    }
    let manual = tree.join("usr/share/man/man1");
    run(&dusk, &["man", &manual.display().to_string()], None, &[])?;
    let pages = fs::read_dir(&manual).map_err(|error| error.to_string())?;
    let mut pages: Vec<String> = pages.flatten().map(|page| page.path().display().to_string()).collect();
    pages.sort();
    let mut words = vec!["-9", "-n"];
    words.extend(pages.iter().map(String::as_str));
    run("gzip", &words, None, &[])?;
    let documents = "usr/share/doc/dusk-button";
    for name in ["README.md", "CHANGELOG.md", "SECURITY.md", "LICENSE-APACHE", "LICENSE-MIT"] {
        put(Path::new(name), &format!("{documents}/{name}"))?;
    }
    fs::write(tree.join(documents).join("copyright"), COPYRIGHT).map_err(|error| error.to_string())
}

const COPYRIGHT: &str = "\
Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: Dusk Button

Files: *
Copyright: the authors of Dusk Button
License: Apache-2.0 or MIT
 The texts of both licences are beside this file, in LICENSE-APACHE and LICENSE-MIT.
";

/// The archive for every Linux: the same tree under a folder of its own.
fn archive(tree: &Path, out: &Path, name: &str) -> Done<PathBuf> {
    let file = out.join(format!("{name}.tar.gz"));
    let moved = format!("s,^\\.,{name},");
    let words = [
        "--sort=name",
        "--owner=0",
        "--group=0",
        "--numeric-owner",
        "--transform",
        &moved,
        "-czf",
        &file.display().to_string(),
        "-C",
        &tree.display().to_string(),
        ".",
    ];
    run("tar", &words, None, &[])?;
    Ok(file)
}

/// The Debian package; nothing where the program that makes one is missing.
fn package(tree: &Path, out: &Path, version: &str) -> Done<Option<PathBuf>> {
    if Command::new("dpkg-deb").arg("--version").output().is_err() {
        return Ok(None);
    }
    let architecture = run("dpkg", &["--print-architecture"], None, &[])?;
    let architecture = architecture.trim();
    let size: u64 = run("du", &["-sk", &tree.display().to_string()], None, &[])?
        .split_whitespace()
        .next()
        .and_then(|size| size.parse().ok())
        .unwrap_or(0);
    let control = format!(
        "Package: dusk-button\nVersion: {version}\nArchitecture: {architecture}\nSection: utils\nPriority: optional\n\
         Installed-Size: {size}\nMaintainer: the authors of Dusk Button <dusk-button@localhost>\n\
         Description: conforms exported tables to the template that a target system demands\n \
         It converts only what the dictionary, the mapping or the data itself leaves one reading for, checks\n \
         every row, and says of each changed cell why. A batch appears whole or not at all.\n"
    );
    let folder = tree.join("DEBIAN");
    fs::create_dir_all(&folder).map_err(|error| error.to_string())?;
    fs::write(folder.join("control"), control).map_err(|error| error.to_string())?;
    let file = out.join(format!("dusk-button_{version}_{architecture}.deb"));
    let words = ["--root-owner-group", "--build", &tree.display().to_string(), &file.display().to_string()];
    run("dpkg-deb", &words, None, &[])?;
    Ok(Some(file))
}

/// The hashes of everything, as `sha256sum --check` reads them.
fn hashes(out: &Path, made: &[PathBuf]) -> Done<PathBuf> {
    let names: Vec<String> = made
        .iter()
        .filter_map(|path| path.file_name().map(|name| name.to_string_lossy().into_owned()))
        .collect();
    let words: Vec<&str> = names.iter().map(String::as_str).collect();
    let sums = run("sha256sum", &words, Some(out), &[])?;
    let file = out.join("SHA256SUMS");
    fs::write(&file, sums).map_err(|error| error.to_string())?;
    Ok(file)
}
