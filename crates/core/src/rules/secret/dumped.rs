//! All variables at once in a folder that goes online.

use crate::case::{Case, at};
use crate::effects::{Effect, is_inside};
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::model::{Shell, Work};
use crate::rules::Rule;
use crate::shell::{Command, Join, Word, parse};
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "secret.dumped",
    severity: Severity::Error,
    title: "All variables are written into a folder that goes online",
    why: "What a build knows by variables is more than what it was told: tokens and passwords are among them. A list of all of them in the \
          published folder can be fetched by everybody who guesses its name.",
    needs: &[],
    bad: &[
        r"
== files
index.html
== buildspec.yml
version: 0.2
env:
  secrets-manager:
    ‹TARNSAY_KEY›: timetable/key
phases:
  build:
    commands:
      - npx vite build
      - «printenv» > dist/build.txt
artifacts:
  base-directory: ‹dist›
  files: ['**/*']
",
        r"
== git
main default
== files
index.html
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: |
          «env» > dist/build.txt
          ‹aws s3 sync dist s3://tarnsay-timetable›
        env:
          AWS_ACCESS_KEY_ID: ‹${{ secrets.TARNSAY_KEY_ID }}›
          AWS_SECRET_ACCESS_KEY: ${{ secrets.TARNSAY_KEY }}
",
        r"
== git
main default
== files
index.html
== gitlab
publish:
  resource_group: www
  script:
    - npx vite build
    - «env» > dist/build.txt
    - ‹rsync -a dist/ pier@tarnsay.example:/www›
",
    ],
    good: &[
        // Some of them only, or not in the folder.
        r"
== files
index.html
== buildspec.yml
version: 0.2
env:
  secrets-manager:
    TARNSAY_KEY: timetable/key
phases:
  build:
    commands:
      - npx vite build
      - env | grep PUBLIC_ > dist/build.txt
      - printenv > /tmp/build.txt
      - env TZ=UTC date > dist/date.txt
artifacts:
  base-directory: dist
  files: ['**/*']
",
        // Nothing among them is secret, as far as is known.
        r"
== files
index.html
== buildspec.yml
version: 0.2
phases:
  build:
    commands:
      - npx vite build
      - printenv > dist/build.txt
artifacts:
  base-directory: dist
  files: ['**/*']
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (job, number, step) in case.steps() {
        let Work::Runs { script, shell: Shell::Posix } = &step.work else { continue };
        if !["env", "export", "declare", "set"].iter().any(|word| script.value.contains(word)) {
            continue;
        }
        let commands = parse(&script.value).commands;
        for (index, command) in commands.iter().enumerate() {
            let piped = commands.get(index + 1).is_some_and(|next| next.join == Join::Pipe);
            if piped || !lists_all(command) || !command.redirects.iter().any(|redirect| redirect.writes) {
                continue;
            }
            let place = script.place(command.range.clone());
            let Some(online) = goes_online_with(case, job, number, place) else { continue };
            let Some(secret) = secret_among(case, job, number) else { continue };
            let name = command.words.first().map_or(place, |word| script.place(word.range.clone()));
            let finding = out.add(name, "this writes all variables into a folder that goes online, secrets among them");
            finding.witness(at(online), "the folder goes online here");
            match secret {
                Some(place) => finding.witness(at(place), "this is one of them"),
                None => finding.witness(WitnessSource::Catalog, "the job's own token is one of them"),
            };
            finding.mend(Mend::by_hand("write only what visitors may read, name by name"));
        }
    }
}

/// `printenv`, `env`, `export -p` and their kin, without a name that they are asked for.
fn lists_all(command: &Command) -> bool {
    let others: Vec<&str> = command.words.iter().skip(1).map(|word| word.text.as_str()).collect();
    match command.words.first().and_then(Word::known) {
        Some("printenv" | "env" | "set") => others.is_empty(),
        Some("export" | "declare") => others.is_empty() || matches!(others.as_slice(), ["-p" | "-x" | "-xp" | "-px"]),
        _ => false,
    }
}

/// Where the file that a command writes goes online from.
fn goes_online_with(case: &Case<'_>, job: usize, step: usize, command: Place) -> Option<Place> {
    let written = case.effects.jobs[job][step].effects.iter().find_map(|effect| match &effect.effect {
        Effect::Write { path: Some(path) } if effect.at == command => Some(path.as_str()),
        _ => None,
    })?;
    super::put_online(case, job, step).find_map(|(folder, at)| is_inside(written, folder).then_some(at))
}

/// A secret that a step surely has among its variables: where it is given; the inner `None` for the job's own token.
#[allow(clippy::option_option, reason = "none, one without a place, and one with a place are three things")]
fn secret_among(case: &Case<'_>, job: usize, step: usize) -> Option<Option<Place>> {
    let of_job = &case.pipeline.jobs[job];
    let given = case.layers(job, step).into_iter().flat_map(|layer| &layer.entries);
    let by_value = given.filter(|(_, value)| case.only_secret(value).is_some()).map(|(_, value)| Some(value.inner())).next();
    let handed = || of_job.handed.first().map(|name| Some(name.at));
    let declared = || {
        let secrets = case.facts.settings.forge.secrets.as_ref().filter(|_| case.pipeline.customs.variables_of_forge)?;
        secrets.first().map(|named| Some(named.at))
    };
    let own = || (case.names_only() && !case.pipeline.customs.own_tokens.is_empty()).then_some(None);
    by_value.or_else(handed).or_else(declared).or_else(own)
}
