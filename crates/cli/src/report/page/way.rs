//! The ways of the site, drawn, and the same as text.

use dulk_core::finding::listed;
use dulk_core::views::{Break, Leg, NO_WAY, Need, Way};
use maud::{Markup, html};

use super::{Report, picture, said};

/// More ways than this nobody looks at, and the page would grow by some kilobytes for each.
const SHOWN: usize = 200;

/// The part of the page.
pub fn section(report: &Report<'_>) -> Markup {
    html! {
        section #way aria-labelledby="way-title" {
            h2 #way-title { "The way of the site" }
            @if report.ways.is_empty() { p { (NO_WAY) } }
            @for way in report.ways.iter().take(SHOWN) {
                figure {
                    div.scroll role="region" tabindex="0" aria-label={ "Drawing of the way to " (ends(report, way)) } {
                        (picture::within_page(report.project, way))
                    }
                    figcaption {
                        details { summary { "The same as text" } (as_text(report, way)) }
                    }
                }
            }
            @if let Some(more @ 1..) = report.ways.len().checked_sub(SHOWN) {
                p { "There are " (more) " ways more; " code { "dulk trail" } " shows all of them." }
            }
        }
    }
}

fn ends(report: &Report<'_>, way: &Way) -> String {
    report.shown(&way.told_ends())
}

fn as_text(report: &Report<'_>, way: &Way) -> Markup {
    html! {
        p { (report.shown(&report.project.label(way.pipeline))) ", on " (report.shown(&way.told_events())) ":" }
        @if let Some(broken) = &way.broken { p { (told(report, broken)) } }
        ol { @for leg in &way.legs { li { (leg_as_text(report, leg)) } } }
        p { (if way.breaks() { "Nothing new arrives at " } else { "It ends at " }) (ends(report, way)) "." }
        @if let Some(doubt) = way.doubt() { p { "Something beside it may keep it from running: " (told(report, doubt)) } }
    }
}

fn leg_as_text(report: &Report<'_>, leg: &Leg) -> Markup {
    html! {
        strong { (report.shown(&leg.id)) }
        @if let Some(times) = leg.times { ", " (times) " times" }
        @if !leg.waits_for.is_empty() { ", after " (report.shown(&listed(&leg.waits_for))) }
        (needs(report, &leg.needs))
        @if let Some(broken) = &leg.broken { br; (told(report, broken)) }
        ol {
            @for stop in &leg.stops {
                li {
                    (stop.kind.word()) ": " (report.shown(&stop.text))
                    @if !stop.certain { " (may not be there)" }
                    (needs(report, &stop.needs))
                    @if let Some(broken) = &stop.broken { br; (told(report, broken)) }
                }
            }
        }
    }
}

fn needs(report: &Report<'_>, needs: &[Need]) -> Markup {
    let told: Vec<String> = needs.iter().map(|need| format!("{} {}", need.kind.word(), report.shown(&need.name))).collect();
    html! { @if !told.is_empty() { "; needs " (listed(&told)) } }
}

/// What breaks here, with a link to the finding.
fn told(report: &Report<'_>, broken: &Break) -> Markup {
    html! {
        "✖ "
        @match report.number_of(broken) {
            Some(number) => a href={ "#finding-" (number) } { (broken.rule) },
            None => (broken.rule),
        }
        ": " (said(report, &broken.message))
    }
}
