//! The name of a value in a safe that is taken for the value itself.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{self, Safe};
use crate::model::Text;
use crate::rules::Rule;
use crate::shell::variable_reads;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "secret.unfetched",
    severity: Severity::Error,
    title: "The name of a secret stands where its value is wanted",
    why: "A value that lies in a safe is fetched only when it is named in the part of the file that is for that. Among plain variables its \
          name is only a text: the commands get the name, sign in with it, and fail.",
    needs: &[],
    bad: &[
        r"
== buildspec.yml
version: 0.2
env:
  variables:
    TARNSAY_PASSWORD: «/timetable/password»
phases:
  build:
    commands:
      - ./send --login pier:‹$TARNSAY_PASSWORD›
",
        r"
== buildspec.yml
version: 0.2
env:
  variables:
    TARNSAY_TOKEN: «timetable/register:token»
    EDGE_ID: «arn:aws:ssm:eu-north-1:111122223333:parameter/timetable/edge»
phases:
  build:
    commands:
      - ./send
",
    ],
    good: &[r"
== buildspec.yml
version: 0.2
env:
  variables:
    BASE_PATH: /timetable/winter
    KEY_FILE: /etc/quay/key
    TARNSAY_LOGIN: pier
  parameter-store:
    TARNSAY_KEY: /timetable/key
  secrets-manager:
    TARNSAY_TOKEN: timetable/register:token
phases:
  build:
    commands:
      - ./send --key $TARNSAY_KEY
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let safes = &case.pipeline.customs.safe;
    if safes.is_empty() {
        return;
    }
    let layers = std::iter::once(&case.pipeline.variables).chain(case.pipeline.jobs.iter().map(|job| &job.variables));
    for (name, value) in layers.flat_map(|layer| &layer.entries) {
        let Some(safe) = value.known().and_then(|text| safes.iter().find(|safe| is_name_in(safe, &name.value, text))) else {
            continue;
        };
        let finding = out
            .add(value.inner(), format!("{} gets this text itself: a plain variable is not fetched from anywhere", name.value));
        match read_of(case, &name.value) {
            Some(place) => finding.witness(at(place), "the command gets the name here, not the value"),
            None => finding.witness(WitnessSource::Catalog, format!("{} is fetched under `{}`", safe.holds, safe.key)),
        };
        finding.mend(Mend::by_hand(format!("move it to `{}`", safe.key)));
    }
}

/// Whether a value is surely a name in a safe: its whole address there, or such a path under a name that wants something else.
fn is_name_in(safe: &Safe, name: &str, value: &str) -> bool {
    if safe.addresses.iter().any(|start| value.starts_with("arn:") && value.contains(start)) {
        return true;
    }
    let is_word =
        |part: &str| !part.is_empty() && part.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"._-".contains(&byte));
    let secret = knowledge::credentials().names_one(name);
    match safe.path_starts {
        "/" => {
            let parts: Vec<&str> = value.strip_prefix('/').map(|rest| rest.split('/').collect()).unwrap_or_default();
            parts.len() > 1 && parts.iter().all(|part| is_word(part)) && (secret || name.to_ascii_uppercase().ends_with("_ID"))
        }
        _ => {
            let Some((path, key)) = value.split_once(':') else { return false };
            secret && path.contains('/') && path.split('/').all(is_word) && is_word(key)
        }
    }
}

/// The first command that reads a variable.
fn read_of(case: &Case<'_>, name: &str) -> Option<Place> {
    let scripts = case.pipeline.jobs.iter().flat_map(|job| &job.steps).filter_map(|step| match &step.work {
        crate::model::Work::Runs { script, .. } => Some(script),
        _ => None,
    });
    let read = |script: &Text| {
        let found = variable_reads(&script.value, true).into_iter().find(|(read, _)| *read == name)?;
        Some(script.place(found.1))
    };
    scripts.filter_map(read).next()
}
