//! A package manager that the runner does not have.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::model::Work;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.no-manager",
    severity: Severity::Error,
    title: "The package manager is not there",
    why: "The runner brings npm and yarn with it. Another manager has to be set up first, or its command is not found.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version: 22}
      - run: «pnpm install»
"],
    good: &[
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
    for (index, job) in case.pipeline.jobs.iter().enumerate() {
        let hosted = job.container.is_none() && job.runners.len() == 1;
        let machine = job.runners.first().filter(|_| hosted).and_then(|runner| case.pipeline.customs.machine(&runner.value));
        let Some(machine) = machine else { continue };
        let mut ready: Vec<&str> = Vec::new();
        'effects: for (step, effect) in case.effects.of_job(index) {
            match &effect.effect {
                Effect::SetUp { tool, .. } => ready.push(tool),
                Effect::Unknown => break,
                Effect::Install { manager, .. } | Effect::RunScript { manager, .. } => {
                    let needs = machine.lacks.contains(manager);
                    let told = job.steps.iter().take(step + 1).any(|step| match &step.work {
                        Work::Runs { script, .. } => {
                            script.value.contains("corepack")
                                || script.value.contains(&format!("-g {manager}"))
                                || script.value.contains(&format!("--global {manager}"))
                                || script.value.contains("| sh")
                                || script.value.contains("| bash")
                        }
                        Work::Uses { action, .. } => action.value.contains(manager.as_str()),
                        Work::Given(_) | Work::Unclear | Work::Nothing => true,
                    });
                    if needs && !told && !ready.contains(&manager.as_str()) {
                        out.add(effect.at, format!("`{}` fails here: the runner has no {manager}", job.id.value))
                            .witness(
                                WitnessSource::Catalog,
                                format!("machines whose label begins with {} have no {manager}", machine.starts),
                            )
                            .mend(Mend::by_hand(format!("set {manager} up in a step before this one")));
                        break 'effects;
                    }
                }
                _ => {}
            }
        }
    }
}
