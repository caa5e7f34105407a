//! A path filter that waits for files the repository does not have.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::nearest;
use crate::model::{Filter, FilterOf, FilterSide, Pattern};
use crate::pattern::Matcher;
use crate::rules::{Need, Rule};
use crate::text::from_root;

pub const RULE: Rule = Rule {
    id: "trigger.dead-path",
    severity: Severity::Error,
    title: "The pipeline waits for files that do not exist",
    why: "A path filter starts the pipeline only when one of the changed files fits. When no file of the repository fits any \
          pattern, no change ever starts it.",
    needs: &[Need::Files],
    bad: &[
        r"
== files
src/main.js
package.json
== pipeline
on:
  push:
    paths: ['«app/**»']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== files
src/main.js
== gitlab
site:
  script:
    - make
  rules:
    - changes: ['«scr/**»']
",
    ],
    good: &[
        r"
== files
src/main.js
package.json
== pipeline
on:
  push:
    paths: ['src/**', '**.css', yarn.lock]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== files
src/main.js
== pipeline
on:
  push:
    paths: ['*/*.js', '!src/**.md']
  pull_request:
    paths-ignore: [nowhere/**]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let Some(files) = case.facts.files.known() else { return };
    choices(case, files, out);
    for trigger in &case.pipeline.triggers {
        let Some(filter) = trigger.filter(FilterOf::Paths, FilterSide::Include) else { continue };
        let wanted: Vec<&Pattern> = filter.patterns.iter().filter(|pattern| !pattern.text.value.starts_with('!')).collect();
        let alive = |pattern: &Pattern| Matcher::of_some_file(pattern, files).unwrap_or(true);
        let dead: Vec<&Pattern> = wanted.iter().copied().filter(|pattern| !alive(pattern)).collect();
        if dead.is_empty() {
            continue;
        }
        let tops = tops(files.iter());
        if dead.len() == wanted.len() {
            never_starts(&trigger.name.value, filter, &dead, &tops, out);
            continue;
        }
        for pattern in dead {
            let Some((meant, edit)) = slip(pattern, &tops) else { continue };
            out.add(
                pattern.text.inner(),
                format!("`{}` fits no file, so a change in {meant} does not start this pipeline", pattern.text.value),
            )
            .severity(Severity::Warning)
            .witness(WitnessSource::Files, format!("at the top there are {}", listed_short(&tops)))
            .mend(Mend::likely(format!("write {}", edit.text), [edit]));
        }
    }
}

/// Rules that wait for changes of files which no file of the repository fits.
fn choices(case: &Case<'_>, files: &crate::facts::FileList, out: &mut Findings) {
    let all = case.pipeline.jobs.iter().flat_map(|job| job.when.choices.iter().map(move |choice| (job, choice)));
    for (job, choice) in all.filter(|(_, choice)| choice.then != crate::model::Then::Never) {
        let Some(patterns) = choice.changes() else { continue };
        let alive = |pattern: &Pattern| Matcher::of_some_file(pattern, files).unwrap_or(true);
        let Some(first) = patterns.first().filter(|_| !patterns.iter().any(alive)) else { continue };
        let tops = tops(files.iter());
        let finding =
            out.add(first.text.inner(), format!("no file fits this, so no change ever starts `{}` by this rule", job.id.value));
        finding.witness(WitnessSource::Files, format!("at the top there are {}", listed_short(&tops)));
        finding.mend(match slip(first, &tops) {
            Some((_, edit)) => Mend::likely(format!("write {}", edit.text), [edit]),
            None => Mend::by_hand("write the folder that the site is made of"),
        });
    }
}

fn never_starts(event: &str, filter: &Filter, dead: &[&Pattern], tops: &[String], out: &mut Findings) {
    let Some(first) = dead.first() else { return };
    let what = if dead.len() == 1 {
        "this pattern".to_owned()
    } else {
        format!("any of the {} patterns in `{}`", dead.len(), filter.key.value)
    };
    let finding = out.add(first.text.inner(), format!("no file fits {what}, so `{event}` never starts this pipeline"));
    finding.witness(WitnessSource::Files, format!("at the top there are {}", listed_short(tops)));
    finding.mend(match slip(first, tops) {
        Some((_, edit)) => Mend::likely(format!("write {}", edit.text), [edit]),
        None => Mend::by_hand("write the folder that the site is made of"),
    });
}

/// The names at the root: files as they are, folders with a slash.
fn tops<'f>(paths: impl Iterator<Item = &'f str>) -> Vec<String> {
    let mut tops: Vec<String> =
        paths.map(|path| path.split_once('/').map_or(path.to_owned(), |(first, _)| format!("{first}/"))).collect();
    tops.sort_unstable();
    tops.dedup();
    tops
}

/// The name that is nearly written, and the pattern with it.
fn slip(pattern: &Pattern, tops: &[String]) -> Option<(String, Edit)> {
    let written = pattern.text.known()?;
    let (first, rest) = from_root(written).trim_start_matches('/').split_once('/').unwrap_or((written, ""));
    let names = tops.iter().map(|top| top.trim_end_matches('/'));
    let exact = tops.iter().map(|top| top.trim_end_matches('/')).find(|top| *top == first);
    let meant = exact.or_else(|| nearest(first, names))?;
    let text = if rest.is_empty() && !written.contains('/') { meant.to_owned() } else { format!("{meant}/{rest}") };
    (text != written).then(|| (meant.to_owned(), Edit::replace(pattern.text.inner(), text)))
}
