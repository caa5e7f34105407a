//! A publisher without the credential that it needs.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

use super::{given_elsewhere, lacking};

pub const RULE: Rule = Rule {
    id: "secret.missing",
    severity: Severity::Error,
    title: "A publisher lacks its credential",
    why: "Whoever puts a site on a host has to show a token or a key. Without one the step asks for it, or fails, at the very \
          end of the run.",
    needs: &[],
    bad: &[
        r"
== steps
      - run: «netlify deploy --prod»
",
        r"
== dulk.toml
[forge]
secrets = []
variables = []
== gitlab
publish:
  script:
    - «npx netlify deploy --prod --dir dist»
",
    ],
    good: &[
        r"
== pipeline
on: push
env: {NETLIFY_AUTH_TOKEN: '${{ secrets.N }}'}
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: netlify deploy --prod
      - run: npx surge dist ferry.example --token ${{ secrets.S }}
      - run: CLOUDFLARE_API_TOKEN=$X npx wrangler pages deploy dist
",
        r#"
== steps
      - run: echo "NETLIFY_AUTH_TOKEN=x" >> "$GITHUB_ENV"
      - run: netlify deploy --prod
"#,
        r#"
== dulk.toml
[forge]
secrets = ["NETLIFY_AUTH_TOKEN"]
variables = []
== gitlab
publish:
  script:
    - npx netlify deploy --prod --dir dist
"#,
        r"
== gitlab
publish:
  script:
    - npx netlify deploy --prod --dir dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, wanted) in lacking(case) {
        // When another step of the job is given it, that is what has to be said.
        if given_elsewhere(case, job, step, &wanted.variables).is_some() {
            continue;
        }
        let ways: Vec<String> = wanted
            .variables
            .iter()
            .map(|name| format!("the variable {name}"))
            .chain(
                wanted
                    .inputs
                    .iter()
                    .map(|name| if name.starts_with('-') { format!("the option {name}") } else { format!("the input {name}") }),
            )
            .collect();
        let all = ways.join(" or ");
        out.add(wanted.at, format!("this fails: `{}` gets no credential", wanted.publisher))
            .witness(WitnessSource::Catalog, format!("it takes one by {all}"))
            .mend(Mend::by_hand(format!("give it one from a secret, by {}", ways.first().map_or(all.as_str(), String::as_str))));
    }
}
