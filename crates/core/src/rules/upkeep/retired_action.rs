//! An action in a version that no longer runs, or is about to stop.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{Action, major};
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
    for (used, action) in case.known_uses() {
        let Some(version) = used.version else { continue };
        let Some(number) = major(version) else { continue };
        let Some(end) = End::of(action, number) else { continue };
        let name = &action.uses;
        let finding = out.add(used.written.inner(), end.message(name, version));
        finding.severity(if end == End::SwitchedOff { Severity::Error } else { Severity::Warning }).one_cause();
        let Some((lowest, newest)) = action.lowest_kept_up().zip(action.newest) else {
            finding
                .witness(WitnessSource::Catalog, "newer versions are listed on its page")
                .mend(Mend::by_hand("write the newest version from its page"));
            continue;
        };
        let day = crate::knowledge::upkeep().looked_at;
        finding.witness(WitnessSource::Catalog, format!("version {newest} is the newest known here, on {day}"));
        let written = &used.written.value;
        let place = used.written.place(written.len() - version.len()..written.len());
        let replaceable = case.sources.slice(place) == version;
        let title = format!("write v{newest}, and look at its page for what has changed");
        finding.mend(match end {
            _ if !replaceable => Mend::by_hand(title),
            // A step that fails anyway cannot get worse, least by the smallest step; one that still runs is a person's choice.
            End::SwitchedOff => Mend::certain(format!("write v{lowest}"), [Edit::replace(place, format!("v{lowest}"))]),
            End::OfItsRuntime | End::InTheRunner => Mend::likely(title, [Edit::replace(place, format!("v{newest}"))]),
        });
    }
}

/// Why a version should be left behind.
#[derive(Clone, Copy, PartialEq, Eq)]
enum End {
    SwitchedOff,
    OfItsRuntime,
    InTheRunner,
}

impl End {
    fn of(action: &Action, major: u32) -> Option<Self> {
        let ends =
            [(&action.retired, Self::SwitchedOff), (&action.bundled, Self::InTheRunner), (&action.ageing, Self::OfItsRuntime)];
        ends.into_iter().find(|(majors, _)| majors.contains(&major)).map(|(_, end)| end)
    }

    fn message(self, name: &str, version: &str) -> String {
        match self {
            Self::SwitchedOff => format!("this step fails: version {version} of {name} has been switched off"),
            Self::InTheRunner => format!("{name} in version {version} was a part of the runner, and is kept up no more"),
            Self::OfItsRuntime => format!("{name} in version {version} was made for a runtime that has reached its end"),
        }
    }
}
