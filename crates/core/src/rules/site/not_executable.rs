//! A script of the repository that is run by its path, and that git does not keep as one that may be run.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::model::{Job, Work};
use crate::rules::Rule;
use crate::text::file_name;

pub const RULE: Rule = Rule {
    id: "site.not-executable",
    severity: Severity::Error,
    title: "A script is run that may not be run",
    why: "Git keeps of each file whether it may be run by its path. Where it may not, the command ends with \"permission denied\", \
          even if the file may be run on the machine on which it was written.",
    needs: &[],
    bad: &[
        r"
== files
send.sh 644
== steps
      - uses: actions/checkout@v5
      - run: «./send.sh»
",
        r"
== files
send.sh 644
== gitlab
send:
  script:
    - «./send.sh»
",
        r"
== files
send.sh 644
== .travis.yml
language: generic
script: «./send.sh»
",
        r#"
== git
main default
== files
send.sh 644
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "refs/heads/main"
  actions:
    - action: "Send"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "«./send.sh»"
"#,
    ],
    good: &[
        r"
== files
send.sh 644
== jobs
  send:
    runs-on: windows-latest
    steps:
      - uses: actions/checkout@v5
      - run: ./send.sh
        shell: bash
",
        r"
== files
send.sh 644
index.html
== steps
      - uses: actions/checkout@v5
      - run: sh send.sh
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    for (job, steps) in case.effects.jobs.iter().enumerate() {
        // There, whether a file may be run is no property of it.
        if may_be_windows(&case.pipeline.jobs[job]) {
            continue;
        }
        for (path, place) in steps.iter().flat_map(|step| &step.started) {
            let name = file_name(path);
            let changes = |script: &str| script.contains("chmod") && [name, "*", "-R"].iter().any(|word| script.contains(word));
            let changed = case.pipeline.jobs[job].steps.iter().any(|step| match &step.work {
                Work::Runs { script, .. } => changes(&script.value),
                _ => false,
            });
            if files.is_executable(path) != Some(false) || changed {
                continue;
            }
            out.add(*place, format!("this fails: `{path}` is not executable"))
                .witness(WitnessSource::Git, "git keeps it as a file that is only read")
                .mend(Mend::by_hand(format!("git update-index --chmod=+x {path}, or call it as sh {path}")));
        }
    }
}

/// Whether a job runs, or may run, on Windows.
fn may_be_windows(job: &Job) -> bool {
    job.machine.runners.iter().any(|label| label.known().is_none_or(|label| label.to_ascii_lowercase().contains("windows")))
}
