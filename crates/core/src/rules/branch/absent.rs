//! A branch filter that waits for branches the repository does not have.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::{Among, Meant, near, nearest};
use crate::model::{Condition, Event, Filter, FilterOf, FilterSide, Pattern, Then, Trigger};
use crate::rules::{Need, Rule};
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "branch.absent",
    severity: Severity::Error,
    title: "The pipeline waits for a branch that does not exist",
    why: "A branch filter that fits no branch is never true: nothing is built, nothing turns red, and the site stays as it was \
          on the day the branch was renamed.",
    needs: &[Need::Branches],
    bad: &[
        r"
== git
main default
winter-plan
== pipeline
on:
  push:
    branches: [«master»]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== git
main default
== gitlab
site:
  script:
    - make
  only: [«master»]
",
        r"
== git
main default
== .travis.yml
language: generic
script: make
deploy:
  provider: s3
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: $TARNSAY_KEY
  bucket: tarnsay-timetable
  local_dir: dist
  on: {branch: «master»}
",
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/«master»"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "make"
"#,
    ],
    good: &[
        r"
== git
main default
winter-plan
== pipeline
on:
  push:
    branches: [main]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r#"
== git
main default
== gitlab
site:
  script:
    - make
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
    - if: $CI_COMMIT_BRANCH == "old"
"#,
        r"
== git
main default
== .travis.yml
language: generic
script: make
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
        - "make"
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
    let Some(branches) = case.facts.git.branches.known().filter(|branches| !branches.is_empty()) else { return };
    conditions(case, branches, out);
    // Several events may share one list.
    let mut spoken = Vec::new();
    for trigger in &case.pipeline.triggers {
        if !matches!(trigger.event, Event::Push | Event::Proposal | Event::PrivilegedProposal) {
            continue;
        }
        let filter = trigger.filter(FilterOf::Branches, FilterSide::Include).filter(|filter| !spoken.contains(&filter.key.at));
        let Some(filter) = filter else { continue };
        spoken.push(filter.key.at);
        // Other rules of this family know better what is wrong with these.
        if filter.patterns.iter().any(|pattern| {
            let name = pattern.literal().unwrap_or_default();
            super::never_matches::oddity(pattern, case.pipeline.customs).is_some()
                || super::wrong_case::other_case(filter, name, branches).is_some()
                || case.facts.git.elsewhere.iter().any(|(_, branch)| branch == name)
        }) {
            continue;
        }
        let exists = |name: &str| branches.iter().any(|branch| branch == name);
        if filter.patterns.iter().all(|pattern| pattern.literal().is_some_and(|name| !exists(name))) {
            never_starts(case, trigger, filter, branches, out);
        } else {
            slips(filter, branches, out);
        }
    }
}

/// A condition of a job or step that waits for a branch nobody has, and for no other.
fn conditions(case: &Case<'_>, branches: &[String], out: &mut Findings) {
    of_file(case, branches, out);
    let mut spoken = Vec::new();
    for job in &case.pipeline.jobs {
        let own = job
            .condition()
            .into_iter()
            .chain(job.when.choices.iter().filter(|choice| choice.then != Then::Never).filter_map(|choice| choice.condition()));
        // Another rule of the job may let the right branch in.
        let several = job.when.choices.iter().filter(|choice| choice.then != Then::Never).count() > 1;
        for condition in own.chain(job.steps.iter().flat_map(|step| step.demands())) {
            if several || spoken.contains(&condition.text.at) {
                continue;
            }
            let Some((name, place)) = waits_for_nobody(case, condition) else { continue };
            spoken.push(condition.text.at);
            let default = case.facts.git.default_branch.known().filter(|name| branches.contains(name));
            let finding = out.add(
                place,
                format!("this waits for the branch {name}, which does not exist, so `{}` never does it", job.id.value),
            );
            finding.witness(WitnessSource::Git, branches_here(branches));
            let exact = case.sources.slice(place).contains(name.as_str());
            if !exact {
                finding.witness(WitnessSource::Catalog, format!("it waits for {name} where no branch is named"));
            }
            finding.mend(match default.filter(|_| exact) {
                Some(default) => {
                    let text = case.sources.slice(place).replace(name.as_str(), default);
                    Mend::likely(format!("write {default}"), [Edit::replace(place, text)])
                }
                None => Mend::by_hand("write the branch that the site is published from"),
            });
        }
    }
}

/// The first branch that a condition waits for, with its place, when nobody has that one nor any other that it asks for.
pub(in crate::rules) fn waits_for_nobody(case: &Case<'_>, condition: &Condition) -> Option<(String, Place)> {
    let branches = case.facts.git.branches.known().filter(|branches| !branches.is_empty())?;
    let tags = case.facts.git.tags.known().map(Vec::as_slice).unwrap_or_default();
    let names = compared(case, condition);
    let exists = |name: &String| branches.iter().chain(tags).any(|known| known == name);
    let none = !names.iter().any(|(name, _)| exists(name));
    names.into_iter().next().filter(|_| none)
}

/// The same for the rules of the whole file.
fn of_file(case: &Case<'_>, branches: &[String], out: &mut Findings) {
    let lets = case.pipeline.choices.iter().filter(|choice| choice.then != Then::Never);
    let [only] = lets.collect::<Vec<_>>()[..] else { return };
    let waits = only.condition().and_then(|condition| waits_for_nobody(case, condition));
    let Some((name, place)) = waits else { return };
    out.add(place, format!("this file waits for the branch {name}, which does not exist, so nothing in it runs for a push"))
        .witness(WitnessSource::Git, branches_here(branches))
        .mend(Mend::by_hand("write the branch that the site is published from"));
}

/// The branches that a condition asks for, when all that it asks of branches is whether it is one of these.
fn compared(case: &Case<'_>, condition: &Condition) -> Vec<(String, Place)> {
    use crate::expression::{Expr, ExprKind, Operator};
    let Some(expression) = condition.expression() else { return Vec::new() };
    let known = &case.pipeline.run().values;
    let mut found = Vec::new();
    let mut other = false;
    let is_ref = |part: &Expr| {
        let name = part.dotted().unwrap_or_default();
        // The branch of a pull request comes and goes.
        !known.passing_refs.contains(&name.as_str()) && known.full.iter().chain(known.short).any(|known| *known == name)
    };
    let mut compared_parts: Vec<std::ops::Range<usize>> = Vec::new();
    expression.walk(&mut |part| match &part.kind {
        ExprKind::Binary(operator, left, right) => {
            for (one, two) in [(left, right), (right, left)] {
                if !is_ref(one) {
                    continue;
                }
                compared_parts.push(one.range.clone());
                match (&two.kind, operator) {
                    (ExprKind::Text(text), Operator::Equal) if !text.starts_with("refs/tags/") && !text.is_empty() => {
                        let name = text.strip_prefix("refs/heads/").unwrap_or(text).to_owned();
                        found.push((name, condition.text.place(two.range.clone())));
                    }
                    _ => other = true,
                }
            }
        }
        ExprKind::Matches(..) | ExprKind::Not(_) => other = true,
        ExprKind::Call(name, _) if !name.eq_ignore_ascii_case("always") => {
            other |= name.eq_ignore_ascii_case("contains") || name.to_ascii_lowercase().ends_with("with")
        }
        _ => {}
    });
    if other { Vec::new() } else { found }
}

/// Every pattern is a name, and no branch has one of them.
fn never_starts(case: &Case<'_>, trigger: &Trigger, filter: &Filter, branches: &[String], out: &mut Findings) {
    let Some(first) = filter.patterns.first() else { return };
    let default = case.facts.git.default_branch.known().filter(|name| branches.contains(name));
    let event = if trigger.event == Event::Push { "push to" } else { "pull request into" };
    let names: Vec<&str> = filter.patterns.iter().map(|pattern| pattern.text.value.as_str()).collect();
    let written = if let [one] = names.as_slice() {
        format!("`{one}` is no branch")
    } else {
        format!("{} are no branches", listed_short(&names))
    };
    let message = match default {
        Some(name) => format!("a {event} {name} never starts this pipeline: {written}"),
        None => format!("no {event} a branch of this repository ever starts this pipeline: {written}"),
    };
    let finding = out.add(first.text.inner(), message);
    finding.witness(WitnessSource::Git, branches_here(branches));
    // Another branch that the name is near to is rather meant than the default one.
    let slip = filter.patterns.iter().find_map(|pattern| {
        let written = pattern.literal()?;
        let others = || branches.iter().map(String::as_str);
        let meant = near(written, others(), Among::Whole).or_else(|| nearest(written, others()).map(Meant::perhaps))?;
        (Some(&meant.word) != default).then_some((pattern, meant))
    });
    if let Some((pattern, meant)) = slip {
        finding.mend(Mend::name(&meant, pattern.text.inner()));
        return;
    }
    finding.mend(match (default, filter.patterns.as_slice()) {
        (Some(name), [only]) if is_free(case, name, only) => Mend::certain(format!("write {name}"), [replace(only, name)]),
        (Some(name), _) => Mend::likely(format!("write {name}"), [replace(first, name)]),
        (None, patterns) => match (usual_branch(branches), patterns) {
            (Some(name), [only]) => {
                Mend::likely(format!("write {name}, or the branch that the site is published from"), [replace(only, name)])
            }
            _ => Mend::by_hand("write the branch that the site is published from"),
        },
    });
}

/// Nobody else may be meant to take the default branch: no other pipeline does, or what is written is an older name of it and nothing
/// but this file publishes.
fn is_free(case: &Case<'_>, default: &str, written: &Pattern) -> bool {
    let taken = case.project.starts_another_on_push(default, case.index);
    let older_name = written.literal().is_some_and(is_usual);
    !taken || (older_name && case.project.publishes_once())
}

fn is_usual(name: &str) -> bool {
    matches!(name, "main" | "master" | "trunk")
}

/// The one branch that is named as default branches mostly are.
fn usual_branch(branches: &[String]) -> Option<&str> {
    let mut usual = branches.iter().filter(|name| is_usual(name));
    usual.next().filter(|_| usual.next().is_none()).map(String::as_str)
}

/// Some patterns fit; a name that is one slip away from a branch nobody else names is still a fault.
fn slips(filter: &Filter, branches: &[String], out: &mut Findings) {
    let named = |branch: &str| filter.patterns.iter().any(|pattern| pattern.literal() == Some(branch));
    for pattern in &filter.patterns {
        let Some(name) = pattern.literal().filter(|name| !branches.iter().any(|branch| branch == name)) else { continue };
        let Some(meant) = nearest(name, branches.iter().map(String::as_str)).filter(|branch| !named(branch)) else { continue };
        out.add(pattern.text.inner(), format!("`{name}` is no branch, so a push to {meant} does not start this pipeline"))
            .witness(WitnessSource::Git, branches_here(branches))
            .mend(Mend::likely(format!("write {meant}"), [replace(pattern, meant)]));
    }
}

fn branches_here(branches: &[String]) -> String {
    match branches {
        [only] => format!("the only branch here is {only}"),
        _ => format!("the branches here are {}", listed_short(branches)),
    }
}

fn replace(pattern: &Pattern, name: &str) -> Edit {
    Edit::replace(pattern.text.inner(), name)
}
