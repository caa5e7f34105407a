//! An acceptance that does not say why.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.bare-acceptance",
    severity: Severity::Warning,
    title: "A finding is accepted without a reason",
    why: "Whoever reads the file later has to know why something was left as it is. Without a reason the comment accepts \
          nothing, and the finding stays.",
    needs: &[],
    bad: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ls «# dulk: accept order.unbounded»
",
        r"
== gitlab
«# dulk: accept cache.none»
pages:
  script:
    - make public
",
    ],
    good: &[r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ls # dulk: accept order.unbounded because the boat is slow
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for acceptance in case.prepared.acceptances.iter().filter(|acceptance| acceptance.reason.is_none()) {
        out.add(acceptance.at, "this accepts nothing: it does not say why")
            .witness(WitnessSource::Catalog, "an acceptance is written: dulk: accept RULE because REASON")
            .mend(Mend::by_hand("add `because` and the reason, or remove the comment"));
    }
}
