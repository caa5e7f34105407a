//! Git is to push, and has nothing to sign in with.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt, own_token};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::model::{Text, Variables, Work};
use crate::rules::Rule;
use crate::text::Place;

use super::may_have_other_credential;

pub const RULE: Rule = Rule {
    id: "permission.no-credential",
    severity: Severity::Error,
    title: "A push has nothing to sign in with",
    why: "Git pushes with the credential that the checkout left, and that one is good for this repository and this folder only. \
          Without it, in another clone or for another repository, the push is refused, whatever the token may do.",
    needs: &[],
    bad: &[
        r"
== files
index.html
== pipeline
on: workflow_dispatch
permissions: {contents: write}
jobs:
  stamp:
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/checkout@v5›
        with: {persist-credentials: false}
      - run: |
          git commit -am stamp
          «git push»
",
        r#"
== files
index.html
== package.json
{"scripts": {"send": "gh-pages -d dist"}, "devDependencies": {"gh-pages": "6"}}
== pipeline
on: workflow_dispatch
permissions: {contents: write}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: ‹actions/checkout@v5›
      - run: «npm run send»
"#,
        r"
== files
index.html
== pipeline
on: workflow_dispatch
permissions: {contents: write}
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - uses: peaceiris/actions-gh-pages@v4
        with:
          github_token: «${{ secrets.GITHUB_TOKEN }}»
          publish_dir: site
          external_repository: ‹pier/pages›
",
    ],
    good: &[r#"
== files
index.html
dist/index.html
site/index.html
== package.json
{"scripts": {"send": "gh-pages -d dist"}, "devDependencies": {"gh-pages": "6"}}
== pipeline
on: workflow_dispatch
permissions: {contents: write}
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: |
          git remote set-url origin https://git:${{ github.token }}@github.com/${{ github.repository }}.git
          npm run send
  other:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
        with: {persist-credentials: false}
      - uses: peaceiris/actions-gh-pages@v4
        with:
          personal_token: ${{ secrets.PAGES_TOKEN }}
          publish_dir: site
          external_repository: pier/pages
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, steps) in case.effects.jobs.iter().enumerate() {
        for (step, effects) in steps.iter().enumerate() {
            elsewhere(case, job, step, out);
            let push = effects.grants.iter().find(|grant| grant.by_git && !effects.afresh.contains(&grant.at));
            if push.is_none() && effects.afresh.is_empty() {
                continue;
            }
            let Some((checkout, forgets)) = checkout_before(case, job, step) else { continue };
            if may_have_other_credential(case, job, step) || may_sign_in(case, job, step) {
                continue;
            }
            if let Some(push) = push.filter(|_| forgets) {
                out.add(push.at, "this push is refused: git has nothing to sign in with")
                    .witness(at(checkout.at), "the checkout is told to leave no credential behind")
                    .mend(Mend::by_hand(
                        "remove `persist-credentials: false` from this checkout, or push with an address that holds a token",
                    ));
            }
            if let Some(place) = effects.afresh.first() {
                out.add(*place, "this push is refused: it is made from a clone of its own, which has nothing to sign in with")
                    .witness(at(checkout.at), "the credential that the checkout leaves is good in its own folder only")
                    .mend(Mend::by_hand(
                        "before it, set the remote's address to one that holds the token, with git remote set-url origin",
                    ));
            }
        }
    }
}

/// Whether a script before a step, or in it, gives git a credential of any kind, or something may that is not known.
fn may_sign_in(case: &Case<'_>, job: usize, step: usize) -> bool {
    let gives = |text: &str| knowledge::commands().gives_git_a_credential(text);
    let of_job = &case.pipeline.jobs[job];
    let scripts =
        of_job.steps.iter().take(step + 1).any(|step| matches!(&step.work, Work::Runs { script, .. } if gives(&script.value)));
    let mut followed = case.effects.jobs[job].iter().take(step + 1).flat_map(|effects| &effects.spoken);
    let mut before = of_job.steps.iter().zip(&case.effects.jobs[job]).take(step);
    let unknown = before.any(|(step, effects)| matches!(step.work, Work::Uses { .. }) && effects.may_do_anything());
    scripts || unknown || followed.any(|word| gives(word) || word == "set-url")
}

/// The last checkout of this repository before a step, and whether it leaves no credential behind; nothing when that is not known.
fn checkout_before<'c>(case: &'c Case<'_>, job: usize, step: usize) -> Option<(&'c EffectAt, bool)> {
    let at_root = |effect: &EffectAt| match &effect.effect {
        Effect::Checkout { into: Some(into), own: true, forgets, .. } if into.is_empty() => *forgets,
        _ => None,
    };
    let before = case.effects.of_job(job).filter(|(number, _)| *number < step);
    before.filter_map(|(_, effect)| Some((effect, at_root(effect)?))).last()
}

/// An action that publishes to another repository with this one's own token.
fn elsewhere(case: &Case<'_>, job: usize, step: usize, out: &mut Findings) {
    let Some(used) = case.use_of(job, step) else { return };
    let Some(way) = used.action.and_then(|known| known.elsewhere.as_ref()) else { return };
    let inputs = used.inputs;
    let Some(repository) = inputs.get(way.input).filter(|text| is_another(case, text)) else { return };
    if inputs.open || way.other_credentials.iter().any(|name| is_given(inputs, name)) {
        return;
    }
    let given: Option<Place> = match inputs.get(way.token) {
        Some(text) if own_token(text) == Some(true) => Some(text.inner()),
        None if way.own_by_default => Some(used.written.at),
        _ => None,
    };
    let Some(place) = given else { return };
    out.add(
        place,
        format!("this publish is refused: the job's own token is good for this repository only, not for {}", repository.value),
    )
    .witness(at(repository.inner()), "it is to go there")
    .witness(WitnessSource::Catalog, format!("another repository takes one of {}", way.other_credentials.join(", ")))
    .mend(Mend::by_hand("give it a token or key of that repository, from a secret"));
}

fn is_given(inputs: &Variables, name: &str) -> bool {
    inputs.get(name).is_some_and(|text| !text.value.is_empty())
}

/// Whether a repository is surely another one than this.
fn is_another(case: &Case<'_>, text: &Text) -> bool {
    let own = case.facts.git.remote.known().map(|remote| format!("{}/{}", remote.owner, remote.name));
    text.known().is_some_and(|name| !name.is_empty() && own.is_none_or(|own| !own.eq_ignore_ascii_case(name)))
}
