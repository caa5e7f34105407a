//! A repository in memory, read and checked as the program does it.

use std::collections::BTreeMap;

use dulk_core::carrier::Copies;
use dulk_core::facts::{Fact, Facts, FileList, Found, GitFacts, Origin, Shelf, read_facts, read_settings};
use dulk_core::finding::{Finding, Severity, WitnessSource, join_causes, sort};
use dulk_core::formats::{AskedFor, PipelineFile, Prepared, pipeline_files, prepare};
use dulk_core::knowledge::Date;
use dulk_core::mend::mend_all;
use dulk_core::project::{Project, columns};
use dulk_core::text::{FileId, Place, SourceFile, Sources, Span};

/// So much may all files together copy: less than in the program, so that no run of it takes long.
const COPIES: usize = 5_000;

/// A place lies in its text, and cuts no character.
pub fn inside(text: &str, span: Span) {
    let range = span.range();
    assert!(range.start <= range.end && text.get(range.clone()).is_some(), "{range:?} does not lie in a text of {} bytes", text.len());
}

/// Files by their paths, and what git knows of them.
#[derive(Clone, Debug)]
pub struct Held {
    files: BTreeMap<String, String>,
    /// Known or not.
    pub git: GitFacts,
    /// Whether the files that a checkout brings are known.
    pub is_listed: bool,
}

impl Shelf for Held {
    fn read(&self, path: &str) -> Result<String, String> {
        self.files.get(path).cloned().ok_or_else(|| "it is not there".to_owned())
    }

    fn is_small(&self, path: &str, limit: u64) -> bool {
        self.files.get(path).is_some_and(|text| text.len() as u64 <= limit)
    }

    fn has(&self, path: &str) -> bool {
        self.files.contains_key(path)
    }

    fn names_in(&self, folder: &str) -> Vec<String> {
        let inside = |path: &String| path.strip_prefix(folder)?.strip_prefix('/').map(str::to_owned);
        self.files.keys().filter_map(inside).filter(|name| !name.contains('/')).collect()
    }

    fn matching(&self, pattern: &str) -> Vec<String> {
        let Ok(glob) = globset::GlobBuilder::new(pattern).literal_separator(true).build() else { return Vec::new() };
        let matcher = glob.compile_matcher();
        self.files.keys().filter(|path| matcher.is_match(path)).take(200).cloned().collect()
    }
}

/// A repository that was read.
struct Read {
    sources: Sources,
    facts: Facts,
    pipelines: Vec<PipelineFile>,
}

impl Held {
    /// Of these files, with nothing known of git.
    pub fn new(files: impl IntoIterator<Item = (String, String)>) -> Self {
        Self { files: files.into_iter().collect(), git: GitFacts::default(), is_listed: true }
    }

    /// Reads all of it; nothing when its settings are wrong, which ends the program with a line.
    fn read_all(&self, backwards: bool) -> Option<Read> {
        let mut sources = Sources::default();
        if backwards {
            // Another order of reading gives the files other numbers.
            for (path, text) in self.files.iter().rev().filter(|(path, _)| path.as_str() != "dulk.toml") {
                sources.add(SourceFile::new(path.as_str(), text.clone()));
            }
        }
        let mut found = Found { git: self.git.clone(), ..Found::default() };
        if let Some(text) = self.files.get("dulk.toml") {
            let file = sources.add(SourceFile::new("dulk.toml", text.clone()));
            found.settings = read_settings(file, sources.get(file)).ok()?;
        }
        let list = FileList::new(self.files.keys().cloned().collect(), Vec::new());
        let pipelines =
            pipeline_files(self, Some(&list), AskedFor::Everything, (&found.settings, &|_| false), &mut sources).ok()?;
        let files: Vec<FileId> = pipelines.iter().flat_map(|one| one.parts.iter().copied().chain([one.file])).collect();
        read_facts(&list, self, &files, &mut found, &mut sources);
        if self.is_listed {
            found.files = Fact::Known(list, Origin::Files);
        }
        let facts = Facts::from_found(found, &sources);
        Some(Read { sources, facts, pipelines })
    }

    /// Checks it, and that everything holds that must; with `mends`, that mending makes nothing worse.
    pub fn check_all(&self, mends: bool) {
        let Some(read) = self.read_all(false) else { return };
        let findings = read.findings(&read.sources);
        findings.iter().for_each(|finding| read.check_places(finding));
        let told = read.told(&findings);
        assert_eq!(told, read.told(&read.findings(&read.sources)), "a second run finds something else");
        if let Some(other) = self.read_all(true) {
            assert_eq!(told, other.told(&other.findings(&other.sources)), "another order of files finds something else");
        }
        read.play();
        if mends {
            read.mend(findings);
        }
    }
}

impl Read {
    fn prepared(&self, sources: &Sources) -> Vec<Prepared> {
        let mut left = COPIES;
        let mut all = Vec::new();
        for file in &self.pipelines {
            let copies = Copies::allowing(left);
            all.extend(prepare(file, sources, &copies));
            left = left.saturating_sub(copies.taken());
        }
        all
    }

    fn findings(&self, sources: &Sources) -> Vec<Finding> {
        let prepared = self.prepared(sources);
        let project = Project::new(&prepared, &self.facts, sources, Date::parse("2026-11-25"));
        let mut lists: Vec<Vec<Finding>> = (0..prepared.len()).map(|index| dulk_core::check(&project, index)).collect();
        dulk_core::settle(&project, &mut lists);
        let mut all: Vec<Finding> = lists.into_iter().flatten().collect();
        sort(&mut all);
        join_causes(all)
    }

    fn check_places(&self, finding: &Finding) {
        let check = |at: Place| inside(&self.sources.get(at.file).text, at.span);
        check(finding.at);
        assert!(!finding.message.is_empty() && !finding.mend.title.is_empty(), "{} says nothing", finding.rule);
        for witness in &finding.witnesses {
            if let WitnessSource::At(at) = witness.source {
                check(at);
            }
        }
        finding.mend.edits.iter().for_each(|edit| check(edit.at));
        assert!(!finding.mend.certain || !finding.mend.edits.is_empty(), "{} is certain of nothing", finding.rule);
    }

    /// What is told of which lines, by the paths of files: their numbers are nobody's business.
    fn told(&self, findings: &[Finding]) -> Vec<(String, u32, &'static str, String, String)> {
        let one = |finding: &Finding| {
            let path = self.sources.get(finding.at.file).path.clone();
            let mut witnesses: Vec<String> = finding.witnesses.iter().map(|witness| witness.text.clone()).collect();
            witnesses.sort_unstable();
            (path, finding.at.span.start, finding.rule, finding.message.clone(), format!("{} {witnesses:?}", finding.mend.title))
        };
        let mut told: Vec<_> = findings.iter().map(one).collect();
        told.sort_unstable();
        told
    }

    /// Plays every event, and follows the way of the site.
    fn play(&self) {
        let prepared = self.prepared(&self.sources);
        let project = Project::new(&prepared, &self.facts, &self.sources, Date::parse("2026-11-25"));
        for occasion in columns(&project).iter().take(8) {
            assert_eq!(project.rehearse(occasion).len(), prepared.len());
        }
        let _ = (dulk_core::views::ways(&project), self.facts.lines(&self.sources));
    }

    fn mend(&self, findings: Vec<Finding>) {
        let worst = |findings: &[Finding]| findings.iter().map(|finding| finding.severity).max();
        let check = |sources: &Sources| self.findings(sources);
        let before = worst(&findings);
        let mended = mend_all(findings, &self.sources, &|_| true, &check);
        assert!(worst(&mended.left) <= before.max(Some(Severity::Advice)), "mending makes it worse: {:?}", mended.left);
        let whole = |sources: &Sources| self.prepared(sources).iter().filter(|one| one.whole).count();
        assert!(whole(&mended.sources) >= whole(&self.sources), "what was mended can no longer be read");
        let again = mend_all(self.findings(&mended.sources), &mended.sources, &|_| true, &check);
        for (file, source) in mended.sources.iter() {
            assert_eq!(source.text, again.sources.get(file).text, "mending again changes {}", source.path);
        }
    }
}
