//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "form.wrong-shape",
        bad: &[r#"== jobs
  build:
    if: «!cancelled()»
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"#],
        // What a reference stands for is not seen in its form.
        good: &[r#"== gitlab
include: {template: X.yml}
default:
  image: !reference [.builder, image]
build:
  needs: !reference [.builder, needs]
  script: [npm ci]
"#],
    },
    More {
        rule: "form.absent-parent",
        bad: &[],
        good: &[r#"== gitlab
include: {template: X.yml}
live:
  extends: .from-there
"#],
    },
    More {
        rule: "form.bad-name",
        bad: &[
            r#"== steps
      - id: «2nd»
        run: npm ci
"#,
            r#"== steps
      - id: ‹build›
        run: npm run build
      - id: «build»
        run: npm run docs
"#,
        ],
        good: &[],
    },
    More {
        rule: "form.bare-acceptance",
        bad: &[r#"== pipeline
«# dulk: accept branch.absent because»
on: push
jobs: {}
"#],
        good: &[],
    },
    More {
        rule: "form.empty",
        bad: &[
            r#"== pipeline
«»"#,
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    «steps»:
"#,
            r#"== steps
      - «run»:
      - run: npm ci
"#,
            r#"== pipeline
on: push
«jobs»: {}
"#,
            r#"== pipeline
on:
  push:
    branches: [main]
    «tags»:
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm ci
"#,
        ],
        good: &[],
    },
    More {
        rule: "form.exclusive-keys",
        bad: &[
            r#"== jobs
  publish:
    ‹uses›: ./.github/workflows/publish.yml
    «runs-on»: ubuntu-latest
"#,
            r#"== steps
      - ‹run›: npm ci
        «with»: {node-version: 22}
"#,
        ],
        good: &[],
    },
    More {
        rule: "form.expression",
        bad: &[
            r#"== steps
      - run: npm ci
        if: github.ref == 'refs/heads/main' «&» success()
"#,
            r#"== steps
      - run: |
          echo first
          echo «${{» github.ref
"#,
            r#"== steps
      - run: echo ${{ «'never closed »}}
"#,
        ],
        good: &[],
    },
    More {
        rule: "form.fixed-condition",
        bad: &[r#"== steps
      - run: npm run publish
        if: «${{ github.ref == 'refs/heads/main' }} && ${{ github.event_name == 'push' }}»
"#],
        good: &[],
    },
    More {
        rule: "form.idle-acceptance",
        bad: &[r#"== git
main default
== pipeline
on:
  push:
    branches: [main] «# dulk: accept branch.absnt because the boat is slow»
jobs: {}
"#],
        good: &[],
    },
    More {
        rule: "form.misplaced",
        bad: &[r#"== .github/deploy.yml
«»on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"#],
        good: &[],
    },
    More {
        rule: "form.missing-key",
        bad: &[r#"== pipeline
«name»: Timetable
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - «name»: install
"#],
        good: &[],
    },
    More {
        rule: "form.number-trap",
        bad: &[r#"== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix:
        node: [18.12, «20.10»]
    steps:
      - run: npm ci
"#],
        good: &[],
    },
    More {
        rule: "form.out-of-place",
        bad: &[
            r#"== pipeline
on: push
env:
  A: 1
  B: ${{ «env».A }}
jobs:
  build:
    runs-on: ubuntu-latest
    name: on ${{ «runner».os }}
    steps:
      - run: npm ci
"#,
            r#"== jobs
  build:
    runs-on: ${{ «hashFiles»('x') }}
    steps:
      - run: echo ${{ «success»() }}
"#,
        ],
        good: &[],
    },
    More {
        rule: "form.quotes",
        bad: &[r#"== steps
      - run: echo «${{ github.ref_name == "main" && "live" || "test" }}» >place
"#],
        good: &[],
    },
    More {
        rule: "form.repeated-key",
        bad: &[r#"== steps
      - ‹run›: npm ci
        «run»: npm run build
"#],
        good: &[],
    },
    More {
        rule: "form.unknown-key",
        bad: &[r#"== pipeline
on:
  push:
    «branch»: [main]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - «script»: npm ci
"#],
        good: &[],
    },
    More {
        rule: "form.unknown-name",
        bad: &[
            r#"== steps
      - run: echo ${{ github.«refname» }}
        if: «startWith»(github.ref, 'refs/tags/')
"#,
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix: {‹node›: [20, 22]}
    steps:
      - uses: actions/setup-node@v4
        with: {node-version: '${{ matrix.«nodes» }}'}
"#,
            r#"== steps
      - id: ‹build›
        run: npm run build
      - run: echo ${{ steps.«biuld».outputs.page }}
"#,
            r#"== pipeline
on:
  release:
    types: [«publish»]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"#,
            r#"== pipeline
on:
  workflow_dispatch:
    inputs:
      ‹place›: {type: string}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ${{ inputs.«target» }}
"#,
            // A map is filled in before any of it is set, and a step's variables are its own.
            r#"== steps
      - uses: actions/checkout@v5
      - run: npm run build -- --base "$URL"
        env:
          ‹BASE›: /timetable
          URL: https://tarnsay.example${{ env.«BASE» }}
      - run: npx gh-pages -d dist --dest ${{ env.«BASE» }}
"#,
        ],
        // Whoever asks whether there is anything knows that there may be nothing.
        good: &[
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    env: {BASE: /timetable}
    steps:
      - run: npm run build -- --base ${{ env.BASE }} --mode ${{ env.MODE }}
        env: {URL: '${{ env.BASE }}', BASE: '${{ env.BASE }}/winter', MODE: live}
      - run: echo "PLACE=quay" >> "$GITHUB_ENV"
      - run: echo "$A ${{ env.PLACE }}"
        env: {A: '${{ env.PLACE }}', PLACE: '${{ env.PLACE }}-2'}
"#,
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix: {node: [20, 22]}
    steps:
      - run: |
          if [ -n "${{ matrix.flags }}" ]; then npm run build -- ${{ matrix.flags }}; fi
      - run: test "${{ matrix.target }}" = "" || npm run build -- --target ${{ matrix.target }}
"#,
        ],
    },
    More {
        rule: "form.unreadable",
        bad: &[r#"== pipeline
on: push
name: «"»Timetable
jobs: {}
"#],
        good: &[],
    },
    More {
        rule: "form.wrong-shape",
        bad: &[
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    timeout-minutes: «ten»
    steps:
      - run: npm ci
"#,
            r#"== jobs
  build:
    runs-on: ubuntu-latest
    needs: «{test: true}»
    steps:
      - run: npm ci
"#,
            r#"== pipeline
on:
  push: «main»
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"#,
            r#"== pipeline
on:
  workflow_dispatch:
    inputs:
      place: {type: «strng»}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: npm ci
"#,
        ],
        good: &[],
    },
    More {
        rule: "form.wrong-type",
        bad: &[
            r#"== steps
      - id: look
        run: ./look
      - run: npm ci
        if: «steps.look.outputs.changed == true»
"#,
            r#"== steps
      - run: echo ${{ «contains»(github.ref) }} "${{ «github» }} here"
"#,
        ],
        good: &[],
    },
];
