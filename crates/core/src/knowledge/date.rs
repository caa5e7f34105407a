//! Days of the calendar, for what goes out of use on a day.

/// A day. It compares as days do.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Date {
    pub(super) year: u16,
    pub(super) month: u8,
    pub(super) day: u8,
}

impl Date {
    /// A day of the catalog, which the build has looked at.
    pub(super) const fn of(year: u16, month: u8, day: u8) -> Self {
        Self { year, month, day }
    }

    /// Reads `2026-11-25`; nothing for anything else.
    pub fn parse(text: &str) -> Option<Self> {
        let mut parts = text.split('-');
        let mut number = |digits: usize| {
            parts
                .next()
                .filter(|part| part.len() == digits && part.bytes().all(|byte| byte.is_ascii_digit()))?
                .parse::<u16>()
                .ok()
        };
        let (year, month, day) = (number(4)?, number(2)?, number(2)?);
        let fits = parts.next().is_none() && (1..=12).contains(&month) && (1..=31).contains(&day);
        fits.then_some(Self { year, month: u8::try_from(month).ok()?, day: u8::try_from(day).ok()? })
    }
}

impl std::fmt::Display for Date {
    fn fmt(&self, out: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(out, "{:04}-{:02}-{:02}", self.year, self.month, self.day)
    }
}

#[cfg(test)]
mod tests {
    use super::Date;

    #[test]
    fn days_are_read_and_compared() {
        let day = |text: &str| Date::parse(text).unwrap_or_else(|| panic!("{text}"));
        assert!(day("2026-11-25") > day("2026-04-30") && day("2025-12-31") < day("2026-01-01"));
        assert_eq!(day("2026-04-30").to_string(), "2026-04-30");
        for wrong in ["2026-13-01", "26-01-01", "2026-1-1", "2026-01-01-01", "today"] {
            assert_eq!(Date::parse(wrong), None, "{wrong}");
        }
    }
}
