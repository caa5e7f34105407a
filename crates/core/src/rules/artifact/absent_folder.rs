//! A folder that is handed on or published and that nothing makes.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::Place;
use crate::trail::Standing;

pub const RULE: Rule = Rule {
    id: "artifact.absent-folder",
    severity: Severity::Error,
    title: "A folder is published that nothing makes",
    why: "A folder that no step makes and git does not track is not there. The step fails, or an empty site goes online.",
    needs: &[],
    bad: &[
        r"
== files
index.html
== steps
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: «public»}
",
        r"
== files
index.html
== gitlab
build:
  script:
    - mkdir out
  artifacts:
    paths: [«dist»]
",
        r"
== git
main default
== files
index.html
== .travis.yml
language: generic
script: mkdir dist
deploy:
  provider: ‹s3›
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: «dist»
  on: {branch: main}
",
        r#"
== git
main default
== files
index.html
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "mkdir site"
    - action: "Send"
      type: "SFTP"
      local_path: "«dist»"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
    ],
    good: &[
        r"
== files
public/index.html
== steps
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: public}
",
        r"
== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: ./make
      - uses: actions/upload-pages-artifact@v4
        with: {path: public}
",
        r"
== files
index.html
== gitlab
build:
  script:
    - mkdir dist
  artifacts:
    paths: [dist]
",
        r"
== git
main default
== files
index.html
== .travis.yml
language: generic
script: mkdir dist
deploy:
  provider: s3
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: dist
  on: {branch: main}
",
        r#"
== git
main default
== files
index.html
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "mkdir dist"
    - action: "Send"
      type: "SFTP"
      local_path: "dist"
      remote_path: "/srv/timetable"
      host: "web.tarnsay.example"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    // Without the list of files nothing is known of what git brings.
    if case.facts.files.known().is_none() {
        return;
    }
    for missing in &case.trail.missing {
        speak_of_copy(case, missing, out);
    }
    let mut last_build: HashMap<usize, usize> = HashMap::new();
    for (job, step, _) in case.all_effects().filter(|(.., effect)| matches!(effect.effect, Effect::Build { .. })) {
        last_build.insert(job, step);
    }
    let builds_later =
        |handover: &crate::trail::Handover| last_build.get(&handover.job).is_some_and(|step| *step > handover.step);
    let switched_off = switched_off(case);
    let mut builds_before = HashMap::new();
    let mut not_fetched: HashMap<usize, bool> = HashMap::new();
    // What a host's own file names is another rule's, unless it is cleaned away.
    let cleaned = |one: &&crate::trail::Handover| case.pipeline.jobs[one.job].steps[one.step].cleans.is_some();
    for handover in case.trail.handovers.iter().chain(case.trail.hosted.iter().filter(cleaned)) {
        let job = &case.pipeline.jobs[handover.job];
        let conditional = job.steps[handover.step].when.is_some() && !handover.publishes;
        if handover.standing != Standing::Never || handover.together > 1 || conditional {
            continue;
        }
        let removed = handover.removed.as_ref();
        // When a build writes another folder, another rule says so; when it comes later, a third one.
        if removed.is_none() && (!handover.built.is_empty() || builds_later(handover)) {
            continue;
        }
        // What an artifact brought may lie one folder off: `artifact.nested` looks at that.
        if removed.is_none() && handover.brought.is_some() {
            continue;
        }
        // `artifact.unused` names the artifact that is not fetched.
        let mut hands_on = |job| *not_fetched.entry(job).or_insert_with(|| super::unused::handed_on_before(case, job).is_some());
        if removed.is_none() && hands_on(handover.job) {
            continue;
        }
        let folder = handover.path.folder.as_deref().unwrap_or_default();
        if let (Some(gone), Some(said)) = (removed, job.steps[handover.step].cleans) {
            let own = handover.path.at.file == case.pipeline.file;
            let place = if own { handover.path.at } else { said };
            let finding = out.add(place, format!("`{folder}` is not there when it is published: only what git tracks is"));
            finding.witness(at(gone.at), case.pipeline.customs.only_tracked);
            finding.mend(pen::write(case, &Ask::KeepMade { said }));
            continue;
        }
        let goes = if handover.publishes { "published" } else { "handed on" };
        let finding = out.add(handover.path.at, format!("the folder `{folder}` is {goes}, but nothing makes it"));
        let before = *builds_before.entry(handover.job).or_insert_with(|| built_before(case, handover.job));
        match (removed, before) {
            (Some(gone), _) => match &gone.to {
                Some(to) => {
                    let mend = match handover.path.exact(case.sources) {
                        Some(place) => Mend::likely(format!("write {to}"), [Edit::replace(place, to.clone())]),
                        None => Mend::by_hand(format!("publish `{to}`, or leave it where it is")),
                    };
                    finding.witness(at(gone.at), format!("it becomes `{to}` here")).mend(mend);
                }
                None => {
                    finding
                        .witness(at(gone.at), "it is taken away here")
                        .mend(Mend::by_hand("publish it before that, or leave it"));
                }
            },
            (None, Some((other, place))) => {
                let name = case.job_name(other);
                finding.witness(at(place), format!("`{name}` builds the site here, in a workspace of its own"));
                finding.mend(pen::write(case, &Ask::FetchFrom { job: handover.job, from: other }));
            }
            _ if let Some((job, step, off)) = switched_off.get(folder).copied() => {
                let name = case.pipeline.jobs[job].steps[step].name.as_ref().map_or("the step", |name| name.value.as_str());
                finding.witness(at(off), format!("`{name}` would make it, and is disabled here"));
                finding.mend(Mend::by_hand(format!("let `{name}` run again, or remove the publish with it")));
            }
            _ => {
                finding.witness(WitnessSource::Files, format!("git tracks no `{folder}`, and no step before makes one"));
                finding.mend(Mend::by_hand("write the folder that the site is built into, or build it first"));
            }
        }
    }
}

/// By folder: the first step that would make it if it were not switched off, with its job, its number, and where that is said.
fn switched_off<'c>(case: &'c Case<'_>) -> HashMap<&'c str, (usize, usize, Place)> {
    let mut found = HashMap::new();
    for (job, of_job) in case.pipeline.jobs.iter().enumerate() {
        for (number, (step, effects)) in of_job.steps.iter().zip(&case.effects.jobs[job]).enumerate() {
            let Some(off) = step.off else { continue };
            for effect in &effects.switched_off {
                if let Effect::Build { output: Some(output), .. } = &effect.effect {
                    found.entry(output.as_str()).or_insert((job, number, off));
                }
            }
        }
    }
    found
}

/// A build of a job that another one waits for.
fn built_before(case: &Case<'_>, job: usize) -> Option<(usize, Place)> {
    case.pipeline.upstream(job).into_iter().find_map(|other| {
        let builds = |effect: &EffectAt| matches!(effect.effect, Effect::Build { .. });
        case.effects.of_job(other).find(|(_, effect)| builds(effect)).map(|(_, effect)| (other, effect.at))
    })
}

/// What is copied is not there, so that the step fails.
fn speak_of_copy(case: &Case<'_>, missing: &crate::trail::MissingSource, out: &mut Findings) {
    let job = case.job_name(missing.job);
    let handed = super::unused::handed_on_before(case, missing.job);
    let finding = out.add(missing.at, format!("`{job}` fails here: there is no `{}`", missing.path));
    match handed {
        Some((name, place, other)) => {
            finding.witness(at(place), format!("`{}` hands on `{name}` here", case.job_name(other)));
            finding.mend(Mend::by_hand(format!(
                "fetch what `{}` hands on, or write the folder that is there",
                case.job_name(other)
            )));
        }
        None => {
            finding.witness(WitnessSource::Files, format!("git tracks no `{}`, and no step before makes one", missing.path));
            finding.mend(Mend::by_hand("write the folder that is there, or make it before"));
        }
    }
}
