//! A store that serves a site, and that visitors may not read.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.closed-bucket",
    severity: Severity::Error,
    title: "The bucket serves the site, and visitors may not read it",
    why: "A bucket that serves a site answers everybody with a refusal until a policy lets them read what is in it, and until the bucket \
          itself lets such a policy count. Both are easy to miss by one word.",
    needs: &[],
    bad: &[
        r"
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      ‹WebsiteConfiguration›: {IndexDocument: index.html}
      PublicAccessBlockConfiguration: {BlockPublicPolicy: false, RestrictPublicBuckets: false}
  Reading:
    Type: AWS::S3::BucketPolicy
    Properties:
      Bucket: !Ref Pages
      PolicyDocument:
        Statement:
          - {Effect: Allow, Principal: '*', Action: 's3:GetObject', Resource: !GetAtt «Pages.Arn»}
",
        r"
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      ‹WebsiteConfiguration›: {IndexDocument: index.html}
      PublicAccessBlockConfiguration: {BlockPublicPolicy: «true», RestrictPublicBuckets: false}
  Reading:
    Type: AWS::S3::BucketPolicy
    Properties:
      Bucket: !Ref Pages
      PolicyDocument:
        Statement:
          - {Effect: Allow, Principal: '*', Action: 's3:GetObject', Resource: !Sub ‹'${Pages.Arn}/*'›}
",
        r"
== infra/site.yml
Resources:
  Notes:
    Type: AWS::S3::Bucket
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      ‹WebsiteConfiguration›: {IndexDocument: index.html}
      PublicAccessBlockConfiguration: {BlockPublicPolicy: false, RestrictPublicBuckets: false}
  Reading:
    Type: AWS::S3::BucketPolicy
    Properties:
      Bucket: !Ref Pages
      PolicyDocument:
        Statement:
          - {Effect: Allow, Principal: {AWS: '*'}, Action: ['s3:GetObject'], Resource: [!Sub «'${Notes.Arn}/*'»]}
",
    ],
    good: &[
        r"
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      WebsiteConfiguration: {IndexDocument: index.html}
      PublicAccessBlockConfiguration: {BlockPublicPolicy: false, RestrictPublicBuckets: false}
  Reading:
    Type: AWS::S3::BucketPolicy
    Properties:
      Bucket: !Ref Pages
      PolicyDocument:
        Statement:
          - {Effect: Allow, Principal: '*', Action: 's3:GetObject', Resource: !Join ['', [!GetAtt Pages.Arn, '/*']]}
",
        // Something of the cloud reads it, and nobody else.
        r"
== infra/site.yml
Resources:
  Pages:
    Type: AWS::S3::Bucket
    Properties:
      WebsiteConfiguration: {IndexDocument: index.html}
  Reading:
    Type: AWS::S3::BucketPolicy
    Properties:
      Bucket: !Ref Pages
      PolicyDocument:
        Statement:
          - {Effect: Allow, Principal: {Service: cloudfront.amazonaws.com}, Action: 's3:GetObject', Resource: !Sub '${Pages.Arn}/*'}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for store in &case.pipeline.stores {
        let Some(closed) = &store.closed else { continue };
        let finding = out.add(closed.at, format!("visitors may not read the site: {}", closed.because));
        if !closed.sure {
            finding.severity(Severity::Warning);
        }
        finding.witness(at(store.at), "the site is served from here");
        match closed.meant {
            Some(place) => finding.witness(at(place), "this is meant to let everybody read"),
            None => finding.witness(WitnessSource::Catalog, "pages are objects: reading them is allowed for bucket/*"),
        };
        finding.mend(Mend::by_hand(closed.todo.clone()));
    }
}
