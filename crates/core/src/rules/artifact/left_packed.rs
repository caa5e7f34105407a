//! A site that goes online as an archive.

use crate::case::{Case, at};
use crate::effects::Laid;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.left-packed",
    severity: Severity::Error,
    title: "The site goes online as an archive, not as pages",
    why: "Artifacts travel as one packed file. Where it is put online as it is, visitors find an archive to download and no page.",
    needs: &[],
    bad: &[r#"
== files
index.html
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
              Configuration: {BucketName: tarnsay-timetable, Extract: «false», ObjectKey: timetable.zip}
              InputArtifacts: [{Name: ‹Pages›}]
"#],
    good: &[r#"
== files
index.html
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
    // An archive beside the site is meant to be one.
    if case.trail.handovers.iter().any(|other| other.publishes && !matches!(other.laid, Some(Laid::Packed(_)))) {
        return;
    }
    for handover in case.trail.handovers.iter().filter(|handover| case.goes_online(handover)) {
        let Some(Laid::Packed(place)) = handover.laid else { continue };
        let finding = out.add(place, "the site goes online as one archive: visitors find no page");
        match case.effects.of_job(handover.job).find(|(step, effect)| *step <= handover.step && effect.effect.takes().is_some()) {
            Some((_, effect)) => finding.witness(at(effect.at), "this is put there as it is"),
            None => finding.witness(WitnessSource::Catalog, "an artifact is one packed file"),
        };
        let exact = case.sources.slice(place) == "false";
        finding.mend(match exact {
            true => Mend::likely("write true, so that it is unpacked", [Edit::replace(place, "true")]),
            false => Mend::by_hand("let it be unpacked"),
        });
    }
}
