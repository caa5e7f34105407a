//! A site that needs a server, published as files.

use super::{publish_of, serving_of, tells_generator};
use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.needs-server",
    severity: Severity::Error,
    title: "The site needs a server, and is published as files",
    why: "Some generators make a program that answers each visitor, unless they are told to write pages. A host for files cannot \
          run it: nothing that visitors could see is in the folder.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
x
== next.config.mjs
export default { reactStrictMode: true }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: «npx next build»
      - run: ‹npx gh-pages -d out›
",
        r#"
== next.config.js
module.exports = {}
== package.json
{"scripts": {"build": "next build"}, "dependencies": {"next": "16"}}
== files
package.json
== git
main default
== gitlab
pages:
  script:
    - npm ci
    - «npm run build»
  publish: ‹.next›
  artifacts:
    paths: [.next]
"#,
    ],
    good: &[
        r"
== files
x
== next.config.mjs
export default { output: 'export' }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build
      - run: touch out/.nojekyll
      - run: npx gh-pages -d out --nojekyll -r $ADDRESS
",
        r"
== files
x
== next.config.mjs
export default load()
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build
      - run: touch out/.nojekyll
      - run: npx gh-pages -d out --nojekyll -r $ADDRESS
",
        r#"
== next.config.js
module.exports = { output: 'export' }
== package.json
{"scripts": {"build": "next build"}, "dependencies": {"next": "16"}}
== files
package.json
package-lock.json
== git
main default
== gitlab
pages:
  script:
    - npm ci
    - npm run build
  publish: out
  artifacts:
    paths: [out]
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let servers: Vec<(usize, &EffectAt, &str)> = case
        .all_effects()
        .filter_map(|(job, _, effect)| match &effect.effect {
            Effect::Build { generator, server: Some(true), .. } => Some((job, effect, generator.as_str())),
            _ => None,
        })
        .collect();
    if servers.is_empty() {
        return;
    }
    let told = tells_generator(case);
    let exports = case.texts().iter().any(|(_, text)| text.value.contains(" export"))
        || case
            .facts
            .packages
            .values()
            .filter_map(|package| package.scripts.as_ref())
            .flatten()
            .any(|script| script.command.contains(" export"));
    if told || exports {
        return;
    }
    for (job, effect, generator) in servers {
        let Some(published) = publish_of(case, job) else { continue };
        let serving = serving_of(&published).filter(|serving| serving.files_only);
        if !published.target.serves_files_only() && serving.is_none() {
            continue;
        }
        let finding =
            out.add(effect.at, format!("{generator} makes a server here, and only files are published: visitors see nothing"));
        if let Some(serving) = serving {
            finding.witness(at(serving.at), "this says that nothing runs there");
            let title = format!("write {}, where it runs, or let {generator} write a folder of files", serving.instead);
            finding.mend(Mend::likely(title, [Edit::replace(serving.at, serving.instead)]));
            continue;
        }
        finding
            .witness(at(published.effect.at), "this publishes files")
            .mend(Mend::by_hand(format!("tell {generator} to write pages, as with output: 'export' in its configuration")));
    }
}
