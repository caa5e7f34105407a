//! In a sentence: whether the site goes online by itself.

use crate::project::Project;
use crate::rehearsal::{Occasion, OccasionKind};
use crate::text::capital;

use super::way::{NO_WAY, PERHAPS, Way};

/// How it stands with a site.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// It goes online.
    Online,
    /// It may.
    Perhaps,
    /// It does not, as something is wrong.
    Broken,
    /// Nothing is wrong, and a push alone does not publish it; or no pipeline here is known to publish.
    Otherwise,
}

/// A sentence on one way, or on there being none.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Verdict {
    /// In short.
    pub standing: Standing,
    /// The sentence, with its end.
    pub text: String,
}

/// What comes of a push to the default branch, way by way; `events` are the columns of the grid.
pub fn verdicts(project: &Project<'_>, events: &[Occasion], ways: &[Way]) -> Vec<Verdict> {
    if project.prepared.is_empty() {
        return vec![Verdict {
            standing: Standing::Otherwise,
            text: "There is no pipeline file here, so nothing puts a site online.".into(),
        }];
    }
    if ways.is_empty() {
        return vec![Verdict { standing: Standing::Otherwise, text: NO_WAY.into() }];
    }
    let push = push_to_default(project, events);
    ways.iter().map(|way| verdict(way, push.as_deref())).collect()
}

/// "a push to main": to the default branch, or else to the first that is named.
fn push_to_default(project: &Project<'_>, events: &[Occasion]) -> Option<String> {
    let mut pushes = events.iter().filter(|event| event.kind == OccasionKind::Push);
    let default = project.facts.git.default_branch.known();
    match default {
        Some(default) => pushes.find(|event| event.name.as_ref() == Some(default)),
        None => pushes.next(),
    }
    .map(Occasion::told)
    .or_else(|| default.map(|branch| format!("a push to {branch}")))
}

fn verdict(way: &Way, push: Option<&str>) -> Verdict {
    let ends = way.told_ends();
    let by_push = push.filter(|push| way.events.iter().any(|event| event == push));
    let perhaps = push.filter(|push| way.events.iter().any(|event| event.strip_prefix(PERHAPS) == Some(push)));
    let first_event = way.events.first().map(|event| event.trim_start_matches(PERHAPS));
    // What publishes by hand or on tags alone is not meant to be started by a push, unless something keeps that from happening.
    let meant = by_push.or(perhaps).or(push.filter(|_| way.broken.is_some())).or(first_event).or(push);
    let who = meant.map_or_else(|| "This".to_owned(), capital);
    let of = |standing, text: String| Verdict { standing, text };
    match (way.first_break(), by_push, perhaps) {
        (Some(broken), ..) => of(Standing::Broken, format!("{who} does not bring the site to {ends}: {}.", broken.message)),
        (None, Some(push), _) if way.doubt().is_some() => {
            let wrong = way.doubt().map(|doubt| doubt.message.as_str()).unwrap_or_default();
            let text = format!(
                "{} brings the site to {ends}, unless what is wrong beside it keeps it from running: {wrong}.",
                capital(push)
            );
            of(Standing::Perhaps, text)
        }
        (None, Some(push), _) => of(Standing::Online, format!("{} brings the site to {ends}.", capital(push))),
        (None, None, Some(push)) => of(
            Standing::Perhaps,
            format!("{} may bring the site to {ends}; whether it does is only known when it runs.", capital(push)),
        ),
        (None, None, None) => {
            let not = push.map(|push| format!(", not {push}")).unwrap_or_default();
            let verb = if way.events.len() > 1 { "bring" } else { "brings" };
            of(Standing::Otherwise, format!("{} {verb} the site to {ends}{not}.", capital(&way.told_events())))
        }
    }
}
