//! A full name held against a short one.

use crate::case::Case;
use crate::expression::{Expr, ExprKind, Operator};
use crate::finding::{Edit, Findings, Mend, Severity, WitnessSource};
use crate::model::Text;
use crate::rules::Rule;
use crate::text::Place;

use super::in_scripts::compared_in_scripts;

pub const RULE: Rule = Rule {
    id: "branch.bare-compare",
    severity: Severity::Error,
    title: "A condition holds a full name against a short one",
    why: "One value holds the full name, refs/heads/main, another the short one, main. Held against the wrong kind they are \
          never equal: the job or step is skipped every time, and the run is green.",
    needs: &[],
    bad: &[
        r"
== jobs
  build:
    if: github.ref == «'main'»
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r#"
== steps
      - uses: actions/checkout@v5
      - run: |
          if [ "$GITHUB_REF" = «main» ]; then
            npm run build
          fi
"#,
        r#"
== gitlab
site:
  script:
    - make
  rules:
    - if: $CI_COMMIT_BRANCH == «"refs/heads/main"»
"#,
    ],
    good: &[
        r"
== jobs
  build:
    if: github.ref == 'refs/heads/main' || github.ref_name == 'main' || startsWith(github.ref, 'refs/tags/v')
    runs-on: ubuntu-latest
    steps:
      - run: echo ready
",
        r"
== steps
      - if: contains(github.ref, 'main') && github.ref != '' && github.event.ref == 'main'
        run: ls
",
        r#"
== gitlab
site:
  script:
    - make
  rules:
    - if: $CI_COMMIT_BRANCH == "main"
"#,
    ],
    check,
};

fn check(case: &Case<'_>, out: &mut Findings) {
    case.expressions(&mut |_, text, expression| look(case, expression, text, out));
    for held in compared_in_scripts(case) {
        compare(case, &held, out);
    }
}

fn look(case: &Case<'_>, expression: &Expr, text: &Text, out: &mut Findings) {
    let held = |value: &Expr, literal: &Expr, start: bool, never: &'static str| {
        let (Some(name), ExprKind::Text(word)) = (value.dotted(), &literal.kind) else { return None };
        let (value_at, at) = (text.place(value.range.clone()), text.place(literal.range.clone()));
        Some(Held { shown: name.clone(), name, value_at: Some(value_at), word: word.clone(), at, start, never })
    };
    expression.walk(&mut |part| match &part.kind {
        ExprKind::Binary(operator @ (Operator::Equal | Operator::NotEqual), left, right) => {
            let never = if *operator == Operator::Equal { "never" } else { "always" };
            let both = [held(left, right, false, never), held(right, left, false, never)];
            both.into_iter().flatten().for_each(|held| compare(case, &held, out));
        }
        ExprKind::Call(name, arguments) if name.eq_ignore_ascii_case("startsWith") => {
            if let [value, start] = arguments.as_slice()
                && let Some(held) = held(value, start, true, "never")
            {
                compare(case, &held, out);
            }
        }
        _ => {}
    });
}

/// A value held against a text.
pub(super) struct Held {
    /// The value's name, as conditions write it.
    pub name: String,
    /// The same as it is written here.
    pub shown: String,
    /// Where it stands, when another name may be written there.
    pub value_at: Option<Place>,
    /// The text, without quotes.
    pub word: String,
    /// Where that stands, its quotes included.
    pub at: Place,
    /// Only the beginning is held against it.
    pub start: bool,
    /// What comes of it where the two are of different kinds.
    pub never: &'static str,
}

fn compare(case: &Case<'_>, held: &Held, out: &mut Findings) {
    let Held { name, shown, word, at: place, start, never, .. } = held;
    let known = &case.pipeline.run().values;
    let is = |list: &[&str]| list.iter().any(|one| one.eq_ignore_ascii_case(name));
    let begins_full = word.starts_with("refs") || (*start && "refs/".starts_with(word.as_str()));
    let full = is(known.full) && !word.is_empty() && !begins_full;
    let short = is(known.short) && (word.starts_with("refs/heads/") || word.starts_with("refs/tags/"));
    let quote =
        case.sources.slice(*place).chars().next().filter(|c| matches!(c, '\'' | '"')).map(String::from).unwrap_or_default();
    if full {
        let finding =
            out.add(*place, format!("this is {never} true: `{shown}` holds the full name, and '{word}' is a short one"));
        finding.witness(WitnessSource::Catalog, format!("`{shown}` is refs/heads/BRANCH or refs/tags/TAG"));
        let has = |names: Option<&Vec<String>>| names.is_some_and(|names| names.iter().any(|one| one == word));
        let kind = if has(case.facts.git.tags.known()) && !has(case.facts.git.branches.known()) { "tags" } else { "heads" };
        let instead = format!("{quote}refs/{kind}/{word}{quote}");
        let sure = has(case.facts.git.branches.known()) != has(case.facts.git.tags.known());
        let (title, edit) = (format!("write {instead}"), [Edit::replace(*place, instead)]);
        finding.mend(if sure { Mend::certain(title, edit) } else { Mend::likely(title, edit) });
    } else if short {
        // Without its beginning, a tag is no longer told from a branch, and the beginning of a name may be nothing at all.
        let of_branch = word.strip_prefix("refs/heads/").filter(|bare| !start && !bare.is_empty());
        let full = known.full_of.iter().find(|(short, _)| short.eq_ignore_ascii_case(name)).map(|(_, full)| full);
        let mend = match (of_branch, full.zip(held.value_at)) {
            (Some(bare), _) => {
                let instead = format!("{quote}{bare}{quote}");
                Mend::certain(format!("write {instead}"), [Edit::replace(*place, instead)])
            }
            (None, Some((full, value_at))) => {
                let edit = Edit::replace(value_at, *full);
                Mend::certain(format!("look at `{full}`, which holds the full name"), [edit])
            }
            (None, None) => Mend::by_hand("write the name alone, without what stands before it"),
        };
        out.add(*place, format!("this is {never} true: `{shown}` holds the short name, and '{word}' is a full one"))
            .witness(WitnessSource::Catalog, format!("`{shown}` is BRANCH or TAG, without refs/heads/"))
            .mend(mend);
    }
}
