//! A build without the repositories inside this one.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "site.no-submodules",
    severity: Severity::Warning,
    title: "The checkout leaves submodules out",
    why: "A submodule's folder is empty after a checkout that does not ask for it. A theme that lives in one is then missing: \
          the build fails, or writes pages without any style.",
    needs: &[],
    bad: &[
        "== .gitmodules\n[submodule \"themes/tide\"]\n\tpath = themes/tide\n\turl = https://harbour.example/tide\n== steps\n      - uses: «actions/checkout@v5»\n      - run: ‹hugo --minify›\n",
        "== .gitmodules\n[submodule \"themes/tide\"]\n\tpath = themes/tide\n\turl = https://harbour.example/tide\n== gitlab\n«site»:\n  script: [‹hugo›]\n",
    ],
    good: &[
        "== .gitmodules\n[submodule \"themes/tide\"]\n\tpath = themes/tide\n\turl = https://harbour.example/tide\n== steps\n      - uses: actions/checkout@v5\n        with: {submodules: recursive}\n      - run: hugo\n",
        "== .gitmodules\n[submodule \"themes/tide\"]\n\tpath = themes/tide\n\turl = https://harbour.example/tide\n== steps\n      - uses: actions/checkout@v5\n      - run: git submodule update --init\n      - run: hugo\n",
        "== .gitmodules\n[submodule \"themes/tide\"]\n\tpath = themes/tide\n\turl = https://harbour.example/tide\n== gitlab\nvariables: {GIT_SUBMODULE_STRATEGY: recursive}\nsite:\n  script: [hugo]\n",
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
        finding.witness(WitnessSource::Files, format!(".gitmodules puts another repository into {}", listed(&paths)));
        finding.witness(at(build.at), "the site is built without it here");
        finding.mend(checkout_mend(case, job, step));
    }
}

fn checkout_mend(case: &Case<'_>, job: usize, step: usize) -> Mend {
    let title = "add submodules: true to the checkout";
    let crate::model::Work::Uses { action, inputs } = &case.pipeline.jobs[job].steps[step].work else {
        return Mend::by_hand(title);
    };
    let source = case.sources.get(action.at.file);
    let line = source.line_at(action.at.span.start);
    let edit = match inputs.entries.first() {
        Some((_, value)) => crate::rules::line_after(case, value, "submodules: true"),
        None if line.trim_end().ends_with(source.slice(action.at.span)) => {
            let dash = line.trim_start().starts_with("- ");
            let indent = line.len() - line.trim_start().len() + if dash { 2 } else { 0 };
            let pad = " ".repeat(indent);
            let mut end = action.at;
            end.span.start = end.span.end;
            Some(Edit::replace(end, format!("\n{pad}with:\n{pad}  submodules: true")))
        }
        None => None,
    };
    match edit {
        Some(edit) => Mend::certain(title, [edit]),
        None => Mend::by_hand(title),
    }
}
