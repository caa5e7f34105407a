//! From the tree of a `.travis.yml` to the model.

use std::collections::BTreeMap;

use super::jobs::{self, Plan, USUAL_STAGE};
use super::{phases, when};
use crate::carrier::Tree;
use crate::formats::Texts;
use crate::formats::keys::{Keys, listed};
use crate::formats::nodes::Nodes;
use crate::model::{
    Choice, Cond, Event, FilterOf, Job, Language, Machine, NamedFile, Pipeline, StartsFrom, Text, Then, Trigger, When, Workspace,
};
use crate::text::Place;

/// Jobs that wait for whole stages are wired one by one, up to this many waits.
const WIRES: usize = 1_000;

/// Reads the file as a pipeline.
pub(super) fn read(tree: &Tree, texts: &Texts<'_>) -> Pipeline {
    let file = texts.main.file;
    let mut pipeline = Pipeline::empty(file, super::FORMAT, &super::data().customs);
    let Some(root) = tree.documents.first().copied() else { return pipeline };
    let nodes = Nodes { tree, file, language: Language::Variables };
    let top = Keys::of(nodes, root);
    pipeline.partial = top.get("import").is_some();
    pipeline.named_files = imports(&top);
    pipeline.choices = when::condition(&top).into_iter().map(|cond| choice(cond, &top)).collect();
    let stages = Stages::of(&top);
    let (global, plans) = jobs::plans(&top, texts.copies);
    pipeline.variables = global.variables;
    pipeline.stages = (!stages.named.is_empty()).then(|| stages.named.iter().map(|(name, _)| name.clone()).collect());
    pipeline.jobs = plans.iter().map(|plan| job(plan, &stages, texts)).collect();
    wire(&mut pipeline, &plans, &stages);
    let start = top.iter().next().map_or(nodes.at(root), |(key, _)| nodes.at(key));
    triggers(&mut pipeline, &top, start);
    pipeline
}

/// Files of this repository that are taken in. Source: the page "Importing Shared Build Configuration", 2026-11.
fn imports(top: &Keys<'_>) -> Vec<NamedFile> {
    let nodes = top.nodes;
    let Some(node) = top.get("import") else { return Vec::new() };
    let source = |item| nodes.text(item).or_else(|| Keys::of(nodes, item).text("source"));
    let own = |text: &Text| text.value.starts_with("./") && text.value.ends_with(".yml");
    let path = |text: Text| {
        let path = text.value.trim_start_matches("./").to_owned();
        NamedFile { path: Text::fixed(&path, text.inner()), started_by: None }
    };
    listed(&nodes, node).into_iter().filter_map(source).filter(own).map(path).collect()
}

/// The condition of the whole file.
fn choice(cond: Cond, top: &Keys<'_>) -> Choice {
    let at = top.at("if").or_else(|| cond.at());
    Choice::new(at.unwrap_or(Place { file: top.nodes.file, span: crate::text::Span::default() }), cond, Then::Run)
}

/// Everything that is pushed and every pull request is built, within the branches that the file names; a page of the forge starts it by
/// hand and by the clock.
fn triggers(pipeline: &mut Pipeline, top: &Keys<'_>, start: Place) {
    let filters = top.get("branches").map(|node| when::filters(&top.nodes, node)).unwrap_or_default();
    let at = top.at("branches").unwrap_or(start);
    pipeline.triggers_at = top.at("branches");
    pipeline.starts_from = if filters.is_empty() { StartsFrom::Usual } else { StartsFrom::Written };
    for (event, name) in [(Event::Push, "push"), (Event::Proposal, "pull request"), (Event::Hand, "api"), (Event::Clock, "cron")]
    {
        let mut trigger = Trigger::plain(event.clone(), Text::fixed(name, at));
        trigger.filters = match event {
            Event::Push => filters.clone(),
            Event::Proposal => filters.iter().filter(|filter| filter.of == FilterOf::Branches).cloned().collect(),
            _ => Vec::new(),
        };
        pipeline.triggers.push(trigger);
    }
}

/// The stages that the file lists, with their conditions.
struct Stages {
    named: Vec<(Text, Option<Cond>)>,
}

impl Stages {
    fn of(top: &Keys<'_>) -> Self {
        let nodes = top.nodes;
        let Some(node) = top.get("stages") else { return Self { named: Vec::new() } };
        let stage = |item| match nodes.text(item) {
            Some(name) => Some((name, None)),
            None => {
                let keys = Keys::of(nodes, item);
                Some((keys.text("name")?, when::condition(&keys)))
            }
        };
        Self { named: listed(&nodes, node).into_iter().filter_map(stage).collect() }
    }

    fn condition(&self, name: &str) -> Option<Cond> {
        self.named.iter().find(|(stage, _)| same(&stage.value, name)).and_then(|(_, cond)| cond.clone())
    }

    /// The place of each job's stage: those that are listed in their order, then others as they come.
    fn ranks<'p>(&'p self, plans: &'p [Plan<'_>]) -> Vec<usize> {
        let mut order: Vec<&str> = self.named.iter().map(|(name, _)| name.value.as_str()).collect();
        if order.is_empty() && plans.iter().any(|plan| !plan.from_item) {
            order.push(USUAL_STAGE);
        }
        let place = |plan: &'p Plan<'_>| {
            let known = order.iter().position(|known| same(known, &plan.stage_name));
            known.unwrap_or_else(|| {
                order.push(&plan.stage_name);
                order.len() - 1
            })
        };
        plans.iter().map(place).collect()
    }
}

/// Names of stages do not mind upper and lower case. Source: the page "Build Stages", naming, 2026-11.
fn same(one: &str, other: &str) -> bool {
    one.trim().eq_ignore_ascii_case(other.trim())
}

/// Each job waits for all jobs of the stage before its own, and so for those of all earlier ones.
fn wire(pipeline: &mut Pipeline, plans: &[Plan<'_>], stages: &Stages) {
    let ranks = stages.ranks(plans);
    let mut by_rank: BTreeMap<usize, Vec<usize>> = BTreeMap::new();
    ranks.iter().enumerate().for_each(|(index, rank)| by_rank.entry(*rank).or_default().push(index));
    let sizes: Vec<usize> = by_rank.values().map(Vec::len).collect();
    if sizes.windows(2).map(|pair| pair[0] * pair[1]).sum::<usize>() > WIRES {
        pipeline.jobs.iter_mut().for_each(|job| job.needs_unknown = true);
        return;
    }
    let mut before: &[usize] = &[];
    for now in by_rank.values() {
        let needs: Vec<Text> = before.iter().map(|other| plans[*other].id.clone()).collect();
        now.iter().for_each(|index| pipeline.jobs[*index].needs.clone_from(&needs));
        before = now;
    }
}

fn job(plan: &Plan<'_>, stages: &Stages, texts: &Texts<'_>) -> Job {
    let own = plan.own().and_then(when::condition);
    Job {
        when: When {
            cond: Cond::all_of(stages.condition(&plan.stage_name).into_iter().chain(own)),
            by_stage: true,
            ..When::default()
        },
        stage: plan.stage.clone().map(Box::new),
        variables: plan.env.variables.clone(),
        handed: plan.env.encrypted.as_slice().into(),
        matrix: plan.matrix.clone().map(Box::new),
        machine: Machine { runners: system(plan).into_iter().collect(), ..Machine::default() },
        workspace: Workspace::Fresh,
        may_fail: plan.may_fail.clone().map(Box::new),
        steps: phases::steps(plan, texts),
        ..Job::empty(plan.id.clone(), plan.body)
    }
}

/// The system that a job asks for: that of Linux has names of its own.
fn system(plan: &Plan<'_>) -> Option<Text> {
    let os = plan.text("os").filter(|os| !matches!(os.value.as_str(), "linux" | "linux-ppc64le"));
    os.or_else(|| plan.text("dist"))
}
