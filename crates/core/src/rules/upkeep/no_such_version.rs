//! An action's version that is written in another way than its tags are.

use crate::case::Case;
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::knowledge;
use crate::rules::Rule;
use crate::text::{Place, Span};

pub const RULE: Rule = Rule {
    id: "upkeep.no-such-version",
    severity: Severity::Warning,
    title: "An action's version lacks its letter",
    why: "A version is the name of a tag, letter by letter. The tags of this action begin with a v; without it there is no such tag, \
          and the job ends before its first step.",
    needs: &[],
    bad: &[r"
== steps
      - uses: actions/checkout@«5»
"],
    good: &[r"
== steps
      - uses: actions/checkout@v5
      - uses: ferry/tides@2
      - uses: JamesIves/github-pages-deploy-action@4.1.5
        with: {folder: site}
      - uses: actions/setup-node@249970729cb0ef3589644e2896645e5dc5ba9c38
"],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    for used in case.uses() {
        let Some(version) = used.version.filter(|_| knowledge::upkeep().has_lettered_tags(used.name)) else { continue };
        let is_number = version.len() < 12
            && version.starts_with(|c: char| c.is_ascii_digit())
            && version.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
        if !is_number {
            continue;
        }
        let whole = used.written.inner();
        let start = whole.span.end - u32::try_from(version.len()).unwrap_or(0);
        let place = Place { file: whole.file, span: Span { start, end: whole.span.end } };
        out.add(place, format!("{} has no version `{version}`: its versions are called v{version} and the like", used.name))
            .witness(WitnessSource::Catalog, "the action's own tags begin with a v")
            .mend(Mend::likely(format!("write v{version}"), [Edit::replace(place, format!("v{version}"))]));
    }
}
