//! A job calls a program that its image does not bring.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.no-program",
    severity: Severity::Error,
    title: "The image does not have a program that the job calls",
    why: "A container image holds little beside what its name says. The small ones have neither git nor rsync nor a way to sign in \
          elsewhere, and the command ends the job with \"not found\".",
    needs: &[],
    bad: &[
        r"
== gitlab
send:
  image: ‹alpine:3.20›
  script:
    - «rsync -a site/ pier@tarnsay.example:/www»
",
        r"
== jobs
  send:
    runs-on: ubuntu-latest
    container: ‹node:24-alpine›
    steps:
      - uses: actions/checkout@v5
      - run: «curl -sSf https://tarnsay.example/wake»
",
    ],
    good: &[
        r"
== gitlab
send:
  image: alpine:3.20
  resource_group: send
  before_script:
    - apk add --no-cache rsync openssh-client
  script:
    - ssh-add key && rsync -a site/ pier@tarnsay.example:/www
look:
  image: registry.tarnsay.example/tools:1
  script:
    - curl -sSf https://tarnsay.example
",
        r"
== pipeline
on: push
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    container: node:24
    steps:
      - uses: actions/checkout@v5
      - run: curl -sSf https://tarnsay.example/wake
      - run: ssh-add key && which rsync && rsync -a site/ pier@tarnsay.example:/www
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
        let mut told: Vec<&str> = Vec::new();
        for (step, effects) in case.effects.jobs[job].iter().enumerate() {
            let Some(image) = of_job.machine_of(step).image.as_ref() else { continue };
            let Some(lacks) = image.known().and_then(|name| knowledge::names().lacking_in(name)) else { continue };
            for (program, place) in effects.calls.iter().filter(|(program, _)| lacks.contains(program)) {
                if told.contains(&program.as_str()) || may_have(case, job, step, program) {
                    continue;
                }
                told.push(program);
                out.add(*place, format!("`{}` fails here: the image {} has no {program}", case.job_name(job), image.value))
                    .witness(
                        at(image.inner()),
                        format!("the {} runs in this image", if of_job.steps[step].machine.is_some() { "step" } else { "job" }),
                    )
                    .mend(Mend::by_hand(format!("install {program} before this, or take an image that has it")));
            }
        }
    }
}

/// Something up to a step, on its machine, may have brought the program: a command that names it as more than itself, or one that is not understood.
fn may_have(case: &Case<'_>, job: usize, step: usize, program: &str) -> bool {
    let brings = |word: &String| knowledge::names().brings(word, program);
    let of_job = &case.pipeline.jobs[job];
    let near = case.effects.jobs[job].iter().enumerate().take(step + 1).filter(|(number, _)| of_job.share_machine(*number, step));
    near.map(|(_, effects)| effects).any(|effects| effects.may_do_anything() || effects.spoken.iter().any(brings))
}
