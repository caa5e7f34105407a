//! An install that insists on a lockfile, where there is none.

use crate::case::Case;
use crate::effects::Effect;
use crate::facts::FileList;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.absent-lockfile",
    severity: Severity::Error,
    title: "The install insists on a lockfile that is not there",
    why: "An install such as `npm ci` takes exactly what the lockfile says. Without one it stops, and nothing after it runs.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
package.json
yarn.lock
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: «npm ci»
",
        r"
== files
x
== package.json
{}
== gitlab
site:
  script:
    - «npm ci»
",
        r#"
== package.json
{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {"vite": "7", "vitest": "3"}}
== files
index.html
== .travis.yml
language: node_js
node_js: '24'
install: «npm ci»
script: npm run build
"#,
    ],
    good: &[
        r"
== files
app/package.json
package-lock.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm ci
      - run: npm ci
        working-directory: app
",
        r"
== files
package.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm install
",
        r"
== files
package-lock.json
== package.json
{}
== gitlab
site:
  script:
    - npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    for (job, step, effect) in case.all_effects() {
        let Effect::Install { manager, frozen: true, dir: Some(dir), .. } = &effect.effect else { continue };
        let Some(manager) = knowledge::managers().get(manager).filter(|manager| manager.frozen_needs_lockfile) else { continue };
        if effect.perhaps || !case.has_own_root(job, step) {
            continue;
        }
        if manager.lockfiles.iter().any(|file| stands_above(files, dir, file)) {
            continue;
        }
        let wanted = &manager.lockfiles[0];
        if made_before(case, job, step, wanted) {
            continue;
        }
        let finding = out
            .add(effect.at, format!("`{}` fails here: {} wants a {wanted}, and git tracks none", case.job_name(job), manager.id));
        let other = knowledge::managers()
            .manager
            .iter()
            .find_map(|other| Some((other, other.lockfiles.iter().find(|file| stands_above(files, dir, file))?)));
        match other {
            Some((other, file)) => {
                finding.witness(WitnessSource::Files, format!("the lockfile here is {file}, which is {}'s", other.id));
                finding.mend(Mend::by_hand(format!("install with {}, or commit a {wanted}", other.id)));
            }
            None => {
                finding.witness(WitnessSource::Files, "no lockfile is among the files that git tracks");
                finding.mend(Mend::by_hand(format!(
                    "run {} install here and commit {wanted}; look whether .gitignore hides it",
                    manager.id
                )));
            }
        }
    }
}

/// In a folder or any above it, where workspaces keep theirs.
fn stands_above(files: &FileList, dir: &str, name: &str) -> bool {
    let mut dir = dir;
    loop {
        let path = if dir.is_empty() { name.to_owned() } else { format!("{dir}/{name}") };
        if files.has(&path) {
            return true;
        }
        if dir.is_empty() {
            return false;
        }
        dir = dir.rsplit_once('/').map_or("", |(above, _)| above);
    }
}

/// Something before may have brought a lockfile.
fn made_before(case: &Case<'_>, job: usize, step: usize, lockfile: &str) -> bool {
    case.effects.of_job(job).take_while(|(index, _)| *index < step).any(|(_, effect)| match &effect.effect {
        Effect::Unknown(reach) => reach.knows(lockfile),
        Effect::Copy { .. } | Effect::Write { .. } | Effect::Download { .. } => true,
        Effect::RestoreCache { paths, .. } => {
            let brings_anything = |path: &crate::effects::UploadPath| path.folder.as_deref().is_none_or(str::is_empty);
            paths.iter().any(|path| brings_anything(path) && !path.written.starts_with(['~', '/']))
        }
        _ => false,
    })
}
