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
        ("texts", ["x", ""], Ok("\"a\",\"b\"\r\n\"x\",\r\n")),
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

/// The same as [`text`] with a width for each field.
fn fixed(keys: [&str; 2], values: [&str; 2]) -> Result<String, String> {
    let fields = keys.map(|keys| keys.to_owned());
    let minus = if fields[0].contains("#behind") { "minus = \"behind\"\n" } else { "" };
    let target = format!(
        "[target]\nname = \"T\"\n[upload]\nformat = \"fixed-width\"\nline_end = \"lf\"\n{minus}file_name = \"up\"\n[[field]]\nname = \"a\"\n{}\n[[field]]\nname = \"b\"\n{}\n",
        fields[0], fields[1]
    );
    let desk = Desk::new()
        .with("target.toml", &target)
        .with("mapping.toml", "target = \"target.toml\"\n[[map]]\nfield = \"a\"\nfrom = \"a\"\n[[map]]\nfield = \"b\"\nfrom = \"b\"\n")
        .with_table("export.csv", &["a", "b"], [values]);
    match desk.conform().summary.causes.first() {
        Some(cause) => Err(cause.kind.code().to_owned()),
        None => Ok(std::fs::read_to_string(desk.path("batch/upload/up")).unwrap()),
    }
}

#[test]
fn values_of_fixed_width_are_filled_up_and_never_cut_off() {
    let (text, number) = ("type = \"text\"\nwidth = 5", "type = \"decimal\"\ndecimals = 1\nwidth = 6");
    for (keys, values, expected) in [
        ([text.to_owned(), number.to_owned()], ["Öst", "4.5"], Ok("Öst     4.5\n")),
        (
            [format!("{text}\nalign = \"right\""), format!("{number}\nalign = \"left\"")],
            ["Vik", "4.5"],
            Ok("  Vik4.5   \n"),
        ),
        (
            [format!("{text}\nfill = \"_\""), format!("{number}\nfill = \"0\"")],
            ["Vik", "-4.5"],
            Ok("Vik__-004.5\n"),
        ),
        (
            [format!("{text}\nfill = \"_\""), format!("{number}\nfill = \"0\"")],
            ["Vik", ""],
            Ok("Vik__      \n"),
        ),
        // A sign behind the number has a place of its own, which stays blank for the others.
        (
            [format!("{text}\n#behind"), format!("{number}\nfill = \"0\"")],
            ["Vik", "-4.5"],
            Ok("Vik  004.5-\n"),
        ),
        (
            [format!("{text}\n#behind"), format!("{number}\nfill = \"0\"")],
            ["Vik", "4.5"],
            Ok("Vik  004.5 \n"),
        ),
        (
            [format!("{text}\n#behind"), format!("{number}\nalign = \"left\"")],
            ["Vik", "4.5"],
            Ok("Vik  4.5   \n"),
        ),
        ([format!("{text}\n#behind"), number.to_owned()], ["Vik", "1234.5"], Err("too-wide")),
        ([text.to_owned(), number.to_owned()], ["Nordvik", "4.5"], Err("too-wide")),
        ([text.to_owned(), number.to_owned()], ["a\nb", "4.5"], Err("cannot-quote")),
    ] {
        let found = fixed([&keys[0], &keys[1]], values);
        assert_eq!(found, expected.map(str::to_owned).map_err(str::to_owned), "{keys:?} {values:?}");
    }
}

#[test]
fn elements_of_xml_hold_any_text_that_xml_can() {
    let frame = |record: &str| {
        format!("<?xml version=\"1.0\" encoding=\"utf-8\"?>\n<all>\n<one>{record}</one>\n</all>\n")
    };
    let upload = "format = \"xml\"\nroot = \"all\"\nrecord = \"one\"\nline_end = \"lf\"";
    assert_eq!(text(upload, ["a < b & \"c\"", ""]), Ok(frame("<a>a &lt; b &amp; \"c\"</a><b/>")));
    assert_eq!(text(upload, ["]]>", "two\nlines"]), Ok(frame("<a>]]&gt;</a><b>two\nlines</b>")));
    let wide = written("format = \"xml\"\nencoding = \"utf-16le\"\nbom = true", ["Öst", "x"]).unwrap();
    assert!(
        wide.starts_with(&[0xff, 0xfe])
            && String::from_utf16(
                &wide[2..].chunks(2).map(|unit| u16::from_le_bytes([unit[0], unit[1]])).collect::<Vec<_>>()
            )
            .unwrap()
            .contains("<a>Öst</a>")
    );
}

/// The upload of one record with a value of each type, and what is written about the field of numbers.
fn typed(upload: &str, number: &str, value: &str) -> String {
    let target = format!(
        "[target]\nname = \"T\"\n[upload]\nfile_name = \"up\"\nline_end = \"lf\"\n{upload}\n\
         [[field]]\nname = \"text\"\ntype = \"text\"\n[[field]]\nname = \"code\"\ntype = \"code\"\ncodes = \"c.csv\"\n\
         [[field]]\nname = \"number\"\ntype = \"decimal\"\ndecimals = 2\n{number}\n\
         [[field]]\nname = \"day\"\ntype = \"date\"\n[[field]]\nname = \"flag\"\ntype = \"boolean\"\nformat = \"1/0\"\n"
    );
    let names = ["text", "code", "number", "day", "flag"];
    let maps = names.map(|name| format!("[[map]]\nfield = \"{name}\"\nfrom = \"{name}\"\n"));
    let desk = Desk::new()
        .with("target.toml", &target)
        .with("c.csv", "code,label\n07,Seven\n")
        .with(
            "mapping.toml",
            format!("target = \"target.toml\"\n[source]\ndecimal_mark = \".\"\n{}", maps.concat()),
        )
        .with_table("export.csv", &names, [["Vik", "07", value, "2026-04-03", "yes"]]);
    desk.conform();
    std::fs::read_to_string(desk.path("batch/upload/up")).unwrap()
}

#[test]
fn texts_alone_are_quoted_and_fields_may_say_otherwise() {
    let heading = "\"text\",\"code\",\"number\",\"day\",\"flag\"\n";
    let texts = "quoting = \"texts\"";
    assert_eq!(typed(texts, "", "4.5"), format!("{heading}\"Vik\",\"07\",4.5,2026-04-03,1\n"));
    assert_eq!(
        typed(texts, "quoted = true", "4.5"),
        format!("{heading}\"Vik\",\"07\",\"4.5\",2026-04-03,1\n")
    );
    assert_eq!(typed(texts, "quoted = true", ""), format!("{heading}\"Vik\",\"07\",,2026-04-03,1\n"));
    let comma = format!("{texts}\ndecimal_mark = \",\"");
    assert_eq!(
        typed(&comma, "", "4.5"),
        format!("{heading}\"Vik\",\"07\",\"4,5\",2026-04-03,1\n"),
        "as it needs"
    );
}

#[test]
fn a_sign_stands_behind_where_the_target_wants_it() {
    let number = |upload: &str, keys: &str, value: &str| {
        let text = typed(upload, keys, value);
        text.lines().nth(1).unwrap().split(';').nth(2).unwrap().to_owned()
    };
    let behind = "delimiter = \";\"\nminus = \"behind\"";
    for (value, expected) in [("-4.5", "4.5-"), ("4.5", "4.5"), ("-12", "12-"), ("0", "0"), ("", "")] {
        assert_eq!(number(behind, "", value), expected);
    }
    assert_eq!(number(behind, "all_decimals = true", "-4.5"), "4.50-");
    assert_eq!(number(&format!("{behind}\ndecimal_mark = \",\""), "", "-4.5"), "4,5-");
    assert_eq!(number("delimiter = \";\"\nminus = \"before\"", "", "-4.5"), "-4.5");
}
