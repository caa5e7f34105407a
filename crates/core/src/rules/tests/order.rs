//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "order.absent-output",
        bad: &[
            r#"== jobs
  ‹a›:
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: a
    if: needs.a.outputs.«changed» == 'true'
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== .github/workflows/publish.yml
on:
  ‹workflow_call›:
    outputs:
      address: {value: x}
jobs: {}
== jobs
  a:
    uses: ./.github/workflows/publish.yml
  b:
    needs: a
    runs-on: x
    steps:
      - run: echo ${{ needs.a.outputs.«adress» }}
"#,
            r#"== steps
      - id: node
        uses: ‹actions/setup-node@v5›
      - if: steps.node.outputs.«cache_hit» != 'true'
        run: npm ci
"#,
        ],
        good: &[r#"== steps
      - id: own
        run: ./make
      - run: echo ${{ steps.own.outputs.page }} ${{ steps.own.outcome }}
"#],
    },
    More {
        rule: "order.absent-stage",
        bad: &[r#"== gitlab
site:
  stage: «publish»
  script: [make]
"#],
        good: &[
            r#"== gitlab
site:
  stage: deploy
  script: [make]
other:
  script: [make]
"#,
            r#"== gitlab
include: {project: ferry/tools, file: /x.yml}
site:
  stage: publish
  script: [make]
"#,
        ],
    },
    More {
        rule: "order.cut-short",
        bad: &[r#"== git
main default
== jobs
  publish:
    concurrency: {group: publish, cancel-in-progress: «true»}
    runs-on: x
    steps:
      - run: ‹npx gh-pages -d public›
"#],
        good: &[r#"== git
main default
== pipeline
on: push
concurrency:
  group: a
  cancel-in-progress: ${{ github.ref != 'refs/heads/main' }}
jobs:
  publish:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#],
    },
    More {
        rule: "order.cycle",
        bad: &[r#"== pipeline
on: push
jobs:
  ‹build›:
    needs: «build»
    runs-on: ubuntu-latest
    steps: [{run: npm ci}]
"#],
        good: &[],
    },
    More {
        rule: "order.publishes-after-failure",
        bad: &[
            r#"== jobs
  build:
    runs-on: x
    steps: [{run: npx vite build}]
  publish:
    needs: [‹build›]
    if: «${{ !cancelled() && github.ref == 'refs/heads/main' }}»
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#,
            r#"== steps
      - uses: actions/checkout@v5
      - run: «npx vite build || true»
      - run: ‹npx gh-pages -d dist›
"#,
            r#"== steps
      - uses: actions/checkout@v5
      - run: npx vite build
        continue-on-error: «true»
      - run: ‹npx gh-pages -d dist›
"#,
            r#"== steps
      - run: ‹npx vite build›
      - run: npx gh-pages -d dist
        if: «always()»
"#,
        ],
        good: &[
            r#"== steps
      - uses: actions/checkout@v5
      - run: npx eslint . || true
      - run: npx vite build
      - run: npx gh-pages -d dist
      - if: always()
        uses: actions/upload-artifact@v4
        with: {path: report}
"#,
            r#"== jobs
  build:
    runs-on: x
    steps: [{run: npx vite build}]
  publish:
    needs: build
    if: success() || failure()
    runs-on: x
    steps: [{run: echo done}]
"#,
        ],
    },
    More {
        rule: "order.races",
        bad: &[r#"== git
main default
== jobs
  publish:
    runs-on: x
    steps:
      - uses: «peaceiris/actions-gh-pages@v4»
        with: {github_token: x}
"#],
        good: &[
            r#"== git
main default
== pipeline
on: workflow_dispatch
jobs:
  publish:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#,
            r#"== git
main default
== pipeline
on: workflow_call
jobs:
  publish:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#,
        ],
    },
    More {
        rule: "order.repeated-publish",
        bad: &[],
        good: &[
            r#"== git
main default
== jobs
  a:
    strategy:
      matrix:
        place: [one, two]
    runs-on: x
    steps:
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: x, destination_dir: '${{ matrix.place }}'}
"#,
            r#"== git
main default
== jobs
  a:
    strategy:
      matrix:
        place: [one, two]
    runs-on: x
    steps:
      - run: netlify deploy --prod
        env: {NETLIFY_SITE_ID: '${{ matrix.place }}', NETLIFY_AUTH_TOKEN: x}
"#,
        ],
    },
    More {
        rule: "order.same-target",
        bad: &[r#"== git
main default
== .github/workflows/a.yml
on: push
jobs:
  a:
    runs-on: x
    steps:
      - uses: ‹actions/deploy-pages@v4›
== .github/workflows/b.yml
on: push
jobs:
  a:
    runs-on: x
    steps:
      - uses: «actions/deploy-pages@v4»
"#],
        good: &[
            r#"== git
main default
== jobs
  a:
    runs-on: x
    steps:
      - run: netlify deploy --prod
  b:
    runs-on: x
    steps:
      - run: netlify deploy --prod
"#,
            // One after the other on purpose.
            r#"== git
main default
== jobs
  a:
    runs-on: x
    steps:
      - run: npx gh-pages -d one
  b:
    needs: a
    runs-on: x
    steps:
      - run: npx gh-pages -d two
"#,
        ],
    },
    More {
        rule: "order.step-too-early",
        bad: &[
            r#"== steps
      - uses: actions/checkout@v5
      - run: «npm ci»
      - uses: ‹actions/setup-node@v5›
        with: {node-version: 22}
"#,
            r#"== package.json
{"scripts": {"build": "vite build"}}
== steps
      - uses: actions/checkout@v5
      - run: «npm run build»
      - run: ‹npm ci›
"#,
            r#"== files
x
== package.json
{}
== steps
      - uses: actions/checkout@v5
      - run: npm ci
      - uses: actions/upload-artifact@v4
        with: {path: «dist»}
      - run: ‹npx vite build›
"#,
            r#"== steps
      - run: echo ${{ «steps.make.outputs.page» }}
      - id: ‹make›
        run: ./make
"#,
            r#"== .github/actions/build/action.yml
name: Build
runs:
  using: composite
  steps: [{run: ls, shell: bash}]
== steps
      - uses: «./.github/actions/build»
      - uses: ‹actions/checkout@v5›
"#,
        ],
        good: &[
            r#"== steps
      - run: git clone https://harbour.example/a .
      - run: npm ci
      - uses: actions/checkout@v5
        with: {path: b}
"#,
            // A second installation, and modules that a cache brings.
            r#"== package.json
{"scripts": {"build": "vite build"}}
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: node_modules, key: x}
      - run: npm run build
      - if: failure()
        run: npm ci
"#,
            r#"== steps
      - uses: actions/checkout@v5
      - run: npm ci
        working-directory: tools
      - run: npm ci
      - uses: actions/setup-python@v6
"#,
        ],
    },
    More {
        rule: "order.unordered-use",
        bad: &[
            r#"== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/upload-pages-artifact@v3›
        with: {path: dist}
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: «actions/deploy-pages@v4»
"#,
            r#"== pipeline
on: push
jobs:
  ‹build›:
    runs-on: ubuntu-latest
    outputs: {page: a}
    steps: [{run: ls}]
  test:
    runs-on: ubuntu-latest
    steps: [{run: ls}]
  publish:
    needs: test
    runs-on: ubuntu-latest
    steps:
      - run: echo ${{ «needs.build.outputs.page» }}
"#,
        ],
        good: &[r#"== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: site, run-id: 1}
"#],
    },
    More {
        rule: "order.untested",
        bad: &[],
        good: &[
            r#"== git
main default
== jobs
  test:
    if: github.event_name == 'pull_request'
    runs-on: x
    steps:
      - run: npx vitest run
  publish:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#,
            // These tests may fail, and are not meant to hold anything up.
            r#"== git
main default
== jobs
  test:
    continue-on-error: true
    runs-on: x
    steps:
      - run: npx vitest run
  publish:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#,
        ],
    },
    More {
        rule: "order.wide-lock",
        bad: &[r#"== git
main default
== pipeline
on: push
concurrency:
  group: «publish-${{ github.run_id }}»
jobs:
  a:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#],
        good: &[
            r#"== pipeline
on: [push, pull_request]
concurrency: pages
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== pipeline
on: push
concurrency:
  group: ${{ github.run_id }}
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
    },
];
