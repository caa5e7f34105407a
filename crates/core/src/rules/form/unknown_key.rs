//! A key that its place does not take.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed, listed_short};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.unknown-key",
    severity: Severity::Error,
    title: "A key that this place does not take",
    why: "The format knows a fixed set of keys in each place. One key too many, or one letter wrong, and the forge refuses the whole \
          file: nothing runs, and the site stays as it was.",
    needs: &[],
    bad: &[
        "== pipeline\non: push\njobs:\n  build:\n    «runs_on»: ubuntu-latest\n    steps:\n      - run: npm ci\n",
        "== gitlab\nsite:\n  «scripts»: [make]\n",
    ],
    good: &[
        "== pipeline\non:\n  push:\n    branches: [main]\njobs:\n  build:\n    runs-on: ubuntu-latest\n    env: {ANY_NAME: 1}\n    steps:\n      - run: npm ci\n",
        "== pipeline\n'on': {push: }\njobs: {build: {runs-on: [self-hosted, linux], steps: [{uses: a/b@v1, with: {anything: 1}}]}}\n",
        "== gitlab\nsite:\n  script: [make]\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::UnknownKey { key, within, known, meant, belongs } = &issue.kind else { continue };
        let finding = out.add(issue.at, format!("`{key}` is not a key of {within}, so this file is refused and nothing in it runs"));
        let elsewhere = if belongs.is_empty() { String::new() } else { format!("; `{key}` is a key of {}", listed(belongs)) };
        finding.witness(WitnessSource::Catalog, format!("{within} takes {}{elsewhere}", listed_short(known)));
        finding.mend(match (meant, belongs.as_slice()) {
            (Some(meant), _) => Mend::certain(format!("write {meant}"), [Edit::replace(issue.at, meant.clone())]),
            (None, [place]) => Mend::by_hand(format!("move `{key}` to {place}, or remove it")),
            (None, _) => Mend::by_hand(format!("remove `{key}`, or write the key that is meant")),
        });
    }
}
