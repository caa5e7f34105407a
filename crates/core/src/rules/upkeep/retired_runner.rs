//! A machine that no longer exists.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{self, Meant};
use crate::model::Text;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.retired-runner",
    severity: Severity::Error,
    title: "A job asks for a machine that no longer exists",
    why: "A job that asks for a label which no machine has waits until it is thrown away, mostly a day later. Nothing turns red \
          before that.",
    needs: &[],
    bad: &[r"
== jobs
  build:
    runs-on: «ubuntu-18.04»
    steps:
      - run: npm ci
"],
    good: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
  own:
    runs-on: [self-hosted, ubuntu-18.04]
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
  other:
    runs-on: ferry-large
    strategy:
      matrix: {image: [ubuntu-18.04]}
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.machine.is_empty() {
        return;
    }
    for (number, job) in case.pipeline.jobs.iter().enumerate() {
        let own = job.machine.runners.iter().any(|runner| runner.value.eq_ignore_ascii_case("self-hosted"));
        if own {
            continue;
        }
        for runner in &job.machine.runners {
            for label in labels(case, number, runner) {
                look(case, label, label.at != runner.at, out);
            }
        }
    }
}

/// The label itself, or the values of the matrix that it stands for.
fn labels<'c>(case: &'c Case<'_>, job: usize, runner: &'c Text) -> Vec<&'c Text> {
    case.matrix_values(job, runner).unwrap_or_else(|| vec![runner])
}

fn look(case: &Case<'_>, label: &Text, in_matrix: bool, out: &mut Findings) {
    let Some(name) = label.known() else { return };
    let upkeep = knowledge::upkeep();
    let today = case.project.today;
    if let Some(runner) = upkeep.runner.iter().find(|runner| runner.label.eq_ignore_ascii_case(name)) {
        if today.is_none_or(|today| today < runner.ended) {
            return;
        }
        let what = if in_matrix { format!("the leg with `{name}` never starts") } else { "this job never starts".to_owned() };
        out.add(label.inner(), format!("{what}: machines with the label {name} are gone"))
            .one_cause()
            .witness(WitnessSource::Catalog, format!("they were removed on {}", runner.ended))
            // In a matrix, `include`, `exclude` and conditions may name it too.
            .mend(Mend::name(&Meant { word: runner.instead.to_owned(), sure: !in_matrix }, label.inner()));
        return;
    }
    let hosted = &upkeep.labels.hosted;
    if hosted.iter().any(|known| known.eq_ignore_ascii_case(name)) {
        return;
    }
    // Only a slip inside the word: another number may be a machine that is new.
    let word = |text: &str| text.split('-').next().unwrap_or_default().to_owned();
    let rest = |text: &str| text.split_once('-').map(|(_, rest)| rest.to_owned()).unwrap_or_default();
    let meant = hosted.iter().find(|known| {
        let letters = rest(known).bytes().all(|byte| byte.is_ascii_alphabetic() || byte == b'-') && !rest(known).is_empty();
        let same_rest = rest(known) == rest(name);
        let same_word = word(known) == word(name);
        (same_rest && knowledge::nearest(&word(name), [word(known).as_str()]).is_some())
            || (same_word && letters && knowledge::nearest(&rest(name), [rest(known).as_str()]).is_some())
    });
    if let Some(meant) = meant {
        out.add(label.inner(), format!("no machine has the label {name}, so this job waits and never starts"))
            .one_cause()
            .witness(WitnessSource::Catalog, format!("the label is {meant}"))
            .mend(Mend::name(&Meant::of(name, meant), label.inner()));
    }
}
