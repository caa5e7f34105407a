//! A secret that the build fetches, read by a step that does not ask for it.

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::model::{Shell, Work};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::shell::{sets_unknown_variables, variable_reads, variables_set};

pub const RULE: Rule = Rule {
    id: "secret.not-asked-for",
    severity: Severity::Error,
    title: "A step reads a secret that it does not ask for",
    why: "The build fetches a secret, and each step gets only those that it asks for by name. In any other step the variable is empty: the \
          command signs in with nothing and fails.",
    needs: &[],
    bad: &[r#"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: npm
    args: [ci]
    secretEnv: [SURGE_TOKEN]
  - name: node:24
    entrypoint: bash
    args: ['-c', 'npx surge dist tarnsay.example --token "«$SURGE_TOKEN»"']
availableSecrets:
  secretManager:
    - versionName: projects/$PROJECT_ID/secrets/surge/versions/1
      env: ‹SURGE_TOKEN›
"#],
    good: &[r#"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: bash
    args: ['-c', 'npx surge dist tarnsay.example --token "$$SURGE_TOKEN"']
    secretEnv: [SURGE_TOKEN]
  - name: node:24
    env: ['SURGE_TOKEN=none']
    script: echo "$SURGE_TOKEN"
  - name: node:24
    script: |
      SURGE_TOKEN=$(cat token)
      echo "$SURGE_TOKEN ${SURGE_TOKEN:-}"
availableSecrets:
  secretManager:
    - versionName: projects/$PROJECT_ID/secrets/surge/versions/1
      env: SURGE_TOKEN
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let all = &case.pipeline.on_request;
    if all.is_empty() {
        return;
    }
    for (number, job) in case.pipeline.jobs.iter().enumerate() {
        for (index, step) in job.steps.iter().enumerate() {
            let Work::Runs { script, shell: Shell::Posix } = &step.work else { continue };
            if sets_unknown_variables(&script.value) {
                continue;
            }
            let set = variables_set(&script.value);
            let mut told: Vec<&str> = Vec::new();
            for (name, range) in variable_reads(&script.value, true) {
                let Some(fetched) = all.iter().find(|fetched| fetched.value == name) else { continue };
                let has = case.layers(number, index).iter().any(|layer| layer.get(name).is_some());
                let optional = script.value[range.clone()].contains([':', '-', '+', '?', '=']);
                if has || optional || set.contains(&name) || told.contains(&name) {
                    continue;
                }
                told.push(name);
                out.add(script.place(range), format!("{name} is empty here: this step does not ask for it"))
                    .witness(at(fetched.at), "the build fetches it here, for the steps that ask for it")
                    .mend(pen::write(case, &Ask::GiveVariable { name, job: number }));
            }
        }
    }
}
