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
        // What one step installs is gone with its image.
        r"
== cloudbuild.yaml
steps:
  - name: ‹node:24›
    entrypoint: npm
    args: [install, -g, firebase-tools]
  - name: node:24
    entrypoint: «firebase»
    args: [deploy, --only, hosting]
",
        // A program that is to run the script must be there too.
        r#"
== cloudbuild.json
{"steps": [{"name": "‹alpine:3.22›", "entrypoint": "«bash»", "args": ["-c", "echo quay"]}]}
"#,
    ],
    good: &[
        r"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: bash
    args: ['-c', 'npm install -g firebase-tools && firebase deploy']
  - name: node:24
    entrypoint: npx
    args: [firebase, deploy]
",
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
            installed_elsewhere(case, (job, step), image, &mut told, out);
            let Some(lacks) = image.known().and_then(|name| knowledge::names().lacking_in(name)) else { continue };
            for (program, place) in effects.calls.iter().filter(|(program, _)| lacks.contains(&program.as_str())) {
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

/// A program that another step has installed, on a machine of its own.
fn installed_elsewhere<'c>(
    case: &Case<'c>,
    (job, step): (usize, usize),
    image: &crate::model::Text,
    told: &mut Vec<&'c str>,
    out: &mut Findings,
) {
    let of_job = &case.pipeline.jobs[job];
    let effects: &'c crate::effects::StepEffects = &case.effects.jobs[job][step];
    let is_runtime = image.known().is_some_and(|name| knowledge::names().images.has(name.split(':').next().unwrap_or(name)));
    let calls = effects.calls.iter().filter(|(program, _)| is_runtime && knowledge::names().is_installed(program));
    for (program, place) in calls {
        if told.contains(&program.as_str()) || may_have(case, job, step, program) {
            continue;
        }
        let installs = |words: &[String]| {
            let whole = words.iter().any(|word| matches!(word.as_str(), "-g" | "--global" | "global"));
            whole && words.iter().any(|word| knowledge::names().brings(word, program))
        };
        let others =
            case.effects.jobs[job].iter().enumerate().take(step).filter(|(other, _)| !of_job.share_machine(*other, step));
        let Some((other, _)) = others.into_iter().find(|(_, effects)| installs(&effects.spoken)) else { continue };
        told.push(program);
        out.add(*place, format!("there is no `{program}` here: this step runs in an image of its own"))
            .witness(
                at(of_job.steps[other].at),
                format!("{program} is installed here, in the image of that step, and is gone with it"),
            )
            .mend(Mend::by_hand("install it in the step that runs it, or run both in one step"));
    }
}

/// Something up to a step, on its machine, may have brought the program: a command that names it as more than itself, or one that is not understood.
fn may_have(case: &Case<'_>, job: usize, step: usize, program: &str) -> bool {
    let brings = |word: &String| knowledge::names().brings(word, program);
    let of_job = &case.pipeline.jobs[job];
    let near = case.effects.jobs[job].iter().enumerate().take(step + 1).filter(|(number, _)| of_job.share_machine(*number, step));
    near.map(|(_, effects)| effects).any(|effects| effects.may_do_anything() || effects.spoken.iter().any(brings))
}
