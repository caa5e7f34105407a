//! An event, a source or a kind of ref that never occurs.

use crate::case::Case;
use crate::finding::{Findings, Severity};
use crate::knowledge::WordsOf;
use crate::rules::{Rule, words};

pub const RULE: Rule = Rule {
    id: "trigger.unknown-word",
    severity: Severity::Error,
    title: "A condition waits for an event or a kind of ref that never occurs",
    why: "The name of an event, the kind of a ref and the source of a run come from a short list. Held against a word that is not on \
          it, a condition is never true: what hangs on it never runs, and the run is green all the same.",
    needs: &[],
    bad: &[
        r#"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: build
    if: github.ref_type == «'tags'»
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
"#,
        r#"
== pipeline
on: workflow_call
jobs:
  build:
    if: github.event_name == «'workflow_call'»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
        r#"
== gitlab
look:
  script:
    - make look
  rules:
    - if: $CI_PIPELINE_SOURCE == «"merge_request"»
"#,
        r"
== git
main default
== .travis.yml
language: generic
if: type = «tag»
script: make
",
    ],
    good: &[
        r#"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: build
    if: github.ref_type == 'Tag' && github.event_name == 'push' && github.event_name != ''
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
"#,
        r#"
== gitlab
look:
  script:
    - make look
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    words::check(case, WordsOf::Start, out);
}
