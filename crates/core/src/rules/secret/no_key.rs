//! A copy to another machine without any key.

use crate::case::Case;
use crate::effects::UsedAction;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::model::{Target, Work};
use crate::rules::Rule;

use super::texts_of;

pub const RULE: Rule = Rule {
    id: "secret.no-key",
    severity: Severity::Error,
    title: "A copy to another machine has no key",
    why: "A fresh machine holds no key of yours. Before files can be copied to a server, the job has to be given one and hand it to the \
          program that copies; otherwise the server turns it away.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: «rsync -a site/ pier@tarnsay.example:/www»
",
        r"
== gitlab
send:
  image: registry.tarnsay.example/tools:1
  script:
    - «scp -r site pier@tarnsay.example:/www»
",
    ],
    good: &[
        r#"
== pipeline
on: push
concurrency: send
jobs:
  send:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: |
          install -m 600 -D /dev/null ~/.ssh/id_ed25519
          echo "${{ secrets.PIER_KEY }}" > ~/.ssh/id_ed25519
      - run: rsync -a site/ pier@tarnsay.example:/www
  daemon:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: rsync -a site/ tarnsay.example::www
  own:
    runs-on: self-hosted
    steps:
      - uses: actions/checkout@v5
      - run: rsync -a site/ pier@tarnsay.example:/srv
"#,
        r#"
== gitlab
send:
  image: registry.tarnsay.example/tools:1
  resource_group: send
  script:
    - eval $(ssh-agent -s) && ssh-add <(echo "$PIER_KEY")
    - scp -r site pier@tarnsay.example:/www
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut told: Vec<usize> = Vec::new();
    for published in case.published().filter(|published| *published.target == Target::Shell) {
        let (job, step) = (published.job, published.step);
        let of_job = &case.pipeline.jobs[job];
        let is_command = matches!(of_job.steps[step].work, Work::Runs { .. });
        // A machine of one's own may hold a key; in an image there is none.
        let fresh = of_job.starts_empty() && (of_job.machine.image.is_some() || !case.names_only());
        let by_ssh = published.place.is_some_and(|place| !place.contains("::") && !place.starts_with("rsync://"));
        if told.contains(&job) || !is_command || !fresh || !by_ssh || published.effect.perhaps || may_have_key(case, job, step) {
            continue;
        }
        told.push(job);
        out.add(published.effect.at, format!("`{}` fails here: it has no key for the other machine", case.job_name(job)))
            .witness(WitnessSource::Catalog, "the machine is fresh, and nothing before gives it a key")
            .mend(Mend::by_hand("add a key from a secret before this, with ssh-add or in a file under ~/.ssh"));
    }
}

/// Whether anything up to a step speaks of a key, or is not understood.
fn may_have_key(case: &Case<'_>, job: usize, step: usize) -> bool {
    let of_job = &case.pipeline.jobs[job];
    let speaks = |text: &str| knowledge::names().lists.key_words.iter().any(|word| text.contains(word));
    let layers = of_job.variables.entries.iter().chain(&case.pipeline.variables.entries);
    let by_variable = layers.chain(of_job.steps.iter().flat_map(|step| &step.variables.entries)).any(|(name, _)| {
        let name = name.value.to_ascii_uppercase();
        name.contains("SSH") || name.contains("RSYNC")
    });
    let by_text = of_job.steps.iter().take(step + 1).any(|step| texts_of(step).any(|text| speaks(&text.value)));
    // What an action of the repository leaves behind is not looked into here.
    let by_action = of_job.steps.iter().take(step + 1).any(|step| match &step.work {
        Work::Uses { action, .. } => UsedAction::of(&action.value).is_none_or(|used| used.name.contains("ssh")),
        _ => false,
    });
    let by_program = case.effects.jobs[job]
        .iter()
        .take(step + 1)
        .any(|effects| effects.may_do_anything() || effects.spoken.iter().any(|word| speaks(word)));
    by_variable || by_text || by_action || by_program
}
