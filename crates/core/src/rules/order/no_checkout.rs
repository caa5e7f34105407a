//! A job that works on the repository without bringing it.

use crate::case::Case;
use crate::effects::{Effect, EffectAt};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.no-checkout",
    severity: Severity::Error,
    title: "A job never brings the repository",
    why: "Every job starts with an empty folder. Without a checkout there is no package.json, no script and no source: the first \
          command that needs one fails.",
    needs: &[],
    bad: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/setup-node@v5
      - run: «npm ci»
",
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: «./.github/actions/build»
",
    ],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npm install -g serve
      - run: npx gh-pages -d dist
",
        r"
== jobs
  bring:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-artifact@v4
        with: {name: source, path: .}
  build:
    needs: bring
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: source}
      - run: npm ci
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: git clone https://harbour.example/x .
      - run: npm ci
  notify:
    runs-on: self-hosted
    steps:
      - run: npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.is_part {
        return;
    }
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        // A machine of one's own may keep its folder from run to run.
        let brings = |effect: &EffectAt| {
            matches!(
                effect.effect,
                Effect::Checkout { .. }
                    | Effect::Unknown(_)
                    | Effect::Download { .. }
                    | Effect::Copy { .. }
                    | Effect::Write { .. }
                    | Effect::RestoreCache { .. }
            )
        };
        let local = |step: usize| job.steps[step].own_action().is_some();
        if !job.starts_empty() {
            continue;
        }
        for (step, effect) in case.effects.of_job(index) {
            let needs_files = match &effect.effect {
                Effect::Install { manager, dir: Some(dir), .. } => dir.is_empty() && knowledge::managers().get(manager).is_some(),
                _ => false,
            };
            if local(step) || needs_files {
                // One that comes later is told by the rule that looks at the order.
                let later = case.effects.of_job(index).any(|(_, other)| matches!(other.effect, Effect::Checkout { .. }));
                let names_package = case.sources.slice(effect.at).split_whitespace().skip(2).any(|word| !word.starts_with('-'));
                if !later && (local(step) || !names_package) {
                    out.add(
                        effect.at,
                        format!("`{}` fails here: nothing has brought the repository, and the folder is empty", job.id.value),
                    )
                    .witness(WitnessSource::Catalog, "each job starts with an empty folder")
                    .mend(Mend::by_hand("check the repository out in the first step of the job"));
                }
                break;
            }
            if brings(effect) {
                break;
            }
        }
    }
}
