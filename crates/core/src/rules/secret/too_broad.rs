//! A secret that every step gets, and one reads.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::model::{Text, Variables};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;

use super::{first_word, reads_variable, texts_of, words_read};

pub const RULE: Rule = Rule {
    id: "secret.too-broad",
    severity: Severity::Advice,
    title: "A secret is given to all steps, and one reads it",
    why: "A variable of the file or of a job is there in every step, and so in every package's install script and every action. \
          Given to the one step that reads it, it is nowhere else.",
    needs: &[],
    bad: &[
        r#"
== jobs
  build:
    runs-on: ubuntu-latest
    env: {KEY: '«${{ secrets.HOST_KEY }}»'}
    steps:
      - run: npm ci
      - run: ‹./publish "$KEY"›
"#,
        r#"
== dulk.toml
[forge]
secrets = ["DEPLOY_KEY"]
== gitlab
variables:
  KEY: «$DEPLOY_KEY»
test:
  script:
    - npm test
publish:
  script:
    - ‹./publish "$KEY"›
"#,
    ],
    good: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    env: {KEY: '${{ secrets.HOST_KEY }}'}
    steps:
      - run: ./look $KEY
      - run: ./publish $KEY
",
        // Programs read variables without saying so here.
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    env: {KEY: '${{ secrets.HOST_KEY }}', PLAIN: x}
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
      - run: ./publish $PLAIN
",
        r#"
== dulk.toml
[forge]
secrets = ["DEPLOY_KEY"]
== gitlab
test:
  script:
    - npm test
publish:
  variables:
    KEY: $DEPLOY_KEY
  script:
    - ./publish "$KEY"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let all: Vec<usize> = (0..case.pipeline.jobs.len()).collect();
    judge(case, &case.pipeline.variables, &all, out);
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        judge(case, &job.variables, &[index], out);
    }
}

fn judge(case: &Case<'_>, variables: &Variables, jobs: &[usize], out: &mut Findings) {
    let secrets: Vec<&(Text, Text)> = variables.entries.iter().filter(|(_, value)| case.only_secret(value).is_some()).collect();
    if secrets.is_empty() {
        return;
    }
    let of_jobs = || jobs.iter().map(|job| (*job, &case.pipeline.jobs[*job]));
    // Where every job has all names by itself, a job is the smallest place to put one.
    let (unit, count) =
        if case.names_only() { ("jobs", jobs.len()) } else { ("steps", of_jobs().map(|(_, job)| job.steps.len()).sum()) };
    let steps = of_jobs().flat_map(|(number, job)| job.steps.iter().map(move |step| (number, step))).enumerate();
    let in_steps = by_word(steps.flat_map(|(number, (job, step))| texts_of(step).map(move |text| ((number, job), text))));
    let in_jobs = by_word(of_jobs().flat_map(|(_, job)| {
        let values = job.variables.entries.iter().map(|(_, value)| value);
        values.chain(job.condition().into_iter().map(|condition| &condition.text)).map(|text| ((), text))
    }));
    for (name, value) in secrets {
        let mut readers: Vec<((usize, usize), Place)> = reading(&in_steps, &name.value).map(|(by, text)| (by, text.at)).collect();
        readers.dedup_by_key(|((step, _), _)| *step);
        let by_job = reading(&in_jobs, &name.value).next().is_some();
        if let ([((_, reading), reader)], true, false) = (readers.as_slice(), count > 1, by_job) {
            out.add(value.inner(), format!("all {count} {unit} get the secret in {}, and one of them reads it", name.value))
                .witness(at(*reader), "it is read here")
                .mend(pen::write(case, &Ask::NarrowVariable { name: &name.value, job: *reading }));
        }
    }
}

/// Texts, with whose they are, by the first words of the names that they may read: each of thousands of names is looked for in a few.
type ByWord<'t, T> = HashMap<&'t str, Vec<(T, &'t Text)>>;

fn by_word<'t, T: Copy>(texts: impl Iterator<Item = (T, &'t Text)>) -> ByWord<'t, T> {
    let mut found: ByWord<'t, T> = HashMap::new();
    for (whose, text) in texts {
        words_read(&text.value).for_each(|word| found.entry(word).or_default().push((whose, text)));
    }
    found
}

/// Those that read a variable, in their order; one may come more than once.
fn reading<'t, T: Copy>(texts: &ByWord<'t, T>, name: &str) -> impl Iterator<Item = (T, &'t Text)> {
    let of_word = texts.get(first_word(name)).into_iter().flatten().copied();
    of_word.filter(move |(_, text)| reads_variable(&text.value, name))
}
