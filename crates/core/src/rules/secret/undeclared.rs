//! A secret that the forge does not hold.

use crate::case::{Case, at};
use crate::facts::Named;
use crate::finding::{Edit, Finding, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::nearest;
use crate::project::{Read, ReadAt, ReadIn};
use crate::rules::{Need, Rule};
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "secret.undeclared",
    severity: Severity::Error,
    title: "A secret that the forge does not hold",
    why: "A secret that does not exist is not an error: it is empty. The publishing step then signs in with nothing and fails, \
          or the site is built with a hole in it.",
    needs: &[Need::Secrets],
    bad: &[
        r#"
== dulk.toml
[forge]
variables = [‹"SITE_URL"›]
== steps
      - run: ./build ${{ «vars.SITE_URI» }}
"#,
        r#"
== dulk.toml
[forge]
secrets = [‹"SFTP_PASSWORD"›]
== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: ./publish
        env:
          PASSWORD: ${{ «secrets.SFTP_PASWORD» }}
"#,
        r#"
== dulk.toml
[forge]
secrets = [‹"SFTP_PASSWORD"›]
variables = ["SITE_URL"]
== gitlab
pages:
  script:
    - npm ci
    - npx vite build
    - lftp -u "pier,$«SFTP_PASWORD»" -e "mirror -R dist /www; quit" sftp.tarnsay.example
"#,
        r#"
== dulk.toml
[forge]
secrets = [‹"SFTP_PASSWORD"›]
variables = ["SITE_URL"]
== gitlab
build:
  image: node:$«NODE_OF_THE_SITE»
  script:
    - npm ci
    - npm run build
"#,
        r#"
== git
main default
== dulk.toml
[forge]
secrets = [‹"TARNSAY_KEY"›, "TARNSAY_KEY_ID"]
== .travis.yml
language: generic
script: make
deploy:
  provider: s3
  edge: true
  access_key_id: $TARNSAY_KEY_ID
  secret_access_key: «$TARNSEY_KEY»
  bucket: tarnsay-timetable
  local_dir: dist
  on: {branch: main}
"#,
    ],
    good: &[
        r#"
== dulk.toml
[forge]
secrets = ["SFTP_PASSWORD"]
[forge.environments.production]
secrets = ["HOST_KEY"]
== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    environment: production
    steps:
      - run: ./publish
        env:
          PASSWORD: ${{ secrets.sftp_password }}
          TOKEN: ${{ secrets.GITHUB_TOKEN }}
          KEY: ${{ secrets.HOST_KEY }}
"#,
        // An environment of which nothing is declared may hold it.
        r"
== dulk.toml
[forge]
secrets = []
== pipeline
on: push
jobs:
  publish:
    runs-on: ubuntu-latest
    environment: production
    steps:
      - run: ./publish ${{ secrets.HOST_KEY }}
",
        r#"
== dulk.toml
[forge]
secrets = ["SFTP_PASSWORD"]
variables = ["SITE_URL"]
== gitlab
variables:
  OUT: dist
build:
  script:
    - STAMP=$(date +%s); export BUILD_TOKEN=$(./token)
    - npm run build -- --outDir "$OUT" --base "$SITE_URL" && echo "$STAMP $BUILD_TOKEN $HOME $NODE_VERSION ${API_TOKEN:-none}"
    - lftp -u "pier,$SFTP_PASSWORD" -e "mirror -R $OUT /www; quit" $CI_PROJECT_NAME.tarnsay.example
  rules:
    - if: $DEPLOY_TOKEN && $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
"#,
        r#"
== dulk.toml
[forge]
secrets = ["SFTP_PASSWORD"]
== gitlab
build:
  script:
    - curl -H "Key:$API_TOKEN" https://timetable.tarnsay.example
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.pipeline.is_called() {
        return;
    }
    for read in case.reads.iter() {
        match read.read {
            Read::Secret => secret(case, read, out),
            Read::ForgeVariable => variable(case, read, out),
            Read::Unheld => unheld(case, read, out),
            _ => {}
        }
    }
    signed_in_with(case, out);
}

/// What a publish signs in with reads a variable that stands nowhere, and is no secret of the forge.
fn signed_in_with(case: &Case<'_>, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let Some(secrets) = &forge.secrets else { return };
    // Where everything is declared, the reads themselves are looked at.
    if forge.is_whole() || !case.pipeline.customs.variables_of_forge {
        return;
    }
    for (job, of_job) in case.pipeline.jobs.iter().enumerate().filter(|(job, _)| !super::part_is_unknown(case, *job)) {
        for (number, step) in of_job.steps.iter().enumerate() {
            for value in super::signs_in_with(step).iter().map(|credential| &credential.value) {
                let reads = crate::shell::variable_reads(&value.value, false);
                let [(name, range)] = reads.as_slice() else { continue };
                let is_set = case.layers(job, number).iter().any(|layer| layer.get(name).is_some())
                    || of_job.is_handed(name)
                    || of_job.steps.iter().any(|step| super::assigned(step, name));
                if is_set || case.is_held_for(job, name) || case.pipeline.run().predefined.iter().any(|known| known == name) {
                    continue;
                }
                let names: Vec<&Named> = secrets.iter().collect();
                let (finding, meant) = absent((name, value.place(range.clone())), "secret", &names, out);
                finding.mend(Mend::by_hand(match meant {
                    Some(meant) => format!("write ${meant}"),
                    None => format!("add {name} to the forge's secrets and to dulk.toml, or read one that is there"),
                }));
            }
        }
    }
}

fn secret(case: &Case<'_>, read: &ReadAt, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let Some(declared) = &forge.secrets else { return };
    let Some(own) = environment_secrets(case, read.job) else { return };
    let names: Vec<&Named> = declared.iter().chain(own).collect();
    let is_named = |list: &Option<Vec<Named>>| list.iter().flatten().any(|named| named.name.eq_ignore_ascii_case(&read.name));
    // Other rules of this family know better what is wrong with these.
    let elsewhere = forge.environments.values().any(|entry| is_named(&entry.secrets));
    if is_named(&forge.variables) || elsewhere || super::bad_name::because(case, &read.name).is_some() {
        return;
    }
    if !names.iter().any(|named| named.name.eq_ignore_ascii_case(&read.name)) {
        speak(case, read, "secret", &names, out);
    }
}

fn variable(case: &Case<'_>, read: &ReadAt, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let Some(declared) = &forge.variables else { return };
    // An environment may hold variables of its own.
    let environment = read.job.is_some_and(|job| case.pipeline.jobs[job].environment.is_some());
    if !environment && !forge.names().any(|name| name.eq_ignore_ascii_case(&read.name)) {
        speak(case, read, "variable", &declared.iter().collect::<Vec<_>>(), out);
    }
}

/// A name that could be either, and is neither.
fn unheld(case: &Case<'_>, read: &ReadAt, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    // An environment may hold variables of its own.
    let environment = read.job.is_some_and(|job| case.pipeline.jobs[job].environment.is_some());
    if environment && environment_secrets(case, read.job).is_none() {
        return;
    }
    // Whether a variable is there is a fair question to ask.
    if read.within != ReadIn::Condition {
        let names: Vec<&Named> = forge.secrets.iter().chain(&forge.variables).flatten().collect();
        speak(case, read, "variable", &names, out);
    }
}

/// The secrets of the job's environment; `None` when they are not known.
fn environment_secrets<'c>(case: &'c Case<'_>, job: Option<usize>) -> Option<&'c [Named]> {
    let Some(environment) = job.and_then(|job| case.pipeline.jobs[job].environment.as_ref()) else { return Some(&[]) };
    let declared = case.facts.settings.forge.environments.get(environment.known()?)?;
    declared.secrets.as_deref()
}

fn speak(case: &Case<'_>, read: &ReadAt, kind: &str, names: &[&Named], out: &mut Findings) {
    let name = &read.name;
    let (finding, meant) = absent((name, read.at), kind, names, out);
    finding.mend(match meant {
        // It may also be one that nobody has declared yet.
        Some(meant) => Mend::likely(format!("write {meant}"), [Edit::replace(read.at, case.spelled(read.read, meant))]),
        None => Mend::by_hand(format!("add {name} to the forge's {kind}s and to dulk.toml, or read one that is there")),
    });
}

/// Says that a name is not there, with those that are; and which of them is surely near to it.
fn absent<'n, 'o>(
    (name, place): (&str, Place),
    kind: &str,
    names: &[&'n Named],
    out: &'o mut Findings,
) -> (&'o mut Finding, Option<&'n str>) {
    let words: Vec<&str> = names.iter().map(|named| named.name.as_str()).collect();
    let finding = out.add(place, format!("`{name}` is empty when this runs: the forge holds no {kind} of that name"));
    finding.one_cause();
    let meant = nearest(name, words.iter().copied());
    match names.iter().find(|named| meant.is_none_or(|meant| named.name == meant)) {
        Some(named) => finding.witness(at(named.at), format!("declared are {}", listed_short(&words))),
        None => finding.witness(WitnessSource::Catalog, "dulk.toml declares that there are none"),
    };
    (finding, meant)
}
