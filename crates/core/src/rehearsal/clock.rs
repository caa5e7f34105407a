//! Clock times in five fields, as pipelines write them.
//!
//! The format's page "Events that trigger workflows", `schedule`: minute, hour, day of the month, month, day of the week; `*`, lists, ranges
//! and steps, names of months and days; not `@daily`, `L`, `W`, `#` or `?`. Times are in UTC, and no run comes more often than every five
//! minutes.

use croner::Cron;
use croner::parser::{CronParser, Seconds};
use jiff::tz::TimeZone;

/// A time that has been read.
#[derive(Clone, Debug)]
pub struct ClockTime {
    cron: Cron,
}

/// What is wrong with a time.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum ClockWrong {
    /// It is no time.
    Unreadable(String),
    /// No day ever fits.
    Never,
}

const MONTHS: [&str; 12] = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const DAYS: [&str; 7] = ["sun", "mon", "tue", "wed", "thu", "fri", "sat"];

/// Reads a time.
///
/// # Errors
/// Why it is no time, or is never due.
pub fn read_clock(text: &str) -> Result<ClockTime, ClockWrong> {
    let fields: Vec<&str> = text.split_whitespace().collect();
    if fields.len() != 5 {
        let reason = match (text.trim().starts_with('@'), fields.len()) {
            (true, _) => "words such as @daily are not known here: write five fields".to_owned(),
            (false, count) => {
                format!("five fields are wanted (minute, hour, day, month, day of the week), and here there are {count}")
            }
        };
        return Err(ClockWrong::Unreadable(reason));
    }
    let limits: [(&str, u32, u32, &[&str]); 5] = [
        ("minute", 0, 59, &[]),
        ("hour", 0, 23, &[]),
        ("day", 1, 31, &[]),
        ("month", 1, 12, &MONTHS),
        ("day of the week", 0, 7, &DAYS),
    ];
    for (field, (name, low, high, words)) in fields.iter().zip(limits) {
        check_field(field, low, high, words)
            .map_err(|reason| ClockWrong::Unreadable(format!("the {name} `{field}` {reason}")))?;
    }
    let parser = CronParser::builder().seconds(Seconds::Disallowed).build();
    let cron = parser.parse(text).map_err(|_| ClockWrong::Unreadable("this is no time in five fields".into()))?;
    let time = ClockTime { cron };
    // A leap day is due within eight years.
    if time.next(jiff::Timestamp::UNIX_EPOCH).is_none() { Err(ClockWrong::Never) } else { Ok(time) }
}

/// What is wrong with a time, if anything; a plain time of the day needs no calendar.
///
/// # Errors
/// Why it is no time, or is never due.
pub fn check_clock(text: &str) -> Result<(), ClockWrong> {
    let fields: Vec<&str> = text.split_whitespace().collect();
    let digits = |field: &str| field.len() < 3 && field.bytes().all(|byte| byte.is_ascii_digit());
    let plain = |field: &str, high: u32| field == "*" || digits(field) && number(field, 0, high, &[]).is_ok();
    match fields.as_slice() {
        [minute, hour, "*", "*", day] if plain(minute, 59) && plain(hour, 23) && plain(day, 7) => Ok(()),
        _ => read_clock(text).map(drop),
    }
}

fn check_field(field: &str, low: u32, high: u32, words: &[&str]) -> Result<(), String> {
    for part in field.split(',') {
        let (range, step) = part.split_once('/').map_or((part, None), |(range, step)| (range, Some(step)));
        if let Some(step) = step {
            let fits = step.parse::<u32>().is_ok_and(|step| step > 0);
            if !fits {
                return Err(format!("has the step `{step}`, which is no number above 0"));
            }
        }
        if range == "*" {
            continue;
        }
        let (from, to) = range.split_once('-').map_or((range, None), |(from, to)| (from, Some(to)));
        let from = number(from, low, high, words)?;
        if let Some(to) = to
            && number(to, low, high, words)? < from
        {
            return Err("runs backwards".into());
        }
    }
    Ok(())
}

fn number(text: &str, low: u32, high: u32, words: &[&str]) -> Result<u32, String> {
    if let Some(index) = words.iter().position(|word| text.eq_ignore_ascii_case(word)) {
        return Ok(low + u32::try_from(index).unwrap_or(0));
    }
    let number: u32 = text
        .parse()
        .map_err(|_| format!("holds `{text}`, which is no number{}", if words.is_empty() { "" } else { " and no name" }))?;
    if (low..=high).contains(&number) { Ok(number) } else { Err(format!("is not between {low} and {high}")) }
}

impl ClockTime {
    fn next(&self, after: jiff::Timestamp) -> Option<jiff::Zoned> {
        self.cron.find_next_occurrence(&after.to_zoned(TimeZone::UTC), false).ok()
    }
}

/// The next times after an instant (seconds since 1970, UTC), as `2026-11-26 04:00` and the day's name.
pub fn next_times(time: &ClockTime, after: i64, count: usize) -> Vec<String> {
    let mut found = Vec::new();
    let Ok(mut now) = jiff::Timestamp::from_second(after) else { return found };
    while found.len() < count {
        let Some(next) = time.next(now) else { break };
        found.push(next.strftime("%a %Y-%m-%d %H:%M").to_string());
        now = next.timestamp();
    }
    found
}

/// A time in words, such as `every day at 04:00`; nothing where words would be longer than the fields.
pub fn clock_words(text: &str) -> Option<String> {
    let fields: Vec<&str> = text.split_whitespace().collect();
    let [minute, hour, day, month, weekday] = fields.as_slice() else { return None };
    let number = |field: &str| field.parse::<u32>().ok();
    let days = match (*day, *month, *weekday) {
        ("*", "*", "*") => "every day".to_owned(),
        ("*", "*", "1-5" | "MON-FRI" | "mon-fri") => "from Monday to Friday".to_owned(),
        ("*", "*", weekday) => {
            let full = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];
            let index = number(weekday)
                .map(|number| number as usize % 7)
                .or_else(|| DAYS.iter().position(|day| day.eq_ignore_ascii_case(weekday)))?;
            format!("every {}", full[index])
        }
        (day, "*", "*") => format!("on day {} of every month", number(day)?),
        _ => return None,
    };
    match (number(minute), number(hour), *hour, minute.strip_prefix("*/")) {
        (Some(minute), Some(hour), ..) => Some(format!("{days} at {hour:02}:{minute:02}")),
        (Some(minute), None, "*", _) if days == "every day" => Some(format!("every hour at minute {minute}")),
        (None, None, "*", Some(step)) if days == "every day" => Some(format!("every {step} minutes")),
        _ => None,
    }
}

/// The least minutes between two ticks within an hour, or from one hour to the next, as far as the field of the minutes alone says: the clock
/// never ticks faster. Nothing where the text is no time.
pub fn least_by_minutes(text: &str) -> Option<i64> {
    let field = text.split_whitespace().next()?;
    let mut minutes: Vec<i64> = Vec::new();
    for part in field.split(',') {
        let (range, step) = part.split_once('/').map_or((part, 1), |(range, step)| (range, step.parse().unwrap_or(0)));
        let (from, to) = match range.split_once('-') {
            _ if range == "*" => (0, 59),
            Some((from, to)) => (from.parse().ok()?, to.parse().ok()?),
            None if part.contains('/') => (range.parse().ok()?, 59),
            None => (range.parse().ok()?, range.parse().ok()?),
        };
        let step = Some(step).filter(|step| *step > 0 && from >= 0 && to < 60)?;
        minutes.extend((from..=to).step_by(step));
    }
    minutes.sort_unstable();
    minutes.dedup();
    let (first, last) = (*minutes.first()?, *minutes.last()?);
    let inside = minutes.windows(2).map(|pair| pair[1] - pair[0]);
    inside.chain([first + 60 - last]).min()
}

/// The least minutes between two times that follow each other.
pub fn least_gap(time: &ClockTime) -> Option<i64> {
    let mut now = time.next(jiff::Timestamp::from_second(1_767_225_600).ok()?)?.timestamp();
    let mut least: Option<i64> = None;
    for _ in 0..100 {
        let next = time.next(now)?.timestamp();
        let minutes = (next.as_second() - now.as_second()) / 60;
        least = Some(least.map_or(minutes, |known| known.min(minutes)));
        now = next;
    }
    least
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn times_are_told_in_words_where_words_are_short() {
        for (text, words) in [
            ("0 4 * * *", Some("every day at 04:00")),
            ("30 17 * * 5", Some("every Friday at 17:30")),
            ("0 6 * * MON-FRI", Some("from Monday to Friday at 06:00")),
            ("0 0 1 * *", Some("on day 1 of every month at 00:00")),
            ("*/15 * * * *", Some("every 15 minutes")),
            ("7 * * * *", Some("every hour at minute 7")),
            ("0 4,5 * 1-3 *", None),
        ] {
            assert_eq!(clock_words(text).as_deref(), words, "{text}");
        }
    }

    #[test]
    fn times_are_read_as_the_format_takes_them() {
        for good in ["0 4 * * *", "*/15 0-5 1,15 JAN-MAR mon", "30 4 29 2 *", "0 0 * * 0"] {
            assert!(read_clock(good).is_ok(), "{good}: {:?}", read_clock(good));
        }
        for (wrong, part) in [
            ("0 4 * *", "four"),
            ("@daily", "@daily"),
            ("60 4 * * *", "between 0 and 59"),
            ("0 4 * * 8", "between 0 and 7"),
            ("0 4 * * xyz", "no name"),
            ("0 4 L * *", "no number"),
            ("*/0 * * * *", "above 0"),
            ("0 5-4 * * *", "backwards"),
        ] {
            match read_clock(wrong) {
                Err(ClockWrong::Unreadable(reason)) => assert!(reason.contains(part) || part == "four", "{wrong}: {reason}"),
                other => panic!("{wrong}: {other:?}"),
            }
        }
        assert_eq!(read_clock("0 4 31 2 *").err(), Some(ClockWrong::Never));
        for text in [
            "0 4 * * *",
            "* * * * *",
            "60 4 * * *",
            "0 24 * * *",
            "0 4 * * 8",
            "0 4 31 2 *",
            "-1 4 * * *",
            "+1 4 * * *",
            "0 4 * *",
        ] {
            assert_eq!(check_clock(text), read_clock(text).map(drop), "{text}");
        }
    }

    #[test]
    fn next_times_are_told_in_order() {
        let time = read_clock("0 4 * * mon").unwrap_or_else(|wrong| panic!("{wrong:?}"));
        assert_eq!(next_times(&time, 1_764_028_800, 2), ["Mon 2025-12-01 04:00", "Mon 2025-12-08 04:00"]);
        assert_eq!(least_gap(&time), Some(7 * 24 * 60));
        assert_eq!(read_clock("*/2 * * * *").ok().as_ref().and_then(least_gap), Some(2));
    }

    #[test]
    fn the_field_of_the_minutes_bounds_the_gap() {
        for (text, least) in [
            ("0 4 * * *", Some(60)),
            ("*/15 * * * *", Some(15)),
            ("58,1 * * * *", Some(3)),
            ("10-12 4 * * *", Some(1)),
            ("50/5 * * * *", Some(5)),
            ("x * * * *", None),
            ("0-9223372036854775807 * * * *", None),
        ] {
            assert_eq!(least_by_minutes(text), least, "{text}");
            if let (Some(least), Ok(time)) = (least, read_clock(text)) {
                assert!(least_gap(&time).is_none_or(|gap| gap >= least), "{text}");
            }
        }
    }
}
