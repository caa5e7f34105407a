//! Reads workflow files (`.github/workflows/*.yml` and its kin) after the format's page "Workflow syntax".

use crate::carrier::{Kind, NodeId, Tree};
use crate::formats::nodes::{Nodes, WrittenKeys};
use crate::knowledge::{Customs, FilterEntry};
use crate::model::{
    Call, Callee, Cond, Condition, Event, Filter, Grant, GrantKind, Input, Interface, Job, Language, Level, Lock, Machine,
    Matrix, Pattern, PatternSyntax, Pipeline, Scope, Shell, Step, Text, Trigger, Variables, When, Work, Workspace,
};
use crate::text::FileId;

/// Reads a tree. Whatever does not fit is left out: the grammar speaks of it.
pub(super) fn read(tree: &Tree, file: FileId, path: &str) -> Pipeline {
    let customs = super::data().customs_at(path);
    let nodes = Nodes { tree, file, language: Language::Contexts };
    let mut pipeline = Pipeline::empty(file, super::FORMAT, customs);
    pipeline.is_part = super::places::is_action(path);
    let Some(root) = tree.documents.first().copied() else { return pipeline };
    let reader = Reader { nodes, customs };
    pipeline.name = nodes.text_at(root, "name");
    if let Some((key, on)) = tree.get(root, "on") {
        pipeline.triggers_at = nodes.text(key).map(|text| text.at);
        pipeline.triggers = reader.triggers(on);
        pipeline.interface = reader.called_interface(on);
    }
    pipeline.permissions = reader.grant(root);
    pipeline.variables = reader.variables_at(root, "env");
    pipeline.lock = reader.lock(root);
    let defaults = reader.defaults(root, &Defaults::default());
    if pipeline.is_part {
        reader.action(root, &mut pipeline);
    } else if let Some(jobs) = tree.value(root, "jobs") {
        pipeline.jobs = tree.pairs(jobs).iter().filter_map(|(key, value)| reader.job(*key, *value, &defaults)).collect();
    }
    pipeline
}

/// What steps inherit.
#[derive(Clone, Default)]
struct Defaults {
    scope: Scope,
    shell: Option<Text>,
}

struct Reader<'t> {
    nodes: Nodes<'t>,
    customs: &'static Customs,
}

impl Reader<'_> {
    fn tree(&self) -> &Tree {
        self.nodes.tree
    }

    fn variables_at(&self, node: NodeId, key: &str) -> Variables {
        self.tree().value(node, key).map(|value| self.nodes.variables(value)).unwrap_or_default()
    }

    fn triggers(&self, on: NodeId) -> Vec<Trigger> {
        let (words, _) = self.nodes.words(on);
        if !words.is_empty() {
            return words.into_iter().map(|name| self.trigger(name, on, None)).collect();
        }
        let pairs = self.tree().pairs(on);
        let mut triggers = Vec::with_capacity(pairs.len());
        triggers.extend(pairs.iter().filter_map(|(key, value)| Some(self.trigger(self.nodes.text(*key)?, *key, Some(*value)))));
        triggers
    }

    fn trigger(&self, name: Text, key: NodeId, value: Option<NodeId>) -> Trigger {
        let entry = super::data().grammar.event(&name.value);
        let event = match entry.map(|entry| entry.is) {
            None => Event::Unknown(name.value.clone()),
            Some(None) => Event::Other(name.value.clone()),
            Some(Some(is)) => event_of(is),
        };
        let at = value.map_or(name.at, |value| self.nodes.between(key, value));
        let mut trigger = Trigger { at, ..Trigger::plain(event, name) };
        let Some(value) = value else { return trigger };
        trigger.times = self.tree().items(value).iter().filter_map(|item| self.nodes.text_at(*item, "cron")).collect();
        for (key, value) in self.tree().pairs(value) {
            let Some(name) = self.nodes.text(*key) else { continue };
            match name.value.as_str() {
                "types" => {
                    trigger.types = self.nodes.words(*value).0;
                    let usual = entry.map(|entry| entry.default_types).unwrap_or_default();
                    trigger.usual = usual.is_empty() || trigger.types.iter().any(|kind| usual.contains(&kind.value.as_str()));
                }
                "workflows" => trigger.after = self.nodes.words(*value).0,
                "inputs" => trigger.inputs = self.inputs(*value),
                _ => trigger.filters.extend(self.filter(name, *value)),
            }
        }
        if let Some(entry) = entry {
            let grammar = &super::data().grammar;
            trigger.filters.retain(|filter| grammar.takes(entry, &filter.key.value));
            trigger.filters.shrink_to_fit();
        }
        trigger
    }

    fn filter(&self, key: Text, value: NodeId) -> Option<Filter> {
        let FilterEntry { of, side } = *super::data().grammar.filter.get(&key.value)?;
        let patterns = self.nodes.words(value).0.into_iter().map(|text| Pattern { text, syntax: PatternSyntax::Glob }).collect();
        Some(Filter { of, side, key, patterns })
    }

    fn inputs(&self, node: NodeId) -> Vec<Input> {
        let input = |(key, value): &(NodeId, NodeId)| {
            let required = self.nodes.text_at(*value, "required").is_some_and(|text| text.value == "true");
            let default = self.nodes.text_at(*value, "default");
            let options = self.tree().value(*value, "options").map(|node| self.nodes.words(node).0);
            Some(Input { name: self.nodes.text(*key)?, required, default, options, details: self.nodes.variables(*value) })
        };
        self.tree().pairs(node).iter().filter_map(input).collect()
    }

    /// What a caller hands in and gets back; `None` when nobody calls this file.
    fn called_interface(&self, on: NodeId) -> Option<Interface> {
        let is_called = self.nodes.words(on).0.iter().any(|word| word.value == "workflow_call");
        let call = self.tree().get(on, "workflow_call");
        let Some((key, call)) = call else { return is_called.then(Interface::default) };
        let secret = |(key, value): &(NodeId, NodeId)| {
            let required = self.nodes.text_at(*value, "required").is_some_and(|text| text.value == "true");
            Some((self.nodes.text(*key)?, required))
        };
        let pairs = |key: &str| self.tree().value(call, key).map(|node| self.tree().pairs(node)).unwrap_or_default();
        Some(Interface {
            at: self.nodes.text(key).map(|text| text.at),
            inputs: self.tree().value(call, "inputs").map(|node| self.inputs(node)).unwrap_or_default(),
            secrets: pairs("secrets").iter().filter_map(secret).collect(),
            outputs: self.outputs(call),
        })
    }

    /// Names and values that are given back to a caller.
    fn outputs(&self, node: NodeId) -> Vec<(Text, Option<Text>)> {
        let pairs = self.tree().value(node, "outputs").map(|node| self.tree().pairs(node)).unwrap_or_default();
        pairs.iter().filter_map(|(key, value)| Some((self.nodes.text(*key)?, self.nodes.text_at(*value, "value")))).collect()
    }

    /// A composite action as one job whose steps are the action's.
    fn action(&self, root: NodeId, pipeline: &mut Pipeline) {
        pipeline.interface = Some(Interface {
            at: self.tree().get(root, "inputs").and_then(|(key, _)| self.nodes.text(key)).map(|text| text.at),
            inputs: self.tree().value(root, "inputs").map(|node| self.inputs(node)).unwrap_or_default(),
            secrets: Vec::new(),
            outputs: self.outputs(root),
        });
        let Some((key, runs)) = self.tree().get(root, "runs") else { return };
        if self.nodes.text_at(runs, "using").is_some_and(|using| using.value == "composite") {
            pipeline.jobs.extend(self.job(key, runs, &Defaults::default()));
        }
    }

    fn grant(&self, node: NodeId) -> Option<Grant> {
        let (key, value) = self.tree().get(node, "permissions")?;
        let kind = match &self.tree().node(self.tree().resolve(value)).kind {
            // An empty `permissions:` says nothing; `{}` takes all away.
            Kind::Absent => return None,
            Kind::Mapping(..) => {
                let pairs = self.tree().pairs(value);
                let mut scopes = Vec::with_capacity(pairs.len());
                scopes.extend(pairs.iter().filter_map(|(key, value)| Some((self.nodes.text(*key)?, self.nodes.text(*value)?))));
                if scopes.len() == pairs.len() { GrantKind::Scopes(scopes) } else { GrantKind::Unknown }
            }
            Kind::Scalar(..) => match self.tree().scalar(value).unwrap_or_default() {
                "read-all" => GrantKind::All(Level::Read),
                "write-all" => GrantKind::All(Level::Write),
                _ => GrantKind::Unknown,
            },
            _ => GrantKind::Unknown,
        };
        Some(Grant { at: self.nodes.at(value), key: self.nodes.at(key), kind })
    }

    fn lock(&self, node: NodeId) -> Option<Lock> {
        let (key, value) = self.tree().get(node, "concurrency")?;
        let at = self.nodes.between(key, value);
        if let Some(group) = self.nodes.text(value) {
            return Some(Lock { at, group, cancels: None });
        }
        Some(Lock { at, group: self.nodes.text_at(value, "group")?, cancels: self.nodes.text_at(value, "cancel-in-progress") })
    }

    fn defaults(&self, node: NodeId, outer: &Defaults) -> Defaults {
        let run = self.tree().value(node, "defaults").and_then(|defaults| self.tree().value(defaults, "run"));
        let Some(run) = run else { return outer.clone() };
        let directory = self.nodes.text_at(run, "working-directory").map(Box::new).or_else(|| outer.scope.directory.clone());
        Defaults {
            scope: Scope { directory, ..Scope::default() },
            shell: self.nodes.text_at(run, "shell").or_else(|| outer.shell.clone()),
        }
    }

    fn job(&self, key: NodeId, node: NodeId, outer: &Defaults) -> Option<Job> {
        let tree = self.tree();
        let id = self.nodes.text(key)?;
        let mut defaults = self.defaults(node, outer);
        let runners = tree.value(node, "runs-on").map(|value| self.nodes.words(value).0).unwrap_or_default();
        // Without a word of its own, a script on a Windows runner is PowerShell.
        let windows = runners.iter().any(|runner| runner.value.to_ascii_lowercase().contains("windows"));
        if defaults.shell.is_none() && windows {
            defaults.shell = Some(Text::straight("pwsh", self.nodes.file, id.at.span));
        }
        let (needs, needs_unknown) = tree.value(node, "needs").map(|value| self.nodes.words(value)).unwrap_or_default();
        let needs_unknown = needs_unknown || needs.iter().any(Text::is_dynamic);
        let steps = tree.value(node, "steps").map(|steps| tree.items(steps).to_vec()).unwrap_or_default();
        let image = |value| self.nodes.text(value).or_else(|| self.nodes.text_at(value, "image"));
        Some(Job {
            needs_at: tree.value(node, "needs").map(|value| self.nodes.at(value)),
            needs,
            needs_unknown,
            when: When::asks(self.condition(node)),
            permissions: self.grant(node),
            environment: tree
                .value(node, "environment")
                .and_then(|value| self.nodes.text(value).or_else(|| self.nodes.text_at(value, "name")))
                .map(Box::new),
            lock: self.lock(node),
            variables: self.variables_at(node, "env"),
            outputs: self.variables_at(node, "outputs").entries,
            matrix: tree.value(node, "strategy").and_then(|strategy| self.matrix(strategy)).map(Box::new),
            steps: steps.into_iter().map(|step| self.step(step, &defaults)).collect(),
            call: self.call(node).map(Box::new),
            may_fail: self.nodes.text_at(node, "continue-on-error").map(Box::new),
            time_limit: self.nodes.text_at(node, "timeout-minutes").map(|text| text.at),
            workspace: if self.is_hosted(&runners) { Workspace::Fresh } else { Workspace::Kept },
            machine: Machine { runners, image: tree.value(node, "container").and_then(image), ..Machine::default() },
            ..Job::empty(id, self.nodes.at(tree.resolve(node)))
        })
    }

    /// The forge's own machines are new for each job; a machine of one's own may keep its folder from run to run.
    fn is_hosted(&self, runners: &[Text]) -> bool {
        !runners.is_empty() && runners.iter().all(|runner| self.customs.machine(&runner.value).is_some())
    }

    fn condition(&self, node: NodeId) -> Option<Condition> {
        self.nodes.text_at(node, "if").map(Condition::new)
    }

    fn matrix(&self, strategy: NodeId) -> Option<Matrix> {
        let tree = self.tree();
        let matrix = tree.value(strategy, "matrix")?;
        let whole = tree.scalar(matrix).is_none();
        let mut found = Matrix {
            at: self.nodes.at(matrix),
            axes: Vec::new(),
            included: Vec::new(),
            excluded: Vec::new(),
            plain: whole,
            names: Vec::new(),
            open: !whole,
            legs: None,
        };
        for (key, value) in tree.pairs(matrix) {
            let Some(name) = self.nodes.text(*key) else { continue };
            if name.value == "include" || name.value == "exclude" {
                self.more_legs(&name, *value, &mut found);
                continue;
            }
            let (values, odd) = self.nodes.words(*value);
            found.plain &= !(odd || values.iter().any(Text::is_dynamic) || tree.items(*value).is_empty());
            found.names.push(name.clone());
            found.axes.push((name, values));
        }
        found.legs = found.combinations().map(|legs| legs.len()).or_else(|| self.counted(matrix));
        Some(found)
    }

    /// How many combinations there are where their values are not known.
    fn counted(&self, matrix: NodeId) -> Option<usize> {
        let tree = self.tree();
        let pairs = tree.pairs(matrix);
        let is = |key: NodeId, word: &str| tree.scalar(key) == Some(word);
        let (added, axes): (Vec<_>, Vec<_>) = pairs.iter().partition(|(key, _)| is(*key, "include") || is(*key, "exclude"));
        let size = |value: NodeId| Some(tree.items(value).len()).filter(|size| *size > 0);
        match added.as_slice() {
            [] if !axes.is_empty() => axes.iter().try_fold(1_usize, |legs, (_, value)| Some(legs.saturating_mul(size(*value)?))),
            [(key, value)] if axes.is_empty() && is(*key, "include") => size(*value),
            _ => None,
        }
    }

    /// `include` may add names and legs, `exclude` takes legs away.
    fn more_legs(&self, key: &Text, value: NodeId, matrix: &mut Matrix) {
        let tree = self.tree();
        let pair = |(key, value): &(NodeId, NodeId)| Some((self.nodes.text(*key)?, self.nodes.text(*value)?));
        let entries: Vec<Vec<(Text, Text)>> =
            tree.items(value).iter().map(|item| tree.pairs(*item).iter().filter_map(pair).collect()).collect();
        let whole = tree.items(value).iter().zip(&entries).all(|(item, entry)| {
            let pairs = tree.pairs(*item).len();
            pairs > 0 && pairs == entry.len() && entry.iter().all(|(name, value)| !name.is_dynamic() && !value.is_dynamic())
        });
        matrix.plain &= whole && !entries.is_empty();
        if key.value == "exclude" {
            matrix.excluded = entries;
            return;
        }
        matrix.included = entries;
        matrix.open |= tree.scalar(value).is_some();
        for item in tree.items(value) {
            matrix.open |= tree.pairs(*item).is_empty();
            matrix.names.extend(tree.pairs(*item).iter().filter_map(|(key, _)| self.nodes.text(*key)));
        }
    }

    fn call(&self, node: NodeId) -> Option<Call> {
        let target = self.nodes.text_at(node, "uses")?;
        let all_secrets = self.nodes.text_at(node, "secrets").is_some_and(|text| text.value == "inherit");
        let (inputs, secrets) = (self.variables_at(node, "with"), self.variables_at(node, "secrets"));
        Some(Call { found: Callee::of_name(&target.value), target, inputs, secrets, all_secrets })
    }

    fn step(&self, node: NodeId, defaults: &Defaults) -> Step {
        let tree = self.tree();
        let keys = WrittenKeys::of(self.nodes, node);
        let shell = keys.text("shell").or_else(|| defaults.shell.clone());
        let work = match (keys.text("uses"), keys.text("run")) {
            (Some(_), Some(_)) => Work::Unclear,
            (Some(action), None) => Work::Uses { found: Callee::of_name(&action.value), action, inputs: keys.variables("with") },
            (None, Some(script)) => Work::Runs { script, shell: shell_of(shell.as_ref()) },
            (None, None) => Work::Nothing,
        };
        let at = match (tree.pairs(node).first(), tree.pairs(node).last()) {
            (Some((first, _)), Some((_, last))) => self.nodes.between(*first, *last),
            _ => self.nodes.at(node),
        };
        Step {
            id: keys.text("id").map(Box::new),
            name: keys.text("name"),
            when: keys.text("if").map(Condition::new).map(Cond::asks),
            variables: keys.variables("env"),
            directory: keys.text("working-directory").map(Box::new),
            may_fail: keys.text("continue-on-error").map(Box::new),
            time_limit: keys.text("timeout-minutes").map(|text| text.at),
            ..Step::new(at, work)
        }
        .within(&defaults.scope)
    }
}

fn event_of(is: &str) -> Event {
    match is {
        "push" => Event::Push,
        "proposal" => Event::Proposal,
        "privileged-proposal" => Event::PrivilegedProposal,
        "hand" => Event::Hand,
        "clock" => Event::Clock,
        "called" => Event::Called,
        "after-pipeline" => Event::AfterPipeline,
        "release" => Event::Release,
        other => Event::Other(other.to_owned()),
    }
}

/// Without a name a script runs in `bash` or `sh`.
/// Source: the format's page "Workflow syntax", `jobs.<job_id>.steps[*].shell`.
fn shell_of(shell: Option<&Text>) -> Shell {
    match shell.map(|shell| shell.value.split_whitespace().next().unwrap_or_default()) {
        None | Some("bash" | "sh" | "zsh" | "dash") => Shell::Posix,
        Some("pwsh" | "powershell") => Shell::PowerShell,
        Some("cmd") => Shell::Cmd,
        Some(_) => Shell::Other,
    }
}
