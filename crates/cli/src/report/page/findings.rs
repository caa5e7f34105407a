//! What is wrong, file by file: both sides, the lines round the place, what to do, and the mend where it is certain.

use dulk_core::finding::{Finding, HERE_TOO, Severity, WitnessSource};
use dulk_core::views::{Mark, strip};
use maud::{Markup, html};

use super::{Report, rule_anchor, said, weight};
use crate::render::{source_word, text};
use crate::report::FileFindings;
use crate::report::code::{self, Change, CodeLine, Stretch};

/// The part of the page.
pub fn section(report: &Report<'_>) -> Markup {
    let any = report.findings().next().is_some();
    html! {
        section #findings aria-labelledby="findings-title" {
            h2 #findings-title { "Findings" }
            @if any { (switch()) } @else { p { (report.summary()) } }
            @for file in &report.files { (of_file(report, file)) }
        }
    }
}

/// Leaves findings of a weight out; it works without a script.
fn switch() -> Markup {
    html! {
        fieldset.switch {
            legend { "Leave out" }
            @for (word, words) in [("error", "errors"), ("warning", "warnings"), ("advice", "advice")] {
                input type="checkbox" id={ "no-" (word) };
                label for={ "no-" (word) } { (words) }
            }
        }
    }
}

fn of_file(report: &Report<'_>, file: &FileFindings<'_>) -> Markup {
    html! {
        h3 { (report.shown(file.path)) }
        ul.strip aria-label="Families of rules, in the order of work" {
            @for (family, mark) in strip(file.all, file.whole) {
                @let (style, sign, word) = match mark {
                    Mark::Fine => ("fine", "✔", "nothing wrong"),
                    Mark::Unknown => ("unknown", "?", "not known"),
                    Mark::Found(severity) => (severity.word(), weight(severity).0, severity.word()),
                };
                li.(style) { (family) " " span role="img" aria-label=(word) { (sign) } }
            }
        }
        @for (number, finding) in &file.findings { (one(report, *number, finding)) }
    }
}

fn one(report: &Report<'_>, number: usize, finding: &Finding) -> Markup {
    let (sign, style) = weight(finding.severity);
    let source = report.project.sources.get(finding.at.file);
    let anchor = format!("finding-{number}");
    let word = if finding.severity == Severity::Advice { "piece of advice" } else { finding.severity.word() };
    html! {
        article.finding.(style) id=(anchor) aria-labelledby={ (anchor) "-title" } {
            a.self href={ "#" (anchor) } aria-label={ "Link to finding " (number) } { "#" (number) }
            h4 id={ (anchor) "-title" } {
                span.weight { span aria-hidden="true" { (sign) } " " (word) } " "
                (said(report, &finding.message))
            }
            p.rule { a href={ "#" (rule_anchor(finding.rule)) } { (finding.rule) } " · " (report.shown(&text::place(finding.at, report.project.sources))) }
            (lines(&code::around(report, finding)))
            dl {
                (witnesses(report, finding))
                dt { "do" }
                dd { (said(report, &text::action(finding, report.project.sources))) @if finding.mend.certain { " — " code { "dulk mend" } " does it" } }
            }
            @if finding.mend.certain && !source.text.is_empty() {
                @for stretch in code::changes(report, finding) { (change(&stretch)) }
            }
        }
    }
}

fn witnesses(report: &Report<'_>, finding: &Finding) -> Markup {
    html! {
        @for witness in &finding.witnesses {
            @let also = witness.text == HERE_TOO;
            dt { (if also { "also" } else { "but" }) }
            dd {
                @match witness.source {
                    WitnessSource::At(at) => {
                        (report.shown(&text::place(at, report.project.sources)))
                        @let line = code::line_of(report, at);
                        @if !line.is_empty() { " " code { (line) } }
                    }
                    _ => (source_word(&witness.source)),
                }
                @if !also { ": " (said(report, &witness.text)) }
            }
        }
    }
}

fn lines(lines: &[CodeLine]) -> Markup {
    html! {
        @if !lines.is_empty() {
            div.code role="region" tabindex="0" aria-label="The lines of the file" {
                @for line in lines {
                    span.row {
                        span.no { (line.number) }
                        @for (text, marked) in &line.parts { @if *marked { mark { (text) } } @else { (text) } }
                    }
                }
            }
        }
    }
}

fn change(stretch: &Stretch) -> Markup {
    html! {
        div.code role="region" tabindex="0" aria-label={ "What changes in " (stretch.path) ", from line " (stretch.line) " on" } {
            @for (change, text) in &stretch.lines {
                @let style = match change { Change::Stays => "stays", Change::Goes => "goes", Change::Comes => "comes" };
                span.row.(style) { span.sign { (change.sign()) } (text) }
            }
        }
    }
}
