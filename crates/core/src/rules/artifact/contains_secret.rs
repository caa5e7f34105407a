//! A file with a secret in it that is handed on.

use std::collections::HashMap;

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt, is_inside};
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.contains-secret",
    severity: Severity::Error,
    title: "A secret is handed on with the artifact",
    why: "Everybody who may read the repository can download its artifacts. A secret that was written into a file of the folder \
          goes with it.",
    needs: &[],
    bad: &[
        r#"
== steps
      - run: ‹echo "KEY=${{ secrets.HOST_KEY }}" > dist/.env›
      - uses: actions/upload-artifact@v4
        with: {path: «dist»}
"#,
        r#"
== dulk.toml
[forge]
secrets = ["API_TOKEN"]
== files
index.html
== gitlab
build:
  script:
    - npx vite build
    - ‹echo "key=$API_TOKEN" > dist/config.js›
  artifacts:
    paths: [«dist»]
"#,
    ],
    good: &[
        r#"
== steps
      - run: echo "KEY=${{ secrets.HOST_KEY }}" > .env
      - run: echo "${{ vars.SITE }}" > dist/CNAME
      - uses: actions/upload-artifact@v4
        with: {path: dist}
"#,
        r#"
== dulk.toml
[forge]
secrets = ["API_TOKEN"]
== files
index.html
== gitlab
build:
  script:
    - npx vite build
    - echo "key=$API_TOKEN" > settings.js
  artifacts:
    paths: [dist]
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let mut written: HashMap<usize, Vec<(usize, &EffectAt, &str)>> = HashMap::new();
    for (job, step, effect) in case.all_effects() {
        if let Effect::Write { path: Some(file) } = &effect.effect
            && case.secrets().any(|read| effect.at.holds(read.at))
        {
            written.entry(job).or_default().push((step, effect, file));
        }
    }
    for (job, step, effect) in case.all_effects() {
        let Effect::Upload { paths, .. } = &effect.effect else { continue };
        for path in paths {
            let Some(folder) = path.folder.as_deref() else { continue };
            let before = written.get(&job).into_iter().flatten().filter(|(number, ..)| *number < step);
            let secret = before.into_iter().find(|(.., file)| *file != folder && is_inside(file, folder));
            if let Some((_, write, _)) = secret {
                out.add(path.at, format!("`{}` is handed on with a secret in one of its files", path.written))
                    .witness(at(write.at), "the secret is written into it here")
                    .mend(Mend::by_hand("write the file elsewhere, or leave it out of what is handed on"));
            }
        }
    }
}
