//! Slips: a small repository in one string, with the places of findings and witnesses marked in it.
//!
//! A line `== name` starts a part: `== git` holds branches (one a line, `default`, `current`, `tag` or `far:REMOTE` after
//! the name), `== files` paths that git tracks, of which one with ` 644` behind it may not be run by its path, `== dulk.toml` settings, `== pipeline` a workflow file, `== jobs` one that starts on every push, `== gitlab` a `.gitlab-ci.yml`, `== steps` one with
//! the steps of one job, `== stages` a template with a pipeline whose first stage brings the sources as `Files`, and any other name a file of that path. `«…»` marks a
//! finding, `‹…›` a witness; the marks are taken out before anything is read. A line break right at the beginning counts for nothing.

use crate::facts::{Fact, Facts, FileList, Found, GitFacts, Origin, Remote, Settings, Shelf, read_facts, read_settings};
use crate::finding::Finding;
use crate::formats::{AskedFor, Prepared, pipeline_files, prepare};
use crate::knowledge::Date;
use crate::project::Project;
use crate::text::{FileId, Place, SourceFile, Sources, Span};

/// The path of `== pipeline`.
const PIPELINE: &str = ".github/workflows/site.yml";

/// The path of `== stages`.
const STAGES: &str = "infra/way.yml";

/// What stands before the stages of `== stages`.
const FIRST_STAGE: &str = r#"Resources:
  Way:
    Type: AWS::CodePipeline::Pipeline
    Properties:
      RoleArn: arn:aws:iam::111122223333:role/way
      Stages:
        - Name: Sources
          Actions:
            - Name: Fetch
              ActionTypeId: {Category: Source, Owner: AWS, Provider: CodeCommit, Version: "1"}
              Configuration: {RepositoryName: timetable, BranchName: main}
              OutputArtifacts: [{Name: Files}]
"#;

/// One part, without marks.
#[derive(Clone, Debug)]
pub struct Section {
    /// What follows `==`.
    pub name: String,
    /// Its lines.
    pub text: String,
    /// Bytes of findings in it.
    pub findings: Vec<Span>,
    /// Bytes of witnesses in it.
    pub witnesses: Vec<Span>,
}

impl Section {
    /// The file it stands for, if any.
    pub fn path(&self) -> Option<&str> {
        match self.name.as_str() {
            "git" | "files" => None,
            "pipeline" | "jobs" | "steps" => Some(PIPELINE),
            "gitlab" => Some(".gitlab-ci.yml"),
            "stages" => Some(STAGES),
            other => Some(other),
        }
    }
}

/// Stands behind a path that may not be run.
const NOT_RUN: &str = " 644";

/// A read slip.
#[derive(Clone, Debug)]
pub struct Slip {
    /// Its parts.
    pub sections: Vec<Section>,
}

/// A slip as a repository.
pub struct Scene {
    /// All texts.
    pub sources: Sources,
    /// What is known.
    pub facts: Facts,
    /// The pipelines.
    pub prepared: Vec<Prepared>,
    /// The places of findings, sorted.
    pub findings: Vec<Place>,
    /// The places of witnesses, sorted.
    pub witnesses: Vec<Place>,
}

impl Scene {
    /// All of it together, on a fixed day.
    pub fn project(&self) -> Project<'_> {
        Project::new(&self.prepared, &self.facts, &self.sources, Date::parse("2026-11-25"))
    }

    /// What an event written as for `dulk when` comes to for the first pipeline.
    ///
    /// # Panics
    /// When the event is none.
    #[cfg(test)]
    pub fn rehearsed(&self, event: &str) -> crate::rehearsal::Rehearsal {
        let occasion = crate::rehearsal::parse_occasion(event, &self.facts).unwrap_or_else(|error| panic!("{error}"));
        self.project().rehearse_one(0, &occasion)
    }
}

impl Shelf for Slip {
    fn read(&self, path: &str) -> Result<String, String> {
        let section = self.sections.iter().find(|section| section.path() == Some(path));
        section.map(|section| section.text.clone()).ok_or_else(|| "it is not there".to_owned())
    }

    fn is_small(&self, path: &str, limit: u64) -> bool {
        self.sections.iter().any(|section| section.path() == Some(path) && section.text.len() as u64 <= limit)
    }

    fn has(&self, path: &str) -> bool {
        // Of a file that is only listed nobody knows what it holds, so that it is no pipeline.
        let listed = |section: &Section| section.name == "files" && section.text.lines().any(|line| line == path);
        let is_listed = || crate::formats::claim(path).is_none() && self.sections.iter().any(listed);
        self.sections.iter().any(|section| section.path() == Some(path)) || is_listed()
    }

    fn names_in(&self, folder: &str) -> Vec<String> {
        let inside = |path: &str| path.strip_prefix(folder)?.strip_prefix('/').map(str::to_owned);
        self.sections.iter().filter_map(|section| inside(section.path()?)).filter(|name| !name.contains('/')).collect()
    }

    fn matching(&self, pattern: &str) -> Vec<String> {
        let glob = globset::Glob::new(pattern).expect("a pattern").compile_matcher();
        self.sections.iter().filter_map(Section::path).filter(|path| glob.is_match(path)).map(str::to_owned).collect()
    }
}

impl Slip {
    /// Reads the parts and takes the marks out.
    pub fn read(text: &str) -> Self {
        let mut sections: Vec<(String, String)> = Vec::new();
        let text = text.strip_prefix('\n').unwrap_or(text);
        for line in text.split_inclusive('\n') {
            match (line.strip_prefix("== "), sections.last_mut()) {
                (Some(name), _) => sections.push((name.trim().to_owned(), beginning(name.trim()).to_owned())),
                (None, Some((_, body))) => body.push_str(line),
                (None, None) => sections.push(("pipeline".to_owned(), line.to_owned())),
            }
        }
        Self { sections: sections.into_iter().map(|(name, marked)| unmark(name, &marked)).collect() }
    }

    /// The name of the format that it shows.
    pub fn format(&self) -> &'static str {
        let claimed = self.sections.iter().filter_map(Section::path).find_map(crate::formats::claim);
        claimed.map_or("workflow", |(format, _)| format.id())
    }

    /// The repository that the slip stands for.
    pub fn scene(&self) -> Scene {
        let mut sources = Sources::default();
        let mut scene_findings = Vec::new();
        let mut scene_witnesses = Vec::new();
        let mut found = Found::default();
        let mut paths: Vec<String> = Vec::new();
        let mut list: Option<Vec<String>> = None;
        for section in &self.sections {
            let Some(path) = section.path() else {
                match section.name.as_str() {
                    "git" => found.git = git(&section.text),
                    _ => list = Some(section.text.lines().map(str::to_owned).collect()),
                }
                continue;
            };
            let file = sources.add(SourceFile::new(path, section.text.clone()));
            scene_findings.extend(section.findings.iter().map(|span| Place { file, span: *span }));
            scene_witnesses.extend(section.witnesses.iter().map(|span| Place { file, span: *span }));
            paths.push(path.to_owned());
            if path == "dulk.toml" {
                found.settings =
                    read_settings(file, sources.get(file)).unwrap_or_else(|error| panic!("{}: {error:?}", section.text));
            } else if path == ".gitmodules" {
                let value = |key: &'static str| {
                    section.text.lines().filter_map(move |line| {
                        line.trim().strip_prefix(key)?.trim().strip_prefix('=').map(|value| value.trim().to_owned())
                    })
                };
                let modules: Vec<(String, String)> = value("path").zip(value("url")).collect();
                found.git.submodules = Fact::Known(modules, Origin::Files);
            }
        }
        // What is read for facts is chosen as the program chooses it, from the files that the slip holds.
        let held = FileList::new(paths.clone(), Vec::new());
        let mut companions = sources.clone();
        let claimed = |source: &SourceFile| crate::formats::claim(&source.path).is_some();
        let pipelines: Vec<FileId> = companions.iter().filter(|(_, source)| claimed(source)).map(|(file, _)| file).collect();
        read_facts(&held, self, &pipelines, &mut found, &mut companions);
        let own = |file: &FileId| sources.find(&companions.get(*file).path).unwrap_or(*file);
        found.companions = found.companions.iter().map(own).collect();
        found.programs = found.programs.iter().map(own).collect();
        found.page_sources = found.page_sources.iter().map(own).collect();
        if let Some(list) = list {
            paths.extend(list);
            let (marked, plain): (Vec<String>, Vec<String>) = paths.into_iter().partition(|path| path.ends_with(NOT_RUN));
            let unmarked = marked.iter().map(|path| path.trim_end_matches(NOT_RUN).to_owned());
            let all = FileList::new(plain.iter().cloned().chain(unmarked).collect(), Vec::new());
            let all = if marked.is_empty() { all } else { all.with_executable(plain) };
            found.files = Fact::Known(all, Origin::Files);
        }
        let facts = Facts::from_found(found, &sources);
        let prepared = self.prepared(&held, &facts.settings, &sources);
        scene_findings.sort_unstable();
        scene_witnesses.sort_unstable();
        Scene { sources, facts, prepared, findings: scene_findings, witnesses: scene_witnesses }
    }

    /// Its pipelines in the order in which the slip holds them, found as the program finds them.
    fn prepared(&self, held: &FileList, settings: &Settings, sources: &Sources) -> Vec<Prepared> {
        let mut read = Sources::default();
        let mut files = pipeline_files(self, Some(held), AskedFor::Everything, (settings, &|_| false), &mut read)
            .unwrap_or_else(|error| panic!("{error:?}"));
        let own = |file: FileId| sources.find(&read.get(file).path).expect("a file of the slip");
        for file in &mut files {
            file.file = own(file.file);
            file.parts.iter_mut().for_each(|part| *part = own(*part));
        }
        files.sort_by_key(|file| file.file);
        files.iter().flat_map(|file| prepare(file, sources, &crate::carrier::Copies::default())).collect()
    }

    /// The slip with other texts in its files.
    pub fn with_texts(&self, sources: &Sources) -> Self {
        let mut changed = self.clone();
        for section in &mut changed.sections {
            if let Some(file) = section.path().and_then(|path| sources.find(path)) {
                section.text.clone_from(&sources.get(file).text);
            }
        }
        changed
    }

    /// The slip with edits made, for seeing whether they cure.
    pub fn mended(&self, sources: &Sources, findings: &[Finding]) -> Self {
        let mut mended = self.clone();
        for section in &mut mended.sections {
            let file = section.path().and_then(|path| sources.find(path));
            let mut edits: Vec<_> =
                findings.iter().flat_map(|finding| &finding.mend.edits).filter(|edit| Some(edit.at.file) == file).collect();
            edits.sort_by_key(|edit| std::cmp::Reverse(edit.at.span.start));
            edits.dedup();
            for edit in edits {
                section.text.replace_range(edit.at.span.range(), &edit.text);
            }
        }
        mended
    }
}

/// What stands before the lines of a part.
fn beginning(name: &str) -> &'static str {
    match name {
        "jobs" => "on: push\njobs:\n",
        "steps" => "on: push\njobs:\n  build:\n    runs-on: ubuntu-latest\n    steps:\n",
        "stages" => FIRST_STAGE,
        _ => "",
    }
}

fn git(text: &str) -> GitFacts {
    let mut facts = GitFacts::default();
    let mut branches = Vec::new();
    let mut tags = Vec::new();
    for line in text.lines() {
        let mut words = line.split_whitespace();
        let Some(name) = words.next() else { continue };
        let words: Vec<&str> = words.collect();
        if words == ["tag"] {
            tags.push(name.to_owned());
            continue;
        }
        if let Some(remote) = words.first().and_then(|word| word.strip_prefix("far:")) {
            facts.elsewhere.push((remote.to_owned(), name.to_owned()));
            continue;
        }
        if words == ["remote"] {
            let mut parts = name.splitn(3, '/').map(str::to_owned);
            if let (Some(host), Some(owner), Some(name)) = (parts.next(), parts.next(), parts.next()) {
                facts.remote = Fact::Known(Remote { host, owner, name }, Origin::Git);
            }
            continue;
        }
        branches.push(name.to_owned());
        for word in words {
            let fact = Fact::Known(name.to_owned(), Origin::Git);
            if word == "default" {
                facts.default_branch = fact;
            } else {
                facts.current_branch = fact;
            }
        }
    }
    branches.sort_unstable();
    facts.tags = Fact::Known(tags, Origin::Git);
    facts.branches = Fact::Known(branches, Origin::Git);
    facts
}

fn unmark(name: String, marked: &str) -> Section {
    let mut section = Section { name, text: String::with_capacity(marked.len()), findings: Vec::new(), witnesses: Vec::new() };
    let mut open: Vec<(char, usize)> = Vec::new();
    for character in marked.chars() {
        match character {
            '«' | '‹' => open.push((character, section.text.len())),
            '»' | '›' => {
                let wanted = if character == '»' { '«' } else { '‹' };
                let index = open
                    .iter()
                    .rposition(|(mark, _)| *mark == wanted)
                    .unwrap_or_else(|| panic!("a mark is closed that was not opened: {marked}"));
                let (_, start) = open.remove(index);
                let span = Span::new(start, section.text.len());
                if wanted == '«' { section.findings.push(span) } else { section.witnesses.push(span) }
            }
            other => section.text.push(other),
        }
    }
    section
}
