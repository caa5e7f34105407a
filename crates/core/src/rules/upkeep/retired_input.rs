//! An input under a name of an older version.

use super::uses_with_known_inputs;
use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::major;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.retired-input",
    severity: Severity::Warning,
    title: "An action is given something under an old name",
    why: "Newer versions of an action know some inputs under other names and pass over the old ones, so that the action works \
          with its default.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/setup-node@v4
        with:
          «version»: 22
"],
    good: &[r"
== steps
      - uses: actions/setup-node@v4
        with: {node-version: 24}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (used, known) in uses_with_known_inputs(case) {
        let Some(number) = used.version.and_then(major) else { continue };
        // Versions that are themselves retired may still know the old name.
        if known.ageing.contains(&number) || known.retired.contains(&number) {
            continue;
        }
        for (name, _) in &used.inputs.entries {
            let Some(new) = known.renamed(&name.value).filter(|_| !known.takes(&name.value)) else { continue };
            let action = &known.uses;
            let finding = out.add(name.inner(), format!("{action} no longer knows `{}` and passes over it", name.value));
            if new.is_empty() {
                finding.witness(WitnessSource::Catalog, "it has no such input any more").mend(Mend::by_hand("remove it"));
            } else {
                finding.witness(WitnessSource::Catalog, format!("it is now called `{new}`"));
                finding.mend(if used.inputs.get(new).is_some() {
                    Mend::by_hand("remove it")
                } else {
                    Mend::certain(format!("write {new}"), [Edit::replace(name.inner(), new)])
                });
            }
        }
    }
}
