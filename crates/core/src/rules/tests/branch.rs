//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "branch.absent",
        bad: &[
            r#"== git
main default
== gitlab
site:
  script: [make]
  rules:
    - if: $CI_COMMIT_BRANCH == «"master"»
"#,
            r"== git
main default
== jobs
  build:
    if: github.ref == «'refs/heads/master'»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
            r#"== git
trunk default
== pipeline
on:
  pull_request:
    branches:
      - '«main»'
jobs: {}
"#,
            r#"== git
main default
staging
== pipeline
on:
  push:
    branches: [main, «stagin»]
jobs: {}
"#,
        ],
        good: &[
            r"== git
main default
v1 tag
== jobs
  build:
    if: github.ref == 'refs/heads/main' || github.ref == 'refs/heads/master'
    runs-on: ubuntu-latest
    steps:
      - if: github.ref != 'refs/heads/other' && github.head_ref == 'mine' && github.ref_name == 'v1'
        run: ls
      - if: startsWith(github.ref, 'refs/heads/release/')
        run: ls
",
            r#"== git
main default
== pipeline
on:
  push:
    branches: [main, master]
jobs: {}
"#,
            // A pattern may fit branches that come and go.
            r#"== git
main default
== pipeline
on:
  push:
    branches: ['release/**']
jobs: {}
"#,
            r#"== git
main default
== pipeline
on:
  push:
    branches-ignore: [master]
    tags: [v1]
jobs: {}
"#,
        ],
    },
    More {
        rule: "branch.bare-compare",
        bad: &[
            r#"== steps
      - run: |
          if [[ "${{ github.ref }}" == «"main"» ]]; then echo live; fi
          test $REF != «'main'» && echo "not live"
        env: {REF: '${{ github.ref }}'}
"#,
            r#"== gitlab
site:
  script:
    - if [ "$CI_COMMIT_BRANCH" = «"refs/heads/main"» ]; then make live; fi
"#,
            r#"== steps
      - run: |
          [ «refs/tags/v1» = "$GITHUB_REF_NAME" ] || exit 1
"#,
            r#"== steps
      - if: github.ref_name == «'refs/heads/main'» && success()
        run: ls
"#,
            r#"== git
main default
v1 tag
== steps
      - if: ${{ github.ref != «'v1'» }}
        run: ls
"#,
            r#"== steps
      - if: startsWith(github.ref, «'release/'»)
        run: ls
"#,
            r#"== steps
      - run: echo ${{ github.head_ref == «'refs/heads/main'» }}
"#,
        ],
        good: &[
            r#"== steps
      - run: |
          [ "$GITHUB_REF" = refs/heads/main ] && echo live
          [ "${GITHUB_REF#refs/heads/}" = main ] && echo live
          [[ $GITHUB_REF == *main ]] && echo live
          [ -n "$GITHUB_REF" ] && [ "$REF" = main ] && [ "$NAME" = main ] && echo live
        env: {REF: '${{ github.ref_name }}', NAME: 'x-${{ github.ref }}'}
      - run: |
          GITHUB_REF=${GITHUB_REF##*/}
          [ "$GITHUB_REF" = main ] && echo live
      - shell: pwsh
        run: if ($env:GITHUB_REF -eq 'main') { echo live }
"#,
            r#"== steps
      - if: github.ref == format('refs/heads/{0}', github.event.repository.default_branch)
        run: ls
"#,
        ],
    },
    More {
        rule: "branch.cancelled",
        bad: &[
            r#"== pipeline
on:
  push:
    branches:
      - main
      - «release/1»
      - '‹!release/**›'
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    branches: ['«release/**»', '‹!release/**›']
jobs: {}
"#,
        ],
        good: &[],
    },
    More {
        rule: "branch.never-matches",
        bad: &[
            r#"== pipeline
on:
  push:
    branches:
      - «^main$»
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    branches: ['«main, staging»']
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    branches: ['«!pages»']
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    tags: ['«v\d+»']
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    branches: ['«.*»']
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    branches: ['«!pages»', '**']
jobs: {}
"#,
            r#"== pipeline
on:
  push:
    tags: ['«refs/tags/v*»']
jobs: {}
"#,
        ],
        good: &[r#"== pipeline
on:
  push:
    branches: ['a\*b', '*']
jobs: {}
"#],
    },
    More {
        rule: "branch.no-landing",
        bad: &[
            r#"== git
main default
== dulk.toml
[forge]
pages = ‹"branch:gh-pages"›
== steps
      - uses: «actions/deploy-pages@v4»
"#,
            r#"== git
main default
== dulk.toml
[forge]
pages = ‹"pipeline"›
== steps
      - uses: «peaceiris/actions-gh-pages@v4»
        with: {github_token: '${{ secrets.GITHUB_TOKEN }}'}
"#,
            r#"== git
main default
gh-pages
== steps
      - uses: actions/checkout@v4
        with:
          ref: «gh-page»
          path: public
"#,
        ],
        good: &[r#"== git
main default
== dulk.toml
[forge]
pages = "branch:gh-pages"
== steps
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: x, external_repository: ferry/site, publish_branch: main}
"#],
    },
    More {
        rule: "branch.wrong-case",
        bad: &[r#"== git
main default
Staging
== pipeline
on:
  pull_request:
    branches: [main, «staging»]
jobs: {}
"#],
        good: &[],
    },
];
