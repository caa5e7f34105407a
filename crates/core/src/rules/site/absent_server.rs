//! A generator that publishes to a place its project file does not name.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, listed_short};
use crate::knowledge::nearest;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.absent-server",
    severity: Severity::Error,
    title: "The generator is to publish to a place it does not know",
    why: "Some generators publish by themselves, to places that their project file names. With a name that does not stand there the \
          command fails, and nothing goes online.",
    needs: &[],
    bad: &[
        r"
== timetable.lektorproject
[‹servers.pier›]
target = rsync://pier.tarnsay.example/www
== .travis.yml
language: python
script: lektor build
deploy:
  provider: script
  edge: true
  script: «lektor deploy peer»
  on: {branch: main}
",
        r"
== timetable.lektorproject
[‹servers.pier›]
target = rsync://pier.tarnsay.example/www
== steps
      - uses: actions/checkout@v5
      - run: lektor build
      - run: «lektor deploy peer»
",
        r"
== timetable.lektorproject
[‹servers.pier›]
target = rsync://pier.tarnsay.example/www
== gitlab
send:
  script:
    - lektor build
    - «lektor deploy peer»
",
    ],
    good: &[r"
== git
main default
== timetable.lektorproject
[servers.pier]
target = rsync://pier.tarnsay.example/www
== .travis.yml
language: generic
script: lektor build
deploy:
  provider: script
  edge: true
  script: lektor deploy pier
  on: {branch: main}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for absent in case.effects.jobs.iter().flatten().flat_map(|step| &step.absent_servers) {
        let known: Vec<&str> = absent.known.iter().map(String::as_str).collect();
        let meant =
            nearest(&absent.name, known.iter().copied()).or_else(|| if let [only] = known[..] { Some(only) } else { None });
        out.add(absent.at, format!("this fails: the project file names no place `{}`", absent.name))
            .witness(at(absent.file), format!("there are {}", listed_short(&known)))
            .mend(Mend::by_hand(match meant {
                Some(meant) => format!("write {meant}"),
                None => "write one of the names that stand there".to_owned(),
            }));
    }
}
