//! A secret that is given to another step than the one that reads it.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity};
use crate::knowledge;
use crate::pen::{self, Ask};
use crate::rules::Rule;

use super::{given_elsewhere, lacking, may_be_announced, may_come_from_elsewhere, reads_variable, texts_of};

pub const RULE: Rule = Rule {
    id: "secret.wrong-step",
    severity: Severity::Error,
    title: "A secret is given to a step that does not read it",
    why: "A variable under a step's `env` is there in that step alone. The step that needs it finds nothing: the publish fails, \
          or the page is built without the value.",
    needs: &[],
    bad: &[r"
== steps
      - run: npm ci
        env: {‹NETLIFY_AUTH_TOKEN›: '${{ secrets.N }}'}
      - run: «netlify deploy --prod»
"],
    good: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: npm ci
      - run: netlify deploy --prod
        env: {NETLIFY_AUTH_TOKEN: '${{ secrets.N }}'}
",
        r"
== steps
      - run: npx vite build
        env: {VITE_SITE: '${{ vars.SITE }}'}
      - run: npx gh-pages -d dist
        env: {VITE_SITE: '${{ vars.SITE }}'}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, step, wanted) in lacking(case) {
        let Some((name, place)) = given_elsewhere(case, job, step, &wanted.variables) else { continue };
        out.add(wanted.at, format!("this fails: {name} is given to another step, and `{}` reads it here", wanted.publisher))
            .witness(at(place), "it is given to this step only")
            .mend(pen::write(case, &Ask::MoveVariable { name, builds: false }));
    }
    for job in 0..case.pipeline.jobs.len() {
        if !may_come_from_elsewhere(case, job) {
            built_without(case, job, out);
        }
    }
}

/// A variable for the page's build that only the publishing step has.
fn built_without(case: &Case<'_>, job: usize, out: &mut Findings) {
    let of_job = &case.pipeline.jobs[job];
    let build = case.effects.of_job(job).find_map(|(step, effect)| match &effect.effect {
        Effect::Build { generator, .. } => Some((step, effect, knowledge::generators().get(generator)?)),
        _ => None,
    });
    let Some((build_step, build, generator)) = build.filter(|(.., generator)| !generator.public_prefixes.is_empty()) else {
        return;
    };
    for (step, effects) in case.effects.jobs[job].iter().enumerate().filter(|(step, _)| *step != build_step) {
        if !effects.effects.iter().any(|effect| matches!(effect.effect, Effect::Publish { .. }))
            || effects.effects.iter().any(|effect| matches!(effect.effect, Effect::Build { .. } | Effect::RunScript { .. }))
        {
            continue;
        }
        for (name, _) in &of_job.steps[step].variables.entries {
            let public = generator.public_prefixes.iter().any(|prefix| name.value.starts_with(prefix));
            let has = may_be_announced(case, job, &name.value)
                || case.layers(job, build_step).iter().any(|layer| layer.get(&name.value).is_some());
            let read = texts_of(&of_job.steps[step]).any(|text| reads_variable(&text.value, &name.value));
            if public && !has && !read {
                out.add(
                    name.at,
                    format!("the page is built without {}: it is given to the publish, which does not read it", name.value),
                )
                .witness(at(build.at), format!("{} puts such variables into the page here", generator.id))
                .mend(pen::write(case, &Ask::MoveVariable { name: &name.value, builds: true }));
            }
        }
    }
}
