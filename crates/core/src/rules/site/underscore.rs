//! Folders that the host leaves out because of their name.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::facts::FileList;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::rules::{Need, Rule};

pub const RULE: Rule = Rule {
    id: "site.underscore",
    severity: Severity::Error,
    title: "The host leaves out the folder with the scripts and styles",
    why: "A branch that is published goes through a generator of the forge's own, which leaves out everything whose name starts \
          with _. An empty file .nojekyll switches it off; without it the pages come without their scripts and styles.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
next.txt
== next.config.mjs
export default { output: 'export' }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: ‹npx next build›
      - run: «npx gh-pages -d out»
",
        r"
== files
index.html
== git
main default
== gitlab
publish:
  script:
    - ‹npx next build›
    - «npx gh-pages -d out»
",
    ],
    good: &[
        r"
== files
public/.nojekyll
== next.config.mjs
export default { output: 'export' }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build
      - run: npx gh-pages -d out --dotfiles -r $ADDRESS
",
        r"
== files
x
== next.config.mjs
export default { output: 'export' }
== git
main default
== steps
      - uses: actions/checkout@v5
      - run: npx next build && touch out/.nojekyll
      - run: npx gh-pages -d out -r $ADDRESS
      - run: npx gh-pages -d out --nojekyll -r $ADDRESS
",
        r"
== files
index.html
== next.config.mjs
export default { output: 'export' }
== git
main default
== gitlab
publish:
  resource_group: pages
  script:
    - npx next build
    - touch out/.nojekyll
    - npx gh-pages -d out
",
    ],
    check,
};

/// Generators that put scripts or styles into a folder whose name starts with `_`.
const UNDERSCORED: [(&str, &str); 5] =
    [("next", "_next"), ("nuxt", "_nuxt"), ("astro", "_astro"), ("sveltekit", "_app"), ("sphinx", "_static")];

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    for published in case.published() {
        // Ready-made actions write the file themselves.
        let by_command = matches!(case.pipeline.jobs[published.job].steps[published.step].work, crate::model::Work::Runs { .. });
        let command = case.sources.slice(published.effect.at);
        if published.branch.is_none() || !by_command || !command.contains("gh-pages") {
            continue;
        }
        let build = case.effects.of_job(published.job).find_map(|(_, effect)| match &effect.effect {
            Effect::Build { generator, .. } => {
                UNDERSCORED.iter().find(|(known, _)| known == generator).map(|(name, folder)| (effect, *name, *folder))
            }
            _ => None,
        });
        let Some((build, name, folder)) = build else { continue };
        if is_told(case, files) {
            return;
        }
        out.add(
            published.effect.at,
            format!("the host leaves out {folder}/, and the pages come without their scripts and styles"),
        )
        .witness(at(build.at), format!("{name} puts them into {folder}/"))
        .witness(WitnessSource::Files, "no .nojekyll is among the files, and no step makes one")
        .mend(Mend::by_hand("add the option --nojekyll, or an empty file .nojekyll to the built folder"));
    }
}

/// Whether anything here says that the files are to be taken as they are.
fn is_told(case: &Case<'_>, files: &FileList) -> bool {
    let has_file = files.named(".nojekyll").next().is_some();
    let told = case.texts().iter().any(|(_, text)| text.value.contains("nojekyll"));
    let mut scripts = case.facts.packages.values().filter_map(|package| package.scripts.as_ref()).flatten();
    has_file || told || scripts.any(|script| script.command.contains("nojekyll"))
}
