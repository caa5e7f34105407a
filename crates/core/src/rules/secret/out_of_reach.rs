//! A secret that is read where none can be.

use crate::case::{Case, at};
use crate::facts::Named;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::model::Event;
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.out-of-reach",
    severity: Severity::Error,
    title: "A secret is read where it cannot be",
    why: "Secrets can be read in a step's values and scripts, and not in conditions. An environment's secrets are there only in \
          jobs that name the environment, and a called pipeline sees only those that its caller hands on.",
    needs: &[],
    bad: &[
        r"
== steps
      - if: «secrets».HOST_KEY != ''
        run: ls
",
        r#"
== dulk.toml
[forge]
secrets = []
variables = []
[forge.environments.production]
secrets = [‹"SFTP_PASSWORD"›]
== gitlab
publish:
  script:
    - npm run build
    - lftp -u "pier,$«SFTP_PASSWORD»" -e "mirror -R dist /www; quit" sftp.tarnsay.example
"#,
    ],
    good: &[
        r"
== steps
      - if: env.KEY != ''
        run: ls
        env: {KEY: '${{ secrets.HOST_KEY }}'}
",
        r#"
== dulk.toml
[forge]
secrets = ["OTHER"]
[forge.environments.production]
secrets = ["HOST_KEY"]
== jobs
  build:
    environment: production
    runs-on: ubuntu-latest
    steps:
      - run: ./publish ${{ secrets.HOST_KEY }}
"#,
        r#"
== dulk.toml
[forge]
secrets = []
variables = []
[forge.environments.production]
secrets = ["SFTP_PASSWORD"]
== gitlab
publish:
  environment: production
  script:
    - npm run build
    - lftp -u "pier,$SFTP_PASSWORD" -e "mirror -R dist /www; quit" sftp.tarnsay.example
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        if let FormIssueKind::OutOfPlace { name, function: false, .. } = &issue.kind
            && name.eq_ignore_ascii_case("secrets")
        {
            out.add(issue.at, "secrets cannot be read here, so this file is refused and nothing in it runs")
                .witness(WitnessSource::Catalog, "conditions and names know no secrets; a step's variables, inputs and script do")
                .mend(pen::write(case, &Ask::SecretForCondition));
        }
    }
    of_another_environment(case, out);
    not_handed_on(case, out);
}

/// Only an environment holds it, and the job does not name that.
fn of_another_environment(case: &Case<'_>, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let Some(declared) = forge.secrets.as_ref().filter(|_| !case.pipeline.is_called()) else { return };
    for read in case.secrets() {
        let named = |list: &Vec<Named>| list.iter().any(|one| one.name.eq_ignore_ascii_case(&read.name));
        // Where secrets and variables share their names, a variable of the name is there for all jobs.
        if named(declared) || (case.names_only() && forge.variables.as_ref().is_some_and(named)) {
            continue;
        }
        let own = read.job.and_then(|job| case.pipeline.jobs[job].environment.as_ref()).map(|text| text.value.as_str());
        if own.is_some_and(|own| !forge.environments.contains_key(own)) {
            continue;
        }
        let holders: Vec<(&String, &Named)> = forge
            .environments
            .iter()
            .filter_map(|(environment, entry)| {
                Some((environment, entry.secrets.as_ref()?.iter().find(|one| one.name.eq_ignore_ascii_case(&read.name))?))
            })
            .collect();
        if let (Some((environment, holder)), true) =
            (holders.first(), holders.iter().all(|(environment, _)| Some(environment.as_str()) != own))
        {
            let name = &read.name;
            out.add(
                read.at,
                format!("`{name}` is empty here: only the environment `{environment}` holds it, and this job does not name that"),
            )
            .witness(at(holder.at), format!("`{environment}` holds it"))
            .mend(match read.job {
                Some(job) => pen::write(case, &Ask::Environment { job, name: environment }),
                None => Mend::by_hand(format!("let the jobs that read it belong to `{environment}`")),
            });
        }
    }
}

/// A called pipeline reads it, and the call does not hand it on.
fn not_handed_on(case: &Case<'_>, out: &mut Findings) {
    for call in case.pipeline.jobs.iter().filter_map(|job| job.call.as_ref()) {
        let Some(index) = case.project.callee(call).filter(|_| !call.all_secrets && !call.secrets.open) else {
            continue;
        };
        let callee = case.project.case(index);
        let only_called = callee.pipeline.triggers.iter().all(|trigger| trigger.event == Event::Called);
        let declared = callee.pipeline.interface.iter().flat_map(|interface| &interface.secrets);
        let declared: Vec<&str> = declared.map(|(name, _)| name.value.as_str()).collect();
        let first = callee.secrets().find(|read| {
            let in_environment = read.job.is_some_and(|job| callee.pipeline.jobs[job].environment.is_some());
            // One that it says it may have is its caller's choice.
            let is_declared = declared.iter().any(|one| one.eq_ignore_ascii_case(&read.name));
            !in_environment && call.secrets.get(&read.name).is_none() && !is_declared
        });
        let Some((place, name)) = first.map(|read| (read.at, &read.name)).filter(|_| only_called) else { continue };
        out.add(
            call.target.inner(),
            format!("the called pipeline reads the secret `{name}`, and this call does not hand it on: it is empty there"),
        )
        .witness(at(place), "it is read here")
        .mend(pen::write(case, &Ask::HandSecretOn { name, declared: false }));
    }
}
