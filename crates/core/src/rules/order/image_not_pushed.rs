//! An image that is rolled out before it is where it is fetched from.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge::usual_image;
use crate::model::StepOrder;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.image-not-pushed",
    severity: Severity::Error,
    title: "An image is rolled out before it is pushed",
    why: "An image that a step has made lies on the machine of that run alone. Whatever lets it run fetches it from a registry: it has to be \
          pushed there first. Images that the file lists to be pushed at the end are pushed after the last step, and not before.",
    needs: &[],
    bad: &[
        r#"
== files
Dockerfile
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [‹build, -t, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA', .›]
  - name: google/cloud-sdk:540.0.0-slim
    entrypoint: «gcloud»
    args: [run, deploy, timetable, '--image=gcr.io/$PROJECT_ID/timetable:$SHORT_SHA', --region, europe-north1]
images: ['‹gcr.io/$PROJECT_ID/timetable:$SHORT_SHA›']
"#,
        r"
== files
Dockerfile
== steps
      - uses: actions/checkout@v5
      - run: ‹docker build -t quay.example/timetable:1 .›
      - run: «gcloud run deploy timetable --image quay.example/timetable:1»
",
        r"
== files
Dockerfile
== gitlab
pack:
  script:
    - ‹docker build -t quay.example/timetable:1 .›
    - «gcloud run deploy timetable --image quay.example/timetable:1»
    - ‹docker push quay.example/timetable:1›
",
    ],
    good: &[r#"
== files
Dockerfile
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [build, -t, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA', .]
  - name: gcr.io/cloud-builders/docker
    args: [push, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA']
  - name: google/cloud-sdk:540.0.0-slim
    entrypoint: gcloud
    args: [run, deploy, timetable, --image, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA']
  - name: google/cloud-sdk:540.0.0-slim
    entrypoint: gcloud
    args: [run, deploy, register, --image, 'gcr.io/$PROJECT_ID/register:3']
images: ['gcr.io/$PROJECT_ID/timetable:$SHORT_SHA']
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, rolled) in case.all_effects() {
        let Effect::RunImage { name: Some(name) } = &rolled.effect else { continue };
        let has = |names: &[Option<String>]| names.iter().flatten().any(|known| usual_image(known) == usual_image(name));
        let made =
            case.effects.of_job(job).find(|(_, effect)| matches!(&effect.effect, Effect::MakeImage { names, .. } if has(names)));
        let Some((_, made)) = made.filter(|_| !rolled.perhaps) else { continue };
        // Whatever is not known may push it.
        let unknown = case.effects.jobs[job].iter().take(step + 1).any(crate::effects::StepEffects::may_do_anything);
        let may_be = |effect: &EffectAt| match &effect.effect {
            Effect::PushImage { name: Some(pushed) } => usual_image(pushed) == usual_image(name),
            Effect::PushImage { name: None } => true,
            _ => false,
        };
        let elsewhere = case.all_effects().any(|(other, _, effect)| other != job && may_be(effect));
        let order = StepOrder::of(&case.pipeline.jobs[job].steps);
        let pushes: Vec<(usize, &EffectAt)> = case.effects.of_job(job).filter(|(_, effect)| may_be(effect)).collect();
        // Within a step, commands run in the order in which they stand.
        let earlier = |push: &EffectAt| push.at.span.start < rolled.at.span.start || push.at == rolled.at;
        let before = pushes.iter().any(|(number, push)| order.is_before(*number, step) || *number == step && earlier(push));
        if unknown || elsewhere || before {
            continue;
        }
        let finding = out.add(rolled.at, "this image is not there yet: it is rolled out before it is pushed");
        finding.witness(at(made.at), "it is made here, on the machine of this run");
        match pushes.first() {
            Some((number, push)) if order.are_beside(*number, step) => {
                finding.witness(at(push.at), "it is pushed here, at the same time")
            }
            Some((_, push)) => finding.witness(at(push.at), "it is pushed only here, after this step"),
            None => finding.witness(WitnessSource::Catalog, "what runs an image fetches it from its registry"),
        };
        finding.mend(Mend::by_hand("add a step between the two that runs `docker push` with the image's name"));
    }
}
