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
        // A path in this repository has no version of its own.
        good: &[r#"== .github/actions/build/action.yml
name: Build
runs:
  using: composite
  steps:
    - run: npm run build
      shell: bash
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: $/.github/actions/build
      - uses: $/
  publish:
    uses: $/.github/workflows/publish.yml
"#],
    },
    More {
        rule: "upkeep.retired-action",
        bad: &[r#"== steps
      - uses: «actions/checkout@v1»
      - uses: «actions/checkout@v2»
      - uses: «actions/cache@v1.2.0»
        with: {path: x, key: y}
"#],
        // Newer than anything that is known here.
        good: &[r#"== steps
      - uses: actions/checkout@v97
      - uses: actions/upload-artifact@v98
        with: {path: dist}
"#],
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
            r#"== jobs
  publish:
    runs-on: ubuntu-latest
    strategy:
      matrix: {node: [24, «18»]}
    steps:
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v4
        with: {node-version: '${{ matrix.node }}'}
      - run: npm run build
      - uses: actions/upload-pages-artifact@v4
        with: {path: dist}
"#,
        ],
        // Several versions beside each other are a test of what the site still works with.
        good: &[
            r#"== jobs
  publish:
    runs-on: ubuntu-latest
    strategy:
      matrix: {node: [24, 18]}
    steps:
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v4
        with: {node-version: '${{ matrix.node }}'}
      - run: npm run build
      - uses: actions/upload-pages-artifact@v4
        if: matrix.node == 24
        with: {path: dist}
"#,
            r#"== jobs
  test:
    runs-on: ubuntu-latest
    strategy:
      matrix: {node: [16, 18]}
    steps:
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v4
        with: {node-version: '${{ matrix.node }}'}
      - run: npm test
"#,
        ],
    },
    More {
        rule: "upkeep.unknown-input",
        bad: &[
            r#"== steps
      - uses: actions/checkout@v4
        with:
          «submodule»: true
"#,
            r#"== steps
      - uses: actions/checkout@8f4b7f84864484a7bf31766abe9204da3cbe65b3
        with: {«fetch_depth»: 0}
      - uses: actions/setup-node@v4
        with: {node-version: 24, «colour»: blue}
      - uses: actions/setup-node@v1
        with: {node-version: 24, «cache»: npm}
"#,
        ],
        // What a version takes that came out since, or that nobody can name, is not known.
        good: &[r#"== steps
      - uses: actions/checkout@v97
        with: {fetch_depth: 0, colour: blue}
      - uses: actions/setup-node@8f4b7f84864484a7bf31766abe9204da3cbe65b3
        with: {node-version: 24, colour: blue}
"#],
    },
];
