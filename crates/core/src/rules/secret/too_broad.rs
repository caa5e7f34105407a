//! A secret that every step gets, and one reads.

use std::collections::{HashMap, HashSet};

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::model::{Step, Text, Variables};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;

use super::{texts_of, variables_read};

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
    let by_steps = read_by_steps(of_jobs().flat_map(|(number, job)| job.steps.iter().map(move |step| (number, step))));
    let own = of_jobs().flat_map(|(_, job)| {
        let values = job.variables.entries.iter().map(|(_, value)| value);
        values.chain(job.condition().into_iter().map(|condition| &condition.text))
    });
    let by_jobs: HashSet<&str> = own.flat_map(|text| variables_read(&text.value)).collect();
    for (name, value) in secrets {
        let readers = by_steps.get(name.value.as_str()).map_or(&[][..], Vec::as_slice);
        if let ([(reading, reader)], true, false) = (readers, count > 1, by_jobs.contains(name.value.as_str())) {
            out.add(value.inner(), format!("all {count} {unit} get the secret in {}, and one of them reads it", name.value))
                .witness(at(*reader), "it is read here")
                .mend(pen::write(case, &Ask::NarrowVariable { name: &name.value, job: *reading }));
        }
    }
}

/// By name of a variable: the steps that read it, each by its job and the first of its texts that does.
fn read_by_steps<'s>(steps: impl Iterator<Item = (usize, &'s Step)>) -> HashMap<&'s str, Vec<(usize, Place)>> {
    let mut found: HashMap<&str, Vec<(usize, Place)>> = HashMap::new();
    for (job, step) in steps {
        let mut seen = HashSet::new();
        for text in texts_of(step) {
            for name in variables_read(&text.value).filter(|name| seen.insert(*name)) {
                found.entry(name).or_default().push((job, text.at));
            }
        }
    }
    found
}
