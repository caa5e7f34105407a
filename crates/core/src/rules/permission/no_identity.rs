//! A sign-in by the run's identity, in a job that has none.

use crate::pen::{self, Ask};
use std::ops::Range;

use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::model::Work;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "permission.no-identity",
    severity: Severity::Warning,
    title: "A job signs in by an identity that it does not have",
    why: "Some hosts let a run sign in by a token that the forge makes for it, instead of a password. The job has to ask for \
          that token; one that does not has nothing to show.",
    needs: &[],
    bad: &[r"
== gitlab
live:
  script:
    - aws sts assume-role-with-web-identity --web-identity-token «$CI_JOB_JWT_V2»
"],
    good: &[r"
== gitlab
live:
  id_tokens:
    SIGN_IN: {aud: https://tarnsay.example}
  script:
    - aws sts assume-role-with-web-identity --web-identity-token $SIGN_IN
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // A part that is written elsewhere may set a variable of that name.
    if case.pipeline.partial {
        return;
    }
    let gone = &case.pipeline.customs.gone_tokens;
    for job in &case.pipeline.jobs {
        let is_set = |name: &str| {
            let layers = std::iter::once(&case.pipeline.variables).chain([&job.variables]);
            job.is_handed(name) || layers.into_iter().any(|layer| layer.get(name).is_some())
        };
        for step in &job.steps {
            let Work::Runs { script, .. } = &step.work else { continue };
            let found = gone.iter().filter(|name| !is_set(name)).find_map(|name| Some((name, read_in(&script.value, name)?)));
            if let Some((name, range)) = found {
                out.add(script.place(range), format!("`{}` signs in with {name}, which is no longer set", job.id.value))
                    .witness(WitnessSource::Catalog, "a job gets such a token only by asking for it")
                    .mend(pen::write(case, &Ask::IdentityToken));
            }
        }
    }
}

/// Where a script reads a variable of exactly this name.
fn read_in(script: &str, name: &str) -> Option<Range<usize>> {
    script.match_indices(name).map(|(start, _)| (start, start + name.len())).find_map(|(start, end)| {
        let dollar = if script[..start].ends_with("${") { start - 2 } else { start.checked_sub(1)? };
        let longer = script[end..].starts_with(|c: char| c.is_ascii_alphanumeric() || c == '_');
        let braced = dollar + 1 < start && script[end..].starts_with('}');
        (script[dollar..].starts_with('$') && !longer).then(|| dollar..if braced { end + 1 } else { end })
    })
}
