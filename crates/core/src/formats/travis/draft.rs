//! A drafted `.travis.yml`: one job that tests and builds, and a deployment after it.

use super::data;
use crate::draft::{Command, Drafter, Head, Paper, Plan, Publishing, Way, in_yaml};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        ".travis.yml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "branch"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::yaml();
        let before =
            ["In the settings of the repository at the service, limit the jobs that run at once to 1: one publish at a time."
                .to_owned()];
        let publishing = plan.publishing(&Way { format: "travis", ..Way::default() });
        let head = Head {
            publishing: &publishing,
            secrets: "In the settings of the repository at the service, under Environment Variables, create, hidden in the log",
            files: "",
            variables: "In the settings of the repository at the service, under Environment Variables, create",
            before: &before,
        };
        paper.head(plan, &head);
        machine(&mut paper, plan);
        paper.gap();
        paper.comment("A push to this branch goes live; a pull request into it is tested and built.");
        paper.block("branches:", |paper| paper.short_list("only", &[&plan.branch]));
        if plan.history {
            paper.comment("The pages show dates from git's history, which has to be there whole.");
            paper.block("git:", |paper| paper.line("depth: false"));
        }
        paper.gap();
        let before: Vec<String> = plan.fetch(true).iter().chain(&plan.bring).map(Command::in_own_folder).collect();
        if !before.is_empty() {
            paper.list("before_install", &before);
        }
        let installing = if keeps_by_name(plan) { &plan.install } else { &plan.install_keeping };
        let install: Vec<String> = installing.iter().map(Command::in_own_folder).collect();
        if install.is_empty() {
            paper.line("install: skip");
        } else {
            paper.list("install", &install);
        }
        // Every line of a script is run, whatever the ones before it did; the build only makes sense after the tests.
        let script: Vec<String> = plan.tests.iter().chain(&plan.build).map(Command::in_own_folder).collect();
        paper.list("script", &[plan.or_look(script).join(" && ")]);
        paper.gap();
        paper.block("deploy:", |paper| deploy(paper, plan, &publishing));
        paper.finish()
    }
}

fn machine(paper: &mut Paper, plan: &Plan<'_>) {
    let Some(tool) = plan.tools.first() else { return };
    let set_up = data().set_up.get(tool.tool.id);
    let word = set_up.map_or("generic", |set_up| set_up.name);
    paper.line(format!("language: {word}"));
    // The one that is taken otherwise is too old for newer runtimes.
    paper.line("dist: jammy");
    match (tool.tool.id, &tool.file) {
        ("shell" | "trunk", _) => {}
        (_, Some(file)) if set_up.is_some_and(|set_up| set_up.finds_file) && !file.contains('/') && file.starts_with('.') => {
            paper.comment(&format!("The version stands in {file}."));
        }
        ("dotnet", _) => paper.line(format!("dotnet: '{}'", tool.version)),
        ("ruby", _) => paper.line(format!("rvm: '{}'", tool.version)),
        _ => paper.line(format!("{word}: '{}'", tool.version)),
    }
    match &plan.kept {
        Some(kept) if keeps_by_name(plan) => paper.line(format!("cache: {}", kept.word)),
        Some(kept) => paper.block("cache:", |paper| paper.short_list("directories", &[&kept.folder])),
        None => {}
    }
}

/// The service knows the manager, and finds its downloads where they usually are.
fn keeps_by_name(plan: &Plan<'_>) -> bool {
    plan.dir.is_empty() && plan.kept.as_ref().is_some_and(|kept| ["npm", "yarn", "pip", "bundler"].contains(&kept.word))
}

fn deploy(paper: &mut Paper, plan: &Plan<'_>, publishing: &Publishing) {
    if plan.host.by_itself.contains(&"travis") {
        paper.line("provider: pages");
        paper.line("edge: true");
        paper.line("token: $PAGES_TOKEN");
        paper.line(format!("local_dir: {}", in_yaml(&plan.output)));
        paper.line("target_branch: gh-pages");
    } else {
        paper.line("provider: script");
        paper.line("edge: true");
        let commands = publishing.commands_behind(plan.system_packages(true).filter(|_| !plan.host.on_runner));
        paper.line(format!("script: {}", in_yaml(&commands.join(" && "))));
    }
    paper.block("on:", |paper| paper.line(format!("branch: {}", in_yaml(&plan.branch))));
}
