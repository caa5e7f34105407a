//! What a pipeline sees that another one starts: by a call, or by its end.

pub const TABLE: &str = r#"
=== the conclusion of the run that is followed
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event.workflow_run.conclusion == 'success'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
pull:main | yes yes yes
hand:main | yes yes yes
=== another conclusion does not come
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event.workflow_run.conclusion == 'failure'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
pull:main | yes yes no
=== the event of the run that is followed
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event.workflow_run.event == 'push'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
fork:main | yes yes no
hand:main | yes yes no
=== its pull request
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event.workflow_run.event == 'pull_request'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
pull:main | yes yes yes
=== its branch
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event.workflow_run.head_branch == 'main'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes no
hand:main | yes yes yes
pull:main | yes yes unsure
=== its repository
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event.workflow_run.head_repository.full_name == github.repository
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
fork:main | yes yes no
=== the run itself stands on the default branch
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.ref == 'refs/heads/main'
    runs-on: x
    steps: [{run: ls}]
---
push:staging | yes yes yes
pull:main | yes yes yes
=== the run itself has its own event
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
jobs:
  p:
    if: github.event_name == 'push'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== only the branches that are named are followed
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
    branches: [main]
jobs:
  p:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes no
pull:main | yes yes unsure
=== branches that are left out are not followed
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
name: Test
on: [push, pull_request, workflow_dispatch]
jobs:
  t:
    runs-on: x
    steps: [{run: ls}]
== .github/workflows/b.yml
on:
  workflow_run:
    workflows: [Test]
    types: [completed]
    branches-ignore: [staging]
jobs:
  p:
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
push:staging | yes yes no
=== an input by its default
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: inputs.live
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== an input that is given
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
    with: {live: true}
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: inputs.live
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
pull:main | yes yes yes
=== an input that is given and asked for the other way
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
    with: {live: true}
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: '!inputs.live'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== a text that is given
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
    with: {where: live}
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: inputs.where == 'live'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes yes
=== a text by its default
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: inputs.where == 'live'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== a text held against the branch
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
    with: {where: live}
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: github.ref_name == inputs.where
    runs-on: x
    steps: [{run: ls}]
---
push:live | yes yes yes
push:main | yes yes no
=== a value of the caller is only known when it runs
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
    with: {where: '${{ vars.WHERE }}'}
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: inputs.where == 'live'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes unsure
=== a called pipeline sees its caller's event
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: github.event_name == 'pull_request'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
pull:main | yes yes yes
=== nothing is called by the name of a call
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: [push, pull_request]
jobs:
  go:
    uses: ./.github/workflows/b.yml
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    if: github.event_name == 'workflow_call'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes yes no
=== a call that is left out
== git
main default
staging
live
v1.0.0 tag
== .github/workflows/a.yml
on: push
jobs:
  go:
    if: github.ref_name == 'live'
    uses: ./.github/workflows/b.yml
== .github/workflows/b.yml
on:
  workflow_call:
    inputs:
      live: {type: boolean, default: false}
      where: {type: string, default: staging}
jobs:
  p:
    runs-on: x
    steps: [{run: ls}]
---
push:live | yes yes yes
push:main | yes no no
=== an unknown tag still is a tag
== git
main default
staging
live
v1.0.0 tag
== pipeline
on:
  release: {types: [published]}
jobs:
  a:
    if: github.ref == 'refs/heads/main'
    runs-on: x
    steps: [{run: ls}]
  b:
    if: startsWith(github.ref, 'refs/tags/')
    runs-on: x
    steps: [{run: ls}]
  c:
    if: contains(github.ref, 'tags')
    runs-on: x
    steps: [{run: ls}]
---
release | yes no yes yes
=== the first of the choices is taken where nobody chooses
== git
main default
staging
live
v1.0.0 tag
== pipeline
on:
  workflow_dispatch:
    inputs:
      where: {type: choice, options: [staging, live]}
jobs:
  a:
    if: inputs.where == 'staging'
    runs-on: x
    steps: [{run: ls}]
  b:
    if: inputs.where == 'live'
    runs-on: x
    steps: [{run: ls}]
---
hand:main | yes yes no
=== nothing is in the number of a push
== git
main default
staging
live
v1.0.0 tag
== pipeline
on: [push, pull_request]
jobs:
  a:
    if: github.event.number
    runs-on: x
    steps: [{run: ls}]
  b:
    if: '!github.event.issue'
    runs-on: x
    steps: [{run: ls}]
---
push:main | yes no yes
"#;
