//! A drafted `amplify.yml`: what the host runs before it serves the folder.

use crate::draft::{Command, Drafter, Head, Paper, Plan, Way, in_yaml};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        "amplify.yml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "amplify"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::yaml();
        let mut before: Vec<String> = Vec::new();
        if let Some(tool) = plan.tools.first().filter(|tool| !["node", "shell"].contains(&tool.tool.id)) {
            before.push(format!("Give the app a build image that has {} {}, in its settings.", tool.tool.id, tool.version));
        }
        let publishing = plan.publishing(&Way { format: "amplify", ..Way::default() });
        paper.head(plan, &Head { publishing: &publishing, secrets: "", files: "", variables: "", before: &before });
        paper.line("version: 1");
        paper.block("frontend:", |paper| {
            paper.block("phases:", |paper| phases(paper, plan));
            paper.block("artifacts:", |paper| {
                paper.line(format!("baseDirectory: {}", in_yaml(&plan.output)));
                paper.list("files", &["**/*"]);
            });
            if let Some(kept) = &plan.kept {
                paper.comment("Downloads are kept from build to build.");
                paper.block("cache:", |paper| paper.list("paths", &[format!("{}/**/*", kept.folder)]));
            }
        });
        paper.finish()
    }
}

fn phases(paper: &mut Paper, plan: &Plan<'_>) {
    let node = plan.tools.iter().find(|tool| tool.tool.id == "node").map(|tool| match &tool.file {
        Some(file) if file == ".nvmrc" => "nvm install".to_owned(),
        _ => format!("nvm install {}", tool.version),
    });
    let install: Vec<String> = node
        .into_iter()
        .chain(
            plan.fetch_submodules()
                .iter()
                .chain(&plan.fetch(false))
                .chain(&plan.bring)
                .chain(&plan.install_keeping)
                .map(Command::in_own_folder),
        )
        .collect();
    if !install.is_empty() {
        paper.block("preBuild:", |paper| paper.list("commands", &install));
    }
    let build: Vec<String> = plan.tests.iter().chain(&plan.build).map(Command::in_own_folder).collect();
    paper.block("build:", |paper| paper.list("commands", &plan.or_look(build)));
}
