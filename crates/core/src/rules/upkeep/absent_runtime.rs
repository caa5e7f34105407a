//! A runtime that no image of the service has.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed};
use crate::model::Work;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.absent-runtime",
    severity: Severity::Error,
    title: "No image of the service has this runtime",
    why: "A build may ask for a runtime by its number, and gets one that is in the image of the machine. Of a number that no image has, the \
          build ends before its first command.",
    needs: &[],
    bad: &[r"
== buildspec.yml
version: 0.2
phases:
  install:
    runtime-versions:
      nodejs: «21»
    commands:
      - node --version
"],
    good: &[r"
== buildspec.yml
version: 0.2
phases:
  install:
    runtime-versions:
      nodejs: 22
      python: latest
    commands:
      - node --version
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, effect) in case.all_effects() {
        let Effect::SetUp { tool, version: Some(version), .. } = &effect.effect else { continue };
        // What a command sets up comes from elsewhere.
        let by_itself = matches!(case.pipeline.jobs[job].steps.get(step).map(|step| &step.work), Some(Work::ByItself(_)));
        let Some(known) = case.pipeline.customs.runtimes.get(tool).filter(|_| by_itself) else { continue };
        let number = |text: &str| text.parse::<u32>().ok();
        let Some(asked) = version.known().and_then(|text| number(text.split('.').next()?)) else { continue };
        // A newer one may have come since.
        let newest = known.iter().filter_map(|one| number(one)).max().unwrap_or_default();
        if asked > newest || known.iter().any(|one| number(one) == Some(asked)) {
            continue;
        }
        let next = known.iter().filter(|one| number(one) > Some(asked)).min_by_key(|one| number(one));
        out.add(version.inner(), format!("the build ends here: no image has {tool} {asked}"))
            .witness(WitnessSource::Catalog, format!("there are {}", listed(known)))
            .mend(Mend::by_hand(match next {
                Some(next) => format!("write {next}"),
                None => "write one that there is".to_owned(),
            }));
    }
}
