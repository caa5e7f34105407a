//! A command to the runner that has been switched off.

use crate::case::Case;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::model::{Shell, Work};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.retired-command",
    severity: Severity::Warning,
    title: "A script speaks to the runner in a way that has been retired",
    why: "Scripts used to set outputs and variables by printing special lines. Some of these lines now make the step fail, the \
          others are announced to follow; a value that is no longer set leaves a hole in the address or the folder built from \
          it.",
    needs: &[],
    bad: &[r#"
== steps
      - run: echo "«::set-output» name=page::index"
"#],
    good: &[r#"
== steps
      - run: |
          # no more ::set-output
          echo "page=index" >> "$GITHUB_OUTPUT"
          echo "::group::build"
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for step in case.pipeline.jobs.iter().flat_map(|job| &job.steps) {
        let Work::Runs { script, shell } = &step.work else { continue };
        let commands = case.pipeline.customs.retired_command.iter();
        // Most scripts hold none, and that is seen sooner than where it stands.
        for retired in commands.filter(|retired| script.value.contains(retired.start)) {
            for (index, found) in script.value.match_indices(retired.start) {
                let line = script.value[..index].rsplit('\n').next().unwrap_or_default();
                if line.trim_start().starts_with('#') {
                    continue;
                }
                // Another program's text may print it as well, and knows another way to write a file.
                let printed =
                    line.split_whitespace().any(|word| matches!(word, "echo" | "printf" | "Write-Output" | "Write-Host"));
                let shell = if printed || *shell == Shell::PowerShell { *shell } else { Shell::Other };
                let message = if retired.fails {
                    format!("this step fails: `{found}` has been switched off")
                } else {
                    format!("`{found}` is retired and will stop working")
                };
                out.add(script.place(index..index + found.len()), message)
                    .severity(if retired.fails { Severity::Error } else { Severity::Warning })
                    .witness(WitnessSource::Catalog, "values are written to a file that the runner names")
                    .mend(pen::write(case, &Ask::WriteForRunner { shell, line: retired.line, file: retired.file }));
            }
        }
    }
}
