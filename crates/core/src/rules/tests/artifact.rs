//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "artifact.wrong-folder",
        bad: &[r#"== files
index.html
== next.config.js
module.exports = { reactStrictMode: true }
== package.json
{"scripts": {"build": "next build"}, "dependencies": {"next": "16"}}
== steps
      - uses: actions/checkout@v5
      - run: ‹npm run build›
      - uses: actions/upload-pages-artifact@v4
        with:
          path: «out»
"#],
        // What was built and is moved away again is another rule's business.
        good: &[r#"== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: mv dist ../x
        working-directory: dist
      - run: mv dist site
      - run: npx gh-pages -d dist
"#],
    },
    More {
        rule: "artifact.absent-folder",
        bad: &[
            r#"== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build && ‹rm -rf dist›
      - run: npx gh-pages -d «dist»
"#,
            r#"== files
index.html
== jobs
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v5
      - run: ‹npx vite build›
  b:
    needs: a
    runs-on: x
    steps:
      - run: npx gh-pages -d «dist»
"#,
        ],
        good: &[
            r#"== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with:
          path: |
            dist
            log
"#,
            // Reports are there only when something failed.
            r#"== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - if: failure()
        uses: actions/upload-artifact@v4
        with: {path: shots}
"#,
        ],
    },
    More {
        rule: "artifact.clash",
        bad: &[
            r#"== jobs
  a:
    runs-on: x
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: ‹site›, path: dist}
  b:
    runs-on: x
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: «site», path: dist}
"#,
            r#"== jobs
  a:
    runs-on: ${{ matrix.os }}
    strategy:
      matrix: ‹{os: [ubuntu-24.04, windows-2025], node: [22, 24]}›
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: '«site-${{ matrix.os }}»', path: dist}
"#,
            r#"== jobs
  a:
    runs-on: ubuntu-24.04
    strategy:
      matrix:
        ‹include:
          - {island: north, page: a}
          - {island: south, page: a}›
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: '«site-${{ matrix.page }}»', path: dist}
"#,
        ],
        good: &[
            r#"== jobs
  a:
    runs-on: ${{ matrix.os }}
    strategy:
      matrix: {os: [ubuntu-24.04, windows-2025], node: [22, 24], exclude: [{node: 24}]}
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: 'site-${{ matrix.os }}', path: dist}
  b:
    runs-on: ubuntu-24.04
    strategy:
      matrix: {node: [22, 24], exclude: [{node: 24}]}
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: page, path: dist}
"#,
            r#"== jobs
  a:
    runs-on: x
    steps:
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist, overwrite: true}
"#,
        ],
    },
    More {
        rule: "artifact.left-out",
        bad: &[r#"== gitlab
pages:
  script: [mkdocs build -d public]
  artifacts:
    paths: [‹site›]
  publish: «public»
"#],
        good: &[
            r#"== gitlab
site:
  script: [mkdocs build]
  pages: {publish: site}
"#,
            r#"== gitlab
pages:
  extends: .pages
  script: [make]
.pages:
  artifacts:
    paths: ['$CI_PROJECT_DIR/public', log]
"#,
        ],
    },
    More {
        rule: "artifact.misnamed",
        bad: &[r#"== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/upload-pages-artifact@v3
        with: {name: ‹site›, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: «actions/deploy-pages@v4»
"#],
        good: &[
            // An action that nobody here knows may hand on anything.
            r#"== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: ./.github/actions/build
      - uses: actions/upload-artifact@v4
        with: {name: report, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v4
        with: {name: site}
"#,
        ],
    },
    More {
        rule: "artifact.mixed-generations",
        bad: &[r#"== jobs
  a:
    runs-on: x
    steps:
      - uses: ‹actions/upload-artifact@v3›
        with: {path: dist}
  b:
    needs: a
    runs-on: x
    steps:
      - uses: «actions/download-artifact@v4»
"#],
        good: &[],
    },
    More {
        rule: "artifact.nested",
        bad: &[
            r#"== files
index.html
== jobs
  a:
    runs-on: x
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  b:
    needs: a
    runs-on: x
    steps:
      - uses: ‹actions/download-artifact@v5›
        with: {name: site}
      - run: npx gh-pages -d «dist»
"#,
            r#"== files
public/robots.txt
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: ‹cp -r dist public›
      - uses: actions/upload-pages-artifact@v4
        with: {path: «public»}
"#,
        ],
        good: &[],
    },
    More {
        rule: "artifact.never-made",
        bad: &[r#"== jobs
  build:
    runs-on: x
    steps:
      - run: npx vite build
  publish:
    needs: build
    runs-on: x
    steps:
      - uses: actions/download-artifact@v5
        with: {name: «site»}
"#],
        good: &[
            r#"== jobs
  publish:
    runs-on: x
    steps:
      - uses: actions/download-artifact@v5
        with: {name: site, run-id: 1}
"#,
            r#"== jobs
  a:
    runs-on: x
    steps:
      - uses: ferry/pack@v1
  publish:
    needs: a
    runs-on: x
    steps:
      - uses: actions/deploy-pages@v4
"#,
            // Whoever runs an action may have handed it on.
            r#"== .github/actions/notes/action.yml
name: Notes
runs:
  using: composite
  steps:
    - uses: actions/download-artifact@v5
      with: {name: notes}
"#,
        ],
    },
    More {
        rule: "artifact.stale",
        bad: &[],
        good: &[
            r#"== files
index.html
site/index.html
== steps
      - uses: actions/checkout@v5
      - run: ./make
      - run: npx vite build
      - run: npx gh-pages -d site
"#,
            r#"== files
index.html
site/index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build --outDir site/app
      - run: npx gh-pages -d site
"#,
        ],
    },
    More {
        rule: "artifact.whole-repository",
        bad: &[r#"== files
index.html
package.json
== steps
      - uses: actions/checkout@v5
      - run: ‹npx vite build›
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: x, publish_dir: «./»}
"#],
        good: &[
            r#"== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build --outDir .
      - uses: actions/upload-pages-artifact@v4
        with: {path: '.'}
"#,
            r#"== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {path: .}
"#,
        ],
    },
    More {
        rule: "artifact.wrong-folder",
        bad: &[r#"== files
index.html
== package.json
{"scripts": {"build": "astro build"}}
== astro.config.mjs
export default { outDir: ‹'./public_html'› }
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm ci && npm run build
      - uses: peaceiris/actions-gh-pages@v4
        with:
          publish_dir: «dist»
"#],
        good: &[
            // The folder is copied, or the script says where to build.
            r#"== files
index.html
== package.json
{"scripts": {"build": "vite build"}}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: |
          npm run build
          mkdir -p out
          cp -r dist/. out/
      - uses: actions/upload-artifact@v4
        with: {path: out}
  other:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm run build -- --outDir build
      - uses: actions/upload-artifact@v4
        with: {path: build}
"#,
        ],
    },
];
