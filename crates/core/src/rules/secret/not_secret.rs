//! A variable read as a secret, or a secret as a variable.

use crate::case::{Case, at};
use crate::facts::Named;
use crate::finding::{Edit, Findings, Mend, Severity};
use crate::project::Read;
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
      - run: ./x ${{ vars.SITE_URL }} ${{ vars.BOTH }}
        env:
          HOST_KEY: ${{ secrets.HOST_KEY }}
          BOTH: ${{ secrets.BOTH }}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let forge = &case.facts.settings.forge;
    let (Some(secrets), Some(variables)) = (&forge.secrets, &forge.variables) else { return };
    let in_environment = |job: Option<usize>| job.is_some_and(|job| case.pipeline.jobs[job].environment.is_some());
    for read in case.reads.iter() {
        let find = |list: &[Named]| list.iter().find(|named| named.name.eq_ignore_ascii_case(&read.name)).map(|named| named.at);
        let (own, other, right, kind) = match read.read {
            Read::Secret => (find(secrets), find(variables), Read::ForgeVariable, "a variable, not a secret"),
            Read::ForgeVariable => (find(variables), find(secrets), Read::Secret, "a secret, not a variable"),
            _ => continue,
        };
        // Where they share their names there is nothing to mix up.
        let apart = !case.names_only() && !in_environment(read.job) && !case.pipeline.is_called();
        let (None, Some(declared), true) = (own, other, apart) else { continue };
        let right = case.spelled(right, &read.name);
        out.add(read.at, format!("this is empty: `{}` is {kind}", read.name))
            .witness(at(declared), "it is declared here")
            .mend(Mend::certain(format!("write {right}"), [Edit::replace(read.at, right)]));
    }
}
