//! A runtime's image that is asked for without saying which version.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::facts::Dockerfile;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::model::Text;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.untagged-image",
    severity: Severity::Advice,
    title: "The image is whatever is newest today",
    why: "An image without a tag is the newest one there is. One day that is a new major version of the runtime, and a build that \
          nobody has touched fails.",
    needs: &[],
    bad: &[
        r#"
== package.json
{"engines": {"node": ‹"22.x"›}}
== gitlab
image: «node»
site:
  script:
    - make
"#,
        r"
== pipeline
on: push
jobs:
  site:
    runs-on: ubuntu-latest
    container: «node:latest»
    steps:
      - run: make
",
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "«library/node»"
      execute_commands:
        - "make"
"#,
        // What an image is made of.
        r"
== Dockerfile
FROM «node» AS made
RUN npm ci && npm run build
FROM made
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [build, -t, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA', .]
",
    ],
    good: &[r"
== gitlab
image: node:24
site:
  script:
    - make
other:
  image: registry.tarnsay.example/site
  script:
    - make
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let jobs = case.pipeline.jobs.iter();
    let images = jobs.flat_map(|job| {
        let of_steps = job.steps.iter().filter_map(|step| step.machine.as_ref()).filter_map(|machine| machine.image.as_ref());
        job.machine.image.iter().chain(of_steps)
    });
    let bases = case.all_effects().filter_map(|(_, _, effect)| match &effect.effect {
        Effect::MakeImage { file: Some(file), .. } => case.facts.dockerfiles.get(file),
        _ => None,
    });
    let bases: Vec<Text> = bases.flat_map(Dockerfile::bases).map(|base| Text::fixed(&base.text, base.at)).collect();
    let mut spoken = Vec::new();
    for image in images.chain(&bases) {
        let Some(tool) = untagged(image).filter(|_| !spoken.contains(&image.at)) else { continue };
        spoken.push(image.at);
        let wanted = case.facts.package_for("").and_then(|(_, package)| package.node.as_ref()).filter(|_| tool == "node");
        // What takes any newer version is content with the newest.
        let pinned = wanted.filter(|(range, _)| !range.trim_start().starts_with('>'));
        let finding = out.add(image.inner(), format!("this is the newest {tool} there is, whichever that will be"));
        finding.one_cause();
        match pinned {
            Some((range, place)) => {
                finding.severity(Severity::Warning).witness(at(*place), format!("package.json asks for {range}"));
            }
            None => {
                finding.witness(WitnessSource::Catalog, "an image without a tag is the one that is called latest");
            }
        }
        finding.mend(Mend::by_hand("name the version, as the tag of the image"));
    }
}

/// The runtime of an official image of which no version is asked for.
fn untagged(image: &Text) -> Option<&'static str> {
    let written = image.known()?;
    let base = knowledge::official_image(knowledge::usual_image(written));
    knowledge::names().images.get(base).copied().filter(|_| !base.contains([':', '@']))
}
