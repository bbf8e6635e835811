//! Columns of a dictionary whose headings do not say what they hold, told by what stands in them.

use super::MaterialSheet;
use super::facts::{DictionaryColumn, FieldFact};
use super::headings::{Role, places};
use super::vocabulary::{Words, meaning};
use super::wording::facts;

/// Columns whose headings nobody knows, told by what stands in them: types, or words for what must be filled.
pub(super) fn tell_by_values(sheet: &MaterialSheet, header: usize, roles: &mut [Option<Role>]) {
    /// So many of the fields are looked at, and so few show nothing.
    const LOOKED_AT: usize = 60;
    const FEWEST: usize = 3;
    use DictionaryColumn::{Allowed, Required, Type};
    if roles.iter().flatten().count() < 2 {
        return;
    }
    // "Form" is the form of a value as well as that of the questions.
    let is_open = |column: &usize| matches!(roles.get(*column), Some(None | Some(Role::Table)));
    let open: Vec<usize> = (0..roles.len()).filter(is_open).collect();
    for column in open {
        let values = sheet.rows_below(header).take(LOOKED_AT).filter_map(|(_, cells)| cells.get(column));
        let values: Vec<&String> = values.filter(|value| !value.is_empty()).collect();
        let mostly = |is_one: &dyn Fn(&str) -> bool| {
            values.len() >= FEWEST
                && values.iter().filter(|value| is_one(value)).count() * 10 >= values.len() * 7
        };
        let is_type = |value: &str| facts(value, Type).iter().any(|fact| matches!(fact, FieldFact::Kind(_)));
        let says_must =
            |value: &str| meaning(Words::Must, value).is_some() && !value.bytes().all(|b| b.is_ascii_digit());
        let says_values = |value: &str| {
            use FieldFact::{Codes, Max, Min, NotAfter, NotBefore, Rule, SeeList};
            let is_one = |fact: &FieldFact| {
                matches!(fact, Codes(_) | Max(_) | Min(_) | NotAfter(_) | NotBefore(_) | Rule(_) | SeeList(_))
            };
            facts(value, Allowed).iter().any(is_one)
        };
        let is_told = |role| roles.contains(&Some(Role::Says(role)));
        let told = if !is_told(Type) && mostly(&is_type) {
            Type
        } else if !is_told(Required) && mostly(&says_must) {
            Required
        } else if !is_told(Allowed) && mostly(&says_values) {
            Allowed
        } else {
            continue;
        };
        if let Some(role) = roles.get_mut(column) {
            *role = Some(Role::Says(told));
        }
    }
}

/// Formats of machines call the names of their fields keys: a column of keys that are all different words.
pub(super) fn name_by_keys(sheet: &MaterialSheet, header: usize, roles: &mut [Option<Role>]) {
    if roles.contains(&Some(Role::Name)) {
        return;
    }
    for column in places(roles, Role::Says(DictionaryColumn::Key)) {
        let mut seen = hashbrown::HashSet::new();
        let is_name = |text: &String| {
            text.chars().count() > 1 && !text.contains(char::is_whitespace) && seen.insert(text.clone())
        };
        let values = sheet.rows_below(header).take(8).filter_map(|(_, cells)| cells.get(column));
        let values: Vec<&String> = values.filter(|text| !text.is_empty()).collect();
        if values.len() > 2 && values.into_iter().all(is_name) {
            if let Some(role) = roles.get_mut(column) {
                *role = Some(Role::Name);
            }
            return;
        }
    }
}

/// "From" and "to" are positions in a record where each field begins right behind the one before it.
pub(super) fn pass_over_positions(sheet: &MaterialSheet, header: usize, roles: &mut [Option<Role>]) {
    let column = |roles: &[Option<Role>], says| places(roles, Role::Says(says)).first().copied();
    let (Some(from), Some(to)) = (column(roles, DictionaryColumn::Min), column(roles, DictionaryColumn::Max))
    else {
        return;
    };
    let number = |cells: &[String], column: usize| cells.get(column)?.parse::<u64>().ok();
    let fields =
        sheet.rows_below(header).filter_map(|(_, cells)| Some((number(cells, from)?, number(cells, to)?)));
    let fields: Vec<(u64, u64)> = fields.collect();
    let follow =
        fields.iter().zip(fields.iter().skip(1)).filter(|((_, end), (next, _))| end + 1 == *next).count();
    if fields.len() > 2 && follow * 10 >= (fields.len() - 1) * 8 {
        for column in [from, to] {
            if let Some(role) = roles.get_mut(column) {
                *role = Some(Role::Aside);
            }
        }
    }
}
