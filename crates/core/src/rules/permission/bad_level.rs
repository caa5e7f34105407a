//! A scope with a level that it does not have.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{Among, Meant, near};
use crate::model::{Grant, GrantKind};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "permission.bad-level",
    severity: Severity::Error,
    title: "A permission has a level that does not exist",
    why: "A scope is granted as read, write or none, and some have only one of them; a whole block is {}, read-all or write-all. \
          Any other word makes the forge refuse the file.",
    needs: &[],
    bad: &[r"
== pipeline
on: push
permissions:
  contents: «writ»
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
"],
    good: &[
        r"
== pipeline
on: push
permissions:
  contents: write
  pages: read
  issues: none
  id-token: none
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== pipeline
on: push
permissions: read-all
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.customs.scope.is_empty() {
        return;
    }
    let grants = case.pipeline.permissions.iter().chain(case.pipeline.jobs.iter().filter_map(|job| job.permissions.as_ref()));
    for grant in grants {
        match &grant.kind {
            GrantKind::Scopes(scopes) => {
                for (scope, level) in scopes {
                    let known = case.pipeline.customs.scope(&scope.value);
                    let Some(written) = level.known() else { continue };
                    let takes: &[&str] = match known {
                        Some(known) if known.only_write => &["write", "none"],
                        Some(known) if known.only_read => &["read", "none"],
                        _ => &["read", "write", "none"],
                    };
                    if takes.contains(&written) {
                        continue;
                    }
                    let only = Some(takes[0]).filter(|_| takes.len() == 2).map(Meant::perhaps);
                    let meant = near(written, takes.iter().copied(), Among::Closed).or(only);
                    let finding = out
                        .add(level.inner(), format!("`{}` cannot be `{written}`, so the forge refuses this file", scope.value));
                    finding.witness(WitnessSource::Catalog, format!("it is {}", takes.join(" or ")));
                    finding.mend(match meant {
                        Some(meant) => Mend::name(&meant, level.inner()),
                        None => Mend::by_hand("write read or write"),
                    });
                }
            }
            GrantKind::Unknown => whole_block(case, grant, out),
            GrantKind::All(_) => {}
        }
    }
}

fn whole_block(case: &Case<'_>, grant: &Grant, out: &mut Findings) {
    let written = case.sources.slice(grant.at).trim();
    let meant = match written {
        "read" => Some(Meant::surely("read-all")),
        "write" => Some(Meant::surely("write-all")),
        "none" => Some(Meant::surely("{}")),
        // A list, or anything else of several words, is told of as a matter of form.
        _ if written.contains(['\n', '[', '{', ' ', '$']) || written.is_empty() => return,
        _ => near(written, ["read-all", "write-all"], Among::Closed),
    };
    out.add(grant.at, format!("permissions cannot be `{written}`, so the forge refuses this file"))
        .witness(WitnessSource::Catalog, "a whole block is {}, read-all or write-all; anything else is a scope with its level")
        .mend(match meant {
            Some(meant) => Mend::name(&meant, grant.at),
            None => Mend::by_hand("write read-all, or the scopes that are needed, each with its level"),
        });
}
