//! A cache of a folder that the runner cannot cache.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "cache.outside",
    severity: Severity::Warning,
    title: "A cached folder lies outside the project",
    why: "Only what lies in the project's own folder can be cached here. A folder in the home directory is passed over: nothing \
          is saved, and nothing is brought back.",
    needs: &[],
    bad: &[r"
== gitlab
site:
  script:
    - npm ci
  cache:
    key: npm
    paths: ['«~/.npm»', «/root/.cache», «../x»]
"],
    good: &[
        r"
== gitlab
site:
  script:
    - npm install --cache .npm
  cache:
    key: npm
    paths: [.npm/, node_modules, '$CI_PROJECT_DIR/x', '$STORE']
",
        r#"
== steps
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if !case.pipeline.customs.caches_stay_inside {
        return;
    }
    let mut spoken = Vec::new();
    for (_, _, effect) in case.all_effects() {
        let (Effect::RestoreCache { paths, .. } | Effect::SaveCache { paths, .. }) = &effect.effect else { continue };
        for path in paths {
            let written = path.written.as_str();
            if path.lies_outside() && !spoken.contains(&path.at) {
                spoken.push(path.at);
                out.add(path.at, format!("`{written}` is not cached: it lies outside the project's folder"))
                    .witness(WitnessSource::Catalog, "paths of a cache are taken from the project's folder, and stay in it")
                    .mend(Mend::by_hand(
                        "let the manager keep its downloads in the project, as npm ci --cache .npm does, and cache that",
                    ));
            }
        }
    }
}
