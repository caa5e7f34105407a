//! An address of the developer's own machine, built into the site.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::facts::Origin;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

use super::publish_of;

pub const RULE: Rule = Rule {
    id: "site.localhost",
    severity: Severity::Warning,
    title: "The site is built for the developer's own machine",
    why: "localhost is whatever machine the page is looked at on. A site that was built with it sends its visitors, and their \
          browsers' requests, to their own machines.",
    needs: &[],
    bad: &[
        r"
== files
x
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: «hugo --baseURL http://localhost:1313/»
      - run: npx gh-pages -d public
",
        r"
== files
index.html
== gitlab
pages:
  script:
    - «npx vite build --base http://localhost:5173/»
",
    ],
    good: &[
        r"
== files
x
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
        env: {VITE_API: 'https://api.tarnsay.example', DATABASE: 'localhost:1'}
      - run: npx gh-pages -d dist -r $ADDRESS
      - run: npx vitest
        env: {VITE_API: 'http://localhost:3000'}
",
        r"
== files
index.html
== gitlab
pages:
  script:
    - npx vite build --outDir public --base https://timetable.tarnsay.example/
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::Build { generator, base, .. } = &effect.effect else { continue };
        if publish_of(case, job).is_none() {
            continue;
        }
        if let Some((address, origin)) = base.as_ref().filter(|(address, _)| is_own_machine(address)) {
            let place = if let Origin::At(place) = origin { *place } else { effect.at };
            out.add(place, format!("the site is built for {address}, which is every visitor's own machine"))
                .witness(WitnessSource::Catalog, format!("{generator} puts this address into the pages"))
                .mend(Mend::by_hand("write the address that visitors use"));
        }
        let Some(known) = crate::knowledge::generators().get(generator) else { continue };
        for (name, value) in case.layers(job, step).into_iter().flat_map(|layer| &layer.entries) {
            let public = known.public_prefixes.iter().any(|prefix| name.value.starts_with(prefix));
            if public && is_own_machine(&value.value) {
                out.add(value.inner(), format!("{} is built into the page, and names every visitor's own machine", name.value))
                    .witness(at(effect.at), format!("{generator} puts it into the page here"))
                    .mend(Mend::by_hand("write the address that visitors use"));
            }
        }
    }
}

fn is_own_machine(address: &str) -> bool {
    ["://localhost", "://127.0.0.1", "://0.0.0.0"].iter().any(|part| address.contains(part))
}
