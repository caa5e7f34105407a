//! Values that come from a closed set, held against words that are not in it. The families speak of them by what the value says.

use crate::case::Case;
use crate::expression::{Expr, ExprKind, Operator};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource, listed_short};
use crate::knowledge::{self, Among, Meant, WordsOf};
use crate::model::{Event, Input, Text};
use crate::text::Place;

/// A word that a value is held against and never is.
struct Strange<'w> {
    /// The value, as it is written.
    value: String,
    word: &'w str,
    /// The word with its quotes.
    at: Place,
    words: Vec<&'w str>,
    meant: Option<Meant>,
    of: WordsOf,
    /// Why it is none of them, where that is known.
    because: Option<&'static str>,
    /// The comparison asks for another word than this.
    negated: bool,
}

/// Speaks of every word of one kind.
pub(super) fn check(case: &Case<'_>, of: WordsOf, out: &mut Findings) {
    case.expressions(&mut |_, text, expression| {
        strange_words(case, text, expression, &mut |strange| {
            if strange.of == of {
                speak(case, &strange, out);
            }
        });
    });
}

/// Whether a condition is held against a word that never occurs.
pub(super) fn stand_in(case: &Case<'_>, text: &Text, expression: &Expr) -> bool {
    let mut found = false;
    strange_words(case, text, expression, &mut |_| found = true);
    found
}

fn strange_words<'w>(case: &'w Case<'_>, text: &Text, expression: &'w Expr, visit: &mut dyn FnMut(Strange<'w>)) {
    let mut hold = |value: &Expr, literal: &'w Expr, negated: bool| {
        let ExprKind::Text(word) = &literal.kind else { return };
        let path: Option<Vec<&str>> =
            value.path_with_stars().map(|path| path.iter().map(|(part, _)| *part).collect::<Vec<&str>>());
        let Some(path) = path else { return };
        let run = case.pipeline.run();
        if let Some(options) =
            options(case, &path).filter(|options| !word.is_empty() && !options.iter().any(|one| one.eq_ignore_ascii_case(word)))
        {
            let meant = knowledge::near(word, options.iter().copied(), Among::Whole);
            let at = text.place(literal.range.clone());
            visit(Strange { value: path.join("."), word, at, words: options, meant, of: WordsOf::Start, because: None, negated });
            return;
        }
        let Some(set) = run.closed(&path).filter(|_| !word.is_empty()) else { return };
        let words = set.words(case.pipeline.format.grammar());
        let strict = case.pipeline.customs.reads_variables;
        let same = |known: &&str| if strict { **known == *word } else { known.eq_ignore_ascii_case(word) };
        let at = text.place(literal.range.clone());
        // A comparison that the format itself stands for is written nowhere.
        if words.iter().any(same) || !case.sources.slice(at).contains(word.as_str()) {
            return;
        }
        let meant = set.meant(word, &words);
        let because = set.because(word);
        visit(Strange { value: path.join("."), word, at, words, meant, of: set.of, because, negated });
    };
    expression.walk(&mut |part| match &part.kind {
        ExprKind::Binary(operator @ (Operator::Equal | Operator::NotEqual), left, right) => {
            let negated = *operator == Operator::NotEqual;
            hold(left, right, negated);
            hold(right, left, negated);
        }
        // `contains(needs.*.result, 'failed')` looks for one word among several values.
        ExprKind::Call(name, arguments) if name.eq_ignore_ascii_case("contains") => {
            if let [whole, word] = arguments.as_slice()
                && whole.path_with_stars().is_some_and(|path| path.iter().any(|(part, _)| *part == "*"))
            {
                hold(whole, word, false);
            }
        }
        _ => {}
    });
}

fn speak(case: &Case<'_>, strange: &Strange<'_>, out: &mut Findings) {
    let Strange { value, word, at, words, meant, because, negated, .. } = strange;
    let holds = if *negated { "always" } else { "never" };
    let finding = out.add(*at, format!("this is {holds} true: `{value}` is never '{word}'"));
    if *negated {
        finding.severity(Severity::Warning);
    }
    let quote = case.sources.slice(*at).chars().next().filter(|c| matches!(c, '\'' | '"'));
    finding
        .witness(
            WitnessSource::Catalog,
            match because {
                Some(because) => (*because).to_owned(),
                None => format!("it is one of {}", listed_short(words)),
            },
        )
        .mend(match (meant, quote) {
            (Some(meant), Some(quote)) => {
                let instead = format!("{quote}{}{quote}", meant.word);
                let title = format!("write {instead}");
                // What never held may now hold: so it is certain only where nothing but a slip of the keys is between the two.
                let edit = [Edit::replace(*at, instead)];
                if meant.sure { Mend::certain(title, edit) } else { Mend::likely(title, edit) }
            }
            _ => Mend::by_hand("write the word that is meant"),
        });
}

/// The only values that an input may have, where every start that gives it lists them.
fn options<'c>(case: &'c Case<'_>, path: &[&str]) -> Option<Vec<&'c str>> {
    let name = match path {
        [first, name] if first.eq_ignore_ascii_case("inputs") => name,
        [.., event, inputs, name] if event.eq_ignore_ascii_case("event") && inputs.eq_ignore_ascii_case("inputs") => name,
        _ => return None,
    };
    let starts = case.pipeline.triggers.iter().filter(|trigger| matches!(trigger.event, Event::Hand | Event::Called));
    let declared: Vec<Option<&Input>> =
        starts.map(|trigger| trigger.inputs.iter().find(|input| input.name.value.eq_ignore_ascii_case(name))).collect();
    let mut all = Vec::new();
    for input in &declared {
        let options = (*input)?.options.as_ref().filter(|options| !options.is_empty())?;
        all.extend(options.iter().map(Text::known).collect::<Option<Vec<&str>>>()?);
    }
    (!all.is_empty()).then_some(all)
}

/// Whether a condition reads what whoever starts the pipeline gives.
pub(super) fn reads_inputs(expression: &Expr) -> bool {
    let mut found = false;
    expression.walk(&mut |part| {
        found |= matches!(&part.kind, ExprKind::Name(name) if name.eq_ignore_ascii_case("inputs"));
    });
    found
}
