//! A value of another shape than its key takes.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.wrong-shape",
    severity: Severity::Error,
    title: "A value of another shape than its key takes",
    why: "Some keys take one word, some a list (lines with `-`), some further keys. Where the shape is wrong the forge refuses the whole \
          file: nothing runs, and the site stays as it was.",
    needs: &[],
    bad: &[
        "== jobs\n  build:\n    runs-on: ubuntu-latest\n    steps:\n      «run: npm ci»\n",
    ],
    good: &[
        "== pipeline\non:\n  push:\n    branches: main\nconcurrency: pages\njobs:\n  build:\n    runs-on: [self-hosted, linux]\n    timeout-minutes: ${{ vars.LIMIT }}\n    continue-on-error: ${{ matrix.may-fail }}\n    needs: []\n    strategy: ${{ fromJSON(vars.STRATEGY) }}\n    container: node:22\n    environment: {name: production}\n    steps:\n      - run: npm ci\n        timeout-minutes: 5\n        continue-on-error: true\n        env: ${{ fromJSON(vars.ENV) }}\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::WrongShape { key, found, wanted, instead } = &issue.kind else { continue };
        let key = if key.contains(' ') { key.clone() } else { format!("`{key}`") };
        out.add(issue.at, format!("{key} is given {found}, {}", super::REFUSED))
            .witness(WitnessSource::Catalog, format!("{key} takes {wanted}"))
            .mend(match instead {
                Some(instead) => Mend::certain(format!("write {instead}"), [Edit::replace(issue.at, instead.clone())]),
                None => Mend::by_hand(format!("write {wanted}{}", hint(wanted))),
            });
    }
}

fn hint(wanted: &str) -> &'static str {
    if wanted == "a list" { ": each line starts with `- `" } else { "" }
}
