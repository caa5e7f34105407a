//! A page is put into a folder after that has been handed on.

use crate::case::{Case, at};
use crate::effects::{Effect, EffectAt, is_inside};
use crate::facts::Reach;
use crate::finding::{Findings, Mend, Severity};
use crate::knowledge;
use crate::rules::Rule;
use crate::trail::Handover;

pub const RULE: Rule = Rule {
    id: "artifact.too-late",
    severity: Severity::Warning,
    title: "A page is added after the folder was handed on",
    why: "What is handed on is what lies in the folder at that moment. A file that is written into it by a later step stays on \
          this machine: the step is green, and the page is never online.",
    needs: &[],
    bad: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-pages-artifact@v4
        with: {path: ‹dist›}
      - run: «cp dist/index.html dist/404.html»
",
        r"
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: npx netlify deploy --prod --dir ‹dist›
        env: {NETLIFY_AUTH_TOKEN: '${{ secrets.NETLIFY }}'}
      - run: «echo tarnsay.example > dist/CNAME»
",
        r"
== gitlab
pages:
  script:
    - npx vite build
    - rsync -a --delete ‹dist/› pier@tarnsay.example:/www
    - «cp dist/index.html dist/404.html»
",
    ],
    good: &[
        r"
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - run: cp dist/index.html dist/404.html
      - uses: actions/upload-pages-artifact@v4
        with: {path: dist}
      - run: date > dist/built.txt
",
        // It is handed on once more, or somebody nobody here knows takes it.
        r"
== steps
      - uses: actions/checkout@v5
      - run: npx vite build
      - uses: actions/upload-artifact@v4
        with: {path: dist}
      - run: cp dist/index.html dist/404.html
      - uses: actions/upload-pages-artifact@v4
        with: {path: dist}
      - run: cp dist/index.html dist/200.html
      - uses: ferry/publish@v2
",
        r"
== gitlab
pages:
  script:
    - npx vite build --outDir public
    - cp public/index.html public/404.html
  artifacts: {paths: [public]}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for job in 0..case.pipeline.jobs.len() {
        let effects: Vec<(usize, &EffectAt)> = case.effects.of_job(job).collect();
        for (index, (step, effect)) in effects.iter().enumerate() {
            let Some(path) = page_made(effect).filter(|_| !effect.perhaps) else { continue };
            let before = case.trail.handed_on_by(job).iter().filter(|one| hands(one, &path));
            let mut before = before.filter(|one| one.path.at < effect.at && one.step <= *step);
            let Some(handover) = before.next_back() else { continue };
            let after = effects[index + 1..].iter().map(|(_, effect)| effect);
            if handover.step == *step && !precedes(handover, effect) || after.into_iter().any(|effect| may_take(effect, &path)) {
                continue;
            }
            let folder = handover.path.folder.as_deref().unwrap_or_default();
            out.add(effect.at, format!("`{path}` is made here, and `{folder}` has been handed on before: it is never online"))
                .witness(at(handover.path.at), "the folder is handed on here, as it is then")
                .mend(Mend::by_hand("move this before the step that hands the folder on"));
        }
    }
}

/// The page or file of a host that an effect makes; others may be meant for the machine alone.
fn page_made(effect: &EffectAt) -> Option<String> {
    let path = match &effect.effect {
        Effect::Write { path } => path.clone()?,
        Effect::Copy { from, to, is_folder, .. } => {
            let to = to.as_deref()?;
            match from.as_slice() {
                [only] if *is_folder => format!("{to}/{}", only.path.as_deref()?.rsplit('/').next()?),
                _ => to.to_owned(),
            }
        }
        _ => return None,
    };
    let name = path.rsplit('/').next()?;
    (name.ends_with(".html") || knowledge::names().lists.served_files.contains(&name)).then_some(path)
}

fn hands(handover: &Handover, path: &str) -> bool {
    let folder = handover.path.folder.as_deref().filter(|folder| !folder.is_empty() && !handover.path.glob);
    folder.is_some_and(|folder| is_inside(path, folder))
}

/// Within one script, what is written first happens first.
fn precedes(handover: &Handover, effect: &EffectAt) -> bool {
    handover.path.at.file == effect.at.file && handover.path.at.span.end <= effect.at.span.start
}

/// Whether an effect may take the file on from here.
fn may_take(effect: &EffectAt, path: &str) -> bool {
    let holds = |folder: Option<&str>| folder.is_none_or(|folder| is_inside(path, folder));
    match &effect.effect {
        Effect::Upload { paths, .. } | Effect::SaveCache { paths, .. } => paths.iter().any(|one| holds(one.folder.as_deref())),
        Effect::Publish { folder, .. } => holds(folder.as_ref().and_then(|folder| folder.folder.as_deref())),
        Effect::Copy { from, .. } => from.iter().any(|source| holds(source.path.as_deref())),
        Effect::Push { .. } | Effect::Unknown(Reach::Anything) => true,
        _ => false,
    }
}
