//! A site that is published although its tests fail.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity};
use crate::knowledge;
use crate::rehearsal::Answer;
use crate::rules::Rule;

use super::add_need;

pub const RULE: Rule = Rule {
    id: "order.untested",
    severity: Severity::Warning,
    title: "The publish does not wait for the tests",
    why: "Jobs that do not wait for each other run side by side. The tests may turn red, and the site is online all the same.",
    needs: &[],
    bad: &[
        "== git\nmain default\n== jobs\n  test:\n    runs-on: x\n    steps:\n      - uses: actions/checkout@v5\n      - run: ‹npx vitest run›\n  publish:\n    runs-on: x\n    steps:\n      - run: «npx gh-pages -d public»\n",
        "== git\nmain default\n== gitlab\nlook:\n  stage: test\n  script: [‹npx vitest run›]\n«pages»:\n  stage: deploy\n  needs: []\n  script: [make]\n  artifacts: {paths: [public]}\n",
    ],
    good: &[
        "== git\nmain default\n== jobs\n  test:\n    runs-on: x\n    steps:\n      - run: npx vitest run\n  publish:\n    needs: test\n    runs-on: x\n    steps:\n      - run: npx gh-pages -d public\n",
        // Tests of what is online come after it.
        "== git\nmain default\n== jobs\n  publish:\n    runs-on: x\n    steps:\n      - run: npx gh-pages -d public\n  look:\n    needs: publish\n    runs-on: x\n    steps:\n      - run: npx playwright test\n",
        "== git\nmain default\n== gitlab\nlook:\n  stage: test\n  script: [npx vitest run]\npages:\n  stage: deploy\n  script: [make]\n  artifacts: {paths: [public]}\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(pushed) = case.on_default_push() else { return };
    let runs = |job: usize| pushed.jobs[job].answer == Answer::Yes && pushed.starts.answer > Answer::No;
    for published in case.publishes() {
        if published.place.is_none() || pushed.step(published.job, published.step) != Answer::Yes {
            continue;
        }
        let before = case.pipeline.upstream(published.job);
        let test = case.all_effects().find(|(job, _, effect)| {
            let counts = matches!(&effect.effect, Effect::Test { tool } if knowledge::commands().tool(tool).is_none_or(|tool| tool.kind != "other"));
            let apart = *job != published.job && !before.contains(job) && !case.pipeline.upstream(*job).contains(&published.job);
            let of_job = &case.pipeline.jobs[*job];
            counts && apart && runs(*job) && !effect.perhaps && !effect.forgiven && of_job.may_fail.is_none() && !of_job.needs_unknown
        });
        let Some((job, _, effect)) = test.filter(|_| !case.pipeline.jobs[published.job].needs_unknown) else { continue };
        let (id, name) = (case.job_name(published.job), case.job_name(job));
        out.add(published.effect.at, format!("`{id}` publishes even when `{name}` fails: it does not wait for it"))
            .witness(at(effect.at), format!("`{name}` looks at the site here, at the same time"))
            .mend(add_need(case, published.job, job));
    }
}
