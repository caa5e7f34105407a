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
      - run: ./publish ${{ secrets.HOST_KEY }} ${{ secrets.github_token }} ${{ secrets[matrix.key] }} ${{ secrets.KEY2 }}
",
        // What a caller hands on may have any name.
        r"
== pipeline
on:
  workflow_call:
    secrets:
      host-key: {required: true}
jobs:
  a:
    runs-on: x
    steps:
      - run: ./publish ${{ secrets.host-key }}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if !case.pipeline.exact || case.pipeline.is_called() {
        return;
    }
    let mut found = Vec::new();
    case.references(&mut |_, path, text| {
        let [(context, start), (name, end), ..] = path else { return };
        if !context.eq_ignore_ascii_case("secrets") || super::is_own_token(name) {
            return;
        }
        let upper = name.to_ascii_uppercase();
        let because = if !name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_') {
            "a name has letters, digits and _ only"
        } else if upper.starts_with("GITHUB_") {
            "names that start with GITHUB_ are the forge's own"
        } else {
            return;
        };
        found.push((text.place(start.start..end.end), (*name).to_owned(), because));
    });
    for (place, name, because) in found {
        let meant = name.replace('-', "_");
        let exists = case.facts.settings.forge.secrets.iter().flatten().any(|named| named.name.eq_ignore_ascii_case(&meant));
        out.add(place, format!("no secret can be called `{name}`, so this is always empty"))
            .witness(WitnessSource::Catalog, because)
            .mend(if exists {
                Mend::certain(format!("write secrets.{meant}"), [Edit::replace(place, format!("secrets.{meant}"))])
            } else {
                Mend::by_hand("store it under another name, and read that")
            });
    }
}
