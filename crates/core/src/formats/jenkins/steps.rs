//! Steps: scripts, what is said round several of them, and what the language's own steps do.

use super::environment::{self, Given};
use super::language::{Block, Statement, Value};
use super::text::Words;
use crate::effects::{ArtifactName, Effect, EffectAt, UploadPath, join};
use crate::model::{ByItself, Cond, Scope, Shell, Step, Target, Text, Work};
use crate::text::Place;

/// What is around steps.
#[derive(Clone)]
pub(super) struct Around<'t> {
    pub words: Words<'t>,
    pub given: Given,
    pub directory: Option<Text>,
    pub time_limit: Option<Place>,
    pub may_fail: Option<Text>,
    /// Whether they run at all hangs on something that is not understood.
    pub perhaps: Option<Place>,
    /// Under which name what has been handed on, and the folder in which that was.
    pub stashed: &'t [(String, Option<String>, bool)],
}

/// The steps of a block, those inside others laid flat.
pub(super) fn steps(block: &Block, around: &Around<'_>) -> Vec<Step> {
    block.statements.iter().flat_map(|statement| step(statement, around)).collect()
}

/// What an inner block sees.
fn inner(statement: &Statement, around: &Around<'_>) -> Vec<Step> {
    statement.block.as_ref().map(|block| steps(block, around)).unwrap_or_default()
}

fn step(statement: &Statement, around: &Around<'_>) -> Vec<Step> {
    let words = around.words;
    let at = words.at(&statement.range);
    let text = |name: &str| statement.argument(name).and_then(|value| words.value(value));
    let first = || statement.first().and_then(|value| words.value(value));
    let given = |given: Given| Around { given: given.within(&around.given), ..around.clone() };
    match statement.name.as_str() {
        "sh" => script(statement, around, Shell::Posix),
        "bat" => script(statement, around, Shell::Cmd),
        "powershell" | "pwsh" => script(statement, around, Shell::PowerShell),
        "dir" => {
            let directory = first().or_else(|| text("path")).map(|text| inside(around.directory.as_ref(), text));
            inner(statement, &Around { directory, ..around.clone() })
        }
        "withEnv" => inner(statement, &given(environment::with_env(words, statement))),
        "withCredentials" | "sshagent" => {
            let mut steps = Vec::new();
            let inside = given(environment::with_credentials(words, statement));
            steps.extend(inner(statement, &inside));
            steps
        }
        "timeout" => {
            let limit = text("time").or_else(first);
            inner(statement, &Around { time_limit: limit.map(|text| text.at).or(around.time_limit), ..around.clone() })
        }
        "catchError" | "warnError" => {
            let may_fail = Some(Text::fixed("true", words.at(&statement.name_at)));
            inner(statement, &Around { may_fail, ..around.clone() })
        }
        "retry" | "lock" | "script" | "timestamps" | "ansiColor" | "throttle" | "wrap" | "try" | "withChecks" => {
            inner(statement, around)
        }
        "nodejs" => {
            let name = text("nodeJSInstallationName").or_else(first);
            let mut found: Vec<Step> =
                name.map(|name| own(vec![set_up("node", &name)], &statement_at(statement, around), around)).into_iter().collect();
            found.extend(inner(statement, around));
            found
        }
        "if" | "else" | "catch" | "finally" | "for" | "while" | "switch" => {
            inner(statement, &Around { perhaps: Some(at), ..around.clone() })
        }
        "input" => vec![finish(Step::new(at, Work::Gate), around)],
        "stash" => handed(stash(statement, around), at, around),
        "unstash" => {
            let Some(name) = first().or_else(|| text("name")) else { return Vec::new() };
            let into = unstash_into(&name, around);
            let effect = Effect::Download {
                name: ArtifactName { given: Some(name), default: None },
                into,
                elsewhere: false,
                merges: false,
            };
            vec![own(vec![effect], &at, around)]
        }
        "archiveArtifacts" => {
            let Some(paths) = text("artifacts").or_else(first) else { return Vec::new() };
            let name = ArtifactName { given: None, default: Some("archive".to_owned()) };
            handed(Some((Effect::hand_on(name, listed(&paths), true), paths)), at, around)
        }
        "deleteDir" | "cleanWs" => vec![own(vec![Effect::Remove { path: folder(around, "") }], &at, around)],
        "checkout" if matches!(statement.first(), Some(Value::Word(word, _)) if word == "scm") => {
            vec![own(vec![Effect::own_sources(None, None)], &at, around)]
        }
        "writeFile" | "writeJSON" | "writeYaml" => {
            let path = text("file").and_then(|text| folder(around, text.known()?));
            vec![own(vec![Effect::Write { path }], &at, around)]
        }
        "s3Upload" => to_bucket(statement, at, around),
        name if super::data().list("harmless").contains(&name) => {
            let mut found = vec![own(vec![Effect::Nothing], &at, around)];
            found.extend(inner(statement, around));
            found
        }
        // Setting a variable of the language changes no file, unless a script is run for its value.
        _ if statement.assigned.is_some() => assigned(statement, at, around),
        _ => {
            let mut found = vec![finish(Step::new(at, Work::Unclear), around)];
            let mut open = around.clone();
            open.given.variables.open = true;
            found.extend(inner(statement, &open));
            found
        }
    }
}

fn statement_at(statement: &Statement, around: &Around<'_>) -> Place {
    around.words.at(&statement.range)
}

/// What is said round a step, laid into it.
fn finish(step: Step, around: &Around<'_>) -> Step {
    let scope = Scope {
        directory: around.directory.clone().map(Box::new),
        variables: around.given.variables.clone(),
        time_limit: around.time_limit,
        may_fail: around.may_fail.clone().map(Box::new),
    };
    let mut step = step.within(&scope);
    step.keys.extend(around.given.keys.iter().cloned());
    step.when = around.perhaps.map(Cond::Opaque);
    step
}

/// A step of the language's own.
fn own(effects: Vec<Effect>, at: &Place, around: &Around<'_>) -> Step {
    let effects = effects.into_iter().map(|effect| EffectAt::sure(effect, *at)).collect();
    finish(Step::new(*at, Work::ByItself(ByItself { effects, ..ByItself::default() })), around)
}

fn script(statement: &Statement, around: &Around<'_>, shell: Shell) -> Vec<Step> {
    let value = statement.argument("script").or_else(|| statement.first());
    let at = statement_at(statement, around);
    let Some(text) = value.and_then(|value| around.words.value(value)).filter(|_| !matches!(value, Some(Value::Word(..)))) else {
        return vec![finish(Step::new(at, Work::Unclear), around)];
    };
    let shell = if Shell::is_foreign(&text.value) { Shell::Other } else { shell };
    let forgiven = statement.argument("returnStatus").is_some();
    let mut step = finish(Step::new(at, Work::Runs { script: text, shell }), around);
    if forgiven {
        step.may_fail = Some(Box::new(Text::fixed("true", at)));
    }
    vec![step]
}

/// `x = sh(script: …)` runs the script; any other value changes nothing, or nobody knows.
fn assigned(statement: &Statement, at: Place, around: &Around<'_>) -> Vec<Step> {
    match &statement.assigned {
        Some(Value::Call(call)) if call.name == "sh" => script(call, around, Shell::Posix),
        Some(Value::Dark(range)) if around.words.written(range).contains("sh") => {
            vec![finish(Step::new(at, Work::Unclear), around)]
        }
        _ => vec![own(vec![Effect::Nothing], &at, around)],
    }
}

/// A folder below that of the block around.
fn inside(around: Option<&Text>, text: Text) -> Text {
    match around.filter(|_| !text.value.starts_with('/')) {
        Some(outer) => Text::fixed(&format!("{}/{}", outer.value.trim_end_matches('/'), text.value), text.inner())
            .filled_in_by(text.language),
        None => text,
    }
}

/// A path in the folder that steps work in, from the root.
fn folder(around: &Around<'_>, path: &str) -> Option<String> {
    let root = Some(String::new());
    let dir = match &around.directory {
        Some(text) => join(&root, text.known()?),
        None => root,
    };
    join(&dir, path)
}

/// Patterns that stand in one text, with commas between them.
fn listed(text: &Text) -> Vec<UploadPath> {
    let mut found = Vec::new();
    let mut from = 0;
    for part in text.value.split(',') {
        let trimmed = part.trim();
        if !trimmed.is_empty() {
            let start = from + part.len() - part.trim_start().len();
            let at = text.place(start..start + trimmed.len());
            found.push(UploadPath { folder: None, at, written: trimmed.to_owned(), glob: false });
        }
        from += part.len() + 1;
    }
    found
}

/// What `stash` hands on: what its patterns name, or all of the folder.
fn stash(statement: &Statement, around: &Around<'_>) -> Option<(Effect, Text)> {
    let words = around.words;
    let name = statement.argument("name").or_else(|| statement.first()).and_then(|value| words.value(value))?;
    let includes = statement.argument("includes").and_then(|value| words.value(value));
    let artifact = ArtifactName { given: Some(name.clone()), default: None };
    Some(match includes {
        Some(text) => (Effect::hand_on(artifact, listed(&text), true), text),
        None => {
            let whole = UploadPath { folder: None, at: name.inner(), written: ".".to_owned(), glob: false };
            (Effect::hand_on(artifact, vec![whole], false), name)
        }
    })
}

fn handed(effect: Option<(Effect, Text)>, at: Place, around: &Around<'_>) -> Vec<Step> {
    let Some((effect, text)) = effect else { return Vec::new() };
    let own = ByItself { texts: vec![text], ..ByItself::of(effect, at) };
    vec![finish(Step::new(at, Work::ByItself(own)), around)]
}

/// The folder into which what was handed on is laid, seen from where it was: patterns keep their paths from the folder of `stash`.
fn unstash_into(name: &Text, around: &Around<'_>) -> Option<String> {
    let here = folder(around, "");
    let Some((_, from, whole)) = around.stashed.iter().find(|(known, ..)| *known == name.value) else { return here };
    match from.as_deref() {
        _ if *whole => here,
        Some("") => here,
        Some(from) if here.as_deref() == Some(from) => Some(String::new()),
        _ => None,
    }
}

/// Everything that is handed on: the name, the folder it is in, and whether it is all of that.
pub(super) fn stashed(block: &Block, words: Words<'_>, dir: &Option<String>, found: &mut Vec<(String, Option<String>, bool)>) {
    for statement in &block.statements {
        let mut inner_dir = dir.clone();
        if statement.name == "stash"
            && let Some(name) = statement.argument("name").or_else(|| statement.first()).and_then(|value| words.value(value))
        {
            found.push((name.value, dir.clone(), statement.argument("includes").is_none()));
        } else if statement.name == "dir" {
            let named = statement.first().and_then(|value| words.value(value));
            inner_dir = named.and_then(|text| join(dir, text.known()?));
        }
        if let Some(block) = &statement.block {
            stashed(block, words, &inner_dir, found);
        }
    }
}

/// A runtime whose version is the only number in the name of a tool.
pub(super) fn set_up(tool: &str, name: &Text) -> Effect {
    let is_number = |byte: u8| byte.is_ascii_digit() || byte == b'.';
    let start = name.value.bytes().position(|byte| byte.is_ascii_digit());
    let version = start.and_then(|start| {
        let length = name.value[start..].bytes().take_while(|byte| is_number(*byte)).count();
        let number = name.value[start..start + length].trim_end_matches('.');
        let alone = !name.value[start + length..].bytes().any(|byte| byte.is_ascii_digit());
        alone.then(|| Text::fixed(number, name.place(start..start + number.len())))
    });
    Effect::set_up(tool, version)
}

fn to_bucket(statement: &Statement, at: Place, around: &Around<'_>) -> Vec<Step> {
    let text = |name: &str| statement.argument(name).and_then(|value| around.words.value(value));
    let Some(bucket) = text("bucket") else { return vec![finish(Step::new(at, Work::Unclear), around)] };
    let path = text("workingDir").or_else(|| text("file"));
    let place = bucket.known().map(|name| format!("s3://{name}"));
    let to_root = text("path").is_none_or(|path| path.value.is_empty() || path.value == "/");
    let publish =
        Effect::publish_to((Target::Bucket, place), path.as_ref().map(UploadPath::as_written), to_root.then(String::new), None);
    let own = ByItself { texts: path.into_iter().collect(), ..ByItself::of(publish, at) };
    vec![finish(Step::new(at, Work::ByItself(own)), around)]
}

/// Whether a block holds a step that needs a machine, and where.
pub(super) fn needs_machine(block: &Block) -> Option<&Statement> {
    let needs = super::data().list("on-machines");
    block.statements.iter().find_map(|statement| {
        if needs.contains(&statement.name.as_str()) {
            return Some(statement);
        }
        // `node` brings a machine of its own.
        if statement.name == "node" { None } else { statement.block.as_ref().and_then(needs_machine) }
    })
}
