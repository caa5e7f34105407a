//! The part of the tour in which a forge is asked: a stand-in, on this machine's own address.

use std::collections::BTreeMap;

use anyhow::Context;
use dulk_ask::standin::{Answer, StandIn};
use dulk_core::facts::SETTINGS_FILE;
use dulk_core::finding::Finding;
use dulk_core::knowledge::Date;

use super::{BOLD, FAULTY, lay_out};
use crate::Outcome;
use crate::args::{AskOptions, FactsOptions, Format};
use crate::checked::Checked;
use crate::render::text;
use crate::screen::{Screen, styled};

/// What the stand-in knows of the ferry's repository, in the documented forms, by the path of the question.
const ANSWERS: [(&str, &str); 11] = [
    ("", r#"{"default_branch": "main", "private": true, "owner": {"login": "tarnsay", "type": "Organization"}}"#),
    ("/actions/secrets", r#"{"total_count": 1, "secrets": [{"name": "SFTP_PASSWORD", "created_at": "2026-01-01T00:00:00Z"}]}"#),
    ("/actions/organization-secrets", r#"{"total_count": 1, "secrets": [{"name": "TIDE_KEY", "visibility": "all"}]}"#),
    ("/actions/variables", r#"{"total_count": 1, "variables": [{"name": "SITE_URL", "value": "https://tarnsay.example"}]}"#),
    ("/actions/organization-variables", r#"{"total_count": 0, "variables": []}"#),
    ("/actions/permissions/workflow", r#"{"default_workflow_permissions": "read", "can_approve_pull_request_reviews": false}"#),
    ("/pages", r#"{"build_type": "workflow", "status": "built", "cname": null}"#),
    (
        "/environments",
        r#"{"total_count": 1, "environments": [{"id": 1, "name": "github-pages", "deployment_branch_policy": {"protected_branches": false, "custom_branch_policies": true}}]}"#,
    ),
    (
        "/environments/github-pages/deployment-branch-policies",
        r#"{"total_count": 1, "branch_policies": [{"id": 1, "name": "main", "type": "branch"}]}"#,
    ),
    ("/environments/github-pages/secrets", r#"{"total_count": 0, "secrets": []}"#),
    ("/environments/github-pages/variables", r#"{"total_count": 0, "variables": []}"#),
];

/// Lays the faulty copy out without its dulk.toml, asks, and checks.
///
/// # Errors
/// When the folder cannot be written, or no port of this machine can be listened on.
pub fn run(today: Date, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let temporary = tempfile::tempdir().context("no temporary folder can be made")?;
    let root = temporary.path();
    let files: Vec<(&str, &str)> = FAULTY.iter().filter(|(name, _)| *name != SETTINGS_FILE).copied().collect();
    lay_out(root, &files)?;
    let before = Checked::of(root, &[], today)?;
    let answers = ANSWERS.iter().map(|(path, text)| (format!("/api/v3/repos/tarnsay/timetable{path}"), Answer::text(*text)));
    let forge = StandIn::start(answers.collect::<BTreeMap<_, _>>(), None).context("no stand-in for a forge can be started")?;
    let address = forge.address().context("the stand-in has no address")?;
    screen.hang(
        "",
        "Some of what decides over a publish stands in no file: which secrets there are, who may deploy, what a token may do. Only the forge \
         knows it, and only when you ask. This demo has a stand-in for a forge on your own machine; nothing leaves it.",
    );
    screen.line("");
    screen.hang("", &format!("{}  The faulty copy, without a dulk.toml:", styled(BOLD, "dulk facts --ask --write")));
    screen.line("");
    let asking = AskOptions { ask: true, forge: Some(format!("http://{address}/api/v3")), token_variable: None, patience: 10 };
    let options = FactsOptions { format: Format::Text, write: true, asking };
    crate::ask::run(&options, &before.snapshot, screen)?;
    screen.line("");
    screen.hang("", &format!("{}  What is found besides, now that this is known:", styled(BOLD, "dulk check")));
    screen.line("");
    let mut checked = Checked::of(root, &[], today)?;
    let known = || before.files.iter().flat_map(|file| &file.findings);
    let is_new = |finding: &Finding| known().all(|one| (one.rule, &one.message) != (finding.rule, &finding.message));
    checked.files.iter_mut().for_each(|file| file.findings.retain(is_new));
    text::show_findings(&checked, screen);
    Ok(Outcome::Clean)
}
