//! A site that reads git's history, and a checkout that brings almost none of it.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::facts::reads_history;
use crate::finding::{Findings, Severity};
use crate::knowledge;
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "site.shallow-history",
    severity: Severity::Warning,
    title: "The dates of pages come from a history that is not there",
    why: "Some sites show when each page was changed last, and read that from git. A checkout brings only the newest commits unless it \
          is told otherwise, and then every older page gets the date of the oldest commit that came along.",
    needs: &[],
    bad: &[
        r#"
== hugo.toml
‹enableGitInfo› = true
== steps
      - uses: «actions/checkout@v5»
      - run: hugo
"#,
        r"
== mkdocs.yml
site_name: Quays
plugins:
  - search
  - ‹git-revision-date-localized›
== steps
      - uses: actions/checkout@v5
        with: {fetch-depth: «5»}
      - run: mkdocs build
",
        r#"
== hugo.toml
‹enableGitInfo› = true
== gitlab
pages:
  variables: {GIT_DEPTH: "«10»"}
  script:
    - hugo
  artifacts: {paths: [public]}
"#,
    ],
    good: &[
        r#"
== hugo.toml
enableGitInfo = true
== steps
      - uses: actions/checkout@v5
        with: {fetch-depth: 0}
      - run: hugo
"#,
        r"
== hugo.toml
enableGitInfo = true
== steps
      - uses: actions/checkout@v5
      - run: git fetch --unshallow
      - run: hugo
",
        r#"
== hugo.toml
enableGitInfo = true
== gitlab
pages:
  resource_group: pages
  variables: {GIT_DEPTH: "0"}
  script:
    - hugo
  artifacts: {paths: [public]}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in 0..case.pipeline.jobs.len() {
        let mut shallow: Option<(Place, Place)> = None;
        for (step, effect) in case.effects.of_job(job) {
            match &effect.effect {
                Effect::Checkout { into: Some(into), own: true, depth, .. } if into.is_empty() => {
                    shallow = depth
                        .as_ref()
                        .filter(|depth| depth.known().is_some_and(|depth| depth.parse::<u32>().is_ok_and(|depth| depth > 0)))
                        .map(|depth| (depth.inner(), effect.at));
                }
                Effect::Build { generator, dir: Some(dir), .. } => {
                    let known = knowledge::generators().get(generator).filter(|_| case.has_own_root(job, step));
                    let (Some((place, checkout)), Some(known)) = (shallow, known) else { continue };
                    let Some((reads, name)) = reads_history(case.facts, known, dir).filter(|_| !fetches_more(case, job, step))
                    else {
                        continue;
                    };
                    let told = if place == checkout {
                        "the checkout brings the newest commit only".to_owned()
                    } else {
                        "this brings the newest commits only".to_owned()
                    };
                    out.add(place, format!("older pages get a wrong date: {told}, and {} reads their dates from git", known.id))
                        .witness(at(reads), format!("`{name}` makes it read the history"))
                        .mend(pen::write(case, &Ask::WholeHistory));
                    shallow = None;
                }
                _ => {}
            }
        }
    }
}

/// A command before the build fetches more of the history.
fn fetches_more(case: &Case<'_>, job: usize, step: usize) -> bool {
    let mut words = case.effects.jobs[job].iter().take(step + 1).flat_map(|effects| &effects.spoken);
    words.any(|word| matches!(word.as_str(), "--unshallow") || word.starts_with("--depth") || word.starts_with("--deepen"))
}
