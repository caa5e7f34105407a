//! A rule that is never looked at.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::model::{Choice, Then};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.shadowed",
    severity: Severity::Warning,
    title: "A rule stands behind one that always fits",
    why: "Rules are read from first to last, and the first that fits decides. What stands behind a rule without a condition is \
          never looked at.",
    needs: &[],
    bad: &[r#"
== gitlab
site:
  script:
    - make
  rules:
    - ‹when: on_success›
    - «if: $CI_COMMIT_BRANCH == "main"»
"#],
    good: &[r#"
== gitlab
site:
  script:
    - make
  rules:
    - if: $CI_COMMIT_TAG
      when: never
    - if: $CI_COMMIT_BRANCH == "main"
    - changes: [src/**]
    - when: manual
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let lists = std::iter::once(&case.pipeline.choices).chain(case.pipeline.jobs.iter().map(|job| &job.when.choices));
    lists.for_each(|choices| look(choices, out));
}

fn look(choices: &[Choice], out: &mut Findings) {
    let always = |choice: &Choice| choice.cond.holds_anyway();
    let Some(index) = choices.iter().position(always) else { return };
    let Some(behind) = choices.get(index + 1) else { return };
    // Where nothing is let in at all, what never runs is told of.
    if choices[..=index].iter().all(|choice| choice.then == Then::Never) {
        return;
    }
    out.add(behind.at, "this rule is never looked at: the one before it always fits")
        .witness(at(choices[index].at), "this has no condition, and decides")
        .mend(Mend::by_hand("move the rule without a condition to the end"));
}
