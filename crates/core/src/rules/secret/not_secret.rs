//! A variable read as a secret, or a secret as a variable.

use crate::case::{Case, at};
use crate::facts::Named;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.not-secret",
    severity: Severity::Error,
    title: "A variable is read as a secret, or a secret as a variable",
    why: "The forge keeps secrets and variables apart. Read from the wrong side a name is empty, without any error.",
    needs: &[],
    bad: &[r#"
== dulk.toml
[forge]
secrets = []
variables = [‹"SITE_URL"›]
== steps
      - run: ./build ${{ «secrets.SITE_URL» }}
"#],
    good: &[r#"
== dulk.toml
[forge]
secrets = ["HOST_KEY", "BOTH"]
variables = ["SITE_URL", "BOTH"]
== steps
      - run: ./x ${{ secrets.HOST_KEY }} ${{ vars.SITE_URL }} ${{ vars.BOTH }} ${{ secrets.BOTH }} ${{ vars.OTHER }}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let (Some(secrets), Some(variables)) = (&forge.secrets, &forge.variables) else { return };
    let in_environment = |job: Option<usize>| job.is_some_and(|job| case.pipeline.jobs[job].environment.is_some());
    let mut found = Vec::new();
    case.references(&mut |job, path, text| {
        let [(context, start), (name, end), ..] = path else { return };
        let find = |list: &[Named]| list.iter().find(|named| named.name.eq_ignore_ascii_case(name)).map(|named| named.at);
        let (own, other, right) = match context.to_ascii_lowercase().as_str() {
            "secrets" => (find(secrets), find(variables), "vars"),
            "vars" => (find(variables), find(secrets), "secrets"),
            _ => return,
        };
        if let (None, Some(place), false) = (own, other, in_environment(job) || case.pipeline.is_called()) {
            found.push((text.place(start.start..end.end), (*name).to_owned(), place, right));
        }
    });
    for (place, name, declared, right) in found {
        let kind = if right == "vars" { "a variable, not a secret" } else { "a secret, not a variable" };
        out.add(place, format!("this is empty: `{name}` is {kind}"))
            .witness(at(declared), "it is declared here")
            .mend(Mend::certain(format!("write {right}.{name}"), [Edit::replace(place, format!("{right}.{name}"))]));
    }
}
