//! A cache that is brought back and that nobody saves.

use crate::case::{Case, at};
use crate::effects::{Effect, UploadPath};
use crate::finding::{Findings, Severity};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "cache.never-saved",
    severity: Severity::Warning,
    title: "A cache is brought back that nobody saves",
    why: "A job can bring a cache back without saving it. When every job does only that, there is never anything to bring back, and \
          all packages are fetched again in every run.",
    needs: &[],
    bad: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: «actions/cache/restore@v4»
        with:
          path: ‹~/.npm›
          key: npm-${{ hashFiles('package-lock.json') }}
      - run: npm ci
",
        r"
== gitlab
build:
  cache:
    key:
      files: [package-lock.json]
    paths: [‹.npm/›]
    policy: «pull»
  script:
    - npm ci --cache .npm
",
    ],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/cache/restore@v4
        with:
          path: ~/.npm
          key: npm-${{ hashFiles('package-lock.json') }}
      - run: npm ci
      - uses: actions/cache/save@v4
        with:
          path: ~/.npm
          key: npm-${{ hashFiles('package-lock.json') }}
",
        r"
== gitlab
.npm:
  cache: &npm
    key:
      files: [package-lock.json]
    paths: [.npm/]
    policy: pull
install:
  stage: .pre
  cache:
    <<: *npm
    policy: pull-push
  script:
    - npm ci --cache .npm
build:
  cache: *npm
  script:
    - npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken: Vec<&UploadPath> = Vec::new();
    for (_, _, effect) in case.all_effects() {
        let Effect::RestoreCache { paths, saves: Some(false), saves_at, .. } = &effect.effect else { continue };
        // Jobs that share a cache share what is said of it.
        let told = paths.iter().any(|path| spoken.iter().any(|known| known.written == path.written));
        if paths.is_empty() || told || case.project.saves_one_of(paths) {
            continue;
        }
        spoken.extend(paths);
        let finding = out.add(saves_at.unwrap_or(effect.at), "this brings a cache back that no job ever saves");
        finding.witness(at(paths[0].at), "every step that names this only brings it back");
        finding.mend(pen::write(case, &Ask::SaveCache));
    }
}
