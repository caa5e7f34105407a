//! A name that nothing fills in where it stands.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.not-filled-in",
    severity: Severity::Error,
    title: "A name stands where nothing fills it in",
    why: "A value can be filled in by the service before anything runs, or by the shell that runs a command. Which of the two does it \
          depends on where the name stands and how it is written. Where neither does, a program gets the name itself, or nothing at all.",
    needs: &[],
    bad: &[
        // No shell runs this program.
        r#"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: npx
    args: [surge, dist, tarnsay.example, --token, «$$SURGE_TOKEN»]
    secretEnv: [SURGE_TOKEN]
availableSecrets:
  secretManager:
    - versionName: projects/$PROJECT_ID/secrets/surge/versions/1
      env: SURGE_TOKEN
"#,
        // Nothing is filled into a script.
        r#"
== cloudbuild.yaml
steps:
  - name: google/cloud-sdk:540.0.0-slim
    script: gcloud storage cp -r dist "gs://«${_BUCKET}»"
substitutions:
  _BUCKET: tarnsay-timetable
"#,
        // The shell has no such variable.
        r#"
== cloudbuild.json
{"steps": [{"name": "node:24", "entrypoint": "bash", "args": ["-c", "npm ci && ./send «$$_BUCKET»"]}],
 "substitutions": {"_BUCKET": "tarnsay-timetable"}}
"#,
    ],
    good: &[r#"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: bash
    args: ['-c', 'npx surge dist $_HOST --token "$$SURGE_TOKEN"']
    secretEnv: [SURGE_TOKEN]
  - name: google/cloud-sdk:540.0.0-slim
    env: ['BUCKET=$_BUCKET']
    script: gcloud storage cp -r dist "gs://$BUCKET"
  - name: google/cloud-sdk:540.0.0-slim
    automapSubstitutions: true
    script: gcloud storage cp -r dist "gs://$_BUCKET/${_FOLDER:-}"
substitutions:
  _BUCKET: tarnsay-timetable
  _HOST: tarnsay.example
availableSecrets:
  secretManager:
    - versionName: projects/$PROJECT_ID/secrets/surge/versions/1
      env: SURGE_TOKEN
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::NotFilledIn { name, what, because, todo } = &issue.kind else { continue };
        out.add(issue.at, format!("{name} {what}"))
            .witness(WitnessSource::Catalog, because.clone())
            .mend(Mend::by_hand(todo.clone()));
    }
}
