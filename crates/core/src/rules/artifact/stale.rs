//! An old folder from git online, instead of what was built.

use std::sync::Arc;

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::effects::is_inside;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.stale",
    severity: Severity::Error,
    title: "A folder from git is published instead of the build",
    why: "Git tracks a folder of that name, so that it is there, and everything is green. The build writes another one, and \
          visitors see what somebody committed long ago.",
    needs: &[],
    bad: &[
        r"
== files
index.html
public/index.html
== steps
      - uses: actions/checkout@v5
      - run: ‹npx vite build›
      - run: npx gh-pages -d «public»
",
        r"
== files
public/index.html
index.html
== gitlab
«pages»:
  script:
    - ‹npx vite build›
  artifacts:
    paths: [public]
",
    ],
    good: &[
        r"
== files
index.html
dist/index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
",
        r"
== files
docs/index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: cp -r dist/. docs/
      - run: npx gh-pages -d docs -r $ADDRESS
",
        r"
== files
public/index.html
index.html
== gitlab
pages:
  script:
    - npx vite build --outDir public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in &case.trail.handovers {
        let Some(folder) = handover.path.folder.as_deref().filter(|folder| !folder.is_empty() && case.goes_online(handover))
        else {
            continue;
        };
        let touched = handover.built.iter().any(|built| is_inside(&built.output, folder) || is_inside(folder, &built.output));
        if handover.only_tracked.is_none() || touched || published_too(case, handover.job, &handover.built) {
            continue;
        }
        let Some(built) = handover.built.last() else { continue };
        let finding = out
            .add(handover.path.at, format!("`{folder}` is published as git holds it, and the build writes `{}`", built.output));
        finding.witness(at(built.at), format!("{} writes the new site into `{}` here", built.generator, built.output));
        let exact = case.sources.slice(handover.path.at) == folder;
        finding.mend(if exact {
            Mend::likely(format!("write {}", built.output), [Edit::replace(handover.path.at, built.output.clone())])
        } else {
            Mend::by_hand(format!("publish {}", built.output))
        });
    }
}

/// The built folder is handed on or published as well.
fn published_too(case: &Case<'_>, job: usize, built: &[Arc<crate::trail::Built>]) -> bool {
    case.effects.of_job(job).any(|(_, effect)| match &effect.effect {
        Effect::Upload { paths, .. } => {
            paths.iter().any(|path| built.iter().any(|built| path.folder.as_deref() == Some(&built.output)))
        }
        Effect::Publish { folder: Some(path), .. } => built.iter().any(|built| path.folder.as_deref() == Some(&built.output)),
        _ => false,
    })
}
