//! A branch that the site is published to, or taken from, and that is not there.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::nearest;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.no-landing",
    severity: Severity::Error,
    title: "The site is published where nobody looks for it",
    why: "The forge's pages are taken from one place: a branch, or what a pipeline hands over. A site that goes to another place \
          is published without an error and seen by nobody. A branch that is checked out and does not exist fails the job.",
    needs: &[],
    bad: &[r#"
== git
main default
== dulk.toml
[forge]
pages = ‹"branch:live"›
== steps
      - run: «npx gh-pages -d dist»
"#],
    good: &[
        r#"
== git
main default
== dulk.toml
[forge]
pages = "branch:gh-pages"
== steps
      - run: npx gh-pages -d dist
"#,
        r"
== git
main default
gh-pages
v1 tag
== steps
      - uses: actions/checkout@v4
        with: {ref: gh-pages, path: public}
      - uses: actions/checkout@v4
        with: {ref: v1, path: old}
      - uses: actions/checkout@v4
        with: {ref: 8f4b7f84864484a7bf31766abe9204da3cbe65b3, path: older}
      - uses: actions/checkout@v4
        with: {ref: stable, repository: ferry/tools, path: tools}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    overlooked(case, out);
    for (_, _, effect) in case.all_effects() {
        let Effect::Checkout { reference: Some(reference), repository: None, .. } = &effect.effect else { continue };
        let (Some(name), Some(branches), Some(tags)) =
            (reference.known(), case.facts.git.branches.known(), case.facts.git.tags.known())
        else {
            continue;
        };
        let is_id = name.len() >= 7 && name.bytes().all(|byte| byte.is_ascii_hexdigit());
        let short = name.trim_start_matches("refs/heads/").trim_start_matches("refs/tags/");
        if is_id || name.starts_with("refs/pull/") || branches.iter().chain(tags).any(|one| one == short) {
            continue;
        }
        let finding = out.add(reference.inner(), format!("the checkout fails: there is no branch and no tag `{name}`"));
        finding.witness(WitnessSource::Git, format!("the branches here are {}", listed_short(branches)));
        finding.mend(match nearest(short, branches.iter().chain(tags).map(String::as_str)) {
            Some(near) => Mend::likely(format!("write {near}"), [Edit::replace(reference.inner(), near)]),
            None => Mend::by_hand("write a branch that exists, or make it and push it first"),
        });
    }
}

/// The forge takes its pages from elsewhere than the place this is published to.
fn overlooked(case: &Case<'_>, out: &mut Findings) {
    let Some(pages) = &case.facts.settings.forge.pages else { return };
    let from = pages.name.strip_prefix("branch:");
    for published in case.published() {
        let Some(place) = published.place else { continue };
        let own = published.is_forge_pages() || published.branch.is_some_and(|branch| is_in_own_repository(place, branch));
        let wrong = match (from, published.is_forge_pages(), published.branch) {
            (Some(from), true, _) => {
                Some(format!("the forge takes its pages from the branch {from}, so this publish fails or is not seen"))
            }
            (Some(from), _, Some(branch)) if from != branch => {
                Some(format!("the site is committed to {branch}, and the forge takes its pages from {from}"))
            }
            (None, false, Some(branch)) => {
                Some(format!("the site is committed to {branch}, and the forge takes its pages from a pipeline"))
            }
            _ => None,
        };
        let Some(message) = wrong.filter(|_| own) else { continue };
        let todo = match from {
            Some(from) => format!("publish to {from}, or change where the forge takes its pages from"),
            None => "hand the site over to the forge's pages, or change where they are taken from".to_owned(),
        };
        out.add(published.effect.at, message)
            .witness(at(pages.at), format!("pages = \"{}\"", pages.name))
            .mend(Mend::by_hand(todo));
    }
}

/// A branch of this repository, whole, rather than a folder in it or another repository's.
fn is_in_own_repository(place: &str, branch: &str) -> bool {
    place == format!("branch {branch}")
}
