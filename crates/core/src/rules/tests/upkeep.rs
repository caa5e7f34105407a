//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "upkeep.missing-input",
        bad: &[r#"== steps
      - uses: «JamesIves/github-pages-deploy-action@v4»
"#],
        good: &[],
    },
    More {
        rule: "upkeep.misspelt",
        bad: &[r#"== steps
      - uses: «peaceris/actions-gh-pages»@v4
      - uses: «actions/checkout/»@v4
"#],
        good: &[],
    },
    More {
        rule: "upkeep.moving",
        bad: &[r#"== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: '«ferry/timetable-action@master»'
"#],
        good: &[],
    },
    More {
        rule: "upkeep.retired-action",
        bad: &[r#"== steps
      - uses: «actions/checkout@v2»
      - uses: «actions/cache@v1.2.0»
        with: {path: x, key: y}
"#],
        good: &[],
    },
    More {
        rule: "upkeep.retired-command",
        bad: &[r#"== steps
      - run: |
          echo start
          echo "«::set-env» name=BASE::/timetable/"
"#],
        good: &[],
    },
    More {
        rule: "upkeep.retired-runner",
        bad: &[
            r#"== jobs
  build:
    strategy:
      matrix:
        os: [ubuntu-latest, «macos-11»]
    runs-on: ${{ matrix.os }}
    steps:
      - run: npm ci
"#,
            r#"== jobs
  build:
    runs-on: «ubuntu-lastest»
    steps:
      - run: npm ci
"#,
        ],
        good: &[],
    },
    More {
        rule: "upkeep.retired-runtime",
        bad: &[
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    strategy: {matrix: {python: ['«3.7»']}}
    steps:
      - uses: actions/setup-python@v5
        with: {python-version: '${{ matrix.python }}'}
"#,
            r#"== .nvmrc
‹v16.14.0›
== files
index.html
== steps
      - uses: actions/checkout@v4
      - uses: «actions/setup-node@v4»
        with: {node-version-file: .nvmrc}
"#,
        ],
        good: &[],
    },
    More {
        rule: "upkeep.unknown-input",
        bad: &[r#"== steps
      - uses: actions/checkout@v4
        with:
          «submodule»: true
"#],
        good: &[],
    },
];
