//! A folder that is published together with the credential that the checkout left in it.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::facts::Reach;
use crate::finding::{Findings, Mend, Severity};
use crate::model::Work;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "permission.kept-credential",
    severity: Severity::Warning,
    title: "The checkout's own folder is published, with git's data in it",
    why: "A checkout leaves its token in .git/config, for later steps that push. Whoever copies the whole folder to a server \
          publishes that file, and the whole history of the repository with it.",
    needs: &[],
    bad: &[r"
== steps
      - uses: ‹actions/checkout@v5›
      - run: rsync -a «.» pier@tarnsay.example:/www
"],
    good: &[
        r"
== pipeline
on: push
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ssh-add key && rsync -a --exclude .git . pier@tarnsay.example:/www
",
        r"
== pipeline
on: push
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: ssh-add key && rsync -a dist/ pier@tarnsay.example:/www
",
        r"
== pipeline
on: push
concurrency: publish
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
        with:
          persist-credentials: false
      - run: ssh-add key && rsync -a . pier@tarnsay.example:/www
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for published in case.published() {
        let Some(folder) = published.folder.filter(|folder| folder.folder.as_deref() == Some("") && !folder.glob) else {
            continue;
        };
        let step = &case.pipeline.jobs[published.job].steps[published.step];
        let Work::Runs { script, .. } = &step.work else { continue };
        if script.value.contains("exclude") || !published.target.is_filled_bit_by_bit() {
            continue;
        }
        let mut checkout = None;
        for (number, effect) in case.effects.of_job(published.job) {
            match &effect.effect {
                _ if number >= published.step => break,
                Effect::Checkout { into: Some(into), forgets, .. } if into.is_empty() => {
                    checkout = Some(effect).filter(|_| *forgets == Some(false));
                }
                Effect::Remove { .. } | Effect::Unknown(Reach::Anything) => checkout = None,
                _ => {}
            }
        }
        let Some(checkout) = checkout else { continue };
        out.add(folder.at, "this publishes the whole checkout, git's own folder and the token in it included")
            .witness(at(checkout.at), "the checkout leaves the token in .git/config here")
            .mend(Mend::by_hand("publish the built folder, or leave .git out"));
    }
}
