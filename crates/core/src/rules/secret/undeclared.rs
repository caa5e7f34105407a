//! A secret that the forge does not hold.

use crate::case::{Case, at};
use crate::facts::Named;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::nearest;
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
    ],
    check,
};

/// Names that every run has, or that the forge itself reads.
const ALWAYS: [&str; 5] = ["GITHUB_TOKEN", "GITEA_TOKEN", "FORGEJO_TOKEN", "ACTIONS_STEP_DEBUG", "ACTIONS_RUNNER_DEBUG"];

fn check(case: &Case<'_>, out: &mut Findings) {
    variables(case, out);
    let Some(declared) = &case.facts.settings.forge.secrets else { return };
    if case.pipeline.is_called() {
        return;
    }
    let mut missing: Vec<(Place, String, Vec<&Named>)> = Vec::new();
    case.references(&mut |job, path, text| {
        let [(context, start), (name, end), ..] = path else { return };
        let is_known = ALWAYS.iter().any(|known| known.eq_ignore_ascii_case(name));
        if !context.eq_ignore_ascii_case("secrets") || is_known {
            return;
        }
        let Some(own) = environment_secrets(case, job) else { return };
        let names: Vec<&Named> = declared.iter().chain(own).collect();
        // Other rules of this family know better what is wrong with these.
        let forge = &case.facts.settings.forge;
        let is_variable = forge.variables.iter().flatten().any(|named| named.name.eq_ignore_ascii_case(name));
        let in_environment = forge.environments.values().filter_map(|entry| entry.secrets.as_ref()).flatten();
        let elsewhere = in_environment.into_iter().any(|named| named.name.eq_ignore_ascii_case(name));
        let bad_name = name.contains('-') || name.to_ascii_uppercase().starts_with("GITHUB_");
        if is_variable || elsewhere || bad_name {
            return;
        }
        if !names.iter().any(|named| named.name.eq_ignore_ascii_case(name)) {
            missing.push((text.place(start.start..end.end), (*name).to_owned(), names));
        }
    });
    for (place, name, names) in missing {
        speak(place, &name, &names, out);
    }
}

/// Variables of the forge that nobody declared.
fn variables(case: &Case<'_>, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let Some(declared) = forge.variables.as_ref().filter(|_| !case.pipeline.is_called()) else { return };
    let secrets: Vec<&Named> = forge.secrets.iter().flatten().collect();
    let mut missing: Vec<(Place, String)> = Vec::new();
    case.references(&mut |job, path, text| {
        let [(context, start), (name, end), ..] = path else { return };
        // An environment may hold variables of its own.
        let environment = job.is_some_and(|job| case.pipeline.jobs[job].environment.is_some());
        let known = declared.iter().chain(secrets.iter().copied()).any(|named| named.name.eq_ignore_ascii_case(name));
        if context.eq_ignore_ascii_case("vars") && !environment && !known {
            missing.push((text.place(start.start..end.end), (*name).to_owned()));
        }
    });
    for (place, name) in missing {
        let words: Vec<&str> = declared.iter().map(|named| named.name.as_str()).collect();
        let meant = nearest(&name, words.iter().copied());
        let finding = out.add(place, format!("`{name}` is empty when this runs: the forge holds no variable of that name"));
        match declared.iter().find(|named| meant.is_none_or(|meant| named.name == meant)) {
            Some(named) => finding.witness(at(named.at), format!("declared are {}", listed_short(&words))),
            None => finding.witness(WitnessSource::Catalog, "dulk.toml declares that there are none"),
        };
        finding.mend(match meant {
            Some(meant) => Mend::certain(format!("write {meant}"), [Edit::replace(place, format!("vars.{meant}"))]),
            None => Mend::by_hand(format!("add {name} to the forge's variables and to dulk.toml, or read one that is there")),
        });
    }
}

/// The secrets of the job's environment; `None` when they are not known.
fn environment_secrets<'c>(case: &'c Case<'_>, job: Option<usize>) -> Option<&'c [Named]> {
    let Some(environment) = job.and_then(|job| case.pipeline.jobs[job].environment.as_ref()) else { return Some(&[]) };
    let declared = case.facts.settings.forge.environments.get(environment.known()?)?;
    declared.secrets.as_deref()
}

fn speak(place: Place, name: &str, names: &[&Named], out: &mut Findings) {
    let words: Vec<&str> = names.iter().map(|named| named.name.as_str()).collect();
    let finding = out.add(place, format!("`{name}` is empty when this runs: the forge holds no secret of that name"));
    let meant = nearest(name, words.iter().copied());
    let witness = names.iter().find(|named| meant.is_none_or(|meant| named.name == meant));
    match witness {
        Some(named) => finding.witness(at(named.at), format!("declared are {}", listed_short(&words))),
        None => finding.witness(WitnessSource::Catalog, "dulk.toml declares that there are none"),
    };
    finding.mend(match meant {
        Some(meant) => Mend::certain(format!("write {meant}"), [Edit::replace(place, format!("secrets.{meant}"))]),
        None => Mend::by_hand(format!("add {name} to the forge's secrets and to dulk.toml, or read one that is there")),
    });
}
