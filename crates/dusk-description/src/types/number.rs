//! Numbers, whole and decimal.

use serde_json::{Map, Value as Json};

use super::{Described, FieldType, TypeWord, between, listed};
use crate::beside::{Beside, Open};
use dusk_files::{At, Settings};
use dusk_values::{Decimal, Unit, ValueType};

/// The most digits after the point that a field may ask for.
const MOST_DECIMALS: u64 = 20;

pub(super) static INTEGER: TypeWord = TypeWord {
    word: "integer",
    called: &[
        "integer",
        "int",
        "whole",
        "wholenumber",
        "count",
        "smallint",
        "bigint",
        "tinyint",
        "counter",
        "long",
        "int4",
        "int8",
        "int2",
    ],
    keys: &["min", "max", "unit", "exports_in_unit"],
    read: |field, beside| (FieldType::Number(read(field, beside, 0)), Open::default()),
};

pub(super) static DECIMAL: TypeWord = TypeWord {
    word: "decimal",
    called: &[
        "decimal",
        "dec",
        "float",
        "double",
        "real",
        "money",
        "currency",
        "decimalnumber",
        "measurement",
    ],
    keys: &["min", "max", "unit", "exports_in_unit", "decimals", "all_decimals"],
    read: |field, beside| {
        let decimals = read_decimals(field);
        let all_decimals = field.flag("all_decimals", false);
        (FieldType::Number(NumberType { all_decimals, ..read(field, beside, decimals) }), Open::default())
    },
};

/// A number with at most so many digits after the point.
#[derive(Debug)]
pub struct NumberType {
    /// The most digits after the point; 0 for whole numbers.
    pub decimals: u32,
    /// True where all of them are written, be they zeros: 7.00.
    pub all_decimals: bool,
    /// The unit that the target wants.
    pub unit: Option<&'static Unit>,
    /// True where exports come in that unit, as the dictionary says, so that nobody need confirm it.
    pub exports_in_unit: bool,
    /// The smallest number allowed.
    pub min: Option<Decimal>,
    /// The largest number allowed.
    pub max: Option<Decimal>,
}

impl Described for NumberType {
    fn word(&self) -> &'static str {
        if self.decimals == 0 { INTEGER.word } else { DECIMAL.word }
    }

    fn value_type(&self) -> ValueType {
        ValueType::Number
    }

    fn format(&self) -> String {
        let decimals = match self.decimals {
            0 => None,
            1 => Some("1 decimal".to_owned()),
            more => Some(format!("{more} decimals")),
        };
        let decimals =
            decimals.map(|decimals| if self.all_decimals { format!("always {decimals}") } else { decimals });
        listed([decimals, self.unit.map(|unit| unit.symbol().to_owned())])
    }

    fn values(&self, _: Option<&str>) -> String {
        let number = |limit: &Option<Decimal>| limit.map(|limit| limit.to_string());
        between(number(&self.min), number(&self.max))
    }

    fn datatype(&self, datatype: &mut Map<String, Json>) {
        if self.decimals == 0 {
            datatype.insert("base".into(), "integer".into());
        } else {
            datatype.insert("base".into(), "decimal".into());
            let digit = if self.all_decimals { "0" } else { "#" };
            let format = format!("0.{}", digit.repeat(self.decimals as usize));
            datatype.insert("format".into(), format.into());
        }
        for (key, limit) in [("minimum", self.min), ("maximum", self.max)] {
            if let Some(limit) = limit {
                datatype.insert(key.into(), limit.to_string().into());
            }
        }
    }
}

fn read_decimals(field: &mut Settings<'_>) -> u32 {
    match field.whole("decimals", 1) {
        Some(decimals) if decimals.value <= MOST_DECIMALS => u32::try_from(decimals.value).unwrap_or(0),
        Some(decimals) => {
            field.problem(decimals.line, format!("decimals must be {MOST_DECIMALS} or fewer"), |_| {});
            0
        }
        None if field.has("decimals") => 0,
        None => {
            field.problem(
                field.line(),
                "[[field]] a decimal needs decimals, the most digits after the point",
                |problem| {
                    problem.hint("for example decimals = 2; for whole numbers write type = \"integer\"")
                },
            );
            0
        }
    }
}

fn read(field: &mut Settings<'_>, _: &Beside<'_>, decimals: u32) -> NumberType {
    let unit = field.text("unit").and_then(|symbol| match Unit::named(&symbol.value) {
        Ok(unit) => Some(unit),
        Err(error) => {
            field.problem(symbol.line, error.says, |problem| problem.hint(error.hint));
            None
        }
    });
    let exports_in_unit = field.flag("exports_in_unit", false);
    let min = read_limit(field, "min");
    let max = read_limit(field, "max");
    if let (Some(min), Some(max)) = (&min, &max)
        && min.value > max.value
    {
        let says = format!("max {} is below min {}, so no number is allowed", max.value, min.value);
        field.problem(max.line, says, |_| {});
    }
    NumberType {
        decimals,
        all_decimals: false,
        unit,
        exports_in_unit,
        min: min.map(|at| at.value),
        max: max.map(|at| at.value),
    }
}

fn read_limit(field: &mut Settings<'_>, key: &'static str) -> Option<At<Decimal>> {
    let text = field.number_text(key)?;
    let number = Decimal::parse(&text.value);
    if number.is_none() {
        field.problem(text.line, format!("{key} \"{}\" is not a plain number", text.value), |problem| {
            problem.hint("write it with digits and a point, for example min = \"0.5\"");
        });
    }
    number.map(|value| At { value, line: text.line })
}
