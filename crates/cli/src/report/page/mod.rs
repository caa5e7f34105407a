//! The page: one file that needs nothing else, no script and no address.

mod findings;
mod look;
mod rest;
mod times;
mod way;

use dulk_core::finding::Severity;
use dulk_core::views::Standing;
use maud::{DOCTYPE, Markup, PreEscaped, html};

use super::{Report, pieces, sign_of};
use crate::render::picture;

/// Nothing is loaded and nothing is run; only the page's own style sheet is taken.
const POLICY: &str = "default-src 'none'; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'";

/// Makes the page.
pub fn page(report: &Report<'_>) -> String {
    let title = format!("{}: from a push to the site", report.name);
    let whole = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content=(POLICY);
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta name="color-scheme" content="light dark";
                meta name="referrer" content="no-referrer";
                title { (title) }
                style { (PreEscaped(look::sheet())) }
            }
            body {
                a.skip href="#main" { "Skip to the content" }
                (head(report))
                (nav(report))
                main #main tabindex="-1" {
                    (times::section(report))
                    (way::section(report))
                    (findings::section(report))
                    (rest::accepted(report))
                    (rest::facts(report))
                    (rest::rules(report))
                }
                footer {
                    p { "Made by dulk " (env!("CARGO_PKG_VERSION")) " on " (report.today.to_string())
                        " from the files and git's branches on one machine. Nothing of the repository was run." }
                }
            }
        }
    };
    whole.into_string()
}

/// The class of how it stands.
fn style_of(standing: Standing) -> &'static str {
    match standing {
        Standing::Online => "online",
        Standing::Perhaps => "perhaps",
        Standing::Broken => "broken",
        Standing::Otherwise => "otherwise",
    }
}

fn head(report: &Report<'_>) -> Markup {
    html! {
        header {
            p.mark { "dulk report" }
            h1 { (report.name) }
            @for verdict in &report.verdicts {
                p.verdict.(style_of(verdict.standing)) { span.sign aria-hidden="true" { (sign_of(verdict.standing)) } " " span { (said(report, &verdict.text)) } }
            }
            p.count { (report.summary()) }
            (theme())
        }
    }
}

/// The switch between light, dark and what the reader's system says; it works without a script.
fn theme() -> Markup {
    html! {
        fieldset.theme {
            legend { "Colours" }
            @for (id, word) in [("as-system", "as the system"), ("light", "light"), ("dark", "dark")] {
                input type="radio" name="theme" id=(id) checked[id == "as-system"];
                label for=(id) { (word) }
            }
        }
    }
}

fn nav(report: &Report<'_>) -> Markup {
    let found = report.findings().count();
    html! {
        nav aria-label="Parts of the report" {
            ul {
                li { a href="#times" { "What runs when" } }
                li { a href="#way" { "The way of the site" } }
                li { a href="#findings" { "Findings " span.number { (found) } } }
                li { a href="#accepted" { "Accepted " span.number { (report.accepted.len()) } } }
                li { a href="#facts" { "Facts" } }
                li { a href="#rules" { "Rules" } }
            }
        }
    }
}

/// A sentence of ours, with the words of others as code.
fn said(report: &Report<'_>, text: &str) -> Markup {
    let text = report.shown(text);
    html! { @for (is_code, piece) in pieces(&text) { @if is_code { code { (piece) } } @else { (piece) } } }
}

/// The sign and the class of a severity.
fn weight(severity: Severity) -> (&'static str, &'static str) {
    (crate::render::text::sign(severity).0, severity.word())
}

/// The address of a rule's text in the page.
fn rule_anchor(rule: &str) -> String {
    format!("rule-{}", rule.replace('.', "-"))
}
