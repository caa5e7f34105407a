//! Which jobs of a `.gitlab-ci.yml` file are in a run, and which runs are refused.

pub const TABLE: &str = r#"
=== a need that is left out refuses the run, whoever needs it
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_COMMIT_BRANCH == "main"}]
b:
  script: [ls]
  needs: [a]
c:
  script: [ls]
---
push:main | yes yes yes yes
push:staging | no no no no
tag:v1.0.0 | no no no no
=== an optional need may be left out
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_COMMIT_BRANCH == "main"}]
b:
  script: [ls]
  needs: [{job: a, optional: true}]
---
push:main | yes yes yes
push:staging | yes no yes
=== a need that waits for a click is there
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  when: manual
b:
  script: [ls]
  needs: [a]
---
push:main | yes unsure unsure
=== a need for failures is there
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  when: on_failure
b:
  script: [ls]
  needs: [a]
c:
  script: [ls]
---
push:main | yes no no yes
=== a need that never runs is not there
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  when: never
b:
  script: [ls]
  needs: [a]
c:
  script: [ls]
---
push:main | no no no no
=== stages may be empty
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  stage: build
  rules: [{if: $CI_COMMIT_TAG}]
b:
  script: [ls]
  stage: test
---
push:main | yes no yes
tag:v1.0.0 | yes yes yes
=== both are left out together
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_COMMIT_BRANCH == "main"}]
b:
  script: [ls]
  needs: [a]
  rules: [{if: $CI_COMMIT_BRANCH == "main"}]
c:
  script: [ls]
---
push:main | yes yes yes yes
push:staging | yes no no yes
=== names that are gone are nothing
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_BUILD_REF_NAME == "main"}]
b:
  script: [ls]
  rules: [{if: $CI_BUILD_TAG}]
c:
  script: [ls]
  rules: [{if: $CI_BUILD_TAG == null}]
---
push:main | yes no no yes
tag:v1.0.0 | yes no no yes
=== a name that is gone and set again
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
variables: {CI_BUILD_REF_NAME: main}
a:
  script: [ls]
  rules: [{if: $CI_BUILD_REF_NAME == "main"}]
b:
  script: [ls]
---
push:main | yes yes yes
=== sources that never occur
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_PIPELINE_SOURCE == "branch"}]
b:
  script: [ls]
  rules: [{if: $CI_PIPELINE_SOURCE == "push"}]
---
push:main | yes no yes
hand:main | no no no
=== never before everything
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{when: never}, {if: $CI_COMMIT_BRANCH}]
b:
  script: [ls]
---
push:main | yes no yes
=== never for branches, then a branch
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_COMMIT_BRANCH, when: never}, {if: $CI_COMMIT_BRANCH == "main"}]
b:
  script: [ls]
---
push:main | yes no yes
tag:v1.0.0 | yes no yes
=== files that are not there
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{exists: [hugo.toml]}]
b:
  script: [ls]
  rules: [{exists: [package.json]}]
---
push:main | yes no yes
=== a tag and a branch at once
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_COMMIT_TAG && $CI_COMMIT_BRANCH}]
b:
  script: [ls]
---
push:main | yes no yes
tag:v1.0.0 | yes no yes
=== patterns of tags
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  rules: [{if: $CI_COMMIT_TAG =~ /^v/}]
b:
  script: [ls]
  rules: [{if: $CI_COMMIT_TAG =~ /^\d/}]
---
tag:v1.0.0 | yes yes no
tag:1.0 | yes no yes
push:main | no no no
=== always is for branches too
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  when: always
b:
  script: [ls]
  rules: [{if: $CI_COMMIT_TAG, when: always}]
---
push:main | yes yes no
tag:v1.0.0 | yes yes yes
=== yes and on are true
== git
main default
staging
v1.0.0 tag
1.0 tag
== files
package.json
src/a.css
== gitlab
a:
  script: [ls]
  allow_failure: yes
  interruptible: on
b:
  script: [ls]
---
push:main | yes yes yes
"#;
