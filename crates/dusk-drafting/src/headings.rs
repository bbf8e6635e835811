//! What the columns of a dictionary and of a code list mean, by their headings.

use super::facts::{DictionaryColumn, fold};

/// What a column of a dictionary holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Role {
    Name,
    Label,
    Also,
    Description,
    Note,
    Default,
    Rule,
    /// The table or record type that the field belongs to.
    Table,
    /// Something that a description has no use for: a number, an example, a heading of groups.
    Aside,
    Says(DictionaryColumn),
}

const ROLES: &[(Role, &[&str])] = &[
    (
        Role::Name,
        &[
            "field",
            "fieldname",
            "variable",
            "variablename",
            "column",
            "columnname",
            "columnheading",
            "columnheader",
            "element",
            "dataelement",
            "elementname",
            "item",
            "dataitem",
            "attribute",
            "attributename",
            "name",
            "header",
            "heading",
            "tag",
            "fieldid",
            "parameter",
            "shortname",
            "columninfile",
            "fieldcode",
            "systemname",
            "property",
            "uploadcolumn",
            "itemname",
            "var",
        ],
    ),
    (
        Role::Label,
        &[
            "label",
            "title",
            "question",
            "questiontext",
            "caption",
            "displayname",
            "longname",
            "fullname",
            "plainname",
            "prompt",
            "friendlyname",
            "fieldlabel",
            "onform",
            "ontheform",
            "screenname",
            "variablelabel",
            "fieldtitle",
            "nameonform",
            "whatpeoplecallit",
        ],
    ),
    (
        Role::Also,
        &["synonyms", "alsoknownas", "aliases", "alias", "othernames", "oldname", "formername", "alsocalled"],
    ),
    (
        Role::Description,
        &[
            "description",
            "definition",
            "explanation",
            "help",
            "details",
            "guidance",
            "meaning",
            "whatitis",
            "fielddescription",
        ],
    ),
    (
        Role::Note,
        &[
            "notes",
            "note",
            "comment",
            "comments",
            "remark",
            "remarks",
            "instructions",
            "conditions",
            "condition",
            "businessrules",
        ],
    ),
    (Role::Default, &["default", "defaultvalue", "usualvalue"]),
    (Role::Rule, &["rule", "rules", "validation", "check", "validationrule", "constraint", "constraints"]),
    (Role::Table, &["table", "tablename", "recordtype", "file", "entity", "form", "dataset"]),
    (
        Role::Aside,
        &[
            "no",
            "nr",
            "number",
            "pos",
            "position",
            "order",
            "seq",
            "sequence",
            "col",
            "example",
            "examples",
            "sample",
            "samplevalue",
            "section",
            "group",
            "module",
            "eg",
        ],
    ),
    (
        Role::Says(DictionaryColumn::Type),
        &[
            "type",
            "datatype",
            "fieldtype",
            "kind",
            "valuetype",
            "storagetype",
            "formattype",
            "typeandlength",
            "typelength",
            "kindofvalue",
        ],
    ),
    (
        Role::Says(DictionaryColumn::Length),
        &[
            "length",
            "maxlength",
            "maxlen",
            "size",
            "width",
            "fieldlength",
            "characters",
            "maxcharacters",
            "len",
            "maxsize",
            "maximumlength",
            "chars",
            "lengthmax",
        ],
    ),
    (Role::Says(DictionaryColumn::Decimals), &["decimals", "decimalplaces", "dp", "scale"]),
    (
        Role::Says(DictionaryColumn::Required),
        &[
            "required",
            "mandatory",
            "mand",
            "mo",
            "moc",
            "obligation",
            "mustbefilled",
            "necessity",
            "presence",
            "compulsory",
            "requirement",
            "needed",
            "req",
            "mandatoryoptional",
            "requiredoptional",
            "obligatory",
            "must",
            "notnull",
            "completeness",
        ],
    ),
    (
        Role::Says(DictionaryColumn::Optional),
        &["optional", "nullable", "nullallowed", "blankallowed", "maybeblank", "nulls", "null"],
    ),
    (
        Role::Says(DictionaryColumn::Format),
        &["format", "pattern", "mask", "dateformat", "picture", "layout", "writtenas", "inputmask"],
    ),
    (
        Role::Says(DictionaryColumn::Allowed),
        &[
            "allowedvalues",
            "allowed",
            "values",
            "validvalues",
            "codelist",
            "codes",
            "valuelist",
            "permittedvalues",
            "domain",
            "options",
            "choices",
            "picklist",
            "lookup",
            "answers",
            "list",
            "codeset",
            "valueset",
            "possiblevalues",
            "enumeration",
            "range",
            "validrange",
            "responseoptions",
            "coding",
            "acceptedvalues",
            "valuesallowed",
            "whatmaystandthere",
            "allowedrange",
            "valuesorcodes",
        ],
    ),
    (
        Role::Says(DictionaryColumn::Min),
        &["minimum", "min", "lowest", "lowerlimit", "from", "smallest", "minvalue"],
    ),
    (
        Role::Says(DictionaryColumn::Max),
        &["maximum", "max", "highest", "upperlimit", "to", "largest", "maxvalue"],
    ),
    (Role::Says(DictionaryColumn::Unit), &["unit", "units", "unitofmeasure", "uom", "measuredin"]),
    (
        Role::Says(DictionaryColumn::Key),
        &["key", "primarykey", "pk", "unique", "identifies", "iskey", "partofkey"],
    ),
];

/// What a heading says that its column holds.
pub(super) fn role(heading: &str) -> Option<Role> {
    known(heading, ROLES)
}

/// What a column of a code list holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum ListRole {
    Code,
    Label,
    Also,
    Within,
    Until,
    Status,
    ReplacedBy,
    /// The list, or the field, that the code belongs to.
    List,
    Aside,
}

const LIST_ROLES: &[(ListRole, &[&str])] = &[
    (
        ListRole::Code,
        &[
            "code",
            "value",
            "key",
            "abbreviation",
            "abbr",
            "symbol",
            "codevalue",
            "id",
            "shortcode",
            "no",
            "nr",
        ],
    ),
    (
        ListRole::Label,
        &[
            "label",
            "meaning",
            "name",
            "description",
            "term",
            "text",
            "title",
            "definition",
            "longname",
            "display",
            "valuelabel",
            "codelabel",
            "codedescription",
            "decode",
            "means",
        ],
    ),
    (
        ListRole::Also,
        &["also", "synonyms", "othernames", "aliases", "alsocalled", "othernamesforit", "oldspelling"],
    ),
    (
        ListRole::Within,
        &[
            "within",
            "parent",
            "parentcode",
            "belongsto",
            "partof",
            "inside",
            "liesin",
            "inregion",
            "ofregion",
        ],
    ),
    (
        ListRole::Until,
        &[
            "until",
            "validuntil",
            "validto",
            "enddate",
            "expires",
            "expiry",
            "retired",
            "retiredon",
            "lastday",
            "discontinued",
            "withdrawn",
            "to",
            "closed",
            "usableuntil",
        ],
    ),
    (ListRole::Status, &["status", "active", "inuse", "state", "current"]),
    (
        ListRole::ReplacedBy,
        &[
            "replacedby",
            "replacement",
            "successor",
            "useinstead",
            "supersededby",
            "newcode",
            "mergedinto",
            "now",
            "replacedwith",
        ],
    ),
    (
        ListRole::List,
        &[
            "list",
            "codelist",
            "listname",
            "field",
            "variable",
            "domain",
            "codeset",
            "set",
            "fieldname",
            "variablename",
            "column",
            "nameoflist",
        ],
    ),
    (
        ListRole::Aside,
        &[
            "validfrom",
            "from",
            "startdate",
            "order",
            "sort",
            "sortorder",
            "notes",
            "note",
            "comment",
            "comments",
            "remarks",
        ],
    ),
];

/// What a heading says that its column of a code list holds.
pub(super) fn list_role(heading: &str) -> Option<ListRole> {
    known(heading, LIST_ROLES).or_else(|| {
        let folded = fold(heading);
        if ["code", "id", "abbreviation", "key"].iter().any(|ending| folded.ends_with(ending)) {
            Some(ListRole::Code)
        } else if ["name", "label", "description", "meaning"].iter().any(|ending| folded.ends_with(ending)) {
            Some(ListRole::Label)
        } else {
            None
        }
    })
}

fn known<R: Copy>(heading: &str, roles: &[(R, &[&str])]) -> Option<R> {
    // What stands in brackets or behind a question mark explains the heading.
    let plain = heading.split(['(', '[', '\n']).next().unwrap_or_default();
    [plain, heading].into_iter().map(fold).find_map(|folded| {
        roles.iter().find(|(_, words)| words.contains(&folded.as_str())).map(|(role, _)| *role)
    })
}

/// A name that commands and rules can use: letters, digits and underscores.
pub(super) fn identifier(name: &str) -> String {
    let is_one = name.chars().next().is_some_and(|c| c.is_alphabetic() || c == '_')
        && name.chars().all(|c| c.is_alphanumeric() || c == '_');
    if is_one {
        return name.to_owned();
    }
    let plain = name.split(['(', '[']).next().filter(|plain| !plain.trim().is_empty()).unwrap_or(name);
    let words: Vec<String> = plain
        .split(|c: char| !c.is_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_lowercase)
        .collect();
    let joined = words.join("_");
    if joined.starts_with(|c: char| c.is_ascii_digit()) || joined.is_empty() {
        format!("f_{joined}")
    } else {
        joined
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headings_are_known_whatever_their_case_and_marks() {
        assert_eq!(role("FIELD NAME"), Some(Role::Name));
        assert_eq!(role("Mandatory? (Y/N)"), Some(Role::Says(DictionaryColumn::Required)));
        assert_eq!(role("Max. length"), Some(Role::Says(DictionaryColumn::Length)));
        assert_eq!(role("allowed_values"), Some(Role::Says(DictionaryColumn::Allowed)));
        assert_eq!(role("Weather"), None);
        assert_eq!(list_role("Colour code"), Some(ListRole::Code));
        assert_eq!(list_role("Region name"), Some(ListRole::Label));
        assert_eq!(list_role("Valid until"), Some(ListRole::Until));
        assert_eq!(list_role("District"), None);
    }

    #[test]
    fn names_become_plain_words() {
        for (name, word) in [
            ("visit_date", "visit_date"),
            ("Date of visit", "date_of_visit"),
            ("Honey (kg)", "honey"),
            ("1st choice?", "f_1st_choice"),
            ("Größe", "Größe"),
            ("(none)", "none"),
        ] {
            assert_eq!(identifier(name), word);
        }
    }
}
