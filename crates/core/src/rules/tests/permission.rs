//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "permission.no-identity",
        bad: &[r#"== gitlab
live:
  script:
    - aws sts assume-role-with-web-identity --web-identity-token "«${CI_JOB_JWT}»"
"#],
        good: &[
            r#"== gitlab
live:
  id_tokens:
    CI_JOB_JWT_V2: {aud: https://tarnsay.example}
  script:
    - aws sts assume-role-with-web-identity --web-identity-token ${CI_JOB_JWT_V2}
"#,
            r#"== gitlab
live:
  script:
    - echo $CI_JOB_JWT_NOTES
"#,
        ],
    },
    More {
        rule: "permission.bad-level",
        bad: &[
            r#"== pipeline
on: push
permissions:
  id-token: «read»
jobs: {}
"#,
            r#"== pipeline
on: push
permissions:
  models: «write»
jobs: {}
"#,
            r#"== pipeline
on: push
permissions: «read»
jobs: {}
"#,
        ],
        good: &[r#"== pipeline
on: push
permissions:
jobs: {}
"#],
    },
    More {
        rule: "permission.borrowed-token",
        bad: &[r#"== steps
      - uses: peaceiris/actions-gh-pages@v4
        with: {personal_token: '«${{ secrets.MY_TOKEN }}»'}
"#],
        good: &[r#"== steps
      - uses: actions/checkout@v5
        with: {token: '${{ secrets.MY_TOKEN }}'}
"#],
    },
    More {
        rule: "permission.callee-needs-more",
        bad: &[r#"== .github/workflows/publish.yml
on: workflow_call
‹permissions›: {contents: write}
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
== pipeline
on: push
jobs:
  a:
    permissions: {contents: read}
    uses: «./.github/workflows/publish.yml»
"#],
        good: &[],
    },
    More {
        rule: "permission.kept-credential",
        bad: &[r#"== steps
      - uses: ‹actions/checkout@v5›
      - run: aws s3 sync «.» s3://ferry
"#],
        good: &[
            r#"== steps
      - uses: actions/checkout@v5
        with: {path: source}
      - run: aws s3 sync . s3://ferry --exclude '*'
"#,
            r#"== steps
      - uses: actions/checkout@v5
      - uses: SamKirkland/FTP-Deploy-Action@v4
        with: {server: s, username: u, password: p}
"#,
            r#"== steps
      - uses: actions/checkout@v5
      - run: rm -rf .git
      - run: rsync -a . pier@tarnsay.example:/www
"#,
        ],
    },
    More {
        rule: "permission.strangers",
        bad: &[r#"== git
main default
== pipeline
on: ‹pull_request_target›
jobs:
  a:
    «permissions»: {contents: write}
    runs-on: x
    steps: [{uses: ferry/label@v1}]
"#],
        good: &[r#"== git
main default
== pipeline
on:
  pull_request_target:
    types: [closed]
permissions: {contents: write}
jobs:
  a:
    if: github.event.pull_request.merged == true
    runs-on: x
    steps: [{run: ls}]
"#],
    },
    More {
        rule: "permission.too-narrow",
        bad: &[
            r#"== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    permissions: {contents: ‹read›}
    steps:
      - uses: actions/checkout@v4
      - uses: «peaceiris/actions-gh-pages@v4»
        with: {github_token: '${{ secrets.GITHUB_TOKEN }}', publish_dir: dist}
"#,
            r#"== pipeline
on: push
‹permissions›: {}
jobs:
  publish:
    runs-on: ubuntu-latest
    permissions: {contents: write}
    steps:
      - uses: actions/checkout@v4
      - run: git push
  look:
    runs-on: ubuntu-latest
    steps:
      - uses: «actions/checkout@v4»
"#,
            // The same is lacking from the same block: one fault, and one mend for all.
            r#"== pipeline
on: push
permissions: {contents: ‹read›}
jobs:
  stamp:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: «git push origin HEAD:stamps»
      - run: ‹git push origin HEAD:more-stamps›
  log:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: ‹git push origin HEAD:log›
"#,
            r#"== dulk.toml
[forge]
token = ‹"read"›
== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: «git push origin HEAD:pages»
"#,
        ],
        good: &[
            // Another credential than the job's own token does the work.
            r#"== pipeline
on: push
permissions:
  contents: read
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - uses: peaceiris/actions-gh-pages@v4
        with: {deploy_key: '${{ secrets.DEPLOY_KEY }}', publish_dir: dist}
"#,
            // Without a block it depends on the repository's setting, which nobody declared.
            r#"== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: git push
"#,
        ],
    },
    More {
        rule: "permission.too-wide",
        bad: &[
            r#"== pipeline
on: push
jobs:
  a:
    runs-on: x
    «permissions»: write-all
    steps:
      - uses: ‹actions/checkout@v5›
"#,
            r#"== pipeline
on: push
jobs:
  a:
    runs-on: x
    «permissions»: {contents: read, pages: write, id-token: write}
    steps:
      - uses: ‹actions/checkout@v5›
      - uses: actions/upload-pages-artifact@v4
"#,
        ],
        good: &[
            r#"== pipeline
on: push
permissions: {contents: write}
jobs:
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v5
      - run: git push
"#,
            r#"== pipeline
on: push
permissions: {contents: write}
jobs:
  a:
    uses: ferry/tools/.github/workflows/x.yml@v1
"#,
            r#"== pipeline
on: push
permissions: {pull-requests: write}
jobs:
  a:
    runs-on: x
    steps:
      - run: echo hi
        env: {GH_TOKEN: '${{ github.token }}'}
"#,
        ],
    },
    More {
        rule: "permission.unknown-scope",
        bad: &[
            r#"== jobs
  a:
    permissions: {«id_token»: write}
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== jobs
  a:
    permissions: {pages: write, «page»: write}
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
        good: &[],
    },
    More {
        rule: "permission.unstated",
        bad: &[],
        good: &[
            r#"== pipeline
on: push
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
            r#"== dulk.toml
[forge]
token = "write"
== pipeline
on: workflow_call
jobs:
  a:
    runs-on: x
    steps: [{run: ls}]
"#,
        ],
    },
];
