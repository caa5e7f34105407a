//! Something that the service does not take, whatever its form.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.forbidden",
    severity: Severity::Error,
    title: "A definition that the service refuses",
    why: "A pipeline that is defined in a template or in a definition of its own has to keep the rules of the service: how many stages it \
          has, what stands in the first, what each action must be told. Otherwise it is not made, or stays as it was before.",
    needs: &[],
    bad: &[
        r#"
== infra/way.yml
Resources:
  Way:
    Type: AWS::CodePipeline::Pipeline
    Properties:
      RoleArn: arn:aws:iam::111122223333:role/way
      «Stages»:
        - Name: Sources
          Actions:
            - Name: Fetch
              ActionTypeId: {Category: Source, Owner: AWS, Provider: CodeCommit, Version: "1"}
              Configuration: {RepositoryName: timetable, BranchName: main}
              OutputArtifacts: [{Name: Files}]
"#,
        r#"
== way.json
{
  "pipeline": {
    "name": "timetable",
    "roleArn": "arn:aws:iam::111122223333:role/way",
    "stages": [
      {"name": "Sources", "actions": [
        {"name": "Fetch", "actionTypeId": {"category": "Source", "owner": "AWS", "provider": "CodeCommit", "version": "1"},
         "configuration": {"RepositoryName": "timetable", "BranchName": "main"}, "outputArtifacts": [{"name": "Files"}]}]},
      {"name": "Site", "actions": [
        {"name": "«Publish»", "actionTypeId": {"category": "Deploy", "owner": "AWS", "provider": "S3", "version": "1"},
         "configuration": {"BucketName": "tarnsay-timetable"}, "inputArtifacts": [{"name": "Files"}]}]}
    ]
  }
}
"#,
        r"
== infra/app.yml
Resources:
  Timetable:
    Type: AWS::Amplify::App
    Properties: {Name: timetable}
  Main:
    Type: AWS::Amplify::Branch
    Properties: {AppId: !GetAtt «Timetabel».AppId, BranchName: main}
",
    ],
    good: &[
        // What the service itself knows, and what stands among the parameters.
        r"
== infra/app.yml
Parameters:
  Token: {Type: String, NoEcho: true}
Resources:
  Timetable:
    Type: AWS::Amplify::App
    Properties: {Name: !Ref 'AWS::StackName', AccessToken: !Ref Token}
",
        r#"
== stages
        - Name: Look
          Actions:
            - Name: Approve
              ActionTypeId: {Category: Approval, Owner: AWS, Provider: Manual, Version: "1"}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::Forbidden { whole, what, because, todo } = &issue.kind else { continue };
        out.add(issue.at, format!("{what}, so {whole} is refused"))
            .witness(WitnessSource::Catalog, because.clone())
            .mend(Mend::by_hand(todo.clone()));
    }
}
