//! A fallback that is not the beginning of the key.

use crate::case::{Case, at};
use crate::finding::{Findings, Mend, Severity};
use crate::model::Text;
use crate::project::{Read, RunFact};
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
        r#"
== steps
      - id: a
        run: ./key >> "$GITHUB_OUTPUT"
      - uses: actions/cache@v4
        with: {path: x, key: '${{ steps.a.outputs.key }}', restore-keys: x-}
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case) {
        let (Some(key), Some(fallback)) = (cache.key, cache.fallback) else { continue };
        let plain = |text: &str| text.split_whitespace().collect::<String>();
        let lines: Vec<String> = fallback.value.lines().map(plain).filter(|line| !line.is_empty()).collect();
        let key_text = plain(&key.value);
        // Where one of them starts with something that is not known, any text may be its beginning.
        if lines.is_empty() || starts_unknown(case, key, 0..key.value.len()) {
            continue;
        }
        let mut from = 0;
        let may_fit = fallback.value.split_inclusive('\n').any(|line| {
            let start = from + line.len() - line.trim_start().len();
            from += line.len();
            let line = plain(line);
            !line.is_empty() && (key_text.starts_with(line.as_str()) || starts_unknown(case, fallback, start..from))
        });
        if !may_fit {
            out.add(fallback.inner(), "this fallback never finds what this step saves: the key does not begin with it")
                .witness(at(key.inner()), "this is the key")
                .mend(Mend::by_hand("write the beginning of the key, up to the part that changes"));
        }
    }
}

/// Whether a part of a text, as bytes in it, begins with a value that is only known when it runs; the system's name is the same on both sides.
fn starts_unknown(case: &Case<'_>, text: &Text, part: std::ops::Range<usize>) -> bool {
    let first = case.reads_of(text).into_iter().find(|read| read.range.start == part.start);
    match first {
        Some(read) => read.read != Read::Run(RunFact::Os),
        None => text.opens_at(part.start),
    }
}
