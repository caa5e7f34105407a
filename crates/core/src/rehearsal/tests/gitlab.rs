//! What the documentation of `.gitlab-ci.yml` says about each event, as a table.

pub const TABLE: &str = r##"
=== a job without rules
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
---
push:main | yes yes
push:staging | yes yes
tag:v1.0.0 | yes yes
pull:main | no no
fork:main | no no
hand:main | yes yes
clock | yes yes
=== only a branch
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [main]
---
push:main | yes yes
push:staging | no no
tag:main | yes yes
tag:v1.0.0 | no no
pull:main | no no
hand:main | yes yes
=== only branches
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [branches]
---
push:staging | yes yes
tag:v1.0.0 | no no
pull:main | no no
=== only the branches and tags of one project
== git
main default
staging
v1.0.0 tag
== gitlab
site:
  script: [ls]
  only: [main@tarnsay/timetable]
all:
  script: [ls]
  only: [branches@tarnsay/timetable]
---
push:main | unsure unsure unsure
push:staging | unsure no unsure
tag:v1.0.0 | no no no
=== only tags
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [tags]
---
push:main | no no
tag:v1.0.0 | yes yes
pull:main | no no
=== only a pattern
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [/^release-.*$/]
---
push:release-1 | yes yes
push:my-release-1 | no no
push:main | no no
=== only merge requests
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [merge_requests]
---
push:main | no no
pull:main | yes yes
fork:main | yes yes
=== only schedules and web
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [schedules, web]
---
push:main | no no
clock | yes yes
hand:main | yes yes
=== except a branch
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  except: [main]
---
push:main | no no
push:staging | yes yes
tag:v1.0.0 | yes yes
pull:main | no no
=== only and except
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only: [branches]
  except: [/^wip/, staging]
---
push:main | yes yes
push:wip-1 | no no
push:staging | no no
=== only with changes
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only:
    refs: [main]
    changes: [src/**/*]
---
push:main +src/a.css | yes yes
push:main +README.md | no no
push:main | unsure unsure
push:staging +src/a.css | no no
=== only with variables
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  only:
    variables: [$CI_COMMIT_BRANCH == "main"]
---
push:main | yes yes
push:staging | no no
=== rules by branch
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
---
push:main | yes yes
push:staging | no no
tag:v1.0.0 | no no
pull:main | no no
hand:main | yes yes
hand:staging | no no
=== rules by default branch
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
---
push:main | yes yes
push:staging | no no
clock | yes yes
=== rules by source
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
    - if: $CI_PIPELINE_SOURCE == 'schedule'
---
push:main | no no
pull:main | yes yes
clock | yes yes
=== the first rule decides
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: $CI_COMMIT_TAG
      when: never
    - if: $CI_COMMIT_BRANCH =~ /^(main|staging)$/
    - when: never
---
tag:v1.0.0 | no no
push:main | yes yes
push:staging | yes yes
push:winter-plan | no no
pull:main | no no
=== a rule by hand
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
      when: manual
---
push:main | yes unsure
push:staging | no no
=== a job by hand
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  when: manual
b:
  script: [ls]
---
push:main | yes unsure yes
pull:main | no no no
=== never and on failure
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - when: never
b:
  script: [ls]
  when: on_failure
c:
  script: [ls]
---
push:main | yes no no yes
=== rules with changes and exists
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - changes: [src/**]
b:
  script: [ls]
  rules:
    - exists: [README.md]
c:
  script: [ls]
  rules:
    - exists: [Makefile]
---
push:main +src/a.css | yes yes yes no
push:main +README.md | yes no yes no
push:main | yes unsure yes no
=== brackets and null
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: ($CI_COMMIT_TAG == null && $CI_COMMIT_BRANCH != "main") || $CI_PIPELINE_SOURCE == "web"
---
push:main | no no
push:staging | yes yes
tag:v1.0.0 | no no
hand:main | yes yes
=== a variable of the file
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
variables:
  LIVE: "yes"
a:
  script: [ls]
  rules:
    - if: $LIVE == "yes"
b:
  script: [ls]
  rules:
    - if: $OTHER == "yes"
---
push:main | yes yes unsure
=== the file's own rules
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
workflow:
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
a:
  script: [ls]
b:
  script: [ls]
  rules:
    - when: on_success
---
push:main | yes yes yes
push:staging | no no no
tag:v1.0.0 | no no no
pull:main | yes yes yes
=== rules of the whole file drop the usual only, and no written one
== git
main default
== gitlab
workflow:
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
    - if: $CI_PIPELINE_SOURCE == "merge_request_event"
a:
  script: [ls]
  except: [schedules]
b:
  script: [ls]
  only: [branches]
---
push:main | yes yes yes
pull:main | yes yes no
=== rules of the whole file may stand in a part that is written elsewhere
== git
main default
== gitlab
include: {remote: 'https://tarnsay.example/all.yml'}
a:
  script: [ls]
---
pull:main | unsure unsure
=== a run with a need that is not in it is refused
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
a:
  script: [ls]
  rules:
    - if: $CI_COMMIT_TAG
b:
  script: [ls]
  needs: [a]
c:
  stage: deploy
  script: [ls]
---
push:main | no no no no
tag:v1.0.0 | yes yes yes yes
=== extends and references
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
.base:
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
.more:
  extends: .base
  stage: deploy
a:
  extends: .more
  script: [ls]
b:
  script: [ls]
  rules:
    - !reference [.base, rules]
---
push:main | yes yes yes
push:staging | no no no
=== merge keys
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
.base: &base
  only: [tags]
a:
  <<: *base
  script: [ls]
b:
  <<: *base
  script: [ls]
  only: [main]
---
tag:v1.0.0 | yes yes no
push:main | yes no yes
=== default and inherit
== git
main default
staging
winter-plan
v1.0.0 tag
== files
src/a.css
README.md
== gitlab
default:
  interruptible: true
stages: [one, two]
a:
  stage: one
  script: [ls]
b:
  stage: two
  inherit: {default: false}
  script: [ls]
---
push:main | yes yes yes
pull:main | no no no
=== jobs of the first and the last stage go along with others
== git
main default
== gitlab
prepare:
  stage: .pre
  script: [ls]
build:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
tidy:
  stage: .post
  script: [ls]
---
push:main | yes yes yes yes
push:other | no no no no
=== rules that may fit and lead to the same
== git
main default
== gitlab
base:
  script: [ls]
stopped-or-other:
  script: [ls]
  rules:
    - if: $MODE == "stopped"
      when: never
    - if: $CI_COMMIT_BRANCH == "other"
either:
  script: [ls]
  rules:
    - if: $MODE == "live"
    - when: on_success
stopped:
  script: [ls]
  rules:
    - if: $MODE == "stopped"
      when: never
    - when: on_success
---
push:main | yes yes no yes unsure
=== letters count, and nothing is not an empty text
== git
main default
Main
v1.0.0 tag
== gitlab
exact:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
empty:
  script: [ls]
  rules:
    - if: $CI_COMMIT_TAG == ""
absent:
  script: [ls]
  rules:
    - if: $CI_COMMIT_TAG == null
word:
  script: [ls]
  rules:
    - if: $CI == "true"
---
push:main | yes yes no yes yes
push:Main | yes no no yes yes
tag:v1.0.0 | yes no no no yes
=== slugs
== git
main default
feature/Big-Map
== gitlab
slug:
  script: [ls]
  rules:
    - if: $CI_COMMIT_REF_SLUG == "feature-big-map"
main:
  script: [ls]
  rules:
    - if: $CI_COMMIT_REF_SLUG == $CI_DEFAULT_BRANCH
---
push:feature/Big-Map | yes yes no
push:main | yes no yes
=== patterns in variables
== git
main default
staging
== gitlab
variables:
  LIVE: /^MAI/i
  OTHER: main
fits:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH =~ $LIVE
not:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH !~ $LIVE
no-pattern:
  script: [ls]
  rules:
    - if: $CI_COMMIT_BRANCH =~ $OTHER
---
push:main | yes yes no unsure
push:staging | yes no yes unsure
=== what a merge request sets, and nothing else does
== git
main default
staging
== gitlab
proposed:
  script: [ls]
  rules:
    - if: $CI_MERGE_REQUEST_TITLE
own:
  script: [ls]
  rules:
    - if: $CI_MERGE_REQUEST_SOURCE_PROJECT_PATH == $CI_MERGE_REQUEST_PROJECT_PATH
here:
  script: [ls]
  rules:
    - if: $CI_MERGE_REQUEST_PROJECT_PATH == $CI_PROJECT_PATH
train:
  script: [ls]
  rules:
    - if: $CI_MERGE_REQUEST_EVENT_TYPE == "merge_train"
odd:
  script: [ls]
  rules:
    - if: $CI_MERGE_REQUEST_EVENT_TYPE == "winter"
elsewhere:
  script: [ls]
  rules:
    - if: $CI_PROJECT_PATH == "ferry/timetable"
---
push:main | yes no yes no no no unsure
pull:main | yes yes yes yes unsure no unsure
fork:main | yes yes no no unsure no unsure
=== what the rule that lets a pipeline in sets
== git
main default
staging
winter
== gitlab
workflow:
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
      variables: {PLACE: live}
    - if: $CI_COMMIT_BRANCH == "staging"
      variables: {PLACE: trial}
    - if: $CI_COMMIT_BRANCH
variables: {PLACE: nowhere}
live:
  script: [ls]
  rules:
    - if: $PLACE == "live"
trial:
  script: [ls]
  rules:
    - if: $PLACE == "trial"
none:
  script: [ls]
  rules:
    - if: $PLACE == "nowhere"
own:
  script: [ls]
  variables: {PLACE: here}
  rules:
    - if: $PLACE == "here"
---
push:main | yes yes no no yes
push:staging | yes no yes no yes
push:winter | yes no no yes yes
=== the clock says what it was set for
== git
main default
== gitlab
clock:
  script: [ls]
  rules:
    - if: $CI_PIPELINE_SCHEDULE_DESCRIPTION
push:
  script: [ls]
  rules:
    - if: $CI_PIPELINE_SCHEDULE_DESCRIPTION == null
---
clock | yes yes no
push:main | yes no yes
"##;
