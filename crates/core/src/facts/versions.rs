//! Versions as files write them.

/// The major of `20`, `v20.1` or `20.x`.
pub fn major_of(text: &str) -> Option<u32> {
    let digits: String = text.trim().trim_start_matches('v').chars().take_while(char::is_ascii_digit).collect();
    let rest = text.trim().trim_start_matches('v').get(digits.len()..)?;
    (rest.is_empty() || rest.starts_with('.')).then(|| digits.parse().ok()).flatten()
}

/// The least major that a range lets through; nothing for ranges that are not understood.
pub fn least_major(range: &str) -> Option<u32> {
    let one = |part: &str| {
        let part = part.trim();
        let first = part.split_whitespace().next()?;
        let rest = [">=", "^", "~", "="].iter().find_map(|sign| first.strip_prefix(sign)).unwrap_or(first);
        let rest = if rest.is_empty() { part.split_whitespace().nth(1)? } else { rest };
        let above = first.starts_with('<') || (first.starts_with('>') && !first.starts_with(">="));
        if above { None } else { major_of(rest) }
    };
    range.split("||").map(one).collect::<Option<Vec<u32>>>()?.into_iter().min()
}
