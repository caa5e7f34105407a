//! The jobs of a file: those that lists of values make, and those that stand under `include`.
//!
//! After the pages "Build Matrix" and "Build Stages": each combination of values makes a job of the stage `test`; an included job takes
//! over what it does not write itself, the first of several values; a job that names no stage belongs to the one of the job before it.

use std::collections::{HashMap, HashSet};

use super::env::{self, Env};
use crate::carrier::{Copies, NodeId};
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{Matrix, Text};
use crate::text::Place;

/// More jobs are no honest file.
const JOB_LIMIT: usize = 2_000;

/// The stage of jobs that name none.
pub(super) const USUAL_STAGE: &str = "test";

/// A job before its steps are made.
pub(super) struct Plan<'t> {
    pub id: Text,
    pub body: Place,
    /// The name of the stage, where it is written.
    pub stage: Option<Text>,
    /// The same with what is usual in its place.
    pub stage_name: String,
    pub env: Env,
    pub matrix: Option<Matrix>,
    pub may_fail: Option<Text>,
    /// It stands under `include`.
    pub from_item: bool,
    own: Option<Keys<'t>>,
    top: &'t Keys<'t>,
    /// What may still be taken over from the top.
    copies: &'t Copies,
}

impl<'t> Plan<'t> {
    pub fn nodes(&self) -> Nodes<'t> {
        self.top.nodes
    }

    /// A value: its own, or that of the top where it is taken over.
    pub fn get(&self, key: &str) -> Option<NodeId> {
        match self.own.as_ref().and_then(|own| own.pair(key)) {
            Some((_, value)) => Some(value).filter(|value| !self.nodes().tree.is_null(*value)),
            None if self.own.is_none() => self.top.get(key),
            None => {
                let inherited = super::data().list("inherited").contains(&key);
                self.top.get(key).filter(|node| inherited && self.copies.take(self.nodes().tree.weigh(*node)))
            }
        }
    }

    pub fn text(&self, key: &str) -> Option<Text> {
        let node = self.get(key)?;
        self.nodes().words(node).0.into_iter().next()
    }

    /// What it is written in. Source: the page "Customizing the Build", `language`, 2026-11.
    pub fn language(&self) -> String {
        let word = self.text("language").map_or_else(|| "ruby".to_owned(), |text| text.value.to_ascii_lowercase());
        match word.as_str() {
            "node" | "nodejs" | "javascript" | "node.js" | "javascript_and_node.js" => "node_js".to_owned(),
            "golang" => "go".to_owned(),
            _ => word,
        }
    }

    /// What it says itself.
    pub fn own(&self) -> Option<&Keys<'t>> {
        self.own.as_ref()
    }
}

/// What the file says of its jobs, by either name.
pub(super) fn expansion<'t>(top: &Keys<'t>) -> Option<Keys<'t>> {
    top.get("jobs").or_else(|| top.get("matrix")).map(|node| Keys::of(top.nodes, node))
}

/// The jobs that it lists.
pub(super) fn included(jobs: Option<&Keys<'_>>) -> Vec<NodeId> {
    let listed_of = |jobs: &Keys<'_>| jobs.get("include").map(|node| listed(&jobs.nodes, node));
    jobs.and_then(listed_of).unwrap_or_default()
}

/// The variables of all jobs, and the jobs in the order in which they are made.
pub(super) fn plans<'t>(top: &'t Keys<'t>, copies: &'t Copies) -> (Env, Vec<Plan<'t>>) {
    let nodes = top.nodes;
    let jobs = expansion(top);
    let items: Vec<NodeId> =
        included(jobs.as_ref()).into_iter().filter(|item| !nodes.tree.pairs(*item).is_empty()).take(JOB_LIMIT).collect();
    let envs = top.get("env").map(|node| env::of_file(&nodes, node));
    let (global, rows) = envs.map(|envs| (envs.global, envs.rows)).unwrap_or_default();
    let matrix = matrix(top, jobs.as_ref(), &rows);
    let mut plans = Vec::new();
    if items.is_empty() || matrix.as_ref().is_some_and(|matrix| matrix.legs.is_none_or(|legs| legs > 1)) {
        plans.push(of_lists(top, copies, &global, &rows, matrix));
    }
    let allowed = allowed_failures(jobs.as_ref());
    let mut stage: Option<Text> = None;
    for item in items {
        if copies.are_spent() {
            break;
        }
        let own = Keys::of(nodes, item);
        stage = own.text("stage").or(stage);
        let mut env = own.get("env").map(|node| env::together(&nodes, node)).unwrap_or_default();
        if own.get("env").is_none() {
            // Of several rows the first is taken over.
            copies.take(rows.first().map_or(0, |(_, env)| env.variables.entries.len()));
            env.add(rows.first().map(|(_, env)| env.clone()).unwrap_or_default());
        }
        copies.take(global.encrypted.len() + allowed.len());
        env.encrypted.extend(global.encrypted.iter().cloned());
        let may_fail = may_fail(&own, &allowed);
        let stage_name = stage.as_ref().map_or_else(|| USUAL_STAGE.to_owned(), |text| text.value.clone());
        let at = own.at("name").or_else(|| own.at("stage")).or_else(|| own.iter().next().map(|(key, _)| nodes.at(key)));
        let id = own.text("name").unwrap_or_else(|| Text::fixed("", at.unwrap_or(nodes.at(item))));
        let body = nodes.at(item);
        plans.push(Plan {
            id,
            body,
            stage: stage.clone(),
            stage_name,
            env,
            matrix: None,
            may_fail,
            from_item: true,
            own: Some(own),
            top,
            copies,
        });
    }
    name(&mut plans);
    (global, plans)
}

/// The job that stands for all combinations of values.
fn of_lists<'t>(top: &'t Keys<'t>, copies: &'t Copies, global: &Env, rows: &[(Text, Env)], matrix: Option<Matrix>) -> Plan<'t> {
    let nodes = top.nodes;
    let mut env = Env::default();
    match rows {
        [(_, only)] => env.add(only.clone()),
        // What all of them hide may stand in each.
        several => env.variables.open |= several.iter().any(|(_, row)| row.variables.open),
    }
    env.encrypted.extend(rows.iter().skip(1).flat_map(|(_, row)| row.encrypted.iter().cloned()));
    env.encrypted.extend(global.encrypted.iter().cloned());
    let first = top.iter().next().map(|(key, _)| key);
    let start = top.at("script").or_else(|| top.at("language")).or_else(|| first.map(|key| nodes.at(key)));
    let at = start.unwrap_or(Place { file: nodes.file, span: crate::text::Span::default() });
    let body = top.iter().fold(at, |whole, (_, value)| {
        let span = nodes.at(value).span;
        Place { span: crate::text::Span { start: whole.span.start.min(span.start), end: whole.span.end.max(span.end) }, ..whole }
    });
    let id = top.text("name").unwrap_or_else(|| Text::fixed("", at));
    let stage_name = USUAL_STAGE.to_owned();
    Plan { id, body, stage: None, stage_name, env, matrix, may_fail: None, from_item: false, own: None, top, copies }
}

/// Lists of more than one value, which make a job of each combination; nothing where none is one.
fn matrix(top: &Keys<'_>, jobs: Option<&Keys<'_>>, rows: &[(Text, Env)]) -> Option<Matrix> {
    let nodes = top.nodes;
    let mut axes: Vec<(Text, Vec<Text>)> = Vec::new();
    let mut names: Vec<Text> = Vec::new();
    for axis in super::data().list("axes").iter().filter(|axis| **axis != "env") {
        let Some((key, value)) = top.pair(axis) else { continue };
        let (words, _) = nodes.words(value);
        if let (Some(key), true) = (nodes.text(key), words.len() > 1) {
            names.push(key.clone());
            axes.push((key, words));
        }
    }
    if rows.len() > 1 {
        let at = top.at("env")?;
        axes.push((Text::fixed("env", at), rows.iter().map(|(name, _)| name.clone()).collect()));
        let of_rows = rows.iter().flat_map(|(_, row)| row.variables.entries.iter().map(|(name, _)| name.clone()));
        for name in of_rows {
            if names.iter().all(|known| known.value != name.value) {
                names.push(name);
            }
        }
    }
    let at = axes.first()?.0.at;
    let product = axes.iter().fold(1_usize, |all, (_, values)| all.saturating_mul(values.len()));
    let taken_away = jobs.and_then(|jobs| jobs.get("exclude")).map(|node| listed(&nodes, node).len()).unwrap_or_default();
    let legs = Some(product.saturating_sub(taken_away));
    let open = rows.iter().any(|(_, row)| row.variables.open);
    Some(Matrix { at, axes, included: Vec::new(), excluded: Vec::new(), plain: false, names, open, legs })
}

/// What stands under `allow_failures`, each with its keys and values.
fn allowed_failures(jobs: Option<&Keys<'_>>) -> Vec<(Place, Vec<(String, String)>)> {
    let Some((jobs, node)) = jobs.and_then(|jobs| Some((jobs, jobs.get("allow_failures")?))) else { return Vec::new() };
    let nodes = jobs.nodes;
    let entry = |item: NodeId| {
        let keys = Keys::of(nodes, item);
        let pairs = keys.iter().map(|(key, value)| {
            let text = |node| nodes.text(node).map(|text: Text| text.value).unwrap_or_default();
            (text(key), text(value))
        });
        (nodes.at(item), pairs.collect())
    };
    listed(&nodes, node).into_iter().map(entry).collect()
}

/// Its failure does not fail the run, and where that is said.
fn may_fail(own: &Keys<'_>, allowed: &[(Place, Vec<(String, String)>)]) -> Option<Text> {
    let fits = |pairs: &[(String, String)]| !pairs.is_empty() && pairs.iter().all(|(key, value)| own.says(key, value));
    let listed = allowed.iter().find(|(_, pairs)| fits(pairs)).map(|(at, _)| Text::fixed("true", *at));
    own.text("allow_failure").filter(|text| text.value == "true").or(listed)
}

/// Gives names to jobs that have none, and makes all of them different.
fn name(plans: &mut [Plan<'_>]) {
    let mut seen: HashSet<String> = HashSet::new();
    let mut numbers: HashMap<String, usize> = HashMap::new();
    for plan in plans {
        let wanted = if plan.id.value.trim().is_empty() { plan.stage_name.clone() } else { plan.id.value.clone() };
        let number = numbers.entry(wanted.clone()).or_insert(1);
        let mut word = wanted.clone();
        while !seen.insert(word.clone()) {
            *number += 1;
            word = format!("{wanted} {number}");
        }
        if word != plan.id.value {
            plan.id = Text::fixed(&word, plan.id.at);
        }
    }
}
