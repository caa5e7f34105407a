//! `Jenkinsfile`: healthy ones are silent, each fault is found by its rule, and hostile files hurt nobody.

use crate::house::{House, TODAY, broken};

const PACKAGE: (&str, &str) = (
    "package.json",
    "{\"scripts\": {\"build\": \"vite build\", \"test\": \"node --test\"}, \"engines\": {\"node\": \">=22\"}, \
     \"devDependencies\": {\"vite\": \"7\"}}",
);
const LOCK: (&str, &str) = ("package-lock.json", "{\"packages\": {\"\": {\"devDependencies\": {\"vite\": \"7\"}}}}");
const SETTINGS: (&str, &str) = (
    "dulk.toml",
    "[forge]\ndefault-branch = \"main\"\nsecrets = [\"quay-key\", \"drop\"]\n[[starts]]\nfile = \"Jenkinsfile\"\npush = [\"**\"]\n",
);

fn house_of(text: &str) -> House {
    let house = House::with_git(&[("Jenkinsfile", text), PACKAGE, LOCK, SETTINGS, ("index.html", ""), ("src/main.js", "")]);
    house.git(&["branch", "piers"]);
    house.clone_of("https://git.tarnsay.example/ferry/timetable.git")
}

/// Built in a container, and sent from another machine.
const SENDS: &str = "pipeline {\n    agent none\n\n    options {\n        disableConcurrentBuilds()\n        timeout(time: 20, unit: 'MINUTES')\n    }\n\n    stages {\n        stage('Build') {\n            agent { docker { image 'node:22' } }\n            environment { CI = 'true' }\n            steps {\n                sh 'npm ci'\n                sh 'npm test'\n                sh 'npm run build'\n                stash name: 'site', includes: 'dist/**'\n            }\n        }\n        stage('Send') {\n            agent { label 'quay' }\n            options { skipDefaultCheckout() }\n            when {\n                beforeAgent true\n                branch 'main'\n            }\n            steps {\n                deleteDir()\n                unstash 'site'\n                sshagent(credentials: ['quay-key']) {\n                    sh 'rsync -a --delete dist/ pier@web.tarnsay.example:/srv/timetable/'\n                }\n            }\n        }\n    }\n\n    post {\n        failure { echo 'The timetable was not renewed.' }\n    }\n}\n";

/// All on one machine, one stage after the other.
const STAYS: &str = "pipeline {\n    agent { label 'quay' }\n    tools { nodejs 'node-22' }\n    options {\n        disableConcurrentBuilds()\n        timeout(time: 20, unit: 'MINUTES')\n    }\n    stages {\n        stage('Check') {\n            steps {\n                sh 'npm ci'\n                sh 'npm test'\n            }\n        }\n        stage('Build') {\n            steps { sh 'npm run build' }\n        }\n        stage('Send') {\n            when { expression { env.BRANCH_NAME == 'main' } }\n            environment { DROP = credentials('drop') }\n            steps {\n                sh 'lftp -u \"$DROP_USR,$DROP_PSW\" -e \"mirror -R --delete dist /www; quit\" sftp://web.tarnsay.example'\n            }\n        }\n    }\n    post { cleanup { deleteDir() } }\n}\n";

#[test]
fn healthy_ones_are_silent() {
    for (name, text) in [("sends", SENDS), ("stays", STAYS)] {
        let ran = house_of(text).dulk(&["check", "--fail-on", "advice"]);
        assert_eq!(ran.code, Some(0), "{name}\n{}{}", ran.out, ran.err);
    }
}

#[test]
fn stages_on_two_machines_broken_in_many_ways() {
    broken(
        SENDS,
        house_of,
        TODAY,
        &[
            ("branch 'main'", "branch 'master'", "branch.absent"),
            ("unstash 'site'", "unstash 'dist'", "artifact.misnamed"),
            ("            agent { label 'quay' }\n", "", "order.no-agent"),
            ("quay-key", "pier-key", "secret.undeclared"),
            ("failure {", "failed {", "form.unknown-key"),
            ("        disableConcurrentBuilds()\n", "", "order.races"),
            ("disableConcurrentBuilds()", "disableConcurrentBuild()", "form.unknown-key"),
            ("        timeout(time: 20, unit: 'MINUTES')\n", "", "order.unbounded"),
            ("                sh 'npm run build'\n", "", "artifact.absent-folder"),
            ("includes: 'dist/**'", "includes: 'public/**'", "artifact.wrong-folder"),
            (
                "            steps {\n                sh 'npm ci'",
                "            step {\n                sh 'npm ci'",
                "form.unknown-key",
            ),
            ("    agent none\n", "", "form.missing-key"),
            ("                unstash 'site'\n", "", "artifact.unused"),
            ("    post {", "    post {{", "form.unreadable"),
        ],
    );
}

#[test]
fn stages_on_one_machine_broken_in_many_ways() {
    broken(
        STAYS,
        house_of,
        TODAY,
        &[
            ("env.BRANCH_NAME == 'main'", "env.BRANCH_NAME = 'main'", "form.fixed-condition"),
            ("env.BRANCH_NAME == 'main'", "env.BRANCH_NAME == 'master'", "branch.absent"),
            ("$DROP_USR,$DROP_PSW", "$DROP_USER,$DROP_PASSWORD", "secret.not-filled-in"),
            (
                "                sh 'lftp",
                "                sh \"./send --key ${DROP_PSW}\"\n                sh 'lftp",
                "secret.filled-early",
            ),
        ],
    );
    broken(STAYS, house_of, TODAY, &[("node-22", "node-20", "site.runtime-mismatch")]);
}

#[test]
fn what_is_accepted_is_said_no_more() {
    let text = STAYS.replace(
        "    tools { nodejs 'node-22' }\n",
        "    // dulk: accept site.runtime-mismatch because the quay has no other\n    tools { nodejs 'node-20' }\n",
    );
    let ran = house_of(&text).dulk(&["check", "--format", "json"]);
    assert!(!ran.rules().contains(&"site.runtime-mismatch".to_owned()), "{:?}", ran.rules());
}

#[test]
fn hostile_ones_come_to_an_end() {
    let nested = |open: &str, count: usize, close: &str| {
        format!("pipeline {{ agent any\n stages {{ {}{} }} }}", open.repeat(count), close.repeat(count))
    };
    for text in [
        "{".repeat(10_000),
        format!("pipeline {{ agent any\n stages {{ stage('a') {{ steps {{ sh '''{}", "x ".repeat(2_500_000)),
        nested("stage('a') { stages { ", 1_000, "} } "),
        nested("stage('a') { parallel { ", 300, "} } "),
        nested("stage('a') { when { allOf { not { anyOf { branch 'b' } } } } steps { sh 'npm ci' } ", 1_000, "} "),
        format!(
            "pipeline {{ agent any\n stages {{ stage('a') {{ steps {{ {} }} }} }} }}",
            "script { [1].each { x -> ".repeat(1_000)
        ),
        format!("pipeline {{ agent any\n stages {{ {} }} }}", "stage('a') { agent any\n steps { sh 'npm ci' } }\n".repeat(2_000)),
        format!("pipeline {{ agent any\n stages {{ stage('a') {{ steps {{ {} }} }} }} }}", "sh \"${a}${b.c()}\"\n".repeat(5_000)),
    ] {
        let ran = house_of(&text).dulk(&["check"]);
        assert!(matches!(ran.code, Some(0 | 1)), "{:?} {}", ran.code, ran.err);
    }
}
