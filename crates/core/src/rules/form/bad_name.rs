//! A job or step whose id is no name, or stands twice.

use crate::case::{Case, at};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.bad-name",
    severity: Severity::Error,
    title: "An id that is no name, or stands twice",
    why: "The ids of jobs and steps are made of letters, digits, `-` and `_`, with a letter or `_` first, and each step of a job \
          has its own. With any other id the forge refuses the whole file. A title with spaces goes into `name`.",
    needs: &[],
    bad: &[r"
== jobs
  «build site»:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"],
    good: &[r"
== jobs
  build_site:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - {id: _a-1, run: npm ci}
  Test:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - {id: _a-1, run: npm ci}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        match &issue.kind {
            FormIssueKind::BadName { name, what, instead } => {
                let mend = if *what == "job" {
                    // Others may wait for it by this id.
                    Mend::by_hand(format!("call the job {instead}, also where others wait for it"))
                } else {
                    Mend::likely(format!("call it {instead}, also where it is read"), [Edit::replace(issue.at, instead.clone())])
                };
                out.add(issue.at, format!("`{name}` cannot be the id of a {what}, {}", super::REFUSED))
                    .witness(WitnessSource::Catalog, "an id is made of letters, digits, `-` and `_`, with a letter or `_` first")
                    .mend(mend);
            }
            FormIssueKind::RepeatedId { id, first } => {
                out.add(issue.at, format!("two steps of this job have the id `{id}`, {}", super::REFUSED))
                    .witness(at(*first), "it stands here first")
                    .mend(Mend::by_hand("give each step an id of its own, or remove the one that nobody reads"));
            }
            _ => {}
        }
    }
}
