//! A drafted `buildspec.yml`: tests, builds, and publishes where all of that went well.

use super::data;
use crate::draft::{Command, Drafter, Head, Paper, Plan, Way, in_yaml};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        "buildspec.yml"
    }

    fn usual_host(&self, _: &str) -> &'static str {
        "s3"
    }

    fn write(&self, plan: &Plan<'_>, _: &str) -> String {
        let mut paper = Paper::yaml();
        let mut before = vec![format!(
            "Let the build project start on pushes to {} only (its webhook, filtered by HEAD_REF ^refs/heads/{}$), and limit it to one build \
             at a time.",
            plan.branch, plan.branch
        )];
        if plan.history {
            before.push("Let the project's source bring the whole history: a clone depth of 0, in its settings.".into());
        }
        if plan.host.signed_in_by.contains(&"buildspec") {
            before.push("Let the project's service role write to this bucket, and to no other.".into());
        }
        let publishing = plan.publishing(&Way { format: "buildspec", ..Way::default() });
        let head = Head {
            publishing: &publishing,
            secrets: "In Secrets Manager, create secrets of plain text with these names",
            files: "",
            variables: "In the environment of the build project, create plain variables",
            before: &before,
        };
        paper.head(plan, &head);
        paper.line("version: 0.2");
        paper.gap();
        let secrets = publishing.secrets;
        if !secrets.is_empty() {
            paper.block("env:", |paper| {
                paper.block("secrets-manager:", |paper| secrets.iter().for_each(|one| paper.line(format!("{0}: {0}", one.name))));
            });
            paper.gap();
        }
        paper.block("phases:", |paper| phases(paper, plan, Some(&publishing.commands)));
        if let Some(kept) = &plan.kept {
            paper.gap();
            paper.comment("Kept from build to build where the project has a cache.");
            paper.block("cache:", |paper| paper.list("paths", &[format!("{}/**/*", kept.folder)]));
        }
        paper.finish()
    }
}

/// The phases of a build; without `publish`, others put online what it makes.
pub(in crate::formats) fn phases(paper: &mut Paper, plan: &Plan<'_>, publish: Option<&[String]>) {
    let lines = |commands: &mut dyn Iterator<Item = &Command>| commands.map(Command::in_own_folder).collect::<Vec<_>>();
    let runtimes: Vec<String> = plan
        .tools
        .iter()
        .chain(plan.publishing_tool().as_ref().filter(|_| publish.is_some()))
        .filter_map(|tool| Some(format!("{}: {}", data().set_up.get(tool.tool.id)?.name, in_quotes(&tool.version))))
        .fold(Vec::new(), |mut all, one| {
            if !all.contains(&one) {
                all.push(one);
            }
            all
        });
    let install =
        lines(&mut plan.fetch_submodules().iter().chain(&plan.fetch(false)).chain(&plan.bring).chain(&plan.install_keeping));
    if !runtimes.is_empty() || !install.is_empty() {
        paper.block("install:", |paper| {
            if !runtimes.is_empty() {
                paper.block("runtime-versions:", |paper| paper.lines(&runtimes));
            }
            if !install.is_empty() {
                paper.list("commands", &install);
            }
        });
    }
    let mut build = lines(&mut plan.tests.iter().chain(&plan.build));
    build.extend(publish.into_iter().flatten().cloned());
    let build = plan.or_look(build);
    paper.block("build:", |paper| {
        paper.comment("A line that fails ends the build, so that nothing is published after it.");
        paper.line("on-failure: ABORT");
        paper.list("commands", &build);
    });
}

fn in_quotes(version: &str) -> String {
    if version.contains('.') { format!("'{version}'") } else { in_yaml(version).trim_matches('\'').to_owned() }
}
