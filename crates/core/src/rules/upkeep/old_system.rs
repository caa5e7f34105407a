//! A runtime that does not start on the system that the job asks for.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge::{self, Meant};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.old-system",
    severity: Severity::Error,
    title: "The runtime does not start on a system this old",
    why: "Newer runtimes need newer system libraries. On a system that was current when the example was written they are installed, \
          and end at once with an error about a library.",
    needs: &[],
    bad: &[r"
== .travis.yml
language: node_js
dist: «xenial»
node_js: '‹24›'
script: make
"],
    good: &[r"
== .travis.yml
language: node_js
dist: jammy
node_js: '24'
install: skip
script: make
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut spoken = Vec::new();
    for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
        let systems = of_job.machine.runners.iter().flat_map(|label| {
            let known = knowledge::upkeep().old_system.iter();
            known.filter(|system| label.known() == Some(system.label)).map(move |system| (label, system))
        });
        for (label, system) in systems {
            let too_new = case.effects.of_job(job).find_map(|(_, effect)| match &effect.effect {
                Effect::SetUp { tool, version: Some(version), .. } if *tool == system.tool => {
                    let major = version.known()?.trim_start_matches('v').split('.').next()?.parse::<u32>().ok()?;
                    (major >= system.from).then_some((version, major))
                }
                _ => None,
            });
            let Some((version, major)) = too_new.filter(|_| !spoken.contains(&label.at)) else { continue };
            spoken.push(label.at);
            out.add(
                label.inner(),
                format!("{} {major} does not start on {}: its C library is too old", system.tool, label.value),
            )
            .witness(at(version.inner()), format!("{} {major} is asked for here", system.tool))
            .mend(Mend::name(&Meant::perhaps(system.instead), label.inner()));
        }
    }
}
