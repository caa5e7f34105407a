//! A drafted template: a pipeline that fetches, builds, and puts what was built into a bucket.

use crate::draft::{Drafter, Head, Paper, Plan, Way, in_double_quotes, in_yaml};
use crate::formats::buildspec;

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        "infra/site-pipeline.yml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "s3"
    }

    fn write(&self, plan: &Plan<'_>, path: &str) -> String {
        let mut paper = Paper::yaml();
        let before = [
            "Connect the service to the repository's host (Developer Tools, Connections), and keep the connection's ARN."
                .to_owned(),
            format!(
                "Create the stack: aws cloudformation deploy --stack-name site --template-file {path} --parameter-overrides \
                     Connection=… Repository=… SiteBucket=… PipelineRole=… BuildRole=… WorkBucket=…"
            ),
        ];
        let publishing = plan.publishing(&Way { format: "codepipeline", ..Way::default() });
        paper.head(plan, &Head { publishing: &publishing, secrets: "", files: "", variables: "", before: &before });
        paper.line("AWSTemplateFormatVersion: '2010-09-09'");
        paper.gap();
        paper.block("Parameters:", parameters);
        paper.gap();
        paper.block("Resources:", |paper| {
            paper.block("Build:", |paper| build(paper, plan));
            paper.gap();
            paper.block("Way:", |paper| way(paper, plan));
        });
        paper.finish()
    }
}

fn parameters(paper: &mut Paper) {
    for (name, what) in [
        ("Connection", "The ARN of the connection to the repository's host"),
        ("Repository", "The repository, as OWNER/NAME"),
        ("SiteBucket", "The bucket that serves the site"),
        ("WorkBucket", "A bucket for what the stages hand on"),
        ("PipelineRole", "The ARN of a role that may use the connection, start the build, and write to both buckets"),
        ("BuildRole", "The ARN of a role that may read and write the working bucket, and write logs"),
    ] {
        paper.line(format!("{name}: {{Type: String, Description: {}}}", in_double_quotes(what)));
    }
}

fn build(paper: &mut Paper, plan: &Plan<'_>) {
    paper.line("Type: AWS::CodeBuild::Project");
    paper.block("Properties:", |paper| {
        paper.line("ServiceRole: !Ref BuildRole");
        paper.line("TimeoutInMinutes: 20");
        paper.line("Artifacts: {Type: CODEPIPELINE}");
        paper.block("Environment:", |paper| {
            paper.line("Type: LINUX_CONTAINER");
            paper.line("ComputeType: BUILD_GENERAL1_SMALL");
            paper.line("Image: aws/codebuild/amazonlinux-x86_64-standard:5.0");
        });
        paper.block("Source:", |paper| {
            paper.line("Type: CODEPIPELINE");
            paper.block("BuildSpec: |", |paper| {
                paper.line("version: 0.2");
                paper.block("phases:", |paper| buildspec::draft_phases(paper, plan, None));
                paper.block("artifacts:", |paper| {
                    paper.line(format!("base-directory: {}", in_yaml(&plan.output)));
                    paper.list("files", &["**/*"]);
                });
            });
        });
    });
}

fn way(paper: &mut Paper, plan: &Plan<'_>) {
    paper.line("Type: AWS::CodePipeline::Pipeline");
    paper.block("Properties:", |paper| {
        paper.comment("One run at a time; what waits is done afterwards.");
        paper.line("PipelineType: V2");
        paper.line("ExecutionMode: QUEUED");
        paper.line("RoleArn: !Ref PipelineRole");
        paper.line("ArtifactStore: {Type: S3, Location: !Ref WorkBucket}");
        paper.block("Stages:", |paper| {
            paper.line("- Name: Source");
            paper.block("  Actions:", |paper| {
                action(
                    paper,
                    "Fetch",
                    "{Category: Source, Owner: AWS, Provider: CodeStarSourceConnection, Version: '1'}",
                    |paper| {
                        paper.block("Configuration:", |paper| {
                            paper.line("ConnectionArn: !Ref Connection");
                            paper.line("FullRepositoryId: !Ref Repository");
                            paper.line(format!("BranchName: {}", in_yaml(&plan.branch)));
                            if plan.submodules || plan.history {
                                paper.comment("A clone rather than an archive, which has no history and no submodules.");
                                paper.line("OutputArtifactFormat: CODEBUILD_CLONE_REF");
                            }
                        });
                        paper.line("OutputArtifacts: [{Name: Files}]");
                    },
                );
            });
            paper.line("- Name: Build");
            paper.block("  Actions:", |paper| {
                action(paper, "Build", "{Category: Build, Owner: AWS, Provider: CodeBuild, Version: '1'}", |paper| {
                    paper.line("Configuration: {ProjectName: !Ref Build}");
                    paper.line("InputArtifacts: [{Name: Files}]");
                    paper.line("OutputArtifacts: [{Name: Pages}]");
                });
            });
            paper.line("- Name: Publish");
            paper.block("  Actions:", |paper| {
                action(paper, "Publish", "{Category: Deploy, Owner: AWS, Provider: S3, Version: '1'}", |paper| {
                    paper.line("Configuration: {BucketName: !Ref SiteBucket, Extract: 'true'}");
                    paper.line("InputArtifacts: [{Name: Pages}]");
                });
            });
        });
    });
}

fn action(paper: &mut Paper, name: &str, kind: &str, more: impl FnOnce(&mut Paper)) {
    paper.block(format!("  - Name: {name}"), |paper| {
        paper.inside(|paper| {
            paper.line(format!("ActionTypeId: {kind}"));
            more(paper);
        });
    });
}
