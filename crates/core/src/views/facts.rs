//! Facts as lines that a person reads, each with where it is known from; what is not known says what would make it known.

use crate::effects::built_by_scripts;
use crate::facts::{Fact, Facts, Named, Origin, Recognised, base_path, lockfiles, needs_server, recognised, site_output};
use crate::finding::listed_short;
use crate::formats::Prepared;
use crate::model::{Filter, FilterOf, StartsFrom, Trigger};
use crate::text::{Place, Sources};

/// The parts in which a person thinks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Group {
    /// git and its files.
    Repository,
    /// package.json, managers, runtimes.
    Packages,
    /// Generators, folders, paths.
    Site,
    /// What hosts are told.
    Hosting,
    /// What only the forge knows.
    Forge,
}

impl Group {
    /// All, in order.
    pub const ALL: [Self; 5] = [Self::Repository, Self::Packages, Self::Site, Self::Hosting, Self::Forge];

    /// The word.
    pub fn word(self) -> &'static str {
        match self {
            Self::Repository => "repository",
            Self::Packages => "packages",
            Self::Site => "site",
            Self::Hosting => "hosting",
            Self::Forge => "forge",
        }
    }
}

/// One fact.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FactLine {
    /// Its part.
    pub group: Group,
    /// What it is about.
    pub name: String,
    /// What is known; nothing when it is not.
    pub value: Option<String>,
    /// Where it is known from, or why it is not known.
    pub from: String,
    /// The place it is known from, when it has one.
    pub at: Option<Place>,
    /// The line for dulk.toml that would make it known: table and line.
    pub declare: Option<(&'static str, String)>,
}

/// What starts the pipelines whose files do not say so themselves, and what dulk.toml accepts.
pub fn setting_lines(prepared: &[Prepared], facts: &Facts, sources: &Sources) -> Vec<FactLine> {
    let mut lines = Lines { facts, sources, lines: Vec::new() };
    // Of several pipelines in a file, what starts them is told once.
    let mut told: Vec<String> = Vec::new();
    for one in prepared.iter().filter(|one| !matches!(one.pipeline.starts_from, StartsFrom::Written | StartsFrom::Usual)) {
        let path = &sources.get(one.pipeline.file).path;
        let name = format!("what starts {path}");
        if told.contains(&name) {
            continue;
        }
        match &one.pipeline.starts_from {
            StartsFrom::Declared(at) => {
                lines.known(Group::Forge, &name, starts_in_words(&one.pipeline.triggers), &Origin::At(*at));
            }
            StartsFrom::Unknown(why) => {
                let declare = format!("file = {path:?}\npush = [\"main\"]");
                let outside = one.pipeline.customs.starts_outside;
                lines.unknown(Group::Forge, &name, why, outside.then_some(("[starts]", declare)));
            }
            StartsFrom::Written | StartsFrom::Usual => {}
        }
        told.push(name);
    }
    for entry in &facts.settings.accept {
        let value = format!("{}, because {}", entry.rule.name, entry.because.name);
        lines.known(Group::Forge, &format!("accepted in {}", entry.file.name), value, &Origin::At(entry.rule.at));
    }
    lines.lines
}

/// Events with the branches and tags that they are for.
fn starts_in_words(triggers: &[Trigger]) -> String {
    let of = |filter: &Filter| {
        let patterns: Vec<&str> = filter.patterns.iter().map(|pattern| pattern.text.value.as_str()).collect();
        let what = if filter.of == FilterOf::Tags { "tags " } else { "" };
        format!("{what}{}", patterns.join(", "))
    };
    let one = |trigger: &Trigger| {
        let filters: Vec<String> = trigger.filters.iter().map(of).collect();
        let gap = if filters.is_empty() { "" } else { " " };
        format!("{}{gap}{}", trigger.name.value, filters.join(" and "))
    };
    triggers.iter().map(one).collect::<Vec<_>>().join("; ")
}

struct Lines<'f> {
    facts: &'f Facts,
    sources: &'f Sources,
    lines: Vec<FactLine>,
}

impl Facts {
    /// All facts as lines.
    pub fn lines(&self, sources: &Sources) -> Vec<FactLine> {
        let mut lines = Lines { facts: self, sources, lines: Vec::new() };
        lines.repository();
        lines.packages();
        lines.site();
        lines.hosting();
        lines.forge();
        lines.lines
    }
}

impl Lines<'_> {
    fn known(&mut self, group: Group, name: &str, value: impl Into<String>, origin: &Origin) {
        let (from, at) = self.from(origin);
        self.lines.push(FactLine { group, name: name.to_owned(), value: Some(value.into()), from, at, declare: None });
    }

    fn unknown(&mut self, group: Group, name: &str, why: &str, declare: Option<(&'static str, String)>) {
        self.lines.push(FactLine { group, name: name.to_owned(), value: None, from: why.to_owned(), at: None, declare });
    }

    fn fact<T>(
        &mut self,
        group: Group,
        name: &str,
        fact: &Fact<T>,
        show: impl Fn(&T) -> String,
        declare: Option<(&'static str, String)>,
    ) {
        match fact {
            Fact::Known(value, origin) => self.known(group, name, show(value), origin),
            Fact::Unknown(why) => self.unknown(group, name, why, declare),
        }
    }

    fn from(&self, origin: &Origin) -> (String, Option<Place>) {
        match origin {
            Origin::Git => ("git".into(), None),
            Origin::Files => ("files".into(), None),
            Origin::Catalog | Origin::Silent(_) => ("its usual way".into(), None),
            Origin::At(place) => {
                let file = self.sources.get(place.file);
                (format!("{}:{}", file.path, file.position(place.span.start).line), Some(*place))
            }
        }
    }

    fn repository(&mut self) {
        let (group, facts) = (Group::Repository, self.facts);
        let text = |text: &String| text.clone();
        let list = |names: &Vec<String>| if names.is_empty() { "none".to_owned() } else { listed_short(names) };
        let declare = Some(("forge", "default-branch = \"main\"".to_owned()));
        self.fact(group, "default branch", &facts.git.default_branch, text, declare);
        self.fact(group, "current branch", &facts.git.current_branch, text, None);
        self.fact(group, "branches", &facts.git.branches, list, None);
        self.fact(group, "tags", &facts.git.tags, list, None);
        for (name, remote) in &facts.git.remotes {
            let shown = remote.as_ref().map_or_else(
                || "an address that names no forge".to_owned(),
                |remote| format!("{}/{} on {}", remote.owner, remote.name, remote.host),
            );
            self.known(group, &format!("remote {name}"), shown, &Origin::Git);
        }
        self.fact(group, "files", &facts.files, |files| files.len().to_string(), None);
        if let Fact::Known(submodules, origin) = &facts.git.submodules {
            for (path, url) in submodules {
                self.known(group, &format!("submodule {path}"), url.clone(), origin);
            }
        }
    }

    fn packages(&mut self) {
        let (group, facts) = (Group::Packages, self.facts);
        for (dir, package) in &facts.packages {
            let whole = Origin::At(Place { file: package.file, span: crate::text::Span::default() });
            let here = |what: &str| if dir.is_empty() { what.to_owned() } else { format!("{what} in {dir}") };
            match &package.scripts {
                Some(scripts) => {
                    let names: Vec<&str> = scripts.iter().map(|script| script.name.as_str()).collect();
                    let shown = if names.is_empty() { "none".to_owned() } else { listed_short(&names) };
                    self.known(group, &here("scripts"), shown, &Origin::At(package.scripts_at));
                }
                None => {
                    self.unknown(group, &here("scripts"), "package.json writes them in another shape than texts by name", None)
                }
            }
            let locks = lockfiles(facts, dir);
            let shown: Vec<String> = locks.iter().map(|(manager, path)| format!("{manager} ({path})")).collect();
            match (locks.as_slice(), facts.files.known()) {
                ([], Some(_)) => self.known(group, &here("lockfile"), "none", &Origin::Files),
                ([], None) => {}
                ([_], _) => self.known(group, &here("lockfile"), &shown[0], &Origin::Files),
                _ => self.known(group, &here("lockfiles"), format!("more than one: {}", listed_short(&shown)), &Origin::Files),
            }
            for (name, value) in
                [("node wanted", &package.node), ("manager wanted", &package.manager), ("homepage", &package.homepage)]
            {
                if let Some((text, at)) = value {
                    self.known(group, &here(name), text.clone(), &Origin::At(*at));
                }
            }
            if !package.workspaces.is_empty() {
                let names: Vec<&str> = package.workspaces.iter().map(|(name, _)| name.as_str()).collect();
                self.known(group, &here("workspaces"), listed_short(&names), &whole);
            }
        }
        for runtime in &facts.runtimes {
            self.known(group, &format!("{} version", runtime.tool), runtime.version.clone(), &runtime.origin);
        }
        for broken in &facts.broken {
            let line = broken.at.map(|at| self.sources.get(at.file).position(at.span.start).line);
            let name = line.map_or_else(|| broken.path.clone(), |line| format!("{}:{line}", broken.path));
            self.unknown(group, &name, &broken.reason, None);
        }
    }

    fn site(&mut self) {
        let (group, facts) = (Group::Site, self.facts);
        let all = recognised(facts, self.sources);
        if all.is_empty() {
            let plain = facts.files.known().is_some_and(|files| {
                ["index.html", "public/index.html", "docs/index.html", "site/index.html"].iter().any(|path| files.has(path))
            });
            match (plain, facts.files.known()) {
                (true, _) => self.known(group, "generator", "none: plain HTML", &Origin::Files),
                (false, Some(_)) => {
                    self.unknown(group, "generator", "nothing here gives one away", Some(("site", "output = \"dist\"".into())))
                }
                (false, None) => {}
            }
        }
        let format = crate::formats::all()[0];
        for one in &all {
            let at = if one.dir.is_empty() { String::new() } else { format!(" in {}", one.dir) };
            let generator = one.generator;
            self.known(group, &format!("generator{at}"), generator.id, &one.origin);
            let name = format!("built folder of {}{at}", generator.id);
            let by_script = built_by_scripts(facts, &one.dir, (format.run(), &format.data().customs))
                .into_iter()
                .find(|(_, id, _)| *id == generator.id);
            if let (Some((script, _, output)), Some(package)) = (by_script, facts.packages.get(&one.dir))
                && let Some(script) = package.script(&script)
            {
                self.known(group, &name, output, &Origin::At(script.at));
            } else {
                self.configured_output(&name, one);
            }
            if let Some((base, origin)) = base_path(facts, generator, &one.dir) {
                self.known(group, &format!("base path of {}{at}", generator.id), base, &origin);
            }
            if needs_server(facts, generator, &one.dir) == Some(true) {
                self.known(group, &format!("what {} makes{at}", generator.id), "a server, not a folder of files", &one.origin);
            }
            if generator.single_page {
                self.known(
                    group,
                    &format!("pages of {}{at}", generator.id),
                    "one page for all addresses, which the host has to send for each",
                    &Origin::Catalog,
                );
            }
        }
        if let Some(base) = &facts.settings.site.base {
            self.known(group, "base path", base.name.clone(), &Origin::At(base.at));
        }
    }

    fn configured_output(&mut self, name: &str, one: &Recognised) {
        let declare = Some(("site", "output = \"dist\"".into()));
        match site_output(self.facts, one.generator, &one.dir) {
            Some(site) => self.known(Group::Site, name, site.output, &site.origin),
            None => self.unknown(Group::Site, name, "only its configuration or its command knows", declare),
        }
    }

    fn hosting(&mut self) {
        let group = Group::Hosting;
        for fact in &self.facts.hosting {
            let file = Origin::Files;
            let mut said = false;
            for (what, value) in [("published folder", &fact.folder), ("functions", &fact.functions), ("", &fact.line)] {
                if let Some((text, origin)) = value {
                    said = true;
                    let name = if what.is_empty() { fact.host.to_owned() } else { format!("{what} for {}", fact.host) };
                    self.known(group, &name, text.clone(), origin);
                }
            }
            if let Some(fallback) = fact.has_fallback {
                said = true;
                let shown = if fallback { "set" } else { "not set" };
                self.known(group, &format!("fallback page for {}", fact.host), format!("{shown} in {}", fact.path), &file);
            }
            if !said {
                self.known(group, fact.host, format!("{} is there", fact.path), &file);
            }
        }
    }

    fn forge(&mut self) {
        let (group, forge) = (Group::Forge, &self.facts.settings.forge);
        let why = "no file of the repository shows it";
        for (name, list, line) in [("secrets", &forge.secrets, "secrets = []"), ("variables", &forge.variables, "variables = []")]
        {
            match list {
                Some(names) => {
                    let words: Vec<&str> = names.iter().map(|named| named.name.as_str()).collect();
                    let shown = if words.is_empty() { "none".to_owned() } else { listed_short(&words) };
                    match names.first() {
                        Some(first) => self.known(group, name, shown, &Origin::At(first.at)),
                        None => self.lines.push(FactLine {
                            group,
                            name: name.into(),
                            value: Some(shown),
                            from: "dulk.toml".into(),
                            at: None,
                            declare: None,
                        }),
                    }
                }
                None => self.unknown(group, name, why, Some(("forge", line.to_owned()))),
            }
        }
        for (name, value, line) in [
            ("token without a block", &forge.token, "token = \"read\""),
            ("pages taken from", &forge.pages, "pages = \"pipeline\""),
        ] {
            match value {
                Some(named) => self.known(group, name, named.name.clone(), &Origin::At(named.at)),
                None => self.unknown(group, name, why, Some(("forge", line.to_owned()))),
            }
        }
        for (name, environment) in &forge.environments {
            let words = |list: &Option<Vec<Named>>| {
                list.as_ref().map(|names| names.iter().map(|named| named.name.clone()).collect::<Vec<_>>())
            };
            let branches = words(&environment.branches)
                .map_or_else(|| "branches unknown".to_owned(), |names| format!("branches {}", listed_short(&names)));
            let secrets = words(&environment.secrets)
                .map_or_else(|| "secrets unknown".to_owned(), |names| format!("secrets {}", listed_short(&names)));
            let line = FactLine {
                group,
                name: format!("environment {name}"),
                value: Some(format!("{branches}; {secrets}")),
                from: "dulk.toml".into(),
                at: None,
                declare: None,
            };
            self.lines.push(line);
        }
    }
}

/// dulk.toml with a commented line for each declaration that is missing; everything that is there stays as it is. `secrets` are names
/// that the pipelines read. Nothing changes when no line is missing.
pub fn missing_declarations(text: &str, lines: &[FactLine], secrets: &[String], default_branch: Option<&str>) -> String {
    let mut out = text.to_owned();
    let mut starts = String::new();
    let line_break = if text.contains("\r\n") { "\r\n" } else { "\n" };
    for line in lines.iter().filter_map(|line| line.declare.as_ref()).filter(|(within, _)| *within == "[starts]") {
        let file = line.1.lines().next().unwrap_or_default();
        if !out.contains(file) {
            let gap = if out.is_empty() { "" } else { line_break };
            let body: String = line.1.lines().map(|line| format!("# {line}{line_break}")).collect();
            starts.push_str(&format!("{gap}# [[starts]]{line_break}{body}"));
        }
    }
    for table in ["forge", "site"] {
        let wanted: Vec<String> = lines
            .iter()
            .filter_map(|line| line.declare.as_ref())
            .filter(|(within, _)| *within == table)
            .map(|(_, line)| filled(line, secrets, default_branch))
            .filter(|line| !mentions(&out, line))
            .fold(Vec::new(), |mut all, line| {
                if !all.contains(&line) {
                    all.push(line);
                }
                all
            });
        if wanted.is_empty() {
            continue;
        }
        let added: String = wanted.iter().map(|line| format!("# {line}{line_break}")).collect();
        let header = format!("[{table}]");
        match out
            .split_inclusive('\n')
            .scan(0, |at, line| {
                *at += line.len();
                Some((*at, line))
            })
            .find(|(_, line)| line.trim() == header)
        {
            Some((end, line)) => {
                let before = if line.ends_with('\n') { String::new() } else { line_break.to_owned() };
                out.insert_str(end, &format!("{before}{added}"));
            }
            None => {
                if !out.is_empty() && !out.ends_with('\n') {
                    out.push_str(line_break);
                }
                let gap = if out.is_empty() { "" } else { line_break };
                out.push_str(&format!("{gap}# [{table}]{line_break}{added}"));
            }
        }
    }
    if !starts.is_empty() && !out.is_empty() && !out.ends_with('\n') {
        out.push_str(line_break);
    }
    out + &starts
}

/// The line with what is already known filled in.
fn filled(line: &str, secrets: &[String], default_branch: Option<&str>) -> String {
    let names: Vec<String> = secrets.iter().map(|name| format!("{name:?}")).collect();
    match (line.split_once(" ="), default_branch) {
        (Some(("secrets", _)), _) => format!("secrets = [{}]", names.join(", ")),
        (Some(("default-branch", _)), Some(branch)) => format!("default-branch = {branch:?}"),
        _ => line.to_owned(),
    }
}

/// Whether a text has a key already, written or commented.
fn mentions(text: &str, line: &str) -> bool {
    let key = line.split(" =").next().unwrap_or(line);
    text.lines().any(|there| {
        there.trim_start_matches(['#', ' ', '\t']).strip_prefix(key).is_some_and(|rest| rest.trim_start().starts_with('='))
    })
}
