//! What starts a pipeline, what its actions do, and how values of a template are read.

use super::values::Values;
use crate::carrier::parse;
use crate::effects::Effect;
use crate::formats::nodes::Nodes;
use crate::model::{Language, Work};
use crate::rehearsal::{Occasion, parse_occasion};
use crate::rules::Slip;
use crate::rules::slip::Scene;
use crate::text::FileId;

const GIT: &str = "== git\nmain default\npiers\nwinter/one\nv1 tag\nbeta tag\n== files\nindex.html\n";
const BUILD: &str = "== buildspec.yml\nversion: 0.2\nphases: {build: {commands: [npx vite build]}}\n\
                     artifacts: {base-directory: dist, files: ['**/*']}\n";

/// A template with a source, a build and a publish; `head` stands among the pipeline's properties, `source` in the source's configuration,
/// `more` among the resources and beside them.
fn template(head: &str, source: &str, more: &str) -> String {
    format!(
        "Resources:\n  Way:\n    Type: AWS::CodePipeline::Pipeline\n    Properties:\n      RoleArn: role\n{head}      Stages:\n        \
         - Name: Sources\n          Actions:\n            - Name: Fetch\n              \
         ActionTypeId: {{Category: Source, Owner: AWS, Provider: CodeStarSourceConnection, Version: '1'}}\n              \
         Configuration: {{ConnectionArn: a, FullRepositoryId: tarnsay/timetable, {source}}}\n              \
         OutputArtifacts: [{{Name: Files}}]\n        - Name: Site\n          Actions:\n            - Name: Build\n              \
         ActionTypeId: {{Category: Build, Owner: AWS, Provider: CodeBuild, Version: '1'}}\n              \
         Configuration: {{ProjectName: timetable}}\n              InputArtifacts: [{{Name: Files}}]\n              \
         OutputArtifacts: [{{Name: Pages}}]\n            - Name: Publish\n              RunOrder: 2\n              \
         ActionTypeId: {{Category: Deploy, Owner: AWS, Provider: S3, Version: '1'}}\n              \
         Configuration: {{BucketName: tarnsay, Extract: true}}\n              InputArtifacts: [{{Name: Pages}}]\n{more}"
    )
}

fn scene(head: &str, source: &str, more: &str) -> Scene {
    Slip::read(&format!("{GIT}{BUILD}== infra/way.yml\n{}", template(head, source, more))).scene()
}

fn starts_of(scene: &Scene, event: &str, changed: Option<&str>) -> &'static str {
    let occasion = parse_occasion(event, &scene.facts).unwrap_or_else(|error| panic!("{error}"));
    let occasion = Occasion { changed: changed.map(|path| vec![path.to_owned()]), ..occasion };
    scene.project().rehearse_one(0, &occasion).starts.answer.word()
}

#[test]
fn the_branch_of_the_source_or_filters_decide() {
    let of = |push: &str| {
        format!(
            "      PipelineType: V2\n      Triggers:\n        - ProviderType: CodeStarSourceConnection\n          GitConfiguration: {{SourceActionName: Fetch, {push}}}\n"
        )
    };
    let (main, piers) = (of("Push: [{Branches: {Includes: [main]}}]"), of("Push: [{Branches: {Excludes: [main]}}]"));
    let (tags, winter) = (of("Push: [{Tags: {Includes: ['v*']}}]"), of("Push: [{Branches: {Includes: ['winter/*']}}]"));
    let deep = of("Push: [{Branches: {Includes: ['w*']}}]");
    let two = of("Push: [{Branches: {Includes: [main]}}, {Tags: {Includes: [v1]}}]");
    let paths = of("Push: [{Branches: {Includes: [main]}, FilePaths: {Includes: ['site/**']}}]");
    let pulls = of("PullRequest: [{Events: [OPEN, UPDATED], Branches: {Includes: [main]}}]");
    let closed = of("PullRequest: [{Events: [CLOSED], Branches: {Includes: [main]}}]");
    let default = "Parameters: {Quay: {Type: String, Default: piers}}\n";
    let clock = "  Daily:\n    Type: AWS::Events::Rule\n    Properties: {ScheduleExpression: rate(1 day), Targets: [{Arn: !Sub '${Way.Arn}'}]}\n";
    for (head, source, more, event, expected) in [
        ("", "BranchName: main", "", "push:main", "yes"),
        ("", "BranchName: main", "", "push:piers", "no"),
        ("", "BranchName: main", "", "tag:v1", "no"),
        ("", "BranchName: main", "", "pull:main", "no"),
        ("", "BranchName: main", "", "hand:main", "yes"),
        ("", "BranchName: main", "", "clock", "no"),
        ("", "BranchName: main, DetectChanges: false", "", "push:main", "no"),
        ("", "BranchName: main, DetectChanges: 'false'", "", "hand:main", "yes"),
        ("", "BranchName: main, DetectChanges: true", "", "push:main", "yes"),
        ("", "BranchName: !Ref Quay", default, "push:piers", "yes"),
        ("", "BranchName: {Ref: Quay}", default, "push:main", "no"),
        ("", "BranchName: !Sub '${Quay}'", default, "push:piers", "yes"),
        ("", "BranchName: !Ref Unknown", "", "push:main", "unsure"),
        ("", "BranchName: !ImportValue quay", "", "push:piers", "unsure"),
        ("", "BranchName: '#{variables.branch}'", "", "push:piers", "unsure"),
        (&main, "BranchName: main", "", "push:main", "yes"),
        (&main, "BranchName: piers", "", "push:piers", "no"),
        (&main, "BranchName: main, DetectChanges: false", "", "push:main", "yes"),
        (&piers, "BranchName: main", "", "push:main", "no"),
        (&piers, "BranchName: main", "", "push:piers", "yes"),
        (&tags, "BranchName: main", "", "tag:v1", "yes"),
        (&tags, "BranchName: main", "", "tag:beta", "no"),
        (&tags, "BranchName: main", "", "push:main", "no"),
        (&winter, "BranchName: main", "", "push:winter/one", "yes"),
        (&deep, "BranchName: main", "", "push:winter/one", "no"),
        (&two, "BranchName: main", "", "push:main", "yes"),
        (&two, "BranchName: main", "", "tag:v1", "yes"),
        (&two, "BranchName: main", "", "tag:beta", "no"),
        (&pulls, "BranchName: main", "", "pull:main", "yes"),
        (&pulls, "BranchName: main", "", "pull:piers", "no"),
        (&pulls, "BranchName: main", "", "push:main", "no"),
        (&closed, "BranchName: main", "", "pull:main", "no"),
        ("", "BranchName: main, DetectChanges: false", clock, "clock", "yes"),
        ("", "BranchName: main, DetectChanges: false", clock, "push:main", "no"),
    ] {
        assert_eq!(starts_of(&scene(head, source, more), event, None), expected, "{head}{source} {event}");
    }
    let by_path = scene(&paths, "BranchName: main", "");
    assert_eq!(starts_of(&by_path, "push:main", Some("site/quay.css")), "yes");
    assert_eq!(starts_of(&by_path, "push:main", Some("notes.md")), "no");
}

#[test]
fn a_build_alone_is_started_by_its_filters() {
    let project = |groups: &str| {
        let text = format!(
            "Resources:\n  Build:\n    Type: AWS::CodeBuild::Project\n    Properties:\n      Source: {{Type: GITHUB}}\n      Triggers: {{Webhook: true{groups}}}\n"
        );
        Slip::read(&format!("{GIT}{BUILD}== infra/build.yml\n{text}")).scene()
    };
    const MAIN: &str = ", FilterGroups: [[{Type: EVENT, Pattern: PUSH}, {Type: HEAD_REF, Pattern: '^refs/heads/main$'}]]";
    const TAGS: &str = ", FilterGroups: [[{Type: EVENT, Pattern: PUSH}, {Type: HEAD_REF, Pattern: '^refs/tags/v.*'}]]";
    const WINTER: &str = ", FilterGroups: [[{Type: EVENT, Pattern: PUSH}, {Type: HEAD_REF, Pattern: '^refs/heads/winter/.*'}]]";
    const PULLS: &str = ", FilterGroups: [[{Type: EVENT, Pattern: 'PULL_REQUEST_CREATED, PULL_REQUEST_UPDATED'}, {Type: BASE_REF, Pattern: '^refs/heads/main$'}]]";
    for (groups, event, expected) in [
        ("", "push:piers", "yes"),
        (MAIN, "push:main", "yes"),
        (MAIN, "push:piers", "no"),
        (MAIN, "pull:main", "no"),
        (TAGS, "tag:v1", "yes"),
        (TAGS, "tag:beta", "no"),
        (WINTER, "push:winter/one", "yes"),
        (WINTER, "push:main", "no"),
        (PULLS, "pull:main", "yes"),
        (PULLS, "pull:piers", "no"),
        (PULLS, "push:main", "no"),
    ] {
        assert_eq!(starts_of(&project(groups), event, None), expected, "{groups} {event}");
    }
}

#[test]
fn branches_of_an_app_decide() {
    let app = |branch: &str, app: &str| {
        let text = format!(
            "Resources:\n  Quay:\n    Type: AWS::Amplify::App\n    Properties: {{Name: quay, Platform: WEB{app}}}\n  Main:\n    Type: AWS::Amplify::Branch\n    Properties: {{AppId: !GetAtt Quay.AppId, {branch}}}\n"
        );
        let file = "== amplify.yml\nversion: 1\nfrontend: {phases: {build: {commands: [npx vite build]}}, artifacts: {baseDirectory: dist, files: ['**/*']}}\n";
        Slip::read(&format!("{GIT}{file}== infra/app.yml\n{text}")).scene()
    };
    for (branch, more, event, expected) in [
        ("BranchName: main", "", "push:main", "yes"),
        ("BranchName: main", "", "push:piers", "no"),
        ("BranchName: main, EnableAutoBuild: false", "", "push:main", "no"),
        ("BranchName: main, EnableAutoBuild: false", "", "hand:main", "yes"),
        ("BranchName: main, EnablePullRequestPreview: true", "", "pull:main", "yes"),
        ("BranchName: main", "", "pull:main", "no"),
        (
            "BranchName: main",
            ", AutoBranchCreationConfig: {EnableAutoBranchCreation: true, AutoBranchCreationPatterns: ['winter/*']}",
            "push:winter/one",
            "yes",
        ),
    ] {
        assert_eq!(starts_of(&app(branch, more), event, None), expected, "{branch} {event}");
    }
    let scene = app("BranchName: main", "");
    assert_eq!(scene.prepared.len(), 1, "the file is a part of the app, and no pipeline of its own");
    let inline = ", BuildSpec: \"version: 1\\nfrontend:\\n  phases: {build: {commands: [ls]}}\\n\"";
    let scene = app("BranchName: main", inline);
    assert_eq!(scene.prepared.len(), 2, "with a text of its own, the app does not read the file");
}

#[test]
fn actions_become_jobs_that_wait_for_those_before() {
    let scene = scene("", "BranchName: main", "");
    let pipeline = &scene.prepared[0].pipeline;
    let waits: Vec<(&str, Vec<&str>)> = pipeline
        .jobs
        .iter()
        .map(|job| (job.id.value.as_str(), job.needs.iter().map(|need| need.value.as_str()).collect()))
        .collect();
    assert_eq!(waits, [("Fetch", vec![]), ("Build", vec!["Fetch"]), ("Publish", vec!["Build"])]);
    let project = scene.project();
    let case = project.case(0);
    let published = case.published().next().expect("a publish");
    assert_eq!(published.place, Some("s3://tarnsay"));
    let handover = case.trail.handovers.iter().find(|one| one.publishes).expect("what is published");
    assert_eq!(handover.front_page, crate::trail::Standing::Perhaps, "what is in the artifact is what the build wrote");
    assert_eq!(handover.brought, Some(("Pages".to_owned(), String::new())));
    assert!(project.prepared.len() == 1, "the build file is a part of the pipeline");
}

#[test]
fn a_build_written_in_the_template_keeps_its_places() {
    let text = "Resources:\n  Build:\n    Type: AWS::CodeBuild::Project\n    Properties:\n      Triggers: {Webhook: true}\n      Source:\n        Type: GITHUB\n        BuildSpec: |\n          version: 0.2\n          phases:\n            build:\n              commands:\n                - npm run gone\n";
    let package = "== package.json\n{\"scripts\": {\"build\": \"vite build\"}}\n";
    let scene = Slip::read(&format!("{GIT}{package}== infra/build.yml\n{text}")).scene();
    let project = scene.project();
    let findings = crate::check(&project, 0);
    let gone = findings.iter().find(|finding| finding.rule == "site.absent-script").expect("a script that is not there");
    assert_eq!(scene.sources.slice(gone.at), "npm run gone");
}

#[test]
fn a_build_alone_may_fill_a_bucket_itself() {
    let published = |artifacts: &str| {
        let text = format!(
            "Resources:\n  Store: {{Type: 'AWS::S3::Bucket'}}\n  Build:\n    Type: AWS::CodeBuild::Project\n    Properties:\n      Source: {{Type: GITHUB}}\n      Triggers: {{Webhook: true}}\n      Artifacts: {{Type: S3, Location: !Ref Store{artifacts}}}\n"
        );
        let scene = Slip::read(&format!("{GIT}{BUILD}== infra/build.yml\n{text}")).scene();
        let project = scene.project();
        let case = project.case(0);
        let found = case.published().next();
        found.map(|one| (one.folder.and_then(|folder| folder.folder.clone()), one.place.map(str::to_owned)))
    };
    let there = Some((Some("dist".to_owned()), Some("s3://Store".to_owned())));
    assert_eq!(published(", Name: /, Packaging: NONE"), there);
    assert_eq!(published(""), there);
    assert_eq!(published(", Packaging: ZIP"), None, "an archive is there for others to fetch");
}

#[test]
fn approvals_commands_and_closed_stages() {
    let stages = "        - Name: Look\n          Actions:\n            - {Name: Approve, ActionTypeId: {Category: Approval, Owner: AWS, Provider: Manual, Version: '1'}}\n            - Name: Check\n              ActionTypeId: {Category: Compute, Owner: AWS, Provider: Commands, Version: '1'}\n              Commands: [npm ci, npm test]\n              InputArtifacts: [{Name: Files}]\n";
    let head = "      DisableInboundStageTransitions: [{StageName: Look, Reason: winter}]\n";
    let scene = scene(head, "BranchName: main", stages);
    let pipeline = &scene.prepared[0].pipeline;
    let job = |name: &str| pipeline.jobs.iter().position(|job| job.id.value == name).expect(name);
    assert!(matches!(pipeline.jobs[job("Approve")].steps[0].work, Work::Gate));
    assert!(pipeline.jobs[job("Check")].steps.iter().any(|step| matches!(step.work, Work::Runs { .. })));
    let occasion = parse_occasion("push:main", &scene.facts).unwrap_or_else(|error| panic!("{error}"));
    let played = scene.project().rehearse_one(0, &occasion);
    assert_eq!((played.jobs[job("Build")].answer.word(), played.jobs[job("Check")].answer.word()), ("yes", "no"));
}

#[test]
fn several_outputs_are_told_apart_by_their_names() {
    let text = template("", "BranchName: main", "")
        .replace("OutputArtifacts: [{Name: Pages}]", "OutputArtifacts: [{Name: Pages}, {Name: Notes}]");
    let build = "== buildspec.yml\nversion: 0.2\nphases: {build: {commands: [npx vite build]}}\nartifacts:\n  files: ['**/*']\n  secondary-artifacts:\n    Notes: {files: ['**/*'], base-directory: notes}\n    Pages: {files: ['**/*'], base-directory: dist}\n";
    let scene = Slip::read(&format!("{GIT}{build}== infra/way.yml\n{text}")).scene();
    let project = scene.project();
    let case = project.case(0);
    let made: Vec<(String, String)> = case
        .effects
        .of_job(1)
        .filter_map(|(_, effect)| match &effect.effect {
            Effect::Upload { name, paths, .. } => Some((name.known()?.to_owned(), paths[0].written.clone())),
            _ => None,
        })
        .collect();
    assert_eq!(made, [("Notes".to_owned(), "notes".to_owned()), ("Pages".to_owned(), "dist".to_owned())]);
}

#[test]
fn functions_of_a_template_are_read_as_far_as_they_are_known() {
    let text = "Parameters: {Quay: {Type: String, Default: main}, Pier: {Type: String}}\nResources: {Site: {Type: 'AWS::S3::Bucket'}}\n\
                a: !Ref Quay\nb: {Ref: Quay}\nc: !Sub 'to-${Quay}-${!Later}'\nd: {'Fn::Join': ['-', [one, !Ref Quay]]}\ne: !Ref Pier\n\
                f: !Sub '${Pier}'\ng: !If [A, b, c]\nh: plain\ni: !Ref Site\nj: !GetAtt Site.Arn\nk: {'Fn::GetAtt': [Site, Arn]}\nl: !Sub '${Site.Arn}/*'\nm: !Join ['', [!GetAtt Site.Arn, /*]]\n";
    let tree = parse(text);
    let values = Values::of(Nodes { tree: &tree, file: FileId(0), language: Language::Contexts });
    let root = tree.documents[0];
    let known = |key: &str| values.text_at(root, key).map(|text| text.value);
    for (key, expected) in [
        ("a", Some("main")),
        ("b", Some("main")),
        ("c", Some("to-main-${Later}")),
        ("d", Some("one-main")),
        ("e", None),
        ("f", None),
        ("g", None),
        ("h", Some("plain")),
        ("i", None),
    ] {
        assert_eq!(known(key).as_deref(), expected, "{key}");
    }
    let referred = |key: &str| {
        let (resource, rest) = values.referred(values.get(root, key)?)?;
        Some(format!("{}{rest}", resource.name.value))
    };
    for (key, expected) in [("i", "Site"), ("j", "Site"), ("k", "Site"), ("l", "Site/*"), ("m", "Site/*")] {
        assert_eq!(referred(key).as_deref(), Some(expected), "{key}");
    }
}

/// A program that makes resources, with lines in the constructor of its stack.
fn program(lines: &str, files: &str) -> Scene {
    let text = format!(
        "import * as cdk from 'aws-cdk-lib';\nexport class Site extends cdk.Stack {{\n  constructor(scope, id) {{\n    super(scope, id);\n{lines}  }}\n}}\n"
    );
    Slip::read(&format!("{GIT}cdk.json\n{files}== cdk.json\n{{}}\n== lib/site.ts\n{text}")).scene()
}

const APP: &str = "    const app = new amplify.App(this, 'Quay', {\n      platform: amplify.Platform.WEB,\n      buildSpec: codebuild.BuildSpec.fromObjectToYaml({\n        version: 1,\n        frontend: {\n          phases: { build: { commands: ['npx vite build'] } },\n          artifacts: { baseDirectory: 'dist', files: ['**/*'] },\n        },\n      }),\n    });\n    app.addBranch('main');\n";

#[test]
fn an_app_that_is_written_as_code_is_read_as_in_a_template() {
    let scene = program(APP, "");
    assert_eq!((starts_of(&scene, "push:main", None), starts_of(&scene, "push:piers", None)), ("yes", "no"));
    let rules = |from: &str, to: &str| {
        let scene = program(&APP.replace(from, to), "");
        let project = scene.project();
        let findings = crate::check(&project, 0);
        findings.iter().map(|finding| format!("{} {}", finding.rule, scene.sources.slice(finding.at))).collect::<Vec<_>>()
    };
    assert_eq!(rules("'main'", "'main'"), Vec::<String>::new());
    assert_eq!(rules("'main'", "'master'"), ["branch.absent master"]);
    assert_eq!(rules("'dist'", "'build'"), ["artifact.wrong-folder build"]);
    assert_eq!(rules("Platform.WEB,", "Platform.WEB_COMPUTE,"), ["site.no-server WEB_COMPUTE"]);
    assert_eq!(rules("build: {", "Build: {")[0], "form.unknown-key Build");
    assert_eq!(rules("'main'", "branches[0]"), Vec::<String>::new(), "what is no literal is not known");
}

#[test]
fn a_pipeline_that_is_written_as_code_has_its_stages() {
    let lines = "    const files = new Artifact();\n    const pages = new Artifact('Pages');\n    const build = new PipelineProject(this, 'Build', { buildSpec: BuildSpec.fromSourceFilename('buildspec.yml') });\n    const way = new Pipeline(this, 'Way', { pipelineName: 'timetable' });\n    way.addStage({ stageName: 'Sources', actions: [new CodeStarConnectionsSourceAction({ actionName: 'Fetch', owner: 'tarnsay', repo: 'timetable', branch: 'main', connectionArn: arn, output: files })] });\n    const step = new CodeBuildAction({ actionName: 'Build', project: build, input: files, outputs: [pages] });\n    way.addStage({ stageName: 'Site', actions: [step, new S3DeployAction({ actionName: 'Publish', bucket: store, input: pages, runOrder: 2 })] });\n";
    let scene = program(lines, BUILD);
    let project = scene.project();
    let told: Vec<String> = crate::check(&project, 0).iter().map(|finding| finding.rule.to_owned()).collect();
    assert_eq!(told, Vec::<String>::new());
    let jobs: Vec<&str> = scene.prepared[0].pipeline.jobs.iter().map(|job| job.id.value.as_str()).collect();
    assert_eq!(jobs, ["Fetch", "Build", "Publish"]);
    assert_eq!((starts_of(&scene, "push:main", None), starts_of(&scene, "push:piers", None)), ("yes", "no"));
    let usual = program(&lines.replace(", branch: 'main'", ""), BUILD);
    assert_eq!(starts_of(&usual, "push:main", None), "no", "the branch is master where none is written");
    let packed = program(&lines.replace("runOrder: 2", "runOrder: 2, extract: false, objectKey: 'a.zip'"), BUILD);
    let project = packed.project();
    let told: Vec<String> = crate::check(&project, 0).iter().map(|finding| finding.rule.to_owned()).collect();
    assert_eq!(told, ["artifact.left-packed"]);
}

#[test]
fn a_bucket_that_is_written_as_code_says_who_may_read_it() {
    let closed = |more: &str| {
        let scene = program(&format!("    new s3.Bucket(this, 'Store', {{ websiteIndexDocument: 'index.html'{more} }});\n"), "");
        scene.prepared[0].pipeline.stores[0].closed.as_ref().map(|closed| closed.sure)
    };
    assert_eq!(closed(""), None);
    assert_eq!(closed(", publicReadAccess: true"), Some(false));
    assert_eq!(closed(", publicReadAccess: true, blockPublicAccess: s3.BlockPublicAccess.BLOCK_ALL"), Some(true));
    assert_eq!(closed(", publicReadAccess: true, blockPublicAccess: s3.BlockPublicAccess.BLOCK_ACLS"), None);
}

#[test]
fn a_program_without_its_mark_is_none() {
    let text = "import * as cdk from 'aws-cdk-lib';\nnew amplify.App(this, 'Quay', {});\n";
    let scene = Slip::read(&format!("{GIT}== lib/site.ts\n{text}")).scene();
    assert!(scene.prepared.is_empty(), "without cdk.json nobody looks into programs");
}
