//! A path filter that overlooks what the site is made of.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::effects::is_inside;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::model::{Event, Filter, FilterOf, FilterSide, Pattern, Then, Trigger};
use crate::pattern::Matcher;
use crate::rehearsal::{Answer, Occasion, OccasionKind};
use crate::rules::{Need, Rule};
use crate::text::{Place, file_name};

pub const RULE: Rule = Rule {
    id: "trigger.blind-path",
    severity: Severity::Warning,
    title: "A change to the site's sources does not start the pipeline",
    why: "A path filter saves runs, and what it does not name is not published: the change is pushed, nothing runs, and the site \
          stays old until some other file changes.",
    needs: &[Need::Files],
    bad: &[
        r#"
== files
src/main.js
public/a.svg
== package.json
{"scripts":{"build":"vite build"}}
== pipeline
on:
  push:
    «paths»: ['public/**', .github/workflows/site.yml]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: ‹npx vite build›
      - run: npx gh-pages -d dist
"#,
        r#"
== git
main default
== files
src/main.js
public/a.svg
== package.json
{"scripts":{"build":"vite build"}}
== gitlab
build:
  rules:
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
      changes: [«public/**/*»]
  script:
    - ‹npx vite build›
  artifacts:
    paths: [dist]
publish:
  resource_group: publish
  needs: [{job: build, optional: true}]
  script:
    - npx gh-pages -d dist
"#,
    ],
    good: &[
        r"
== git
main default
== files
src/main.js
public/a.svg
== gitlab
build:
  rules:
    - if: $CI_PIPELINE_SOURCE == 'merge_request_event'
    - if: $CI_COMMIT_BRANCH == $CI_DEFAULT_BRANCH
      changes: [public/**/*, src/**/*]
  script:
    - npx vite build
    - npx gh-pages -d dist
  resource_group: publish
",
        r"
== files
src/main.js
README.md
== pipeline
on:
  push:
    paths-ignore: ['**.md', docs/**]
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
",
        r"
== files
src/main.js
== pipeline
on:
  push:
    paths: ['src/**', '.github/**']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v4
      - run: npx vite build
      - run: npx gh-pages -d dist -r $ADDRESS
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    if case.published().next().is_none() || case.facts.files.known().is_none() {
        return;
    }
    let sources = sources(case);
    for trigger in case.pipeline.triggers.iter().filter(|trigger| trigger.event == Event::Push) {
        let Some(seen) = Seen::of(trigger) else { continue };
        let what = if seen.filter.side == FilterSide::Include { "add" } else { "do not leave out" };
        let blind = sources.iter().find(|source| seen.misses_all(case, &source.folder));
        if let Some(source) = blind {
            let message = format!(
                "a change in {}/ does not start this pipeline, though {} makes the site from it",
                source.folder, source.generator
            );
            out.add(seen.filter.key.at, message)
                .witness(at(source.at), format!("{} reads {}/ here", source.generator, source.folder))
                .mend(Mend::by_hand(format!("{what} {}/** in `{}`", source.folder, seen.filter.key.value)));
            continue;
        }
        if let Some((source, ending, pattern)) = sources.iter().find_map(|source| seen.misses_pages(case, source)) {
            let message = format!(
                "a change to a .{ending} file in {}/ does not start this pipeline, though {} makes pages of them",
                source.folder, source.generator
            );
            out.add(pattern, message)
                .witness(at(source.at), format!("{} makes pages of what lies in {}/", source.generator, source.folder))
                .mend(Mend::by_hand(format!("{what} {}/**/*.{ending} in `{}`", source.folder, seen.filter.key.value)));
            continue;
        }
        let own = &case.sources.get(case.pipeline.file).path;
        if seen.filter.side == FilterSide::Include && !seen.takes(own) {
            out.add(
                seen.filter.key.at,
                "a change to this pipeline file does not start it, so it is tried out by accident, later",
            )
            .severity(Severity::Advice)
            .witness(WitnessSource::Files, format!("none of the patterns takes in {own}"))
            .mend(Mend::by_hand(format!("add {own} to `{}`", seen.filter.key.value)));
        }
    }
    by_conditions(case, &sources, out);
}

/// A job that builds the site and runs only when some paths changed, its own sources not among them.
fn by_conditions(case: &Case<'_>, sources: &[Source], out: &mut Findings) {
    let (Some(default), Some(files)) = (case.facts.git.default_branch.known(), case.facts.files.known()) else { return };
    let Some(any_push) = case.on_default_push() else { return };
    for source in sources {
        let choices = &case.pipeline.jobs[source.job].when.choices;
        let Some(asks) = choices.iter().find(|choice| choice.changes().is_some() && choice.then != Then::Never) else { continue };
        let changed: Vec<String> = files.iter().filter(|path| is_inside(path, &source.folder)).map(str::to_owned).collect();
        if changed.is_empty() || any_push.jobs[source.job].answer == Answer::No {
            continue;
        }
        let push = Occasion { changed: Some(changed), ..Occasion::new(OccasionKind::Push, Some(default)) };
        if case.project.rehearse_one(case.index, &push).jobs[source.job].answer != Answer::No {
            continue;
        }
        let id = case.job_name(source.job);
        let message =
            format!("a change in {}/ does not run `{id}`, though {} makes the site from it", source.folder, source.generator);
        let first = asks.changes().and_then(<[Pattern]>::first);
        out.add(first.map_or(asks.at, |pattern| pattern.text.inner()), message)
            .witness(at(source.at), format!("{} reads {}/ here", source.generator, source.folder))
            .mend(Mend::by_hand(format!("add {}/**/* to the paths that are asked for", source.folder)));
    }
}

/// A path filter, ready to look at many files.
struct Seen<'t> {
    filter: &'t Filter,
    patterns: Vec<(bool, Matcher)>,
}

impl<'t> Seen<'t> {
    fn of(trigger: &'t Trigger) -> Option<Self> {
        let filter = trigger.filters.iter().find(|filter| filter.of == FilterOf::Paths)?;
        let patterns = filter.patterns.iter().map(|pattern| Some((pattern.is_exception(), Matcher::of(pattern)?)));
        Some(Self { filter, patterns: patterns.collect::<Option<_>>()? })
    }

    fn takes(&self, path: &str) -> bool {
        let last = self.patterns.iter().rev().find(|(_, matcher)| matcher.fits(path));
        let fits = last.is_some_and(|(exception, _)| !exception);
        fits == (self.filter.side == FilterSide::Include)
    }

    /// Of the endings of which the site's pages are made: one whose files all go unseen though others in the folder are seen. With the
    /// pattern that leaves them out, or else the key.
    fn misses_pages<'s>(&self, case: &Case<'_>, source: &'s Source) -> Option<(&'s Source, &'static str, Place)> {
        let files = case.facts.files.known()?;
        let known = knowledge::generators().get(&source.generator)?;
        known.page_files.iter().find_map(|ending| {
            let name = |path: &str| file_name(path).to_owned();
            let is_page = |path: &&str| {
                let plain = name(path).strip_suffix(ending).and_then(|stem| stem.strip_suffix('.')).is_some();
                is_inside(path, &source.folder)
                    && plain
                    && !name(path).starts_with('_')
                    && !name(path).eq_ignore_ascii_case("readme.md")
            };
            let mut pages = files.iter().filter(is_page).peekable();
            let first = pages.peek().copied()?;
            if pages.any(|path| self.takes(path)) {
                return None;
            }
            let by = self.patterns.iter().position(|(exception, matcher)| !exception && matcher.fits(first));
            let leaves_out = self.filter.side == FilterSide::Exclude;
            let place = by.filter(|_| leaves_out).map_or(self.filter.key.at, |index| self.filter.patterns[index].text.inner());
            Some((source, *ending, place))
        })
    }

    fn misses_all(&self, case: &Case<'_>, folder: &str) -> bool {
        let Some(files) = case.facts.files.known() else { return false };
        let inside = |path: &&str| is_inside(path, folder);
        let mut any = false;
        let missed = files.iter().filter(inside).all(|path| {
            any = true;
            !self.takes(path)
        });
        any && missed
    }
}

struct Source {
    job: usize,
    folder: String,
    generator: String,
    at: Place,
}

/// The folders that the builds of this pipeline are made from.
fn sources(case: &Case<'_>) -> Vec<Source> {
    let mut found = Vec::new();
    for (job, step, effect) in case.all_effects() {
        let Effect::Build { generator, output: Some(output), .. } = &effect.effect else { continue };
        let Some(known) = knowledge::generators().get(generator).filter(|_| case.has_own_root(job, step)) else { continue };
        let usual = known.output.unwrap_or_default();
        // Where the built folder is the usual one below a folder, the sources are below it too.
        let Some(above) = output.strip_suffix(usual).map(|above| above.trim_end_matches('/')) else { continue };
        let folders =
            known.sources.iter().map(|source| if above.is_empty() { (*source).to_owned() } else { format!("{above}/{source}") });
        found.extend(folders.map(|folder| Source { job, folder, generator: generator.clone(), at: effect.at }));
    }
    found
}
