//! A fallback that is not the beginning of the key.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

use super::restored;

pub const RULE: Rule = Rule {
    id: "cache.no-prefix",
    severity: Severity::Warning,
    title: "A fallback is not the beginning of the key",
    why: "A fallback finds the newest cache whose key begins with it. One that is no beginning of this key never finds what this \
          step saves.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: ‹${{ runner.os }}-npm-${{ hashFiles('package-lock.json') }}›
          restore-keys: «npm-${{ runner.os }}-»
"],
    good: &[
        r"
== steps
      - uses: actions/cache@v4
        with:
          path: ~/.npm
          key: ${{ runner.os }}-npm-${{hashFiles('package-lock.json')}}
          restore-keys: |
            ${{ runner.os }}-npm-
            ${{ runner.os }}-
",
        r"
== steps
      - uses: actions/cache@v4
        with: {path: x, key: '${{ steps.a.outputs.key }}', restore-keys: x-}
",
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case) {
        let Some(fallback) = cache.fallback else { continue };
        let plain = |text: &str| text.split_whitespace().collect::<String>();
        let key = plain(&cache.key.value);
        let lines: Vec<String> = fallback.value.lines().map(plain).filter(|line| !line.is_empty()).collect();
        // Where the key starts with something that is not known, any text may be its beginning.
        let known_start = key.starts_with("${{runner.os}}") || !key.starts_with("${{");
        if lines.is_empty()
            || !known_start
            || lines
                .iter()
                .any(|line| key.starts_with(line.as_str()) || line.starts_with("${{") && !line.starts_with("${{runner.os}}"))
        {
            continue;
        }
        out.add(fallback.inner(), "this fallback never finds what this step saves: the key does not begin with it")
            .witness(at(cache.key.inner()), "this is the key")
            .mend(Mend::by_hand("write the beginning of the key, up to the part that changes"));
    }
}
