//! What the documentation of workflow files says about each event, as a table.

pub const TABLE: &str = r#"
=== on as a word
== git
main default
staging
winter-plan
== pipeline
on: push
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:anything/at/all | yes yes
tag:v1 | yes yes
pull:main | no no
fork:main | no no
hand:main | no no
clock | no no
release | no no
=== on as a list
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
pull:main | yes yes
fork:staging | yes yes
hand:main | no no
=== branches
== git
main default
staging
winter-plan
== pipeline
on:
  push:
    branches: [main, 'release/**', '!release/old']
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:release/1 | yes yes
push:release/1/2 | yes yes
push:release/old | no no
push:mainland | no no
push:MAIN | no no
tag:v1 | no no
tag:main | no no
=== branches as one word
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: main}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:staging | no no
=== star stays in a part
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: ['feature/*']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:feature/a | yes yes
push:feature/a/b | no no
push:feature | no no
=== branches-ignore
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches-ignore: [main, 'tmp/**']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | no no
push:staging | yes yes
push:tmp/x | no no
tag:v1 | no no
=== tags only
== git
main default
staging
winter-plan
== pipeline
on: {push: {tags: ['v*', '!v*-beta']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
tag:v1 | yes yes
tag:v1-beta | no no
tag:1 | no no
push:main | no no
push:v1 | no no
=== tags-ignore
== git
main default
staging
winter-plan
== pipeline
on: {push: {tags-ignore: ['v0*']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
tag:v1 | yes yes
tag:v0.1 | no no
push:main | no no
=== branches and tags
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: [main], tags: ['v*']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:staging | no no
tag:v1 | yes yes
tag:x | no no
=== negation first takes nothing in
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: ['!main', '**']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:staging | yes yes
=== negation alone
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: ['!main']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | no no
push:staging | no no
=== a later pattern takes back
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: [main, '!main']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | no no
push:staging | no no
=== sets and repeats
== git
main default
staging
winter-plan
== pipeline
on: {push: {tags: ['v[12].[0-9]+']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
tag:v1.10 | yes yes
tag:v2.0 | yes yes
tag:v3.0 | no no
tag:v1. | no no
=== optional character
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: ['mains?']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:mains | yes yes
push:mainss | no no
=== paths
== git
main default
staging
winter-plan
== pipeline
on: {push: {paths: ['src/**', '!src/**.md']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main +src/app.css | yes yes
push:main +docs/a.md | no no
push:main +src/a.md | no no
push:main +src/a.md +src/b.js | yes yes
push:main | unsure unsure
tag:v1 +docs/a.md | yes yes
=== paths-ignore
== git
main default
staging
winter-plan
== pipeline
on: {push: {branches: [main], paths-ignore: ['docs/**', '**.md']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main +docs/a.html | no no
push:main +README.md +docs/x | no no
push:main +README.md +src/x | yes yes
push:main | unsure unsure
push:staging +src/x | no no
=== paths one level
== git
main default
staging
winter-plan
== pipeline
on: {push: {paths: ['*.json']}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main +package.json | yes yes
push:main +app/package.json | no no
=== pull request branches are the base
== git
main default
staging
winter-plan
== pipeline
on: {pull_request: {branches: [main]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes
pull:staging | no no
fork:main | yes yes
push:main | no no
=== pull request types
== git
main default
staging
winter-plan
== pipeline
on: {pull_request: {types: [closed]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
pull:main | no no
fork:main | no no
=== pull request types with the usual
== git
main default
staging
winter-plan
== pipeline
on: {pull_request: {types: [opened, labeled]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes
=== pull request paths
== git
main default
staging
winter-plan
== pipeline
on: {pull_request: {paths: [src/**]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
pull:main +src/x | yes yes
pull:main +x | no no
pull:main | unsure unsure
=== privileged pull request
== git
main default
staging
winter-plan
== pipeline
on: pull_request_target
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes
fork:main | yes yes
push:main | no no
=== by hand
== git
main default
staging
winter-plan
== pipeline
on: workflow_dispatch
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
hand:main | yes yes
hand:staging | yes yes
push:main | no no
=== clock
== git
main default
staging
winter-plan
== pipeline
on: {schedule: [{cron: '0 4 * * *'}]}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
clock | yes yes
push:main | no no
=== release
== git
main default
staging
winter-plan
== pipeline
on: {release: {types: [published]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
release | yes yes
tag:v1 | no no
=== release deleted
== git
main default
staging
winter-plan
== pipeline
on: {release: {types: [deleted]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
release | no no
=== nothing but calls
== git
main default
staging
winter-plan
== pipeline
on: workflow_call
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
---
push:main | no no
hand:main | no no
=== condition on the branch
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request, workflow_dispatch]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.ref == 'refs/heads/main'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes no
tag:main | yes yes no
hand:main | yes yes yes
hand:staging | yes yes no
=== condition on the name
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
tag:main | yes yes yes
push:Main | yes yes yes
=== condition on the event
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request, workflow_dispatch]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.event_name == 'push'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
pull:main | yes yes no
fork:main | yes yes no
hand:main | yes yes no
=== condition with braces
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: ${{ github.event_name != 'pull_request' }}
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
pull:main | yes yes no
=== text round the braces is always true
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: ${{ github.ref }} == 'refs/heads/main'
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes yes yes
=== startsWith
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: startsWith(github.ref, 'refs/tags/v')
    runs-on: x
    steps: [{run: ls}]
---
tag:v1 | yes yes yes
push:main | yes yes no
=== contains
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: contains(github.ref, 'deploy')
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
push:a-deploy | yes yes yes
=== and, or, not
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.event_name == 'push' && (github.ref == 'refs/heads/main' || github.ref_name == 'staging')
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes yes
push:x | yes yes no
pull:main | yes yes no
=== fork or not
== git
main default
staging
winter-plan
== pipeline
on: [pull_request]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.event.pull_request.head.repo.fork == false
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes yes
fork:main | yes yes no
=== default branch by name
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.ref_name == github.event.repository.default_branch
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes no
=== merged pull request
== git
main default
staging
winter-plan
== pipeline
on: {pull_request: {types: [opened, closed]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.event.pull_request.merged == true
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes unsure
=== no pull request on a push
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.event.pull_request.head.repo.full_name == 'a/b'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== actor is unknown
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.actor == 'pier'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes unsure
push:staging | yes yes unsure
=== unknown and false is false
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.actor == 'pier' && github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes unsure
push:staging | yes yes no
=== unknown or true is true
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: github.actor == 'pier' || github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes unsure
=== variables of the forge are unknown
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: vars.LIVE == 'yes'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes unsure
=== false
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: false
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== always after a skip
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    if: github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: always()
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes no yes
push:main | yes yes yes
=== a skip is handed on
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  a:
    if: github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: [a]
    runs-on: x
    steps: [{run: ls}]
  c:
    needs: b
    if: github.event_name == 'push'
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes no no no
push:main | yes yes yes yes
=== not cancelled goes on after a skip
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  a:
    if: github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: [a]
    if: ${{ !cancelled() }}
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes no yes
=== failure does not run
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
  publish:
    needs: build
    if: failure()
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== success after a skip
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  a:
    if: github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: [a]
    if: success() && github.event_name == 'push'
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes no no
push:main | yes yes yes
=== results
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  a:
    if: github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: [a]
    if: always() && needs.a.result == 'skipped'
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes no yes
push:main | yes yes no
=== a circle ends
== git
main default
staging
winter-plan
== pipeline
on: [push]
jobs:
  a:
    needs: b
    runs-on: x
    steps: [{run: ls}]
  b:
    needs: a
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes . .
=== inputs by their defaults
== git
main default
staging
winter-plan
== pipeline
on:
  push:
  workflow_dispatch:
    inputs:
      place: {type: choice, default: staging}
      live: {type: boolean, default: true}
jobs:
  a:
    if: inputs.place == 'production'
    runs-on: x
    steps: [{run: ls}]
  b:
    if: inputs.live
    runs-on: x
    steps: [{run: ls}]
---
hand:main | yes no yes
push:main | yes no no
=== environments refuse
== git
main default
staging
winter-plan
== dulk.toml
[forge.environments.production]
branches = ["main", "release/*"]
== pipeline
on: push
jobs:
  publish:
    environment: production
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
push:staging | yes no
tag:v1 | yes no
=== environments that nobody declared
== git
main default
staging
winter-plan
== pipeline
on: push
jobs:
  publish:
    environment: {name: preview}
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes yes
=== one pipeline follows another
== git
main default
staging
winter-plan
== pipeline
name: Build
on: {push: {branches: [main]}}
jobs:
  build:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/after.yml
on: {workflow_run: {workflows: [Build]}}
jobs:
  publish:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | no no no
=== one pipeline calls another
== git
main default
staging
winter-plan
== pipeline
on: push
jobs:
  publish:
    if: github.ref_name == 'main'
    uses: ./.github/workflows/publish.yml
== .github/workflows/publish.yml
on: workflow_call
jobs:
  up:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes no no
=== hyphen and case of names
== git
main default
staging
winter-plan
== pipeline
on: push
jobs:
  build:
    if: GitHub.Ref == 'REFS/HEADS/MAIN'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
=== event ref
== git
main default
staging
winter-plan
== pipeline
on: [push, schedule]
jobs:
  build:
    if: github.event.ref == 'refs/heads/main'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes
tag:v1 | yes no
push:staging | yes no
=== ref type
== git
main default
staging
winter-plan
== pipeline
on: push
jobs:
  build:
    if: github.ref_type == 'tag'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes no
tag:v1 | yes yes
=== head and base
== git
main default
staging
winter-plan
== pipeline
on: [push, pull_request]
jobs:
  build:
    if: github.base_ref == 'main'
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes
push:main | yes no
pull:staging | yes no
=== what a pull request runs on
== git
main default
== pipeline
on: {push: {branches: [main]}, pull_request: , schedule: [{cron: '5 4 * * *'}]}
jobs:
  merge:
    if: startsWith(github.ref, 'refs/pull/') && endsWith(github.ref_name, '/merge')
    runs-on: x
    steps: [{run: ls}]
  branch:
    if: github.ref == 'refs/heads/main'
    runs-on: x
    steps: [{run: ls}]
  tag:
    if: contains(github.ref, 'refs/tags/')
    runs-on: x
    steps: [{run: ls}]
  object:
    if: github.event.pull_request
    runs-on: x
    steps: [{run: ls}]
  none:
    if: github.event.pull_request == null
    runs-on: x
    steps: [{run: ls}]
  own:
    if: github.event.pull_request.head.repo.full_name == github.repository
    runs-on: x
    steps: [{run: ls}]
  foreign:
    if: github.event.pull_request.head.repo.full_name != github.repository
    runs-on: x
    steps: [{run: ls}]
  closed:
    if: github.event.action == 'closed'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes no yes no no yes no yes no
pull:main | yes yes no no yes no yes no no
fork:main | yes yes no no yes no no yes no
clock | yes no yes no no yes no yes no
=== a privileged run stands on the branch it goes into
== git
main default
== pipeline
on: pull_request_target
jobs:
  branch:
    if: github.ref == 'refs/heads/main' && github.ref_name == 'main'
    runs-on: x
    steps: [{run: ls}]
  merge:
    if: startsWith(github.ref, 'refs/pull/')
    runs-on: x
    steps: [{run: ls}]
  named:
    if: github.event_name == 'pull_request_target'
    runs-on: x
    steps: [{run: ls}]
---
pull:main | yes yes no yes
fork:main | yes yes no yes
=== which of the times has come
== git
main default
== pipeline
on: {push: {branches: [main]}, schedule: [{cron: '5 4 * * *'}, {cron: '9 6 * * 1'}]}
jobs:
  monday:
    if: github.event.schedule == '9 6 * * 1'
    runs-on: x
    steps: [{run: ls}]
  never:
    if: github.event.schedule == '7 7 * * *'
    runs-on: x
    steps: [{run: ls}]
  clock:
    if: github.event.schedule != ''
    runs-on: x
    steps: [{run: ls}]
---
clock | yes unsure no yes
push:main | yes no no no
=== one time is the one that has come
== git
main default
== pipeline
on: {schedule: [{cron: '5 4 * * *'}]}
jobs:
  daily:
    if: github.event.schedule == '5 4 * * *'
    runs-on: x
    steps: [{run: ls}]
---
clock | yes yes
=== lists and indexes
== git
main default
== pipeline
name: Timetable
on: [push, workflow_dispatch]
jobs:
  listed:
    if: contains(fromJSON('["push", "release"]'), github['event_name'])
    runs-on: x
    steps: [{run: ls}]
  title:
    if: github.workflow == 'Timetable' && github.job == 'title'
    runs-on: x
    steps: [{run: ls}]
  labels:
    if: contains(github.event.pull_request.labels.*.name, 'publish')
    runs-on: x
    steps: [{run: ls}]
  deleted:
    if: "!github.event.deleted"
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes no yes
hand:main | yes no yes no yes
=== a skip runs down the whole chain
== git
main default
== pipeline
on: push
jobs:
  skipped:
    if: github.event_name == 'schedule'
    runs-on: x
    steps: [{run: ls}]
  next:
    needs: skipped
    runs-on: x
    steps: [{run: ls}]
  always:
    needs: next
    if: always()
    runs-on: x
    steps: [{run: ls}]
  after-always:
    needs: always
    runs-on: x
    steps: [{run: ls}]
  unless-failed:
    needs: always
    if: ${{ !failure() && !cancelled() }}
    runs-on: x
    steps: [{run: ls}]
  success:
    needs: always
    if: success()
    runs-on: x
    steps: [{run: ls}]
  results:
    needs: [next, always]
    if: always() && !contains(needs.*.result, 'failure') && contains(needs.*.result, 'skipped')
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes no no yes no yes no yes
"#;
