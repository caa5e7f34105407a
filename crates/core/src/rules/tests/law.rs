//! Near neighbours of the two formats' law: what each place takes, and what it does not.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "form.wrong-shape",
        bad: &[
            "== pipeline\non:\n  «schedule»:\n    cron: 0 4 * * *\njobs:\n  a:\n    runs-on: x\n    steps:\n      - run: make\n",
            "== gitlab\na:\n  script:\n    - make\n  retry: «often»\n",
            "== gitlab\na:\n  script:\n    - make\n  timeout: «fast»\n",
            "== gitlab\na:\n  script:\n    - make\n  coverage: «80%»\n",
            "== gitlab\na:\n  script:\n    - make\n  artifacts: «public»\n",
            "== gitlab\na:\n  script:\n    - make\n  interruptible: «maybe»\n",
            "== gitlab\na:\n  script:\n    - make\n  rules:\n    - if: $A\n      when: «sometimes»\n",
            "== gitlab\nworkflow:\n  rules:\n    - if: $A\n      when: «manual»\na:\n  script:\n    - make\n",
            "== gitlab\n.base:\n  cache:\n    policy: «pull_push»\n    paths: [a]\na:\n  extends: .base\n  script:\n    - make\n",
            "== jobs\n  a:\n    runs-on: x\n    strategy:\n      matrix:\n        node: «24»\n    steps:\n      - run: make\n",
            "== pipeline\non:\n  workflow_dispatch:\n    inputs:\n      dry:\n        type: boolean\n        default: «no»\njobs:\n  a:\n    runs-on: \
             x\n    steps:\n      - run: make ${{ inputs.dry }}\n",
        ],
        good: &[
            "== gitlab\na:\n  script:\n    - make\n  retry:\n    max: 2\n    when: [runner_system_failure]\n  timeout: 1h 30 minutes\n  coverage: \
             /of (\\d+)%/\n  interruptible: yes\n  allow_failure:\n    exit_codes: [1, 2]\n  parallel: 5\n",
            "== gitlab\na:\n  script:\n    - make\n  artifacts:\n    paths: [a]\n    expire_in: never\n    when: $WHEN\n  environment:\n    name: a\n    \
             auto_stop_in: 2 wks 3 days\n",
            "== gitlab\n.rules: &rules\n  - if: $A\n    when: delayed\n    start_in: 5 minutes\n.base:\n  anything: [1]\na:\n  script:\n    - make\n  rules:\n    \
             - *rules\n    - !reference [.more, rules]\n.more:\n  rules:\n    - when: never\n",
            "== gitlab\ncache:\n  - key:\n      files: [a.lock]\n    paths: [a]\na:\n  script:\n    - make\n  needs: []\n  only: [main]\n  cache: []\n",
            "== jobs\n  a:\n    runs-on: x\n    strategy:\n      matrix:\n        node: [24, 22]\n        include: ${{ fromJSON(vars.MORE) }}\n    steps:\n      \
             - run: make\n",
        ],
    },
    More {
        rule: "form.missing-key",
        bad: &[
            "== gitlab\n«a»:\n  script:\n    - make\n  when: delayed\n",
            "== gitlab\na:\n  script:\n    - make\n  rules:\n    - «if»: $A\n      start_in: 5 minutes\n",
            "== gitlab\ninclude:\n  - «file»: /a.yml\na:\n  script:\n    - make\n",
            "== gitlab\na:\n  script:\n    - make\n  id_tokens:\n    «ID»:\n      sub: x\n",
        ],
        good: &[
            "== gitlab\n.base:\n  start_in: 5 minutes\n  environment:\n    name: live\na:\n  extends: .base\n  when: delayed\n  script:\n    - make\n  \
             environment:\n    url: https://tarnsay.example\n",
            "== gitlab\ninclude:\n  - project: pier/parts\n    file: /a.yml\na:\n  stage: build\n",
        ],
    },
    More {
        rule: "form.unknown-key",
        bad: &[
            "== gitlab\na:\n  script:\n    - make\n  rules:\n    - if: $A\n      «change»: [a]\n",
            "== gitlab\na:\n  script:\n    - make\n  artifacts:\n    «path»: [a]\n",
            "== gitlab\n.base:\n  «beforescript»:\n    - make\na:\n  extends: .base\n  script:\n    - make\n",
        ],
        good: &["== gitlab\n.base:\n  whatever:\n    - make\na:\n  script:\n    - make\n.other: [1, 2]\n"],
    },
    More {
        rule: "form.exclusive-keys",
        bad: &["== jobs\n  a:\n    runs-on: x\n    ‹steps›:\n    - uses: actions/checkout@v5\n    «with»:\n      path: a\n"],
        good: &[],
    },
    More {
        rule: "form.unknown-name",
        bad: &[
            "== jobs\n  a:\n    runs-on: x\n    strategy:\n      matrix:\n        ‹node›: [22, 24]\n        exclude:\n          - «nodes»: 22\n    steps:\n      - \
             run: make\n",
            "== pipeline\non: push\njobs:\n  a:\n    runs-on: x\n    steps:\n      - run: make ${{ inputs.«mode» }}\n",
            "== gitlab\na:\n  script:\n    - echo $«CI_COMMIT_SHORT_SHAA»\n",
        ],
        good: &[
            "== gitlab\nvariables:\n  CI_COMMIT_BRACH: main\na:\n  script:\n    - CI_BRANCH=$(git branch)\n    - echo $CI_COMMIT_BRACH $CI_BRANCH \
             $CI_OWN_THING $CI_COMMIT_BRANCH\n",
            "== dulk.toml\n[forge]\nvariables = [\"CI_BRANCH\"]\n== gitlab\na:\n  script:\n    - echo $CI_BRANCH\n",
        ],
    },
    More {
        rule: "form.expression",
        bad: &[
            "== gitlab\na:\n  script:\n    - make\n  rules:\n    - if: «${CI_COMMIT_BRANCH}» == \"main\"\n",
            "== gitlab\na:\n  script:\n    - make\n  rules:\n    - if: $CI_COMMIT_BRANCH =~ «/^(main/»\n",
        ],
        good: &[
            "== gitlab\na:\n  script:\n    - make\n  rules:\n    - if: $CI_COMMIT_BRANCH =~ /^(main|live)\\/[a-z]+$/i && $A\n",
        ],
    },
    More {
        rule: "form.misplaced",
        bad: &[
            "== files\nweb/package.json\nweb/.github/workflows/site.yml\n== web/.github/workflows/site.yml\n«»on: push\njobs:\n  a:\n    runs-on: \
             x\n    steps:\n      - run: make\n",
            "== .github/workflows/site.yml.txt\n«»on: push\njobs:\n  a:\n    runs-on: x\n    steps:\n      - run: make\n",
        ],
        good: &[
            "== files\n.github/workflows/site.yml\nweb/.github/workflows/site.yml\n== web/.github/workflows/site.yml\non: push\njobs:\n  a:\n    \
             runs-on: x\n    steps:\n      - run: make\n",
            "== files\nexamples/a/.github/workflows/site.yml\n== examples/a/.github/workflows/site.yml\non: push\njobs:\n  a:\n    runs-on: x\n    \
             steps:\n      - run: make\n",
        ],
    },
    More {
        rule: "trigger.callee-mismatch",
        bad: &[
            "== .github/workflows/publish.yml\non:\n  workflow_call:\n    inputs:\n      ‹dry›: {type: boolean}\njobs:\n  a:\n    runs-on: x\n    \
                steps:\n      - run: make\n== pipeline\non:\n  workflow_dispatch:\n    inputs:\n      dry: {type: boolean}\njobs:\n  a:\n    uses: \
                ./.github/workflows/publish.yml\n    with:\n      dry: «${{ github.event.inputs.dry }}»\n",
        ],
        good: &[
            "== .github/workflows/publish.yml\non:\n  workflow_call:\n    inputs:\n      dry: {type: boolean}\n      days: {type: number}\njobs:\n  \
                 a:\n    runs-on: x\n    steps:\n      - run: make\n== pipeline\non:\n  workflow_dispatch:\n    inputs:\n      dry: {type: \
                 boolean}\njobs:\n  a:\n    uses: ./.github/workflows/publish.yml\n    with:\n      dry: ${{ inputs.dry }}\n      days: '7'\n",
        ],
    },
    More {
        rule: "permission.bad-level",
        bad: &["== pipeline\non: push\npermissions: «readonly»\njobs:\n  a:\n    runs-on: x\n    steps:\n      - run: make\n"],
        good: &[
            "== pipeline\non: push\npermissions: {}\njobs:\n  a:\n    runs-on: x\n    permissions: read-all\n    steps:\n      - run: make\n",
        ],
    },
];
