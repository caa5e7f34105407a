//! A cached folder in which the manager keeps nothing.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::model::Work;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "cache.wrong-folder",
    severity: Severity::Warning,
    title: "The cached folder is not where the manager keeps its downloads",
    why: "Each manager has a place of its own for what it downloads. A cache of a folder that it never looks into is saved and \
          brought back, and every run downloads everything anew.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: «.npm», key: x}
      - run: ‹npm ci›
",
        r"
== gitlab
site:
  cache:
    key: npm
    paths: [«.npm/»]
  script:
    - ‹npm ci›
",
    ],
    good: &[
        r#"
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci
"#,
        r#"
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: .npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
      - run: npm ci --cache .npm
"#,
        r"
== gitlab
variables: {npm_config_cache: '$CI_PROJECT_DIR/.npm'}
site:
  cache:
    key: npm
    paths: [.npm/]
  script:
    - npm ci
",
        r"
== gitlab
site:
  cache:
    key: npm
    paths: [.npm/]
  script:
    - npm config set cache .npm
    - npm ci
",
    ],
    check,
};

/// Folders of the workspace that are named like a manager's own, the manager, what tells it to use them, and its own place.
const NAMED: [(&str, &str, &str, &str); 2] = [(".npm", "npm", "cache", "~/.npm"), (".cache/pip", "pip", "cache", "~/.cache/pip")];

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let Effect::RestoreCache { paths, .. } = &effect.effect else { continue };
        for path in paths {
            let Some((folder, manager, told_by, own)) = NAMED.iter().find(|(folder, ..)| path.folder.as_deref() == Some(folder))
            else {
                continue;
            };
            let outside = path.written.starts_with(['~', '/']);
            let install =
                case.effects.of_job(job).filter(|(number, _)| *number >= step).find_map(|(_, other)| match &other.effect {
                    Effect::Install { manager: used, .. } if used.starts_with(manager) => Some(other.at),
                    _ => None,
                });
            let Some(install) = install.filter(|_| !outside && !is_told(case, job, told_by) && !spoken.contains(&path.at)) else {
                continue;
            };
            spoken.push(path.at);
            out.add(path.at, format!("`{}` is cached, and {manager} keeps nothing there", path.written))
                .witness(at(install), format!("{manager} keeps its downloads in {own} unless it is told otherwise"))
                .mend(Mend::by_hand(format!(
                    "cache {own} where that is possible, or let the installation use {folder}, as with --cache {folder}"
                )));
        }
    }
}

/// A variable, an option or a setting moves the manager's downloads.
fn is_told(case: &Case<'_>, job: usize, word: &str) -> bool {
    let of_job = &case.pipeline.jobs[job];
    let layers = std::iter::once(&case.pipeline.variables)
        .chain([&of_job.variables])
        .chain(of_job.steps.iter().map(|step| &step.variables));
    let by_variable = layers.flat_map(|layer| &layer.entries).any(|(name, _)| name.value.to_ascii_lowercase().contains(word));
    let by_script =
        of_job.steps.iter().any(|step| matches!(&step.work, Work::Runs { script, .. } if script.value.contains(word)));
    let by_file = case
        .facts
        .files
        .known()
        .is_some_and(|files| files.iter().any(|file| matches!(file.rsplit('/').next(), Some(".npmrc" | "pip.conf"))));
    by_variable || by_script || by_file
}
