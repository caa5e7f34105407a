//! A value of the machine or the run, held against a word that it never is.

use crate::case::Case;
use crate::finding::{Findings, Severity};
use crate::knowledge::WordsOf;
use crate::rules::{Rule, words};

pub const RULE: Rule = Rule {
    id: "form.unknown-word",
    severity: Severity::Error,
    title: "A comparison with a word that never occurs",
    why: "Some values come from a short list, such as the system of the machine. Held against a word that is not on the list, a \
          condition is never true, and what hangs on it never happens. No forge says so.",
    needs: &[],
    bad: &[
        r#"
== steps
      - if: runner.os == «'ubuntu-latest'»
        run: echo ready
"#,
        r#"
== gitlab
look:
  script:
    - make look
  rules:
    - if: $CI_COMMIT_REF_PROTECTED == «"yes"»
"#,
    ],
    good: &[
        r#"
== steps
      - if: runner.os == 'linux'
        run: echo ready
"#,
        r#"
== gitlab
look:
  script:
    - make look
  rules:
    - if: $CI_COMMIT_REF_PROTECTED == "true"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    words::check(case, WordsOf::Machine, out);
}
