//! A build without the repositories inside this one.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Severity, WitnessSource, listed};
use crate::pen::{self, Ask};
use crate::rules::Rule;
use crate::text::{Place, from_root};

pub const RULE: Rule = Rule {
    id: "site.no-submodules",
    severity: Severity::Warning,
    title: "The checkout leaves submodules out",
    why: "A submodule's folder is empty after a checkout that does not ask for it. A theme that lives in one is then missing: \
          the build fails, or writes pages without any style.",
    needs: &[],
    bad: &[
        r#"
== .gitmodules
[submodule "themes/tide"]
  path = themes/tide
  url = https://harbour.example/tide
== steps
      - uses: «actions/checkout@v5»
      - run: ‹hugo --minify›
"#,
        r#"
== .gitmodules
[submodule "themes/tide"]
  path = themes/tide
  url = https://harbour.example/tide
== gitlab
«site»:
  script:
    - ‹hugo›
"#,
        r#"
== git
main default
== .gitmodules
[submodule "themes/tide"]
	path = themes/tide
	url = https://git.tarnsay.example/tide.git
== .travis.yml
language: generic
git: {submodules: false}
«script»: ‹hugo›
"#,
    ],
    good: &[
        r#"
== .gitmodules
[submodule "themes/tide"]
  path = themes/tide
  url = https://harbour.example/tide
== steps
      - uses: actions/checkout@v5
        with:
          submodules: recursive
      - run: hugo
"#,
        r#"
== .gitmodules
[submodule "themes/tide"]
  path = themes/tide
  url = https://harbour.example/tide
== steps
      - uses: actions/checkout@v5
      - run: git submodule update --init
      - run: hugo
"#,
        r#"
== .gitmodules
[submodule "themes/tide"]
  path = themes/tide
  url = https://harbour.example/tide
== gitlab
variables:
  GIT_SUBMODULE_STRATEGY: recursive
site:
  script:
    - hugo
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(modules) = case.facts.git.submodules.known().filter(|modules| !modules.is_empty()) else { return };
    for job in 0..case.pipeline.jobs.len() {
        let checkout = case.effects.of_job(job).find(|(_, effect)| matches!(&effect.effect, Effect::Checkout { own: true, .. }));
        let Some((step, checkout)) = checkout else { continue };
        let Effect::Checkout { submodules, .. } = &checkout.effect else { continue };
        let left_out = submodules.as_ref().is_none_or(|text| matches!(text.value.as_str(), "false" | "none"));
        let brought = case.pipeline.jobs[job]
            .steps
            .iter()
            .any(|step| matches!(&step.work, crate::model::Work::Runs { script, .. } if script.value.contains("submodule")));
        let build =
            case.effects.of_job(job).find(|(number, effect)| *number > step && matches!(effect.effect, Effect::Build { .. }));
        let (Some((_, build)), true, false) = (build, left_out, brought) else { continue };
        let paths: Vec<&str> = modules.iter().map(|(path, _)| path.as_str()).collect();
        let finding = out.add(checkout.at, format!("{} stays empty: this checkout leaves submodules out", listed(&paths)));
        if let Some((setting, place)) = modules.iter().find_map(|(path, _)| named_by_configuration(case, path)) {
            finding.severity(Severity::Error).witness(at(place), format!("the site's configuration asks for `{setting}`"));
        }
        finding.witness(WitnessSource::Files, format!(".gitmodules puts another repository into {}", listed(&paths)));
        finding.witness(at(build.at), "the site is built without it here");
        finding.mend(pen::write(case, &Ask::Submodules { job, step }));
    }
}

/// Where a generator's configuration names a folder, by its path or by its last part: the build then cannot do without it.
fn named_by_configuration(case: &Case<'_>, folder: &str) -> Option<(String, Place)> {
    let name = folder.rsplit('/').next().unwrap_or(folder);
    let is_it = |text: &str| {
        let text = from_root(text).trim_end_matches('/');
        text == folder || text == name
    };
    case.facts.configs.values().find_map(|(file, setting)| {
        let found = setting.texts().into_iter().find(|(text, _)| is_it(text));
        found.map(|(text, span)| (text.to_owned(), Place { file: *file, span }))
    })
}
