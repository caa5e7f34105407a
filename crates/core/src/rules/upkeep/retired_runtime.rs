//! A runtime past its last day of support.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::facts::Origin;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::project::Read;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "upkeep.retired-runtime",
    severity: Severity::Warning,
    title: "The site is built with a runtime past its last day of support",
    why: "A runtime that is no longer supported gets no fixes, and packages stop working with it one after the other: one \
          morning the install fails on a pull request that changed a comma.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/setup-node@v4
        with: {node-version: '«14»'}
",
        r"
== gitlab
image: node:«14»
site:
  script:
    - npm ci
",
        r"
== .travis.yml
language: node_js
node_js: '«16»'
script: make
",
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "«16»"
      execute_commands:
        - "npm ci"
"#,
    ],
    good: &[
        r"
== steps
      - uses: actions/setup-node@v4
        with: {node-version: 24}
      - uses: actions/setup-node@v4
        with: {node-version: lts/*}
      - uses: actions/setup-python@v5
        with: {python-version: '>=3.7'}
",
        r"
== gitlab
image: node:24
site:
  script:
    - npm ci
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(today) = case.project.today else { return };
    let mut said: Vec<Place> = Vec::new();
    for (job, _, effect) in case.all_effects() {
        let Effect::SetUp { tool, version, version_file, .. } = &effect.effect else { continue };
        let Some(runtime) = knowledge::upkeep().runtime.get(tool) else { continue };
        let mut written: Vec<(Place, String, Option<Place>)> = Vec::new();
        match version {
            Some(version) => match case.matrix_values(job, version) {
                // Several versions beside each other are a test of what the site still works with.
                Some(values) if values.len() > 1 && !publishes(case, job) => {}
                Some(values) => written.extend(values.into_iter().map(|text| (text.inner(), text.value.clone(), None))),
                None => written.extend(version.known().map(|known| (version.inner(), known.to_owned(), None))),
            },
            None => {
                let file = version_file.as_ref().and_then(|file| file.known());
                let fact = case.facts.runtimes.iter().find(|fact| fact.tool == *tool && Some(fact.path.as_str()) == file);
                if let Some((fact, Origin::At(place))) = fact.map(|fact| (fact, &fact.origin)) {
                    written.push((effect.at, fact.version.clone(), Some(*place)));
                }
            }
        }
        for (place, text, witness) in written {
            let Some((number, end)) = runtime.end_of(&text).filter(|(_, end)| *end < today) else { continue };
            if said.contains(&place) {
                continue;
            }
            said.push(place);
            let finding = out.add(place, format!("{tool} {number} has had no support since {end}"));
            finding.one_cause();
            match witness {
                Some(witness) => finding.witness(at(witness), format!("this file asks for {tool} {number}")),
                None => finding.witness(WitnessSource::Catalog, format!("{tool} {} is supported now", runtime.newest)),
            };
            finding.mend(Mend::by_hand(format!(
                "build with {tool} {} here and on your own machine, then write that",
                runtime.newest
            )));
        }
    }
}

/// Whether what a job does reaches visitors, on whichever leg.
fn publishes(case: &Case<'_>, job: usize) -> bool {
    let on_every_leg = |step: usize| {
        let condition = case.pipeline.jobs[job].steps[step].condition();
        condition.is_none_or(|condition| !case.reads_of(&condition.text).iter().any(|read| read.read == Read::Axis))
    };
    let online = |at: &EffectAt| matches!(at.effect, Effect::Publish { .. }) || at.effect.goes_online();
    case.effects.of_job(job).any(|(step, at)| online(at) && on_every_leg(step))
}
