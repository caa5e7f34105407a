//! What does not fit in `cloudbuild.yaml`.

use std::collections::BTreeMap;

use super::dollars::{Dollar, Substitutions, dollars, is_own, with_name};
use super::{limits, read, secrets, steps};
use crate::carrier::{NodeId, Tree};
use crate::form::{FormIssue, FormIssueKind, Scope, walk};
use crate::formats::keys::{Keys, listed};
use crate::formats::{Reading, Texts, read_as_meant};
use crate::knowledge::nearest;
use crate::model::{Pipeline, Shell, Text, Variables};
use crate::shell::{variable_reads, variables_set};
use crate::text::{FileId, Place};

/// Reads a file; words that are surely slips are read as what is meant.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let of_tree = |tree: &Tree, pipeline: &Pipeline| issues(tree, main.file, pipeline);
    let (pipeline, form) = read_as_meant(main, |tree| read::read(tree, main.file), of_tree);
    Reading { pipelines: vec![pipeline], form }
}

/// Something that the service does not take.
pub(super) fn refused(at: Place, what: String, because: &str, todo: String) -> FormIssue {
    FormIssue { at, kind: FormIssueKind::Forbidden { whole: "the build", what, because: because.to_owned(), todo } }
}

fn issues(tree: &Tree, file: FileId, pipeline: &Pipeline) -> Vec<FormIssue> {
    let root = tree.documents.first().copied();
    let mut found = walk(tree, root, file, &super::data().grammar, "cloudbuild", false, &Scope::new(pipeline));
    let nodes = read::nodes_of(tree, file);
    let Some(root) = root else { return found };
    let top = Keys::of(nodes, root);
    let list: Vec<NodeId> = top.get("steps").map(|node| listed(&nodes, node)).unwrap_or_default();
    let steps: Vec<Keys<'_>> = list.iter().map(|node| Keys::of(nodes, *node)).collect();
    let own = read::substitutions(&top);
    found.extend(limits::issues(&top, &steps));
    found.extend(waits(&steps));
    found.extend(own_names(&own));
    found.extend(logs(&top));
    found.extend(volumes(&top, &steps));
    found.extend(entry_points(&steps));
    found.extend(asked_for(&top, &steps));
    found.extend(read_names(&top, &steps, &own));
    found
}

/// What steps wait for: ids that stand before them.
fn waits(steps: &[Keys<'_>]) -> Vec<FormIssue> {
    let mut found = Vec::new();
    let ids: Vec<Option<Text>> = steps.iter().map(|keys| keys.text("id")).collect();
    let mut seen: BTreeMap<&str, Place> = BTreeMap::new();
    for (number, keys) in steps.iter().enumerate() {
        let names = keys.get("waitFor").map(|node| keys.nodes.words(node).0).unwrap_or_default();
        for name in names.iter().filter(|name| name.value != "-" && !seen.contains_key(name.value.as_str())) {
            let later = ids.iter().skip(number).flatten().find(|id| id.value == name.value);
            let (what, because, todo) = match later {
                Some(id) if ids[number].as_ref().is_some_and(|own| own.value == id.value) => (
                    format!("`{}` waits for itself", name.value),
                    "a step waits for steps that stand before it",
                    "name a step that stands before this one".to_owned(),
                ),
                Some(_) => (
                    format!("`{}` stands further down, and a step can wait only for those before it", name.value),
                    "a step waits for steps that stand before it",
                    format!("move `{}` before this step", name.value),
                ),
                None => {
                    let known: Vec<&str> = seen.keys().copied().collect();
                    let todo = match nearest(&name.value, known.iter().copied()) {
                        Some(meant) => format!("write `{meant}`"),
                        None if known.is_empty() => "give the step that is meant an `id`".to_owned(),
                        None => format!("write one of the ids that are there: {}", known.join(", ")),
                    };
                    (
                        format!("this waits for `{}`, and no step has that id", name.value),
                        "`waitFor` names the ids of steps",
                        todo,
                    )
                }
            };
            found.push(refused(name.inner(), what, because, todo));
        }
        if let Some(id) = &ids[number] {
            if let Some(first) = seen.get(id.value.as_str()) {
                found.push(FormIssue { at: id.at, kind: FormIssueKind::RepeatedId { id: id.value.clone(), first: *first } });
            }
            seen.entry(id.value.as_str()).or_insert(id.at);
        }
    }
    found
}

/// Names of substitutions: an underscore, then capitals, digits and underscores.
fn own_names(own: &Substitutions) -> Vec<FormIssue> {
    let is_name = |name: &str| {
        name.starts_with('_')
            && name.len() > 1
            && name.bytes().all(|byte| byte.is_ascii_uppercase() || byte.is_ascii_digit() || byte == b'_')
    };
    let issue = |(name, _): &(Text, Text)| {
        if is_name(&name.value) || is_own(&name.value) {
            return None;
        }
        let plain: String =
            name.value.to_ascii_uppercase().chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '_' }).collect();
        let meant = format!("_{}", plain.trim_start_matches('_'));
        let what = match name.value.starts_with('_') {
            true => format!("`{}` is no name for a substitution", name.value),
            false => format!("`{}` does not begin with an underscore", name.value),
        };
        let because = "the names of your own substitutions begin with `_` and hold capital letters, digits and underscores";
        Some(refused(name.inner(), what, because, format!("call it `{meant}`, here and where it is read")))
    };
    own.written.entries.iter().filter_map(issue).collect()
}

/// A build under an account of one's own says where its logs go.
/// Source: the page "Configure user-specified service accounts", build logs, 2026-11.
fn logs(top: &Keys<'_>) -> Option<FormIssue> {
    let account = top.text("serviceAccount")?;
    let options = top.get("options").map(|node| Keys::of(top.nodes, node));
    let says = |key: &str, word: &str| options.as_ref().is_some_and(|options| options.says(key, word));
    let goes_somewhere = top.get("logsBucket").is_some()
        || says("logging", "CLOUD_LOGGING_ONLY")
        || says("logging", "NONE")
        || says("defaultLogsBucketBehavior", "REGIONAL_USER_OWNED_BUCKET");
    let unknown = options.as_ref().and_then(|options| options.text("logging")).is_some_and(|text| text.known().is_none());
    (!goes_somewhere && !unknown).then(|| {
        refused(
            account.at,
            "this build runs under an account of your own and does not say where its logs go".to_owned(),
            "with `serviceAccount` one of `logsBucket`, `options: logging: CLOUD_LOGGING_ONLY` or `NONE`, or a default bucket of your own is needed",
            "add `options:` with `logging: CLOUD_LOGGING_ONLY`".to_owned(),
        )
    })
}

/// A volume that one step alone has shares nothing, and a path of two volumes neither.
/// Source: the page "REST Resource: projects.builds", volumes, 2026-11.
fn volumes(top: &Keys<'_>, steps: &[Keys<'_>]) -> Vec<FormIssue> {
    if top.get("options").is_some_and(|node| Keys::of(top.nodes, node).get("volumes").is_some()) {
        return Vec::new();
    }
    let mut uses: BTreeMap<String, (usize, Place)> = BTreeMap::new();
    for keys in steps {
        for node in keys.get("volumes").map(|node| listed(&keys.nodes, node)).unwrap_or_default() {
            let Some(name) = Keys::of(keys.nodes, node).text("name") else { continue };
            uses.entry(name.value.clone()).or_insert((0, name.inner())).0 += 1;
        }
    }
    let alone = uses.into_iter().filter(|(_, (count, _))| *count == 1);
    let issue = |(name, (_, at)): (String, (usize, Place))| {
        refused(
            at,
            format!("only this step has the volume `{name}`"),
            "a volume is there to be shared: at least two steps must have it",
            format!("give the step that shares it the volume `{name}` too, or leave it out: `/workspace` is shared anyway"),
        )
    };
    alone.map(issue).collect()
}

/// The program of a step is one word: others belong under `args`.
fn entry_points(steps: &[Keys<'_>]) -> Vec<FormIssue> {
    let issue = |keys: &Keys<'_>| {
        let text = keys.text("entrypoint")?;
        let (program, rest) = text.value.trim().split_once(char::is_whitespace)?;
        let kind = FormIssueKind::WordsInOne {
            key: "entrypoint",
            program: program.to_owned(),
            words_key: "args",
            words: rest.split_whitespace().map(str::to_owned).collect(),
        };
        Some(FormIssue { at: text.inner(), kind })
    };
    steps.iter().filter_map(issue).collect()
}

/// Secrets that a step asks for and the build does not fetch.
fn asked_for(top: &Keys<'_>, steps: &[Keys<'_>]) -> Vec<FormIssue> {
    let fetched = secrets::fetched(top);
    let options = top.get("options").map(|node| Keys::of(top.nodes, node));
    let asked: Vec<Text> = steps.iter().chain(&options).flat_map(secrets::names).collect();
    let mut found = Vec::new();
    for name in asked.iter().filter(|name| !fetched.iter().any(|known| known.value == name.value)) {
        let known: Vec<&str> = fetched.iter().map(|known| known.value.as_str()).collect();
        let todo = match nearest(&name.value, known.iter().copied()) {
            Some(meant) => format!("write `{meant}`, which the build fetches"),
            None => format!("fetch it under `availableSecrets`, `secretManager`, with `env: {}`", name.value),
        };
        let what = format!("this step asks for the secret `{}`, and the build does not fetch it", name.value);
        found.push(refused(name.inner(), what, "`secretEnv` names variables of `availableSecrets` or `secrets`", todo));
    }
    for name in fetched.iter().filter(|name| !asked.iter().any(|asked| asked.value == name.value)) {
        let what = format!("no step asks for the secret `{}`", name.value);
        let because = "a secret that is fetched must be used by at least one step";
        found.push(refused(name.inner(), what, because, format!("add `secretEnv: [{}]` to the step that reads it", name.value)));
    }
    found
}

/// Names that texts read, and that nothing fills in there.
fn read_names(top: &Keys<'_>, steps: &[Keys<'_>], own: &Substitutions) -> Vec<FormIssue> {
    let options = top.get("options").map(|node| Keys::of(top.nodes, node));
    let says_maps = |keys: &Keys<'_>| keys.says("automapSubstitutions", "true");
    let maps = options.as_ref().is_some_and(says_maps);
    let fetched = secrets::fetched(top);
    let mut around = Variables::default();
    for keys in options.iter() {
        steps::environment(keys, own, &mut around);
        secrets::hand(keys, &mut around);
    }
    let mut found = Vec::new();
    for keys in steps {
        let mut has = around.clone();
        steps::environment(keys, own, &mut has);
        secrets::hand(keys, &mut has);
        let reader = Reader { has: &has, own, fetched: &fetched, maps: maps || says_maps(keys) };
        found.extend(reader.of_step(keys));
    }
    for text in texts_of(top, &["images"]) {
        found.extend(unknown(&text, own, false));
    }
    found
}

/// The scalars of some keys, lists laid flat.
fn texts_of(keys: &Keys<'_>, names: &[&str]) -> Vec<Text> {
    names.iter().filter_map(|name| keys.get(name)).flat_map(|node| keys.nodes.words(node).0).collect()
}

/// What the texts of a step may read.
struct Reader<'a> {
    has: &'a Variables,
    own: &'a Substitutions,
    fetched: &'a [Text],
    maps: bool,
}

impl Reader<'_> {
    fn of_step(&self, keys: &Keys<'_>) -> Vec<FormIssue> {
        if let Some(script) = keys.text("script") {
            return if Shell::is_foreign(&script.value) { Vec::new() } else { self.in_script(&script) };
        }
        let arguments = steps::arguments(keys);
        let program = keys.text("entrypoint");
        let of_shell = program.as_ref().or(arguments.first()).is_some_and(|word| Shell::is_posix(&word.value));
        let words = if program.is_some() { &arguments[..] } else { arguments.get(1..).unwrap_or_default() };
        let script = if of_shell { steps::script_of(words) } else { None };
        let mut found = Vec::new();
        for text in texts_of(keys, &["name", "args", "env", "dir"]) {
            found.extend(unknown(&text, self.own, script.is_some()));
        }
        match script {
            Some(script) => found.extend(self.left_to_shell(script)),
            None if !of_shell => arguments.iter().for_each(|text| found.extend(self.without_shell(text))),
            None => {}
        }
        found
    }

    /// Whether a shell of the step finds a variable of a substitution's name.
    fn is_set(&self, name: &str) -> bool {
        self.maps || secrets::holds(self.has, name)
    }

    /// `$_NAME` in a `script`, into which nothing is filled.
    fn in_script(&self, script: &Text) -> Vec<FormIssue> {
        let set = variables_set(&script.value);
        let issue = |(name, range): (&str, std::ops::Range<usize>)| {
            let is_substitution = self.own.has(name) || is_own(name);
            if !is_substitution || self.is_set(name) || set.contains(&name) || has_default(&script.value[range.clone()]) {
                return None;
            }
            let kind = FormIssueKind::NotFilledIn {
                name: name.to_owned(),
                what: "is empty in this script: substitutions are not filled into a `script`".to_owned(),
                because: "in `script` substitutions are variables only with `automapSubstitutions`, or where `env` names them"
                    .to_owned(),
                todo: format!("add `env: ['{name}=${name}']` to the step, or `automapSubstitutions: true`"),
            };
            Some(FormIssue { at: script.place(range), kind })
        };
        variable_reads(&script.value, true).into_iter().filter_map(issue).take(1).collect()
    }

    /// `$$_NAME` in the words of a shell, which looks for a variable of its own then.
    fn left_to_shell(&self, script: &Text) -> Vec<FormIssue> {
        let set = variables_set(&script.value);
        let issue = |dollar: Dollar<'_>| {
            let Dollar::Doubled(Some(name), range) = dollar else { return None };
            let is_substitution = self.own.has(name) || is_own(name);
            if !is_substitution || self.is_set(name) || set.contains(&name) {
                return None;
            }
            let kind = FormIssueKind::NotFilledIn {
                name: name.to_owned(),
                what: "is empty here: the doubled dollar leaves it to the shell, which has no such variable".to_owned(),
                because: "`$$` stands for a dollar: what follows is no substitution".to_owned(),
                todo: format!("write ${name} with one dollar, which is filled in before the shell runs"),
            };
            Some(FormIssue { at: script.place(with_name(&script.value, &range)), kind })
        };
        dollars(&script.value).into_iter().filter_map(issue).take(1).collect()
    }

    /// `$$NAME` in the words of a program, which no shell fills in.
    fn without_shell(&self, text: &Text) -> Vec<FormIssue> {
        let issue = |dollar: Dollar<'_>| {
            let Dollar::Doubled(Some(name), range) = dollar else { return None };
            let is_known = secrets::holds(self.has, name) || self.fetched.iter().any(|known| known.value == name);
            is_known.then(|| FormIssue {
                at: text.place(with_name(&text.value, &range)),
                kind: FormIssueKind::NotFilledIn {
                    name: name.to_owned(),
                    what: format!("is not filled in: the program gets the text ${name} itself"),
                    because: "variables are filled in by a shell, and this step runs its program without one".to_owned(),
                    todo: "write `entrypoint: bash` and the whole command as one word behind `-c`".to_owned(),
                },
            })
        };
        dollars(&text.value).into_iter().filter_map(issue).collect()
    }
}

/// `${NAME:-x}` says that the name may be missing.
fn has_default(read: &str) -> bool {
    read.contains([':', '-', '+', '?', '='])
}

/// Names of one dollar that neither the service nor the file knows.
fn unknown(text: &Text, own: &Substitutions, in_shell: bool) -> Vec<FormIssue> {
    let set = if in_shell { variables_set(&text.value) } else { Vec::new() };
    let mut told: Vec<&str> = Vec::new();
    let mut found = Vec::new();
    for dollar in dollars(&text.value) {
        let Dollar::Filled(name, range) = dollar else { continue };
        if is_own(name) || own.has(name) || told.contains(&name) {
            continue;
        }
        told.push(name);
        if name.starts_with('_') {
            found.extend(own.nearly(name).map(|meant| nearly(text.place(range), name, &meant.value)));
            continue;
        }
        let mine = format!("_{name}");
        let todo = if own.has(&mine) {
            format!("write ${{{mine}}}")
        } else if in_shell || set.contains(&name) {
            format!("write $${name}: a doubled dollar leaves the name to the shell")
        } else {
            format!(
                "call it `{mine}` and give it a value under `substitutions`, or write $${name} where a program of the step reads it"
            )
        };
        let because =
            "a single dollar is filled in by the service, which knows its own names and those that begin with an underscore";
        found.push(refused(text.place(range), format!("`{name}` is none of the names that the service fills in"), because, todo));
    }
    found
}

/// A name that the file does not set, under nearly the name of one that it does. A trigger may set others.
fn nearly(at: Place, name: &str, meant: &str) -> FormIssue {
    let kind = FormIssueKind::NotFilledIn {
        name: name.to_owned(),
        what: format!("is set by nothing here, and {meant} is"),
        because: "what neither the file nor its trigger sets is refused, or empty".to_owned(),
        todo: format!("write {meant}"),
    };
    FormIssue { at, kind }
}
