//! Where package managers put a program.

use std::ffi::OsStr;
use std::path::{Path, PathBuf};

use crate::disk::slashed;

/// The folder whose installed packages a program is one of, from the top of a work tree and `.` for that; `None` for a program from elsewhere.
pub(super) fn folder_of(program: &Path, top: &Path) -> Option<String> {
    let inside = program.strip_prefix(top).ok()?;
    let folder: PathBuf = inside.iter().take_while(|part| !holds_packages(part)).collect();
    // Without such a part it is a program of the repository's own.
    inside.iter().any(holds_packages).then(|| if folder.as_os_str().is_empty() { ".".to_owned() } else { slashed(&folder) })
}

fn holds_packages(part: &OsStr) -> bool {
    part == "node_modules" || part == ".yarn"
}

/// Whether a program lies where package managers keep what they fetch for one call. Sources: the managers' own pages on npx and dlx, 2026-11.
pub fn is_fetched_for_one_call(program: &Path) -> bool {
    program.iter().any(|part| part == "_npx" || part == "dlx" || part.to_string_lossy().starts_with("dlx-"))
}

/// Finds the program among installed packages as the package managers lay them out, and what starts it by Node where it is found in no other
/// way. Sources: the managers' own pages on the layout of `node_modules`, of `node_modules/.pnpm` and of `.yarn/unplugged`, 2026-11.
pub(super) const INSTALLED: &str = r#"  dulk_installed() {
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
