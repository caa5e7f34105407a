//! A folder without the slash that the step wants at its end.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.no-slash",
    severity: Severity::Error,
    title: "A folder lacks the slash at its end",
    why: "Some steps tell a folder from a file by the slash at its end, and refuse to begin without it.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/checkout@v5
      - uses: SamKirkland/FTP-Deploy-Action@v4.3.5
        with: {server: tarnsay.example, username: pier, password: '${{ secrets.PIER }}', local-dir: «site»}
"],
    good: &[r"
== pipeline
on: push
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: SamKirkland/FTP-Deploy-Action@v4.3.5
        with: {server: tarnsay.example, username: pier, password: '${{ secrets.PIER }}', local-dir: ./site/, server-dir: '${{ vars.PLACE }}'}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (used, known) in case.known_uses() {
        for input in known.slash_inputs {
            let Some(text) = used.inputs.get(input) else { continue };
            let lacks = text.known().is_some_and(|folder| !folder.is_empty() && !folder.ends_with('/'));
            if lacks {
                let written = format!("{}/", text.value);
                out.add(text.inner(), format!("this fails: `{input}` has to end with a slash"))
                    .witness(WitnessSource::Catalog, "a path without one is taken for a file")
                    .mend(Mend::certain(format!("write {written}"), [Edit::replace(text.inner(), written.clone())]));
            }
        }
    }
}
