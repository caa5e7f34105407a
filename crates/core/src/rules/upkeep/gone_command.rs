//! A subcommand that a newer version of its program has no more.

use crate::case::{Case, at};
use crate::facts::least_major;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.gone-command",
    severity: Severity::Error,
    title: "A command that the installed version has no more",
    why: "Programs drop subcommands in new major versions. A pipeline copied from an older example still calls them, and its step \
          fails once the new version is installed.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"devDependencies": {"wrangler": ‹"^4.45.3"›}}
== steps
      - uses: actions/checkout@v5
      - run: «npx wrangler publish»
        env: {CLOUDFLARE_API_TOKEN: '${{ secrets.CF }}'}
"#,
        r#"
== package.json
{"dependencies": {"next": ‹"15.1.0"›}}
== gitlab
build:
  script:
    - npm ci
    - «npx next export -o public»
"#,
    ],
    good: &[
        r#"
== package.json
{"devDependencies": {"wrangler": "^2.1.0"}}
== steps
      - uses: actions/checkout@v5
      - run: npx wrangler publish
        env: {CLOUDFLARE_API_TOKEN: '${{ secrets.CF }}'}
"#,
        r#"
== package.json
{"devDependencies": {"wrangler": ">=2"}, "dependencies": {"next": "13.5.6"}}
== gitlab
build:
  script:
    - npx next export -o public
    - npx wrangler pages deploy public
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, steps) in case.effects.jobs.iter().enumerate() {
        for (_, effects) in steps.iter().enumerate().filter(|(step, _)| case.has_own_root(job, *step)) {
            for gone in &effects.gone {
                let package = gone.dir.as_deref().and_then(|dir| case.facts.package_for(dir));
                let Some((range, place)) = package.and_then(|(_, package)| package.range(gone.command.package)) else {
                    continue;
                };
                if least_major(range).is_none_or(|least| least < gone.command.gone_from) {
                    continue;
                }
                let (name, old, from) = (&gone.command.package, &gone.command.words, gone.command.gone_from);
                let finding = out.add(gone.at, format!("this step fails: {name} {from} and newer have no `{old}` any more"));
                finding
                    .witness(at(place), format!("{range} is asked for"))
                    .witness(WitnessSource::Catalog, format!("in its place there is {}", gone.command.instead));
                let written = case.sources.slice(gone.at);
                finding.mend(match written.find(old).filter(|_| gone.command.same_options) {
                    Some(_) => Mend::likely(
                        format!("write {}", gone.command.instead),
                        [Edit::replace(gone.at, written.replacen(old, gone.command.instead, 1))],
                    ),
                    None => Mend::by_hand(format!("use {}", gone.command.instead)),
                });
            }
        }
    }
}
