//! A workspace as a tree of folders: what surely is there, what may be, and who made it.

use std::collections::BTreeMap;

use crate::effects::{CopySource, is_inside};
use crate::facts::{FileList, Reach};
use crate::text::{Place, file_name};

/// Whether a path is there.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// A step made it, or git tracks it.
    There,
    /// It may be there: something that is not understood may have made it.
    Perhaps,
    /// Nothing before makes it.
    Never,
}

/// Who made a folder or file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Maker {
    /// A site generator: the site's own root.
    Built(String),
    /// A command.
    Written,
    /// A command made the folder, and nothing in it.
    Emptied,
    /// It came with an artifact of this name.
    Brought(String),
    /// A cache.
    Restored,
    /// A package manager.
    Installed,
}

/// A folder or file that a step made. What lies deeper in it is not known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Entry {
    /// Who made it.
    pub maker: Maker,
    /// The command or step.
    pub at: Place,
    /// It surely is there.
    pub sure: bool,
}

/// Where the site's root lies, seen from a folder.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SiteIn {
    /// It is this folder.
    Here,
    /// It is this folder deeper down.
    Below(String),
    /// Nothing is known.
    Unknown,
}

/// A folder or file that a command took away.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Gone {
    /// Its path.
    pub path: String,
    /// The command.
    pub at: Place,
    /// Where it stands since, when it was moved.
    pub to: Option<String>,
}

/// Files that git tracks, standing in a folder.
#[derive(Clone, Debug)]
struct Mount<'f> {
    /// The folder.
    to: String,
    /// The part of the repository that stands there.
    from: String,
    files: &'f FileList,
}

/// A workspace, or what an artifact holds.
#[derive(Clone, Debug, Default)]
pub struct Tree<'f> {
    entries: BTreeMap<String, Entry>,
    mounts: Vec<Mount<'f>>,
    removed: Vec<Gone>,
    /// Something that is not understood ran: any folder may be there.
    murky: bool,
    /// Programs that ran and may have made what they know the names of.
    clouds: Vec<Reach>,
}

/// Folders that one job makes; more are no honest script, and anything may be anywhere.
const ENTRY_LIMIT: usize = 500;
/// Times that the repository's files are laid out or copied.
const MOUNT_LIMIT: usize = 50;

/// A name in a folder; either may be empty.
pub(super) fn below(folder: &str, name: &str) -> String {
    match (folder.is_empty(), name.is_empty()) {
        (true, _) => name.to_owned(),
        (_, true) => folder.to_owned(),
        _ => format!("{folder}/{name}"),
    }
}

/// The path from a folder that holds it.
fn within<'p>(path: &'p str, folder: &str) -> Option<&'p str> {
    if folder.is_empty() {
        return Some(path);
    }
    path.strip_prefix(folder).filter(|rest| rest.is_empty() || rest.starts_with('/')).map(|rest| rest.trim_start_matches('/'))
}

impl<'f> Tree<'f> {
    /// Whether a path is there.
    pub fn standing(&self, path: &str) -> Standing {
        let is_sure = |(_, entry): &(&String, &Entry)| entry.sure;
        let mut inner = self.entries.iter().filter(|(name, _)| is_inside(name, path));
        if path.is_empty() || self.is_tracked(path) || inner.clone().any(|pair| is_sure(&pair)) {
            return Standing::There;
        }
        let outer = self.entries.iter().any(|(name, entry)| entry.maker != Maker::Emptied && is_inside(path, name));
        if self.is_clouded(path) || inner.next().is_some() || outer { Standing::Perhaps } else { Standing::Never }
    }

    /// Whether files that git tracks stand there.
    pub fn is_tracked(&self, path: &str) -> bool {
        !self.removed.iter().any(|gone| is_inside(path, &gone.path))
            && self.mounts.iter().any(|mount| match within(path, &mount.to) {
                Some(rest) => {
                    let own = below(&mount.from, rest);
                    mount.files.has(&own) || mount.files.has_folder(&own)
                }
                None => is_inside(&mount.to, path),
            })
    }

    /// The tracked files below a folder, as seen from it, when nothing else can lie there.
    pub fn only_tracked(&self, folder: &str) -> Option<Vec<String>> {
        let touched = self.is_clouded(folder)
            || self.entries.keys().any(|name| is_inside(name, folder) || is_inside(folder, name))
            || self.removed.iter().any(|gone| is_inside(&gone.path, folder) || is_inside(folder, &gone.path));
        let mut mounts = self.mounts.iter().filter(|mount| within(folder, &mount.to).is_some() || is_inside(&mount.to, folder));
        let (Some(mount), None, false) = (mounts.next(), mounts.next(), touched) else { return None };
        let own = below(&mount.from, within(folder, &mount.to)?);
        let names: Vec<String> =
            mount.files.iter().filter_map(|path| within(path, &own)).filter(|rest| !rest.is_empty()).map(str::to_owned).collect();
        (!names.is_empty()).then_some(names)
    }

    /// The files in a folder, as seen from it, when all of them are known; sorted.
    pub fn all_files(&self, folder: &str) -> Option<Vec<String>> {
        let whole = |(name, entry): (&String, &Entry)| {
            entry.maker != Maker::Emptied && is_inside(folder, name) || entry.maker == Maker::Installed && is_inside(name, folder)
        };
        if self.is_clouded(folder) || self.entries.iter().any(whole) {
            return None;
        }
        let mut found = Vec::new();
        for (name, entry) in &self.entries {
            let Some(rest) = within(name, folder).filter(|_| entry.maker != Maker::Emptied) else { continue };
            // A name with an ending is a file; what lies in a folder that was made as a whole is not known.
            if entry.maker != Maker::Written || !rest.rsplit('/').next()?.contains('.') {
                return None;
            }
            found.push(rest.to_owned());
        }
        let around = self.mounts.iter().filter(|mount| within(folder, &mount.to).is_some() || is_inside(&mount.to, folder));
        for mount in around {
            for path in mount.files.iter() {
                let Some(rest) = within(path, &mount.from) else { continue };
                let path = below(&mount.to, rest);
                let gone = self.removed.iter().any(|gone| is_inside(&path, &gone.path));
                found.extend(within(&path, folder).filter(|rest| !rest.is_empty() && !gone).map(str::to_owned));
            }
        }
        found.sort_unstable();
        found.dedup();
        (!found.is_empty()).then_some(found)
    }

    /// The command that took a path away, when nothing has made it again.
    pub fn removed(&self, path: &str) -> Option<Gone> {
        let gone = self.removed.iter().rev().find(|gone| is_inside(path, &gone.path))?;
        let to = gone.to.as_ref().and_then(|to| Some(below(to, within(path, &gone.path)?)));
        Some(Gone { path: path.to_owned(), at: gone.at, to })
    }

    /// What was taken away last stands somewhere else since.
    pub fn moved_to(&mut self, target: Option<String>) {
        if let Some(last) = self.removed.last_mut() {
            last.to = target;
        }
    }

    /// The generator of the built folder that a path lies in, and the path from there, when nothing else may have made the path.
    pub fn inside_built<'p>(&self, path: &'p str) -> Option<(&str, &'p str)> {
        let mut around = self
            .entries
            .iter()
            .filter(|(name, entry)| entry.maker != Maker::Emptied && (is_inside(path, name) || is_inside(name, path)));
        let (Some((name, entry)), None, false) = (around.next(), around.next(), self.is_clouded(path)) else { return None };
        match &entry.maker {
            Maker::Built(generator) if entry.sure => Some((generator, within(path, name).filter(|rest| !rest.is_empty())?)),
            _ => None,
        }
    }

    /// Where the site's root is, seen from a folder.
    pub fn site(&self, folder: &str) -> SiteIn {
        let mut roots = self
            .entries
            .iter()
            .filter(|(name, entry)| entry.sure && matches!(entry.maker, Maker::Built(_)) && is_inside(name, folder));
        match (roots.next(), roots.next()) {
            (Some((name, _)), None) if name == folder => SiteIn::Here,
            (Some((name, _)), None) if !self.is_clouded(folder) => SiteIn::Below(name.clone()),
            _ => SiteIn::Unknown,
        }
    }

    /// Everything that was made, with its path.
    pub fn entries(&self) -> impl Iterator<Item = (&str, &Entry)> {
        self.entries.iter().map(|(name, entry)| (name.as_str(), entry))
    }

    /// From now on anything may be anywhere.
    pub fn blur(&mut self) {
        self.murky = true;
    }

    /// From now on what a program knows the names of may be there.
    pub fn cloud(&mut self, reach: &Reach) {
        if matches!(reach, Reach::Anything) || self.clouds.len() >= MOUNT_LIMIT {
            self.murky = true;
        } else if !self.murky {
            self.clouds.push(reach.clone());
        }
    }

    /// Whether something that is not understood may have made a path, or changed what lies there.
    fn is_clouded(&self, path: &str) -> bool {
        self.murky || self.clouds.iter().any(|reach| path.is_empty() || reach.may_touch(path, |folder| self.is_tracked(folder)))
    }

    /// Lays the repository's files into a folder.
    pub fn mount(&mut self, to: &str, files: &'f FileList) {
        self.mounts.push(Mount { to: to.to_owned(), from: String::new(), files });
    }

    /// The same after all that git does not track is taken away.
    pub fn cleaned(&self, at: Place, files: &'f FileList) -> Self {
        let mut clean = Self::default();
        clean.mount("", files);
        let lost = self.entries.keys().filter(|path| !clean.is_tracked(path)).cloned();
        let lost: Vec<Gone> = lost.map(|path| Gone { path, at, to: None }).collect();
        clean.removed = lost;
        clean
    }

    /// Makes a folder or file.
    pub fn make(&mut self, path: &str, maker: Maker, at: Place, sure: bool) {
        if path.is_empty() && !matches!(maker, Maker::Built(_)) {
            // Files put straight into the root may bring any folder with them.
            self.murky = true;
            return;
        }
        if self.entries.len() >= ENTRY_LIMIT {
            self.murky = true;
            return;
        }
        let sure = sure || self.entries.get(path).is_some_and(|entry| entry.sure);
        if sure {
            self.removed.retain(|gone| !is_inside(&gone.path, path));
        }
        self.entries.insert(path.to_owned(), Entry { maker, at, sure });
    }

    /// Takes a folder or file away; one that is not known may have been any.
    pub fn remove(&mut self, path: Option<&str>, at: Place, sure: bool) {
        match path.filter(|_| sure) {
            // All there is, what git tracks included.
            Some("") => {
                let lost = self.entries.keys().map(|path| Gone { path: path.clone(), at, to: None }).collect();
                *self = Self { removed: lost, ..Self::default() };
            }
            Some(path) => {
                self.entries.retain(|name, _| !is_inside(name, path));
                self.removed.retain(|gone| gone.path != path);
                if self.removed.len() < ENTRY_LIMIT {
                    self.removed.push(Gone { path: path.to_owned(), at, to: None });
                }
            }
            None => {
                let touched = |name: &str| path.is_none_or(|path| is_inside(name, path));
                self.entries.iter_mut().filter(|(name, _)| touched(name)).for_each(|(_, entry)| entry.sure = false);
            }
        }
    }

    /// Copies folders or files as `cp` does: into a folder that is there, or under a new name. Gives where each surely stands since.
    pub fn copy(&mut self, from: &[CopySource], to: &str, is_folder: bool, at: Place, sure: bool) -> Vec<Option<String>> {
        let mut targets = Vec::new();
        let standing = if to.is_empty() { Standing::There } else { self.standing(to) };
        let as_folder = is_folder || from.len() > 1;
        for source in from {
            let Some(path) = &source.path else {
                self.make(to, Maker::Written, at, sure);
                targets.push(None);
                continue;
            };
            let own_name = file_name(path);
            let nested = below(to, own_name);
            let (target, certain) = match (source.contents, as_folder || source.always_nests, standing) {
                (true, ..) | (false, false, Standing::Never) => (to.to_owned(), true),
                (false, true, _) | (false, false, Standing::There) => (nested, true),
                (false, false, Standing::Perhaps) => (to.to_owned(), false),
            };
            let part = self.part(path);
            // Of what is known nothing more is made up round it.
            if part.is_empty() {
                self.make(&target, Maker::Written, at, sure && certain);
            }
            self.graft(&part, &target, sure && certain);
            targets.push(Some(target).filter(|_| sure && certain));
        }
        targets
    }

    /// Nothing is known to be in it.
    pub fn is_empty(&self) -> bool {
        self.entries.is_empty() && self.mounts.is_empty()
    }

    /// What lies in a folder, with paths from it.
    pub fn part(&self, folder: &str) -> Tree<'f> {
        let entries =
            self.entries.iter().filter_map(|(name, entry)| Some((within(name, folder)?.to_owned(), entry.clone()))).collect();
        let mounts = self.mounts.iter().filter_map(|mount| match within(&mount.to, folder) {
            Some(rest) => Some(Mount { to: rest.to_owned(), ..mount.clone() }),
            None => {
                let own = below(&mount.from, within(folder, &mount.to)?);
                mount.files.has_folder(&own).then(|| Mount { to: String::new(), from: own, files: mount.files })
            }
        });
        // What lies in a folder that was made as a whole is not known.
        let made_whole =
            self.entries.iter().any(|(name, entry)| entry.maker != Maker::Emptied && name != folder && is_inside(folder, name));
        let murky = self.murky || made_whole || (!folder.is_empty() && self.is_clouded(folder));
        Tree { entries, mounts: mounts.collect(), removed: Vec::new(), murky, clouds: self.clouds.clone() }
    }

    /// Puts another tree into a folder.
    pub fn graft(&mut self, other: &Tree<'f>, to: &str, sure: bool) {
        for (name, entry) in &other.entries {
            if self.entries.len() >= ENTRY_LIMIT {
                self.murky = true;
                return;
            }
            let path = below(to, name);
            if path.is_empty() && !matches!(entry.maker, Maker::Built(_)) {
                self.murky = true;
                continue;
            }
            self.removed.retain(|gone| !is_inside(&gone.path, &path));
            self.entries.insert(path, Entry { sure: sure && entry.sure, ..entry.clone() });
        }
        if self.mounts.len() >= MOUNT_LIMIT {
            self.murky = true;
            return;
        }
        self.mounts.extend(other.mounts.iter().map(|mount| Mount { to: below(to, &mount.to), ..mount.clone() }));
        other.clouds.iter().for_each(|reach| self.cloud(reach));
        if other.murky {
            if to.is_empty() {
                self.murky = true;
            } else {
                let at = other.entries.values().next().map_or(crate::model::whole_file(crate::text::FileId(0)), |entry| entry.at);
                self.entries.entry(to.to_owned()).or_insert(Entry { maker: Maker::Written, at, sure });
            }
        }
    }
}
