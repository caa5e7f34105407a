//! How a job or a step ended, held against a word that no end has.

use crate::case::Case;
use crate::finding::{Findings, Severity};
use crate::knowledge::WordsOf;
use crate::rules::{Rule, words};

pub const RULE: Rule = Rule {
    id: "order.unknown-result",
    severity: Severity::Error,
    title: "A condition waits for a result that never occurs",
    why: "A job or step ends as success, failure, cancelled or skipped, and in no other way. A condition that waits for another word is \
          never true, so that what should follow never does.",
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
  tell:
    needs: build
    if: always() && needs.build.result == «'failed'»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
        r#"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - id: make
        run: make
      - if: steps.make.outcome == «'passed'»
        run: npx gh-pages -d public
"#,
    ],
    good: &[r#"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  tell:
    needs: build
    if: always() && contains(needs.*.result, 'failure') && needs.build.result != ''
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    words::check(case, WordsOf::End, out);
}
