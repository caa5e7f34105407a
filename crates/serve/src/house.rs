//! One repository that is looked at: its picture, the unsaved texts over it, and what was last found.

use std::cell::RefCell;
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::rc::Rc;

use dulk_core::cursor::Outlined;
use dulk_core::finding::{Finding, WitnessSource};
use dulk_core::formats::{self, Claim};
use dulk_core::knowledge::Date;
use dulk_core::project::Project;
use dulk_core::text::{FileId, Sources};
use dulk_gather::{GatherError, Unsaved, mark_of_references};
use dulk_snapshot::{CheckedFile, Renewed, Snapshot};
use lsp_types::Diagnostic;

/// The file of the user's settings.
pub const SETTINGS: &str = dulk_core::facts::SETTINGS_FILE;

/// Files that say something of a repository though no pipeline names them, and may be made while it is open.
const SPEAKING: [&str; 2] = [SETTINGS, "package.json"];

/// What a client is told of a file.
pub type Told = Rc<Vec<Diagnostic>>;

/// A repository.
pub struct House {
    /// Its top folder, with links followed.
    pub root: PathBuf,
    /// The same as the client knows it.
    pub known_as: PathBuf,
    start: PathBuf,
    today: Option<Date>,
    /// Nothing as long as dulk.toml was wrong from the beginning.
    snapshot: Option<Snapshot>,
    /// Why dulk.toml is refused now: the line, from 1, and in words.
    pub wrong_settings: Option<(u32, String)>,
    unsaved: Unsaved,
    /// Texts that came since the picture was made.
    waiting: BTreeSet<String>,
    everything_waits: bool,
    mark: Option<u64>,
    /// What was found last.
    found: Vec<CheckedFile>,
    is_checked: bool,
    /// Files that have become others since then.
    changed: BTreeSet<FileId>,
    /// By file: what was found there as the client is told, where that still holds.
    told: RefCell<BTreeMap<FileId, Told>>,
    /// By path: what a file held when it could last be read whole.
    outlines: RefCell<BTreeMap<String, Vec<Outlined>>>,
}

impl House {
    /// Reads the repository round a folder.
    pub fn open(start: &Path, today: Option<Date>) -> Self {
        let mut house = Self {
            root: std::fs::canonicalize(start).unwrap_or_else(|_| start.to_owned()),
            known_as: start.to_owned(),
            start: start.to_owned(),
            today,
            snapshot: None,
            wrong_settings: None,
            unsaved: Unsaved::new(),
            waiting: BTreeSet::new(),
            everything_waits: false,
            mark: mark_of_references(start),
            found: Vec::new(),
            is_checked: false,
            changed: BTreeSet::new(),
            told: RefCell::default(),
            outlines: RefCell::default(),
        };
        house.build();
        house
    }

    fn build(&mut self) {
        match Snapshot::of_texts(&self.start, &[], self.unsaved.clone(), self.today) {
            Ok(snapshot) => {
                let root = snapshot.repository().root.clone();
                let inside = self.root.strip_prefix(&root).map(Path::to_owned).unwrap_or_default();
                if self.start.ends_with(&inside) {
                    self.known_as = self.start.ancestors().nth(inside.components().count()).unwrap_or(&root).to_owned();
                } else {
                    self.known_as.clone_from(&root);
                }
                self.root = root;
                self.wrong_settings = None;
                self.snapshot = Some(snapshot);
            }
            Err(error) => self.wrong_settings = Some(told(error)),
        }
        self.is_checked = false;
        self.forget_told();
    }

    /// The path from the root of a file that lies in it.
    pub fn path_of(&self, file: &Path) -> Option<String> {
        let inside = file.strip_prefix(&self.known_as).or_else(|_| file.strip_prefix(&self.root)).map(Path::to_owned).ok();
        let inside = inside.or_else(|| {
            let folder = std::fs::canonicalize(file.parent()?).ok()?;
            Some(folder.strip_prefix(&self.root).ok()?.join(file.file_name()?))
        })?;
        let path = inside.to_str()?.replace(std::path::MAIN_SEPARATOR, "/");
        (!path.is_empty() && !path.split('/').any(|part| part == "..")).then_some(path)
    }

    /// Where a path from the root lies, as the client knows it.
    pub fn file_of(&self, path: &str) -> PathBuf {
        self.known_as.join(path)
    }

    /// The picture; nothing as long as dulk.toml was wrong from the beginning.
    pub fn snapshot(&self) -> Option<&Snapshot> {
        self.snapshot.as_ref()
    }

    /// All texts that were read.
    pub fn sources(&self) -> Option<&Sources> {
        self.snapshot.as_ref().map(Snapshot::sources)
    }

    /// A file by its path, and the project that it belongs to.
    pub fn looked_at(&self, path: &str) -> Option<(Project<'_>, FileId)> {
        let snapshot = self.snapshot.as_ref()?;
        let file = snapshot.sources().find(path)?;
        Some((snapshot.project(), file))
    }

    /// What was found, where that was in the texts as they are now.
    pub fn findings_now(&self) -> impl Iterator<Item = &Finding> {
        self.findings().filter(|_| self.is_checked)
    }

    /// What was found last.
    pub fn findings(&self) -> impl Iterator<Item = &Finding> {
        self.found.iter().flat_map(|file| &file.findings)
    }

    /// What a file holds, or did when it could last be read whole.
    pub fn last_good(&self, path: &str, is_whole: bool, now: impl FnOnce() -> Vec<Outlined>) -> Vec<Outlined> {
        let mut outlines = self.outlines.borrow_mut();
        match outlines.get(path) {
            Some(known) if !is_whole => known.clone(),
            _ => {
                let now = now();
                outlines.insert(path.to_owned(), now.clone());
                now
            }
        }
    }

    /// Whether anything hangs on a file: it was read, or would be if it were there.
    fn is_read(&self, path: &str) -> bool {
        SPEAKING.contains(&path.rsplit('/').next().unwrap_or(path))
            || formats::all().iter().any(|format| format.claim(path) != Claim::No)
            || self.sources().is_some_and(|sources| sources.find(path).is_some())
    }

    /// Lays a text over a file; nothing takes it away.
    pub fn lay_over(&mut self, path: &str, text: Option<String>) {
        let was = self.unsaved.contains_key(path);
        if !was && !self.is_read(path) {
            return;
        }
        match text {
            Some(text) => self.unsaved.insert(path.to_owned(), text),
            None => self.unsaved.remove(path),
        };
        self.waiting.insert(path.to_owned());
    }

    /// A file of the disk has become another one.
    pub fn has_changed(&mut self, path: &str) {
        if self.is_read(path) {
            self.waiting.insert(path.to_owned());
        }
    }

    /// A file was saved: of one that is known and read, the text is the one that was laid over it. Any other may matter in a way that
    /// nobody can tell.
    pub fn was_saved(&mut self, path: &str) {
        let is_known = |snapshot: &Snapshot| {
            snapshot.sources().find(path).is_some() && snapshot.repository().facts.has_file(path) == Some(true)
        };
        match self.snapshot.as_ref().is_some_and(is_known) {
            true => self.has_changed(path),
            false => self.may_have_changed(),
        }
    }

    /// Files have come or gone.
    pub fn may_have_changed(&mut self) {
        self.everything_waits = true;
    }

    /// Looks whether git has other branches, or tracks other files.
    pub fn look_at_git(&mut self) {
        let mark = mark_of_references(&self.start);
        if mark != self.mark {
            self.mark = mark;
            self.everything_waits = true;
        }
    }

    /// Takes in what has come since.
    pub fn take_in(&mut self) {
        if self.waiting.is_empty() && !self.everything_waits {
            return;
        }
        let waiting = std::mem::take(&mut self.waiting);
        let everything = std::mem::take(&mut self.everything_waits);
        let Some(snapshot) = &mut self.snapshot else {
            self.build();
            return;
        };
        let mut has_renewed = false;
        for path in waiting {
            let renewed = snapshot.lay_over(&path, self.unsaved.get(&path).cloned());
            has_renewed |= matches!(renewed, Ok(Renewed::File | Renewed::Everything));
            match renewed {
                Err(error) => self.wrong_settings = Some(told(error)),
                Ok(_) if path == SETTINGS => {
                    self.told.borrow_mut().clear();
                    self.wrong_settings = None;
                }
                Ok(Renewed::File) => self.changed.extend(snapshot.sources().find(&path)),
                // The numbers of the files are others.
                Ok(Renewed::Everything) => self.told.borrow_mut().clear(),
                Ok(Renewed::Nothing) => {}
            }
        }
        if everything {
            match snapshot.renew_all() {
                // What is being typed is laid over only once it is right.
                Ok(_) if !self.unsaved.contains_key(SETTINGS) => self.wrong_settings = None,
                Ok(_) => {}
                Err(error) => self.wrong_settings = Some(told(error)),
            }
            self.told.borrow_mut().clear();
            has_renewed = true;
        }
        self.is_checked &= !has_renewed;
    }

    /// Checks what has changed, as long as `stop` says no. Whether all is checked.
    pub fn check(&mut self, stop: &(dyn Fn() -> bool + Sync)) -> bool {
        if self.is_checked {
            return true;
        }
        let found = match &self.snapshot {
            Some(snapshot) => snapshot.check_unless(stop),
            None => Some(Vec::new()),
        };
        let Some(found) = found else { return false };
        let before = std::mem::replace(&mut self.found, found);
        let (before, now) = (by_file(&before), by_file(&self.found));
        let holds =
            |file: &FileId| now.get(file).is_none_or(|findings| !findings.iter().any(|one| stands_in(one, &self.changed)));
        self.told.borrow_mut().retain(|file, _| before.get(file) == now.get(file) && holds(file));
        self.changed.clear();
        self.is_checked = true;
        true
    }

    /// Everything is taken in and checked.
    pub fn is_at_rest(&self) -> bool {
        self.is_checked && self.waiting.is_empty() && !self.everything_waits
    }

    /// The files in which something was found.
    pub fn wrong_files(&self) -> BTreeSet<FileId> {
        self.findings().map(|finding| finding.at.file).collect()
    }

    /// What was found in a file, as the client is told; `tell` puts it so, where that has not been done yet.
    pub fn told(&self, file: FileId, tell: impl FnOnce(&[&Finding]) -> Vec<Diagnostic>) -> Told {
        if let Some(known) = self.told.borrow().get(&file) {
            return known.clone();
        }
        let own: Vec<&Finding> = self.findings().filter(|finding| finding.at.file == file).collect();
        let told = Told::new(tell(&own));
        self.told.borrow_mut().insert(file, told.clone());
        told
    }

    /// The client is told in other words from now on, or knows files by other addresses.
    pub fn forget_told(&self) {
        self.told.borrow_mut().clear();
    }
}

/// The findings of each file.
fn by_file(found: &[CheckedFile]) -> BTreeMap<FileId, Vec<&Finding>> {
    let mut files: BTreeMap<FileId, Vec<&Finding>> = BTreeMap::new();
    for finding in found.iter().flat_map(|file| &file.findings) {
        files.entry(finding.at.file).or_default().push(finding);
    }
    files
}

/// Whether a finding or one of its witnesses stands in one of some files.
fn stands_in(finding: &Finding, files: &BTreeSet<FileId>) -> bool {
    let mut witnesses = finding.witnesses.iter();
    files.contains(&finding.at.file)
        || witnesses.any(|witness| matches!(witness.source, WitnessSource::At(at) if files.contains(&at.file)))
}

/// Where dulk.toml is wrong, and why.
fn told(error: GatherError) -> (u32, String) {
    match error {
        GatherError::Settings { line, reason } => (line, reason),
        other => (1, other.to_string()),
    }
}
