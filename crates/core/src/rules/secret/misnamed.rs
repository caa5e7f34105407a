//! A variable is read under another name than it is set.

use std::collections::HashSet;

use crate::case::{Case, at};
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::knowledge::{Among, near};
use crate::model::{Shell, Text, Work};
use crate::rules::Rule;
use crate::shell::variable_reads;

pub const RULE: Rule = Rule {
    id: "secret.misnamed",
    severity: Severity::Error,
    title: "A variable is read under another name than it is set",
    why: "A shell reads a variable that nobody has set as nothing at all, and goes on. One letter less in a name, and a site is sent to an \
          address without a host, or to the root of a store.",
    needs: &[],
    bad: &[
        r"
== steps
      - run: ./send «$TARNSAY_STOER»
        env: {‹TARNSAY_STORE›: quay}
",
        r"
== gitlab
send:
  variables:
    ‹TARNSAY_STORE›: quay
  script:
    - ./send «$TARNSAY_STOER»
",
        r"
== buildspec.yml
version: 0.2
env:
  variables:
    ‹TARNSAY_STORE›: quay
phases:
  build:
    commands:
      - ./send «${TARNSAY_STOER}»
",
    ],
    good: &[
        r"
== gitlab
send:
  variables:
    TARNSAY_STORE: quay
  script:
    - ./send $TARNSAY_STORE $TARNSAY_STORES
    - TARNSAY_STOER=pier
    - ./send $TARNSAY_STOER
",
        // A default says that the name may be missing.
        r"
== gitlab
send:
  variables:
    TARNSAY_STORE: quay
  script:
    - ./send ${TARNSAY_STOER:-pier}
",
    ],
    check,
};

/// Shorter names are too near to each other.
const LEAST_LENGTH: usize = 5;

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, of_job) in case.pipeline.jobs.iter().enumerate().filter(|(job, _)| !super::part_is_unknown(case, *job)) {
        for (number, step) in of_job.steps.iter().enumerate() {
            let Work::Runs { script, shell: Shell::Posix } = &step.work else { continue };
            let layers = case.layers(job, number);
            let set: Vec<&Text> =
                layers.iter().flat_map(|layer| &layer.entries).map(|(name, _)| name).chain(&of_job.handed).collect();
            let names: HashSet<&str> = set.iter().map(|name| name.value.as_str()).collect();
            for (name, range) in variable_reads(&script.value, true) {
                let plain = range.len() == name.len() + 1 || range.len() == name.len() + 3;
                let shouted = name.len() >= LEAST_LENGTH && name.bytes().all(|byte| byte.is_ascii_uppercase() || byte == b'_');
                if !plain || !shouted || names.contains(name) || may_be_set(case, job, name) {
                    continue;
                }
                let long = names.iter().copied().filter(|known| known.len() >= LEAST_LENGTH);
                let Some(meant) = near(name, long, Among::Closed).filter(|meant| meant.sure && !is_read(case, &meant.word))
                else {
                    continue;
                };
                let Some(known) = set.iter().find(|known| known.value == meant.word) else { continue };
                // The form of the file says it where it knows.
                if case.prepared.form.iter().any(|issue| issue.at == script.place(range.clone())) {
                    continue;
                }
                let start = range.start + (range.len() - name.len()).div_ceil(2);
                out.add(script.place(range.clone()), format!("`{name}` is empty when this runs: nothing sets it"))
                    .witness(at(known.at), format!("{} is set here, and nothing reads it", known.value))
                    .mend(Mend::likely(
                        format!("write {}", known.value),
                        [Edit::replace(script.place(start..start + name.len()), known.value.clone())],
                    ));
            }
        }
    }
}

/// Something gives a variable a value: a command, the forge, the run, or a machine.
fn may_be_set(case: &Case<'_>, job: usize, name: &str) -> bool {
    let assigns = |script: &str| {
        ["=", " in ", "+="].iter().any(|sign| script.contains(&format!("{name}{sign}")))
            || script.contains(&format!("read {name}"))
    };
    let run = case.pipeline.run();
    let by_run = run.own_starts.iter().any(|start| name.starts_with(start))
        || run.predefined.contains(&name)
        || run.run.values().any(|values| values.has(name));
    by_run
        || case.is_held_for(job, name)
        || super::may_be_announced(case, job, name)
        || case.texts().iter().any(|(_, text)| assigns(&text.value))
}

/// Whether anything reads a variable, by its name in whatever text, or as a program may.
fn is_read(case: &Case<'_>, name: &str) -> bool {
    let scripts = case.facts.packages.values().filter_map(|package| package.scripts.as_ref()).flatten();
    case.texts().iter().any(|(_, text)| text.value.contains(name))
        || super::reads_variable(&case.sources.get(case.pipeline.file).text, name)
        || scripts.into_iter().any(|script| script.command.contains(name))
        || case.facts.page_variables.iter().any(|read| read.name == name)
        || case.facts.programs.values().any(|program| program.reach.knows(name))
        || case.facts.configs.values().any(|(_, config)| config.texts().iter().any(|(text, _)| text.contains(name)))
}
