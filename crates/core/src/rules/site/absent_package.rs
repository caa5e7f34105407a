//! A command that is to work in a package that the repository does not have.

use super::word_in;
use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::{Among, near};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.absent-package",
    severity: Severity::Error,
    title: "A command works in a package that is not there",
    why: "In a repository of several packages a command names the one that it works in. When no package has the name, some \
          managers fail, and others do nothing at all and end well: then nothing is built.",
    needs: &[Need::Files],
    bad: &[
        r#"
== files
README.md
== package.json
{"name": "ferry", "workspaces": ["apps/*"]}
== apps/web/package.json
{"name": "timetable", "scripts": {"build": "vite build"}}
== steps
      - uses: actions/checkout@v5
      - run: «npm run build --workspace web-app»
"#,
        r#"
== files
README.md
== package.json
{"name": "ferry"}
== pnpm-workspace.yaml
packages: [apps/*]
== apps/web/package.json
{"name": "@ferry/timetable", "scripts": {"build": "vite build"}}
== gitlab
build:
  script:
    - «pnpm --filter @ferry/timetables build»
"#,
    ],
    good: &[
        r#"
== files
README.md
== package.json
{"name": "ferry", "workspaces": ["apps/*"]}
== apps/web/package.json
{"name": "@ferry/timetable", "scripts": {"build": "vite build"}}
== steps
      - uses: actions/checkout@v5
      - run: npm run build -w apps/web
      - run: npm run build --workspace=@ferry/timetable
      - run: npm run build -w $PACKAGE
"#,
        r#"
== files
README.md
== package.json
{"name": "ferry"}
== pnpm-workspace.yaml
packages: [apps/*]
== apps/web/package.json
{"name": "@ferry/timetable", "scripts": {"build": "vite build"}}
== gitlab
build:
  script:
    - pnpm --filter timetable build
    - pnpm --filter "...[origin/main]" build
    - pnpm -r build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let names: Vec<&str> =
        case.facts.packages.values().filter_map(|package| package.name.as_ref()).map(|(name, _)| name.as_str()).collect();
    for job in &case.effects.jobs {
        for unmatched in job.iter().flat_map(|step| &step.unmatched) {
            let (filter, manager) = (&unmatched.filter, &unmatched.manager);
            let message = match unmatched.fails {
                true => format!("this fails: {manager} finds no package `{filter}`"),
                false => format!("this does nothing, and ends well: {manager} finds no package `{filter}`"),
            };
            let finding = out.add(unmatched.at, message);
            let there = if names.is_empty() { "none of them has a name".to_owned() } else { listed_short(&names) };
            finding.witness(WitnessSource::Files, format!("the packages here are {there}"));
            let meant = near(filter, names.iter().copied(), Among::Whole);
            finding.mend(match meant.and_then(|meant| Some((meant, word_in(case, unmatched.at, filter, &['=', '"', '\''])?))) {
                Some((meant, place)) => Mend::likely(format!("write {}", meant.word), [Edit::replace(place, meant.word)]),
                None => Mend::by_hand("write the name of a package that is there, or the path of its folder"),
            });
        }
    }
}
