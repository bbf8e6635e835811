//! In which order a date writes day, month and year.

/// The order of the parts of a date.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum DateOrder {
    /// 31/12/2026.
    DayMonthYear,
    /// 12/31/2026.
    MonthDayYear,
    /// 2026/12/31.
    YearMonthDay,
    /// 2026/31/12: nobody writes so, but a program that swapped day and month leaves it behind.
    YearDayMonth,
}

impl DateOrder {
    /// The orders that people write.
    pub const ALL: [Self; 3] = [Self::DayMonthYear, Self::MonthDayYear, Self::YearMonthDay];

    /// The words of the mapping.
    pub const WORDS: [(&'static str, Self); 4] = [
        ("day-month-year", Self::DayMonthYear),
        ("month-day-year", Self::MonthDayYear),
        ("year-month-day", Self::YearMonthDay),
        ("year-day-month", Self::YearDayMonth),
    ];

    /// The word of the mapping.
    pub fn word(self) -> &'static str {
        Self::WORDS.iter().find(|(_, order)| *order == self).map_or("", |(word, _)| word)
    }
}

/// A day that is noted as yyyy-MM-dd, in a form that cannot be misread; any other text as it is.
pub fn shown_day(noted: &str) -> String {
    noted.parse().map_or_else(|_| noted.to_owned(), shown)
}

/// A day in a form that cannot be misread: 4 Mar 2026.
pub fn shown(day: jiff::civil::Date) -> String {
    day.strftime("%-d %b %Y").to_string()
}
