//! What rules may not hold: words of one format, and examples in one format only. The lists of exceptions here may only shrink.

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

use super::*;

/// Words of one format or of its run. A rule that needs one asks the model, the reads, the catalog or the pen instead.
const FORBIDDEN: [&str; 36] = [
    "${{",
    "holes()",
    "\"secrets.",
    "\"vars.",
    "github.",
    "GITHUB_",
    "CI_",
    "GIT_",
    "\"github-pages\"",
    "\"pages\"",
    "formats::named",
    "Given::",
    "\"./\"",
    "action.yml",
    "runs-on",
    "fetch-depth",
    "ubuntu-",
    "`env`",
    "`with`",
    "`needs`",
    "workflow_call",
    "pull_request",
    "restore-keys",
    "hashFiles",
    "secrets: inherit",
    "id_tokens",
    "`environment:",
    "always()",
    "failure()",
    "success()",
    "`stages`",
    "`artifacts",
    "\"matrix.",
    "include-hidden-files",
    "if-no-files-found",
    "static_site_generator",
];

/// Rules that hold such words all the same, each with its words and the reason.
const HOLDS: &[(&str, &[&str], &str)] =
    &[("secret/misspelt.rs", &["${{"], "it speaks of the notation itself: words that were meant to be read and are only a text")];

/// The code of a rule, without comments, examples and the reason that is shown to people.
fn code_of(source: &str) -> String {
    let mut out = String::new();
    let mut rest = source;
    while let Some(index) = rest.find(['r', '/', '\n']) {
        out.push_str(&rest[..index]);
        rest = &rest[index..];
        let hashes = rest[1..].bytes().take_while(|byte| *byte == b'#').count();
        let in_word = out.ends_with(|last: char| last.is_alphanumeric() || last == '_');
        if rest.starts_with('r') && rest[1 + hashes..].starts_with('"') && !in_word {
            let end = format!("\"{}", "#".repeat(hashes));
            let body = &rest[2 + hashes..];
            rest = &body[body.find(&end).map_or(body.len(), |at| at + end.len())..];
        } else if rest.starts_with("//") {
            rest = &rest[rest.find('\n').unwrap_or(rest.len())..];
        } else if rest.starts_with("\n    why: \"") {
            rest = &rest[rest.find("\",\n").map_or(rest.len(), |at| at + 2)..];
        } else {
            out.push_str(&rest[..1]);
            rest = &rest[1..];
        }
    }
    out + rest
}

/// Every file of the families with its code.
fn rule_files() -> Vec<(String, String)> {
    let dir = Path::new(env!("CARGO_MANIFEST_DIR")).join("src/rules");
    let mut found = Vec::new();
    for family in FAMILIES {
        for entry in fs::read_dir(dir.join(family)).expect("the folder of a family") {
            let path = entry.expect("an entry").path();
            let name = format!("{family}/{}", path.file_name().unwrap_or_default().to_string_lossy());
            found.push((name, code_of(&fs::read_to_string(&path).expect("a source file"))));
        }
    }
    found.sort();
    found
}

#[test]
fn rules_hold_no_words_of_one_format() {
    let mut wrong = Vec::new();
    for (name, code) in rule_files() {
        let allowed = HOLDS.iter().find(|(file, ..)| *file == name).map(|(_, words, _)| *words).unwrap_or_default();
        for word in FORBIDDEN {
            match (code.contains(word), allowed.contains(&word)) {
                (true, false) => wrong.push(format!("{name} holds {word}")),
                (false, true) => wrong.push(format!("{name} no longer holds {word}: take it off the list")),
                _ => {}
            }
        }
    }
    let files: BTreeSet<String> = rule_files().into_iter().map(|(name, _)| name).collect();
    wrong.extend(HOLDS.iter().filter(|(file, ..)| !files.contains(*file)).map(|(file, ..)| format!("{file} is gone")));
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn code_is_told_from_examples() {
    let source =
        "//! ${{\nconst A: &str = r#\"${{ \"x\" }}\"#; // vars.\nlet b = \"CI_\";\n    why: \"GIT_ x \\\n  y\",\n    c: 1";
    let code = code_of(source);
    assert!(code.contains("CI_") && code.contains("c: 1"), "{code}");
    assert!(!code.contains("${{") && !code.contains("vars.") && !code.contains("GIT_"), "{code}");
}

/// Rules with no example in the second format, each because of what the format is or because nobody has shown it yet.
const SILENT_IN_SECOND: &[(&str, &str)] = &[
    ("artifact.clash", "artifacts have no names of their own: each job hands on under its own"),
    ("artifact.hidden-files", "hidden files are handed on like all others"),
    ("artifact.left-packed", "what is handed on is unpacked where it is fetched"),
    ("artifact.lost-folders", "a folder is handed on with all that is below it, as it lies"),
    ("artifact.may-be-empty", "nothing can be told to pass over an empty hand-over: artifact.absent-folder speaks"),
    ("artifact.misnamed", "artifacts have no names of their own: each job hands on under its own"),
    ("artifact.mixed-generations", "hand-overs have one generation"),
    ("artifact.no-slash", "there are no ready-made actions"),
    ("artifact.never-made", "artifacts have no names of their own: each job hands on under its own"),
    ("artifact.other-artifact", "artifacts have no names of their own: each job hands on under its own"),
    ("branch.all-go-live", "branches stand in conditions, and one that takes all says nothing of them"),
    ("branch.cancelled", "branches stand in conditions, where branch.absent and trigger.never-reached speak"),
    ("branch.never-matches", "branches stand in conditions, where branch.absent and trigger.never-reached speak"),
    ("branch.no-landing", "the runner checks out what started the run, and nothing else"),
    ("branch.only-in-fork", "a merge request from a fork runs in the fork, which has its branch"),
    ("branch.other-remote", "branches stand in conditions, where branch.absent and trigger.never-reached speak"),
    ("branch.wrong-case", "branches stand in conditions, where branch.absent and trigger.never-reached speak"),
    ("cache.absent-lockfile", "lockfiles stand in the key, where cache.empty-hash speaks"),
    ("cache.doubled", "nothing caches by itself while it sets up a runtime"),
    ("cache.frozen-key", "a cache is saved anew by every job, whatever its key"),
    ("cache.mixed-platforms", "machines are chosen by tags that say nothing of their system"),
    ("cache.no-prefix", "fallback keys are whole keys"),
    ("cache.none", "runners of one's own keep their downloads, and the file does not say which they are"),
    ("cache.other-manager", "no cache is asked for by the name of a manager"),
    ("cache.strangers", "caches of protected branches are kept apart by the forge"),
    ("cache.too-late", "caches are brought back before the script starts"),
    ("form.bad-name", "names of jobs may hold anything"),
    ("form.fixed-condition", "no contexts and no functions: form.expression and secret.undeclared speak"),
    ("form.forbidden", "what is refused is told by the grammar of the file"),
    ("form.misplaced", "shown by the file's own name, which is none of the second format's"),
    ("form.not-read", "every file of it is a declaration"),
    ("form.out-of-place", "no contexts and no functions: form.expression and secret.undeclared speak"),
    ("form.quotes", "no contexts and no functions: form.expression and secret.undeclared speak"),
    ("form.words-in-one", "scripts are lines for a shell, which takes them apart"),
    ("form.wrong-type", "no contexts and no functions: form.expression and secret.undeclared speak"),
    ("form.yes-no-trap", "yes and no are taken as words where they matter"),
    ("order.absent-output", "jobs hand on files of variables, whose names are only known when they run"),
    ("order.held-machine", "a job that waits for a person has no machine yet"),
    ("order.late-approval", "a job that waits for a person holds up those that need it"),
    ("order.no-agent", "every job has a machine"),
    ("order.no-checkout", "sources come by themselves, and without them what the last job left may be there"),
    ("order.own-lock", "a lock is of a job alone, and the pipelines that it starts are not read yet"),
    ("order.unbounded", "the usual limit is a setting of the forge"),
    ("order.unknown-result", "no condition reads how a job ended"),
    ("permission.bad-level", "a job's token has no scopes in the file"),
    ("permission.borrowed-token", "there are no ready-made actions"),
    ("permission.callee-needs-more", "a job's token has no scopes in the file"),
    ("permission.kept-credential", "what the runner leaves in git's own folder is not documented"),
    ("permission.no-credential", "no checkout can be told to forget its credential, and there are no ready-made actions"),
    ("permission.strangers", "a fork's merge request runs in the fork"),
    ("permission.too-wide", "a job's token has no scopes in the file"),
    ("permission.unknown-scope", "a job's token has no scopes in the file"),
    ("permission.unstated", "a job's token has no scopes in the file"),
    ("secret.bad-name", "a name that cannot be kept cannot be read either"),
    ("secret.filled-early", "values reach a script as variables, never as text of it"),
    ("secret.handed-whole", "pipelines that are started from others are not read yet"),
    ("secret.misspelt", "no contexts and no functions: form.expression and secret.undeclared speak"),
    ("secret.not-asked-for", "values of a safe are asked for job by job"),
    ("secret.not-filled-in", "everything is a variable, and a shell fills in all of them"),
    ("secret.not-secret", "secrets and variables share their names"),
    ("secret.to-strangers", "a fork's merge request runs in the fork"),
    ("secret.unfetched", "values of a safe are asked for job by job, never among plain variables"),
    ("secret.wrong-step", "variables belong to jobs, not to steps"),
    ("site.absent-front-page", "what serves the site stands in no pipeline file"),
    ("site.closed-bucket", "what serves the site stands in no pipeline file"),
    ("site.no-server", "no place that is published to says what runs there"),
    ("trigger.absent-upstream", "no pipeline waits for another one by its title"),
    ("trigger.callee-mismatch", "pipelines that are started from others are not read yet"),
    ("trigger.clashing-filters", "there are no filters beside conditions"),
    ("trigger.dead-clock", "the clock is set on the forge"),
    ("trigger.hasty-clock", "the clock is set on the forge"),
    ("trigger.runs-strangers-code", "a fork's merge request runs in the fork"),
    ("trigger.strangers-text", "values reach a script as variables, never as text of it"),
    ("trigger.stray-filter", "there are no filters beside conditions"),
    ("trigger.undetected", "pushes are always told of"),
    ("trigger.unknown-event", "events stand in conditions, as values"),
    ("upkeep.absent-runtime", "runtimes come with images of their own, of any number"),
    ("upkeep.missing-input", "there are no ready-made actions"),
    ("upkeep.misspelt", "there are no ready-made actions"),
    ("upkeep.moving", "there are no ready-made actions"),
    ("upkeep.no-such-version", "there are no ready-made actions"),
    ("upkeep.retired-action", "there are no ready-made actions"),
    ("upkeep.retired-command", "the runner takes no commands from a script's output"),
    ("upkeep.retired-input", "there are no ready-made actions"),
    ("upkeep.retired-runner", "tags of machines are chosen by whoever runs them"),
    ("upkeep.unknown-input", "there are no ready-made actions"),
    ("site.outside-files", "commands run where the files are"),
    ("upkeep.old-system", "machines are chosen by tags that say nothing of their system"),
];

#[test]
fn every_rule_shows_both_formats_or_says_why_not() {
    let is_second = |text: &&'static str| Slip::read(text).format() == "gitlab";
    let mut wrong = Vec::new();
    for rule in all() {
        let shown = rule.bad.iter().any(is_second);
        let listed = SILENT_IN_SECOND.iter().any(|(id, reason)| *id == rule.id && !reason.is_empty());
        match (shown, listed) {
            (false, false) => wrong.push(format!("{} has no wrong example in the second format", rule.id)),
            (true, true) => wrong.push(format!("{} is shown in the second format: take it off the list", rule.id)),
            _ => {}
        }
    }
    wrong.extend(SILENT_IN_SECOND.iter().filter(|(id, _)| find(id).is_none()).map(|(id, _)| format!("there is no rule {id}")));
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// A right example should be one that a person may copy: no rule finds an error or a warning in it.
#[test]
fn right_examples_are_right_in_every_way() {
    let mut loud = Vec::new();
    for rule in all() {
        for (number, text) in rule.good.iter().enumerate() {
            let scene = Slip::read(text).scene();
            let project = scene.project();
            let found = (0..scene.prepared.len()).flat_map(|index| crate::check(&project, index));
            let mut others: Vec<&str> = found
                .filter(|finding| finding.severity > Severity::Advice && finding.rule != rule.id)
                .map(|finding| finding.rule)
                .collect();
            others.sort_unstable();
            others.dedup();
            if !others.is_empty() {
                loud.push(format!("{} {number}: {}", rule.id, others.join(", ")));
            }
        }
    }
    assert!(loud.is_empty(), "right examples that are not right under other rules:\n{}", loud.join("\n"));
}

/// Shorthand that no pipeline of a site has.
const SHORTHAND: [&str; 3] = ["runs-on: x\n", "steps: [{run: ls}]", "steps: [{run: npm ci}]"];

#[test]
fn examples_read_like_pipelines() {
    let mut wrong = Vec::new();
    for rule in all() {
        for (number, text) in rule.bad.iter().chain(rule.good).enumerate() {
            let found = SHORTHAND.iter().filter(|word| text.contains(**word));
            wrong.extend(found.map(|word| format!("{} {number}: {}", rule.id, word.trim())));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
