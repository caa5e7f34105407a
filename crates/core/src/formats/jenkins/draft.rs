//! A drafted `Jenkinsfile`: a stage that tests and builds, and one that publishes.

use crate::draft::{Command, Drafter, Head, Paper, Plan, Publishing, Way, in_shell};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        "Jenkinsfile"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "ssh"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::new("    ", "//");
        let publishing = plan.publishing(&Way { format: "jenkins", gives_files: true, sign_in: None });
        let head = Head {
            publishing: &publishing,
            secrets: "Create credentials of the kind \"Secret text\" with these ids",
            files: "Create credentials of the kind \"Secret file\" with these ids",
            variables: "Among the environment variables of the folder or the server, set",
            before: &before(plan),
        };
        paper.head(plan, &head);
        paper.block("pipeline {", |paper| {
            paper.line("agent any");
            paper.gap();
            paper.block("options {", |paper| {
                paper.comment("One run at a time, so that two never publish at once.");
                paper.line("disableConcurrentBuilds()");
                paper.line("timeout(time: 20, unit: 'MINUTES')");
            });
            paper.line("}");
            paper.gap();
            paper.block("stages {", |paper| {
                build(paper, plan);
                paper.gap();
                publish(paper, plan, &publishing);
            });
            paper.line("}");
        });
        paper.line("}");
        paper.finish()
    }
}

/// All that builds comes with an image, and nothing is brought that only root may put there.
fn builds_in_container(plan: &Plan<'_>) -> bool {
    plan.fetch(false).is_empty() && plan.tools.first().is_some_and(|tool| tool.tool.id != "shell")
}

fn publishes_in_container(plan: &Plan<'_>) -> bool {
    plan.publishing_tool().is_some_and(|tool| tool.tool.id != "shell")
}

fn before(plan: &Plan<'_>) -> Vec<String> {
    let mut found = vec![format!("Create a multibranch job for this repository; a push to {} goes live.", plan.branch)];
    let in_containers = builds_in_container(plan) || publishes_in_container(plan);
    if in_containers {
        found.push("The agents need Docker, and the server the plugin Docker Pipeline.".into());
    }
    let mut needed: Vec<&str> = plan.host.packages.iter().copied().filter(|_| !publishes_in_container(plan)).collect();
    if !builds_in_container(plan) {
        needed.extend(plan.tools.iter().map(|tool| tool.tool.id).filter(|id| *id != "shell"));
    }
    if !needed.is_empty() {
        found.push(format!("The agents need {}.", crate::finding::listed(&needed)));
    }
    found
}

fn build(paper: &mut Paper, plan: &Plan<'_>) {
    paper.block("stage('Build') {", |paper| {
        if builds_in_container(plan) {
            container(paper, &plan.image());
        }
        paper.block("steps {", |paper| {
            plan.fetch_submodules().iter().for_each(|command| run(paper, command));
            // Only root may write where a manager is brought to by default.
            for command in &plan.bring {
                run(
                    paper,
                    &Command::at_root(command.text.replace("npm install --global", "npm install --global --prefix \"$HOME\"")),
                );
            }
            let path = if plan.bring.is_empty() { "" } else { "PATH=\"$HOME/bin:$PATH\" " };
            for command in plan.install.iter().chain(&plan.tests).chain(&plan.build) {
                run(paper, &Command { text: format!("{path}{}", command.text), dir: command.dir.clone() });
            }
            if plan.install.is_empty() && plan.build.is_empty() {
                run(paper, &Command::at_root(format!("ls {}", in_shell(&plan.output))));
            }
        });
        paper.line("}");
    });
    paper.line("}");
}

fn publish(paper: &mut Paper, plan: &Plan<'_>, publishing: &Publishing) {
    paper.block("stage('Publish') {", |paper| {
        paper.line(format!("when {{ branch {} }}", in_groovy(&plan.branch)));
        if publishes_in_container(plan) {
            container(paper, &plan.publishing_image());
        }
        let secrets = publishing.secrets;
        if !secrets.is_empty() {
            paper.block("environment {", |paper| {
                secrets.iter().for_each(|one| paper.line(format!("{0} = credentials('{0}')", one.name)));
            });
            paper.line("}");
        }
        paper.block("steps {", |paper| run_together(paper, &publishing.commands));
        paper.line("}");
    });
    paper.line("}");
}

/// A container in the folder of the files, whose home is a folder that its user may write to.
fn container(paper: &mut Paper, image: &str) {
    paper.block("agent {", |paper| {
        paper.block("docker {", |paper| {
            paper.line(format!("image {}", in_groovy(image)));
            let entrypoint = if image.starts_with("amazon/") { " --entrypoint=" } else { "" };
            paper.line(format!("args '-e HOME=/tmp{entrypoint}'"));
            paper.line("reuseNode true");
        });
        paper.line("}");
    });
    paper.line("}");
}

fn run(paper: &mut Paper, command: &Command) {
    let line = format!("sh {}", in_groovy(&command.text));
    if command.dir.is_empty() {
        paper.line(line);
    } else {
        paper.block(format!("dir({}) {{", in_groovy(&command.dir)), |paper| paper.line(line));
        paper.line("}");
    }
}

/// Commands that share a shell.
fn run_together(paper: &mut Paper, commands: &[String]) {
    if let [one] = commands {
        return run(paper, &Command::at_root(one));
    }
    paper.line("sh '''");
    paper.inside(|paper| commands.iter().for_each(|command| paper.line(in_long_quotes(command))));
    paper.line("'''");
}

/// The inside of a text between three single quotes.
fn in_long_quotes(text: &str) -> String {
    text.replace('\\', "\\\\").replace("'''", "\\'\\'\\'")
}

/// A text between single quotes, in which the language fills nothing in.
fn in_groovy(text: &str) -> String {
    format!("'{}'", text.replace('\\', "\\\\").replace('\'', "\\'").replace('\n', "\\n"))
}
