//! A pipeline that nobody tells of a push.

use crate::case::{Case, at};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "trigger.undetected",
    severity: Severity::Warning,
    title: "Nobody looks for changes, and nothing else starts the pipeline",
    why: "A source may be told not to look for changes, because a filter or a rule starts the pipeline instead. Where there is none, a push \
          does nothing: the site stays as it was until somebody starts the pipeline by hand.",
    needs: &[],
    bad: &[r#"
== git
main default
== files
index.html
== infra/way.yml
Resources:
  Way:
    Type: AWS::CodePipeline::Pipeline
    Properties:
      RoleArn: arn:aws:iam::111122223333:role/way
      Stages:
        - Name: Sources
          Actions:
            - Name: Fetch
              ActionTypeId: {Category: Source, Owner: AWS, Provider: CodeStarSourceConnection, Version: "1"}
              Configuration:
                ConnectionArn: arn:aws:codeconnections:eu-north-1:111122223333:connection/quay
                FullRepositoryId: tarnsay/timetable
                BranchName: main
                DetectChanges: «false»
              OutputArtifacts: [{Name: Files}]
        - Name: Site
          Actions:
            - Name: Publish
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-timetable, Extract: "true"}
              InputArtifacts: [{Name: ‹Files›}]
"#],
    good: &[r#"
== git
main default
== files
index.html
== infra/way.yml
Resources:
  Way:
    Type: AWS::CodePipeline::Pipeline
    Properties:
      RoleArn: arn:aws:iam::111122223333:role/way
      PipelineType: V2
      Triggers:
        - ProviderType: CodeStarSourceConnection
          GitConfiguration:
            SourceActionName: Fetch
            Push: [{Branches: {Includes: [main]}}]
      Stages:
        - Name: Sources
          Actions:
            - Name: Fetch
              ActionTypeId: {Category: Source, Owner: AWS, Provider: CodeStarSourceConnection, Version: "1"}
              Configuration:
                ConnectionArn: arn:aws:codeconnections:eu-north-1:111122223333:connection/quay
                FullRepositoryId: tarnsay/timetable
                BranchName: main
                DetectChanges: false
              OutputArtifacts: [{Name: Files}]
        - Name: Site
          Actions:
            - Name: Publish
              ActionTypeId: {Category: Deploy, Owner: AWS, Provider: S3, Version: "1"}
              Configuration: {BucketName: tarnsay-timetable, Extract: "true"}
              InputArtifacts: [{Name: Files}]
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(place) = case.pipeline.undetected else { return };
    let Some(published) = case.published().next() else { return };
    let finding = out.add(place, "a push starts nothing: nobody looks for changes here, and no filter or rule of this file does");
    finding.witness(at(published.effect.at), "this publishes only when somebody starts it by hand");
    finding.witness(WitnessSource::Catalog, "changes are looked for unless it is said otherwise");
    finding.mend(match case.sources.slice(place) {
        "false" => Mend::likely("write true", [Edit::replace(place, "true")]),
        _ => Mend::by_hand("let changes be looked for"),
    });
}
