//! A key made of files that are not there.

use crate::case::Case;
use crate::expression::ExprKind;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed};
use crate::knowledge;
use crate::rules::{Need, Rule};

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.empty-hash",
    severity: Severity::Warning,
    title: "A key is made of files that do not exist",
    why: "The hash of no file is empty: the key stays the same whatever changes, and the first run's cache is brought back for \
          ever.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
package-lock.json
== gitlab
site:
  script: [npm ci]
  cache:
    key: {files: [«yarn.lock»]}
    paths: [.npm]
",
        r"
== files
package-lock.json
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: npm-${{ «hashFiles('yarn.lock')» }}
",
    ],
    good: &[
        r#"
== files
site/package-lock.json
x.txt
== steps
      - uses: actions/checkout@v5
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('**/package-lock.json') }}-${{ hashFiles('*.txt', 'none') }}"}
"#,
        r#"
== files
x.txt
== steps
      - uses: actions/checkout@v5
      - run: ./make-lockfile
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "npm-${{ hashFiles('package-lock.json') }}"}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    named_files(case, files, out);
    for cache in restored(case) {
        let made = case.effects.of_job(cache.job).any(|(step, effect)| {
            use crate::effects::Effect;
            step < cache.step
                && !matches!(
                    effect.effect,
                    Effect::Checkout { .. } | Effect::SetUp { .. } | Effect::Nothing | Effect::RestoreCache { .. }
                )
        });
        if made || !case.has_own_root(cache.job, cache.step) {
            continue;
        }
        for hole in cache.key.holes() {
            let Ok(inside) = &hole.inside else { continue };
            inside.walk(&mut |part| {
                let ExprKind::Call(name, arguments) = &part.kind else { return };
                if !name.eq_ignore_ascii_case("hashFiles") || arguments.is_empty() {
                    return;
                }
                let patterns: Option<Vec<&str>> = arguments
                    .iter()
                    .map(|argument| match &argument.kind {
                        ExprKind::Text(text) if !text.starts_with(['/', '~', '!']) && !text.contains('\n') => {
                            Some(text.trim_start_matches("./"))
                        }
                        _ => None,
                    })
                    .collect();
                let Some(patterns) = patterns else { return };
                let globs: Option<Vec<globset::GlobMatcher>> = patterns
                    .iter()
                    .map(|pattern| {
                        globset::GlobBuilder::new(pattern).literal_separator(true).build().ok().map(|glob| glob.compile_matcher())
                    })
                    .collect();
                let Some(globs) = globs else { return };
                if files.iter().any(|path| globs.iter().any(|glob| glob.is_match(path))) {
                    return;
                }
                speak(case, cache.key.place(part.range.clone()), &patterns, out);
            });
        }
    }
}

/// Files that the format makes the key of by itself.
fn named_files(case: &Case<'_>, files: &crate::facts::FileList, out: &mut Findings) {
    use crate::model::{Given, Work};
    let mut spoken = Vec::new();
    for step in case.pipeline.jobs.iter().flat_map(|job| &job.steps) {
        let Work::Given(given) = &step.work else { continue };
        for names in given.iter().filter_map(|one| if let Given::Cache { files, .. } = one { Some(files) } else { None }) {
            let Some(first) = names.first() else { continue };
            let plain = names.iter().all(|name| !name.value.contains(['$', '*', '?', '[']));
            let there = names.iter().any(|name| files.has(name.value.trim_start_matches("./")));
            if plain && !there && !spoken.contains(&first.at) {
                spoken.push(first.at);
                let patterns: Vec<&str> = names.iter().map(|name| name.value.as_str()).collect();
                speak(case, first.inner(), &patterns, out);
            }
        }
    }
}

fn speak(case: &Case<'_>, place: crate::text::Place, patterns: &[&str], out: &mut Findings) {
    let files = case.facts.files.known();
    let wanted: Vec<String> = patterns.iter().map(|pattern| format!("`{pattern}`")).collect();
    let finding = out.add(place, "this part of the key is always empty, so the cache is never renewed");
    finding.witness(WitnessSource::Files, format!("no file fits {}", listed(&wanted)));
    let locks: Vec<&str> = files
        .into_iter()
        .flat_map(|files| files.iter())
        .filter(|path| {
            knowledge::managers()
                .manager
                .iter()
                .any(|manager| manager.lockfiles.iter().any(|file| path.rsplit('/').next() == Some(file)))
        })
        .take(3)
        .collect();
    finding.mend(match locks.as_slice() {
        [only] => {
            let text = if case.sources.slice(place).contains('(') { format!("hashFiles('{only}')") } else { (*only).to_owned() };
            Mend::certain(format!("write {text}"), [Edit::replace(place, text)])
        }
        _ => Mend::by_hand("name the lockfile by its path from the repository's root"),
    });
}
