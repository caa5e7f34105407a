//! The lines of the hook by which a push is looked at: which program does, how it is found, and what happens when none is.

use gix::bstr::ByteSlice;

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
    /// The lines. Each push is looked at once, however many hooks call each other.
    pub fn lines(&self) -> String {
        let unseen = if self.strict {
            format!("and {STOPS}; git push --no-verify goes past it\" >&2\n    exit 1")
        } else {
            "and goes on\" >&2".to_owned()
        };
        let (program, missing) = match &self.program {
            Some(program) => (format!("{}\n  dulk_place=$dulk", quoted(program)), "$dulk_place is not there any more"),
            None => ("''".to_owned(), "it is not installed here"),
        };
        let (installed, search) = match &self.packages_of {
            Some(folder) => (INSTALLED, format!(" || dulk=$(dulk_installed {} 2>/dev/null)", quoted(folder))),
            None => ("", String::new()),
        };
        let again = if self.packages_of.is_some() { ", and an install of the packages brings it" } else { "" };
        format!(
            r#"if [ -n "$dulk_lines" ] && [ "${{DULK_PUSH-}}" != "$dulk_push" ]; then
  DULK_PUSH=$dulk_push
  export DULK_PUSH
  dulk_unseen() {{
    printf '%s\n' "dulk: $1; this push was not looked at, {unseen}
  }}
{installed}  dulk={program}
  [ -x "$dulk" ]{search} || dulk=$(command -v dulk) || dulk=
  if [ -n "$dulk" ]; then
    dulk_status=0
    dulk_feed | "$dulk" {LOOKS} || dulk_status=$?
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

/// Finds the program among installed packages as the package managers lay them out, and what starts it by Node where it is found in no other
/// way. Sources: the managers' own pages on the layout of `node_modules`, of `node_modules/.pnpm` and of `.yarn/unplugged`, 2026-11.
const INSTALLED: &str = r#"  dulk_installed() {
    [ -z "${ZSH_VERSION-}" ] || setopt nonomatch
    case $(uname -sm) in
      Linux*64) dulk_kind=linux ;;
      Darwin*) dulk_kind=darwin ;;
      *) dulk_kind=win32 ;;
    esac
    case $(uname -m) in
      arm64 | aarch64) dulk_kind=$dulk_kind-arm64 ;;
      *) dulk_kind=$dulk_kind-x64 ;;
    esac
    dulk_inner=node_modules/@dulk/$dulk_kind/dulk
    for dulk in "$1/$dulk_inner" "$1"/node_modules/.pnpm/@dulk+"$dulk_kind"@*/"$dulk_inner" \
      "$1"/.yarn/unplugged/@dulk-"$dulk_kind"-*/"$dulk_inner" "$1/node_modules/.bin/dulk"; do
      if [ -x "$dulk" ]; then
        printf '%s\n' "$dulk"
        return 0
      fi
    done
    return 1
  }
"#;

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
