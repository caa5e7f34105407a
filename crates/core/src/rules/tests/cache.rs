//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "cache.mixed-platforms",
        bad: &[r#"== jobs
  build:
    strategy:
      matrix:
        ‹include:
          - os: ubuntu-24.04
          - os: windows-2025›
    runs-on: ${{ matrix.os }}
    steps:
      - uses: actions/cache@v4
        with: {path: node_modules, key: "«modules-${{ hashFiles('package-lock.json') }}»"}
"#],
        good: &[r#"== jobs
  build:
    strategy:
      matrix:
        os: [ubuntu-24.04, windows-2025]
        exclude: [{os: windows-2025}]
    runs-on: ${{ matrix.os }}
    steps:
      - uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ hashFiles('package-lock.json') }}"}
"#],
    },
    More {
        rule: "cache.absent-lockfile",
        bad: &[
            r#"== files
site/package.json
site/package-lock.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: actions/setup-node@v4
        with:
          cache: «npm»
"#,
            r#"== files
package-lock.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: actions/setup-node@v4
        with:
          cache: npm
          cache-dependency-path: «site/package-lock.json»
"#,
        ],
        good: &[
            // Where the sources stand somewhere else, the root's files say nothing.
            r#"== files
README.md
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
        with: {repository: ferry/site}
      - uses: actions/setup-node@v4
        with: {cache: npm}
"#,
        ],
    },
    More {
        rule: "cache.empty-hash",
        bad: &[r#"== files
site/package-lock.json
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ «hashFiles('package-lock.json')» }}"}
"#],
        good: &[r#"== files
x.txt
== steps
      - uses: actions/checkout@v5
        with: {repository: ferry/site}
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
"#],
    },
    More {
        rule: "cache.frozen-key",
        bad: &[r#"== steps
      - uses: actions/cache@v4
        with: {path: node_modules, key: '«${{ runner.os }}-modules»'}
"#],
        good: &[],
    },
    More {
        rule: "cache.none",
        bad: &[],
        good: &[r#"== files
x
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v4
      - run: npm install
"#],
    },
    More {
        rule: "cache.wiped",
        bad: &[],
        good: &[r#"== steps
      - uses: actions/cache@v4
        with: {path: node_modules, key: x}
      - run: yarn install --frozen-lockfile
"#],
    },
];
