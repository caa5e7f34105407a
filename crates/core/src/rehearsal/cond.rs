//! Whether a condition holds: yes, no or unknown, with the place that decides.

use super::OccasionKind;
use super::job::{Known, Scene};
use super::value::any;
use crate::model::{Cond, FilterOf, Job, Pattern};
use crate::pattern::Matcher;
use crate::text::Place;

/// Yes, no or unknown, and the place of what decided.
pub(super) type Held = (Option<bool>, Option<Place>);

impl Scene<'_> {
    /// Whether a condition holds for a job, or for the whole pipeline.
    pub fn holds(&self, cond: &Cond, job: Option<&Job>, known: &[Option<Known>]) -> Held {
        let own = |held: Option<bool>| (held, cond.at());
        match cond {
            Cond::Asks(condition) => {
                own(condition.expression().and_then(|expression| self.evaluate(expression, job, known).truth()))
            }
            Cond::Changed(patterns) => own(self.changed(patterns)),
            Cond::Exists(patterns) => own(self.exists(patterns)),
            Cond::Named { of, patterns } => own(self.named(*of, patterns)),
            Cond::All(inner) => self.first_that_is(inner, false, job, known),
            Cond::Any(inner) => self.first_that_is(inner, true, job, known),
            Cond::Not(inner) => {
                let (held, at) = self.holds(inner, job, known);
                (held.map(|held| !held), at)
            }
            Cond::Opaque(_) => own(None),
        }
    }

    /// The first of several that settles it by being so, or else the first that is not known; none of either is the opposite.
    fn first_that_is(&self, inner: &[Cond], settles: bool, job: Option<&Job>, known: &[Option<Known>]) -> Held {
        let mut unknown: Option<Held> = None;
        let mut last = None;
        for one in inner {
            let (held, at) = self.holds(one, job, known);
            match held {
                Some(held) if held == settles => return (Some(settles), at),
                Some(_) => last = at,
                None => unknown = unknown.or(Some((None, at))),
            }
        }
        unknown.unwrap_or((Some(!settles), last))
    }

    /// Where no comparison is possible the format takes changes for given.
    fn changed(&self, patterns: &[Pattern]) -> Option<bool> {
        if matches!(self.occasion.kind, OccasionKind::Tag | OccasionKind::Clock | OccasionKind::Hand) {
            return Some(true);
        }
        let changed = self.occasion.changed.as_ref()?;
        if changed.is_empty() {
            return Some(false);
        }
        any(patterns.iter().map(|pattern| {
            let matcher = Matcher::of(pattern)?;
            Some(changed.iter().any(|path| matcher.fits(path)))
        }))
    }

    fn exists(&self, patterns: &[Pattern]) -> Option<bool> {
        let files = self.facts.files.known()?;
        if files.is_empty() {
            return Some(false);
        }
        any(patterns.iter().map(|pattern| Matcher::of_some_file(pattern, files)))
    }

    /// Whether the run is for a branch or a tag, as is asked, and that fits.
    fn named(&self, of: FilterOf, patterns: &[Pattern]) -> Option<bool> {
        let is_tag = matches!(self.occasion.kind, OccasionKind::Tag | OccasionKind::Release | OccasionKind::OutsideTag);
        if is_tag != (of == FilterOf::Tags) {
            return Some(false);
        }
        let name = if is_tag { self.occasion.name.as_deref() } else { self.occasion.branch() }?;
        any(patterns.iter().map(|pattern| super::pattern_fits(pattern, name)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::{Condition, Language, PatternSyntax, Text};
    use crate::rehearsal::{Answer, Occasion, rehearse};
    use crate::rules::slip::Slip;
    use crate::text::{FileId, Span};

    fn place(start: usize) -> Place {
        Place { file: FileId(0), span: Span::new(start, start + 1) }
    }

    fn patterns(words: &[&str], at: usize) -> Vec<Pattern> {
        words.iter().map(|word| Pattern { text: Text::fixed(word, place(at)), syntax: PatternSyntax::Glob }).collect()
    }

    fn asks(text: &str, at: usize) -> Cond {
        Cond::asks(Condition::new(Text::fixed(text, place(at)).filled_in_by(Language::Contexts)))
    }

    #[test]
    fn every_answer_has_the_place_that_decided() {
        let scene = Slip::read("== files\nwww/quay.md\n== jobs\n  a: {runs-on: x, steps: [{run: ls}]}\n").scene();
        let branch = |word| Cond::Named { of: FilterOf::Branches, patterns: patterns(&[word], 1) };
        let tag = Cond::Named { of: FilterOf::Tags, patterns: patterns(&["**"], 2) };
        let there = Cond::Exists(patterns(&["www/**"], 3));
        let changed = |word| Cond::Changed(patterns(&[word], 4));
        let dark = Cond::Opaque(place(5));
        let (yes, no, unsure) = (Answer::Yes, Answer::No, Answer::Unsure);
        let push = Occasion { changed: Some(vec!["www/quay.md".to_owned()]), ..Occasion::new(OccasionKind::Push, Some("main")) };
        for (cond, answer, at) in [
            (branch("main"), yes, 1),
            (branch("quay"), no, 1),
            (tag.clone(), no, 2),
            (there.clone(), yes, 3),
            (changed("www/**"), yes, 4),
            (changed("docs/**"), no, 4),
            (dark.clone(), unsure, 5),
            (Cond::All(vec![there.clone(), dark.clone(), branch("quay")]), no, 1),
            (Cond::All(vec![branch("main"), dark.clone(), there.clone()]), unsure, 5),
            (Cond::Any(vec![branch("quay"), dark.clone(), there.clone()]), yes, 3),
            (Cond::Any(vec![branch("quay"), tag.clone()]), no, 2),
            (Cond::Any(vec![tag.clone(), dark.clone()]), unsure, 5),
            (Cond::Not(Box::new(tag.clone())), yes, 2),
            (Cond::Not(Box::new(dark)), unsure, 5),
            (Cond::All(vec![asks("github.ref_name == 'main'", 6), Cond::Not(Box::new(asks("false", 7)))]), yes, 7),
        ] {
            let mut pipeline = scene.prepared[0].pipeline.clone();
            pipeline.jobs[0].when.cond = Some(cond.clone());
            let verdict = &rehearse(&pipeline, &push, &scene.facts).jobs[0];
            assert_eq!((verdict.answer, verdict.at), (answer, Some(place(at))), "{cond:?}");
        }
    }

    #[test]
    fn what_always_holds_decides_nothing() {
        assert!(Cond::always().holds_anyway() && Cond::All(vec![Cond::always()]).holds_anyway());
        assert!(!asks("true", 0).holds_anyway());
        assert_eq!(Cond::always().at(), None);
    }
}
