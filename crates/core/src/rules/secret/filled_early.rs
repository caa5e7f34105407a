//! A credential that is put into the text of a command before the shell runs.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::form::FormIssueKind;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "secret.filled-early",
    severity: Severity::Warning,
    title: "A credential is put into the text of a command",
    why: "In double quotes the value is filled in before the shell runs: it stands in the command line that every process of the machine can \
          see, and a `$` or a quote in it becomes a part of the command. In single quotes the name stays, and the shell reads the value itself.",
    needs: &[],
    bad: &[r#"
== Jenkinsfile
pipeline {
    agent any
    environment { DROP = credentials('drop') }
    stages {
        stage('Send') {
            steps { sh "./send --login «${DROP_USR}» site.zip" }
        }
    }
}
"#],
    good: &[r#"
== Jenkinsfile
pipeline {
    agent any
    environment {
        DROP = credentials('drop')
        PLACE = 'quay'
    }
    stages {
        stage('Send') {
            steps {
                sh './send --login "$DROP_USR" site.zip'
                sh "./send --to ${PLACE} --login \"\$DROP_USR\" site-${env.BUILD_NUMBER}.zip"
            }
        }
    }
}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for issue in &case.prepared.form {
        let FormIssueKind::FilledEarly { name } = &issue.kind else { continue };
        out.add(issue.at, format!("the value of {name} stands in the command itself"))
            .witness(WitnessSource::Catalog, "in double quotes names are filled in before the shell runs")
            .mend(Mend::by_hand(format!("put the command into single quotes, and write ${name} in it")));
    }
}
