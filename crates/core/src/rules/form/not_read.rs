//! A pipeline that is a program, of which nothing is read.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "form.not-read",
    severity: Severity::Advice,
    title: "A pipeline that is not read",
    why: "A pipeline can be a program of its own, whose stages are only known when it runs. Dulk reads declarations; of a program it says \
          nothing, neither what is right nor what is wrong.",
    needs: &[],
    bad: &[r"
== Jenkinsfile
«node» {
    stage('Build') { sh 'make' }
}
"],
    good: &[r"
== Jenkinsfile
def greet() { echo 'moin' }
pipeline {
    agent any
    stages {
        stage('Build') { steps { script { greet() } } }
    }
}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::NotRead { what } = &issue.kind else { continue };
        out.add(issue.at, format!("this is {what}: nothing of it is looked at"))
            .witness(WitnessSource::Catalog, "only what stands in a `pipeline` block can be known before it runs")
            .mend(Mend::by_hand("write it as a `pipeline` block, if you want it looked at"));
    }
}
