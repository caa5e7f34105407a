//! A name that no secret can have.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.bad-name",
    severity: Severity::Error,
    title: "A secret has a name that the forge does not allow",
    why: "A secret's name is made of letters, digits and _, does not start with a digit, and not with GITHUB_. No secret of \
          another name can be stored, so that what reads it is always empty.",
    needs: &[],
    bad: &[r"
== steps
      - run: ./publish ${{ «secrets.HOST-KEY» }}
"],
    good: &[
        r"
== steps
      - run: ./publish ${{ secrets.HOST_KEY }} ${{ secrets.github_token }} ${{ secrets[vars.KEY] }} ${{ secrets.KEY2 }}
",
        // What a caller hands on may have any name.
        r"
== pipeline
on:
  workflow_call:
    secrets:
      host-key: {required: true}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ./publish ${{ secrets.host-key }}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.secret_names.is_empty() || case.pipeline.is_called() {
        return;
    }
    for read in case.secrets() {
        let Some(because) = because(case, &read.name) else { continue };
        let meant = read.name.replace('-', "_");
        let exists = case.facts.settings.forge.secrets.iter().flatten().any(|named| named.name.eq_ignore_ascii_case(&meant));
        let right = case.spelled(read.read, &meant);
        out.add(read.at, format!("no secret can be called `{}`, so this is always empty", read.name))
            .witness(WitnessSource::Catalog, because)
            .mend(if exists {
                Mend::certain(format!("write {right}"), [Edit::replace(read.at, right)])
            } else {
                Mend::by_hand("store it under another name, and read that")
            });
    }
}

/// Why no secret can have a name.
pub(super) fn because(case: &Case<'_>, name: &str) -> Option<String> {
    let known = !case.pipeline.customs.secret_names.is_empty();
    if known && !name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_') {
        return Some(format!("a name has {}", case.pipeline.customs.secret_names));
    }
    let reserved = &case.pipeline.customs.reserved_starts;
    let start = reserved.iter().find(|start| name.to_ascii_uppercase().starts_with(*start))?;
    Some(format!("names that start with {start} are the forge's own"))
}
