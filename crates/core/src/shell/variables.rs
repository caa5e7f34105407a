//! Which variables a text reads, and which ones a script sets.

use std::ops::Range;

/// The variables that a text reads as `$NAME` or `${NAME…}`, each with its bytes from the dollar to the end of the braces. In a script, what
/// stands in single quotes or after a backslash is not read; elsewhere, as where a runner fills values in, quotes are letters. `$$` stands
/// for a dollar there.
pub fn variable_reads(text: &str, script: bool) -> Vec<(&str, Range<usize>)> {
    let bytes = text.as_bytes();
    let mut found = Vec::new();
    let (mut single, mut double) = (false, false);
    let mut at = 0;
    while at < bytes.len() {
        match bytes[at] {
            b'\\' if script && !single => at += 1,
            b'\'' if script && !double => single = !single,
            b'"' if script && !single => double = !double,
            b'#' if script && !single && !double && (at == 0 || bytes[at - 1].is_ascii_whitespace()) => {
                at += text[at..].find('\n').unwrap_or(text.len() - at);
                continue;
            }
            b'$' if bytes.get(at + 1) == Some(&b'$') => at += 1,
            b'$' if !single => {
                if let Some((name, range)) = one_read(text, at) {
                    at = range.end;
                    found.push((name, range));
                    continue;
                }
            }
            _ => {}
        }
        at += 1;
    }
    found
}

/// The read that starts with the dollar at `at`.
fn one_read(text: &str, at: usize) -> Option<(&str, Range<usize>)> {
    let braced = text[at + 1..].starts_with('{');
    let start = at + 1 + usize::from(braced);
    let length = text[start..].bytes().take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'_').count();
    let name = &text[start..start + length];
    if name.is_empty() || name.starts_with(|first: char| first.is_ascii_digit()) {
        return None;
    }
    let end = if braced { start + text[start..].find('}')? + 1 } else { start + length };
    Some((name, at..end))
}

/// Words after which names stand that a command sets.
const SETTERS: [&str; 5] = ["read", "for", "mapfile", "readarray", "getopts"];

/// The names that a script sets somewhere: by `NAME=value`, or by a command such as `read NAME`.
pub fn variables_set(script: &str) -> Vec<&str> {
    let mut found = Vec::new();
    let mut setter = false;
    for token in script.split(|c: char| c.is_whitespace() || matches!(c, ';' | '&' | '|' | '(' | ')' | '{' | '}' | '"' | '\'')) {
        let length = token.bytes().take_while(|byte| byte.is_ascii_alphanumeric() || *byte == b'_').count();
        let (name, rest) = token.split_at(length);
        let is_name = !name.is_empty() && !name.starts_with(|first: char| first.is_ascii_digit());
        if is_name && (rest.starts_with('=') || rest.starts_with("+=") || (setter && rest.is_empty())) {
            found.push(name);
        }
        setter = SETTERS.contains(&token) || (setter && (token.starts_with('-') || is_name));
    }
    found
}

/// Whether a script may set variables whose names do not stand in it: it runs a file in its own shell, or what a command prints.
pub fn sets_unknown_variables(script: &str) -> bool {
    let parsed = super::parse(script);
    parsed.torn
        || parsed.commands.iter().any(|command| match command.name() {
            // What starts the agent for keys prints its own two names and nothing else.
            Some("eval") => !command.words.iter().any(|word| word.text.contains("ssh-agent")),
            Some("source" | ".") => true,
            Some("export" | "declare") => command.words.iter().any(|word| word.dynamic && !word.text.contains('=')),
            _ => false,
        })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(text: &str, script: bool) -> Vec<&str> {
        variable_reads(text, script).into_iter().map(|(name, _)| name).collect()
    }

    #[test]
    fn reads_are_found_where_the_shell_finds_them() {
        assert_eq!(names("echo $A \"${B}/x\" '$C' \\$D ${E:-x} $1 $? $$F # $G\n$H", true), ["A", "B", "E", "H"]);
        assert_eq!(names("it's $A and '$B' # $C", false), ["A", "B", "C"]);
        assert_eq!(names("$$A ${ $", false), [""; 0]);
        assert_eq!(variable_reads("x ${AB:-1} y", true), [("AB", 2..10)]);
    }

    #[test]
    fn names_that_a_script_sets_are_known() {
        assert_eq!(variables_set("A=1 make; export B=2 && for c in x; do read -r D; done"), ["A", "B", "c", "in", "x", "D"]);
        assert!(sets_unknown_variables("source ./env.sh"));
        assert!(sets_unknown_variables("export $(cat .env)"));
        assert!(sets_unknown_variables("eval \"$(./names)\"") && !sets_unknown_variables("eval $(ssh-agent -s)"));
        assert!(!sets_unknown_variables("export A=$(cat version)\necho $A"));
    }
}
