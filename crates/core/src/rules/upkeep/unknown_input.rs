//! An input that an action does not take.

use super::uses_with_known_inputs;
use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::{Among, Meant, near};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.unknown-input",
    severity: Severity::Warning,
    title: "An action is given something that it does not take",
    why: "An input of a name that an action does not know is passed over with a remark in the log, and the action works with its \
          default: another folder, another version, another branch.",
    needs: &[],
    bad: &[r"
== steps
      - uses: peaceiris/actions-gh-pages@v4
        with:
          «publish-dir»: dist
          github_token: x
"],
    good: &[r"
== steps
      - uses: actions/checkout@v4
        with: {Fetch-Depth: 0}
      - uses: ferry/anything@v1
        with: {whatever: 1}
      - uses: actions/setup-node@v4
        with: {node-version: 24}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (used, known) in uses_with_known_inputs(case) {
        let complete = known.is_complete_for(used.version);
        for (name, _) in &used.inputs.entries {
            if known.is_too_old_for(&name.value, used.version) {
                let version = used.version.unwrap_or_default();
                out.add(name.inner(), format!("{} in version {version} does not take `{}` yet", known.uses, name.value))
                    .witness(WitnessSource::Catalog, "a later version takes it")
                    .mend(Mend::by_hand("write a newer version of it, or remove the line"));
                continue;
            }
            if known.takes(&name.value) || known.renamed(&name.value).is_some() || name.is_dynamic() {
                continue;
            }
            let meant = near(&name.value, known.inputs.iter().copied(), Among::Closed)
                .filter(|meant| used.inputs.get(&meant.word).is_none());
            // Without a whole list only a slip is sure, and not even that where the list is empty.
            if !complete && (meant.is_none() || known.inputs.is_empty()) {
                continue;
            }
            let action = &known.uses;
            let finding = out.add(name.inner(), format!("{action} does not take `{}` and passes over it", name.value));
            finding.witness(WitnessSource::Catalog, format!("it takes {}", listed_short(known.inputs)));
            finding.mend(match meant {
                // Another version may have got the very name.
                Some(meant) if !complete => Mend::name(&Meant::perhaps(meant.word), name.inner()),
                Some(meant) => Mend::name(&meant, name.inner()),
                None => Mend::by_hand("remove it, or write the name that is meant"),
            });
        }
    }
}
