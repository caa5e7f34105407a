//! Findings as the protocol's diagnostics.

use std::str::FromStr;

use dulk_core::finding::{Finding, HERE_TOO, Severity, WitnessSource};
use dulk_core::shown::shown;
use dulk_core::text::{Place, SourceFile, Sources};
use lsp_types::{
    CodeDescription, Diagnostic, DiagnosticRelatedInformation, DiagnosticSeverity, DiagnosticTag, Location, NumberOrString,
    Position, Range, Uri,
};

use crate::client::Client;
use crate::house::{House, SETTINGS};
use crate::session::Session;

/// Who says so.
const SOURCE: &str = "dulk";

/// Rules that find what does nothing: an editor shows it faded.
const DEAD: [&str; 9] = [
    "trigger.dead-path",
    "trigger.dead-clock",
    "trigger.shadowed",
    "trigger.never-reached",
    "branch.never-matches",
    "branch.fits-none",
    "artifact.unused",
    "form.idle-acceptance",
    "form.fixed-condition",
];

/// A place as the client knows it.
pub fn location(session: &Session, house: &House, place: Place) -> Option<Location> {
    let source = house.sources()?.get(place.file);
    Some(Location { uri: session.uri_of(house, &source.path)?, range: session.client.encoding.range(source, place.span) })
}

/// The diagnostics of the file that some findings stand in.
pub fn diagnostics(session: &Session, house: &House, sources: &Sources, findings: &[&Finding]) -> Vec<Diagnostic> {
    findings.iter().map(|finding| diagnostic(session, house, sources, finding)).collect()
}

/// One finding. Whatever a client cannot show in its own way stands in the message.
pub fn diagnostic(session: &Session, house: &House, sources: &Sources, finding: &Finding) -> Diagnostic {
    let client = &session.client;
    let mut message = format!("{}.", shown(&finding.message));
    let mut related = Vec::new();
    for witness in &finding.witnesses {
        let text = if witness.text == HERE_TOO { "here too".to_owned() } else { shown(&witness.text) };
        let place = match witness.source {
            WitnessSource::At(at) => Some(at),
            _ => None,
        };
        match place.and_then(|at| location(session, house, at)).filter(|_| client.shows_related) {
            Some(location) => related.push(DiagnosticRelatedInformation { location, message: text }),
            None => message.push_str(&format!("\nBut {}: {text}", where_known(&witness.source, sources))),
        }
    }
    if !finding.mend.title.is_empty() {
        message.push_str(&format!("\nDo: {}", shown(&finding.mend.title)));
    }
    Diagnostic {
        range: client.encoding.range(sources.get(finding.at.file), finding.at.span),
        severity: Some(match finding.severity {
            Severity::Error => DiagnosticSeverity::ERROR,
            Severity::Warning => DiagnosticSeverity::WARNING,
            Severity::Advice => DiagnosticSeverity::INFORMATION,
        }),
        code: Some(NumberOrString::String(finding.rule.to_owned())),
        code_description: page_of(finding.rule, client).map(|href| CodeDescription { href }),
        source: Some(SOURCE.to_owned()),
        message,
        related_information: (!related.is_empty()).then_some(related),
        tags: tag(finding.rule).filter(|_| client.shows_tags).map(|tag| vec![tag]),
        data: None,
    }
}

/// What dulk.toml is refused for.
pub fn of_settings(source: Option<&SourceFile>, line: u32, reason: &str, client: &Client) -> Diagnostic {
    let start = Position::new(line.saturating_sub(1), 0);
    let range = match source {
        Some(source) => {
            let from = source.line_start(line);
            let text = source.text[from..].lines().next().unwrap_or_default();
            let lead = text.len() - text.trim_start().len();
            let of = |offset| client.encoding.position(source, offset);
            Range { start: of(from + lead), end: of(from + text.trim_end().len()) }
        }
        None => Range { start, end: start },
    };
    Diagnostic {
        range,
        severity: Some(DiagnosticSeverity::ERROR),
        // It is told under its own name, as no rule finds it.
        code: Some(NumberOrString::String(SETTINGS.to_owned())),
        source: Some(SOURCE.to_owned()),
        message: format!("{}. Until that is mended, what stood here before counts.", shown(reason)),
        ..Diagnostic::default()
    }
}

/// The page of a rule, where the user has said where those lie.
fn page_of(rule: &str, client: &Client) -> Option<Uri> {
    let pages = client.wishes.rule_pages.as_deref()?.trim_end_matches('/');
    Uri::from_str(&format!("{pages}/{rule}.md")).ok()
}

fn tag(rule: &str) -> Option<DiagnosticTag> {
    let name = rule.split_once('.').map_or(rule, |(_, name)| name);
    if rule.starts_with("upkeep.") && (name.starts_with("retired-") || name.starts_with("gone-")) {
        return Some(DiagnosticTag::DEPRECATED);
    }
    DEAD.contains(&rule).then_some(DiagnosticTag::UNNECESSARY)
}

/// Where a witness is known from, as the beginning of what it says.
fn where_known(source: &WitnessSource, sources: &Sources) -> String {
    match source {
        WitnessSource::Git => "git".to_owned(),
        WitnessSource::Files => "the files".to_owned(),
        WitnessSource::Catalog => "the manual".to_owned(),
        WitnessSource::At(at) => {
            let source = sources.get(at.file);
            format!("{}:{}", shown(&source.path), source.position(at.span.start).line)
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rules_with_a_tag_are_rules() {
        for rule in DEAD {
            assert!(dulk_core::rules::find(rule).is_some(), "{rule}");
        }
        assert_eq!(tag("upkeep.retired-action"), Some(DiagnosticTag::DEPRECATED));
        assert_eq!(tag("upkeep.moving"), None);
    }
}
