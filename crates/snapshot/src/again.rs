//! One file becomes another one.

use std::collections::BTreeSet;

use dulk_core::carrier::Copies;
use dulk_core::facts::{SETTINGS_FILE, programs_asked_for};
use dulk_core::formats::{Claim, PipelineFile, Prepared, prepare};
use dulk_core::text::FileId;
use dulk_gather::{GatherError, gather_with, read_over};

use crate::{ReadFrom, Snapshot, judge};

/// How much was read again.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Renewed {
    /// Nothing has changed.
    Nothing,
    /// The file alone; what hangs on it is checked again.
    File,
    /// The whole repository.
    Everything,
}

impl Snapshot {
    /// Lays a text that is not yet saved over a file, by its path from the repository's root; `None` takes it away, so that the disk's
    /// counts again.
    ///
    /// # Errors
    /// When dulk.toml is wrong: then everything stays as it was.
    pub fn lay_over(&mut self, path: &str, text: Option<String>) -> Result<Renewed, GatherError> {
        let before = match text {
            Some(text) => self.unsaved.insert(path.to_owned(), text),
            None => self.unsaved.remove(path),
        };
        self.renew(path).inspect_err(|_| {
            // A wrong text is tried no second time with the next one.
            match before {
                Some(before) => self.unsaved.insert(path.to_owned(), before),
                None => self.unsaved.remove(path),
            };
        })
    }

    /// Reads a file again that has changed on the disk, was made there, or was removed.
    ///
    /// # Errors
    /// When dulk.toml is wrong: then everything stays as it was.
    pub fn renew(&mut self, path: &str) -> Result<Renewed, GatherError> {
        if matches!(self.read_from, ReadFrom::Commit) {
            return Ok(Renewed::Nothing);
        }
        let text = read_over(&self.repository.root, path, &self.unsaved);
        let known = self.repository.sources.find(path);
        if let (Ok(text), Some(file)) = (&text, known) {
            if *text == self.repository.sources.get(file).text {
                return Ok(Renewed::Nothing);
            }
            if self.stands_alone(file, text) {
                return Ok(self.exchange(file, text.clone()));
            }
        }
        self.renew_all()
    }

    /// Reads the whole repository again: files came or went, or git has other branches.
    ///
    /// # Errors
    /// When dulk.toml is wrong: then everything stays as it was.
    pub fn renew_all(&mut self) -> Result<Renewed, GatherError> {
        let ReadFrom::Disk { start, paths } = &self.read_from else { return Ok(Renewed::Nothing) };
        self.repository = gather_with(start, paths, &self.unsaved)?;
        Ok(self.read_all())
    }

    fn read_all(&mut self) -> Renewed {
        let judge::AllPrepared { prepared, copied } = judge::prepare_all(&self.repository, &self.repository.sources);
        (self.prepared, self.copied) = (prepared, copied);
        self.judged = std::sync::Mutex::default();
        Renewed::Everything
    }

    /// Whether nothing but pipelines is made of a file, and another text in it makes no other file be read.
    fn stands_alone(&self, file: FileId, text: &str) -> bool {
        let repository = &self.repository;
        let Some(list) = repository.facts.files.known() else { return false };
        let mut own = repository.pipelines.iter().filter(|one| one.file == file || one.parts.contains(&file)).peekable();
        let before = &repository.sources.get(file).text;
        // A file that is no pipeline by its name is one by what it holds.
        let by_name =
            |one: &PipelineFile| matches!(one.format.claim(&repository.sources.get(one.file).path), Claim::Reads | Claim::Part);
        let same = |one: &PipelineFile| one.format.wants(before) == one.format.wants(text);
        own.peek().is_some()
            && own.all(|one| one.refused.is_none() && by_name(one) && same(one))
            && repository.sources.get(file).path != SETTINGS_FILE
            && !repository.facts.is_read_from(file)
            && programs_asked_for(before, list) == programs_asked_for(text, list)
    }

    /// Puts another text into a file that nothing but pipelines is made of. What that means for others is left to the next check, so that
    /// a question about this file waits for nothing but its reading.
    fn exchange(&mut self, file: FileId, text: String) -> Renewed {
        let project = self.project();
        let relations = project.relations();
        self.judged().will_change(&project);
        drop(project);
        self.repository.sources.set(file, text);
        let sources = &self.repository.sources;
        let mut prepared: Vec<Prepared> = Vec::with_capacity(self.prepared.len());
        let mut gone = Vec::new();
        let mut changed = BTreeSet::new();
        let mut moved = false;
        let copies = Copies::default();
        let mut old = std::mem::take(&mut self.prepared).into_iter().peekable();
        for one in &self.repository.pipelines {
            let is_own = |prepared: &Prepared| prepared.pipeline.file == one.file;
            let own: Vec<Prepared> = std::iter::from_fn(|| old.next_if(is_own)).collect();
            if one.file != file && !one.parts.contains(&file) {
                prepared.extend(own);
                continue;
            }
            let new = prepare(one, sources, &copies);
            moved |= new.len() != own.len();
            changed.extend(prepared.len()..prepared.len() + new.len());
            prepared.extend(new);
            gone.extend(own);
        }
        self.prepared = prepared;
        self.copied = self.copied.saturating_add(copies.taken());
        if self.copied > judge::COPIES {
            return self.read_all();
        }
        let judged = self.judged.get_mut().unwrap_or_else(std::sync::PoisonError::into_inner);
        let Some(kept) = judged.kept.take().filter(|_| !moved) else {
            *judged = judge::Judged::default();
            return Renewed::File;
        };
        let (now, near) = kept.after(&self.prepared, sources, &changed, &relations);
        judged.kept = Some(now);
        judged.has_changed(near, relations);
        // Giving back takes as long as a question may.
        rayon::spawn(move || drop((gone, kept)));
        Renewed::File
    }
}
