//! A pattern that fits no branch or tag there is, while one that is nearly the same fits them.

use crate::case::Case;
use crate::expression::{Expr, ExprKind};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::model::{Filter, FilterOf, FilterSide, Pattern, PatternSyntax, Text};
use crate::pattern::Matcher;
use crate::rules::Rule;
use crate::text::Place;

pub const RULE: Rule = Rule {
    id: "branch.fits-none",
    severity: Severity::Warning,
    title: "A pattern fits none of the branches or tags that there are",
    why: "A pattern may wait for a branch or tag to come. But where one that is nearly the same fits what is there, it is a slip: a \
          star stops at a slash, capitals count, and v* is no pattern for tags without the letter. Nothing starts, without a word.",
    needs: &[],
    bad: &[
        r"
== git
main default
1.0.0 tag
1.1.0 tag
== pipeline
on:
  push:
    tags: ['«v*»']
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
release/2026/spring
== pipeline
on:
  push:
    branches: ['«release/*»']
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
1.0.0 tag
1.1.0 tag
== gitlab
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_TAG =~ «/^v\d+/»
",
    ],
    good: &[
        r"
== git
main default
v1.0.0 tag
== pipeline
on:
  push:
    branches: [main, 'release/**']
    tags: ['v*', '[0-9]*']
jobs:
  publish:
    runs-on: ubuntu-latest
    steps:
      - run: npx gh-pages -d public
",
        r"
== git
main default
1.0.0 tag
== gitlab
pages:
  script:
    - make public
  artifacts:
    paths: [public]
  rules:
    - if: $CI_COMMIT_TAG =~ /^\d+/
    - if: $CI_COMMIT_BRANCH =~ /^release/
",
    ],
    check,
};

/// A pattern of names, as a person may have meant it.
struct Variant {
    /// As it is written in its place.
    written: String,
    /// What is other about it, as the end of "…, while it would with".
    because: &'static str,
}

fn check(case: &Case<'_>, out: &mut Findings) {
    let filters = case.pipeline.triggers.iter().flat_map(|trigger| &trigger.filters);
    for filter in filters.filter(|filter| filter.side == FilterSide::Include) {
        of_filter(case, filter, out);
    }
    case.expressions(&mut |_, text, expression| of_condition(case, text, expression, out));
}

fn of_filter(case: &Case<'_>, filter: &Filter, out: &mut Findings) {
    let Some((names, what)) = names_of(case, filter.of) else { return };
    let fits = |pattern: &Pattern| {
        let matcher = Matcher::of(pattern);
        names.iter().any(|name| matcher.as_ref().is_none_or(|matcher| matcher.fits(name)))
    };
    // What fits something is meant as it is, and with it what stands beside it.
    if filter.patterns.iter().any(fits) {
        return;
    }
    for pattern in filter.patterns.iter().filter(|pattern| pattern.syntax == PatternSyntax::Glob && !pattern.is_exception()) {
        if pattern.literal().is_some() || super::never_matches::oddity(pattern, case.pipeline.customs).is_some() {
            continue;
        }
        let text = &pattern.text.value;
        let variant = variants_of_glob(text).into_iter().find(|variant| {
            let glob = Pattern { text: Text::fixed(&variant.written, pattern.text.at), syntax: PatternSyntax::Glob };
            Matcher::of(&glob).is_some_and(|matcher| fits_what_is_there(names, &|name| matcher.fits(name)))
        });
        if let Some(variant) = variant {
            speak(pattern.text.inner(), text, &variant, (names, what), out);
        }
    }
}

/// The names that a filter looks at, with what they are called.
fn names_of<'c>(case: &Case<'c>, of: FilterOf) -> Option<(&'c [String], &'static str)> {
    let (names, what) = match of {
        FilterOf::Branches => (case.facts.git.branches.known()?, "branch"),
        FilterOf::Tags => (case.facts.git.tags.known()?, "tag"),
        FilterOf::Paths => return None,
    };
    (!names.is_empty()).then_some((names.as_slice(), what))
}

/// Whether a pattern fits most names, or one of a folder of them; whatever fits all names says nothing.
fn fits_what_is_there(names: &[String], fits: &dyn Fn(&str) -> bool) -> bool {
    let found = names.iter().filter(|name| fits(name)).count();
    found > 0 && !(found == names.len() && fits("any-name-of-a-person"))
}

fn variants_of_glob(text: &str) -> Vec<Variant> {
    let mut found = Vec::new();
    if text.contains('*') && !text.contains("**") {
        found.push(Variant { written: text.replace('*', "**"), because: "a star does not go past a slash" });
    }
    if text.contains(".*") {
        let written = text.replace(".*", "*");
        found.push(Variant { written, because: "a pattern is no regular expression, and a point stands for itself" });
    }
    if let Some(rest) = text.strip_prefix(['v', 'V']) {
        let rest = if rest.starts_with('*') { format!("[0-9]{rest}") } else { rest.to_owned() };
        found.push(Variant { written: rest, because: "they have no letter before the number" });
    } else if text.starts_with("[0-9]") || text.starts_with("*.") || text.starts_with(|c: char| c.is_ascii_digit()) {
        found.push(Variant { written: format!("v{text}"), because: "they have a letter before the number" });
    }
    if text.ends_with(|c: char| c.is_ascii_digit() || matches!(c, ']' | '+')) {
        found.push(Variant { written: format!("{text}*"), because: "they are longer than the pattern" });
    }
    if text.chars().any(char::is_uppercase) {
        found.push(Variant { written: text.to_lowercase(), because: "capitals count" });
    }
    let mut first = text.chars();
    if let Some(upper) = first.next().filter(char::is_ascii_lowercase) {
        found.push(Variant { written: format!("{}{}", upper.to_ascii_uppercase(), first.as_str()), because: "capitals count" });
    }
    found
}

/// A regular expression, or the beginning of a name, that a condition holds a tag or a branch against.
fn of_condition(case: &Case<'_>, text: &Text, expression: &Expr, out: &mut Findings) {
    let known = &case.pipeline.run().values;
    expression.walk(&mut |part| {
        let ExprKind::Matches(value, pattern, false, false) = &part.kind else { return };
        let Some(name) = value.dotted() else { return };
        let of = if known.tags.contains(&name.as_str()) { FilterOf::Tags } else { FilterOf::Branches };
        if !known.short.contains(&name.as_str()) || known.passing_refs.contains(&name.as_str()) && of != FilterOf::Tags {
            return;
        }
        let Some((names, what)) = names_of(case, of) else { return };
        let fits = |pattern: &str, name: &str| crate::rehearsal::regex_fits(pattern, false, name).unwrap_or(true);
        if names.iter().any(|name| fits(pattern, name)) {
            return;
        }
        let at = text.place(part.range.clone());
        let written = case.sources.slice(at);
        // The pattern as it stands, between its slashes; a condition that only stands for something else is written nowhere.
        let slashes = format!("/{}/", pattern.replace('/', "\\/"));
        let plain = format!("/{pattern}/");
        let Some((start, length)) =
            [slashes, plain].iter().find_map(|form| written.find(form.as_str()).map(|start| (start, form.len())))
        else {
            return;
        };
        let variant = variants_of_regex(pattern)
            .into_iter()
            .find(|variant| fits_what_is_there(names, &|name| fits(&variant.written, name)));
        let Some(variant) = variant else { return };
        let first = part.range.start + start;
        let place = text.place(first..first + length);
        let variant = Variant { written: format!("/{}/", variant.written.replace('/', "\\/")), ..variant };
        speak(place, &written[start..start + length], &variant, (names, what), out);
    });
}

fn variants_of_regex(pattern: &str) -> Vec<Variant> {
    let mut found = Vec::new();
    if let Some(rest) = pattern.strip_prefix("^v") {
        let rest = if rest.is_empty() { "\\d" } else { rest };
        found.push(Variant { written: format!("^{rest}"), because: "they have no letter before the number" });
    } else if let Some(rest) = pattern.strip_prefix('^').filter(|rest| rest.starts_with("\\d") || rest.starts_with("[0-9]")) {
        found.push(Variant { written: format!("^v{rest}"), because: "they have a letter before the number" });
    }
    if let Some(open) = pattern.strip_suffix('$') {
        found.push(Variant { written: open.to_owned(), because: "they are longer than the pattern" });
    }
    if pattern.chars().any(char::is_uppercase) && !pattern.contains('\\') {
        found.push(Variant { written: pattern.to_lowercase(), because: "capitals count" });
    }
    found
}

fn speak(place: Place, written: &str, variant: &Variant, (names, what): (&[String], &str), out: &mut Findings) {
    let many = if what == "tag" { "tags" } else { "branches" };
    out.add(place, format!("`{written}` fits no {what} that there is, so none of them starts this"))
        .witness(WitnessSource::Git, format!("the {many} here are {}: {}", listed_short(names), variant.because))
        .mend(Mend::likely(format!("write {}", variant.written), [Edit::replace(place, variant.written.clone())]));
}
