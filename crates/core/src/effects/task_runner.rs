//! Programs that run a script of the same name in many packages.

use std::collections::BTreeSet;

use super::Effect;
use super::run::{Call, Run};
use super::sorted::Sorted;
use crate::facts::config::{Found, Setting, Value};
use crate::facts::{Members, Reach};
use crate::knowledge::{self, TaskRunner};

/// Which tasks are run, and in which packages.
struct Wanted<'w> {
    tasks: Vec<&'w str>,
    /// Without a filter in all.
    filters: Vec<&'w str>,
}

impl Run<'_, '_> {
    pub(super) fn task_runner(&mut self, runner: &'static TaskRunner, call: &Call<'_>) {
        match self.wanted(runner, call) {
            Some(wanted) => self.tasks(runner, &wanted, call),
            None => self.add(Effect::Unknown(Reach::Anything), call.at),
        }
    }

    fn wanted<'c>(&self, runner: &TaskRunner, call: &Call<'c>) -> Option<Wanted<'c>> {
        let lists = [&runner.filter_options, &runner.task_options, &runner.value_options];
        let sorted = Sorted::of(&call.words[1..], |option| lists.iter().any(|list| list.contains(&option)));
        let arguments: Vec<&'c str> = sorted.arguments.iter().map(|word| word.known()).collect::<Option<_>>()?;
        if sorted.has(runner.changed_options) {
            return None;
        }
        let mut filters: Vec<&'c str> = Vec::new();
        for (value, _) in sorted.values(runner.filter_options) {
            filters.extend(value?.split(',').filter(|part| !part.is_empty()));
        }
        let named: Vec<&'c str> = sorted
            .values(runner.task_options)
            .map(|(value, _)| value)
            .collect::<Option<Vec<_>>>()?
            .into_iter()
            .flat_map(|value| value.split(','))
            .collect();
        let first = arguments.first().copied().unwrap_or_default();
        let runs_many = runner.run_many.contains(&first);
        let tasks = match () {
            () if runner.run.contains(&first) => arguments[1..].to_vec(),
            () if runs_many => named,
            () if runner.bare && !runner.other_words.contains(&first) => arguments,
            () => return None,
        };
        if !runner.project_behind_task || runs_many {
            return (!tasks.is_empty()).then_some(Wanted { tasks, filters });
        }
        // `nx build web`, `nx run web:build`.
        match tasks.as_slice() {
            [one] => one.split_once(':').map(|(project, task)| Wanted { tasks: vec![task], filters: vec![project] }),
            [task, project] => Some(Wanted { tasks: vec![task], filters: vec![project] }),
            _ => None,
        }
    }

    fn tasks(&mut self, runner: &TaskRunner, wanted: &Wanted<'_>, call: &Call<'_>) {
        let facts = self.scene.facts;
        let Some(members) = facts.members().filter(|_| self.scene.own_root) else {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        };
        let Some(names) = all_tasks(runner, facts, &wanted.tasks) else {
            return self.add(Effect::Unknown(Reach::Anything), call.at);
        };
        // Where a project says itself how it is built, its package's scripts tell nothing.
        let own_file =
            |dir: &str| runner.project_file.as_ref().is_some_and(|file| facts.has_file(&format!("{dir}/{file}")) != Some(false));
        let mut chosen: Vec<&str> = Vec::new();
        for filter in &wanted.filters {
            match facts.member("", filter) {
                Members::These(dirs) => chosen.extend(dirs),
                _ => return self.add(Effect::Unknown(Reach::Anything), call.at),
            }
        }
        for dir in members {
            if own_file(dir) {
                self.add(Effect::Unknown(Reach::Anything), call.at);
                continue;
            }
            // What a chosen package depends on may be built too.
            let perhaps = !wanted.filters.is_empty() && !chosen.contains(&dir);
            let Some(package) = facts.packages.get(dir) else { continue };
            for name in &names {
                if let Some(script) = package.script(name) {
                    let (name, command) = (script.name.clone(), script.command.clone());
                    self.follow(dir, &name, &command, call.at, perhaps);
                }
            }
        }
    }
}

/// The tasks and all that the runner's own file lets them wait for; nothing when that is not known.
fn all_tasks(runner: &TaskRunner, facts: &crate::facts::Facts, tasks: &[&str]) -> Option<BTreeSet<String>> {
    let mut found: BTreeSet<String> = tasks.iter().map(|task| (*task).to_owned()).collect();
    let Some(file) = runner.tasks_file else { return Some(found) };
    let (_, setting) = facts.configs.get(file)?;
    let mut open: Vec<String> = found.iter().cloned().collect();
    while let Some(task) = open.pop() {
        let entry = ["tasks", "pipeline"].iter().find_map(|key| match setting.find(key) {
            Found::Here(map) => map.entries().iter().find(|(name, ..)| *name == task).map(|(.., entry)| entry),
            _ => None,
        });
        let Some(Found::Here(Setting { value: Value::List(items), .. })) = entry.map(|entry| entry.find("dependsOn")) else {
            continue;
        };
        for item in items {
            let name = item.text()?.trim_start_matches('^');
            let name = name.split_once('#').map_or(name, |(_, task)| task);
            if !name.starts_with('$') && found.insert(name.to_owned()) {
                open.push(name.to_owned());
            }
        }
    }
    Some(found)
}

/// The runner that a command is.
pub(super) fn matching(name: &str) -> Option<&'static TaskRunner> {
    knowledge::commands().task_runner.iter().find(|runner| runner.name == name)
}
