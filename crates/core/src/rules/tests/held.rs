//! Everything that is shown of every example, held byte for byte: whoever moves code without meaning to change what people see finds here
//! which examples look otherwise. `DULK_WRITE_DOCS=1` writes the list anew.

use std::fmt::Write;

use super::{bad, good};
use crate::rules::slip::{Scene, Slip};
use crate::rules::{Rule, all};
use crate::text::Place;
use crate::views::{grid, ways};

/// A moment for the clock.
const NOW: i64 = 1_764_028_800;

/// Sixteen digits that are others for another text; the same on every machine and with every compiler.
fn digest(text: &str) -> String {
    let hash = text.bytes().fold(0xcbf2_9ce4_8422_2325_u64, |hash, byte| (hash ^ u64::from(byte)).wrapping_mul(0x0100_0000_01b3));
    format!("{hash:016x}")
}

fn shown(scene: &Scene) -> String {
    let project = scene.project();
    let place = |at: Place| format!("{}:{:?}", scene.sources.get(at.file).path, at.span.range());
    let mut out = String::new();
    let mut lists: Vec<_> = (0..project.prepared.len()).map(|index| crate::check(&project, index)).collect();
    crate::settle(&project, &mut lists);
    for finding in lists.iter().flatten() {
        let _ = writeln!(out, "{} {:?} {} {}", finding.rule, finding.severity, place(finding.at), finding.message);
        finding.witnesses.iter().for_each(|witness| out.push_str(&format!("  {:?} {}\n", witness.source, witness.text)));
        let _ = writeln!(out, "  {} {}", finding.mend.title, finding.mend.certain);
        finding.mend.edits.iter().for_each(|edit| out.push_str(&format!("  {} {:?}\n", place(edit.at), edit.text)));
    }
    let _ = writeln!(out, "{:?}\n{:?}", grid(&project, &crate::project::columns(&project), NOW), ways(&project));
    out
}

fn lines(rule: &Rule) -> Vec<String> {
    let of = |kind: &str, slips: Vec<&str>| -> Vec<String> {
        let one =
            |(number, slip): (usize, &&str)| format!("{} {kind} {number} {}", rule.id, digest(&shown(&Slip::read(slip).scene())));
        slips.iter().enumerate().map(one).collect()
    };
    [of("wrong", bad(rule)), of("right", good(rule))].concat()
}

#[test]
fn what_is_shown_of_every_example_is_held() {
    let path = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("src/rules/tests/held.txt");
    let now = all().flat_map(lines).collect::<Vec<_>>().join("\n") + "\n";
    if std::env::var_os("DULK_WRITE_DOCS").is_some() {
        std::fs::write(&path, &now).unwrap_or_else(|error| panic!("{error}"));
    }
    let held = std::fs::read_to_string(&path).unwrap_or_default().replace('\r', "");
    let other: Vec<&str> = now.lines().filter(|line| !held.lines().any(|known| known == *line)).collect();
    assert!(
        now == held,
        "{} examples look otherwise than before; where that is meant, run the tests once with DULK_WRITE_DOCS=1:\n{}",
        other.len(),
        other.iter().take(20).copied().collect::<Vec<_>>().join("\n")
    );
}
