//! A single-page app on a host that knows no other page.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::{Need, Rule};

use super::publish_of;

pub const RULE: Rule = Rule {
    id: "site.no-fallback",
    severity: Severity::Advice,
    title: "Addresses inside the app are not found",
    why: "A single-page app makes one page and works out the rest in the browser. Whoever reloads /fares, or follows a link to \
          it, asks the host for a page that does not exist. A copy of the page under the name 404.html answers for all of them.",
    needs: &[Need::Files],
    bad: &[
        r#"
== files
index.html
== package.json
{"dependencies": {‹"react-router-dom"›: "7", "vite": "7"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: «npx gh-pages -d dist»
"#,
        r#"
== package.json
{"dependencies": {‹"vue-router"›: "4"}, "devDependencies": {"vite": "7"}}
== files
index.html
== git
main default
== gitlab
«pages»:
  script:
    - npx vite build --outDir public
  artifacts:
    paths: [public]
"#,
    ],
    good: &[
        r#"
== files
index.html
public/404.html
== package.json
{"dependencies": {"react-router-dom": "7"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
"#,
        r#"
== files
index.html
== package.json
{"dependencies": {"react-router-dom": "7"}}
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build && cp dist/index.html dist/404.html
      - run: npx gh-pages -d dist -r $ADDRESS
"#,
        r#"
== package.json
{"dependencies": {"vue-router": "4"}, "devDependencies": {"vite": "7"}}
== files
index.html
== git
main default
== gitlab
pages:
  script:
    - npx vite build --outDir public
    - cp public/index.html public/404.html
  artifacts:
    paths: [public]
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    let router = case
        .facts
        .packages
        .get("")
        .and_then(|package| knowledge::names().lists.routers.iter().find_map(|name| package.dependency(name)));
    let Some(router) = router else { return };
    let has_page = files.named("404.html").next().is_some() || case.facts.hash_routing;
    let told = case.texts().iter().any(|(_, text)| text.value.contains("404"));
    let scripts = case.facts.packages.values().filter_map(|package| package.scripts.as_ref()).flatten();
    let in_script = scripts.into_iter().any(|script| script.command.contains("404"));
    if has_page || told || in_script {
        return;
    }
    for (job, _, effect) in case.all_effects() {
        let Effect::Build { generator, .. } = &effect.effect else { continue };
        let single =
            knowledge::generators().get(generator).is_some_and(|known| known.single_page || known.single_page_with_router);
        let Some(published) =
            publish_of(case, job).filter(|published| single && (published.is_forge_pages() || published.branch.is_some()))
        else {
            continue;
        };
        out.add(published.effect.at, "whoever reloads an address inside the app gets an error page: only the front page exists")
            .witness(at(router), "this works out addresses in the browser")
            .witness(WitnessSource::Files, "no 404.html is among the files, and no step makes one")
            .mend(Mend::by_hand("copy the front page to 404.html after the build"));
        return;
    }
}
