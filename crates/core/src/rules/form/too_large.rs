//! A file that stands for more than can be looked at.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::{Beyond, FormIssueKind};
use crate::rules::Rule;
use crate::text::{Place, Span};

pub const RULE: Rule = Rule {
    id: "form.too-large",
    severity: Severity::Warning,
    title: "The file stands for more than can be looked at",
    why: "An anchor or a template that is used again stands for all that is written in it, and those that use each other multiply. \
          A program may also write a pipeline with thousands of jobs. Such a file is not looked at, so nothing is known of it; forges have limits of their own, and may refuse it too.",
    needs: &[],
    bad: &[
        r#"
== pipeline
on: push
env:
  A: &a {a: tide, b: tide, c: tide, d: tide, e: tide, f: tide, g: tide, h: tide, i: tide, j: tide}
  B: &b {a: *a, b: *a, c: *a, d: *a, e: *a, f: *a, g: *a, h: *a, i: *a, j: *a}
  C: &c {a: *b, b: *b, c: *b, d: *b, e: *b, f: *b, g: *b, h: *b, i: *b, j: *b}
  D: &d {a: *c, b: *c, c: *c, d: *c, e: *c, f: *c, g: *c, h: *c, i: *c, j: *c}
  E: {a: *d, b: *d, c: *d, d: «*d», e: *d, f: *d, g: *d, h: *d, i: *d, j: *d}
"#,
        r#"
== gitlab
«».a:
  all: [echo a, echo b, echo c, echo d, echo e, echo f, echo g, echo h, echo i, echo j]
.b:
  all: &b [!reference [.a, all], !reference [.a, all], !reference [.a, all], !reference [.a, all], !reference [.a, all], !reference [.a, all]]
.c:
  all: [*b, *b, *b, *b, *b, *b, *b, *b, *b, *b]
.d:
  all: &d [!reference [.c, all], !reference [.c, all], !reference [.c, all], !reference [.c, all], !reference [.c, all], !reference [.c, all]]
.e:
  all: [*d, *d, *d, *d, *d, *d, *d, *d, *d, *d]
build:
  script: [!reference [.e, all], !reference [.e, all], !reference [.e, all], !reference [.e, all], !reference [.e, all], !reference [.e, all]]
"#,
    ],
    good: &[r#"
== pipeline
on: push
env:
  A: &a tide
  B: *a
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    const MESSAGE: &str = "this file is too large to be looked at as a whole: nothing is known of what it does";
    for issue in &case.prepared.form {
        match issue.kind {
            FormIssueKind::TooLarge => {
                out.add(issue.at, MESSAGE)
                    .witness(
                        WitnessSource::Catalog,
                        "what it copies by naming anchors and templates again and again is more than fits",
                    )
                    .mend(Mend::by_hand("write out what is used once, and let fewer lines stand for many"));
            }
            FormIssueKind::Beyond(Beyond { what, limit, held }) => {
                out.add(Place { file: issue.at.file, span: Span::default() }, MESSAGE)
                    .witness(at(issue.at), format!("it has {held} {what}, and {limit} are looked at: this is one more"))
                    .mend(Mend::by_hand("divide it, or write fewer of them"));
            }
            _ => {}
        }
    }
}
