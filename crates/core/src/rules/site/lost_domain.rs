//! A domain that is lost with each publish.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.lost-domain",
    severity: Severity::Warning,
    title: "Each publish takes the site's own domain away",
    why: "On a branch that is published, the file CNAME says which domain the site has. A publish replaces the whole branch: \
          when the built folder holds no CNAME, the domain is gone after it, and the address shows an error.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
CNAME
index.html
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: «npx gh-pages -d dist»
",
        r"
== files
CNAME
index.html
== git
main default
== gitlab
publish:
  script:
    - npx vite build
    - «npx gh-pages -d dist»
",
    ],
    good: &[
        r"
== files
public/CNAME
index.html
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
",
        r"
== files
CNAME
index.html
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx vite build && cp CNAME dist/
      - run: npx gh-pages -d dist -r $ADDRESS
      - uses: peaceiris/actions-gh-pages@v4
        with: {github_token: x, publish_dir: dist, cname: ferry.example}
",
        r"
== files
CNAME
index.html
== git
main default
== gitlab
publish:
  script:
    - npx vite build
    - cp CNAME dist/
    - npx gh-pages -d dist
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    let at_root = files.has("CNAME");
    if !at_root || !case.trail.handovers.iter().any(|handover| handover.publishes) {
        return;
    }
    let elsewhere = files.named("CNAME").any(|path| path != "CNAME");
    let told = case.texts().iter().any(|(_, text)| text.value.to_ascii_lowercase().contains("cname"));
    let scripts = case.facts.packages.values().filter_map(|package| package.scripts.as_ref()).flatten();
    let in_script = scripts.into_iter().any(|script| script.command.contains("CNAME"));
    let input = case.pipeline.jobs.iter().flat_map(|job| &job.steps).any(|step| {
        matches!(&step.work, crate::model::Work::Uses { inputs, .. } if inputs.entries.iter().any(|(name, _)| name.value.eq_ignore_ascii_case("cname") || name.value.contains("keep") || name.value.contains("clean")))
    });
    if elsewhere || told || in_script || input {
        return;
    }
    for handover in case.trail.handovers.iter().filter(|handover| handover.publishes && !handover.built.is_empty()) {
        let branch = case
            .published()
            .find(|published| published.job == handover.job && published.step == handover.step && published.branch.is_some());
        let built = handover.built.iter().any(|built| handover.path.folder.as_deref() == Some(&built.output));
        let Some(published) = branch.filter(|_| built) else { continue };
        out.add(published.effect.at, "each publish takes the site's own domain away: the built folder holds no CNAME")
            .witness(WitnessSource::Files, "CNAME stands at the repository's root, and no step copies it")
            .mend(Mend::by_hand("move CNAME to the folder whose files are copied as they are, mostly public/ or static/"));
    }
}
