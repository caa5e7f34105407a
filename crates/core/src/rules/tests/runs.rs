//! Near neighbours of what decides whether something runs: what follows, what is called, what is compared, what waits for what.

use super::More;

pub const MORE: &[More] = &[
    // Other pipelines may start it, or nobody knows who calls it.
    More {
        rule: "trigger.never-reached",
        bad: &[
            r"
== .github/workflows/a.yml
name: Test
on: push
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
‹on›:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  tell:
    if: «github.event.workflow_run.event == 'schedule'»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
            r#"
== git
main default
== gitlab
‹look›:
  script:
    - make look
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: «$CI_COMMIT_BRANCH»
      when: never
    - if: $CI_COMMIT_BRANCH == "main"
"#,
        ],
        good: &[
            r"
== .github/workflows/a.yml
name: Test
on: [push, schedule]
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Test, Elsewhere]
    types: [completed]
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  tell:
    if: github.event.workflow_run.event == 'push'
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
            r"
== pipeline
on:
  workflow_call:
    inputs:
      live: {type: boolean}
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    if: github.event_name == 'release'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
            r#"
== git
main default
== gitlab
look:
  script:
    - make look
old:
  script:
    - make old
  rules:
    - when: never
alarm:
  script:
    - make alarm
  when: on_failure
night:
  script:
    - make night
  rules:
    - if: $CI_PIPELINE_SOURCE == "parent_pipeline"
    - if: $NIGHT
"#,
        ],
    },
    More {
        rule: "trigger.silent",
        bad: &[r"
== .github/workflows/a.yml
name: Test
on:
  push:
    branches: [main]
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
«on»:
  workflow_run:
    workflows: [Test]
    ‹branches›: [live]
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"],
        good: &[r"
== .github/workflows/a.yml
name: Test
on: pull_request
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Test]
    branches: [live]
jobs:
  look:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"],
    },
    // Whoever follows may ask in other ways.
    More {
        rule: "order.publishes-after-failure",
        bad: &[
            r"
== git
main default
== .github/workflows/a.yml
name: Test
on: push
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Test]
    types: [«completed»]
jobs:
  ‹publish›:
    runs-on: ubuntu-latest
    steps:
      - run: ‹npx gh-pages -d public›
",
            r#"
== git
main default
== gitlab
‹build›:
  stage: build
  script:
    - make
pages:
  stage: deploy
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
      when: «on_failure»
"#,
            r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
  publish:
    needs: ‹build›
    if: «success() || failure()»
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        ],
        good: &[
            r"
== git
main default
== .github/workflows/a.yml
name: Test
on: push
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  publish:
    if: ${{ github.event.workflow_run.conclusion == 'success' }}
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
  tell:
    if: github.event.workflow_run.conclusion == 'failure'
    runs-on: ubuntu-latest
    steps:
      - run: echo oh
",
            r"
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npx vite build
  publish:
    needs: build
    if: failure()
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        ],
    },
    More {
        rule: "trigger.publishes-proposals",
        bad: &[r"
== git
main default
== .github/workflows/a.yml
name: Test
on: [push, pull_request]
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
    ‹branches›: [main]
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: «npx surge public tarnsay.example»
"],
        good: &[r"
== git
main default
== .github/workflows/a.yml
name: Test
on: [push, pull_request]
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
    branches: [main]
jobs:
  publish:
    if: github.event.workflow_run.event == 'push'
    runs-on: ubuntu-latest
    steps:
      - run: npx surge public tarnsay.example
"],
    },
    More {
        rule: "trigger.unknown-word",
        bad: &[r"
== pipeline
on:
  workflow_dispatch:
    inputs:
      where: {type: choice, options: [staging, live]}
jobs:
  publish:
    if: inputs.where == «'production'»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"],
        good: &[
            r"
== pipeline
on:
  workflow_dispatch:
    inputs:
      where: {type: choice, options: [staging, live]}
  workflow_call:
    inputs:
      where: {type: string}
jobs:
  publish:
    if: inputs.where == 'production' || inputs.where == ''
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
            // A list is looked through, and other names hold what they hold.
            r#"
== pipeline
on: [push, pull_request]
jobs:
  a:
    if: contains(fromJSON('["push", "anything"]'), github.event_name) && github.event.label.name == 'tags'
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"#,
            r"
== gitlab
a:
  script:
    - make
  only:
    - tag
",
        ],
    },
    More {
        rule: "order.left-out-need",
        bad: &[],
        good: &[
            // Parts of the file are not known.
            r#"
== git
main default
== gitlab
include:
  - project: pier/parts
    file: all.yml
build:
  script:
    - make
  rules:
    - if: $CI_COMMIT_TAG
pages:
  needs: [build]
  script:
    - make public
"#,
            r"
== pipeline
on: push
jobs:
  build:
    if: github.ref_type == 'tag'
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        ],
    },
    More {
        rule: "order.unordered-use",
        bad: &[
            // What a called pipeline makes is waited for by waiting for the call.
            r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      name: {type: string, default: site}
jobs:
  make:
    runs-on: ubuntu-latest
    steps:
      - run: mkdir dist && echo x > dist/index.html
      - uses: ‹actions/upload-artifact@v5›
        with: {name: '${{ inputs.name }}', path: dist}
== pipeline
on: push
jobs:
  build:
    uses: ./.github/workflows/publish.yml
    with: {name: pages}
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v6
        with: {name: «pages», path: dist}
",
            r"
== git
main default
== gitlab
build:
  stage: build
  when: ‹manual›
  script:
    - mkdir dist
  artifacts:
    paths: [dist]
«pages»:
  stage: deploy
  script:
    - mv dist public
  artifacts:
    paths: [public]
",
        ],
        good: &[
            r"
== .github/workflows/publish.yml
on: workflow_call
jobs:
  make:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v5
        with: {name: pages, path: dist}
== pipeline
on: push
jobs:
  build:
    uses: ./.github/workflows/publish.yml
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v6
        with: {name: pages, path: dist}
",
            r"
== git
main default
== gitlab
build:
  stage: build
  when: manual
  allow_failure: false
  script:
    - mkdir dist
  artifacts:
    paths: [dist]
pages:
  stage: deploy
  script:
    - mv dist public
  artifacts:
    paths: [public]
",
        ],
    },
    More {
        rule: "artifact.misnamed",
        bad: &[],
        good: &[r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      name: {type: string, required: true}
jobs:
  make:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-artifact@v5
        with: {name: '${{ inputs.name }}', path: dist}
== pipeline
on: push
jobs:
  build:
    uses: ./.github/workflows/publish.yml
    with: {name: '${{ vars.NAME }}'}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v6
        with: {name: pages, path: dist}
"],
    },
    More {
        rule: "order.absent-output",
        bad: &[
            r#"
== steps
      - id: stamp
        run: ‹echo "stamp=now" >> "$GITHUB_OUTPUT"›
      - run: echo ${{ steps.stamp.outputs.«stmap» }}
"#,
            r"
== .github/workflows/publish.yml
on:
  workflow_call:
    outputs:
      page: {value: '${{ jobs.make.outputs.«page» }}'}
jobs:
  ‹make›:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        ],
        good: &[r#"
== steps
      - id: stamp
        run: |
          node stamp.mjs >> "$GITHUB_OUTPUT"
      - id: other
        run: |
          echo "first=1" >> "$GITHUB_OUTPUT"
          ./more.sh
      - run: echo ${{ steps.stamp.outputs.stmap }} ${{ steps.other.outputs.second }}
"#],
    },
    // Patterns may wait for names to come.
    More {
        rule: "branch.fits-none",
        bad: &[],
        good: &[r"
== git
main default
develop
nightly tag
== pipeline
on:
  push:
    branches: ['release/*', 'hotfix-*']
    tags: ['v*']
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
"],
    },
    More {
        rule: "branch.never-matches",
        bad: &[
            r"
== pipeline
on:
  push:
    branches: ['«release/.+»']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
            r"
== pipeline
on:
  push:
    branches: ['«live.lock»']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        ],
        good: &[r"
== pipeline
on:
  push:
    branches: ['release/*.x', 'v1.*', 'a[.]b']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
"],
    },
    More {
        rule: "order.cut-short",
        bad: &[r"
== .github/workflows/a.yml
on: push
concurrency:
  group: ‹pages›
  cancel-in-progress: true
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on: push
concurrency: «pages»
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx surge public tarnsay.example
"],
        good: &[r"
== .github/workflows/a.yml
on: push
concurrency:
  group: test-${{ github.ref }}
  cancel-in-progress: true
jobs:
  test:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
== pipeline
on: push
concurrency: pages
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx surge public tarnsay.example
"],
    },
    // What a called pipeline does only when it is asked to.
    More {
        rule: "trigger.never-reached",
        bad: &[r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      where: {type: string, required: true}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    if: «inputs.where == 'production'»
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
== pipeline
‹on›: push
jobs:
  go:
    uses: ./.github/workflows/publish.yml
    with: {where: prod}
"],
        good: &[r"
== .github/workflows/publish.yml
on:
  workflow_call:
    inputs:
      audit: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  audit:
    if: inputs.audit
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
  publish:
    if: inputs.where == 'production'
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
== pipeline
on: push
jobs:
  go:
    uses: ./.github/workflows/publish.yml
    with: {audit: false}
"],
    },
    // A program that publishes takes things down as well.
    More {
        rule: "artifact.absent-folder",
        bad: &[],
        good: &[r"
== pipeline
on:
  pull_request: {types: [closed]}
jobs:
  down:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx surge teardown pr-${{ github.event.number }}.tarnsay.example
"],
    },
];
