//! A drafted `buddy.yml`: an action that tests and builds, and one that publishes.

use crate::draft::{Command, Drafter, Head, Paper, Plan, Publishing, Way, in_double_quotes};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        "buddy.yml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "ssh"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::yaml();
        let publishing = plan.publishing(&Way { format: "buddy", ..Way::default() });
        let head = Head {
            publishing: &publishing,
            secrets: "In the settings of the project, under Variables, create as encrypted variables",
            files: "",
            variables: "In the settings of the project, under Variables, create as plain variables",
            before: &[],
        };
        paper.head(plan, &head);
        paper.block("- pipeline: \"Site\"", |paper| {
            paper.comment("A push to this branch goes live. Runs of a pipeline wait for each other.");
            paper.block("events:", |paper| {
                paper.line("- type: \"PUSH\"");
                paper.block("  refs:", |paper| {
                    paper.line(format!("  - {}", in_double_quotes(&format!("refs/heads/{}", plan.branch))))
                });
            });
            paper.block("actions:", |paper| actions(paper, plan, &publishing));
        });
        paper.finish()
    }
}

fn actions(paper: &mut Paper, plan: &Plan<'_>, publishing: &Publishing) {
    let lines: Vec<String> =
        plan.fetch_submodules().iter().chain(&plan.fetch(false)).chain(plan.work(false)).map(Command::in_own_folder).collect();
    if !lines.is_empty() {
        action(paper, ("Build", &plan.image()), &lines);
    }
    let publish = publishing.commands_behind(plan.system_packages(false));
    let image = plan.publishing_image();
    action(paper, ("Publish", &image), &publish);
}

fn action(paper: &mut Paper, (name, image): (&str, &str), lines: &[String]) {
    let (image, tag) = image.rsplit_once(':').unwrap_or((image, "latest"));
    let image = if image.contains('/') { image.to_owned() } else { format!("library/{image}") };
    paper.block(format!("- action: {}", in_double_quotes(name)), |paper| {
        paper.line("type: \"BUILD\"");
        paper.line("working_directory: \"/site\"");
        paper.line(format!("docker_image_name: {}", in_double_quotes(&image)));
        paper.line(format!("docker_image_tag: {}", in_double_quotes(tag)));
        paper.block("volume_mappings:", |paper| paper.line("- \"/:/site\""));
        paper.block("execute_commands:", |paper| {
            lines.iter().for_each(|line| paper.line(format!("- {}", in_double_quotes(line))))
        });
    });
}
