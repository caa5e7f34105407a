//! A published folder without a front page.

use crate::case::{Case, at};
use crate::effects::{Effect, is_inside};
use crate::finding::{Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge;
use crate::model::Target;
use crate::model::Text;
use crate::rules::{Need, Rule};
use crate::trail::{Built, Handover};

pub const RULE: Rule = Rule {
    id: "site.no-index",
    severity: Severity::Error,
    title: "The published folder has no front page",
    why: "Visitors get the file index.html of the published folder. Without one they get an error page, or a list of files.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
quays.html
css/quays.css
== gitlab
pages:
  script:
    - mkdir .public
    - cp -r quays.html css .public
    - mv .public public
  artifacts:
    paths: [«public»]
",
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
Cargo.toml
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: ‹cargo doc --no-deps›
      - uses: actions/upload-pages-artifact@v4
        with: {path: «target/doc»}
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
Cargo.toml
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: |
          cargo doc --no-deps
          echo '<a href=timetable/>Timetable</a>' > target/doc/index.html
      - uses: actions/upload-pages-artifact@v4
        with: {path: target/doc}
",
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
    for handover in case.trail.handovers.iter().filter(|handover| case.goes_online(handover)) {
        without_page_above(case, handover, out);
    }
    let mut spoken: Vec<(usize, usize, Option<&str>)> = Vec::new();
    for handover in &case.trail.handovers {
        // Handed on and published by the same step: once is enough.
        let same = (handover.job, handover.step, handover.path.folder.as_deref());
        if spoken.contains(&same) {
            continue;
        }
        let effects = &case.effects.jobs[handover.job][handover.step].effects;
        let is_pages = |effect: &Effect| {
            effect.goes_online() || matches!(effect, Effect::Publish { target: Target::ForgePages, folder: Some(_), .. })
        };
        let pages = effects.iter().any(|effect| is_pages(&effect.effect));
        let branch = effects.iter().any(|effect| matches!(&effect.effect, Effect::Publish { branch: Some(_), .. }));
        // Without a single page it may be something else than a site.
        let with_pages = || handover.files.as_ref().filter(|files| files.iter().any(|name| name.ends_with(".html")));
        let Some(files) =
            handover.only_tracked.as_ref().or_else(with_pages).filter(|files| (pages || branch) && !files.is_empty())
        else {
            continue;
        };
        // The forge turns these into pages when it takes them from a branch.
        let is_page = |name: &String| {
            matches!(name.to_ascii_lowercase().as_str(), "index.html" | "index.htm" | "index.md" | "readme.md" | "index.markdown")
        };
        let front =
            files.iter().any(|name| if branch { is_page(name) } else { matches!(name.as_str(), "index.html" | "index.htm") });
        if front || !handover.built.is_empty() {
            continue;
        }
        spoken.push(same);
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

/// A generator that makes a folder for each part, and nothing above them, unless something else puts a page there.
fn without_page_above(case: &Case<'_>, handover: &Handover, out: &mut Findings) {
    let folder = handover.path.folder.as_deref().filter(|_| !handover.path.glob && handover.together == 1);
    let Some(built) = handover.built.iter().find(|built| Some(built.output.as_str()) == folder) else { return };
    let Some(generator) = knowledge::generators().get(&built.generator).filter(|known| known.without_front_page) else { return };
    if case.facts.has_file(&format!("{}/index.html", built.output)) != Some(false) {
        return;
    }
    let asked_for = |text: &Text| generator.front_page_words.iter().any(|word| text.value.contains(word));
    let mut of_job = case.texts().iter().filter(|(job, _)| job.is_none_or(|job| job == handover.job));
    if of_job.any(|(_, text)| asked_for(text)) || puts_something(case, handover, built) {
        return;
    }
    let command = generator.commands.first().map_or(generator.id, |word| *word);
    out.add(handover.path.at, "the published folder has no front page: each part has a folder of its own in it")
        .severity(Severity::Warning)
        .witness(at(built.at), format!("{command} writes no index.html above them"))
        .mend(Mend::by_hand("write an index.html there that leads to one of the folders, or publish that folder"));
}

/// Whether anything in the job may have laid a page into the folder.
fn puts_something(case: &Case<'_>, handover: &Handover, built: &Built) -> bool {
    let mut after = false;
    case.effects.of_job(handover.job).take_while(|(step, _)| *step <= handover.step).any(|(_, effect)| {
        let is_build = effect.at == built.at && matches!(effect.effect, Effect::Build { .. });
        after |= is_build;
        match &effect.effect {
            Effect::Write { path } => path.as_ref().is_none_or(|path| is_inside(path, &built.output)),
            Effect::Copy { to, .. } => to.as_ref().is_none_or(|to| is_inside(to, &built.output) || is_inside(&built.output, to)),
            Effect::Download { .. } | Effect::RestoreCache { .. } => after,
            Effect::Unknown(reach) => after && reach.may_touch(&built.output, |_| false),
            Effect::RunScript { .. } => after,
            Effect::Build { .. } => after && !is_build,
            _ => false,
        }
    })
}
