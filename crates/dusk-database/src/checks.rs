//! What the checks of a table demand: of one column, or as a rule in the language of descriptions.

use sqlparser::ast::{
    Array, BinaryOperator, EnumMember, Expr, FunctionArg, FunctionArgExpr, FunctionArguments, InTarget,
    UnaryOperator, Value,
};

use super::TableColumn;
use dusk_values::Decimal;

/// What one part of a check says.
#[derive(Debug)]
pub(super) enum Checked {
    /// It demands something of one column.
    Column(String, Demand),
    /// It is a rule; in the words of SQL where the language of rules does not have them.
    Rule(String),
}

/// What is demanded of a column.
#[derive(Debug)]
pub(super) enum Demand {
    Among(Vec<String>),
    Within(String, String),
    Least(String),
    Most(String),
    /// The value itself is not allowed any more.
    MoreThan(String),
    LessThan(String),
    Pattern(String),
    Longest(u64),
    Filled,
}

impl Demand {
    pub(super) fn put_on(self, column: &mut TableColumn) {
        match self {
            Self::Among(words) => column.among = words,
            Self::Within(least, most) => column.limits = (Some(least), Some(most)),
            Self::Least(least) => column.limits.0 = Some(least),
            Self::Most(most) => column.limits.1 = Some(most),
            Self::MoreThan(limit) => column.beyond.0 = Some(limit),
            Self::LessThan(limit) => column.beyond.1 = Some(limit),
            Self::Pattern(pattern) => column.pattern = Some(pattern),
            Self::Longest(length) => column.longest = Some(length),
            Self::Filled => column.not_null = true,
        }
    }
}

/// The parts of a check that all have to hold.
pub(super) fn conjuncts(expr: &Expr) -> Vec<&Expr> {
    match bare(expr) {
        Expr::BinaryOp { left, op: BinaryOperator::And, right } => {
            [conjuncts(left), conjuncts(right)].concat()
        }
        other => vec![other],
    }
}

/// An expression without brackets and casts around it.
fn bare(expr: &Expr) -> &Expr {
    match expr {
        Expr::Nested(inner) => bare(inner),
        Expr::Cast { expr, .. } => bare(expr),
        other => other,
    }
}

/// The name of the column that an expression is.
pub(super) fn column_of(expr: &Expr) -> Option<String> {
    match bare(expr) {
        Expr::Identifier(name) => Some(name.value.clone()),
        Expr::CompoundIdentifier(names) => names.last().map(|name| name.value.clone()),
        _ => None,
    }
}

/// The value that an expression writes; nothing for null and for what has to be reckoned.
pub(super) fn value_of(expr: &Expr) -> Option<String> {
    match bare(expr) {
        Expr::Value(value) => match &value.value {
            Value::Number(number, _) => Some(number.clone()),
            Value::Boolean(says) => Some(says.to_string()),
            other => other.clone().into_string(),
        },
        Expr::TypedString(typed) => typed.value.value.clone().into_string(),
        Expr::UnaryOp { op: UnaryOperator::Minus, expr } => value_of(expr).map(|value| format!("-{value}")),
        Expr::Prefixed { value, .. } => value_of(value),
        _ => None,
    }
}

/// The word of a list of words that is a type.
pub(super) fn word_of(member: &EnumMember) -> Option<String> {
    match member {
        EnumMember::Name(word) | EnumMember::NamedValue(word, _) => Some(word.clone()),
    }
}

/// What one part of a check demands.
pub(super) fn read(expr: &Expr) -> Checked {
    of_column(expr)
        .map(|(column, demand)| Checked::Column(column, demand))
        .unwrap_or_else(|| Checked::Rule(in_rules(expr).unwrap_or_else(|| expr.to_string())))
}

fn of_column(expr: &Expr) -> Option<(String, Demand)> {
    match bare(expr) {
        Expr::In { expr, target: InTarget::List(list), negated: false, .. } => {
            let values: Option<Vec<String>> = list.iter().map(value_of).collect();
            Some((column_of(expr)?, Demand::Among(values?)))
        }
        Expr::AnyOp { left, compare_op: BinaryOperator::Eq, right, .. } => {
            let Expr::Array(Array { elem, .. }) = bare(right) else { return None };
            let values: Option<Vec<String>> = elem.iter().map(value_of).collect();
            Some((column_of(left)?, Demand::Among(values?)))
        }
        Expr::Between { expr, negated: false, low, high } => {
            let number = |expr: &Expr| Some(Decimal::parse(&value_of(expr)?)?.to_string());
            Some((column_of(expr)?, Demand::Within(number(low)?, number(high)?)))
        }
        Expr::IsNotNull(expr) => Some((column_of(expr)?, Demand::Filled)),
        Expr::BinaryOp { left, op: BinaryOperator::PGRegexMatch, right } => {
            Some((column_of(left)?, Demand::Pattern(whole_pattern(&value_of(right)?))))
        }
        Expr::RLike { negated: false, expr, pattern, .. } => {
            Some((column_of(expr)?, Demand::Pattern(whole_pattern(&value_of(pattern)?))))
        }
        Expr::BinaryOp { left, op, right } => {
            if let Some(column) = column_of(left) {
                return Some((column, limit(op, &value_of(right)?)?));
            }
            let of = measured(left)?;
            let length = value_of(right)?.parse().ok()?;
            match op {
                BinaryOperator::LtEq => Some((of, Demand::Longest(length))),
                BinaryOperator::Lt => Some((of, Demand::Longest(length.saturating_sub(1)))),
                _ => None,
            }
        }
        _ => None,
    }
}

fn limit(op: &BinaryOperator, value: &str) -> Option<Demand> {
    let limit = Decimal::parse(value)?.to_string();
    match op {
        BinaryOperator::GtEq => Some(Demand::Least(limit)),
        BinaryOperator::LtEq => Some(Demand::Most(limit)),
        BinaryOperator::Gt => Some(Demand::MoreThan(limit)),
        BinaryOperator::Lt => Some(Demand::LessThan(limit)),
        _ => None,
    }
}

/// The column whose length an expression is.
fn measured(expr: &Expr) -> Option<String> {
    let Expr::Function(function) = bare(expr) else { return None };
    let name = function.name.to_string().to_ascii_lowercase();
    matches!(name.as_str(), "length" | "char_length" | "character_length" | "len").then_some(())?;
    let FunctionArguments::List(list) = &function.args else { return None };
    match list.args.as_slice() {
        [FunctionArg::Unnamed(FunctionArgExpr::Expr(only))] => column_of(only),
        _ => None,
    }
}

/// A pattern that a text has somewhere in it, as one for the whole text.
fn whole_pattern(pattern: &str) -> String {
    let (begins, inner) = pattern.strip_prefix('^').map_or((false, pattern), |inner| (true, inner));
    let (ends, inner) = inner.strip_suffix('$').map_or((false, inner), |inner| (true, inner));
    format!("{}{inner}{}", if begins { "" } else { ".*" }, if ends { "" } else { ".*" })
}

/// An expression in the language of rules.
fn in_rules(expr: &Expr) -> Option<String> {
    match expr {
        Expr::Nested(inner) => Some(format!("({})", in_rules(inner)?)),
        Expr::Cast { expr, .. } => in_rules(expr),
        Expr::Identifier(_) | Expr::CompoundIdentifier(_) => column_of(expr),
        Expr::Value(value) => match &value.value {
            Value::Number(number, _) => Some(number.clone()),
            Value::Boolean(says) => Some(says.to_string()),
            other => other.clone().into_string().map(|text| format!("\"{}\"", text.replace('"', "\"\""))),
        },
        Expr::TypedString(_) => value_of(expr),
        Expr::UnaryOp { op: UnaryOperator::Not, expr } => Some(format!("not ({})", in_rules(expr)?)),
        Expr::UnaryOp { op: UnaryOperator::Minus, .. } => value_of(expr),
        Expr::IsNull(inner) => Some(format!("{} is blank", in_rules(inner)?)),
        Expr::IsNotNull(inner) => Some(format!("{} is not blank", in_rules(inner)?)),
        Expr::In { expr, target: InTarget::List(list), negated, .. } => {
            let values: Option<Vec<String>> = list.iter().map(in_rules).collect();
            let not = if *negated { "not " } else { "" };
            Some(format!("{} {not}in ({})", in_rules(expr)?, values?.join(", ")))
        }
        Expr::Between { expr, negated, low, high } => {
            let between = format!("{} between {} and {}", in_rules(expr)?, in_rules(low)?, in_rules(high)?);
            Some(if *negated { format!("not ({between})") } else { between })
        }
        Expr::BinaryOp { left, op, right } => {
            let sign = match op {
                BinaryOperator::Eq => "=",
                BinaryOperator::NotEq => "!=",
                BinaryOperator::Lt => "<",
                BinaryOperator::LtEq => "<=",
                BinaryOperator::Gt => ">",
                BinaryOperator::GtEq => ">=",
                BinaryOperator::And => "and",
                BinaryOperator::Or => "or",
                BinaryOperator::Plus => "+",
                BinaryOperator::Minus => "-",
                BinaryOperator::Multiply => "*",
                _ => return None,
            };
            Some(format!("{} {sign} {}", in_rules(left)?, in_rules(right)?))
        }
        Expr::Function(function) if function.name.to_string().eq_ignore_ascii_case("current_date") => {
            Some("today".into())
        }
        _ => None,
    }
}
