//! The lines of the hook by which a push is looked at: which program does, how it is found, and what happens when none is.

use gix::bstr::ByteSlice;

use super::packages::INSTALLED;

/// A line that only a guard that is on has.
pub(super) const LOOKS: &str = "guard check \"$@\"";
/// Words of a line by which people run the look from a script of theirs.
const CALLED: [&str; 2] = ["dulk", "guard check"];
/// What only a strict guard says.
const STOPS: &str = "guard on --strict stops it";
/// What stands before the place of the program.
const PROGRAM: &str = "  dulk='";

/// Which program looks at the push, and what happens when none does.
#[derive(Clone, Debug, Default)]
pub(super) struct Looker {
    /// Where this machine has it; nothing in a hook that is others' too, who have it elsewhere.
    pub program: Option<String>,
    /// The folder of the repository, from its top and `.` for that, among whose installed packages it is looked for.
    pub packages_of: Option<String>,
    /// A push that was not looked at is stopped.
    pub strict: bool,
}

impl Looker {
    /// The lines. Each push is looked at once, however many hooks call each other; an error that was found stops it.
    pub fn lines(&self) -> String {
        let (then, stop) = if self.strict {
            (format!("{STOPS}; git push --no-verify goes past it"), "\n    exit 1")
        } else {
            ("goes on".to_owned(), "")
        };
        let (program, missing) = match &self.program {
            Some(program) => (format!("{}\n  dulk_place=$dulk", quoted(program)), "$dulk_place is not there any more"),
            None => ("''".to_owned(), "it is not installed here"),
        };
        let (installed, search, again) = match &self.packages_of {
            Some(folder) => (
                INSTALLED,
                format!(" || dulk=$(dulk_installed {} 2>/dev/null)", quoted(folder)),
                ", and an install of the packages brings it",
            ),
            None => ("", String::new(), ""),
        };
        format!(
            r#"if [ -n "$dulk_lines" ] && [ "${{DULK_PUSH-}}" != "$dulk_push" ]; then
  DULK_PUSH=$dulk_push
  export DULK_PUSH
  dulk_unseen() {{
    printf '%s\n' "dulk: $1; this push was not looked at, and {then}" >&2{stop}
  }}
{installed}  dulk={program}
  [ -x "$dulk" ]{search} || dulk=$(command -v dulk) || dulk=
  if [ -n "$dulk" ]; then
    dulk_status=0
    "$dulk" {LOOKS} <<DULK_LINES || dulk_status=$?
$dulk_lines
DULK_LINES
    case $dulk_status in
      0) ;;
      1) exit 1 ;;
      *) dulk_unseen "it ended with $dulk_status" ;;
    esac
  else
    dulk_unseen "{missing}{again}"
  fi
fi
"#
        )
    }
}

/// One word of a script.
fn quoted(text: &str) -> String {
    format!("'{}'", text.replace('\'', "'\\''"))
}

/// Whether lines of the hook stop a push that was not looked at.
pub(super) fn is_strict(lines: &[u8]) -> bool {
    lines.find(STOPS).is_some()
}

/// Whether a script that is none of ours runs the look in a line of its own.
pub(super) fn is_called_by(script: &[u8]) -> bool {
    script.lines().any(|line| CALLED.iter().all(|word| line.find(word).is_some()) && !line.trim_start().starts_with(b"#"))
}

/// The place of the program that lines of the hook name.
pub(super) fn program_of(lines: &[u8]) -> Option<String> {
    let line = lines.lines().find_map(|line| line.strip_prefix(PROGRAM.as_bytes()))?.to_str().ok()?;
    let place = line.strip_suffix('\'')?.replace("'\\''", "'");
    (!place.is_empty()).then_some(place)
}
