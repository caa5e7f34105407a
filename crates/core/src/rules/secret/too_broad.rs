//! A secret that every step gets, and one reads.

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::model::{Text, Variables};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;

use super::{reads_variable, texts_of};

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
    for (name, value) in variables.entries.iter().filter(|(_, value)| case.only_secret(value).is_some()) {
        // Where every job has all names by itself, a job is the smallest place to put one.
        let (unit, mut count) = if case.names_only() { ("jobs", jobs.len()) } else { ("steps", 0) };
        let mut readers: Vec<(usize, Place)> = Vec::new();
        for job in jobs {
            for step in &case.pipeline.jobs[*job].steps {
                count += usize::from(!case.names_only());
                let reads = |text: &&Text| reads_variable(&text.value, &name.value);
                readers.extend(texts_of(step).into_iter().find(reads).map(|text| (*job, text.at)));
            }
        }
        let by_job = jobs.iter().any(|job| {
            let job = &case.pipeline.jobs[*job];
            let own = job
                .variables
                .entries
                .iter()
                .map(|(_, value)| value)
                .chain(job.condition().into_iter().map(|condition| &condition.text));
            own.into_iter().any(|text| reads_variable(&text.value, &name.value))
        });
        if let ([(reading, reader)], true, false) = (readers.as_slice(), count > 1, by_job) {
            out.add(value.inner(), format!("all {count} {unit} get the secret in {}, and one of them reads it", name.value))
                .witness(at(*reader), "it is read here")
                .mend(pen::write(case, &Ask::NarrowVariable { name: &name.value, job: *reading }));
        }
    }
}
