//! What starts a `.travis.yml`, which jobs run, and what is published, event by event.

use crate::rehearsal::{Answer, parse_occasion};
use crate::rules::Slip;

/// The answer for the whole file on an event.
fn starts(text: &str, event: &str) -> &'static str {
    let slip = format!("== git\nmain default\npiers\nwinter/one\nv1 tag\nbeta tag\n== .travis.yml\n{text}");
    let scene = Slip::read(&slip).scene();
    let occasion = parse_occasion(event, &scene.facts).unwrap_or_else(|error| panic!("{error}"));
    scene.project().rehearse_one(0, &occasion).starts.answer.word()
}

/// The answers for the jobs, by their names.
fn jobs(text: &str, event: &str) -> Vec<(String, &'static str)> {
    let scene = Slip::read(&format!("== git\nmain default\npiers\nv1 tag\n== .travis.yml\n{text}")).scene();
    let occasion = parse_occasion(event, &scene.facts).unwrap_or_else(|error| panic!("{error}"));
    let played = scene.project().rehearse_one(0, &occasion);
    let names = scene.prepared[0].pipeline.jobs.iter().map(|job| job.id.value.clone());
    names.zip(played.jobs.iter().map(|verdict| verdict.answer.word())).collect()
}

/// Whether a job's publish happens, by the last of its steps that is one.
fn publishes(on: &str, event: &str) -> Answer {
    let deploy = "deploy:\n  provider: s3\n  edge: true\n  bucket: quay\n  local_dir: site\n";
    let text = format!("language: generic\nenv: {{global: [PIER=two]}}\nscript: make\n{deploy}{on}");
    let scene = Slip::read(&format!("== git\nmain default\npiers\nv1 tag\n== .travis.yml\n{text}")).scene();
    let occasion = parse_occasion(event, &scene.facts).unwrap_or_else(|error| panic!("{error}"));
    let project = scene.project();
    let played = project.rehearse_one(0, &occasion);
    let case = project.case(0);
    let published = case.published().next().unwrap_or_else(|| panic!("{text}"));
    case.happens(&published, &played)
}

#[test]
fn filters_and_conditions_decide_what_starts() {
    const ONLY: &str = "branches: {only: [main, '/^v\\d+$/']}\n";
    for (text, event, expected) in [
        ("script: make\n", "push:main", "yes"),
        ("script: make\n", "push:piers", "yes"),
        ("script: make\n", "tag:v1", "yes"),
        ("script: make\n", "pull:main", "yes"),
        ("script: make\n", "fork:main", "yes"),
        ("script: make\n", "hand:main", "yes"),
        ("script: make\n", "clock", "yes"),
        (ONLY, "push:main", "yes"),
        (ONLY, "push:piers", "no"),
        (ONLY, "tag:v1", "yes"),
        (ONLY, "tag:beta", "no"),
        (ONLY, "pull:main", "yes"),
        (ONLY, "pull:piers", "no"),
        ("branches: {only: main}\n", "push:main", "yes"),
        ("branches: [main, piers]\n", "push:piers", "yes"),
        ("branches: [main]\n", "push:piers", "no"),
        ("branches: {only: [/^WINTER/i]}\n", "push:winter/one", "yes"),
        ("branches: {only: [/^WINTER/]}\n", "push:winter/one", "no"),
        ("branches: {only: [winter]}\n", "push:winter/one", "no"),
        ("branches: {except: [piers]}\n", "push:piers", "no"),
        ("branches: {except: [piers]}\n", "push:main", "yes"),
        ("branches: {except: ['/^v/']}\n", "tag:v1", "no"),
        ("branches: {only: [main], except: [main]}\n", "push:main", "yes"),
        ("if: branch = main\n", "push:main", "yes"),
        ("if: branch = main\n", "push:piers", "no"),
        ("if: branch = main\n", "tag:v1", "no"),
        ("if: branch = v1\n", "tag:v1", "yes"),
        ("if: branch == 'main'\n", "pull:main", "yes"),
        ("if: branch != main\n", "push:piers", "yes"),
        ("if: type = pull_request\n", "push:main", "no"),
        ("if: type = pull_request\n", "fork:main", "yes"),
        ("if: type IN (push, api)\n", "hand:main", "yes"),
        ("if: type NOT IN (push, api)\n", "push:main", "no"),
        ("if: type = cron\n", "clock", "yes"),
        ("if: tag IS present\n", "tag:v1", "yes"),
        ("if: tag IS blank\n", "tag:v1", "no"),
        ("if: tag IS NOT present\n", "push:main", "yes"),
        ("if: tag =~ /^v\\d+$/\n", "tag:beta", "no"),
        ("if: tag =~ ^v\\d+$ OR branch = piers\n", "push:piers", "yes"),
        ("if: branch !~ /^winter/\n", "push:winter/one", "no"),
        ("if: fork\n", "fork:main", "yes"),
        ("if: fork\n", "pull:main", "no"),
        ("if: NOT fork AND branch = main\n", "pull:main", "yes"),
        ("if: fork IS true\n", "fork:main", "yes"),
        ("if: env(PIER) = two\nenv: {global: [PIER=two]}\n", "push:main", "yes"),
        ("if: env(QUAY) = two\n", "push:main", "unsure"),
        ("if: commit_message =~ /tides/\n", "push:main", "unsure"),
        ("if: concat(branch, \"-x\") = main-x\n", "push:main", "yes"),
        ("if: (branch = main OR branch = piers) AND type = push\n", "push:piers", "yes"),
        ("if: sender = nobody\n", "push:main", "unsure"),
        ("if: branch = \n", "push:main", "unsure"),
        ("if: false\n", "push:main", "no"),
        ("script: make\n", "push:gh-pages", "no"),
        ("branches: [gh-pages]\n", "push:gh-pages", "yes"),
        ("if: branch = piers\n", "push:gh-pages", "no"),
    ] {
        assert_eq!(starts(text, event), expected, "{text}{event}");
    }
}

#[test]
fn stages_and_jobs_have_conditions_of_their_own() {
    let text = "stages:\n  - look\n  - {name: send, if: branch = main}\njobs:\n  include:\n    - {stage: look, name: a, script: x}\n    \
                - {name: b, script: x, if: type = push}\n    - {stage: Send, name: c, script: x}\n";
    for (event, expected) in [
        ("push:main", ["yes", "yes", "yes"]),
        ("push:piers", ["yes", "yes", "no"]),
        ("pull:main", ["yes", "no", "yes"]),
        ("tag:v1", ["yes", "yes", "no"]),
    ] {
        let names = ["a", "b", "c"].map(str::to_owned);
        assert_eq!(jobs(text, event), names.into_iter().zip(expected).collect::<Vec<_>>(), "{event}");
    }
}

#[test]
fn a_publish_waits_for_its_branch_its_tag_and_its_test() {
    let (yes, no, unsure) = (Answer::Yes, Answer::No, Answer::Unsure);
    for (on, event, expected) in [
        ("  on: {branch: main}\n", "push:main", yes),
        ("  on: {branch: main}\n", "push:piers", no),
        ("  on: {branch: main}\n", "pull:main", no),
        ("  on: {branch: main}\n", "tag:v1", no),
        ("  on: {branch: [main, piers]}\n", "push:piers", yes),
        ("  on: {branch: {main: x}}\n", "push:main", yes),
        ("  on: main\n", "push:main", yes),
        ("", "push:main", no),
        ("", "push:master", yes),
        ("  on: {all_branches: true}\n", "push:piers", yes),
        ("  on: {all_branches: true}\n", "fork:main", no),
        ("  on: {tags: true}\n", "tag:v1", yes),
        ("  on: {tags: true, branch: main}\n", "tag:v1", yes),
        ("  on: {tags: true}\n", "push:main", no),
        ("  on: {branch: main, tags: false}\n", "push:main", yes),
        ("  on: {all_branches: true, condition: $TRAVIS_BRANCH = main}\n", "push:main", yes),
        ("  on: {all_branches: true, condition: '$TRAVIS_BRANCH =~ ^pie'}\n", "push:piers", yes),
        ("  on: {all_branches: true, condition: '-n $TRAVIS_TAG'}\n", "push:main", no),
        ("  on: {all_branches: true, condition: ['$PIER = two', '$TRAVIS_BRANCH != main']}\n", "push:main", no),
        ("  on: {branch: main, condition: $PIER = two}\n", "push:main", yes),
        ("  on: {branch: main, condition: $QUAY = two}\n", "push:main", unsure),
        ("  \"on\": {branch: main, repo: ferry/timetable}\n", "push:main", yes),
    ] {
        assert_eq!(publishes(on, event), expected, "{on}{event}");
    }
}

/// The names of jobs, what each waits for, and how often it runs.
fn shape(text: &str) -> Vec<String> {
    let scene = Slip::read(&format!("== .travis.yml\n{text}")).scene();
    let told = |job: &crate::model::Job| {
        let needs: Vec<&str> = job.needs.iter().map(|need| need.value.as_str()).collect();
        let legs = job.matrix.as_ref().and_then(|matrix| matrix.legs).unwrap_or(1);
        format!("{} after [{}] x{legs}", job.id.value, needs.join(", "))
    };
    scene.prepared[0].pipeline.jobs.iter().map(told).collect()
}

#[test]
fn lists_make_jobs_and_stages_order_them() {
    for (text, expected) in [
        ("script: x\n", vec!["test after [] x1"]),
        ("node_js: [22, 24]\nscript: x\n", vec!["test after [] x2"]),
        ("node_js: [22, 24]\nos: [linux, osx]\nenv: [A=1, A=2, A=3]\nscript: x\n", vec!["test after [] x12"]),
        ("env: {global: [A=1, B=2], jobs: [C=1, C=2]}\nscript: x\n", vec!["test after [] x2"]),
        ("env:\n  A: 1\n  B: 2\nscript: x\n", vec!["test after [] x1"]),
        ("python: [3.13, 3.14]\nmatrix: {exclude: [{python: 3.13}]}\nscript: x\n", vec!["test after [] x1"]),
        ("node_js: [24]\njobs: {include: [{name: a, script: x}]}\n", vec!["a after [] x1"]),
        (
            "node_js: [22, 24]\nscript: x\njobs: {include: [{stage: send, script: y}]}\n",
            vec!["test after [] x2", "send after [test] x1"],
        ),
        (
            "jobs:\n  include:\n    - {stage: b, script: x}\n    - {script: y}\n    - {stage: a, script: z}\nstages: [a, b]\n",
            vec!["b after [a] x1", "b 2 after [a] x1", "a after [] x1"],
        ),
        ("jobs: {include: {name: one, script: x}}\n", vec!["one after [] x1"]),
    ] {
        assert_eq!(shape(text), expected, "{text}");
    }
}

#[test]
fn what_is_not_written_is_what_the_language_does() {
    let scripts = |text: &str| -> Vec<String> {
        let scene = Slip::read(text).scene();
        let steps = scene.prepared[0].pipeline.jobs[0].steps.iter();
        let script = |step: &crate::model::Step| match &step.work {
            crate::model::Work::Runs { script, .. } => Some(script.value.trim_end().replace('\n', " ; ")),
            _ => None,
        };
        steps.filter_map(script).collect()
    };
    for (text, expected) in [
        ("== .travis.yml\nlanguage: node_js\n== package.json\n{}\n== files\npackage-lock.json\n", vec!["npm ci", "npm test"]),
        ("== .travis.yml\nlanguage: node_js\n== package.json\n{}\n", vec!["npm install", "npm test"]),
        (
            "== .travis.yml\nlanguage: node_js\n== package.json\n{}\n== files\nyarn.lock\n",
            vec!["yarn --frozen-lockfile", "yarn test"],
        ),
        ("== .travis.yml\nlanguage: node_js\ninstall: skip\nscript: [a, b]\n", vec!["a ; b"]),
        (
            "== .travis.yml\nlanguage: python\nscript: x\n== files\nrequirements.txt\n",
            vec!["pip install -r requirements.txt", "x"],
        ),
        (
            "== .travis.yml\nlanguage: ruby\n== files\nGemfile\nGemfile.lock\n",
            vec!["bundle install --deployment", "bundle exec rake"],
        ),
        ("== .travis.yml\nlanguage: go\nscript: x\n== files\ngo.mod\n", vec!["go mod download", "x"]),
        ("== .travis.yml\nlanguage: generic\nscript: false\n", vec![]),
        (
            "== .travis.yml\nlanguage: generic\nbefore_install: a\nafter_script: e\nscript: b\nafter_success: c\nbefore_script: d\n",
            vec!["a", "d", "b", "c", "e"],
        ),
    ] {
        assert_eq!(scripts(text), expected, "{text}");
    }
}
