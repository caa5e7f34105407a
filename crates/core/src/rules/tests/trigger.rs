//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "trigger.never-reached",
        bad: &[
            r#"== pipeline
‹on›: [push, pull_request]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
  clear:
    if: «github.event.action == 'closed'»
    runs-on: ubuntu-latest
    steps:
      - run: ./clear
"#,
            r#"== pipeline
‹on›:
  push:
  schedule:
    - cron: '5 4 * * *'
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
  nightly:
    if: «github.event.schedule == '5 3 * * *'»
    runs-on: ubuntu-latest
    steps:
      - run: ./make
"#,
            r#"== pipeline
‹on›:
  push:
    branches: [main]
jobs:
  build:
    runs-on: x
    steps:
      - run: ls
      - if: «startsWith(github.ref, 'refs/tags/')»
        run: npx gh-pages -d public
"#,
            r#"== pipeline
‹on›:
  push:
    branches: [main]
  workflow_dispatch:
jobs:
  build:
    if: «github.ref == 'refs/heads/master' && github.event_name == 'push'»
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    runs-on: x
    steps:
      - run: npx gh-pages -d public
  look:
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
        good: &[r#"== pipeline
on:
  push:
    branches: [main]
jobs:
  build:
    runs-on: x
    steps:
      - run: ls
      - if: failure()
        run: npx gh-pages -d public
  tell:
    needs: build
    if: failure()
    runs-on: x
    steps: [{run: ls}]
  off:
    if: false
    runs-on: x
    steps: [{run: ls}]
"#],
    },
    More {
        rule: "trigger.absent-callee",
        bad: &[
            r#"== files
.github/actions/build/action.yml
== pipeline
on: push
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - uses: «./.github/actions/biuld»
"#,
            r#"== files
.github/actions/build/action.yml
.github/workflows/publish.yml
== pipeline
on: push
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - uses: «./.github/workflows/publish.yml»
      - uses: «./.github/actions/build/action.yml»
"#,
        ],
        good: &[r#"== files
README.md
== pipeline
on: push
jobs:
  a:
    runs-on: x
    steps:
      - run: git clone https://harbour.example/tools
      - uses: ./tools/build
"#],
    },
    More {
        rule: "trigger.absent-upstream",
        bad: &[r#"== .github/workflows/build.yml
name: Build
on: push
jobs: {}
== pipeline
on:
  workflow_run:
    workflows:
      - «build.yml»
jobs: {}
"#],
        good: &[],
    },
    More {
        rule: "trigger.blind-path",
        bad: &[
            r#"== files
docs/index.md
docs/fares.md
== pipeline
on:
  push:
    «paths-ignore»: ['**.md']
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - run: ‹mkdocs build›
      - run: npx gh-pages -d site
"#,
            // Advice: the pipeline itself is not tried out when it changes.
            r#"== files
src/main.js
== pipeline
on:
  push:
    «paths»: ['src/**']
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - run: npx vite build
      - run: npx gh-pages -d dist
"#,
        ],
        good: &[
            // It publishes nothing.
            r#"== files
src/main.js
style/a.css
== pipeline
on:
  push:
    paths: ['style/**']
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - run: npx vite build
"#,
        ],
    },
    More {
        rule: "trigger.callee-mismatch",
        bad: &[
            r#"== .github/workflows/publish.yml
on:
  ‹workflow_call›:
    inputs:
      folder: {type: string}
jobs: {}
== pipeline
on: push
jobs:
  a:
    uses: ./.github/workflows/publish.yml
    with: {«foldr»: dist}
"#,
            r#"== .github/workflows/publish.yml
on: ‹push›
jobs: {}
== pipeline
on: push
jobs:
  a:
    uses: «./.github/workflows/publish.yml»
"#,
            r#"== .github/workflows/publish.yml
on:
  workflow_call:
    secrets:
      ‹key›: {required: true}
jobs: {}
== pipeline
on: push
jobs:
  a:
    uses: «./.github/workflows/publish.yml»
"#,
            r#"== .github/actions/build/action.yml
name: Build
‹inputs›:
  folder: {default: dist}
runs:
  using: composite
  steps: [{run: ls, shell: bash}]
== pipeline
on: push
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - uses: ./.github/actions/build
        with: {«foldr»: dist}
"#,
        ],
        good: &[],
    },
    More {
        rule: "trigger.clashing-filters",
        bad: &[r#"== pipeline
on:
  pull_request:
    «paths-ignore»: ['**.md']
    ‹paths›: [src/**]
jobs: {}
"#],
        good: &[],
    },
    More {
        rule: "trigger.dead-clock",
        bad: &[
            r#"== pipeline
on:
  schedule:
    - cron: '0 4 * * 1'
    - cron: '«0 24 * * *»'
jobs: {}
"#,
            r#"== pipeline
on:
  schedule:
    - cron: '«@daily»'
jobs: {}
"#,
            r#"== pipeline
on:
  schedule:
    - cron: '«0 4 31 2 *»'
jobs: {}
"#,
        ],
        good: &[],
    },
    More {
        rule: "trigger.dead-path",
        bad: &[
            r#"== files
src/main.js
package.json
== pipeline
on:
  push:
    paths:
      - '«scr/**»'
      - package.json
jobs: {}
"#,
            r#"== files
site/src/main.js
== pipeline
on:
  push:
    paths: ['«/site/**»']
jobs: {}
"#,
        ],
        good: &[],
    },
    More {
        rule: "trigger.double-start",
        bad: &[r#"== git
main default
== pipeline
on: [«push», ‹pull_request›]
jobs:
  a:
    runs-on: x
    steps: [{run: npx vite build}]
"#],
        good: &[
            r#"== git
main default
== pipeline
on:
  push:
  pull_request:
concurrency:
  group: ${{ github.head_ref || github.ref_name }}
  cancel-in-progress: true
jobs:
  a:
    runs-on: x
    steps: [{run: npx vite build}]
"#,
            r#"== git
main default
== pipeline
on:
  push:
  pull_request:
jobs:
  a:
    if: github.event_name == 'push' || github.event.pull_request.head.repo.full_name != github.repository
    runs-on: x
    steps: [{run: npx vite build}]
"#,
            // Nothing of a site is made.
            r#"== pipeline
on: [push, pull_request]
jobs:
  a:
    runs-on: x
    steps: [{run: npx eslint .}]
"#,
        ],
    },
    More {
        rule: "trigger.hasty-clock",
        bad: &[r#"== pipeline
on:
  schedule:
    - cron: '«*/2 4 * * *»'
jobs: {}
"#],
        good: &[],
    },
    More {
        rule: "trigger.loop",
        bad: &[],
        good: &[
            r#"== git
main default
== pipeline
on:
  push:
    branches: [main]
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
        with: {token: '${{ secrets.ROBOT }}'}
      - run: git push origin HEAD:pages
"#,
            r#"== git
main default
== pipeline
on:
  push:
    branches: [main]
    paths: [src/**]
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
        with: {token: '${{ secrets.ROBOT }}'}
      - run: git push
"#,
        ],
    },
    More {
        rule: "trigger.publishes-proposals",
        bad: &[r#"== git
main default
== pipeline
on: [push, ‹pull_request›]
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
      - uses: «peaceiris/actions-gh-pages@v4»
        with: {github_token: '${{ secrets.GITHUB_TOKEN }}'}
"#],
        good: &[
            // A folder of its own for each pull request is a preview.
            r#"== git
main default
== pipeline
on: [push, pull_request]
jobs:
  a:
    runs-on: x
    steps:
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: '${{ secrets.GITHUB_TOKEN }}', destination_dir: '${{ github.event.number }}'}
"#,
            // Merged pull requests only.
            r#"== git
main default
== pipeline
on:
  push:
  pull_request:
    types: [closed]
jobs:
  a:
    runs-on: x
    steps:
      - run: npx gh-pages -d public
"#,
            r#"== git
main default
== pipeline
on: [push, pull_request]
jobs:
  a:
    runs-on: x
    steps:
      - run: |
          if [ "$GITHUB_EVENT_NAME" = push ]; then
            npx gh-pages -d public
          fi
"#,
        ],
    },
    More {
        rule: "trigger.runs-strangers-code",
        bad: &[r#"== git
main default
== .github/workflows/test.yml
name: Test
on: pull_request
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== pipeline
on:
  ‹workflow_run›:
    workflows: [Test]
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
        with: {ref: '«${{ github.event.workflow_run.head_sha }}»'}
      - run: ‹npm run build›
"#],
        good: &[
            // A person has to set a label first, or it is not a stranger's.
            r#"== git
main default
== pipeline
on:
  pull_request_target:
    types: [labeled]
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
        with: {ref: '${{ github.event.pull_request.head.sha }}'}
      - run: npm ci
"#,
            r#"== git
main default
== pipeline
on: pull_request_target
jobs:
  a:
    if: github.event.pull_request.head.repo.full_name == github.repository
    runs-on: x
    steps:
      - uses: actions/checkout@v4
        with: {ref: '${{ github.event.pull_request.head.sha }}'}
      - run: npm ci
"#,
            // Looked at, not run.
            r#"== git
main default
== pipeline
on: pull_request_target
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v4
        with: {ref: '${{ github.head_ref }}', path: theirs}
      - run: ls theirs
"#,
        ],
    },
    More {
        rule: "trigger.silent",
        bad: &[
            r#"== pipeline
«on»:
  push:
    branches: [main]
jobs:
  a:
    if: ‹github.event_name == 'pull_request'›
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== pipeline
«on»: [push]
jobs:
  a:
    if: ‹github.event_name == 'release'›
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: ‹a›
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
        good: &[
            r#"== pipeline
on: workflow_call
jobs:
  a:
    if: github.event_name == 'release'
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== pipeline
on: push
jobs:
  a:
    if: startsWith(github.ref, 'refs/tags/')
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== pipeline
on: pull_request
jobs:
  a:
    if: github.event.pull_request.merged
    runs-on: x
    steps: [{run: ls}]
  b:
    runs-on: x
    steps: [{run: ls}]
"#,
            // Switched off on purpose: there is nothing to find out.
            r#"== pipeline
on: push
jobs:
  a:
    if: false
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
    },
    More {
        rule: "trigger.strangers-text",
        bad: &[
            r#"== pipeline
on: [push, ‹pull_request›]
jobs:
  a:
    runs-on: x
    steps:
      - run: |
          npm ci
          npm run preview -- --name=«${{ github.head_ref || github.ref_name }}»
"#,
            r#"== pipeline
on: ‹push›
jobs:
  a:
    runs-on: x
    steps:
      - run: echo «${{ format('{0}', github.event.head_commit.message) }}»
"#,
            r#"== pipeline
on: ‹issue_comment›
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/github-script@v7
        with:
          script: console.log('«${{ github.event.comment.body }}»')
"#,
        ],
        good: &[
            // Without such an event the value is empty.
            r#"== pipeline
on: push
jobs:
  a:
    runs-on: x
    steps:
      - run: echo ${{ github.event.pull_request.title }} ${{ github.head_ref }}
"#,
            r#"== pipeline
on: pull_request
jobs:
  a:
    runs-on: x
    steps:
      - run: echo ${{ github.event.pull_request.number }} ${{ github.event.pull_request.head.sha }}
"#,
        ],
    },
    More {
        rule: "trigger.stray-filter",
        bad: &[
            r#"== pipeline
on:
  push:
  workflow_dispatch:
    «branches»: [main]
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== pipeline
on:
  release:
    types: [published]
    «branches»: [main]
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== pipeline
on:
  push:
    «types»: [opened]
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
        good: &[],
    },
    More {
        rule: "trigger.unknown-event",
        bad: &[r#"== pipeline
on:
  «manual»:
  push:
jobs:
  build:
    runs-on: ubuntu-latest
    steps: [{run: npm ci}]
"#],
        good: &[],
    },
    More {
        rule: "trigger.unpublished",
        bad: &[r#"== git
main default
== pipeline
on: [push, pull_request]
jobs:
  a:
    if: ‹github.event_name == 'pull_request'›
    runs-on: x
    steps:
      - run: «npx gh-pages -d public»
"#],
        good: &[r#"== git
main default
== pipeline
on: workflow_dispatch
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#],
    },
];
