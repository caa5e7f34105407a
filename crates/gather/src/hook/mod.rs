//! The git pre-push hook: put in place, looked at and taken away, without losing one that was there.

mod looker;
mod packages;
mod place;
mod script;

use std::fs;
use std::path::{Path, PathBuf};

use gix::bstr::ByteSlice;

use crate::disk::{LEFT_OVER, new_beside, remove_left_over};
use crate::gate::plain;
use looker::Looker;
pub use packages::is_fetched_for_one_call;
use place::Place;
use script::Before;

/// The name under which git runs the hook.
const NAME: &str = "pre-push";
/// The folder beside it that a hook which was there is kept in, under its own name: some look at the name they are called by.
const KEPT: &str = "before-dulk";
/// So many hooks are kept, one from each time that a manager of hooks has put its own in the place of ours.
const KEPT_LIMIT: usize = 9;

/// What stands where git looks for the hook.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HookState {
    /// The hook's file.
    pub path: PathBuf,
    /// It looks at pushes.
    pub on: bool,
    /// Something else stands there.
    pub other: bool,
    /// That runs the look itself, in a line that somebody has written.
    pub called: bool,
    /// A hook that was there before is kept and run after the look.
    pub kept: bool,
    /// Ours, where a manager of hooks has moved it to.
    pub aside: Option<PathBuf>,
    /// A manager of hooks writes git's own hook again at each install; this file is people's.
    pub managed: bool,
    /// A push that it could not look at is stopped.
    pub strict: bool,
    /// The program that it names, when that is not there any more.
    pub gone: Option<PathBuf>,
}

/// How the hook is put in place.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct HookOptions {
    /// Also where it would be others' too.
    pub shared: bool,
    /// A push that it cannot look at is stopped.
    pub strict: bool,
}

/// Looks at the hook.
///
/// # Errors
/// Outside git.
pub fn hook_status(start: &Path) -> Result<HookState, String> {
    Ok(state(&place::of(start)?))
}

fn state(place: &Place) -> HookState {
    let text = fs::read(&place.file).ok();
    let lines = text.as_deref().and_then(script::looking);
    let on = lines.is_some();
    let other = !on && is_there(&place.file);
    let called = other && text.as_deref().is_some_and(looker::is_called_by);
    let kept = text.as_deref().and_then(script::before_of).is_some_and(|folder| is_there(&kept_in(&place.file, &folder)));
    let aside = aside(&place.file).into_iter().find(|path| fs::read(path).is_ok_and(|text| script::looks(&text)));
    let strict = lines.is_some_and(looker::is_strict);
    let gone = lines.and_then(looker::program_of).map(PathBuf::from).filter(|program| !program.exists());
    HookState { path: place.file.clone(), on, other, called, kept, aside, managed: place.managed, strict, gone }
}

fn is_there(path: &Path) -> bool {
    fs::symlink_metadata(path).is_ok()
}

/// Files beside the hook that a manager of hooks may have moved one to: their names are the hook's with an ending.
fn aside(hook: &Path) -> Vec<PathBuf> {
    let folder = hook.parent().unwrap_or(Path::new("."));
    let named =
        |path: &PathBuf| path.file_name().and_then(|name| name.to_str()).is_some_and(|name| name.starts_with("pre-push."));
    let mut found: Vec<PathBuf> = fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path()).collect();
    found.retain(|path| named(path) && path.is_file());
    found.sort_unstable();
    found
}

fn kept_in(hook: &Path, folder: &str) -> PathBuf {
    hook.with_file_name(folder).join(NAME)
}

/// Puts the hook in place; one that was there is kept beside it and still run. One that runs the look itself is left as it is.
///
/// # Errors
/// When it would be others' too and that is not asked for, when a script that it would be put into is none of a shell, or when files
/// cannot be written. What was there is then as it was.
pub fn hook_on(start: &Path, program: &Path, HookOptions { shared, strict }: HookOptions) -> Result<HookState, String> {
    let place = place::of(start)?;
    let there = state(&place);
    if there.called {
        return Ok(there);
    }
    if let (Some(reason), false) = (place.reach.told(&place.file), shared) {
        return Err(format!("{reason}; dulk guard on --shared puts it there all the same"));
    }
    let packages_of = place.packages_of(program);
    let looker = if place.is_for_everybody(shared) {
        Looker { program: None, packages_of: Some(packages_of.unwrap_or_else(|| ".".to_owned())), strict }
    } else {
        Looker { program: Some(program.to_string_lossy().replace('\\', "/")), packages_of, strict }
    };
    let is_peoples = place.holds_peoples();
    let folder = place.file.parent().unwrap_or(Path::new("."));
    fs::create_dir_all(folder).map_err(|error| format!("{} cannot be made: {}", folder.display(), plain(&error)))?;
    let text = fs::read(&place.file).unwrap_or_default();
    let is_ours = script::looks(&text) || script::before_of(&text).is_some();
    if place.is_written_into() || is_ours || !is_there(&place.file) {
        let before = script::before_of(&text).map(|folder| before(&place.file, folder));
        put_into(&place.file, &text, &script::lines(Some(&looker), before.as_ref()))?;
    } else {
        let before = keep(&place.file)?;
        write(&place.file, script::with(SHEBANG, &script::lines(Some(&looker), Some(&before))).as_slice())?;
    }
    if shared {
        place.forget()?;
    } else if !is_peoples {
        place.leave_out()?;
    }
    Ok(state(&place))
}

/// By so many lines is a hook known again that a manager of hooks writes anew, with other paths in it.
const HEAD: usize = 3;
/// The first line of a hook that is ours: git runs hooks with its own `sh` on every system.
const SHEBANG: &[u8] = b"#!/bin/sh\n";

/// Puts our lines into a script that stays people's.
fn put_into(file: &Path, text: &[u8], lines: &str) -> Result<(), String> {
    if text.starts_with(b"#!") && script::shell_of(text).is_none() {
        let first = text.lines().next().unwrap_or_default().to_str_lossy();
        return Err(format!(
            "{} is no script of a shell ({first}); let it run this, with git's lines on standard input: dulk guard check \"$@\"",
            file.display()
        ));
    }
    let text = if text.is_empty() { SHEBANG } else { text };
    write(file, script::with(text, lines).as_slice())
}

fn before(hook: &Path, folder: String) -> Before {
    let text = fs::read(kept_in(hook, &folder)).unwrap_or_default();
    Before { folder, shell: script::shell_of(&text) }
}

/// Gives the hook that is there a second name. Until ours has taken its first one it runs as before, whatever happens to us.
fn keep(hook: &Path) -> Result<Before, String> {
    let failed = |error: std::io::Error| format!("{} cannot be kept: {}", hook.display(), plain(&error));
    for number in 1..=KEPT_LIMIT {
        let folder = if number == 1 { KEPT.to_owned() } else { format!("{KEPT}-{number}") };
        let kept = kept_in(hook, &folder);
        if is_there(&kept) {
            // From a run that was ended before it was done.
            if fs::read(&kept).ok() == fs::read(hook).ok() {
                return Ok(before(hook, folder));
            }
            continue;
        }
        fs::create_dir_all(hook.with_file_name(&folder)).map_err(failed)?;
        if fs::symlink_metadata(hook).is_ok_and(|found| found.is_symlink()) {
            link(&fs::read_link(hook).map_err(failed)?, &kept).map_err(failed)?;
        } else if fs::hard_link(hook, &kept).is_err() {
            // Not every disk lets a file have two names.
            let new = new_beside(&kept).map_err(failed)?;
            fs::copy(hook, new.path()).map_err(failed)?;
            new.persist(&kept).map_err(|error| failed(error.error))?;
        }
        return Ok(before(hook, folder));
    }
    Err(format!("{} hooks are kept beside {} already; remove those that nobody needs", KEPT_LIMIT, hook.display()))
}

/// A link that is one folder deeper than it was leads to the same place.
#[cfg(unix)]
fn link(target: &Path, at: &Path) -> std::io::Result<()> {
    let target = if target.is_relative() { Path::new("..").join(target) } else { target.to_owned() };
    std::os::unix::fs::symlink(target, at)
}

#[cfg(not(unix))]
fn link(target: &Path, at: &Path) -> std::io::Result<()> {
    fs::copy(at.with_file_name("..").join(target), at).map(drop)
}

/// Replaces a script as a whole; what it was is never gone before what it becomes is there.
fn write(path: &Path, text: &[u8]) -> Result<(), String> {
    use std::io::Write;
    let failed = |error: std::io::Error| format!("{} cannot be written: {}", path.display(), plain(&error));
    // What is written into is the file that a link leads to; ours takes the place of the link itself.
    let mut new = new_beside(path).map_err(failed)?;
    new.write_all(text).map_err(failed)?;
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

/// Takes the hook away and puts back the one that was there; what people added to it stays. A hook that is not ours is left as it is.
///
/// # Errors
/// When files cannot be moved.
pub fn hook_off(start: &Path) -> Result<HookState, String> {
    let place = place::of(start)?;
    for file in [vec![place.file.clone()], aside(&place.file)].concat() {
        take_out(&file)?;
    }
    place.forget()?;
    clear(&place.file);
    Ok(state(&place))
}

/// Removes what a run that was ended before it was done has left: half a file, and a second name for the hook that kept its first.
fn clear(hook: &Path) {
    remove_left_over(hook.parent().unwrap_or(Path::new(".")));
    let kept = kept_in(hook, KEPT);
    if fs::read(&kept).is_ok_and(|text| fs::read(hook).is_ok_and(|there| there == text)) {
        let _ = fs::remove_file(&kept);
    }
    // Not when somebody has put something into it.
    let _ = fs::remove_dir(hook.with_file_name(KEPT));
}

fn take_out(file: &Path) -> Result<(), String> {
    let Some(text) = fs::read(file).ok().filter(|text| script::looks(text)) else { return Ok(()) };
    let failed = |error: std::io::Error| format!("{} cannot be removed: {}", file.display(), plain(&error));
    let folder = script::before_of(&text).filter(|folder| is_there(&kept_in(file, folder)));
    match (script::without(&text), folder) {
        (None, None) => fs::remove_file(file).map_err(failed),
        // A manager of hooks has put its own in our place since, and it is the one that we kept.
        (None, Some(folder)) if is_again(file, &folder) => {
            fs::remove_file(file).and_then(|()| fs::remove_file(kept_in(file, &folder))).map_err(failed)?;
            let _ = fs::remove_dir(file.with_file_name(folder));
            Ok(())
        }
        (None, Some(folder)) => put_back(file, &folder).map_err(failed),
        (Some(rest), None) => write(file, &rest),
        // Both are wanted: what people added, and the hook that was there.
        (Some(_), Some(folder)) => {
            let lines = script::lines(None, Some(&before(file, folder)));
            write(file, &script::with(&text, &lines))
        }
    }
}

/// Whether the hook that a moved one of ours has kept stands in its old place again: it begins as that one does.
fn is_again(moved: &Path, folder: &str) -> bool {
    let place = moved.with_file_name(NAME);
    let head = |path: &Path| {
        let text = fs::read(path).ok()?;
        Some(text.lines().take(HEAD).map(<[u8]>::to_vec).collect::<Vec<_>>())
    };
    place != moved && head(&place).is_some_and(|here| head(&kept_in(moved, folder)) == Some(here))
}

/// Gives a kept hook its first name back.
fn put_back(hook: &Path, folder: &str) -> std::io::Result<()> {
    let kept = kept_in(hook, folder);
    match fs::read_link(&kept) {
        Ok(target) => {
            let old = target.strip_prefix("..").unwrap_or(&target);
            let new = hook.with_file_name(format!("{}link{}", LEFT_OVER.0, LEFT_OVER.1));
            relink(old, &new)?;
            fs::rename(&new, hook)?;
            fs::remove_file(&kept)?;
        }
        Err(_) => fs::rename(&kept, hook)?,
    }
    // Somebody may have put something beside it.
    let _ = fs::remove_dir(hook.with_file_name(folder));
    Ok(())
}

#[cfg(unix)]
fn relink(target: &Path, at: &Path) -> std::io::Result<()> {
    let _ = fs::remove_file(at);
    std::os::unix::fs::symlink(target, at)
}

#[cfg(not(unix))]
fn relink(target: &Path, at: &Path) -> std::io::Result<()> {
    fs::copy(at.with_file_name("").join(target), at).map(drop)
}
