//! A job that needs one which is not in the run.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, listed};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.left-out-need",
    severity: Severity::Error,
    title: "A job needs one that is not in the run",
    why: "Rules leave jobs out of a run. When a job that is in it needs one that is not, the forge refuses the whole run: nothing \
          of it starts, and nothing is published.",
    needs: &[],
    bad: &[r#"
== git
main default
== gitlab
‹build›:
  script:
    - make
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
    - if: $CI_COMMIT_TAG
pages:
  needs: [«build»]
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
"#],
    good: &[r#"
== git
main default
== gitlab
build:
  script:
    - make
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
      when: manual
      allow_failure: false
look:
  script:
    - make
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
pages:
  needs:
    - build
    - job: look
      optional: true
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken = Vec::new();
    for refused in case.played().filter_map(|(_, rehearsal)| rehearsal.refused) {
        if spoken.contains(&refused) {
            continue;
        }
        spoken.push(refused);
        let same = case.played().filter(|(_, rehearsal)| rehearsal.refused == Some(refused));
        let mut times: Vec<String> = same.map(|(occasion, _)| occasion.told()).collect();
        times.truncate(3);
        let job = &case.pipeline.jobs[refused.job];
        let need = &job.needs[refused.need];
        let message = format!(
            "on {}, the forge refuses the run: `{}` needs `{}`, which is not in it",
            listed(&times),
            job.id.value,
            need.value
        );
        let other = case.pipeline.job(&need.value).map_or(job.id.at, |other| case.pipeline.jobs[other].id.at);
        out.add(need.inner(), message)
            .witness(at(other), format!("its rules leave `{}` out then", need.value))
            .mend(Mend::by_hand(format!("give both the same rules, or write `optional: true` for `{}`", need.value)));
    }
}
