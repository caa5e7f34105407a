//! An image that is pushed and that nothing has made.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge::{bare_image, usual_image};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.unmade-image",
    severity: Severity::Error,
    title: "An image is pushed that nothing has made",
    why: "An image is pushed by its whole name, the version behind the colon included. Where no step has made an image of this very name, \
          there is nothing to push, and the run fails after all its work.",
    needs: &[],
    bad: &[
        r#"
== files
Dockerfile
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [‹build, -t, 'gcr.io/$PROJECT_ID/timetable:$SHORT_SHA', .›]
images: ['«gcr.io/$PROJECT_ID/timetable:latest»']
"#,
        r"
== files
Dockerfile
== steps
      - uses: actions/checkout@v5
      - run: ‹docker build -t quay.example/timetable:1 .›
      - run: «docker push quay.example/timetable»
",
        r"
== files
Dockerfile
== gitlab
pack:
  script:
    - ‹docker build -t quay.example/timetable:1 .›
    - «docker push quay.example/timetable:2»
",
    ],
    good: &[
        r#"
== files
Dockerfile
== cloudbuild.yaml
steps:
  - name: gcr.io/cloud-builders/docker
    args: [build, --tag=gcr.io/$PROJECT_ID/timetable, '--tag', 'gcr.io/${PROJECT_ID}/timetable:$SHORT_SHA', .]
images: ['gcr.io/${PROJECT_ID}/timetable:latest', 'gcr.io/$PROJECT_ID/timetable:${SHORT_SHA}']
"#,
        r"
== files
Dockerfile
== steps
      - uses: actions/checkout@v5
      - run: docker build -t timetable .
      - run: docker tag timetable quay.example/timetable:1 && docker push --all-tags quay.example/timetable
      - run: ./make-other && docker push quay.example/other
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in 0..case.pipeline.jobs.len() {
        if case.effects.jobs[job].iter().any(crate::effects::StepEffects::may_do_anything) {
            continue;
        }
        let made: Vec<(&EffectAt, &Vec<Option<String>>)> = case
            .effects
            .of_job(job)
            .filter_map(|(_, effect)| match &effect.effect {
                Effect::MakeImage { names, .. } => Some((effect, names)),
                _ => None,
            })
            .collect();
        if made.iter().any(|(_, names)| names.iter().any(Option::is_none)) {
            continue;
        }
        for (_, effect) in case.effects.of_job(job) {
            let Effect::PushImage { name: Some(name) } = &effect.effect else { continue };
            let is_it = |known: &Option<String>| known.as_deref().is_some_and(|known| usual_image(known) == usual_image(name));
            let of_name = |(_, names): &&(&EffectAt, &Vec<Option<String>>)| {
                names.iter().flatten().any(|known| bare_image(known) == bare_image(name))
            };
            if made.iter().any(|(_, names)| names.iter().any(is_it)) || effect.perhaps {
                continue;
            }
            // Another name altogether may lie there already.
            let Some((maker, names)) = made.iter().find(of_name) else { continue };
            let known: Vec<&str> = names.iter().flatten().map(|known| tag(known)).collect();
            out.add(effect.at, format!("no step makes an image with the version `{}`: there is nothing to push", tag(name)))
                .witness(at(maker.at), format!("the image gets `{}` here", known.join("`, `")))
                .mend(Mend::by_hand("push the image under a name that it has"));
        }
    }
}

/// The version of a name.
fn tag(name: &str) -> &str {
    name.strip_prefix(bare_image(name)).and_then(|rest| rest.strip_prefix(':')).unwrap_or("latest")
}
