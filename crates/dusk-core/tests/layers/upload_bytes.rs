//! How values stand in the upload file, to the byte: quotes, delimiters, line ends, encodings, marks.

use crate::desk::Desk;

/// What the upload file holds of one record of two values, and the finding that keeps it out.
fn written(upload: &str, values: [&str; 2]) -> Result<Vec<u8>, String> {
    let target = format!(
        "[target]\nname = \"T\"\n[upload]\nfile_name = \"up\"\n{upload}\n[[field]]\nname = \"a\"\ntype = \"text\"\n[[field]]\nname = \"b\"\ntype = \"text\"\n"
    );
    let maps = ["a", "b"].map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n"));
    let desk = Desk::new()
        .with("target.toml", &target)
        .with(
            "mapping.toml",
            format!(
                "target = \"target.toml\"\n[source]\nencoding = \"utf-8\"\ndelimiter = \",\"\n{}",
                maps.concat()
            ),
        )
        .with_table("export.csv", &["a", "b"], [values]);
    let made = desk.conform();
    match made.summary.causes.first() {
        Some(cause) => Err(cause.kind.code().to_owned()),
        None => Ok(std::fs::read(desk.path("batch/upload/up")).unwrap()),
    }
}

fn text(upload: &str, values: [&str; 2]) -> Result<String, String> {
    written(upload, values).map(|bytes| String::from_utf8(bytes).unwrap())
}

#[test]
fn quotes_stand_where_they_are_needed_always_or_never() {
    for (quoting, values, expected) in [
        ("when-needed", ["x", "y z"], Ok("a,b\r\nx,y z\r\n")),
        ("when-needed", ["x,y", "say \"so\""], Ok("a,b\r\n\"x,y\",\"say \"\"so\"\"\"\r\n")),
        ("when-needed", ["two\nlines", ""], Ok("a,b\r\n\"two\nlines\",\r\n")),
        ("always", ["x", ""], Ok("\"a\",\"b\"\r\n\"x\",\"\"\r\n")),
        ("never", ["x", "it's"], Ok("a,b\r\nx,it's\r\n")),
        ("never", ["x,y", "z"], Err("cannot-quote")),
        ("never", ["x", "two\nlines"], Err("cannot-quote")),
        // Nothing is done for the sake of spreadsheet programs here: the target gets what was meant.
        ("when-needed", ["=1+1", "@x"], Ok("a,b\r\n=1+1,@x\r\n")),
    ] {
        let found = text(&format!("quoting = \"{quoting}\""), values);
        assert_eq!(found, expected.map(str::to_owned).map_err(str::to_owned), "{quoting} {values:?}");
    }
}

#[test]
fn delimiters_quotes_and_line_ends_are_the_targets() {
    for (upload, expected) in [
        ("delimiter = \";\"\nline_end = \"lf\"", "a;b\nx,y;\"p;q\"\n"),
        ("delimiter = \"\\t\"\nline_end = \"cr\"", "a\tb\rx,y\tp;q\r"),
        ("delimiter = \"¦\"\nquote = \"'\"\nline_end = \"lf\"", "a¦b\nx,y¦p;q\n"),
        ("header = false\nquote = \"«\"\nline_end = \"lf\"", "«x,y«,p;q\n"),
        ("bom = true\nline_end = \"lf\"\ndelimiter = \"|\"", "\u{feff}a|b\nx,y|p;q\n"),
    ] {
        assert_eq!(text(upload, ["x,y", "p;q"]).unwrap(), expected, "{upload}");
    }
}

#[test]
fn bytes_are_those_of_the_encoding_or_the_record_is_kept_out() {
    let upload = |encoding: &str| {
        format!("encoding = \"{encoding}\"\nheader = false\nline_end = \"lf\"\ndelimiter = \";\"")
    };
    for (encoding, expected) in [
        ("windows-1252", &b"\xd6st;caf\xe9\n"[..]),
        ("iso-8859-15", b"\xd6st;caf\xe9\n"),
        ("macintosh", b"\x85st;caf\x8e\n"),
        ("utf-16le", b"\xd6\0s\0t\0;\0c\0a\0f\0\xe9\0\n\0"),
        ("utf-16be", b"\0\xd6\0s\0t\0;\0c\0a\0f\0\xe9\0\n"),
    ] {
        assert_eq!(written(&upload(encoding), ["Öst", "café"]).unwrap(), expected, "{encoding}");
    }
    assert_eq!(written(&upload("windows-1252"), ["蜂", "x"]), Err("cannot-encode".to_owned()));
    assert_eq!(written(&upload("shift_jis"), ["蜂", "x"]).unwrap(), b"\x96I;x\n");
}

#[test]
fn a_mark_stands_for_line_breaks_and_json_for_itself() {
    assert_eq!(
        text("line_break = \"␤\"\nline_end = \"lf\"", ["two\nlines", "x"]).unwrap(),
        "a,b\ntwo␤lines,x\n"
    );
    assert!(text("line_break = \"␤\"", ["has ␤", "x"]).is_err(), "the mark itself would become a line break");
    let json = text("format = \"json-lines\"", ["say \"so\"\n", ""]).unwrap();
    let line: serde_json::Value = serde_json::from_str(json.trim()).unwrap();
    assert_eq!((line["a"].as_str(), &line["b"]), (Some("say \"so\""), &serde_json::Value::Null));
}
