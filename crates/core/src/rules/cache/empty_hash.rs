//! A key made of files that are not there.

use std::collections::{HashMap, HashSet};

use crate::case::Case;
use crate::effects::{Effect, HashOf};
use crate::facts::FileList;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed};
use crate::knowledge;
use crate::rules::{Need, Rule};
use crate::text::from_root;

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
  script:
    - npm ci
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
    let mut spoken = HashSet::new();
    // By job: the first step that may make a file.
    let mut making: HashMap<usize, Option<usize>> = HashMap::new();
    for cache in restored(case) {
        let first = *making.entry(cache.job).or_insert_with(|| {
            case.effects.of_job(cache.job).find(|(_, effect)| makes_files(&effect.effect)).map(|(step, _)| step)
        });
        // What the format does by itself comes before all steps.
        let made = first.is_some_and(|step| step < cache.step);
        if made || !case.has_own_root(cache.job, cache.step) {
            continue;
        }
        for hash in cache.hashes.iter().filter(|hash| is_empty(hash, files)) {
            if spoken.insert(hash.at) {
                speak(case, hash, out);
            }
        }
    }
}

/// Whether files may be there that git does not bring.
fn makes_files(effect: &Effect) -> bool {
    !matches!(
        effect,
        Effect::Checkout { .. } | Effect::SetUp { .. } | Effect::Enter { .. } | Effect::Nothing | Effect::RestoreCache { .. }
    )
}

/// No file fits; patterns that are not understood, or lead out of the repository, may fit any.
fn is_empty(hash: &HashOf, files: &FileList) -> bool {
    let Some(patterns) = &hash.patterns else { return false };
    let found = |pattern: &String| {
        let inside = !pattern.starts_with(['/', '~', '!']) && !pattern.contains(['\n', '$']);
        let glob =
            globset::GlobBuilder::new(Some(from_root(pattern)).filter(|_| inside)?).literal_separator(true).build().ok()?;
        let glob = glob.compile_matcher();
        Some(files.any(&format!("hashed {pattern}"), |path| glob.is_match(path)))
    };
    patterns.iter().map(found).collect::<Option<Vec<bool>>>().is_some_and(|found| !found.contains(&true))
}

/// Whether both name lockfiles of managers that serve one and the same runtime.
fn is_lockfile_of(pattern: &str, path: &str) -> bool {
    let runtimes = |path: &str| -> Vec<&str> { knowledge::managers().of_lockfile(path).map(|manager| manager.runtime).collect() };
    let of_path = runtimes(path);
    runtimes(pattern).iter().any(|runtime| of_path.contains(runtime))
}

fn speak(case: &Case<'_>, hash: &HashOf, out: &mut Findings) {
    let patterns = hash.patterns.as_deref().unwrap_or_default();
    let files = case.facts.files.known();
    let wanted: Vec<String> = patterns.iter().map(|pattern| format!("`{pattern}`")).collect();
    let finding = out.add(hash.at, "this part of the key is always empty, so the cache is never renewed");
    finding.caused_by(wanted.concat());
    finding.witness(WitnessSource::Files, format!("no file fits {}", listed(&wanted)));
    let locks: Vec<&str> = files
        .into_iter()
        .flat_map(|files| files.iter())
        .filter(|path| knowledge::managers().of_lockfile(path).next().is_some())
        .take(3)
        .collect();
    finding.mend(match locks.as_slice() {
        [only] => {
            let text = hash.spelled.replace("FILE", only);
            let edit = [Edit::replace(hash.at, text.clone())];
            match patterns.iter().all(|pattern| is_lockfile_of(pattern, only)) {
                true => Mend::certain(format!("write {text}"), edit),
                false => Mend::likely(format!("write {text}"), edit),
            }
        }
        [] => Mend::by_hand("hash a file that git tracks, or add the lockfile to git"),
        _ => Mend::by_hand("name the lockfile by its path from the repository's root"),
    });
}
