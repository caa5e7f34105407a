//! A program that is named together with its words.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.words-in-one",
    severity: Severity::Error,
    title: "A program is named together with its words",
    why: "Where a program has a key of its own, the whole text is taken for its name, blanks and all. No program is called so, and the \
          step fails before it begins. The words behind a program's name have a key of their own.",
    needs: &[],
    bad: &[r#"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: «npm ci»
  - name: node:24
    entrypoint: npm
    args: [test]
"#],
    good: &[r#"
== cloudbuild.yaml
steps:
  - name: node:24
    entrypoint: npm
    args: [ci]
  - name: node:24
    entrypoint: /usr/local/bin/npm
    args: ["run build"]
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::WordsInOne { key, program, words_key, words } = &issue.kind else { continue };
        let written = case.sources.slice(issue.at);
        out.add(issue.at, format!("there is no program called `{written}`: the step fails"))
            .witness(WitnessSource::Catalog, format!("`{key}` is the name of one program; its words stand under `{words_key}`"))
            .mend(Mend::by_hand(format!("write `{key}: {program}` and `{words_key}: [{}]`", words.join(", "))));
    }
}
