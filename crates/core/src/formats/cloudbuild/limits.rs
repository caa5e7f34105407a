//! Lengths of time, which the service takes in seconds only.

use super::form::refused;
use crate::form::FormIssue;
use crate::formats::keys::Keys;
use crate::model::Text;

/// How long a build may take where it does not say. Source: the page "Build configuration file schema", timeout, 2026-11.
const USUAL: f64 = 3_600.0;
/// No build may take longer. Source: the same page, 2026-11.
const LONGEST: f64 = 86_400.0;

/// The seconds of a length of time such as `600s`; nothing where it is none.
fn seconds(text: &str) -> Option<f64> {
    let number = text.strip_suffix('s')?;
    let plain = !number.is_empty() && number.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
    number.parse().ok().filter(|_| plain && !number.starts_with('.') && !number.ends_with('.'))
}

/// Lengths of time that are none, and those of steps that are longer than that of the build.
pub(super) fn issues(top: &Keys<'_>, steps: &[Keys<'_>]) -> Vec<FormIssue> {
    let mut found = Vec::new();
    let whole = top.text("timeout");
    for text in ["timeout", "queueTtl"].into_iter().filter_map(|key| top.text(key)) {
        found.extend(no_length(&text));
    }
    let limit = whole.as_ref().map_or(Some(USUAL), |text| seconds(&text.value));
    if let Some(text) = whole.as_ref().filter(|_| limit.is_some_and(|seconds| seconds > LONGEST)) {
        found.push(refused(
            text.inner(),
            format!("{} is more than the 24 hours that a build may take", text.value),
            "the longest limit of a build is 86400s",
            "write 86400s or less".to_owned(),
        ));
    }
    for text in steps.iter().filter_map(|keys| keys.text("timeout")) {
        found.extend(no_length(&text));
        let (Some(limit), Some(own)) = (limit, seconds(&text.value)) else { continue };
        if own > limit {
            let because = match &whole {
                Some(whole) => {
                    format!("the whole build ends after {}, and the limit of a step must not exceed that", whole.value)
                }
                None => "the whole build ends after 3600s where it does not say, and the limit of a step must not exceed that"
                    .to_owned(),
            };
            found.push(refused(
                text.inner(),
                format!("this step may take {}, which is more than the whole build may", text.value),
                &because,
                format!("give the build a `timeout` of {} or more, or the step less", text.value),
            ));
        }
    }
    found
}

fn no_length(text: &Text) -> Option<FormIssue> {
    let written = text.known()?;
    if seconds(written).is_some() {
        return None;
    }
    let digits: String = written.chars().take_while(char::is_ascii_digit).collect();
    let unit = written[digits.len()..].trim().to_ascii_lowercase();
    let factor = match unit.as_str() {
        "" | "s" | "sec" | "secs" | "second" | "seconds" => Some(1),
        "m" | "min" | "mins" | "minute" | "minutes" => Some(60),
        "h" | "hour" | "hours" => Some(3_600),
        _ => None,
    };
    let meant = digits.parse::<u64>().ok().zip(factor).and_then(|(count, factor)| count.checked_mul(factor));
    Some(refused(
        text.inner(),
        format!("`{written}` is no length of time"),
        "lengths of time are written in seconds with an `s` behind them, such as 600s",
        meant.map_or_else(
            || "write the seconds with an `s` behind them, such as 600s".to_owned(),
            |seconds| format!("write {seconds}s"),
        ),
    ))
}

#[cfg(test)]
mod tests {
    use super::seconds;

    #[test]
    fn lengths_are_seconds_and_nothing_else() {
        assert_eq!(seconds("600s"), Some(600.0));
        assert_eq!(seconds("3.5s"), Some(3.5));
        for text in ["600", "10m", "s", ".s", "1 s", "-5s", "1e3s", "infs"] {
            assert_eq!(seconds(text), None, "{text}");
        }
    }
}
