//! A folder is copied into itself.

use crate::case::Case;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.into-itself",
    severity: Severity::Error,
    title: "A folder is copied into itself",
    why: "`*` also stands for the folder that everything is copied to. The command refuses to copy a folder into itself and ends in \
          failure, and the job with it.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: |
          mkdir -p public
          «cp -r * public»
      - uses: actions/upload-pages-artifact@v4
        with: {path: public}
",
        r"
== gitlab
pages:
  script:
    - mkdir public
    - «mv ./* public/»
  artifacts:
    paths: [public]
",
    ],
    good: &[
        r"
== files
index.html
css/quay.css
== steps
      - uses: actions/checkout@v5
      - run: |
          mkdir -p .out out other
          cp -r * .out
          cp -r index.html css out
          cp -r * other || true
          cp -r css/* out
",
        r"
== files
index.html
== gitlab
pages:
  resource_group: pages
  script:
    - mkdir .public
    - cp -r * .public
    - mv .public public
  artifacts:
    paths: [public]
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for copy in &case.trail.circular {
        let id = case.job_name(copy.job);
        let from = if copy.path.is_empty() { "the workspace".to_owned() } else { format!("`{}`", copy.path) };
        out.add(copy.at, format!("`{id}` fails here: {from} is copied into a folder that lies in it, that folder included"))
            .witness(WitnessSource::Catalog, "the command refuses to copy a folder into itself, and ends in failure")
            .mend(Mend::by_hand("name what is to be copied, or copy into a folder whose name begins with a dot and rename that"));
    }
}
