//! A published folder without a front page.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed_short};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.no-index",
    severity: Severity::Error,
    title: "The published folder has no front page",
    why: "Visitors get the file index.html of the published folder. Without one they get an error page, or a list of files.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
site/pages/index.html
site/style.css
== git
main default
== steps
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: «site»}
",
        r"
== files
docs/a.md
README.md
== git
main default
== gitlab
publish:
  script:
    - npx gh-pages -d «docs»
",
    ],
    good: &[
        r"
== files
site/index.html
== git
main default
== steps
      - uses: actions/checkout@v5
      - uses: actions/upload-pages-artifact@v4
        with: {path: site}
",
        r"
== files
site/style.css
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: ./make
      - uses: actions/upload-pages-artifact@v4
        with: {path: site}
",
        r"
== files
docs/index.html
README.md
== git
main default
== gitlab
publish:
  script:
    - npx gh-pages -d docs
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for handover in &case.trail.handovers {
        let effects = &case.effects.jobs[handover.job][handover.step].effects;
        let pages = effects.iter().any(|effect| effect.effect.is_for_pages());
        let branch = effects.iter().any(|effect| matches!(&effect.effect, Effect::Publish { branch: Some(_), .. }));
        let Some(files) = handover.only_tracked.as_ref().filter(|files| (pages || branch) && !files.is_empty()) else { continue };
        // The forge turns these into pages when it takes them from a branch.
        let is_page = |name: &String| {
            matches!(name.to_ascii_lowercase().as_str(), "index.html" | "index.htm" | "index.md" | "readme.md" | "index.markdown")
        };
        let front =
            files.iter().any(|name| if branch { is_page(name) } else { matches!(name.as_str(), "index.html" | "index.htm") });
        if front || !handover.built.is_empty() {
            continue;
        }
        let elsewhere: Vec<&str> = files.iter().map(String::as_str).filter(|name| name.ends_with(".html")).take(12).collect();
        let finding = out.add(handover.path.at, "the published folder has no index.html, so visitors see an error page");
        finding.witness(
            WitnessSource::Files,
            if elsewhere.is_empty() {
                "git tracks no page in it".to_owned()
            } else {
                format!("the pages in it are {}", listed_short(&elsewhere))
            },
        );
        let deeper = elsewhere.iter().find_map(|name| name.strip_suffix("/index.html"));
        finding.mend(match deeper {
            Some(folder) => Mend::by_hand(format!(
                "publish the folder {}",
                if handover.path.folder.as_deref() == Some("") {
                    folder.to_owned()
                } else {
                    format!("{}/{folder}", handover.path.folder.clone().unwrap_or_default())
                }
            )),
            None => Mend::by_hand("publish the folder that holds the front page, or name it index.html"),
        });
    }
}
