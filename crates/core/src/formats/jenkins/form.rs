//! What does not fit in a `Jenkinsfile`.

use super::language::{self, Block, Quoted, Statement, Value};
use super::text::{Words, hole, name_in};
use super::{read, when};
use crate::form::{FormIssue, FormIssueKind, Scope, walk};
use crate::formats::{Reading, Texts};
use crate::knowledge::{Among, near};
use crate::model::{Pipeline, Text, Work};
use crate::shell::{variable_reads, variables_set};

/// Steps whose text goes to a shell.
const SCRIPTS: [&str; 4] = ["sh", "bat", "powershell", "pwsh"];
/// No one reads more of what is wrong.
const LIMIT: usize = 100;

/// Reads a file.
pub(super) fn read(texts: &Texts<'_>) -> Reading {
    let main = &texts.main;
    let source = language::read(&main.source.text);
    let words = Words { text: &main.source.text, file: main.file };
    let (pipeline, issues) = read::read(words, &source);
    let mut form = Vec::new();
    if main.tree.is_whole() {
        match read::body(&source) {
            Some(body) => {
                let root = main.tree.documents.first().copied();
                form = walk(&main.tree, root, main.file, &super::data().grammar, "jenkins", false, &Scope::new(&pipeline));
                form.extend(issues);
                let mut bound: Vec<String> = pipeline.on_request.iter().map(|name| name.value.clone()).collect();
                bound.sort();
                bound.dedup();
                let mut looker = Looker { words, bound: &bound, found: Vec::new() };
                looker.block(body);
                form.extend(looker.found);
                form.extend(misnamed(&pipeline, &bound));
            }
            None => form.extend(not_declared(words, &source.top)),
        }
    }
    form.truncate(LIMIT);
    Reading { pipelines: vec![pipeline], form }
}

/// A file that is a program rather than a declaration.
fn not_declared(words: Words<'_>, top: &Block) -> Option<FormIssue> {
    let begins = |statement: &&Statement| {
        matches!(statement.name.as_str(), "node" | "stage" | "podTemplate" | "timestamps" | "properties")
    };
    let first = top.statements.iter().find(begins)?;
    Some(FormIssue { at: words.at(&first.name_at), kind: FormIssueKind::NotRead { what: "a scripted pipeline".to_owned() } })
}

/// Walks all statements.
struct Looker<'a> {
    words: Words<'a>,
    /// Variables that hold credentials, sorted.
    bound: &'a [String],
    found: Vec<FormIssue>,
}

impl Looker<'_> {
    fn add(&mut self, range: &std::ops::Range<usize>, kind: FormIssueKind) {
        if self.found.len() < LIMIT {
            self.found.push(FormIssue { at: self.words.at(range), kind });
        }
    }

    fn block(&mut self, block: &Block) {
        for statement in &block.statements {
            match statement.name.as_str() {
                "options" => statement.block.iter().for_each(|block| self.options(block)),
                "expression" => statement.block.iter().for_each(|block| self.expression(block)),
                name if SCRIPTS.contains(&name) => self.script(statement),
                _ => {}
            }
            if let Some(Value::Call(call)) = &statement.assigned
                && SCRIPTS.contains(&call.name.as_str())
            {
                self.script(call);
            }
            if let Some(inner) = &statement.block {
                self.block(inner);
            }
        }
    }

    /// An option that is nearly one of those that there are; plug-ins bring others.
    fn options(&mut self, block: &Block) {
        let known = super::data().list("options");
        for option in &block.statements {
            let near = near(&option.name, known.iter().copied(), Among::Closed).filter(|meant| meant.sure);
            if known.contains(&option.name.as_str()) || near.is_none() {
                continue;
            }
            let kind = FormIssueKind::UnknownKey {
                key: option.name.clone(),
                within: "`options`".to_owned(),
                known: known.iter().map(|word| (*word).to_owned()).collect(),
                meant: near,
                of_event: false,
                belongs: Vec::new(),
            };
            self.add(&option.name_at, kind);
        }
    }

    /// `NAME = value` where something is to be compared.
    fn expression(&mut self, block: &Block) {
        let range = when::inside(self.words, block);
        let [only] = block.statements.as_slice() else { return };
        let Some(value) = only.assigned.as_ref().filter(|_| only.range == range) else { return };
        let instead = format!("{} == {}", only.name, self.words.written(&value.range()));
        let reason = "one = sets the name to the value, and what is set counts as true; two of them compare".to_owned();
        self.add(&range, FormIssueKind::FixedCondition { instead: Some(instead), reason });
    }

    fn script(&mut self, statement: &Statement) {
        let Some(value) = statement.argument("script").or_else(|| statement.first()) else { return };
        match value {
            Value::Text(quoted) => self.quoted(quoted),
            Value::Sum(parts, _) => parts.iter().for_each(|part| self.quoted(part)),
            _ => {}
        }
    }

    fn quoted(&mut self, quoted: &Quoted) {
        let inner = self.words.written(&quoted.inner);
        let mut at = 0;
        while let Some(next) = inner[at..].find('$').map(|index| at + index) {
            at = next + 1;
            if inner[..next].ends_with('\\') {
                continue;
            }
            let Some(range) = hole(inner, next) else { continue };
            at = range.end;
            let written = &inner[range.clone()];
            let place = quoted.inner.start + range.start..quoted.inner.start + range.end;
            if quoted.fills {
                let name = name_in(written).filter(|name| self.bound.binary_search_by(|known| known.as_str().cmp(name)).is_ok());
                if let Some(name) = name {
                    self.add(&place, FormIssueKind::FilledEarly { name: name.to_owned() });
                }
            } else if written.starts_with("${env.") || written.starts_with("${params.") || written.starts_with("${currentBuild.")
            {
                let name = name_in(written);
                let todo = match name {
                    Some(name) => format!("write ${name}, which is in the environment of the shell"),
                    None => "write the text in double quotes".to_owned(),
                };
                let kind = FormIssueKind::NotFilledIn {
                    name: written.to_owned(),
                    what: "goes to the shell as it is, which knows no name with a dot: the step fails".to_owned(),
                    because: "in single quotes nothing is filled in before the shell runs".to_owned(),
                    todo,
                };
                self.add(&place, kind);
            }
        }
    }
}

/// Names that look like the two that come with a credential, and are not those.
fn misnamed(pipeline: &Pipeline, bound: &[String]) -> Vec<FormIssue> {
    let has = |name: &str| bound.binary_search_by(|known| known.as_str().cmp(name)).is_ok();
    let pairs: Vec<&String> = bound.iter().filter(|name| has(&format!("{name}_USR"))).collect();
    if pairs.is_empty() {
        return Vec::new();
    }
    let mut found = Vec::new();
    let scripts = pipeline.jobs.iter().flat_map(|job| &job.steps).filter_map(|step| match &step.work {
        Work::Runs { script, .. } => Some((step, script)),
        _ => None,
    });
    for (step, script) in scripts {
        let set = variables_set(&script.value);
        for (name, range) in variable_reads(&script.value, true) {
            let known = |text: &Text| text.value == name;
            let of = |pair: &&&String| {
                name.strip_prefix(pair.as_str()).is_some_and(|rest| {
                    matches!(rest, "_USER" | "_USERNAME" | "_PASSWORD" | "_PASS" | "_PWD" | "_PW" | "_USERPASS" | "_LOGIN")
                })
            };
            let Some(pair) = pairs.iter().find(of) else { continue };
            let given = step.variables.entries.iter().any(|(own, _)| known(own))
                || pipeline.variables.entries.iter().any(|(own, _)| known(own));
            if given || set.contains(&name) || has(name) {
                continue;
            }
            let kind = FormIssueKind::NotFilledIn {
                name: name.to_owned(),
                what: format!("is empty here: the user name and the password are in {pair}_USR and {pair}_PSW"),
                because: format!("`{pair} = credentials(…)` also sets {pair}_USR and {pair}_PSW, and nothing else"),
                todo: format!("write ${pair}_USR for the name and ${pair}_PSW for the password"),
            };
            found.push(FormIssue { at: script.place(range), kind });
        }
    }
    found
}
