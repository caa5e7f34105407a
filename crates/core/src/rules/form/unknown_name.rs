//! A name in an expression that does not exist.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed_short};
use crate::form::{FormIssueKind, Names};
use crate::knowledge::Meant;
use crate::project::{Read, ReadIn};
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "form.unknown-name",
    severity: Severity::Error,
    title: "An expression names something that does not exist",
    why: "A context or function that does not exist makes the forge refuse the file. A property that does not exist is no error \
          at all: it is empty, a condition with it is never true, and a folder named with it is another folder.",
    needs: &[],
    bad: &[
        r"
== steps
      - run: echo ${{ «git».ref }}
",
        r#"
== gitlab
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $«CI_COMMIT_BRACH» == "main"
"#,
    ],
    good: &[
        r#"
== jobs
  build:
    runs-on: ubuntu-latest
    strategy:
      matrix:
        node: [20]
        include: [{node: 22, extra: yes}]
    steps:
      - id: a
        run: ./a "${{ matrix.extra }} ${{ GitHub.Ref_Name }} ${{ github.event.anything.at.all }} ${{ runner.os }}"
      - run: echo ${{ steps.A.outputs.x }} ${{ env.SET_ELSEWHERE }} ${{ vars.ANY }} ${{ job.status }} ${{ strategy.job-index }}
"#,
        r"
== jobs
  build:
    runs-on: ubuntu-latest
    strategy: {matrix: '${{ fromJSON(vars.LEGS) }}'}
    steps:
      - run: echo ${{ matrix.anything }}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    misnamed_variables(case, out);
    for issue in &case.prepared.form {
        let FormIssueKind::UnknownName { name, among, meant, known, at: place } = &issue.kind else { continue };
        let empty = among.read_as_empty();
        let message = match among {
            Names::Contexts => format!("there is no context `{name}`, {}", super::REFUSED),
            Names::Functions => format!("there is no function `{name}`, {}", super::REFUSED),
            Names::Axes => format!("this takes nothing away: `{name}` is no key of this matrix"),
            Names::Kinds => format!("there is no kind of this event `{name}`, so it never starts this pipeline"),
            _ => format!("this is always empty: `{name}` is not among {}", words_for(*among)),
        };
        let nowhere = matches!(among, Names::NoMatrix | Names::NoInputs | Names::RunnersOwn);
        let narrow = matches!(among, Names::SameMap | Names::OtherStep);
        let there = if narrow {
            "it is set here, for the work of this step alone".to_owned()
        } else if nowhere {
            "nobody else gives it a value here".to_owned()
        } else if known.is_empty() {
            "there are none".to_owned()
        } else {
            format!("there are {}", listed_short(known))
        };
        let job = case.pipeline.jobs.iter().position(|job| job.body.holds(issue.at));
        let finding = out.add(issue.at, message);
        if empty {
            // Whoever gives it a value mends all that read it.
            finding.caused_by(format!("{job:?} {name}"));
        }
        if empty && meant.is_none() {
            // An empty value may do no harm.
            finding.severity(Severity::Warning);
        }
        finding.witness(place.map_or(WitnessSource::Catalog, at), there);
        finding.mend(match meant {
            // A key of a cache that changes with every commit is no better than one that never does.
            Some(meant) if in_a_cache_key(case, issue.at) => Mend::name(&Meant::perhaps(meant.word.as_str()), issue.at),
            Some(meant) => Mend::name(meant, issue.at),
            None if narrow => Mend::by_hand(format!("set `{name}` for the whole job, or write its value here")),
            None if nowhere => Mend::by_hand("remove it, or give it a value"),
            None => Mend::by_hand("write the name that is meant"),
        });
    }
}

/// Variables under names that the forge does not set, where each is nearly one that it does.
fn misnamed_variables(case: &Case<'_>, out: &mut Findings) {
    let mut spoken = Vec::new();
    for read in case.reads.iter().filter(|read| read.read == Read::Misnamed) {
        let Some(meant) = case.pipeline.run().meant_name(&read.name).filter(|_| !spoken.contains(&read.at)) else { continue };
        // Jobs that build on one another share their lines.
        spoken.push(read.at);
        let message = match read.within {
            ReadIn::Condition => format!("`{}` is never set, so this condition compares nothing", read.name),
            _ => format!("`{}` is empty when this runs: nobody sets it", read.name),
        };
        let finding = out.add(read.at, message);
        // Somebody may have set a name of their own on the forge.
        if !meant.sure && (read.within != ReadIn::Condition || case.facts.settings.forge.variables.is_none()) {
            finding.severity(Severity::Warning);
        }
        finding
            .witness(WitnessSource::Catalog, format!("what the forge sets is called `{}`", meant.word))
            .mend(Mend::name(&meant, read.at));
    }
}

fn in_a_cache_key(case: &Case<'_>, place: Place) -> bool {
    case.all_effects().any(|(_, _, effect)| match &effect.effect {
        Effect::RestoreCache { key, .. } => key.as_ref().is_some_and(|key| key.at.holds(place)),
        _ => false,
    })
}

/// What a name is looked for among, as the end of a sentence.
fn words_for(names: Names) -> String {
    let words = match names {
        Names::Contexts => "the contexts",
        Names::Functions => "the functions",
        Names::Kinds => "the kinds of this event",
        Names::Jobs => "the jobs of this file",
        Names::Steps => "the ids of this job's steps",
        Names::Matrix => "the matrix of this job",
        Names::NoMatrix => "the keys of a matrix: this job has none",
        Names::Inputs => "the inputs of this file",
        Names::NoInputs => "what this file is given: it takes no inputs",
        Names::Axes => "the keys of this matrix",
        Names::Variables => "the variables that are set here",
        Names::RunnersOwn => "what this file sets: the runner sets it for scripts only",
        Names::SameMap => "what is set before this map: its variables do not see each other",
        Names::OtherStep => "what is set for this step",
        Names::In(context) => return format!("`{context}`"),
    };
    words.to_owned()
}
