//! What was built as a preview is sent as the live site, or the other way round.

use crate::case::{Case, at};
use crate::effects::Prepared;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.other-target",
    severity: Severity::Error,
    title: "What was built for another target is sent",
    why: "The host's command line builds for one target, with that target's settings and variables. Sent to the other one, the site \
          is refused, or shows a preview's data to everybody.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: ‹npx vercel build --token x›
      - run: «npx vercel deploy --prebuilt --prod --token x»
        env: {VERCEL_ORG_ID: a, VERCEL_PROJECT_ID: b}
",
        r"
== gitlab
send:
  script:
    - ‹npx vercel build --prod --token x›
    - «npx vercel deploy --prebuilt --token x»
",
    ],
    good: &[
        r"
== pipeline
on: push
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vercel build --prod --token x
      - run: npx vercel deploy --prebuilt --prod --token x
        env: {VERCEL_ORG_ID: a, VERCEL_PROJECT_ID: b}
",
        r"
== gitlab
send:
  resource_group: send
  script:
    - npx vercel build --target=production --token x
    - npx vercel deploy --prebuilt --prod --token x
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in &case.effects.jobs {
        let mut built: Option<&Prepared> = None;
        for effects in job {
            built = effects.prepared.last().or(built);
            for sent in &effects.prebuilt {
                let Some(built) = built.filter(|built| built.live != sent.live) else { continue };
                let word = |live: bool| if live { "the live site" } else { "a preview" };
                out.add(sent.at, format!("this sends as {} what was built as {}", word(sent.live), word(built.live)))
                    .witness(at(built.at), format!("it is built as {} here", word(built.live)))
                    .mend(Mend::by_hand(format!("give both commands {}, or none", built.by.live_options.join(" or "))));
            }
        }
    }
}
