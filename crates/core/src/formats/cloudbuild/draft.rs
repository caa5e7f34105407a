//! A drafted `cloudbuild.yaml`: a step for what builds, and one for what publishes.

use crate::draft::{Command, Drafter, Head, Paper, Plan, Publishing, Way, in_yaml};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        "cloudbuild.yaml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "gs"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::yaml();
        let mut before = vec![format!(
            "Create a trigger for pushes to the branch ^{}$ that runs this file, with a service account that may do no more than this build needs.",
            plan.branch
        )];
        if plan.host.signed_in_by.contains(&"cloudbuild") {
            before.push("Let that service account write to the bucket.".to_owned());
        }
        let publishing = plan.publishing(&Way { format: "cloudbuild", ..Way::default() });
        let head = Head {
            publishing: &publishing,
            secrets: "In Secret Manager, create secrets with these names",
            files: "",
            variables: "In the trigger, under substitution variables, set, with _ before the name",
            before: &before,
        };
        paper.head(plan, &head);
        paper.block("steps:", |paper| steps(paper, plan, &publishing));
        let secrets = publishing.secrets;
        if !secrets.is_empty() {
            paper.gap();
            paper.block("availableSecrets:", |paper| {
                paper.block("secretManager:", |paper| {
                    for one in secrets {
                        paper.line(format!("- versionName: projects/$PROJECT_ID/secrets/{}/versions/latest", one.name));
                        paper.line(format!("  env: {}", one.name));
                    }
                });
            });
        }
        if !publishing.read.is_empty() {
            paper.gap();
            paper.comment("The trigger's own values stand in the place of these.");
            paper.block("substitutions:", |paper| {
                publishing.read.iter().for_each(|one| paper.line(format!("_{}: unset", one.name)));
            });
        }
        paper.gap();
        paper.line("timeout: 1200s");
        paper.block("options:", |paper| paper.line("logging: CLOUD_LOGGING_ONLY"));
        paper.finish()
    }
}

fn steps(paper: &mut Paper, plan: &Plan<'_>, publishing: &Publishing) {
    let mut lines: Vec<String> = Vec::new();
    if plan.history {
        lines.push("git fetch --unshallow".to_owned());
    }
    lines.extend(plan.fetch_submodules().iter().chain(&plan.fetch(false)).chain(plan.work(false)).map(Command::in_own_folder));
    if !lines.is_empty() {
        step(paper, ("build", &plan.image()), &lines, |_| {});
    }
    let publish = publishing.commands_behind(plan.system_packages(false));
    paper.comment("Builds of two pushes may run at once here: what ends last stays online.");
    let image = plan.publishing_image();
    step(paper, ("publish", &image), &publish, |paper| {
        let variables: Vec<String> = publishing.read.iter().map(|one| format!("{0}=$_{0}", one.name)).collect();
        if !variables.is_empty() {
            paper.list("env", &variables);
        }
        let secrets: Vec<&str> = publishing.secrets.iter().map(|one| one.name).collect();
        if !secrets.is_empty() {
            paper.list("secretEnv", &secrets);
        }
    });
}

fn step(paper: &mut Paper, (id, image): (&str, &str), lines: &[String], more: impl FnOnce(&mut Paper)) {
    paper.block(format!("- id: {id}"), |paper| {
        paper.line(format!("name: {}", in_yaml(image)));
        more(paper);
        paper.block("script: |", |paper| {
            paper.line("#!/usr/bin/env bash");
            paper.line("set -e");
            paper.lines(lines);
        });
    });
}
