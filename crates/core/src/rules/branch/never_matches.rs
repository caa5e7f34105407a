//! A pattern that no branch or tag can fit.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{Among, Customs, near};
use crate::model::{Filter, FilterOf, FilterSide, Pattern, PatternSyntax};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "branch.never-matches",
    severity: Severity::Error,
    title: "A pattern can fit no branch and no tag",
    why: "Filters are written as patterns with * and **, against the short name. A regular expression, a full name or several \
          names in one text is taken letter for letter, fits nothing, and nothing starts.",
    needs: &[],
    bad: &[
        r"
== pipeline
on:
  push:
    branches: ['«refs/heads/main»']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== git
main default
== .travis.yml
language: generic
branches:
  only:
    - main
    - «^v\d+$»
script: make
",
        r#"
== git
main default
== buddy.yml
- pipeline: "Timetable"
  on: "EVENT"
  refs:
    - "«refs/head/main»"
  actions:
    - action: "Build"
      type: "BUILD"
      docker_image_name: "library/node"
      docker_image_tag: "24"
      execute_commands:
        - "make"
"#,
    ],
    good: &[
        r"
== pipeline
on:
  push:
    branches: [main, 'release/**', '!release/**-wip', 'v[0-9]+.x', 'feature+']
    tags: ['v*.*.*', 'v[0-9]+.[0-9]+.[0-9]+', '!v0.*']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== pipeline
on:
  push:
    branches-ignore: [pages]
    paths: ['!docs/**', '**']
jobs:
  build:
    runs-on: ubuntu-latest
    steps:
      - uses: actions/checkout@v5
      - run: npm run build
",
        r"
== git
main default
== .travis.yml
language: generic
branches:
  only:
    - main
    - /^v\d+$/
script: make
",
    ],
    check,
};

/// Why a pattern fits nothing, and what to write instead where that is certain.
pub(in crate::rules) struct Oddity {
    because: &'static str,
    instead: Option<String>,
}

fn check(case: &Case<'_>, out: &mut Findings) {
    let filters = case.pipeline.triggers.iter().flat_map(|trigger| &trigger.filters);
    let filters: Vec<&Filter> =
        filters.filter(|filter| filter.of != FilterOf::Paths && filter.side == FilterSide::Include).collect();
    let mut spoken = Vec::new();
    for filter in &filters {
        let what = if filter.of == FilterOf::Tags { "tag" } else { "branch" };
        for pattern in &filter.patterns {
            // Several events may share one list, and so may branches and tags.
            let Some(oddity) = oddity(pattern, case.pipeline.customs).filter(|_| !spoken.contains(&pattern.text.at)) else {
                continue;
            };
            spoken.push(pattern.text.at);
            let same = |other: &&&Filter| other.of == FilterOf::Tags && other.key.at == filter.key.at;
            let both = filter.of == FilterOf::Branches && filters.iter().any(|other| same(&other));
            let what = if both { "branch and no tag" } else { what };
            let finding = out.add(pattern.text.inner(), format!("`{}` fits no {what}, so it starts nothing", pattern.text.value));
            finding.witness(WitnessSource::Catalog, oddity.because);
            let name = pattern.text.value.trim_start_matches('!');
            let other = match filter.of {
                FilterOf::Branches if name.starts_with("refs/tags/") => Some("tags"),
                FilterOf::Tags if name.starts_with("refs/heads/") => Some("branches"),
                _ => None,
            };
            finding.mend(match oddity.instead {
                Some(instead) if other.is_some() => {
                    Mend::by_hand(format!("write {instead} under `{}`, where it is looked for", other.unwrap_or_default()))
                }
                Some(instead) => Mend::certain(format!("write {instead}"), [Edit::replace(pattern.text.inner(), instead)]),
                None => Mend::by_hand("write names or patterns, each as one entry of the list"),
            });
        }
        negations(filter, what, out);
    }
}

/// Exceptions that stand before what they are exceptions to.
fn negations(filter: &Filter, what: &str, out: &mut Findings) {
    let Some(first) = filter.patterns.first().filter(|pattern| pattern.is_exception()) else { return };
    let alone = filter.patterns.iter().all(Pattern::is_exception);
    let (message, because, todo) = if alone {
        (
            format!("`{}` only takes away, so no {what} is left and nothing starts", filter.key.value),
            "a list with ! alone takes in nothing",
            format!("put a pattern before it that takes in the rest, such as '**', or use `{}-ignore`", filter.key.value),
        )
    } else {
        (
            format!("`{}` takes nothing away here, as what follows takes it in again", first.text.value),
            "patterns are read in order, and the last that fits decides",
            "move it to the end of the list".to_owned(),
        )
    };
    let finding = out.add(first.text.inner(), message);
    if !alone {
        finding.severity(Severity::Warning);
    }
    finding.witness(WitnessSource::Catalog, because).mend(Mend::by_hand(todo));
}

/// What is wrong with a pattern by itself.
pub(in crate::rules) fn oddity(pattern: &Pattern, customs: &Customs) -> Option<Oddity> {
    let text = pattern.text.known()?;
    if matches!(pattern.syntax, PatternSyntax::Regex { .. }) {
        return None;
    }
    let name = text.strip_prefix('!').unwrap_or(text);
    for start in ["refs/heads/", "refs/tags/"] {
        if let Some(short) = name.strip_prefix(start) {
            let because = "filters are held against the short name, without refs/heads/ or refs/tags/";
            let instead = if text == name { short.to_owned() } else { format!("!{short}") };
            return Some(Oddity { because, instead: Some(instead) });
        }
    }
    if let Some((kind, rest)) = name.strip_prefix("refs/").and_then(|rest| rest.split_once('/')) {
        let meant = near(kind, ["heads", "tags"], Among::Closed).map(|meant| meant.word);
        let instead = meant.map(|meant| if customs.full_refs { format!("refs/{meant}/{rest}") } else { rest.to_owned() });
        return Some(Oddity { because: "a full name begins with refs/heads/ for a branch, or refs/tags/ for a tag", instead });
    }
    if name.starts_with('^') || name.ends_with('$') || name.contains("\\d") || name.contains("\\w") || name.contains("(") {
        let plain = name.trim_start_matches('^').trim_end_matches('$');
        let simple =
            !plain.is_empty() && plain.bytes().all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'-' | b'_' | b'/'));
        let instead = simple.then(|| plain.to_owned());
        return Some(Oddity { because: "this is a regular expression, and filters are patterns with * and **", instead });
    }
    if name == ".*" || name == ".+" || name.starts_with("/.") {
        return Some(Oddity {
            because: "this is a regular expression; the pattern for every name is **",
            instead: Some("**".into()),
        });
    }
    if name.contains(' ') || name.contains(',') && !name.contains(['[', '{']) {
        return Some(Oddity { because: "this is one text, and it is taken as one name", instead: None });
    }
    let forbidden = forbidden(name)?;
    Some(Oddity { because: forbidden, instead: None })
}

/// Why git takes no name that the pattern could fit: what stands in it letter for letter is forbidden.
/// Source: git's manual page on the names of refs.
fn forbidden(name: &str) -> Option<&'static str> {
    // A part behind a star may begin in any way, and one before it may end in any way.
    let parts = || name.split('/');
    if parts().any(|part| part.starts_with('.')) {
        return Some(
            "no part of a name begins with a point, so this is rather a regular expression; here a star stands for anything",
        );
    }
    if parts().any(|part| part.ends_with(".lock")) {
        return Some("git lets no part of a name end in .lock");
    }
    let strange = name.starts_with('/') || name.ends_with(['/', '.']) || name.contains("..") || name.contains("//");
    let never = name.contains(['~', ':']) || name.contains("@{") || name == "@";
    (strange || never).then_some("git allows no such name")
}
