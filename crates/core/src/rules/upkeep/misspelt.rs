//! An action whose name is a letter or two from a well-known one.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge::{self, Meant};
use crate::model::Text;
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "upkeep.misspelt",
    severity: Severity::Error,
    title: "The name of an action is misspelt",
    why: "The forge fetches whatever stands under the name. Mostly nothing does, and the job stops before its first step; at \
          worst somebody has put a look-alike there that reads your secrets.",
    needs: &[],
    bad: &[r"
== steps
      - uses: «action/checkout»@v4
      - uses: «actions/setupnode»@v4
"],
    good: &[r#"
== steps
      - uses: actions/checkout@v4
      - uses: Actions/Setup-Node@v4
      - uses: ferry/checkout@v1
      - uses: actions/cache@v4
        with: {path: a, key: "b-${{ hashFiles('package-lock.json') }}"}
      - uses: ./action/checkout
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for used in case.uses() {
        if used.action.is_none()
            && let Some(meant) = meant(used.name)
        {
            speak(used.written, used.name, &meant, out);
        }
    }
}

fn speak(action: &Text, name: &str, meant: &str, out: &mut Findings) {
    let place = action.place(0..name.len());
    let owner = |name: &str| name.split('/').find(|part| !part.is_empty()).map(str::to_ascii_lowercase);
    if owner(name) != owner(meant) {
        // Whether somebody of that name is there, no file can tell.
        out.add(place, format!("`{name}` is not the well-known {meant}: whoever stands behind it runs here"))
            .severity(Severity::Warning)
            .witness(WitnessSource::Catalog, format!("the well-known action is {meant}"))
            .mend(Mend::likely(format!("write {meant}, if that is meant"), [Edit::replace(place, meant)]));
        return;
    }
    out.add(place, format!("there is no action `{name}`, so this job stops before its first step"))
        .witness(WitnessSource::Catalog, format!("the well-known action is {meant}"))
        .mend(Mend::name(&Meant::of(name, meant), place));
}

/// The well-known action that is meant. A name that is near in one part must be the same in the other, or near there too.
fn meant(name: &str) -> Option<String> {
    let tidy = name.split('/').filter(|part| !part.is_empty()).collect::<Vec<_>>().join("/");
    if tidy != name
        && let Some(known) = knowledge::actions().get(&tidy)
    {
        return Some(known.uses.to_owned());
    }
    let (owner, rest) = name.split_once('/')?;
    let distance = |one: &str, other: &str| strsim::damerau_levenshtein(&one.to_ascii_lowercase(), &other.to_ascii_lowercase());
    let near = |one: &str, other: &str| match one.len().min(other.len()) {
        0..=4 => distance(one, other) == 0,
        5..=6 => distance(one, other) <= 1,
        _ => distance(one, other) <= 2,
    };
    knowledge::actions()
        .names()
        .filter_map(|known| {
            let (known_owner, known_rest) = known.split_once('/')?;
            let fits = near(owner, known_owner)
                && near(rest, known_rest)
                && rest.matches('/').count() == known_rest.matches('/').count();
            // Owners are people and firms: only one that is well known for many actions is surely meant by a near name.
            let sure = owner.eq_ignore_ascii_case(known_owner) || rest.eq_ignore_ascii_case(known_rest);
            (fits && sure).then_some((distance(name, known), known.to_owned()))
        })
        .min()
        .map(|(_, known)| known)
}
