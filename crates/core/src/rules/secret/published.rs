//! A secret that the build puts into the page.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.published",
    severity: Severity::Warning,
    title: "A secret is built into the page",
    why: "Variables with the generator's public prefix are copied into the page's scripts, where every visitor can read them. \
          Whatever must stay secret cannot go there; whatever may be read need not be a secret.",
    needs: &[],
    bad: &[
        r"
== steps
      - run: ‹npx vite build›
        env: {VITE_KEY: '«${{ secrets.MAP_KEY }}»'}
",
        r#"
== dulk.toml
[forge]
secrets = ["MAP_KEY"]
== gitlab
build:
  variables:
    VITE_MAP_KEY: «$MAP_KEY»
  script:
    - npm ci
    - ‹npx vite build›
"#,
    ],
    good: &[
        r"
== steps
      - run: npx vite build
        env: {KEY: '${{ secrets.MAP_KEY }}', VITE_SITE: '${{ vars.SITE }}'}
      - run: npx astro build
        env: {VITE_KEY_OF_ANOTHER: '${{ vars.X }}'}
",
        r#"
== dulk.toml
[forge]
secrets = ["MAP_KEY"]
variables = ["SITE_URL"]
== gitlab
build:
  variables:
    VITE_SITE_URL: $SITE_URL
    MAP: $MAP_KEY
  script:
    - npm ci
    - npx vite build
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let Effect::Build { generator, .. } = &effect.effect else { continue };
        let Some(known) = knowledge::generators().get(generator) else { continue };
        for (name, value) in case.layers(job, step).into_iter().flat_map(|layer| &layer.entries) {
            let public = known.public_prefixes.iter().any(|prefix| name.value.starts_with(prefix.as_str()));
            if !public || case.only_secret(value).is_none() || spoken.contains(&value.at) {
                continue;
            }
            spoken.push(value.at);
            out.add(
                value.inner(),
                format!("every visitor can read this secret: {generator} copies {} into the page", name.value),
            )
            .witness(at(effect.at), format!("{generator} builds the page with it here"))
            .mend(Mend::by_hand(
                "if visitors may read it, keep it as a variable of the repository (vars); if not, do not give it to the page",
            ));
        }
    }
}
