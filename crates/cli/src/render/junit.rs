//! JUnit XML: one suite a file, one case a rule that speaks.

use std::fmt::Write;

use dulk_core::finding::{Finding, Severity};
use dulk_core::mask::mask;

use super::text::place;
use crate::checked::Checked;

/// The whole report.
pub fn report(checked: &Checked) -> String {
    let sources = &checked.repository().sources;
    let mut out = String::from("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
    let failures: usize = checked.files.iter().map(|file| file.findings.iter().filter(|finding| fails(finding)).count()).sum();
    let cases: usize = checked.files.iter().map(|file| file.findings.len().max(1)).sum();
    let _ = writeln!(out, "<testsuites name=\"dulk\" tests=\"{cases}\" failures=\"{failures}\">");
    for (pipeline, file) in checked.repository().pipelines.iter().zip(&checked.files) {
        let path = escaped(&sources.get(pipeline.file).path);
        let own = file.findings.iter().filter(|finding| fails(finding)).count();
        let _ = writeln!(out, "  <testsuite name=\"{path}\" tests=\"{}\" failures=\"{own}\">", file.findings.len().max(1));
        if file.findings.is_empty() {
            let _ = writeln!(out, "    <testcase classname=\"{path}\" name=\"nothing wrong found\"/>");
        }
        for finding in &file.findings {
            let at = escaped(&place(finding.at, sources));
            let _ = writeln!(out, "    <testcase classname=\"{path}\" name=\"{} {at}\">", finding.rule);
            let text = escaped(&format!("{}. Do: {}.", mask(&finding.message), mask(&finding.mend.title)));
            if fails(finding) {
                let _ = writeln!(out, "      <failure type=\"{}\" message=\"{text}\"/>", finding.severity.word());
            } else {
                let _ = writeln!(out, "      <system-out>{text}</system-out>");
            }
            out.push_str("    </testcase>\n");
        }
        out.push_str("  </testsuite>\n");
    }
    out.push_str("</testsuites>");
    out
}

fn fails(finding: &Finding) -> bool {
    finding.severity > Severity::Advice
}

/// Text as XML holds it; control characters that XML knows none of are left out.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '"' => out.push_str("&quot;"),
            '\t' | '\n' | '\r' => out.push(' '),
            c if c.is_control() || matches!(c, '\u{fffe}' | '\u{ffff}') => {}
            c => out.push(c),
        }
    }
    out
}
