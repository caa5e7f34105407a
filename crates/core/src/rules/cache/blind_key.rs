//! A cache of packages whose key does not look at the lockfile.

use crate::case::Case;
use crate::expression::ExprKind;
use crate::finding::{Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::Rule;

use super::{holds_packages, restored};

pub const RULE: Rule = Rule {
    id: "cache.blind-key",
    severity: Severity::Advice,
    title: "A cache of packages does not look at the lockfile",
    why: "Which packages are installed stands in the lockfile. A key made of other files brings back the old packages after an \
          update, or throws them away without need.",
    needs: &[],
    bad: &[r#"
== steps
      - uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ «hashFiles('package.json')» }}"}
"#],
    good: &[r#"
== steps
      - uses: actions/cache@v4
        with: {path: node_modules, key: "modules-${{ hashFiles('**/package-lock.json', 'patches/**') }}"}
      - uses: actions/cache@v4
        with: {path: .cache, key: "x-${{ hashFiles('src/**') }}"}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "x-${{ hashFiles('**') }}"}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    let lockfiles: Vec<&str> =
        knowledge::managers().manager.iter().flat_map(|manager| manager.lockfiles.iter().map(String::as_str)).collect();
    for cache in restored(case).into_iter().filter(|cache| holds_packages(cache.paths)) {
        for hole in cache.key.holes() {
            let Ok(inside) = &hole.inside else { continue };
            inside.walk(&mut |part| {
                let ExprKind::Call(name, arguments) = &part.kind else { return };
                let texts: Option<Vec<&str>> = arguments
                    .iter()
                    .map(|argument| match &argument.kind {
                        ExprKind::Text(text) => Some(text.as_str()),
                        _ => None,
                    })
                    .collect();
                let Some(texts) = texts.filter(|_| name.eq_ignore_ascii_case("hashFiles")) else { return };
                let only_lists = texts.iter().all(|text| text.rsplit('/').next() == Some("package.json"));
                if only_lists && !texts.is_empty() && !lockfiles.iter().any(|file| texts.iter().any(|text| text.ends_with(file)))
                {
                    out.add(cache.key.place(part.range.clone()), "this key looks at package.json, and not at the lockfile")
                        .witness(
                            WitnessSource::Catalog,
                            format!("which packages are installed stands in {}", lockfiles.join(", ")),
                        )
                        .mend(Mend::by_hand("hash the lockfile instead"));
                }
            });
        }
    }
}
