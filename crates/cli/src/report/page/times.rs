//! Which jobs run on which event: the grid, with the line that decides, and the same as text.

use dulk_core::rehearsal::{Answer, Verdict};
use dulk_core::views::{Cell, CellKind, GridPipeline};
use maud::{Markup, html};

use super::{Report, said};
use crate::render::grid::head;
use crate::render::{start_word, text};
use crate::report::code;

/// The part of the page.
pub fn section(report: &Report<'_>) -> Markup {
    html! {
        section #times aria-labelledby="times-title" {
            h2 #times-title { "What runs when" }
            @if report.grid.events.is_empty() {
                p { "No pipeline here names an event that can be played." }
            } @else {
                (grid(report))
                (clocks(report))
                details { summary { "The same as text" } (as_text(report)) }
            }
        }
    }
}

fn grid(report: &Report<'_>) -> Markup {
    html! {
        div.grid {
            div.scroll role="region" tabindex="0" aria-label="Events and jobs" {
                table {
                    thead {
                        tr {
                            td {}
                            @for event in &report.grid.events {
                                @let [kind, name] = head(event);
                                th scope="col" { (kind) " " span { (report.shown(&name)) } }
                            }
                        }
                    }
                    @for pipeline in &report.grid.pipelines {
                        tbody {
                            tr { th scope="rowgroup" colspan=(report.grid.events.len() + 1) { (report.shown(&pipeline.label)) } }
                            @for job in &pipeline.jobs {
                                tr {
                                    th scope="row" { (report.shown(&job.id)) }
                                    @for (column, cell) in job.cells.iter().enumerate() {
                                        td { (shown(report, cell, &pipeline.starts[column])) }
                                    }
                                }
                            }
                        }
                    }
                }
            }
            p.tip-none { "Point at a cell, or reach it with the keyboard, to see the line that decides." }
        }
    }
}

/// The word for a cell in a sentence.
fn word_of(kind: CellKind) -> &'static str {
    if kind == CellKind::Not { "does not run" } else { kind.word() }
}

fn style(kind: CellKind) -> &'static str {
    match kind {
        CellKind::Publishes => "publishes",
        CellKind::Runs => "runs",
        CellKind::Maybe => "maybe",
        CellKind::ByHand => "by-hand",
        CellKind::Not => "not",
    }
}

fn shown(report: &Report<'_>, cell: &Cell, starts: &Verdict) -> Markup {
    let kind = cell.kind();
    let word = word_of(kind);
    let verdict = decisive(cell, starts);
    html! {
        span.cell.(style(kind)) tabindex="0" {
            @if kind == CellKind::Not { span role="img" aria-label=(word) { "–" } } @else { (word) }
            " " span.tip role="note" { (reason(report, verdict, word)) }
        }
    }
}

/// What decides of a cell: the pipeline where it does not start, or else the job.
fn decisive<'v>(cell: &'v Cell, starts: &'v Verdict) -> &'v Verdict {
    if starts.answer == Answer::No { starts } else { &cell.verdict }
}

fn reason(report: &Report<'_>, verdict: &Verdict, word: &str) -> Markup {
    let because = if verdict.because.is_empty() { "nothing keeps it from running" } else { &verdict.because };
    html! {
        (word) ": " (said(report, because))
        @if let Some(at) = verdict.at {
            br;
            (report.shown(&text::place(at, report.project.sources))) " " code { (code::line_of(report, at)) }
        }
    }
}

fn as_text(report: &Report<'_>) -> Markup {
    html! {
        @for (column, event) in report.grid.events.iter().enumerate() {
            h3 { "On " (report.shown(&event.told())) }
            ul {
                @for pipeline in &report.grid.pipelines { li { (pipeline_on(report, pipeline, column)) } }
            }
        }
    }
}

fn pipeline_on(report: &Report<'_>, pipeline: &GridPipeline, column: usize) -> Markup {
    let starts = &pipeline.starts[column];
    html! {
        (report.shown(&pipeline.label)) " "
        (reason(report, starts, start_word(starts.answer)))
        @if starts.answer != Answer::No {
            ul {
                @for job in &pipeline.jobs {
                    @let cell = &job.cells[column];
                    li { (report.shown(&job.id)) " " (reason(report, &cell.verdict, word_of(cell.kind()))) }
                }
            }
        }
    }
}

fn clocks(report: &Report<'_>) -> Markup {
    html! {
        @for pipeline in &report.grid.pipelines {
            @for (words, next) in &pipeline.clocks {
                p {
                    (report.shown(&pipeline.label)) " runs by the clock"
                    @if let Some(words) = words { ", " (words) }
                    @if !next.is_empty() { "; next on " (dulk_core::finding::listed(next)) " (UTC)" }
                    "."
                }
            }
        }
    }
}
