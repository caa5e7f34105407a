//! A host is told that the site is made with another generator than it is.

use crate::case::{Case, at};
use crate::facts::Origin;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.other-preset",
    severity: Severity::Error,
    title: "The host builds the site for another generator",
    why: "A host that builds a site goes by the generator that its file names: which command builds, and which folder is published. Named \
          after another generator, it looks for a folder that is never made.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"devDependencies": {‹"vite"›: "7"}}
== vercel.json
{"framework": «"nextjs"»}
== steps
      - uses: actions/checkout@v5
      - run: npx vercel build --prod --token x
      - run: npx vercel deploy --prebuilt --prod --token x
        env: {VERCEL_ORG_ID: a, VERCEL_PROJECT_ID: b}
"#,
        r#"
== package.json
{"devDependencies": {‹"astro"›: "5"}}
== vercel.json
{"framework": «"vite"»}
== gitlab
send:
  script:
    - npx vercel deploy --prod --token x
"#,
    ],
    good: &[
        r#"
== package.json
{"devDependencies": {"vite": "7", "astro": "5"}}
== vercel.json
{"framework": "vite"}
== gitlab
send:
  resource_group: send
  script:
    - npx vercel deploy --prod --token x
"#,
        r#"
== package.json
{"devDependencies": {"vite": "7"}}
== vercel.json
{"framework": null}
== pipeline
on: push
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vercel deploy --prod --token x
        env: {VERCEL_ORG_ID: a, VERCEL_PROJECT_ID: b}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(package) = case.facts.packages.get("") else { return };
    let mut told = Vec::new();
    for published in case.published() {
        let host = case.facts.hosting.iter().find(|host| host.host == published.target.word() && !host.path.contains('/'));
        let Some((host, (preset, Origin::At(place)))) = host.and_then(|host| Some((host, host.preset.as_ref()?))) else {
            continue;
        };
        let presets = host.presets();
        let Some(wanted) = presets.get(preset.as_str()).filter(|_| !told.contains(place)) else { continue };
        if package.dependency(wanted).is_some() {
            continue;
        }
        // Only where the package names one generator that the host knows is it sure which one is meant.
        let mut own = presets.iter().filter_map(|(name, dependency)| Some((name, dependency, package.dependency(dependency)?)));
        let (Some((name, dependency, used)), None) = (own.next(), own.next()) else { continue };
        told.push(*place);
        out.add(*place, format!("{} builds this as {preset}, and the site is made with {dependency}", published.target))
            .witness(at(used), format!("package.json asks for {dependency}, and not for {wanted}"))
            .mend(Mend::likely(format!("write {name}"), [Edit::replace(*place, format!("\"{name}\""))]));
    }
}
