//! An action in a version that no longer runs, or is about to stop.

use super::known_uses;
use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::major;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.retired-action",
    severity: Severity::Error,
    title: "An action in a version that no longer runs",
    why: "Hosts switch old versions of their own actions off: the step fails at once, whatever it is given. Others still run, on \
          a runtime that has reached its end, until the day the host removes that.",
    needs: &[],
    bad: &[r"
== steps
      - uses: «actions/upload-artifact@v3»
        with: {name: site, path: dist}
"],
    good: &[r"
== steps
      - uses: actions/checkout@v4
      - uses: actions/cache@v4
        with: {path: x, key: y}
      - uses: actions/upload-artifact@8f4b7f84864484a7bf31766abe9204da3cbe65b3
        with: {path: dist}
      - uses: ferry/upload-artifact@v1
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // Other forges keep their own copies of these actions.
    if !case.pipeline.customs.known_actions {
        return;
    }
    for (_, used) in known_uses(case) {
        let Some(version) = used.version else { continue };
        let Some(number) = major(version) else { continue };
        let (gone, ageing) = (used.action.retired.contains(&number), used.action.ageing.contains(&number));
        if !gone && !ageing {
            continue;
        }
        let name = &used.action.uses;
        let message = if gone {
            format!("this step fails: version {version} of {name} has been switched off")
        } else {
            format!("{name} in version {version} was made for a runtime that has reached its end")
        };
        let finding = out.add(used.written.inner(), message);
        finding.severity(if gone { Severity::Error } else { Severity::Warning });
        let Some(newest) = used.action.newest else {
            finding
                .witness(WitnessSource::Catalog, "newer versions are listed on its page")
                .mend(Mend::by_hand("write the newest version from its page"));
            continue;
        };
        finding.witness(WitnessSource::Catalog, format!("version {newest} is the newest known here"));
        let written = &used.written.value;
        let whole = written.len() - version.len()..written.len();
        let mut place = used.written.place(whole);
        let replaceable = case.sources.slice(place) == version;
        if !replaceable {
            place = used.written.inner();
        }
        let title = format!("write v{newest}, and look at its page for what has changed");
        finding.mend(match replaceable {
            // A step that fails anyway cannot get worse; one that still runs is a person's choice.
            true if gone => Mend::certain(format!("write v{newest}"), [Edit::replace(place, format!("v{newest}"))]),
            true => Mend::likely(title, [Edit::replace(place, format!("v{newest}"))]),
            false => Mend::by_hand(title),
        });
    }
}
