//! A path that leads out of the workspace.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.outside",
    severity: Severity::Error,
    title: "A path leads out of the workspace",
    why: "Only what lies in the job's own folder can be handed on by a relative path. One that climbs out of it is refused, and \
          the step fails.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/upload-artifact@v4
        with: {path: «../dist»}
",
        r"
== gitlab
build:
  script:
    - make
  artifacts:
    paths: [«../dist»]
",
    ],
    good: &[
        r"
== steps
      - uses: actions/upload-artifact@v4
        with: {name: odd, path: dist/some..dots}
      - uses: actions/upload-artifact@v4
        with: {name: report, path: /tmp/report}
",
        r"
== gitlab
build:
  script:
    - make
  artifacts:
    paths: [dist]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (_, _, effect) in case.all_effects() {
        let Effect::Upload { paths, .. } = &effect.effect else { continue };
        for path in paths.iter().filter(|path| path.written.split('/').any(|part| part == "..") && !path.written.contains('$')) {
            out.add(path.at, format!("`{}` leads out of the job's folder, so this step fails", path.written))
                .witness(WitnessSource::Catalog, "a relative path may not climb out with ..")
                .mend(Mend::by_hand("write the path from the workspace's root"));
        }
    }
}
