use super::super::{FilesError, claim_text, pipeline_files};
use super::FORMAT;
use crate::facts::{Facts, FileList, Settings, Shelf};
use crate::finding::Finding;
use crate::formats::AskedFor;
use crate::model::StartsFrom;
use crate::project::Project;
use crate::rehearsal::{Answer, Occasion, OccasionKind};
use crate::rules::slip::{Scene, Slip};
use crate::text::Sources;
use crate::views::facts::setting_lines;

const FERRY: &str = "== git
main default
== package.json
{\"scripts\": {\"build\": \"vite build\"}, \"devDependencies\": {\"vite\": \"^7\"}}
== tide.yml
build:
  do:
    - npm install
    - npm run build
  with: before.list
look:
  do: [npm run absent]
  then: later.tide
== before.list
- echo ready
== later.tide
after:
  do: [npm run gone]
";

fn scene(text: &str) -> Scene {
    Slip::read(text).scene()
}

fn findings(scene: &Scene) -> Vec<Finding> {
    let project = scene.project();
    (0..project.prepared.len()).flat_map(|index| crate::check(&project, index)).collect()
}

fn starts(project: &Project<'_>, kind: OccasionKind, name: &str) -> Vec<Answer> {
    project.rehearse(&Occasion::new(kind, Some(name))).iter().map(|one| one.starts.answer).collect()
}

#[test]
fn several_pipelines_of_a_file_and_what_they_are_made_of_and_run() {
    let scene = scene(FERRY);
    let project = scene.project();
    let labels: Vec<String> = (0..project.prepared.len()).map(|index| project.label(index)).collect();
    assert_eq!(labels, ["tide.yml, build", "tide.yml, look", "later.tide"]);
    let steps: Vec<usize> = project.prepared.iter().map(|one| one.pipeline.jobs[0].steps.len()).collect();
    assert_eq!(steps, [4, 3, 2], "the sources, then the part, then the commands");
    let told: Vec<(&str, &str)> = findings(&scene)
        .iter()
        .filter(|finding| finding.rule == "site.absent-script")
        .map(|finding| (finding.rule, scene.sources.slice(finding.at)))
        .collect();
    assert_eq!(told, [("site.absent-script", "npm run absent"), ("site.absent-script", "npm run gone")]);
}

#[test]
fn what_does_not_fit_is_told_once_for_a_file() {
    let scene = scene("== tide.yml\nbuild:\n  do: [ls]\n  done: [ls]\nlook: {do: [ls]}\n");
    let told: Vec<&str> = findings(&scene).iter().map(|finding| finding.rule).filter(|rule| rule.starts_with("form.")).collect();
    assert_eq!(told, ["form.unknown-key"]);
}

#[test]
fn a_fix_is_spelled_by_the_pen_of_the_format() {
    let settings = "== git\nmain default\n== dulk.toml\n[[starts]]\nfile = \"tide.yml\"\npush = [\"main\"]\n";
    let scene = scene(&format!("{settings}== tide.yml\nbuild:\n  do: ['rsync -a site/ pier@tarnsay.example:/www']\n"));
    let findings = findings(&scene);
    let unbounded = findings.iter().find(|finding| finding.rule == "order.unbounded").expect("a job without a limit");
    assert_eq!(unbounded.mend.title, "ask the harbour master for a limit");
}

#[test]
fn nobody_knows_what_starts_it_until_it_is_declared() {
    let unknown = scene(FERRY);
    let project = unknown.project();
    assert_eq!(starts(&project, OccasionKind::Push, "main"), [Answer::Unsure; 3]);
    let lines = setting_lines(project.prepared, project.facts, project.sources);
    assert_eq!(lines[0].name, "what starts tide.yml");
    assert!(lines[0].value.is_none() && lines[0].declare.as_ref().is_some_and(|(_, line)| line.contains("tide.yml")));
    let declared = scene(&format!(
        "{FERRY}== dulk.toml\n[[starts]]\nfile = \"tide.yml\"\npush = [\"main\"]\ntags = [\"v*\"]\n[[starts]]\nfile = \"tide.yml\"\npulls = [\"**\"]\n"
    ));
    let project = declared.project();
    let (yes, no, unsure) = (Answer::Yes, Answer::No, Answer::Unsure);
    assert_eq!(starts(&project, OccasionKind::Push, "main"), [yes, yes, unsure]);
    assert_eq!(starts(&project, OccasionKind::Push, "quay"), [no, no, unsure]);
    assert_eq!(starts(&project, OccasionKind::Tag, "v1"), [yes, yes, unsure]);
    assert_eq!(starts(&project, OccasionKind::Pull, "quay"), [yes, yes, unsure]);
    assert_eq!(starts(&project, OccasionKind::Clock, "main"), [no, no, unsure]);
    assert!(matches!(project.prepared[0].pipeline.starts_from, StartsFrom::Declared(_)));
}

#[test]
fn a_branch_that_is_only_declared_is_not_mended_in_the_settings() {
    let scene = scene(&format!("{FERRY}== dulk.toml\n[[starts]]\nfile = \"tide.yml\"\npush = [\"master\"]\n"));
    let found = findings(&scene);
    let absent = found.iter().find(|finding| finding.rule == "branch.absent").expect("a branch that is not there");
    assert_eq!(scene.sources.get(absent.at.file).path, "dulk.toml");
    assert!(!absent.mend.certain && absent.mend.edits.is_empty(), "{:?}", absent.mend);
}

#[test]
fn settings_name_pipelines_whose_starts_stand_elsewhere() {
    for (file, part) in [
        ("tides.yml", "no such file"),
        ("package.json", "neither its name nor what it holds"),
        (".github/workflows/site.yml", "says itself what starts it"),
    ] {
        let slip = Slip::read(&format!("{FERRY}== pipeline\non: push\njobs:\n  a: {{runs-on: x, steps: [{{run: ls}}]}}\n"));
        let settings = format!("[[starts]]\nfile = \"{file}\"\n");
        let source = crate::text::SourceFile::new("dulk.toml", settings);
        let settings = crate::facts::read_settings(crate::text::FileId(0), &source).unwrap_or_else(|error| panic!("{error:?}"));
        let found = files(&slip, &settings, AskedFor::Everything);
        assert!(matches!(&found, Err(FilesError::Settings { reason, .. }) if reason.contains(part)), "{file}: {found:?}");
    }
}

fn files(slip: &Slip, settings: &Settings, asked: AskedFor<'_>) -> Result<Vec<String>, FilesError> {
    let paths = slip.sections.iter().filter_map(|section| section.path()).map(str::to_owned).collect();
    let mut sources = Sources::default();
    let found = pipeline_files(slip, Some(&FileList::new(paths, Vec::new())), asked, (settings, &|_| false), &mut sources)?;
    Ok(found.iter().map(|file| format!("{} {}", sources.get(file.file).path, file.format.id())).collect())
}

#[test]
fn a_file_is_claimed_by_its_name_or_else_by_what_it_holds() {
    let slip = Slip::read(&format!("{FERRY}== docs/some.yml\nx: {{do: [ls]}}\n== tide.yaml\nx: {{do: [ls]}}\n"));
    let all = files(&slip, &Settings::default(), AskedFor::Everything);
    assert_eq!(all, Ok(vec!["later.tide tide".into(), "tide.yaml tide".into(), "tide.yml tide".into()]));
    let only = |file: &str| files(&slip, &Settings::default(), AskedFor::Only { files: &[file.to_owned()], folders: &[] });
    assert_eq!(only("docs/some.yml"), Ok(vec!["docs/some.yml tide".into()]));
    assert!(matches!(only("package.json"), Err(FilesError::Unclaimed { path, .. }) if path == "package.json"));
    assert!(slip.has("before.list"));
}

#[test]
fn a_text_that_fits_several_formats_is_nobodys() {
    let both = "on: push\njobs:\n  steps: [ls]\n  do: {steps: []}\n";
    let reason = claim_text(both).expect_err("two formats fit");
    assert!(reason.contains("more than one format: workflow, tide"), "{reason}");
    assert_eq!(claim_text("a: {do: [ls]}").map(|format| format.id()), Ok(FORMAT.id()));
}

#[test]
fn a_slip_of_its_name_is_told() {
    let scene = scene("== tide.yaml\nbuild: {do: [ls]}\n");
    let told: Vec<&str> = findings(&scene).iter().map(|finding| finding.rule).collect();
    assert!(told.contains(&"form.misplaced"), "{told:?}");
}

#[test]
fn dulk_toml_accepts_what_no_comment_can() {
    let with = |entry: &str| {
        let scene = scene(&format!("{FERRY}== dulk.toml\n{entry}"));
        let found = findings(&scene);
        let absent = found.iter().filter(|finding| finding.rule == "site.absent-script").count();
        (absent, found.iter().filter(|finding| finding.rule == "form.idle-acceptance").count())
    };
    let entry =
        |more: &str| format!("[[accept]]\nrule = \"site.absent-script\"\nfile = \"tide.yml\"\n{more}because = \"it comes\"\n");
    assert_eq!(with(""), (2, 0));
    assert_eq!(with(&entry("")), (1, 0), "the other one stands in another file");
    assert_eq!(with(&entry("job = \"look\"\n")), (1, 0));
    assert_eq!(with(&entry("job = \"build\"\n")), (2, 1));
    assert_eq!(with(&entry("line = \"do: [npm run absent]\"\n")), (1, 0));
    assert_eq!(with(&entry("line = \"do: [npm run]\"\n")), (2, 1));
}

#[test]
fn a_third_format_needs_no_facts_to_be_read() {
    let facts = Facts::default();
    let scene = scene(FERRY);
    let project = Project::new(&scene.prepared, &facts, &scene.sources, None);
    assert!(
        (0..project.prepared.len()).all(|index| crate::check(&project, index).iter().all(|one| one.rule != "site.absent-script"))
    );
}

#[test]
fn files_are_shared_by_all_steps_and_tools_only_by_those_of_a_machine() {
    let told = |commands: &str| {
        let scene = scene(&format!("== package.json\n{{}}\n== tide.yml\nbuild: {{do: [{commands}]}}\n"));
        let found = findings(&scene);
        found.into_iter().filter(|one| one.rule == "site.no-manager" || one.rule == "site.no-program").count()
    };
    // An image brings what it brings to its own step alone.
    assert_eq!(told("['node:24-alpine', git, status]"), 1);
    assert_eq!(told("git status"), 0);
    assert_eq!(told("['node:24-alpine', npm, version], git status"), 0);
}

#[test]
fn scopes_gates_and_programs_are_played() {
    let text = "== package.json\n{\"scripts\": {}}\n== web/package.json\n{\"scripts\": {\"build\": \"vite build\"}}\n\
                == tide.yml\nbuild:\n  do:\n    - in: web\n      do: [npm run build]\n    - wait\n    - ['node:24', npm, run, 'sail away']\n";
    let scene = scene(&format!("{text}== git\nmain default\n== dulk.toml\n[[starts]]\nfile = \"tide.yml\"\npush = [\"main\"]\n"));
    let absent: Vec<String> =
        findings(&scene).iter().filter(|one| one.rule == "site.absent-script").map(|one| one.message.clone()).collect();
    assert_eq!(absent.len(), 1, "{absent:?}");
    assert!(absent[0].contains("sail away"), "{absent:?}");
    let project = scene.project();
    let played = &project.rehearse(&Occasion::new(OccasionKind::Push, Some("main")))[0];
    let (yes, unsure) = (Answer::Yes, Answer::Unsure);
    assert_eq!(played.steps[0], [yes, yes, yes, unsure], "what stands behind a gate waits for a person");
}
