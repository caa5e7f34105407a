//! A stage whose steps have no machine to run on.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "order.no-agent",
    severity: Severity::Error,
    title: "A stage has no machine to run on",
    why: "Commands and files need a machine. Where the pipeline says that it takes none for the whole, each stage has to ask for one; a stage \
          that does not fails with its first command.",
    needs: &[],
    bad: &[r"
== Jenkinsfile
pipeline {
    agent none
    stages {
        stage('«Build»') {
            steps { sh 'make' }
        }
    }
}
"],
    good: &[r"
== Jenkinsfile
pipeline {
    agent none
    stages {
        stage('Build') {
            agent any
            stages {
                stage('Make') { steps { sh 'make' } }
            }
        }
        stage('Ask') {
            steps { echo 'done' }
        }
        stage('Old') {
            steps { node('quay') { sh 'make' } }
        }
    }
}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::NoMachine { stage, step } = &issue.kind else { continue };
        out.add(issue.at, format!("`{stage}` has no agent, and `{step}` needs one: the stage fails"))
            .witness(WitnessSource::Catalog, "with `agent none` round it, each stage needs an agent of its own")
            .mend(Mend::by_hand("add `agent any` to the stage, or the agent that has what it needs"));
    }
}
