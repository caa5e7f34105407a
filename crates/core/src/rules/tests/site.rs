//! More examples of the rules of this family: wrong ones, and neighbours that must stay silent.

use super::More;

pub const MORE: &[More] = &[
    More {
        rule: "site.absent-folder",
        bad: &[],
        good: &[r#"== files
site/index.html
== jobs
  a:
    runs-on: x
    steps:
      - run: ls
        working-directory: elsewhere
"#],
    },
    More {
        rule: "site.absent-lockfile",
        bad: &[r#"== files
package.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: «pnpm install --frozen-lockfile»
"#],
        good: &[
            // Something that nobody here knows may have written it.
            r#"== files
package.json
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: ./scripts/lock.sh
      - run: npm ci
"#,
        ],
    },
    More {
        rule: "site.absent-script",
        bad: &[r#"== package.json
‹{"name": "timetable"}›
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: «yarn build»
"#],
        good: &[r#"== package.json
{"scripts": {}, "workspaces": ["app"]}
== pipeline
on: push
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npm run build -w app || true
"#],
    },
    More {
        rule: "site.base-path",
        bad: &[
            r#"== files
index.html
== vite.config.js
export default { base: ‹'/old-name/'› }
== dulk.toml
[site]
base = ‹"/timetable/"›
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: «npx vite build»
      - run: npx gh-pages -d dist
"#,
            r#"== files
index.html
== git
main default
github.com/pier/timetable remote
== steps
      - uses: actions/checkout@v5
      - run: «npx vite build»
      - uses: actions/upload-pages-artifact@v4
        with: {path: dist}
      - uses: actions/deploy-pages@v4
"#,
        ],
        good: &[
            r#"== files
index.html
== vite.config.js
export default { base: process.env.BASE }
== git
main default
github.com/pier/timetable remote
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist
"#,
            r#"== files
index.html
public/CNAME
== git
main default
github.com/pier/timetable remote
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist
"#,
            r#"== files
index.html
== git
main default
github.com/pier/pier.github.io remote
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist
"#,
            // Elsewhere a site has an address of its own.
            r#"== files
index.html
== git
main default
github.com/pier/timetable remote
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx surge dist ferry.example
"#,
            r#"== files
index.html
== git
main default
github.com/pier/timetable remote
== steps
      - uses: actions/checkout@v5
      - uses: actions/configure-pages@v5
        with: {static_site_generator: next}
      - run: npx next build
      - uses: actions/deploy-pages@v4
"#,
        ],
    },
    More {
        rule: "site.localhost",
        bad: &[r#"== files
x
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: ‹npx vite build›
        env: {VITE_API: '«http://localhost:3000»'}
      - run: npx gh-pages -d dist
"#],
        good: &[],
    },
    More {
        rule: "site.lost-domain",
        bad: &[],
        good: &[r#"== files
CNAME
index.html
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx gh-pages -d .
"#],
    },
    More {
        rule: "site.needs-server",
        bad: &[],
        good: &[
            r#"== files
x
== next.config.mjs
export default {}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build
      - run: npx vercel deploy --prod --token x
"#,
            // The step writes the option into the configuration.
            r#"== files
x
== next.config.mjs
export default {}
== git
main default
== steps
      - uses: actions/checkout@v5
      - uses: actions/configure-pages@v5
        with: {static_site_generator: next}
      - run: npx next build
      - run: npx gh-pages -d out
"#,
            r#"== files
x
== next.config.mjs
export default {}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build && npx next export
      - run: npx gh-pages -d out
"#,
        ],
    },
    More {
        rule: "site.no-fallback",
        bad: &[],
        good: &[r#"== files
index.html
== package.json
{"dependencies": {"chart": "7"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist
"#],
    },
    More {
        rule: "site.no-index",
        bad: &[r#"== files
home.html
style.css
== git
main default
== steps
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: '«.»'}
"#],
        good: &[
            r#"== files
README.md
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: rsync -a assets/ pier@tarnsay.example:/www/assets
"#,
            // The branch is made into pages by the forge itself.
            r#"== files
docs/index.md
docs/_config.yml
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx gh-pages -d docs
"#,
        ],
    },
    More {
        rule: "site.no-manager",
        bad: &[r#"== steps
      - uses: actions/checkout@v5
      - run: «bun install»
"#],
        good: &[
            r#"== steps
      - run: npm install -g pnpm && pnpm install
      - uses: oven-sh/setup-bun@v2
      - run: bun install
"#,
            r#"== jobs
  a:
    runs-on: self-hosted
    steps:
      - run: pnpm install
  b:
    runs-on: ubuntu-latest
    container: ferry/pnpm
    steps:
      - run: pnpm install
"#,
            r#"== steps
      - uses: ferry/set-up-everything@v1
      - run: pnpm install
"#,
        ],
    },
    More {
        rule: "site.no-submodules",
        bad: &[],
        good: &[r#"== files
x
== steps
      - uses: actions/checkout@v5
      - run: hugo
"#],
    },
    More {
        rule: "site.other-folder",
        bad: &[],
        good: &[r#"== files
index.html
== firebase.json
{"hosting": {"public": "build"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist
"#],
    },
    More {
        rule: "site.other-manager",
        bad: &[],
        good: &[
            // This one fails, and another rule says so.
            r#"== files
yarn.lock
== steps
      - uses: actions/checkout@v5
      - run: npm ci
"#,
            r#"== files
yarn.lock
== steps
      - uses: actions/checkout@v5
      - run: npm install sharp --no-save
"#,
        ],
    },
    More {
        rule: "site.runtime-mismatch",
        bad: &[r#"== .nvmrc
‹22›
== steps
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version: '«20.x»'}
"#],
        good: &[
            // A matrix tries several on purpose.
            r#"== .nvmrc
22
== jobs
  a:
    runs-on: x
    strategy:
      matrix:
        node: [18, 22]
    steps:
      - uses: actions/checkout@v5
      - uses: actions/setup-node@v5
        with: {node-version: '${{ matrix.node }}'}
"#,
        ],
    },
    More {
        rule: "site.stale-lockfile",
        bad: &[],
        good: &[r#"== package.json
{"dependencies": {"tide": "1"}}
== package-lock.json
{"packages": {"": {"dependencies": {}}}}
== steps
      - uses: actions/checkout@v5
      - run: npm install
"#],
    },
    More {
        rule: "site.underscore",
        bad: &[],
        good: &[r#"== files
x
== next.config.mjs
export default { output: 'export' }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: x, publish_dir: out}
"#],
    },
];
