//! Jobs that wait for each other.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.cycle",
    severity: Severity::Error,
    title: "Jobs wait for each other in a circle",
    why: "Each job of the circle waits for another of it, so none can ever be the first. The forge refuses the file.",
    needs: &[],
    bad: &[
        r"
== pipeline
on: push
jobs:
  build:
    needs: «publish»
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
  publish:
    needs: [‹build›]
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== gitlab
build:
  needs: [«publish»]
  script:
    - npm run build
publish:
  needs: [‹build›]
  script:
    - npx gh-pages -d dist
",
    ],
    good: &[
        r"
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
  test:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ls
  publish:
    needs: [build, test]
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ls
",
        r"
== gitlab
build:
  script:
    - npm run build
publish:
  needs: [build]
  script:
    - npx gh-pages -d dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for circle in circles(case) {
        let names: Vec<&str> = circle.iter().chain(circle.first()).map(|job| case.job_name(*job)).collect();
        let need = |from: usize, to: usize| {
            case.pipeline.jobs[from].needs.iter().find(|need| case.pipeline.job(&need.value) == Some(to))
        };
        let next = circle.get(1).copied().unwrap_or(circle[0]);
        let Some(first) = need(circle[0], next) else { continue };
        let finding =
            out.add(first.inner(), format!("these jobs wait for each other, so none of them ever starts: {}", names.join(" → ")));
        for (index, job) in circle.iter().enumerate().skip(1) {
            let next = circle[(index + 1) % circle.len()];
            if let Some(other) = need(*job, next) {
                finding.witness(at(other.inner()), format!("`{}` waits for `{}`", case.job_name(*job), case.job_name(next)));
            }
        }
        if circle.len() == 1 {
            finding.witness(at(case.pipeline.jobs[circle[0]].id.at), "it waits for itself");
        }
        finding.mend(Mend::by_hand("let the job that comes first wait for none of the others"));
    }
}

/// Circles of jobs, each once, found by walking every job once with a stack of our own: a chain may be long.
fn circles(case: &Case<'_>) -> Vec<Vec<usize>> {
    #[derive(Clone, Copy, PartialEq)]
    enum State {
        New,
        Open,
        Done,
    }
    let jobs = &case.pipeline.jobs;
    let needs: Vec<_> = (0..jobs.len()).map(|job| case.pipeline.needed_by(job)).collect();
    let mut state = vec![State::New; jobs.len()];
    let mut found = Vec::new();
    for start in 0..jobs.len() {
        let mut path: Vec<(usize, usize)> = Vec::new();
        if state[start] == State::New {
            state[start] = State::Open;
            path.push((start, 0));
        }
        while let Some((job, next)) = path.last_mut() {
            let Some(need) = needs[*job].get(*next).copied() else {
                state[*job] = State::Done;
                path.pop();
                continue;
            };
            *next += 1;
            match state[need] {
                State::New => {
                    state[need] = State::Open;
                    path.push((need, 0));
                }
                State::Open => {
                    let from = path.iter().position(|(job, _)| *job == need).unwrap_or(0);
                    found.push(path[from..].iter().map(|(job, _)| *job).collect());
                }
                State::Done => {}
            }
        }
    }
    found
}
