//! An artifact is published that is not the one which holds the site.

use crate::case::{Case, at};
use crate::effects::{ArtifactName, Effect, EffectAt};
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;
use crate::trail::{Handover, Standing};

pub const RULE: Rule = Rule {
    id: "artifact.other-artifact",
    severity: Severity::Error,
    title: "Another artifact is published than the one that holds the site",
    why: "Sources and built site are both handed on, under names that differ by a word. Where the publish takes the sources, they go \
          online as they are, and the site that was built is never seen.",
    needs: &[],
    bad: &[
        r#"
== files
index.html
src/main.js
== buildspec.yml
version: 0.2
phases:
  build:
    commands: [npx vite build]
artifacts: {base-directory: dist, files: ['**/*']}
== stages
        - Name: Site
          Actions:
            - Name: Build
              ActionTypeId: {Category: Build, Owner: AWS, Provider: CodeBuild, Version: "1"}
              Configuration: {ProjectName: timetable}
              InputArtifacts: [{Name: Files}]
              OutputArtifacts: [{Name: ‹Pages›}]
            - Name: Publish
              RunOrder: 2
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-timetable, Extract: "true"}
              InputArtifacts: [{Name: «Files»}]
"#,
        r"
== git
main default
== files
index.html
== pipeline
on: push
concurrency: site
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: actions/upload-artifact@v5
        with: {name: files, path: .}
      - run: npx vite build
      - uses: actions/upload-artifact@v5
        with: {name: ‹pages›, path: dist}
  publish:
    needs: build
    runs-on: ubuntu-latest
    timeout-minutes: 10
    steps:
      - uses: actions/download-artifact@v6
        with: {name: «files»}
      - run: rsync -a . pier@tarnsay.example:/www
",
    ],
    good: &[r#"
== files
index.html
src/main.js
== buildspec.yml
version: 0.2
phases:
  build:
    commands: [npx vite build]
artifacts: {base-directory: dist, files: ['**/*']}
== stages
        - Name: Site
          Actions:
            - Name: Build
              ActionTypeId: {Category: Build, Owner: AWS, Provider: CodeBuild, Version: "1"}
              Configuration: {ProjectName: timetable}
              InputArtifacts: [{Name: Files}]
              OutputArtifacts: [{Name: Pages}]
            - Name: Publish
              RunOrder: 2
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-timetable, Extract: "true"}
              InputArtifacts: [{Name: Pages}]
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in case.trail.handovers.iter().filter(|handover| handover.publishes && whole(handover)) {
        let Some(taken) = taken(case, handover) else { continue };
        let Some(name) = taken.known() else { continue };
        // What is taken is made before anything is built, and what is built is taken by nobody.
        let Some((maker, step, _)) = made(case).find(|(_, _, made)| made.known() == Some(name)) else { continue };
        if builds_before(case, maker, step).is_some() {
            continue;
        }
        let mut others = made(case).filter(|(job, step, made)| {
            made.known() != Some(name) && builds_before(case, *job, *step).is_some() && !is_taken(case, made)
        });
        let (Some((job, step, other)), None) = (others.next(), others.next()) else { continue };
        if !case.pipeline.waits_for(handover.job, job) {
            continue;
        }
        let (Some(wanted), Some(build)) = (other.known(), builds_before(case, job, step)) else { continue };
        let place = taken.given.as_ref().map_or(handover.path.at, |text| text.inner());
        let made_at = other.given.as_ref().map_or(build.at, |text| text.inner());
        out.add(
            place,
            format!("`{name}` is published, which holds no built site: `{}` hands that on as `{wanted}`", case.job_name(job)),
        )
        .witness(at(made_at), "nothing takes this one")
        .mend(Mend::by_hand(format!("take `{wanted}`")));
    }
}

/// The whole workspace goes online, with no front page of its own build in it.
fn whole(handover: &Handover) -> bool {
    handover.path.folder.as_deref() == Some("") && handover.built.is_empty() && handover.standing != Standing::Never
}

/// The one artifact that the job of a publish takes before it.
fn taken<'c>(case: &'c Case<'_>, handover: &Handover) -> Option<&'c ArtifactName> {
    let before = case.effects.of_job(handover.job).filter(|(step, _)| *step <= handover.step);
    let mut taken = before.filter_map(|(_, effect)| effect.effect.takes()).map(|(name, _)| name);
    taken.next().filter(|_| taken.next().is_none())
}

/// Every artifact with the job and the step that make it.
fn made<'c>(case: &'c Case<'_>) -> impl Iterator<Item = (usize, usize, &'c ArtifactName)> {
    case.all_effects().filter_map(|(job, step, effect)| match &effect.effect {
        Effect::Upload { name, .. } => Some((job, step, name)),
        _ => None,
    })
}

fn is_taken(case: &Case<'_>, made: &ArtifactName) -> bool {
    case.all_effects().any(|(_, _, effect)| effect.effect.takes().is_some_and(|(name, _)| name.known() == made.known()))
}

/// A build that comes before a step of a job.
fn builds_before<'c>(case: &'c Case<'_>, job: usize, step: usize) -> Option<&'c EffectAt> {
    let before = case.effects.of_job(job).filter(|(number, _)| *number < step);
    before.map(|(_, effect)| effect).find(|effect| matches!(effect.effect, Effect::Build { .. }))
}
