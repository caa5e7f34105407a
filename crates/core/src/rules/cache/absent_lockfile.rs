//! A set-up step that wants a lockfile for its cache's key, where there is none.

use crate::case::Case;
use crate::effects::Effect;
use crate::facts::FileList;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed};
use crate::knowledge::{self, SetUpCache};
use crate::model::Text;
use crate::pen::{self, Ask};
use crate::rules::{Need, Rule};
use crate::text::from_root;

pub const RULE: Rule = Rule {
    id: "cache.absent-lockfile",
    severity: Severity::Error,
    title: "The cache wants a lockfile that is not there",
    why: "A set-up step that caches downloads makes its key of the lockfile. When there is none where it looks, the step fails, \
          and nothing after it runs.",
    needs: &[Need::Files],
    bad: &[r"
== files
package.json
pnpm-lock.yaml
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: actions/setup-node@v4
        with:
          cache: «npm»
"],
    good: &[
        r"
== files
package-lock.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: actions/setup-node@v4
        with: {cache: npm}
",
        r"
== files
site/package-lock.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: actions/setup-node@v4
        with: {cache: npm, cache-dependency-path: '**/package-lock.json'}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    for (job, step, effect) in case.all_effects() {
        let Effect::SetUp { tool, cache: Some(cache), lockfiles, .. } = &effect.effect else { continue };
        let Some(wanted) = cache.known().and_then(|manager| knowledge::managers().set_up_cache(tool, manager)) else { continue };
        if !case.has_own_root(job, step) || made_before(case, job, step) {
            continue;
        }
        match lockfiles {
            Some(given) => given_patterns(given, files, out),
            None => default_files(case, cache, wanted, files, out),
        }
    }
}

/// Something before the step may have made the lockfile.
fn made_before(case: &Case<'_>, job: usize, step: usize) -> bool {
    case.effects.of_job(job).any(|(index, effect)| {
        index < step
            && !matches!(effect.effect, Effect::Checkout { .. } | Effect::SetUp { .. } | Effect::Enter { .. } | Effect::Nothing)
    })
}

fn given_patterns(given: &Text, files: &FileList, out: &mut Findings) {
    let Some(value) = given.known() else { return };
    let patterns: Vec<&str> = value.lines().map(str::trim).filter(|line| !line.is_empty()).collect();
    let mut globs = globset::GlobSetBuilder::new();
    for pattern in &patterns {
        let pattern = from_root(pattern);
        match globset::GlobBuilder::new(pattern).literal_separator(true).build() {
            Ok(glob) if !pattern.starts_with(['/', '~', '!', '$']) => globs.add(glob),
            _ => return,
        };
    }
    let Ok(set) = globs.build() else { return };
    if files.iter().any(|path| set.is_match(path)) {
        return;
    }
    out.add(given.inner(), "this step fails: no lockfile is where it is told to look")
        .witness(WitnessSource::Files, format!("no file of the repository fits {}", listed(&patterns)))
        .mend(Mend::by_hand("name the lockfile by its path from the repository's root"));
}

fn default_files(case: &Case<'_>, cache: &Text, wanted: &SetUpCache, files: &FileList, out: &mut Findings) {
    let all = || wanted.files.iter().flat_map(|name| files.named(name));
    let there = if wanted.anywhere { all().next().is_some() } else { wanted.files.iter().any(|file| files.has(file)) };
    if there {
        return;
    }
    let place = if wanted.anywhere { "in the repository" } else { "at the repository's root" };
    let finding = out
        .add(cache.inner(), format!("this step fails: its cache wants {} {place}, and there is none", wanted.files.join(" or ")));
    let elsewhere: Vec<&str> = all().take(4).collect();
    let other = knowledge::managers().manager.iter().find(|manager| manager.lockfiles.iter().any(|file| files.has(file)));
    match (elsewhere.as_slice(), other) {
        ([path], _) => {
            finding.witness(WitnessSource::Files, format!("the only one is {path}"));
            finding.mend(pen::write(case, &Ask::CacheLockfile { path: Some(path), beside: cache }));
        }
        ([], Some(other))
            if wanted
                .files
                .iter()
                .any(|file| knowledge::managers().manager.iter().any(|manager| manager.lockfiles.contains(file))) =>
        {
            finding.witness(
                WitnessSource::Files,
                format!("the lockfile here is {}", other.lockfiles.iter().find(|file| files.has(file)).map_or("", |word| *word)),
            );
            finding.mend(Mend::certain(format!("write {}", other.id), [Edit::replace(cache.inner(), other.id)]));
        }
        (paths, _) => {
            let text = if paths.is_empty() {
                format!("git tracks no {}", wanted.files.join(" or "))
            } else {
                format!("they are {}", listed(paths))
            };
            finding.witness(WitnessSource::Files, text);
            finding.mend(match paths {
                [] => Mend::by_hand("commit the lockfile, or remove the cache"),
                _ => pen::write(case, &Ask::CacheLockfile { path: None, beside: cache }),
            });
        }
    }
}
