//! The phases of a job in their order, and what is done in those that the file does not write.
//!
//! After the page "Job Lifecycle": a failure in a phase before `script` ends the job; after `script` come `after_success` or
//! `after_failure`, what is published, and `after_script`, whose failures change nothing.

use super::jobs::Plan;
use super::{around, deploy};
use crate::carrier::NodeId;
use crate::formats::Texts;
use crate::formats::nodes::Nodes;
use crate::model::{Outcome, Shell, Step, Text, Work};
use crate::text::Place;

/// What a job does, in order.
pub(super) fn steps(plan: &Plan<'_>, texts: &Texts<'_>) -> Vec<Step> {
    let mut steps = vec![Step::new(plan.id.at, Work::ByItself(around::before(plan, texts)))];
    for phase in ["before_install", "install", "before_script", "script", "before_cache"] {
        match (plan.get(phase), phase) {
            (Some(written), _) => steps.extend(of_phase(plan, phase, written, Outcome::Success)),
            (None, "install") => steps.extend(usual(plan, usual_install(plan, texts))),
            (None, "script") => steps.extend(usual(plan, usual_script(plan, texts))),
            (None, _) => {}
        }
    }
    let aside = around::after(plan);
    if !aside.effects.is_empty() {
        steps.push(Step::new(plan.id.at, Work::ByItself(aside)));
    }
    for (phase, after) in [("after_success", Outcome::Success), ("after_failure", Outcome::Failure)] {
        steps.extend(plan.get(phase).and_then(|written| of_phase(plan, phase, written, after)));
    }
    steps.extend(deploy::steps(plan));
    steps.extend(plan.get("after_script").and_then(|written| of_phase(plan, "after_script", written, Outcome::Any)));
    steps
}

/// What a phase of the file does; nothing when it is switched off.
pub(super) fn of_phase(plan: &Plan<'_>, phase: &str, written: NodeId, after: Outcome) -> Option<Step> {
    let nodes = plan.nodes();
    let lines = lines(&nodes, written);
    let is_off = |line: &Text| super::data().list("nothing").contains(&line.value.as_str());
    if let [only] = lines.as_slice()
        && (is_off(only) || only.plain && only.value == "false")
    {
        return None;
    }
    let script = crate::formats::joined(lines)?;
    // What comes after the script cannot fail the job.
    let name = Text::fixed(phase, script.at);
    let may_fail = (after == Outcome::Any).then(|| Text::fixed("true", script.at));
    Some(Step {
        after,
        name: Some(name),
        may_fail: may_fail.map(Box::new),
        ..Step::new(script.at, Work::Runs { shell: Shell::Posix, script })
    })
}

/// The commands of a phase: a text, or a list, which may hold lists.
pub(super) fn lines(nodes: &Nodes<'_>, node: NodeId) -> Vec<Text> {
    fn add(nodes: &Nodes<'_>, node: NodeId, depth: usize, out: &mut Vec<Text>) {
        match nodes.text(node) {
            Some(text) => out.push(text),
            None if depth < 8 => nodes.tree.items(node).iter().for_each(|item| add(nodes, *item, depth + 1, out)),
            None => {}
        }
    }
    let mut found = Vec::new();
    add(nodes, node, 0, &mut found);
    found
}

/// A command that stands nowhere.
fn usual(plan: &Plan<'_>, command: Option<&str>) -> Option<Step> {
    let at = plan.language_at();
    let script = Text::fixed(command?, at).filled_in_by(plan.nodes().language);
    Some(Step::new(at, Work::Runs { shell: Shell::Posix, script }))
}

/// Source: the pages "Building a JavaScript and Node.js project", "Building a Python Project", "Building a Ruby Project" and "Building a
/// Go Project", default dependency management, 2026-11.
fn usual_install(plan: &Plan<'_>, texts: &Texts<'_>) -> Option<&'static str> {
    let has = |path: &str| texts.has(path);
    match plan.language().as_str() {
        "node_js" if has("yarn.lock") => Some("yarn --frozen-lockfile"),
        "node_js" if has("package-lock.json") || has("npm-shrinkwrap.json") => Some("npm ci"),
        "node_js" if has("package.json") => Some("npm install"),
        "python" if has("requirements.txt") => Some("pip install -r requirements.txt"),
        "ruby" if has("Gemfile.lock") => Some("bundle install --deployment"),
        "ruby" if has("Gemfile") => Some("bundle install"),
        "go" if has("go.mod") => Some("go mod download"),
        _ => None,
    }
}

/// Source: the same pages, default build script, 2026-11.
fn usual_script(plan: &Plan<'_>, texts: &Texts<'_>) -> Option<&'static str> {
    let has = |path: &str| texts.has(path);
    match plan.language().as_str() {
        "node_js" if has("yarn.lock") => Some("yarn test"),
        "node_js" if has("package.json") => Some("npm test"),
        "node_js" => Some("make test"),
        "ruby" if has("Gemfile") => Some("bundle exec rake"),
        "ruby" => Some("rake"),
        "go" if has("Makefile") => Some("make"),
        "go" => Some("go test -v ./..."),
        _ => None,
    }
}

impl Plan<'_> {
    /// Where the language is written, which decides of what is usual.
    fn language_at(&self) -> Place {
        self.text("language").map_or(self.id.at, |text| text.at)
    }
}
