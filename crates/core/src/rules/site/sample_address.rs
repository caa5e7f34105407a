//! The address of an example is left in the site's configuration.

use super::publish_of;
use crate::case::Case;
use crate::effects::Effect;
use crate::facts::config::Found;
use crate::facts::config_near;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{self, Generator};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "site.sample-address",
    severity: Severity::Warning,
    title: "The site is built for an example's address",
    why: "Generators write the site's own address into links, feeds and the map for search engines. An address that stands for an example \
          in every manual belongs to nobody's site, and what is built with it leads away from yours.",
    needs: &[],
    bad: &[
        r#"
== hugo.toml
baseURL = «"https://example.org/"»
== git
main default
== pipeline
on: push
permissions: {contents: write}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: hugo
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: '${{ github.token }}', publish_dir: public}
"#,
        r#"
== docusaurus.config.js
module.exports = { url: «'https://your-docusaurus-site.example.com'», baseUrl: '/' }
== git
main default
== gitlab
pages:
  script:
    - npx docusaurus build --out-dir public
  artifacts: {paths: [public]}
"#,
    ],
    good: &[
        r#"
== hugo.toml
baseURL = "https://tarnsay.example/"
== git
main default
== pipeline
on: push
permissions: {contents: write}
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: hugo
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: '${{ github.token }}', publish_dir: public}
"#,
        // The command says otherwise.
        r#"
== hugo.toml
baseURL = "https://example.org/"
== git
main default
== gitlab
pages:
  resource_group: pages
  script:
    - hugo --baseURL "$PAGES_ADDRESS"
  artifacts: {paths: [public]}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken: Vec<Place> = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let Effect::Build { generator, dir: Some(dir), readdressed: false, .. } = &effect.effect else { continue };
        let known =
            knowledge::generators().get(generator).filter(|_| case.has_own_root(job, step) && publish_of(case, job).is_some());
        let Some((place, host)) = known.and_then(|known| sample(case, known, dir)).filter(|(place, _)| !spoken.contains(place))
        else {
            continue;
        };
        spoken.push(place);
        out.add(place, format!("the site is built for {host}, which is nobody's site"))
            .witness(WitnessSource::Catalog, format!("{host} stands for an example in manuals"))
            .mend(Mend::by_hand("write the address that visitors use"));
    }
}

/// An example's host in one of the settings in which a generator is told the site's address.
fn sample<'c>(case: &'c Case<'_>, generator: &Generator, dir: &str) -> Option<(Place, &'c str)> {
    let (file, setting) = config_near(case.facts, generator, dir)?;
    generator.address_settings.iter().find_map(|name| {
        let Found::Here(found) = setting.find(name) else { return None };
        let host = knowledge::names().sample_host(found.text()?)?;
        Some((Place { file: *file, span: found.span }, host))
    })
}
