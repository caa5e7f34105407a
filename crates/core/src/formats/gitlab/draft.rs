//! A drafted `.gitlab-ci.yml`: a job that tests and builds, and one that publishes.

use crate::draft::{Command, Drafter, Head, Paper, Plan, Publishing, Way, in_shell, in_yaml};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        ".gitlab-ci.yml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "pages"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::yaml();
        let own = plan.host.by_itself.contains(&"gitlab");
        let publishing = plan.publishing(&Way { format: "gitlab", gives_files: true, sign_in: None });
        let head = Head {
            publishing: &publishing,
            secrets: "In the settings of the project, under CI/CD, Variables, create as masked and protected variables",
            files: "In the settings of the project, under CI/CD, Variables, create as protected variables of the type File",
            variables: "In the settings of the project, under CI/CD, Variables, create as protected variables",
            before: &[],
        };
        paper.head(plan, &head);
        paper.comment("Only pushes to the default branch and merge requests start it.");
        paper.block("workflow:", |paper| {
            paper.block("rules:", |paper| {
                paper.line("- if: $CI_PIPELINE_SOURCE == \"merge_request_event\"");
                paper.line("- if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH");
            });
        });
        paper.gap();
        paper.line("stages: [build, publish]");
        paper.gap();
        paper.block("build:", |paper| build(paper, plan));
        paper.gap();
        if own {
            paper.comment("A job of this name publishes the folder public.");
        }
        paper.block(if own { "pages:" } else { "publish:" }, |paper| publish(paper, plan, &publishing, own));
        paper.finish()
    }
}

fn build(paper: &mut Paper, plan: &Plan<'_>) {
    paper.line("stage: build");
    paper.line(format!("image: {}", in_yaml(&plan.image())));
    paper.line("timeout: 15 minutes");
    if plan.submodules || plan.history {
        paper.block("variables:", |paper| {
            if plan.submodules {
                paper.line("GIT_SUBMODULE_STRATEGY: recursive");
            }
            if plan.history {
                paper.comment("The pages show dates from git's history, which has to be there whole.");
                paper.line("GIT_DEPTH: \"0\"");
            }
        });
    }
    if let Some(kept) = &plan.kept {
        paper.comment("Downloads are kept until the lockfile changes.");
        paper.block("cache:", |paper| {
            paper.block("key:", |paper| paper.short_list("files", &kept.key_files));
            paper.short_list("paths", &[format!("{}/", kept.folder)]);
        });
    }
    let lines: Vec<String> = plan.fetch(false).iter().chain(plan.work(true)).map(Command::in_own_folder).collect();
    paper.list("script", &plan.or_look(lines));
    paper.block("artifacts:", |paper| {
        paper.short_list("paths", &[format!("{}/", plan.output)]);
        paper.line("expire_in: 1 week");
    });
}

fn publish(paper: &mut Paper, plan: &Plan<'_>, publishing: &Publishing, own: bool) {
    paper.line("stage: publish");
    paper.line("needs: [build]");
    if let Some(tool) = plan.publishing_tool().filter(|_| !own) {
        let image = in_yaml(&tool.image().unwrap_or_default());
        // A program that an image starts by itself would get the shell's words.
        if tool.tool.id == "aws" {
            paper.block("image:", |paper| {
                paper.line(format!("name: {image}"));
                paper.line("entrypoint: [\"\"]");
            });
        } else {
            paper.line(format!("image: {image}"));
        }
    } else if own {
        paper.line(format!("image: {}", in_yaml(&plan.image())));
    }
    paper.line("timeout: 10 minutes");
    paper.block("rules:", |paper| paper.line("- if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH"));
    paper.comment("One publish at a time.");
    paper.line("resource_group: publish");
    if own {
        if plan.output == "public" {
            paper.list("script", &["ls public"]);
        } else {
            paper.comment("Where the sources have a folder of this name, it makes way for the built one.");
            paper.list("script", &["rm -rf public".to_owned(), format!("mv {} public", in_shell(&plan.output))]);
        }
        paper.block("artifacts:", |paper| {
            paper.short_list("paths", &["public/"]);
            paper.line("expire_in: 1 week");
        });
        return;
    }
    paper.list("script", &publishing.commands_behind(plan.system_packages(false)));
}
