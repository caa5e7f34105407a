//! `rules`, and `only` with `except`, as choices of which the first that fits decides.

use super::merge::{Documents, Item};
use crate::model::{Choice, Cond, Condition, Language, Pattern, PatternSyntax, Text, Then};

/// True for all that is no merge request.
const NO_PROPOSAL: &str = "$CI_PIPELINE_SOURCE != \"merge_request_event\"";

/// What `when` says.
pub(super) fn then_of(word: &str) -> Then {
    match word {
        "always" => Then::Always,
        "never" => Then::Never,
        "manual" => Then::Hand,
        "delayed" => Then::Later,
        "on_failure" => Then::OnFailure,
        _ => Then::Run,
    }
}

/// The rules of a job or of the whole file.
pub(super) fn of_rules(documents: &Documents<'_>, item: &Item, usual: Then) -> Vec<Choice> {
    let of_rule = |rule: Item| {
        let text = |key: &str| documents.get(&rule, key).and_then(|item| documents.text(&item));
        let patterns = |key: &str| {
            let item = documents.get(&rule, key)?;
            let list = documents.get(&item, "paths").unwrap_or(item);
            Some(paths(documents, &list))
        };
        Choice {
            at: documents.at(&rule),
            cond: all([
                text("if").map(|text| Cond::asks(Condition::new(text))),
                patterns("changes").map(Cond::Changed),
                patterns("exists").map(Cond::Exists),
            ]),
            then: text("when").map_or(usual, |text| then_of(&text.value)),
            then_at: text("when").map(|text| text.at),
            variables: documents.get(&rule, "variables").map(|item| documents.variables(&item)).unwrap_or_default(),
            may_fail: text("allow_failure").is_some_and(|text| text.value == "true"),
        }
    };
    documents.items(item).into_iter().map(of_rule).collect()
}

/// What a job without `rules` and without `only` runs for.
#[derive(Clone, Copy)]
pub(super) enum Usual {
    /// Branches and tags, not merge requests.
    BranchesAndTags,
    /// Whatever the whole file starts for: a file with `workflow: rules` drops the usual `only`.
    Everything,
    /// A part of the file that is written elsewhere may hold `workflow: rules`.
    Unknown,
}

/// `except` shuts out first, then `only` lets in; without `only`, what is usual in this file does.
pub(super) fn of_only(
    documents: &Documents<'_>,
    only: Option<&Item>,
    except: Option<&Item>,
    when: Then,
    usual: Usual,
    id: &Text,
) -> Vec<Choice> {
    let mut choices = Vec::new();
    if let Some(except) = except {
        choices.extend(of_list(documents, except, Then::Never));
    }
    match only {
        Some(only) => choices.extend(of_list(documents, only, when)),
        None => {
            let condition = match usual {
                Usual::BranchesAndTags => NO_PROPOSAL.to_owned(),
                Usual::Everything => String::new(),
                Usual::Unknown => format!("{NO_PROPOSAL} || $WRITTEN_ELSEWHERE"),
            };
            choices.push(choice(id, condition, None, when));
        }
    }
    choices
}

fn of_list(documents: &Documents<'_>, item: &Item, then: Then) -> Vec<Choice> {
    let refs = documents.get(item, "refs");
    let variables = documents.get(item, "variables").map(|item| documents.texts(&item)).unwrap_or_default();
    let changes = documents.get(item, "changes").map(|item| paths(documents, &item));
    let detailed = refs.is_some() || !variables.is_empty() || changes.is_some() || documents.get(item, "kubernetes").is_some();
    let list = if detailed { refs.map(|item| documents.texts(&item)).unwrap_or_default() } else { documents.texts(item) };
    let joined = variables.iter().map(|text| format!("({})", text.value)).collect::<Vec<_>>().join(" || ");
    let with_variables = |condition: String| match (condition.is_empty(), joined.is_empty()) {
        (_, true) => condition,
        (true, false) => joined.clone(),
        (false, false) => format!("({condition}) && ({joined})"),
    };
    if list.is_empty() && detailed {
        let at = Text::fixed("", documents.at(item));
        let condition = if joined.is_empty() { NO_PROPOSAL.to_owned() } else { joined.clone() };
        return vec![choice(&at, condition, changes, then)];
    }
    list.iter().map(|text| choice(text, with_variables(of_ref(&text.value)), changes.clone(), then)).collect()
}

/// Patterns of paths, one or a list.
fn paths(documents: &Documents<'_>, item: &Item) -> Vec<Pattern> {
    documents.texts(item).into_iter().map(|text| Pattern { text, syntax: PatternSyntax::Paths }).collect()
}

/// Those parts of a condition that are there, all of which must hold.
fn all(parts: [Option<Cond>; 3]) -> Cond {
    Cond::All(parts.into_iter().flatten().collect())
}

fn choice(at: &Text, condition: String, changes: Option<Vec<Pattern>>, then: Then) -> Choice {
    let text = Text::fixed(&condition, at.at).filled_in_by(Language::Variables);
    let asks = (!condition.is_empty()).then(|| Cond::asks(Condition::new(text)));
    Choice::new(at.at, all([asks, changes.map(Cond::Changed), None]), then)
}

/// What a word of `only` or `except` asks for. Source: the format's page, "Deprecated keywords", `only:refs`.
fn of_ref(written: &str) -> String {
    let source = |name: &str| format!("$CI_PIPELINE_SOURCE == \"{name}\"");
    // Behind `@` stands the project that it holds for: forks are left out by it.
    let (word, project) = match written.rsplit_once('@') {
        Some((word, project)) if !word.is_empty() && project.contains('/') && !project.ends_with('/') => (word, Some(project)),
        _ => (written, None),
    };
    let condition = of_word(word, source);
    match project {
        Some(project) => format!("({condition}) && $CI_PROJECT_PATH == \"{project}\""),
        None => condition,
    }
}

fn of_word(word: &str, source: impl Fn(&str) -> String) -> String {
    match word {
        "branches" => format!("$CI_COMMIT_BRANCH && {NO_PROPOSAL}"),
        "tags" => "$CI_COMMIT_TAG".to_owned(),
        "merge_requests" => source("merge_request_event"),
        "schedules" => source("schedule"),
        "web" => source("web"),
        "pushes" => source("push"),
        "api" => source("api"),
        "triggers" => source("trigger"),
        "pipelines" => source("pipeline"),
        "external" => source("external"),
        "external_pull_requests" => source("external_pull_request_event"),
        "chat" => source("chat"),
        word if word.starts_with('/') => format!("$CI_COMMIT_REF_NAME =~ {word} && {NO_PROPOSAL}"),
        name => format!("$CI_COMMIT_REF_NAME == \"{name}\" && {NO_PROPOSAL}"),
    }
}
