//! Bibliographic records (ISO 2709) as uploads: those of the export with fields set or added, and new ones.

use crate::desk::Desk;

const FIELD_END: u8 = 0x1e;
const RECORD_END: u8 = 0x1d;

/// A record of these fields as another program would write it: `$` stands for the mark of a subfield.
fn record(fields: &[(&str, &str)]) -> Vec<u8> {
    let (mut directory, mut data) = (String::new(), Vec::new());
    for (tag, text) in fields {
        let text = text.replace('$', "\u{1f}");
        directory.push_str(&format!("{tag}{:04}{:05}", text.len() + 1, data.len()));
        data.extend_from_slice(text.as_bytes());
        data.push(FIELD_END);
    }
    let base = 24 + directory.len() + 1;
    let length = base + data.len() + 1;
    let mut all = format!("{length:05}nam a22{base:05} a 4500").into_bytes();
    all.extend_from_slice(directory.as_bytes());
    all.push(FIELD_END);
    all.extend_from_slice(&data);
    all.push(RECORD_END);
    all
}

fn bees(note: &str) -> Vec<u8> {
    let fields = [
        ("001", "77"),
        ("245", "10$aBees$bof Öst"),
        ("590", note),
        ("650", " 0$aHoney"),
        ("650", " 0$aWax"),
        ("900", "  $xkeep"),
    ];
    let fields: Vec<_> = fields.into_iter().filter(|(_, text)| !text.is_empty()).collect();
    record(&fields)
}

fn wasps(note: &str) -> Vec<u8> {
    let fields = [("001", "78"), ("245", "00$aWasps"), ("590", note)];
    let fields: Vec<_> = fields.into_iter().filter(|(_, text)| !text.is_empty()).collect();
    record(&fields)
}

const TARGET: &str = "[target]\nname = \"Union catalogue\"\n[upload]\nformat = \"iso2709\"\nfile_name = \"up.mrc\"\n\
    [[field]]\nname = \"control\"\nheading = \"001\"\ntype = \"text\"\nkey = true\nrequired = true\n\
    [[field]]\nname = \"note\"\nheading = \"590$a\"\ntype = \"text\"\nmax_length = 20\n";

const MAPPING: &str = "target = \"target.toml\"\n[[map]]\nfield = \"control\"\nfrom = \"001\"\n\
    [[map]]\nfield = \"note\"\nconstant = \"seen {by}\"\n[ask]\nby = \"Who?\"\n";

fn desk(target: &str, mapping: &str, records: &[Vec<u8>]) -> Desk {
    Desk::empty()
        .with("target.toml", target)
        .with("mapping.toml", mapping)
        .with_bytes("export.mrc", &records.concat())
}

fn conform(desk: &Desk, more: &[&str], status: i32) -> crate::desk::Ran {
    let words = ["conform", "export.mrc", "-o", "batch", "--today", "2026-04-30"];
    desk.run(&[&words[..], more].concat()).ended(status)
}

fn upload(desk: &Desk) -> Vec<u8> {
    desk.read_bytes("batch/upload/up.mrc")
}

#[test]
fn a_note_is_stamped_on_all_records_and_the_rest_stays_byte_for_byte() {
    let desk = desk(TARGET, MAPPING, &[bees(""), wasps("  $aold$5DB")]);
    conform(&desk, &["--set", "by=clerk"], 0);
    assert_eq!(upload(&desk), [bees("  $aseen clerk"), wasps("  $aseen clerk$5DB")].concat());
    let rows = desk.read("batch/rows.csv");
    assert!(rows.contains("sent,78,up.mrc,2,2"), "the second record is told by its number\n{rows}");
    desk.run(&["explain", "batch/upload/up.mrc:2", "--set", "by=clerk"])
        .ended(0)
        .says(&["accepted", "\"78\""]);
    // Read once more, the upload is an export that needs nothing.
    let again = self::desk(
        TARGET,
        &MAPPING.replace("constant = \"seen {by}\"\n[ask]\nby = \"Who?\"", "from = \"590$a\""),
        &[],
    );
    std::fs::write(again.path("export.mrc"), upload(&desk)).unwrap();
    conform(&again, &[], 0);
    assert_eq!(upload(&again), upload(&desk));
}

#[test]
fn a_field_is_added_to_each_record_beside_those_that_it_has() {
    let target = TARGET.replace("heading = \"590$a\"", "heading = \"590$a\"\nadded = true")
        + "[[field]]\nname = \"first\"\nheading = \"590@1\"\nadded = true\ntype = \"text\"\nmax_length = 1\n\
           [[field]]\nname = \"agency\"\nheading = \"590$5\"\nadded = true\ntype = \"text\"\nfixed = \"DB\"\n";
    let mapping = MAPPING.to_owned() + "[[map]]\nfield = \"first\"\nconstant = \"8\"\n";
    let desk = desk(&target, &mapping, &[wasps("  $aold"), wasps("").clone()]);
    let twice = desk.read_bytes("export.mrc");
    std::fs::write(desk.path("export.mrc"), String::from_utf8(twice).unwrap().replacen("78", "79", 1))
        .unwrap();
    conform(&desk, &["--set", "by=clerk"], 0);
    let expected = |number: &str, notes: &[&str]| {
        let mut fields = vec![("001", number), ("245", "00$aWasps")];
        fields.extend(notes.iter().map(|note| ("590", *note)));
        record(&fields)
    };
    let stamp = "8 $aseen clerk$5DB";
    assert_eq!(upload(&desk), [expected("79", &["  $aold", stamp]), expected("78", &[stamp])].concat());
}

#[test]
fn a_record_in_which_nothing_is_set_is_not_touched_and_a_rejected_one_stays_behind() {
    let mapping = MAPPING.replace("constant = \"seen {by}\"\n[ask]\nby = \"Who?\"", "from = \"590$a\"");
    let target = TARGET.replace("heading = \"001\"\ntype", "heading = \"003\"\ntype");
    // Lengths that another program left at their most are kept where nothing is set.
    let mut odd = wasps("");
    odd[..5].copy_from_slice(b"99999");
    let long =
        record(&[("001", "80"), ("245", "00$aHornets"), ("590", "  $athis note is longer than twenty")]);
    let mut damaged = wasps("");
    damaged[30] = b'x';
    let desk = desk(
        &target,
        &mapping.replace("field = \"control\"\nfrom = \"001\"", "field = \"control\"\nconstant = \"DB\""),
        &[odd.clone()],
    );
    conform(&desk, &[], 0);
    let with_agency = record(&[("001", "78"), ("003", "DB"), ("245", "00$aWasps")]);
    assert_eq!(upload(&desk), with_agency);
    let desk = self::desk(&TARGET.replace("required = true", "only_part = true").replace("key = true\n", "")
        .replace("[[field]]\nname = \"note\"", "[[field]]\nname = \"whole\"\nheading = \"999$z\"\ntype = \"text\"\nmade_of = \"{control}\"\nnever = 1\n[[field]]\nname = \"note\"")
        .replace("never = 1\n", ""), &mapping.replace("[[map]]\nfield = \"control\"\nfrom = \"001\"\n", ""), &[odd.clone(), long, damaged, bees("")]);
    let ran = conform(&desk, &[], 1);
    assert!(ran.out.contains("4 rows read = 2 accepted + 2 rejected"), "{}", ran.out);
    assert_eq!(upload(&desk), [odd, bees("")].concat(), "to the last byte");
}

#[test]
fn new_records_are_made_of_a_table() {
    let target = TARGET.to_owned()
        + "[[field]]\nname = \"title\"\nheading = \"245$a\"\ntype = \"text\"\n[[field]]\nname = \"first\"\nheading = \"245@1\"\ntype = \"code\"\ncodes = \"codes/added.csv\"\n";
    let mapping = "target = \"target.toml\"\n[[map]]\nfield = \"control\"\nfrom = \"No\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"\n\
        [[map]]\nfield = \"title\"\nfrom = \"Title\"\n[[map]]\nfield = \"first\"\nfrom = \"Added entry\"\n";
    let desk = desk(&target, mapping, &[])
        .with("codes/added.csv", "code,label\n0,no\n1,yes\n")
        .with("export.csv", "No,Title,Note,Added entry\n5,Bees of Öst,,yes\n6,Wax,old,\n");
    desk.conform().ended(0);
    let expected = [
        record(&[("001", "5"), ("245", "1 $aBees of Öst")]),
        record(&[("001", "6"), ("245", "  $aWax"), ("590", "  $aold")]),
    ];
    assert_eq!(String::from_utf8(upload(&desk)).unwrap(), String::from_utf8(expected.concat()).unwrap());
    // What is uploaded is read as such a file.
    std::fs::copy(desk.path("batch/upload/up.mrc"), desk.path("again.mrc")).unwrap();
    desk.run(&["inspect", "again.mrc"]).ended(0).says(&["245$a", "ISO 2709"]);
    desk.edited("target.toml", "[upload]\n", "[upload]\nleader = \"00000nkm a2200000 i 4500\"\n")
        .run(&["conform", "export.csv", "-o", "other", "--again"])
        .ended(0);
}

#[test]
fn places_that_are_none_in_a_record_are_refused() {
    for (old, new, says) in [
        ("590$a", "590", "\"590\" is not a place in a bibliographic record"),
        ("590$a", "Note", "\"Note\" is not a place"),
        ("590$a", "001$a", "\"001$a\" is not a place"),
        ("590$a", "590@1", "note is an indicator, and may take more than one character"),
        (
            "format = \"iso2709\"",
            "format = \"iso2709\"\nleader = \"short\"",
            "leader \"short\" is not of 24 characters",
        ),
        (
            "format = \"iso2709\"",
            "format = \"iso2709\"\ndelimiter = \";\"",
            "delimiter goes with format = \"delimited\"",
        ),
        (
            "format = \"iso2709\"\nfile_name = \"up.mrc\"",
            "file_name = \"up.csv\"\n[[field]]\nname = \"x\"\ntype = \"text\"\nadded = true",
            "x is added, which goes with",
        ),
        (
            "max_length = 20",
            "max_length = 20\n[[field]]\nname = \"more\"\nheading = \"590$b\"\ntype = \"text\"\nadded = true",
            "more is in field 590, of which another part is not added",
        ),
    ] {
        desk(&TARGET.replacen(old, new, 1), MAPPING, &[]).run(&["target", "check"]).ended(1).says(&[says]);
    }
}

#[test]
fn what_a_record_has_no_room_for_is_said_with_its_row() {
    let target = TARGET.replace("\nmax_length = 20", "");
    let mapping = MAPPING
        .replace("constant = \"seen {by}\"\n[ask]\nby = \"Who?\"", "constant = \"NOTE\"")
        .replace("NOTE", &"x".repeat(10_000));
    let too_long = desk(&target, &mapping, &[bees(""), wasps("")]);
    conform(&too_long, &[], 2).stops(&["row", "export.mrc cannot be written", "590", "9999"]);
    assert!(!too_long.exists("batch"), "nothing is left of the batch");
    // A mark of the format in a value would be another field.
    let marked = desk(
        &target,
        &MAPPING.replace("constant = \"seen {by}\"\n[ask]\nby = \"Who?\"", "constant = \"a\\u001eb\""),
        &[bees("")],
    );
    let ran = marked.run(&["check", "export.mrc"]);
    assert_ne!(ran.status, 0, "{ran:?}");
    // Rows of repeated fields are no records.
    let rows = desk(TARGET, &format!("{MAPPING}[source]\neach = \"650\"\n"), &[bees("")]);
    conform(&rows, &["--set", "by=x"], 2).stops(&["makes several rows", "each"]);
}

#[test]
fn records_of_a_packed_file_and_of_two_files_are_found_again() {
    let desk = desk(TARGET, MAPPING, &[wasps("")]);
    let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    std::io::Write::write_all(&mut packed, &bees("")).unwrap();
    std::fs::write(desk.path("more.mrc.gz"), packed.finish().unwrap()).unwrap();
    desk.run(&["conform", "more.mrc.gz", "export.mrc", "-o", "batch", "--set", "by=clerk"]).ended(0);
    assert_eq!(upload(&desk), [bees("  $aseen clerk"), wasps("  $aseen clerk")].concat());
    desk.run(&["trial", "export.mrc", "--set", "by=clerk", "-o", "try.mrc"]).ended(0);
    assert_eq!(desk.read_bytes("try.mrc"), wasps("  $aseen clerk"));
}

#[test]
fn records_as_lines_of_text_are_written_back_as_lines_or_as_bytes() {
    let lines = "=LDR  00000nam a2200000 a 4500\n=001  77\n=245  10$aBees$bof Öst\n=590  \\\\$aold $5DB\n\n\n=LDR  00000nam a2200000 a 4500\n=001  78\n=245  00$aWasps\n\n";
    let target = TARGET
        .replace("format = \"iso2709\"", "format = \"iso2709\"\nrecord_form = \"lines\"")
        .replace("up.mrc", "up.txt");
    let desk = desk(&target, MAPPING, &[]).with("export.txt", lines);
    desk.run(&["conform", "export.txt", "-o", "batch", "--set", "by=clerk"]).ended(0);
    let stamped = lines
        .replace("=590  \\\\$aold $5DB\n", "=590  \\\\$aseen clerk$5DB\n")
        .replace("$aWasps\n", "$aWasps\n=590  \\\\$aseen clerk\n");
    assert_eq!(desk.read("batch/upload/up.txt"), stamped);
    desk.run(&["explain", "batch/upload/up.txt:7", "--set", "by=clerk"]).ended(0).says(&["\"78\""]);
    desk.run(&["trial", "export.txt", "--set", "by=clerk", "--as-file"])
        .ended(0)
        .says(&["=245  10$aBees$bof Öst", "=590  \\\\$aseen clerk$5DB"]);
    // Nothing is set: nothing is touched.
    let nothing = desk.edited("mapping.toml", "constant = \"seen {by}\"", "constant = \"\"").edited(
        "mapping.toml",
        "[ask]\nby = \"Who?\"",
        "",
    );
    nothing.run(&["conform", "export.txt", "-o", "again", "--again"]).ended(0);
    assert_eq!(nothing.read("again/upload/up.txt"), lines);
    // Either form becomes the other, with all of its fields.
    let binary = self::desk(TARGET, MAPPING, &[]).with("export.txt", lines);
    binary.run(&["conform", "export.txt", "-o", "batch", "--set", "by=clerk"]).ended(0);
    let first = record(&[("001", "77"), ("245", "10$aBees$bof Öst"), ("590", "  $aseen clerk$5DB")]);
    assert!(upload(&binary).starts_with(&first), "{}", String::from_utf8_lossy(&upload(&binary)));
    let back = self::desk(&target, MAPPING, &[bees("")]);
    conform(&back, &["--set", "by=clerk"], 0);
    let text = back.read("batch/upload/up.txt");
    for line in [
        "=001  77\n",
        "=650  \\0$aHoney\n=650  \\0$aWax\n",
        "=590  \\\\$aseen clerk\n",
        "=900  \\\\$xkeep\n\n",
    ] {
        assert!(text.contains(line), "{line} is not in\n{text}");
    }
}

#[test]
fn what_is_no_indicator_rejects_its_row_and_blanks_of_subfields_are_kept() {
    let target = TARGET.to_owned()
        + "[[field]]\nname = \"first\"\nheading = \"590@1\"\ntype = \"text\"\nmax_length = 1\n";
    let mapping = "target = \"target.toml\"\n[[map]]\nfield = \"control\"\nfrom = \"No\"\n[[map]]\nfield = \"note\"\nfrom = \"Note\"\n\
        [[map]]\nfield = \"first\"\nfrom = \"First\"\n";
    let desk = desk(&target, mapping, &[]).with("export.csv", "No,Note,First\n5,a,8\n6,b,é\n7,c,\n");
    desk.conform().ended(1).says(&["3 rows read = 2 accepted + 1 rejected"]);
    let expected = [record(&[("001", "5"), ("590", "8 $aa")]), record(&[("001", "7"), ("590", "  $ac")])];
    assert_eq!(upload(&desk), expected.concat());
    let lines = "=001  77\n=245  10$a Bees $bof Öst \n";
    let binary = self::desk(TARGET, MAPPING, &[]).with("export.txt", lines);
    binary.run(&["conform", "export.txt", "-o", "batch", "--set", "by=x"]).ended(0);
    assert_eq!(
        upload(&binary),
        record(&[("001", "77"), ("245", "10$a Bees $bof Öst "), ("590", "  $aseen x")])
    );
}
