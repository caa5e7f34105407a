//! A cached folder in which the manager keeps nothing.

use crate::case::{Case, at};
use crate::effects::{Effect, is_inside, join};
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::knowledge;
use crate::model::Work;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "cache.wrong-folder",
    severity: Severity::Warning,
    title: "The cached folder is not where the manager keeps its downloads",
    why: "Each manager has a place of its own for what it downloads. A cache of a folder that it never looks into is saved and \
          brought back, and every run downloads everything anew.",
    needs: &[],
    bad: &[
        r#"
== files
index.html
== web/package.json
{"dependencies": {"next": "16"}, "scripts": {"build": "next build"}}
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: «.next/cache», key: x}
      - run: ‹npm run build›
        working-directory: web
"#,
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
    of_another_folder(case, out);
    let mut spoken = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let Effect::RestoreCache { paths, .. } = &effect.effect else { continue };
        for path in paths {
            let is = |named: &str| {
                let inside =
                    |folder: &str| folder.strip_suffix(named).is_some_and(|above| above.is_empty() || above.ends_with('/'));
                path.folder.as_deref().is_some_and(inside)
            };
            let Some((folder, manager, told_by, own)) = NAMED.iter().find(|(folder, ..)| is(folder)) else {
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

/// A folder of the root is cached, and what keeps it there works in another folder only.
fn of_another_folder(case: &Case<'_>, out: &mut Findings) {
    let mut spoken: Vec<Place> = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let (Effect::RestoreCache { paths, .. } | Effect::SaveCache { paths, .. }) = &effect.effect else { continue };
        for path in paths.iter().filter(|path| !path.glob && !path.written.starts_with(['~', '/'])) {
            let Some(folder) = path.folder.as_deref().filter(|_| !spoken.contains(&path.at)) else { continue };
            let kept: Vec<(String, Place)> = kept_in(case, job, folder);
            let elsewhere = kept.first().filter(|_| kept.iter().all(|(own, _)| own != folder));
            let Some((own, place)) = elsewhere.filter(|_| !may_be_filled(case, job, step, folder)) else { continue };
            spoken.push(path.at);
            let finding = out.add(path.at, format!("`{folder}` is cached, and nothing is ever there: it is kept in `{own}`"));
            finding.witness(at(*place), format!("this keeps its files in `{own}`"));
            finding.mend(match path.exact(case.sources) {
                Some(place) => Mend::likely(format!("write {own}"), [Edit::replace(place, own.clone())]),
                None => Mend::by_hand(format!("cache {own}")),
            });
        }
    }
}

/// Where the installs and builds of a job keep a folder of this name, each from the folder that it works in.
fn kept_in(case: &Case<'_>, job: usize, name: &str) -> Vec<(String, Place)> {
    let mut found = Vec::new();
    for (_, effect) in case.effects.of_job(job) {
        let (dir, names): (_, Vec<&str>) = match &effect.effect {
            Effect::Install { dir, manager, .. } if knowledge::managers().get(manager).is_some() => (dir, vec!["node_modules"]),
            Effect::Build { generator, dir, .. } => {
                let known = knowledge::generators().get(generator);
                (dir, known.map(|known| known.caches.to_vec()).unwrap_or_default())
            }
            _ => continue,
        };
        if names.contains(&name) {
            // An unknown folder may be this one.
            found.push((join(dir, name).unwrap_or_else(|| name.to_owned()), effect.at));
        }
    }
    found
}

/// Something else may put files there: what is not understood, a copy, or git.
fn may_be_filled(case: &Case<'_>, job: usize, step: usize, folder: &str) -> bool {
    let tracked = case.facts.files.known().is_none_or(|files| files.has_folder(folder));
    tracked
        || case.pipeline.jobs[job].steps.get(step).is_none()
        || case.effects.of_job(job).any(|(_, effect)| match &effect.effect {
            Effect::Unknown(reach) => reach.may_touch(folder, |_| false),
            Effect::Copy { to, .. } => to.as_deref().is_none_or(|to| is_inside(to, folder) || is_inside(folder, to)),
            Effect::Write { path } => path.as_deref().is_none_or(|path| is_inside(path, folder)),
            _ => false,
        })
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
        .is_some_and(|files| [".npmrc", "pip.conf"].into_iter().any(|name| files.named(name).next().is_some()));
    by_variable || by_script || by_file
}
