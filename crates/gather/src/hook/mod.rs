//! The git pre-push hook: put in place, looked at and taken away, without losing one that was there.

use std::fs;
use std::path::{Path, PathBuf};

/// The name under which git runs the hook.
const NAME: &str = "pre-push";
/// The name under which a hook that was there is kept and still run.
const KEPT: &str = "pre-push.before-dulk";
/// A line by which the hook is known again.
const MARK: &str = "# Put here by dulk guard on; dulk guard off takes it away.";

/// What stands where git looks for the hook.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HookState {
    /// The hook's file.
    pub path: PathBuf,
    /// It is ours.
    pub on: bool,
    /// Another hook stands there.
    pub other: bool,
    /// Another hook is kept beside it and run after it.
    pub kept: bool,
}

/// The folder that git takes hooks from: `core.hooksPath`, or that of git's own data, which work trees share.
fn folder(start: &Path) -> Result<PathBuf, String> {
    // The user's own settings count here: git itself looks for hooks by them.
    let repository = gix::discover(start).map_err(|_| "this is no git repository".to_owned())?;
    let named = repository.config_snapshot().trusted_path("core.hooksPath").ok().flatten();
    let own = repository.common_dir().join("hooks");
    let Some(named) = named else { return Ok(own) };
    let top = repository.workdir().map_or_else(|| repository.git_dir().to_owned(), Path::to_owned);
    Ok(top.join(named))
}

/// Looks at the hook.
///
/// # Errors
/// Outside git.
pub fn hook_status(start: &Path) -> Result<HookState, String> {
    let folder = folder(start)?;
    let path = folder.join(NAME);
    let on = is_ours(&path);
    let other = !on && fs::symlink_metadata(&path).is_ok();
    Ok(HookState { kept: fs::symlink_metadata(folder.join(KEPT)).is_ok(), path, on, other })
}

fn is_ours(path: &Path) -> bool {
    fs::read(path).is_ok_and(|bytes| String::from_utf8_lossy(&bytes).contains(MARK))
}

/// Puts the hook in place; one that was there is kept beside it.
///
/// # Errors
/// When the folder cannot be written, or a hook was kept before and another one stands there now.
pub fn hook_on(start: &Path, program: &Path) -> Result<HookState, String> {
    let state = hook_status(start)?;
    let folder = state.path.parent().map(Path::to_owned).unwrap_or_default();
    fs::create_dir_all(&folder).map_err(|error| format!("{} cannot be made: {error}", folder.display()))?;
    if state.other {
        let kept = folder.join(KEPT);
        if state.kept {
            return Err(format!("{} and {} are both there; remove or join them first", state.path.display(), kept.display()));
        }
        fs::rename(&state.path, &kept).map_err(|error| format!("{} cannot be moved: {error}", state.path.display()))?;
    }
    if let Err(reason) = write_hook(&folder, &state.path, program) {
        // Nothing is lost: the old hook goes back to its place.
        if state.other {
            let _ = fs::rename(folder.join(KEPT), &state.path);
        }
        return Err(reason);
    }
    hook_status(start)
}

fn write_hook(folder: &Path, path: &Path, program: &Path) -> Result<(), String> {
    use std::io::Write;
    let text = script(program);
    let failed = |error: std::io::Error| format!("{} cannot be written: {error}", path.display());
    let mut new = tempfile::NamedTempFile::new_in(folder).map_err(failed)?;
    new.write_all(text.as_bytes()).map_err(failed)?;
    make_runnable(new.as_file()).map_err(failed)?;
    new.as_file().sync_all().map_err(failed)?;
    new.persist(path).map(drop).map_err(|error| failed(error.error))
}

#[cfg(unix)]
fn make_runnable(file: &fs::File) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    file.set_permissions(fs::Permissions::from_mode(0o755))
}

#[cfg(not(unix))]
fn make_runnable(_: &fs::File) -> std::io::Result<()> {
    Ok(())
}

/// A plain `sh` script: git runs hooks with its own `sh` on every system. Without the program it lets the push through.
fn script(program: &Path) -> String {
    let program = program.to_string_lossy().replace('\\', "/").replace('\'', "'\\''");
    format!(
        "#!/bin/sh\n{MARK}\nlines=$(cat)\ndulk='{program}'\n[ -x \"$dulk\" ] || dulk=$(command -v dulk) || dulk=\nif [ -n \"$dulk\" ]; then\n  printf '%s\\n' \"$lines\" | \"$dulk\" guard check \"$@\" || exit $?\nfi\nkept=$(dirname \"$0\")/{KEPT}\nif [ -x \"$kept\" ]; then\n  printf '%s\\n' \"$lines\" | \"$kept\" \"$@\" || exit $?\nfi\nexit 0\n"
    )
}

/// Takes the hook away and puts back the one that was there. A hook that is not ours is left as it is.
///
/// # Errors
/// When files cannot be moved.
pub fn hook_off(start: &Path) -> Result<HookState, String> {
    let state = hook_status(start)?;
    if state.on {
        let kept = state.path.with_file_name(KEPT);
        let failed = |error: std::io::Error| format!("{} cannot be removed: {error}", state.path.display());
        if state.kept {
            fs::rename(&kept, &state.path).map_err(failed)?;
        } else {
            fs::remove_file(&state.path).map_err(failed)?;
        }
    }
    hook_status(start)
}
