//! One cache of installed packages for several versions of the runtime.

use crate::case::{Case, at};
use crate::effects::Effect;
use crate::finding::{Findings, Mend, Severity};
use crate::rules::Rule;

use super::{parts_of, restored};

pub const RULE: Rule = Rule {
    id: "cache.mixed-versions",
    severity: Severity::Warning,
    title: "Several versions of the runtime share one cache",
    why: "Installed packages may hold parts that were built for one version of the runtime. Brought back under another they \
          fail, or are built anew each time.",
    needs: &[],
    bad: &[r#"
== jobs
  a:
    strategy:
      matrix:
        ‹node: [20, 22]›
    runs-on: x
    steps:
      - uses: actions/setup-node@v5
        with: {node-version: '${{ matrix.node }}'}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "«m-${{ hashFiles('package-lock.json') }}»"}
"#],
    good: &[r#"
== jobs
  a:
    strategy:
      matrix:
        node: [20, 22]
    runs-on: x
    steps:
      - uses: actions/setup-node@v5
        with: {node-version: '${{ matrix.node }}'}
      - uses: actions/cache@v4
        with: {path: node_modules, key: "m-${{ matrix.node }}-${{ hashFiles('package-lock.json') }}"}
      - uses: actions/cache@v4
        with: {path: ~/.npm, key: "m-${{ hashFiles('package-lock.json') }}"}
"#],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for cache in restored(case) {
        let modules = cache.paths.iter().any(|path| path.written.trim_end_matches('/').ends_with("node_modules"));
        let job = &case.pipeline.jobs[cache.job];
        let Some(matrix) = job.matrix.as_ref().filter(|_| modules) else { continue };
        let axis = case.effects.of_job(cache.job).find_map(|(_, effect)| match &effect.effect {
            Effect::SetUp { version: Some(version), .. } => {
                let name = version.value.trim().strip_prefix("${{")?.strip_suffix("}}")?.trim().strip_prefix("matrix.")?;
                matrix.axes.iter().find(|(axis, values)| axis.value == name && values.len() > 1)
            }
            _ => None,
        });
        let Some((axis, _)) = axis else { continue };
        let own = format!("matrix.{}", axis.value.to_ascii_lowercase());
        let tells = parts_of(cache.key).is_none_or(|parts| {
            parts.iter().any(|part| *part == own || part == "matrix" || part.starts_with("steps") || part.starts_with("env"))
        });
        if !tells {
            out.add(cache.key.inner(), format!("all versions in `{}` share these installed packages", axis.value))
                .witness(at(matrix.at), "the job runs with each of them")
                .mend(Mend::by_hand(format!("put ${{{{ matrix.{} }}}} into the key", axis.value)));
        }
    }
}
