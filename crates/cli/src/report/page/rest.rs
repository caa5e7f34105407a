//! What was accepted, what is known, and what the rules say that found something.

use dulk_core::rules;
use dulk_core::views::facts::Group;
use maud::{Markup, html};

use super::{Report, rule_anchor, said};
use crate::render::text;
use crate::why::{examples, shown_parts, sides};

/// What was accepted, and why.
pub fn accepted(report: &Report<'_>) -> Markup {
    html! {
        section #accepted aria-labelledby="accepted-title" {
            h2 #accepted-title { "Accepted" }
            @if report.accepted.is_empty() { p { "Nothing was accepted." } }
            @else {
                div.scroll role="region" tabindex="0" aria-label="What was accepted" {
                    table {
                        thead { tr { th scope="col" { "rule" } th scope="col" { "because" } th scope="col" { "where" } } }
                        tbody {
                            @for one in &report.accepted {
                                tr {
                                    th scope="row" { (report.shown(&one.rule)) }
                                    td { (report.shown(&one.because)) }
                                    td.from {
                                        (report.shown(&text::place(one.at, report.project.sources)))
                                        @if let Some(file) = &one.file { ", for " (report.shown(file)) }
                                    }
                                }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// What is known of the repository, from where, and what is not.
pub fn facts(report: &Report<'_>) -> Markup {
    html! {
        section #facts aria-labelledby="facts-title" {
            h2 #facts-title { "Facts" }
            p { "What is known of the repository, and from where. Where something is not known, no rule speaks of it." }
            @for group in Group::ALL {
                @let lines: Vec<_> = report.facts.iter().filter(|line| line.group == group).collect();
                @if !lines.is_empty() {
                    h3 id={ "facts-" (group.word()) } { (group.word()) }
                    div.scroll role="region" tabindex="0" aria-labelledby={ "facts-" (group.word()) } {
                        table {
                            tbody {
                                @for line in lines {
                                    tr {
                                        th scope="row" { (report.shown(&line.name)) }
                                        @match &line.value {
                                            Some(value) => td { (report.shown(value)) },
                                            None => td.unknown { "not known" },
                                        }
                                        td.from {
                                            (report.shown(&line.from))
                                            @if let Some((table, wanted)) = &line.declare {
                                                br; "dulk.toml would tell it: " code { "[" (table) "] " (report.shown(wanted)) }
                                            }
                                        }
                                    }
                                }
                            }
                        }
                    }
                }
            }
        }
    }
}

/// The text of every rule that found something.
pub fn rules(report: &Report<'_>) -> Markup {
    let formats = report.formats();
    html! {
        section #rules aria-labelledby="rules-title" {
            h2 #rules-title { "Rules" }
            @if report.findings().next().is_none() { p { "No rule found anything." } }
            @for rule in report.rules().into_iter().filter_map(rules::find) {
                article id=(rule_anchor(rule.id)) aria-labelledby={ (rule_anchor(rule.id)) "-title" } {
                    h3 id={ (rule_anchor(rule.id)) "-title" } { (rule.id) }
                    p { strong { (rule.title) } ". " (said(report, rule.why)) }
                    @if let Some((wrong, right)) = examples(rule, &formats).first() {
                        details { summary { "An example" } (pair(&report.shown_lines(&shown_parts(wrong)), &report.shown_lines(&shown_parts(right)))) }
                    }
                }
            }
        }
    }
}

fn pair(wrong: &str, right: &str) -> Markup {
    let [wrong, right] = sides(wrong, right);
    html! {
        div.pair {
            @for (title, style, lines) in [("wrong", "goes", wrong), ("right", "comes", right)] {
                div {
                    h4 { (title) }
                    div.code role="region" tabindex="0" aria-label=(title) {
                        @for (differs, text) in lines {
                            span.row.(if differs { style } else { "stays" }) { span.sign { (if differs { ">" } else { "" }) } (text) }
                        }
                    }
                }
            }
        }
    }
}
