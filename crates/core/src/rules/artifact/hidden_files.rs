//! A folder with a point before its name, which is left out of artifacts.

use crate::case::Case;
use crate::effects::Effect;
use crate::finding::{Findings, Severity, WitnessSource};
use crate::pen::{self, Ask};
use crate::rules::Rule;

pub const RULE: Rule = Rule {
    id: "artifact.hidden-files",
    severity: Severity::Error,
    title: "A hidden folder is left out of the artifact",
    why: "Files and folders whose names start with a point are left out of an artifact unless they are asked for. A hidden \
          folder by itself then makes an artifact of nothing.",
    needs: &[],
    bad: &[r"
== steps
      - run: npx next build
      - uses: actions/upload-artifact@v4
        with:
          name: site
          path: «.next»
"],
    good: &[r"
== steps
      - uses: actions/checkout@v5
      - run: npx next build
      - uses: actions/upload-artifact@v4
        with: {name: next, path: .next, include-hidden-files: true}
      - uses: actions/upload-artifact@v4
        with: {name: all, path: './'}
      - uses: actions/upload-artifact@v4
        with: {name: docs, path: docs/.vitepress/dist}
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for (_, _, effect) in case.all_effects() {
        let Effect::Upload { leaves_hidden_out: Some(path), .. } = &effect.effect else { continue };
        let Some(written) = path.known().filter(|written| !written.contains('\n')) else { continue };
        let name = written.trim_end_matches('/').rsplit('/').next().unwrap_or_default();
        if !name.starts_with('.') || matches!(name, "." | "..") || name.contains('*') {
            continue;
        }
        let finding = out.add(path.inner(), format!("nothing is handed on: `{name}` is hidden, and hidden files are left out"));
        finding.witness(WitnessSource::Catalog, "names that start with a point are left out unless they are asked for");
        finding.mend(pen::write(case, &Ask::HiddenFiles { path }));
    }
}
