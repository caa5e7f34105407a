//! Two publishes that overwrite each other.

use crate::case::{Case, Published};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rehearsal::Answer;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.same-target",
    severity: Severity::Error,
    title: "Two publishes go to one place on one event",
    why: "Staging and production, or an old and a new pipeline, that publish to the same place on the same event overwrite each other. \
          Whichever ends last is what visitors see.",
    needs: &[],
    bad: &[
        "== git\nmain default\n== jobs\n  a:\n    runs-on: x\n    steps:\n      - run: ‹npx gh-pages -d one›\n  b:\n    runs-on: x\n    steps:\n      - run: «npx gh-pages -d two»\n",
        "== git\nmain default\n== gitlab\na:\n  script: [‹rsync -a one/ pier@tarnsay.example:/www›]\nb:\n  script: [«rsync -a two/ pier@tarnsay.example:/www»]\n",
    ],
    good: &[
        "== git\nmain default\n== jobs\n  a:\n    if: github.ref_name == 'main'\n    runs-on: x\n    steps:\n      - run: npx gh-pages -d one\n  b:\n    if: github.ref_name != 'main'\n    runs-on: x\n    steps:\n      - run: npx gh-pages -d two\n",
        "== git\nmain default\n== jobs\n  a:\n    runs-on: x\n    steps:\n      - run: rsync -a one/ pier@tarnsay.example:/www/one\n  b:\n    runs-on: x\n    steps:\n      - run: rsync -a two/ pier@tarnsay.example:/www/two\n",
        "== git\nmain default\n== gitlab\na:\n  script: [rsync -a one/ pier@tarnsay.example:/www/one]\nb:\n  script: [rsync -a two/ pier@tarnsay.example:/www/two]\n",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for published in case.publishes() {
        let Some(place) = published.place.filter(|place| *place != published.target || *place == "pages") else { continue };
        let Some((other, at, event)) = earlier(case, &published, place) else { continue };
        let id = case.job_name(published.job);
        out.add(published.effect.at, format!("on {event}, `{id}` and {other} both publish to {place}: the last one wins"))
            .witness(WitnessSource::At(at), format!("{other} publishes there too"))
            .mend(Mend::by_hand("let only one of them run on that event, or give each a place of its own"));
    }
}

/// A publish to the same place on the same event that comes before this one in the order of files and jobs.
fn earlier(case: &Case<'_>, published: &Published<'_>, place: &str) -> Option<(String, crate::text::Place, String)> {
    for (occasion, all) in case.project.played() {
        if case.happens(published, &all[case.index]) != Answer::Yes {
            continue;
        }
        for (index, rehearsal) in all.iter().enumerate().take(case.index + 1) {
            let other_case = case.project.case(index);
            for other in other_case.publishes() {
                let same = index == case.index;
                let ordered = same
                    && (other.job >= published.job
                        || case.pipeline.upstream(published.job).contains(&other.job)
                        || case.pipeline.upstream(other.job).contains(&published.job));
                // A secret of one environment is another one's in the next.
                let environments = place.contains("${{")
                    && (case.pipeline.jobs[published.job].environment.is_some()
                        || other_case.pipeline.jobs[other.job].environment.is_some());
                if ordered || environments || other.place != Some(place) || other_case.happens(&other, rehearsal) != Answer::Yes {
                    continue;
                }
                let name = if same { format!("`{}`", other_case.job_name(other.job)) } else { format!("`{}` of {}", other_case.job_name(other.job), case.project.path(index)) };
                return Some((name, other.effect.at, occasion.told()));
            }
        }
    }
    None
}
