//! A package manager that the runner does not have.

use crate::case::Case;
use crate::effects::Effect;
use crate::facts::Reach;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{self, List, Word};
use crate::model::{Machine, Work};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.no-manager",
    severity: Severity::Error,
    title: "The package manager is not there",
    why: "The runner brings npm and yarn with it. Another manager has to be set up first, or its command is not found.",
    needs: &[],
    bad: &[
        r"
== gitlab
timetable:
  image: node:24
  script:
    - «pnpm install»
    - pnpm build
",
        r"
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version: 22}
      - run: «pnpm install»
",
        r"
== buildspec.yml
version: 0.2
phases:
  install:
    runtime-versions:
      nodejs: 22
    commands:
      - «pnpm install --frozen-lockfile»
",
        r"
== amplify.yml
version: 1
frontend:
  phases:
    preBuild:
      commands:
        - «pnpm install --frozen-lockfile»
",
    ],
    good: &[
        r"
== gitlab
timetable:
  image: node:24
  before_script:
    - npm install --global pnpm
  script:
    - pnpm install
    - pnpm build
",
        r"
== steps
      - uses: actions/checkout@v5
      - uses: pnpm/action-setup@v4
      - run: pnpm install
      - run: corepack enable
      - run: yarn install
",
        r"
== steps
      - uses: actions/checkout@v5
      - run: |
          corepack enable
          pnpm install
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for index in 0..case.pipeline.jobs.len() {
        let job = &case.pipeline.jobs[index];
        let mut ready: Vec<(usize, &str)> = Vec::new();
        let usually = lacks_usually(case, index);
        for (step, effect) in case.effects.of_job(index) {
            let is_ready = |manager: &str| ready.iter().any(|(by, tool)| *tool == manager && job.share_machine(*by, step));
            match &effect.effect {
                Effect::SetUp { tool, .. } => ready.push((step, tool)),
                Effect::Unknown(Reach::Anything) => break,
                Effect::Install { manager, .. } | Effect::RunScript { manager, .. } if !is_ready(manager) => {
                    let lacking = lacks(case, job.machine_of(step)).or_else(|| usually.clone());
                    let Some((_, place)) = lacking.filter(|(lacks, _)| lacks.contains(&manager.as_str())) else { continue };
                    if is_told(case, index, step, manager) {
                        continue;
                    }
                    out.add(effect.at, format!("`{}` fails here: the runner has no {manager}", case.job_name(index)))
                        .witness(WitnessSource::Catalog, format!("{place} has no {manager}"))
                        .mend(Mend::by_hand(format!("set {manager} up before this")));
                    break;
                }
                _ => {}
            }
        }
    }
}

/// The managers that are not on a machine, and what that is, in words.
fn lacks(case: &Case<'_>, machine: &Machine) -> Option<(List<Word>, String)> {
    if let Some(image) = &machine.image {
        // What is no image of a runtime's own may hold anything.
        let name = image.known()?.split(':').next()?;
        return Some((knowledge::names().image_lacks.get(name).copied()?, format!("the image {name}")));
    }
    let [runner] = machine.runners.as_slice() else { return None };
    let machine = case.pipeline.customs.machine(&runner.value)?;
    Some((machine.lacks, format!("a machine whose label begins with {}", machine.starts)))
}

/// The same of the service's own machines, where a job names no other: only those have the runtimes that a file may ask for.
fn lacks_usually(case: &Case<'_>, job: usize) -> Option<(List<Word>, String)> {
    let customs = case.pipeline.customs;
    let own = &case.pipeline.jobs[job];
    let asks = own.steps.iter().zip(&case.effects.jobs[job]).any(|(step, effects)| {
        matches!(step.work, Work::ByItself(_)) && effects.effects.iter().any(|one| matches!(one.effect, Effect::SetUp { .. }))
    });
    let is_own = |image: &crate::model::Text| customs.own_images.iter().any(|start| image.value.starts_with(start));
    let of_service = match &own.machine.image {
        Some(image) => is_own(image),
        None => own.machine.runners.is_empty() && (customs.runtimes.is_empty() || asks),
    };
    (of_service && !customs.lacks.is_empty()).then(|| (customs.lacks, "the service's own image".to_owned()))
}

/// Something up to a step, on its machine, may bring the manager: its name stands somewhere as more than the command itself.
fn is_told(case: &Case<'_>, job: usize, step: usize, manager: &str) -> bool {
    let of_job = &case.pipeline.jobs[job];
    let near = of_job.steps.iter().enumerate().take(step + 1).filter(|(number, _)| of_job.share_machine(*number, step));
    near.map(|(_, step)| step).any(|step| match &step.work {
        Work::Runs { script, .. } => {
            let mut parts = script.value.split(['\n', ';', '&', '|']).map(str::trim);
            script.value.contains("corepack") || parts.any(|part| part.contains(manager) && !part.starts_with(manager))
        }
        Work::Uses { action, .. } => action.value.contains(manager),
        Work::Unclear => true,
        Work::RunsImage { .. } | Work::ByItself(_) | Work::Gate | Work::Nothing => false,
    })
}
