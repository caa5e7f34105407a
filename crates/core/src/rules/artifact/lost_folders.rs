//! A site whose folders are lost on the way.

use crate::case::{Case, at};
use crate::effects::Laid;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::Rule;
use crate::trail::{Handover, SiteIn, Standing};

pub const RULE: Rule = Rule {
    id: "artifact.lost-folders",
    severity: Severity::Error,
    title: "The folders of the site are lost on the way",
    why: "A site is a front page with folders below it: scripts, styles, other pages. Where only the files at the top are taken along, or \
          all are laid into one folder, the pages ask for addresses at which there is nothing, and visitors see a bare page.",
    needs: &[],
    bad: &[
        r#"
== files
index.html
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - ‹npx vite build›
artifacts:
  base-directory: dist
  files:
    - '«*»'
"#,
        r"
== files
index.html
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - ‹npx vite build›
artifacts:
  base-directory: dist
  discard-paths: «yes»
  files:
    - '**/*'
",
        r"
== files
index.html
== amplify.yml
version: 1
frontend:
  phases:
    build:
      commands:
        - ‹npx vite build›
  artifacts:
    baseDirectory: dist
    files:
      - '«*»'
",
        // Nothing is built: the files that git tracks say whether there are folders.
        r"
== files
site/index.html
site/style/quay.css
== amplify.yml
version: 1
frontend:
  phases:
    build:
      commands: [echo ready]
  artifacts:
    baseDirectory: site
    files: '«*»'
",
    ],
    good: &[
        r"
== files
index.html
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - npx vite build
artifacts:
  base-directory: dist
  discard-paths: no
  files:
    - '**/*'
",
        r"
== files
site/index.html
site/quay.css
== amplify.yml
version: 1
frontend:
  phases:
    build:
      commands: [echo ready]
  artifacts:
    baseDirectory: site
    files: ['*']
",
        // What is handed on beside what is published is no site.
        r"
== files
index.html
== buildspec.yml
version: 0.2
phases:
  build:
    on-failure: ABORT
    commands:
      - npx vite build
      - aws s3 sync dist s3://tarnsay-timetable --delete
artifacts:
  base-directory: dist
  files: ['*']
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in case.trail.handovers.iter().filter(|handover| case.goes_online(handover)) {
        let Some(laid) = handover.laid.filter(|_| handover.standing != Standing::Never) else { continue };
        let (place, message, todo) = match laid {
            Laid::TopOnly(place) => (
                place,
                "this takes only the files at the top: the folders of the site stay behind",
                "write **/*, which takes all below too",
            ),
            // `artifact.left-packed` speaks of that.
            Laid::Packed(_) => continue,
            Laid::Flat(place) => {
                (place, "this lays all files into one folder: the addresses in the pages lead to nothing", "remove it")
            }
        };
        match (builder(handover), folder_in(handover)) {
            (Some((place_of_build, generator)), _) => {
                out.add(place, message)
                    .witness(at(place_of_build), format!("{generator} writes a site with folders here"))
                    .mend(Mend::by_hand(todo));
            }
            (None, Some(folder)) => {
                out.add(place, message)
                    .witness(WitnessSource::Files, format!("among the files is the folder `{folder}`"))
                    .mend(Mend::by_hand(todo));
            }
            (None, None) => {}
        }
    }
}

/// The build that has made the site in the folder itself, where it makes folders in it.
fn builder(handover: &Handover) -> Option<(crate::text::Place, &str)> {
    let folder = handover.path.folder.as_deref()?;
    let built = handover.built.iter().rfind(|built| built.output == folder && handover.site == SiteIn::Here)?;
    let known = knowledge::generators().get(&built.generator)?;
    (!known.one_folder).then_some((built.at, built.generator.as_str()))
}

/// A folder inside, as far as all files are known.
fn folder_in(handover: &Handover) -> Option<&str> {
    let files = handover.only_tracked.as_ref().filter(|_| handover.built.is_empty())?;
    files.iter().filter(|file| !file.starts_with('.')).find_map(|file| file.split_once('/')).map(|(folder, _)| folder)
}
