//! An acceptance that meets no finding.

use std::collections::HashMap;

use crate::case::Case;
use crate::finding::{Edit, Finding, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::nearest;
use crate::rules::{self, Rule};
use crate::text::Span;

pub const RULE: Rule = Rule {
    id: "form.idle-acceptance",
    severity: Severity::Advice,
    title: "A finding is accepted that is not there",
    why: "The finding that was accepted here is gone, or never was on this line. What stays in the file, or in dulk.toml, would hide the next one.",
    needs: &[],
    bad: &[
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ls «# dulk: accept branch.absent because it was so»
",
        r"
== gitlab
«# dulk: accept cache.none because it is small»
pages:
  script:
    - make public
",
        r#"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: ls
== dulk.toml
[[accept]]
rule = «"branch.absent"»
file = ".github/workflows/site.yml"
because = "the branch comes tomorrow"
"#,
    ],
    good: &[
        r#"
== git
main default
== pipeline
on:
  push:
    branches: [master]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
== dulk.toml
[[accept]]
rule = "branch.absent"
file = ".github/workflows/site.yml"
line = "branches: [master]"
because = "the branch comes tomorrow"
"#,
        r"
== git
main default
== pipeline
on:
  push:
    branches: [master] # dulk: accept branch.absent because the branch comes tomorrow
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== git
main default
== pipeline
on:
  push:
    # dulk: accept branch.absent because the branch comes tomorrow
    branches: [master]
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
    let acceptances = &case.prepared.acceptances;
    let path = &case.sources.get(case.pipeline.file).path;
    let declared = &case.facts.settings.accept;
    // Of several pipelines in a file, the first tells.
    let is_first = || case.project.in_file(case.pipeline.file) == Some(case.index);
    let speaks = declared.iter().any(|entry| entry.is_for(path)) && is_first();
    if acceptances.is_empty() && !speaks {
        return;
    }
    let mut all = all_of_file(case);
    let used = crate::accept::apply(acceptances, &mut all, case.sources);
    let mut nearest_rules: HashMap<&str, Option<&str>> = HashMap::new();
    for (acceptance, _) in acceptances.iter().zip(used).filter(|(acceptance, used)| !used && acceptance.reason.is_some()) {
        let known = rules::find(&acceptance.rule).is_some();
        let search = || nearest(&acceptance.rule, rules::all().map(|rule| rule.id)).filter(|_| !known);
        let near = *nearest_rules.entry(&acceptance.rule).or_insert_with(search);
        let finding = out.add(acceptance.at, "this accepts a finding that is not there");
        finding.witness(
            WitnessSource::Catalog,
            match near {
                Some(near) => format!("there is no rule {}; the nearest is {near}", acceptance.rule),
                None if known => format!("{} finds nothing on the line", acceptance.rule),
                None => format!("there is no rule {}", acceptance.rule),
            },
        );
        finding.mend(match near {
            Some(near) => Mend::by_hand(format!("write {near}, or remove the comment")),
            None => Mend::certain("remove the comment", [removal(case, acceptance)]),
        });
    }
    if !speaks {
        return;
    }
    let used = crate::accept::apply_settings(case.project, &mut all);
    for (entry, _) in declared.iter().zip(used).filter(|(entry, used)| !used && entry.is_for(path)) {
        let within = match (&entry.line, &entry.job) {
            (Some(_), _) => "on that line",
            (None, Some(_)) => "in that job",
            (None, None) => "in that file",
        };
        out.add(entry.rule.at, "this accepts a finding that is not there")
            .witness(WitnessSource::Catalog, format!("{} finds nothing {within}", entry.rule.name))
            .mend(Mend::by_hand("remove this [[accept]], or correct what it names"));
    }
}

/// What all other rules find in the file, accepted or not. What is wrong inside an action may only be seen by a pipeline that runs it.
fn all_of_file(case: &Case<'_>) -> Vec<Finding> {
    let project = case.project;
    let sees = |other: &usize| {
        project.prepared[*other].pipeline.file == case.pipeline.file || project.runs(*other, case.pipeline.file).is_some()
    };
    let mut all = Vec::new();
    for index in (0..project.prepared.len()).filter(sees) {
        let looked_at = project.case(index);
        let others = rules::all().filter(|rule| rule.id != RULE.id);
        all.extend(others.flat_map(|rule| rules::run(rule, &looked_at)));
    }
    all
}

/// The comment with the spaces before it; its whole line where it stands alone.
fn removal(case: &Case<'_>, acceptance: &crate::accept::Acceptance) -> Edit {
    let source = case.sources.get(acceptance.at.file);
    let text = &source.text;
    let (start, end) = (acceptance.at.span.start as usize, acceptance.at.span.end as usize);
    let before = text[..start].trim_end_matches([' ', '\t']).len();
    let mut at = acceptance.at;
    if acceptance.alone {
        let rest = &text[end..];
        let line_end = rest.find('\n').map_or(rest.len(), |index| index + 1);
        at.span = Span::new(before, end + line_end);
    } else {
        at.span = Span::new(before, end);
    }
    Edit::replace(at, "")
}
