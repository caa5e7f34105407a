//! An input that an action cannot do without.

use super::uses_with_known_inputs;
use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.missing-input",
    severity: Severity::Error,
    title: "An action is not given what it cannot do without",
    why: "Without an input that it needs, the action fails as soon as it starts.",
    needs: &[],
    bad: &[r"
== steps
      - uses: «actions/upload-artifact@v4»
        with: {name: site}
"],
    good: &[r#"
== steps
      - uses: actions/upload-artifact@v4
        with: {path: dist}
      - uses: actions/cache@v4
        with: {PATH: x, Key: "y-${{ hashFiles('x.lock') }}"}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (used, known) in uses_with_known_inputs(case) {
        // A misspelt name is said once, as that.
        let slips: Vec<&str> = used
            .inputs
            .entries
            .iter()
            .filter(|(name, _)| !known.takes(&name.value))
            .filter_map(|(name, _)| crate::knowledge::nearest(&name.value, known.inputs.iter().copied()))
            .collect();
        for wanted in known.required {
            let renamed = used.inputs.entries.iter().any(|(name, _)| known.renamed(&name.value) == Some(wanted));
            if used.inputs.open || used.inputs.get(wanted).is_some() || renamed || slips.contains(wanted) {
                continue;
            }
            let action = &known.uses;
            out.add(used.written.inner(), format!("this step fails: {action} is not told its `{wanted}`"))
                .witness(WitnessSource::Catalog, format!("{action} cannot do without `{wanted}`"))
                .mend(pen::write(case, &Ask::ActionInput { name: wanted }));
        }
    }
}
