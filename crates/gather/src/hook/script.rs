//! The lines that the hook is made of: put into a script, found in it again and taken out, with everything else in it left as it is.

use gix::bstr::{BString, ByteSlice};

use super::KEPT;
use super::looker::{LOOKS, Looker};

/// The first of the lines.
const BEGIN: &str = "# dulk guard begins here; dulk guard off takes these lines away.";
/// The last of the lines.
const END: &str = "# dulk guard ends here.";
/// Takes what git says, a line for each reference. Most pushes are of one, for which the shell starts no other program.
const TAKEN: &str = r#"dulk_lines=
dulk_more=
if IFS= read -r dulk_lines && { IFS= read -r dulk_more || [ -n "$dulk_more" ]; }; then
  dulk_lines=$(printf '%s\n' "$dulk_lines" "$dulk_more" && cat)
fi
dulk_push="${1-} ${2-} ${dulk_lines%%
*}"
"#;
/// Shells that run a script which another of their kind reads in.
const SHELLS: [&str; 5] = ["sh", "bash", "dash", "zsh", "ksh"];

/// A hook that was there before, and is run after the look.
#[derive(Clone, Debug)]
pub(super) struct Before {
    /// The folder that it is kept in, beside the hook.
    pub folder: String,
    /// The shell that reads it, with its options, when it is a script of one.
    pub shell: Option<String>,
}

/// The shell of a script, with its options; `None` when the text is no script of a shell.
pub(super) fn shell_of(text: &[u8]) -> Option<String> {
    let line = text.lines().next()?.to_str().ok()?.strip_prefix("#!")?;
    let mut words = line.split_whitespace();
    let program = words.next()?;
    let named = match program.rsplit('/').next()? {
        "env" => words.next()?,
        _ => program,
    };
    let options: Vec<&str> = words.collect();
    let plain = |word: &&str| word.starts_with('-') && word.len() > 1 && word[1..].bytes().all(|byte| byte.is_ascii_lowercase());
    let is_shell = SHELLS.contains(&named.rsplit('/').next()?) && options.iter().all(plain);
    is_shell.then(|| [&[program_word(named)], options.as_slice()].concat().join(" "))
}

/// A program as a word of a script, without what would make it more than one.
fn program_word(program: &str) -> &str {
    let plain = program.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"/._-".contains(&byte));
    if plain { program } else { "sh" }
}

/// The lines. They run in any `sh`, also one that stops at the first failure, and hand what git says on to whatever comes after them.
pub(super) fn lines(looker: Option<&Looker>, before: Option<&Before>) -> String {
    let mut text = format!("{BEGIN}\n{TAKEN}");
    if let Some(looker) = looker {
        text.push_str(&looker.lines());
    }
    if let Some(before) = before {
        run_before(&mut text, before);
    }
    // What comes after these lines reads what git said as if nobody had.
    text.push_str("if [ -n \"$dulk_lines\" ]; then\n  exec <<DULK_LINES\n$dulk_lines\nDULK_LINES\nelse\n  exec </dev/null\nfi\n");
    text.push_str(END);
    text.push('\n');
    text
}

/// Runs the hook that was there under its own name, and once for each push: a manager of hooks may call us from it again.
fn run_before(text: &mut String, before: &Before) {
    let folder = &before.folder;
    // A script that looks for what lies beside it finds it: to it, it still lies where it did.
    let call = match &before.shell {
        Some(shell) => format!("DULK_KEPT=\"$dulk_kept\" {shell} -c '. \"$DULK_KEPT\"' \"$0\" \"$@\""),
        None => "\"$dulk_kept\" \"$@\"".to_owned(),
    };
    text.push_str(&format!(
        r#"dulk_feed() {{ [ -z "$dulk_lines" ] || printf '%s\n' "$dulk_lines" 2>/dev/null; }}
dulk_kept=${{0%/*}}/{folder}/pre-push
dulk_once="{folder} $dulk_push;"
case ${{0##*/}} in
  pre-push) ;;
  *) # Moved aside: the hook that has our place again is no hook of before.
    for dulk_other in "${{0%/*}}"/pre-push "${{0%/*}}"/{KEPT}*/pre-push; do
      if [ "$dulk_other" != "$dulk_kept" ] && [ "$(head -n 3 "$dulk_other")" = "$(head -n 3 "$dulk_kept")" ]; then
        DULK_RUN="${{DULK_RUN-}}$dulk_once"
      fi
    done 2>/dev/null ;;
esac
case ${{DULK_RUN-}} in
  *"$dulk_once"*) ;;
  *)
    if [ -x "$dulk_kept" ]; then
      dulk_status=0
      dulk_feed | DULK_RUN="${{DULK_RUN-}}$dulk_once" {call} || dulk_status=$?
      if [ "$dulk_status" -ne 0 ]; then
        echo "dulk: the hook that was there before ended with $dulk_status and stopped this push; git push --no-verify goes past it" >&2
        exit "$dulk_status"
      fi
    fi ;;
esac
"#
    ));
}

/// Where our lines stand in a script: first byte, and the one after the last.
fn range(text: &[u8]) -> Option<std::ops::Range<usize>> {
    let start = text.find(BEGIN)?;
    let end = start + text[start..].find(END)? + END.len();
    Some(start..if text.get(end) == Some(&b'\n') { end + 1 } else { end })
}

/// Our lines in a script, when they look at pushes.
pub(super) fn looking(text: &[u8]) -> Option<&[u8]> {
    let lines = &text[range(text)?];
    lines.find(LOOKS).map(|_| lines)
}

/// Whether a script holds our lines, and they look at pushes.
pub(super) fn looks(text: &[u8]) -> bool {
    looking(text).is_some()
}

/// The folder that the lines of a script run a hook from.
pub(super) fn before_of(text: &[u8]) -> Option<String> {
    let lines = text[range(text)?].to_str_lossy().into_owned();
    let name = lines.split_once("dulk_kept=${0%/*}/")?.1.split_once("/pre-push")?.0;
    Some(name.to_owned())
}

/// Puts lines into a script: in the place of those that are there, or else before everything but its first line.
pub(super) fn with(text: &[u8], lines: &str) -> BString {
    let range = range(text).unwrap_or_else(|| {
        let at = if text.starts_with(b"#!") { text.find_byte(b'\n').map_or(text.len(), |end| end + 1) } else { 0 };
        at..at
    });
    let gap = if range.start > 0 && text[range.start - 1] != b'\n' { "\n" } else { "" };
    [&text[..range.start], gap.as_bytes(), lines.as_bytes(), &text[range.end..]].concat().into()
}

/// A script without our lines; nothing when nothing but its first line is left.
pub(super) fn without(text: &[u8]) -> Option<BString> {
    let range = range(text).unwrap_or(0..0);
    let rest: BString = [&text[..range.start], &text[range.end..]].concat().into();
    let says_something = rest.lines().any(|line| !line.trim().is_empty() && !line.starts_with(b"#!"));
    says_something.then_some(rest)
}

#[cfg(test)]
mod tests {
    use super::{Before, before_of, lines, looking, looks, shell_of, with, without};
    use crate::hook::looker::{Looker, is_strict, program_of};

    #[test]
    fn the_lines_are_found_again_and_leave_the_rest_alone() {
        let people = b"#!/usr/bin/env bash\necho caf\xe9\n";
        let here = Looker { program: Some("/opt/it's/dulk".to_owned()), strict: true, ..Looker::default() };
        let on = with(people, &lines(Some(&here), None));
        assert!(looks(&on) && on.starts_with(b"#!/usr/bin/env bash\n# dulk guard begins"));
        assert_eq!(looking(&on).and_then(program_of).as_deref(), Some("/opt/it's/dulk"));
        assert!(looking(&on).is_some_and(is_strict));
        assert_eq!(with(&on, &lines(Some(&here), None)), on, "twice is once");
        assert_eq!(without(&on).as_deref().map(|rest| rest.to_vec()), Some(people.to_vec()));
        let elsewhere = with(b"#!/bin/sh\n", &lines(Some(&Looker::default()), None));
        assert_eq!(without(&elsewhere), None);
        assert!(looking(&elsewhere).is_some_and(|lines| !is_strict(lines) && program_of(lines).is_none()));
        let before = Before { folder: "before-dulk-2".into(), shell: None };
        let kept = with(b"", &lines(None, Some(&before)));
        assert!(!looks(&kept));
        assert_eq!(before_of(&kept).as_deref(), Some("before-dulk-2"));
    }

    #[test]
    fn shells_are_told_from_other_programs() {
        for (first, shell) in [
            ("#!/bin/sh\n", Some("/bin/sh")),
            ("#! /bin/bash -eu\nls", Some("/bin/bash -eu")),
            ("#!/usr/bin/env zsh", Some("zsh")),
            ("#!/usr/bin/env -S node", None),
            ("#!/usr/bin/python3", None),
            ("echo", None),
            ("#!/bin/sh -c 'x'", None),
            ("", None),
        ] {
            assert_eq!(shell_of(first.as_bytes()).as_deref(), shell, "{first}");
        }
    }
}
