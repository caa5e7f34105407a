//! A drafted workflow: one job that tests and builds, and one that publishes, so that only the second holds what it needs for that.

use super::data;
use crate::draft::{Command, Drafter, Head, Paper, Plan, Publishing, Tooling, Way, in_yaml};
use crate::knowledge::{SetUp, actions};

/// What drafts it.
#[derive(Debug)]
pub(super) struct Draft;

/// Folders of the forge that has the format's own pages.
const HOME: &str = ".github/";

impl Drafter for Draft {
    fn path(&self) -> &'static str {
        ".github/workflows/site.yml"
    }

    fn usual_host(&self, path: &str) -> &'static str {
        if self.has_own_ways(path) { "pages" } else { "ssh" }
    }

    fn has_own_ways(&self, path: &str) -> bool {
        path.starts_with(HOME)
    }

    fn has_tool(&self, path: &str, tool: &str) -> bool {
        // What else is on the machines of other forges is their own affair.
        self.has_own_ways(path) || ["node", "shell"].contains(&tool)
    }

    fn write(&self, plan: &Plan<'_>, path: &str) -> String {
        let mut paper = Paper::yaml();
        let by_itself = plan.host.by_itself.contains(&"workflow");
        let source = "In the settings of the repository, under Pages, take \"GitHub Actions\" as the source.".to_owned();
        let label =
            "Let `runs-on` name a label that the runners of this forge have, if ubuntu-latest is none of theirs.".to_owned();
        let before: Vec<String> = match (by_itself, self.has_own_ways(path)) {
            (true, _) => vec![source],
            (false, true) => Vec::new(),
            (false, false) => vec![label],
        };
        let sign_in = data().sign_in.get(plan.host.id).filter(|_| self.has_own_ways(path));
        let publishing = plan.publishing(&Way { format: "workflow", gives_files: false, sign_in });
        paper.head(
            plan,
            &Head {
                publishing: &publishing,
                secrets: "In the settings of the repository, under \"Secrets and variables\", create as secrets",
                files: "",
                variables: "In the settings of the repository, under \"Secrets and variables\", create as variables",
                before: &before,
            },
        );
        paper.line("name: Site");
        paper.gap();
        paper.block("on:", |paper| starts(paper, plan));
        paper.gap();
        paper.comment("Every job may read this repository, and nothing else unless it says so itself.");
        paper.block("permissions:", |paper| paper.line("contents: read"));
        paper.gap();
        paper.block("jobs:", |paper| {
            let write = Write { plan, publishing: &publishing, is_home: self.has_own_ways(path) };
            if write.is_home {
                paper.block("build:", |paper| write.build(paper, by_itself));
                paper.gap();
                paper.block("publish:", |paper| write.publish(paper, by_itself));
            } else {
                paper.block("site:", |paper| write.in_one_job(paper));
            }
        });
        paper.finish()
    }
}

fn starts(paper: &mut Paper, plan: &Plan<'_>) {
    paper.comment("A push to this branch goes live.");
    paper.block("push:", |paper| paper.short_list("branches", &[&plan.branch]));
    paper.comment("A pull request is tested and built, and publishes nothing.");
    paper.block("pull_request:", |paper| paper.short_list("branches", &[&plan.branch]));
    paper.comment("And by hand, from the list of workflows.");
    paper.line("workflow_dispatch:");
}

/// The name of an action with the newest version that the catalog knows.
fn newest(name: &str) -> String {
    let version = actions().get(name).and_then(|action| action.newest);
    // Those of which no newest is known are written in the version that their manuals show.
    format!("{name}@v{}", version.unwrap_or(2))
}

/// What the steps that set toolchains up have done about packages.
enum Done {
    /// Nothing.
    Nothing,
    /// Their downloads are kept.
    Keeps,
    /// They are installed.
    Installed,
}

struct Write<'p> {
    plan: &'p Plan<'p>,
    publishing: &'p Publishing,
    /// The forge is the one of the format's own pages; on others the machines' user is root, without sudo.
    is_home: bool,
}

impl Write<'_> {
    fn build(&self, paper: &mut Paper, by_itself: bool) {
        let plan = self.plan;
        machine(paper, 15);
        paper.block("steps:", |paper| {
            self.make(paper);
            let (action, name) =
                if by_itself { ("actions/upload-pages-artifact", None) } else { ("actions/upload-artifact", Some("site")) };
            step(paper, &newest(action), |paper| {
                name.into_iter().for_each(|name| paper.line(format!("name: {name}")));
                paper.line(format!("path: {}", in_yaml(&plan.output)));
                if name.is_some() {
                    paper.line("if-no-files-found: error");
                    if plan.output.split('/').any(|part| part.starts_with('.')) {
                        paper.line("include-hidden-files: true");
                    }
                }
            });
        });
    }

    /// The steps that make the site.
    fn make(&self, paper: &mut Paper) {
        let plan = self.plan;
        self.checkout(paper);
        let done = self.set_up(paper);
        let install: &[Command] = match done {
            Done::Installed => &[],
            Done::Keeps => &plan.install,
            Done::Nothing => self.keep_downloads(paper),
        };
        for command in install.iter().chain(&plan.tests).chain(&plan.build) {
            run(paper, command);
        }
    }

    /// Not every forge that reads such files hands files from job to job alike.
    fn in_one_job(&self, paper: &mut Paper) {
        machine(paper, 20);
        paper.comment("One run of a branch at a time; one that has begun is finished.");
        paper.block("concurrency:", |paper| {
            paper.line("group: site-${{ github.ref }}");
            paper.line("cancel-in-progress: false");
        });
        paper.block("steps:", |paper| {
            self.make(paper);
            let condition = self.goes_live();
            if self.plan.publishing_tool().is_some_and(|tool| !self.plan.tools.iter().any(|known| known.tool.id == tool.tool.id))
            {
                self.set_up_for_publishing(paper, true);
            }
            paper.comment("What follows is not for pull requests, and not for other branches that are started by hand.");
            if let Some(install) = self.plan.system_packages(false) {
                paper.line(format!("- if: {condition}"));
                paper.line(format!("  run: {install}"));
            }
            self.run_commands(paper, Some(&condition));
        });
    }

    /// The condition under which a run publishes.
    fn goes_live(&self) -> String {
        in_yaml(&format!("github.ref == 'refs/heads/{}'", self.plan.branch.replace('\'', "''")))
    }

    fn checkout(&self, paper: &mut Paper) {
        let plan = self.plan;
        let action = newest("actions/checkout");
        step(paper, &action, |paper| {
            paper.comment("No later step talks to the repository, so none is left the token.");
            paper.line("persist-credentials: false");
            if plan.submodules {
                paper.line("submodules: recursive");
            }
            if plan.history {
                paper.comment("The pages show dates from git's history, which has to be there whole.");
                paper.line("fetch-depth: 0");
            }
        });
    }

    /// Sets all toolchains up.
    fn set_up(&self, paper: &mut Paper) -> Done {
        let plan = self.plan;
        let mut done = Done::Nothing;
        for tool in &plan.tools {
            let Some(set_up) = data().set_up.get(tool.tool.id) else {
                tool.fetch(self.is_home).into_iter().for_each(|command| run(paper, &Command::at_root(command)));
                continue;
            };
            if tool.tool.id == "node" {
                self.bring_manager(paper);
            }
            let keeps = self.set_up_tool(paper, tool, set_up);
            if set_up.installs {
                done = Done::Installed;
            } else if keeps {
                done = Done::Keeps;
            }
        }
        done
    }

    /// Keeps the downloads by a step of its own, where there are some; what installs with them.
    fn keep_downloads(&self, paper: &mut Paper) -> &[Command] {
        let plan = self.plan;
        let Some(kept) = &plan.kept else { return &plan.install };
        step(paper, &newest("actions/cache"), |paper| {
            paper.line(format!("path: {}", in_yaml(&kept.folder)));
            let files: Vec<String> = kept.key_files.iter().map(|file| format!("'{}'", file.replace('\'', "''"))).collect();
            let key = format!("{}-${{{{ runner.os }}}}-${{{{ hashFiles({}) }}}}", kept.word, files.join(", "));
            paper.line(format!("key: {}", in_yaml(&key)));
            paper.line(format!("restore-keys: {}-${{{{ runner.os }}}}-", kept.word));
        });
        &plan.install_keeping
    }

    /// The package manager stands before the runtime, which asks it where its downloads are.
    fn bring_manager(&self, paper: &mut Paper) {
        match self.plan.manager {
            Some((id, version)) if data().set_up.has(id) => {
                let set_up = &data().set_up[id];
                let action = newest(set_up.name);
                match (version, set_up.version) {
                    (Some(version), Some(input)) => step(paper, &action, |paper| paper.line(format!("{input}: {version}"))),
                    _ => paper.line(format!("- uses: {action}")),
                }
            }
            _ => self.plan.bring.iter().for_each(|command| run(paper, command)),
        }
    }

    /// Sets one up; whether it keeps the downloads.
    fn set_up_tool(&self, paper: &mut Paper, tool: &Tooling, set_up: &SetUp) -> bool {
        let plan = self.plan;
        let kept = plan.kept.as_ref().filter(|kept| {
            let known = crate::knowledge::managers().set_up_cache(tool.tool.id, kept.word).is_some();
            known && set_up.cache.is_some()
        });
        step(paper, &newest(set_up.name), |paper| {
            version(paper, set_up, tool, true);
            if let (Some(input), Some(kept)) = (set_up.cache, kept) {
                paper.line(format!("{input}: {}", kept.word));
                let apart = kept.key_files.iter().any(|file| file.contains('/'));
                if let (Some(input), true) = (set_up.lockfiles, apart || kept.word == "pip") {
                    paper.line(format!("{input}: {}", in_yaml(&kept.key_files[0])));
                }
            }
            set_up.with.iter().for_each(|(name, value)| paper.line(format!("{name}: {value}")));
            if set_up.installs && !plan.dir.is_empty() {
                paper.line(format!("working-directory: {}", in_yaml(&plan.dir)));
            }
        });
        kept.is_some()
    }

    fn publish(&self, paper: &mut Paper, by_itself: bool) {
        let plan = self.plan;
        paper.line("needs: build");
        paper.comment("Not for pull requests, and not for other branches that are started by hand.");
        paper.line(format!("if: {}", self.goes_live()));
        machine(paper, 10);
        paper.comment("One publish at a time; one that has begun is finished.");
        paper.block("concurrency:", |paper| {
            paper.line("group: publish");
            paper.line("cancel-in-progress: false");
        });
        if by_itself {
            paper.block("permissions:", |paper| {
                paper.comment("To publish to the repository's pages, and to prove to their host which run it is.");
                paper.line("pages: write");
                paper.line("id-token: write");
            });
            paper.block("environment:", |paper| {
                paper.line("name: github-pages");
                paper.line("url: ${{ steps.pages.outputs.page_url }}");
            });
            paper.block("steps:", |paper| {
                paper.line("- id: pages");
                paper.line(format!("  uses: {}", newest("actions/deploy-pages")));
            });
            return;
        }
        if self.publishing.sign_in.is_some() {
            paper.block("permissions:", |paper| {
                paper.comment("To prove to the host which run it is, instead of by a stored key.");
                paper.line("id-token: write");
                if plan.host.whole_checkout {
                    paper.line("contents: read");
                }
            });
        }
        paper.block("steps:", |paper| self.publish_by_commands(paper));
    }

    fn publish_by_commands(&self, paper: &mut Paper) {
        let plan = self.plan;
        if plan.host.whole_checkout {
            self.checkout(paper);
        }
        step(paper, &newest("actions/download-artifact"), |paper| {
            paper.line("name: site");
            paper.line(format!("path: {}", in_yaml(&plan.output)));
        });
        if let Some(install) = plan.system_packages(true).filter(|_| !plan.host.on_runner) {
            run(paper, &Command::at_root(install));
        }
        if let Some(sign_in) = self.publishing.sign_in {
            step(paper, &newest(sign_in.action), |paper| {
                sign_in.with.iter().for_each(|(name, value)| paper.line(format!("{name}: {value}")));
            });
        }
        self.set_up_for_publishing(paper, plan.host.whole_checkout);
        self.run_commands(paper, None);
    }

    fn set_up_for_publishing(&self, paper: &mut Paper, has_checkout: bool) {
        let Some(tool) = self.plan.publishing_tool() else { return };
        let Some(set_up) = data().set_up.get(tool.tool.id) else { return };
        step(paper, &newest(set_up.name), |paper| version(paper, set_up, &tool, has_checkout && set_up.file.is_some()));
    }

    fn run_commands(&self, paper: &mut Paper, condition: Option<&str>) {
        let mut start = "- ";
        if let Some(condition) = condition {
            paper.line(format!("{start}if: {condition}"));
            start = "  ";
        }
        let commands = &self.publishing.commands;
        match commands.as_slice() {
            [one] => paper.line(format!("{start}run: {}", in_yaml(one))),
            several => {
                paper.line(format!("{start}run: |"));
                several.iter().for_each(|command| paper.line(format!("    {command}")));
            }
        }
        let secrets = self.publishing.secrets.iter().map(|one| format!("    {0}: ${{{{ secrets.{0} }}}}", one.name));
        let variables = self.publishing.read.iter().map(|one| format!("    {0}: ${{{{ vars.{0} }}}}", one.name));
        let env: Vec<String> = secrets.chain(variables).collect();
        if !env.is_empty() {
            paper.line("  env:");
            paper.lines(&env);
        }
    }
}

fn machine(paper: &mut Paper, minutes: u32) {
    paper.line("runs-on: ubuntu-latest");
    paper.line(format!("timeout-minutes: {minutes}"));
}

/// The input that tells a version: the file in which it stands, where there is a checkout that holds it, or else the version itself.
fn version(paper: &mut Paper, set_up: &SetUp, tool: &Tooling, has_checkout: bool) {
    let file = tool.file.as_ref().filter(|_| has_checkout);
    match (file, set_up.file, set_up.version) {
        (Some(file), Some(input), _) => paper.line(format!("{input}: {}", in_yaml(file))),
        (Some(_), None, _) if set_up.finds_file => paper.comment("The version stands in a file that this step finds."),
        (_, _, Some(input)) => paper.line(format!("{input}: {}", quoted_version(&tool.version))),
        _ => {}
    }
}

/// A version that YAML would take for another number stands in quotes.
fn quoted_version(version: &str) -> String {
    if version.contains('.') { format!("'{version}'") } else { version.to_owned() }
}

fn step(paper: &mut Paper, action: &str, with: impl FnOnce(&mut Paper)) {
    paper.block(format!("- uses: {action}"), |paper| paper.optional_block("with:", with));
}

fn run(paper: &mut Paper, command: &Command) {
    paper.line(format!("- run: {}", in_yaml(&command.text)));
    if !command.dir.is_empty() {
        paper.line(format!("  working-directory: {}", in_yaml(&command.dir)));
    }
}
