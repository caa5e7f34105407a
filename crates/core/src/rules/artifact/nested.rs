//! A site that lies one folder deeper, or less deep, than what is published.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::effects::is_inside;
use crate::facts::Origin;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::model::Target;
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;
use crate::trail::{Handover, SiteIn, Standing};

pub const RULE: Rule = Rule {
    id: "artifact.nested",
    severity: Severity::Error,
    title: "The site lies one folder off",
    why: "An artifact holds what lies in the folder, not the folder itself; fetched without a name, each comes in a folder of \
          its own. One folder off, and the front page is not where visitors look for it.",
    needs: &[],
    bad: &[
        r"
== files
index.html
== jobs
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/download-artifact@v5›
        with: {path: dist}
      - run: npx gh-pages -d «dist»
",
        r"
== files
index.html
== gitlab
«pages»:
  script:
    - npx vite build
    - mkdir -p public
    - ‹cp -r dist public›
  artifacts:
    paths: [public]
",
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
  files:
    - '«dist/**/*»'
",
    ],
    good: &[
        r"
== files
index.html
== pipeline
on: push
concurrency: publish
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {name: site, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: site, path: dist}
      - run: ssh-add key && rsync -a dist/ pier@tarnsay.example:/www
  notify:
    needs: build
    runs-on: ubuntu-latest
    steps:
      - uses: actions/download-artifact@v5
        with: {name: site}
      - run: npx gh-pages -d .
",
        // A page of its own stands above the built part.
        r"
== files
public/index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: cp -r dist public/app
      - uses: actions/upload-pages-artifact@v4
        with: {path: public}
",
        r"
== files
index.html
== gitlab
build:
  stage: build
  script:
    - npx vite build --outDir public
  artifacts:
    paths: [public]
pages:
  stage: deploy
  script:
    - ls public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in &case.trail.handovers {
        let Some(folder) = handover
            .path
            .folder
            .as_deref()
            .filter(|folder| !folder.is_empty() && case.goes_online(handover) && !handover.path.glob)
        else {
            continue;
        };
        match &handover.site {
            SiteIn::Here if handover.keeps_paths && handover.together == 1 => kept_below(case, handover, folder, out),
            SiteIn::Below(root) => too_deep(case, handover, folder, root, out),
            _ if handover.standing != Standing::There => too_shallow(case, handover, folder, out),
            _ => {}
        }
    }
}

/// The site's root is in a folder of the published one, and no front page stands above it.
fn too_deep(case: &Case<'_>, handover: &Handover, folder: &str, root: &str, out: &mut Findings) {
    // Without the list of files nothing is known of what git brings; what is tracked there may be served by other means.
    let served_otherwise = handover.tracked && handover.brought.is_some();
    if case.facts.files.known().is_none() || handover.front_page != Standing::Never || served_otherwise {
        return;
    }
    let Some((place, made)) = put_there(case, handover, root).or_else(|| built_there(case, handover, root)) else { return };
    let finding = out.add(handover.path.at, format!("`{folder}` is published, and the front page is in `{root}`"));
    finding.witness(at(place), made);
    finding.mend(match handover.path.exact(case.sources) {
        Some(place) => Mend::likely(format!("write {root}"), [Edit::replace(place, root)]),
        None => Mend::by_hand(format!("publish {root}")),
    });
}

/// What is handed on keeps its path, so that the site's root does not come to lie at the top.
fn kept_below(case: &Case<'_>, handover: &Handover, folder: &str, out: &mut Findings) {
    let Some(built) = handover.built.iter().rfind(|built| built.output == folder) else { return };
    out.add(handover.path.at, format!("the site comes to lie below `{folder}/`: its front page is not where visitors come in"))
        .witness(
            at(built.at),
            format!("{} writes the site into `{folder}`, and the paths of its files are kept", built.generator),
        )
        .mend(pen::write(case, &Ask::HandOnFrom { folder }));
}

/// The step that fetched or copied the site there.
fn put_there(case: &Case<'_>, handover: &Handover, root: &str) -> Option<(Place, String)> {
    let before = case.effects.of_job(handover.job).filter(|(step, _)| *step < handover.step);
    let puts = before.filter(|(_, effect)| match &effect.effect {
        Effect::Download { .. } => true,
        Effect::Copy { to, .. } => to.as_deref().is_none_or(|to| is_inside(root, to)),
        _ => false,
    });
    puts.last().map(|(_, effect)| (effect.at, format!("this puts the site into `{root}`")))
}

/// The build that writes there without being told by its command, where what is published replaces all that was online before.
fn built_there(case: &Case<'_>, handover: &Handover, root: &str) -> Option<(Place, String)> {
    let built = handover.built.iter().find(|built| built.output == root)?;
    let by_command = matches!(built.origin, Origin::At(place) if place == built.at);
    let mut publishes = case.published();
    let adds = publishes.any(|one| {
        (one.job, one.step) == (handover.job, handover.step)
            && (*one.target == Target::Branch || one.target.is_filled_bit_by_bit())
    });
    // A generator's own hidden folder in what is published: what lies beside it is what the site is made of.
    let folder = handover.path.folder.as_deref().unwrap_or_default();
    let hidden = root.strip_prefix(folder).is_some_and(|rest| rest.trim_start_matches('/').starts_with('.'));
    let whole_folder = adds && hidden && case.published().count() == 1;
    (!by_command && (whole_folder || !adds && !handover.tracked))
        .then(|| (built.at, format!("{} writes the site into `{root}`", built.generator)))
}

/// The artifact was laid out above the folder that is published.
fn too_shallow(case: &Case<'_>, handover: &Handover, folder: &str, out: &mut Findings) {
    let Some((name, into)) = &handover.brought else { return };
    // What keeps its path comes back under it.
    let keeps_paths = case.all_effects().any(|(_, _, effect)| {
        matches!(&effect.effect, Effect::Upload { name: own, keeps_paths: true, .. } if own.known() == Some(name))
    });
    if keeps_paths {
        return;
    }
    // A folder of the build's own name inside the built folder is nobody's wish.
    let builds = |output: &str| output == folder || output.rsplit('/').next() == folder.rsplit('/').next();
    let same_name = case
        .all_effects()
        .any(|(_, _, effect)| matches!(&effect.effect, Effect::Build { output: Some(output), .. } if builds(output)));
    let laid_above = is_inside(folder, into) && folder != into;
    let other_makes = case.effects.of_job(handover.job).filter(|(step, _)| *step < handover.step).any(|(_, effect)| {
        matches!(effect.effect, Effect::Unknown(_) | Effect::Write { .. } | Effect::Copy { .. } | Effect::Build { .. })
    });
    let Some(place) = brought_by(case, handover).filter(|_| same_name && laid_above && !other_makes) else { return };
    let here = if into.is_empty() { "the workspace itself".to_owned() } else { format!("`{into}`") };
    let mend =
        if into.is_empty() { pen::write(case, &Ask::FetchInto { folder }) } else { Mend::by_hand(format!("publish `{into}`")) };
    out.add(handover.path.at, format!("`{folder}` is published, and there is no such folder: the site was laid into {here}"))
        .witness(at(place), format!("the artifact `{name}` holds what was in the folder, not the folder itself"))
        .mend(mend);
}

/// The step that brought or copied the site.
fn brought_by(case: &Case<'_>, handover: &Handover) -> Option<Place> {
    let before = case.effects.of_job(handover.job).filter(|(step, _)| *step < handover.step);
    let brings = before.filter(|(_, effect)| matches!(effect.effect, Effect::Download { .. } | Effect::Copy { .. }));
    brings.last().map(|(_, effect)| effect.at)
}
