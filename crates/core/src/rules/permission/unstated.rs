//! A token that may do whatever the repository's setting says.

use crate::case::{Case, at};
use crate::finding::{Findings, Severity};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "permission.unstated",
    severity: Severity::Warning,
    title: "The pipeline does not say what its token may do",
    why: "Without a `permissions` block, the repository's setting decides. Where that grants everything, every step of every job \
          may change the code, the releases and the site.",
    needs: &[],
    bad: &[r#"
== dulk.toml
[forge]
token = ‹"write"›
== pipeline
«on»: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#],
    good: &[
        r#"
== dulk.toml
[forge]
token = "read"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
        r#"
== dulk.toml
[forge]
token = "write"
== pipeline
on: push
jobs:
  build:
    permissions: {}
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(token) = case.facts.settings.forge.token.as_ref().filter(|token| token.name == "write") else { return };
    let pipeline = case.pipeline;
    let unstated =
        pipeline.permissions.is_none() && pipeline.jobs.iter().any(|job| job.permissions.is_none() && job.call.is_none());
    if pipeline.customs.scope.is_empty() || pipeline.is_called() || !unstated {
        return;
    }
    let Some(key) = pipeline.triggers_at else { return };
    out.add(key, "no `permissions` block says what the token may do, so it may write everything")
        .witness(at(token.at), "this is what the repository grants without a block")
        .mend(pen::write(case, &Ask::GrantReading));
}
