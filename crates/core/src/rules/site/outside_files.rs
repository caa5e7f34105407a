//! Commands that work in another folder than the one where the repository's files stand.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::model::Work;
use crate::rules::Rule;
use crate::shell::Command;

pub const RULE: Rule = Rule {
    id: "site.outside-files",
    severity: Severity::Error,
    title: "Commands run where none of the files are",
    why: "The repository's files stand in one folder of the image, and the commands run in another. There is no package.json and \
          nothing to build there, so the first command fails.",
    needs: &[],
    bad: &[r#"
== git
main default
== package.json
{"scripts": {"build": "vite build"}}
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      working_directory: "«/buddy/piers»"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "npm run build"
      volume_mappings:
        - "/:‹/buddy/timetable›"
"#],
    good: &[r#"
== git
main default
== files
package-lock.json
== package.json
{"scripts": {"build": "vite build"}, "devDependencies": {"vite": "7"}}
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Build"
      type: "BUILD"
      working_directory: "/buddy/timetable"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "npm ci"
        - "npm run build"
      volume_mappings:
        - "/:/buddy/timetable"
"#],
    check,
};

/// Whether a package manager is called, which wants the package's files.
fn wants_files(work: &Work) -> bool {
    let Work::Runs { script, .. } = work else { return false };
    let is_manager = |command: &Command| command.name().is_some_and(|name| knowledge::managers().get(name).is_some());
    crate::shell::parse(&script.value).commands.iter().any(is_manager)
}

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in &case.pipeline.jobs {
        for (number, step) in job.steps.iter().enumerate() {
            let Some(files) = job.machine_of(number).files_at.as_ref().and_then(|path| Some((path, path.known()?))) else {
                continue;
            };
            let Some(folder) = step.directory.as_ref().filter(|folder| folder.known().is_some_and(|path| path.starts_with('/')))
            else {
                continue;
            };
            if !wants_files(&step.work) {
                continue;
            }
            out.add(
                folder.inner(),
                format!("the commands run in {}, and the repository's files are in {}", folder.value, files.1),
            )
            .witness(at(files.0.inner()), "the files stand here")
            .mend(Mend::by_hand(format!("write {} as the folder to work in", files.1)));
        }
    }
}
