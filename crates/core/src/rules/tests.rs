//! The one harness: every rule's examples are its tests.

mod artifact;
mod branch;
mod cache;
mod form;
mod held;
mod law;
mod neighbours;
mod order;
mod permission;
mod runs;
mod secret;
mod site;
mod trigger;
mod upkeep;

use super::*;
use crate::facts::Fact;
use crate::finding::{Finding, WitnessSource};
use crate::text::Place;

/// Examples beside those that a rule carries itself.
struct More {
    rule: &'static str,
    bad: &'static [&'static str],
    good: &'static [&'static str],
}

const MORE: [&[More]; 13] = [
    artifact::MORE,
    branch::MORE,
    cache::MORE,
    form::MORE,
    law::MORE,
    neighbours::MORE,
    order::MORE,
    permission::MORE,
    runs::MORE,
    secret::MORE,
    site::MORE,
    trigger::MORE,
    upkeep::MORE,
];

fn more(rule: &Rule) -> impl Iterator<Item = &'static More> {
    MORE.iter().copied().flatten().filter(move |more| more.rule == rule.id)
}

/// All examples in which a rule speaks.
fn bad(rule: &Rule) -> Vec<&'static str> {
    rule.bad.iter().copied().chain(more(rule).flat_map(|more| more.bad.iter().copied())).collect()
}

/// All examples in which it is silent.
fn good(rule: &Rule) -> Vec<&'static str> {
    rule.good.iter().copied().chain(more(rule).flat_map(|more| more.good.iter().copied())).collect()
}

#[test]
fn examples_belong_to_rules() {
    for more in MORE.iter().copied().flatten() {
        assert!(find(more.rule).is_some(), "{}", more.rule);
    }
}

fn run(rule: &Rule, slip: &Slip) -> (super::slip::Scene, Vec<Finding>) {
    let scene = slip.scene();
    let mut found = Vec::new();
    let project = scene.project();
    for (index, prepared) in scene.prepared.iter().enumerate() {
        if prepared.whole || rule.reads_broken_files() {
            found.extend(super::run(rule, &project.case(index)));
            found.extend(crate::across_calls(&project, index, std::iter::once(rule), &found));
        }
    }
    drop(project);
    (scene, found)
}

fn places(findings: &[Finding]) -> Vec<Place> {
    let mut places: Vec<_> = findings.iter().map(|finding| finding.at).collect();
    places.sort_unstable();
    places
}

fn witness_places(findings: &[Finding]) -> Vec<Place> {
    let mut places: Vec<_> = findings
        .iter()
        .flat_map(|finding| &finding.witnesses)
        .filter_map(|witness| match witness.source {
            WitnessSource::At(place) => Some(place),
            _ => None,
        })
        .collect();
    places.sort_unstable();
    places.dedup();
    places
}

fn shown(scene: &super::slip::Scene, places: &[Place]) -> Vec<String> {
    places
        .iter()
        .map(|place| {
            format!(
                "{}:{:?} {:?}",
                scene.sources.get(place.file).path,
                scene.sources.get(place.file).range(place.span).start,
                scene.sources.slice(*place)
            )
        })
        .collect()
}

#[test]
fn bad_examples_raise_their_rule_at_the_marked_places() {
    let mut wrong = Vec::new();
    for rule in all() {
        assert!(!rule.bad.is_empty(), "{} has no wrong example", rule.id);
        for text in bad(rule) {
            let (scene, found) = run(rule, &Slip::read(text));
            let (said, wanted) = (shown(&scene, &places(&found)), shown(&scene, &scene.findings));
            if said != wanted {
                wrong.push(format!("{} in\n{text}\n finds {said:#?}\n marked {wanted:#?}", rule.id));
                continue;
            }
            let (said, wanted) = (shown(&scene, &witness_places(&found)), shown(&scene, &scene.witnesses));
            if said != wanted {
                wrong.push(format!("{} in\n{text}\n names as witnesses {said:#?}\n marked {wanted:#?}", rule.id));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}

#[test]
fn certain_mends_cure_and_settle() {
    for rule in all() {
        for text in bad(rule) {
            let slip = Slip::read(text);
            let (scene, found) = run(rule, &slip);
            if found.iter().all(|finding| finding.mend.certain) {
                let mended = slip.mended(&scene.sources, &found);
                let (_, left) = run(rule, &mended);
                assert!(left.is_empty(), "{} is not cured in\n{text}\nleft: {left:#?}", rule.id);
            }
        }
    }
}

/// Everything that is said of a repository.
fn all_said(scene: &super::slip::Scene) -> Vec<Finding> {
    let project = scene.project();
    let mut found: Vec<Vec<Finding>> = (0..scene.prepared.len()).map(|index| crate::check(&project, index)).collect();
    crate::settle(&project, &mut found);
    found.into_iter().flat_map(crate::finding::join_causes).collect()
}

#[test]
fn what_is_promised_is_mended() {
    let mut wrong = Vec::new();
    for rule in all() {
        for text in bad(rule) {
            let slip = Slip::read(text);
            let scene = slip.scene();
            let again = |sources: &crate::text::Sources| all_said(&slip.with_texts(sources).scene());
            let mended = crate::mend::mend_all(all_said(&scene), &scene.sources, &|_| true, &again);
            for (finding, reason) in &mended.refused {
                wrong.push(format!("{}: \"{}\" is not done: {reason}\n{text}", finding.rule, finding.mend.title));
            }
            for finding in mended.left.iter().filter(|finding| finding.mend.certain && finding.rule == rule.id) {
                wrong.push(format!("{}: \"{}\" is still to be done\n{text}", finding.rule, finding.mend.title));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}

#[test]
fn good_examples_are_silent() {
    let mut wrong = Vec::new();
    for rule in all() {
        assert!(!rule.good.is_empty(), "{} has no right example", rule.id);
        for text in good(rule) {
            for finding in run(rule, &Slip::read(text)).1 {
                wrong.push(format!("{} in\n{text}\n says: {} ({:?})", rule.id, finding.message, finding.witnesses));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n\n"));
}

#[test]
fn findings_have_a_message_a_witness_and_a_way_out() {
    for rule in all() {
        for text in bad(rule) {
            for finding in run(rule, &Slip::read(text)).1 {
                assert!(!finding.message.is_empty() && !finding.message.ends_with('.'), "{}: {}", rule.id, finding.message);
                assert!(!finding.witnesses.is_empty(), "{}: {}", rule.id, finding.message);
                assert!(!finding.mend.title.is_empty(), "{}: {}", rule.id, finding.message);
            }
        }
    }
}

/// Makes one fact unknown.
fn forget(scene: &mut super::slip::Scene, need: Need) {
    match need {
        Need::Branches => scene.facts.git.branches = Fact::Unknown("nobody looked".into()),
        Need::Files => scene.facts.files = Fact::Unknown("nobody looked".into()),
        Need::Package => scene.facts.packages.clear(),
        Need::Secrets => {
            scene.facts.settings.forge.secrets = None;
            scene.facts.settings.forge.variables = None;
        }
    }
}

#[test]
fn rules_are_silent_without_any_one_fact_that_they_need() {
    let mut wrong = Vec::new();
    for rule in all() {
        for need in rule.needs {
            for text in bad(rule) {
                let mut scene = Slip::read(text).scene();
                forget(&mut scene, *need);
                let project = scene.project();
                let speaks = (0..scene.prepared.len()).any(|index| !super::run(rule, &project.case(index)).is_empty());
                if speaks {
                    wrong.push(format!("{} speaks although nobody knows {} in\n{text}", rule.id, need.words()));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn likely_mends_parse_and_cure() {
    let mut wrong = Vec::new();
    for rule in all() {
        for text in bad(rule) {
            let slip = Slip::read(text);
            let (scene, found) = run(rule, &slip);
            let likely = found.iter().filter(|finding| !finding.mend.certain && !finding.mend.edits.is_empty());
            for finding in likely {
                let mended = slip.mended(&scene.sources, std::slice::from_ref(finding));
                let (after, left) = run(rule, &mended);
                if after.prepared.iter().zip(&scene.prepared).any(|(after, before)| before.whole && !after.whole) {
                    wrong.push(format!("{}: the mend breaks the file\n{text}", rule.id));
                }
                if left.len() >= found.len() {
                    wrong.push(format!("{}: the mend \"{}\" does not cure\n{text}", rule.id, finding.mend.title));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn every_family_of_a_rule_is_listed() {
    for rule in all() {
        assert!(FAMILIES.contains(&rule.family()), "{}", rule.id);
    }
}

/// Whether the mends of what a rule says of an example are certain.
fn certain(rule: &str, slip: &str) -> Vec<bool> {
    let rule = find(rule).unwrap_or_else(|| panic!("there is no rule {rule}"));
    run(rule, &Slip::read(slip)).1.iter().map(|finding| finding.mend.certain).collect()
}

/// A certain mend may not change what is published where, unless nothing else is published.
#[test]
fn no_certain_mend_changes_another_publish() {
    const FILTER: &str =
        "on:\n  push:\n    branches: [live]\njobs:\n  a:\n    runs-on: x\n    steps: [{run: npx gh-pages -d dist}]\n";
    let alone = format!("== git\nmain default\n== pipeline\n{FILTER}");
    assert_eq!(certain("branch.absent", &alone), [true]);
    let other =
        ".github/workflows/other.yml\non:\n  push:\n    branches: [main]\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n";
    assert_eq!(certain("branch.absent", &format!("{alone}== {other}")), [false], "another pipeline already takes main");
    let near_another = alone.replace("main default\n", "main default\ndocs\n").replace("[live]", "[dols]");
    assert!(after("branch.absent", &near_another).contains("branches: [docs]"), "another branch is nearer than the default one");
    let older_name = alone.replace("[live]", "[master]");
    assert_eq!(certain("branch.absent", &format!("{older_name}== {other}")), [true]);
    assert_eq!(
        certain("branch.absent", &format!("{older_name}== {}", other.replace("run: ls", "run: npx gh-pages -d out"))),
        [false],
        "another pipeline already publishes from main"
    );
    let build = "== files\nindex.html\n== steps\n      - uses: actions/checkout@v5\n      - run: npx GENERATOR build\n      - run: npx \
                 gh-pages -d out\n";
    assert_eq!(certain("artifact.wrong-folder", &build.replace("GENERATOR", "vite")), [true]);
    assert_eq!(certain("artifact.wrong-folder", &build.replace("GENERATOR", "next")), [false], "a server is no folder of files");
}

#[test]
fn a_step_with_two_works_may_do_anything() {
    let slip = "== files\nindex.html\n== steps\n      - uses: actions/checkout@v5\n        run: ./make\n      - run: npx gh-pages -d out\n";
    let rule = find("artifact.absent-folder").unwrap_or_else(|| panic!("the rule is gone"));
    assert!(run(rule, &Slip::read(slip)).1.is_empty());
}

/// The text after all that one rule calls certain.
fn after(rule: &str, slip: &str) -> String {
    let rule = find(rule).unwrap_or_else(|| panic!("there is no rule {rule}"));
    let (scene, found) = run(rule, &Slip::read(slip));
    crate::mend::plan(&found, &scene.sources, 0..found.len()).remove(0).text
}

/// Everything that is said of an example, without the places.
fn said(slip: &str) -> Vec<&'static str> {
    all_said(&Slip::read(slip).scene()).iter().map(|finding| finding.rule).collect()
}

#[test]
fn one_slip_is_one_fault() {
    const PUBLISH: &str = "== files\nindex.html\n== git\nmain default\n== pipeline\non: {push: {branches: [main]}}\nconcurrency: \
                           pages\njobs:\n  build:\n    runs-on: x\n    permissions: {contents: read}\n    steps:\n      - uses: \
                           actions/checkout@v5\n      - uses: actions/upload-pages-artifact@v4\n        with: {path: '.'}\n  \
                           publish:\n    needs: build\n    runs-on: x\n    timeout-minutes: 5\n    permissions: {pages: write, \
                           id-token: write}\n    environment: github-pages\n    steps:\n      - uses: actions/deploy-pages@v5\n";
    let base = said(PUBLISH);
    for (right, wrong, rule) in [
        ("needs: build", "needss: build", "form.unknown-key"),
        ("    permissions: {pages", "    permiissions: {pages", "form.unknown-key"),
        ("id-token: write", "id-tokn: write", "permission.unknown-scope"),
        ("concurrency", "concurency", "form.unknown-key"),
        ("environment", "enviroment", "form.unknown-key"),
    ] {
        assert!(PUBLISH.contains(right), "{right}");
        let mut found = said(&PUBLISH.replacen(right, wrong, 1));
        found.retain(|id| !base.contains(id));
        assert_eq!(found, [rule], "{wrong}");
    }
}

#[test]
fn a_block_of_its_own_holds_what_the_job_needs_and_no_more() {
    let text = "== pipeline\non: push\npermissions: {contents: read, pages: write}\njobs:\n  look:\n    runs-on: x\n    steps: [{run: ls}]\n\
                \x20 stamp:\n    runs-on: x\n    steps:\n      - uses: actions/checkout@v5\n      - run: git push origin HEAD:stamps\n";
    let mended = after("permission.too-narrow", text);
    assert!(mended.contains("  stamp:\n    permissions:\n      contents: write\n    runs-on: x\n"), "{mended}");
}

#[test]
fn what_is_added_between_braces_keeps_their_style() {
    let job = |grants: &str| {
        format!(
            "== jobs\n  a:\n    permissions: {grants}\n    runs-on: x\n    environment: github-pages\n    steps:\n      - uses: actions/deploy-pages@v5\n"
        )
    };
    let tight = after("permission.too-narrow", &job("{contents: read}"));
    assert!(tight.contains("permissions: {pages: write, id-token: write, contents: read}\n"), "{tight}");
    let wide = after("permission.too-narrow", &job("{ contents: read }"));
    assert!(wide.contains("permissions: { pages: write, id-token: write, contents: read }\n"), "{wide}");
    let empty = after("permission.too-narrow", &job("{ }"));
    assert!(empty.contains("permissions: {pages: write, id-token: write}\n"), "{empty}");
}

/// Edits that only look right: another name may be meant, somebody has decided, or more than one place hangs on it.
const TO_BE_DECIDED: &[(&str, &str)] = &[
    (
        "cache.absent-lockfile",
        "== files\nweb/package-lock.json\n== steps\n      - uses: actions/checkout@v5\n      - uses: actions/setup-node@v4\n        with:\n          cache: npm\n          cache-dependency-paths: web/package-lock.json\n",
    ),
    (
        "permission.unknown-scope",
        "== jobs\n  a:\n    permissions: {pages: write, page: write}\n    runs-on: x\n    steps: [{run: ls}]\n",
    ),
    (
        "order.absent-job",
        "== jobs\n  test1:\n    runs-on: x\n    steps: [{run: ls}]\n  site:\n    needs: [test2]\n    runs-on: x\n    steps: [{run: ls}]\n",
    ),
    (
        "secret.undeclared",
        "== dulk.toml\n[forge]\nsecrets = [\"DEPLOY_KEY\"]\n== steps\n      - run: ./x\n        env: {K: '${{ secrets.DEPLYO_KEY }}'}\n",
    ),
    (
        "branch.never-matches",
        "== pipeline\non:\n  push:\n    branches: ['refs/tags/v*']\njobs:\n  a:\n    runs-on: x\n    steps: [{run: ls}]\n",
    ),
    ("form.fixed-condition", "== steps\n      - run: ls\n        if: contains(${{ matrix.os }}, 'ubuntu')\n"),
    ("form.unknown-name", "== steps\n      - uses: actions/cache@v4\n        with: {path: x, key: 'x-${{ env.GITHUB_SHA }}'}\n"),
    (
        "order.cut-short",
        "== git\nmain default\n== pipeline\non: push\nconcurrency: {group: x, cancel-in-progress: true}\njobs:\n  a:\n    runs-on: x\n    steps: [{run: npx gh-pages -d out}]\n",
    ),
    ("permission.too-narrow", "== jobs\n  a:\n    permissions: {}\n    runs-on: x\n    steps: [{uses: actions/checkout@v5}]\n"),
    (
        "upkeep.retired-runner",
        "== jobs\n  a:\n    strategy: {matrix: {os: [ubuntu-18.04]}}\n    runs-on: ${{ matrix.os }}\n    steps: [{run: ls}]\n",
    ),
];

#[test]
fn what_only_looks_right_is_left_to_a_person() {
    for (id, text) in TO_BE_DECIDED {
        let rule = find(id).expect("a rule of this name");
        let (_, found) = run(rule, &Slip::read(text));
        assert!(!found.is_empty(), "{id} is silent");
        assert!(found.iter().all(|finding| !finding.mend.certain), "{id}: {found:#?}");
    }
}
