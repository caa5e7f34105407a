//! `dulk why`.

use anstyle::Style;
use anyhow::bail;
use dulk_core::facts::Settings;
use dulk_core::finding::Severity;
use dulk_core::formats;
use dulk_core::knowledge::nearest;
use dulk_core::rules::{self, FAMILIES, Need, Rule, Section, Slip};
use dulk_gather::{formats_of, settings_of};
use similar::{ChangeTag, TextDiff};

use crate::Outcome;
use crate::render::text::{BOLD, CYAN, DIM, GONE, GREEN, RED, YELLOW};
use crate::screen::{Screen, complain, styled};

/// Runs the command.
///
/// # Errors
/// When there is no such rule.
pub fn run(name: Option<&str>, screen: &mut Screen) -> anyhow::Result<Outcome> {
    let here = std::env::current_dir()?;
    // A rule can be explained whatever stands there; only what the file would set is not known.
    let settings = settings_of(&here).unwrap_or_else(|error| {
        complain(&format!("{error}; the weights are those without it"));
        Settings::default()
    });
    match name {
        None => list(&settings, screen),
        Some(name) => match rules::find(name) {
            Some(rule) => explain(rule, &settings, &formats_of(&here), screen),
            None if FAMILIES.contains(&name) => family(name, &settings, screen),
            None => {
                let hint = nearest(name, rules::all().map(|rule| rule.id))
                    .map(|near| format!(" Did you mean {near}?"))
                    .unwrap_or_default();
                bail!("there is no rule {name}.{hint} dulk why lists them all");
            }
        },
    }
    Ok(Outcome::Clean)
}

fn in_force(rule: &Rule, settings: &Settings) -> &'static str {
    match settings.rules.get(rule.id) {
        Some(None) => "off",
        Some(Some(severity)) => severity.word(),
        None => rule.severity.word(),
    }
}

fn list(settings: &Settings, screen: &mut Screen) {
    for name in FAMILIES {
        family(name, settings, screen);
        screen.line("");
    }
    screen.line("dulk why RULE explains one of them.");
}

fn family(name: &str, settings: &Settings, screen: &mut Screen) {
    screen.line(&styled(BOLD, name));
    for rule in rules::all().filter(|rule| rule.family() == name) {
        let severity = in_force(rule, settings);
        let style = match severity {
            "error" => RED,
            "warning" => YELLOW,
            "off" => DIM,
            _ => CYAN,
        };
        let head = format!("  {:<32}", rule.id);
        screen.hang(&format!("{head}{}", styled(style, &format!("{severity:<9}"))), rule.title);
    }
}

fn explain(rule: &Rule, settings: &Settings, here: &[&str], screen: &mut Screen) {
    screen.line(&format!("{}  {}", styled(BOLD, rule.id), in_force(rule, settings)));
    screen.hang("", rule.title);
    screen.line("");
    screen.hang("", rule.why);
    let pairs = examples(rule, here);
    for (wrong, right) in &pairs {
        screen.line("");
        compare(wrong, right, screen);
    }
    screen.line("");
    if !rule.needs.is_empty() {
        let needs: Vec<&str> = rule.needs.iter().map(|need| Need::words(*need)).collect();
        let needs = dulk_core::finding::listed(&needs);
        screen.hang("", &format!("It needs to know {needs}; where that is not known, it says nothing."));
        screen.line("");
    }
    screen.line("To accept it on one line, with a reason:");
    screen.line(&format!("    # dulk: accept {} because …", rule.id));
    screen.line("To weigh it otherwise everywhere, in dulk.toml:");
    screen.line("    [rules]");
    let other = if rule.severity == Severity::Advice { "off" } else { "advice" };
    screen.line(&format!("    {} = \"{other}\"", rule.id));
}

/// More formats than this are not shown where the repository has none of them.
const SHOWN: usize = 2;

/// A wrong example and a right one beside it, the two that are most alike: of each format that the repository has, or else of the
/// first that the rule speaks of.
pub fn examples(rule: &Rule, here: &[&str]) -> Vec<(Slip, Slip)> {
    let of = |texts: &[&str], format: &str| -> Vec<Slip> {
        texts.iter().map(|text| Slip::read(text)).filter(|slip| slip.format() == format).collect()
    };
    let nearest = |format: &str| {
        let (wrong, right) = (of(rule.bad, format), of(rule.good, format));
        // Where nothing right is shown in its format, one in another one says as much.
        let right = if right.is_empty() { rule.good.iter().map(|text| Slip::read(text)).collect() } else { right };
        let pairs = wrong.into_iter().flat_map(|one| right.iter().map(move |other| (one.clone(), other.clone())));
        let likeness = |(one, other): &(Slip, Slip)| TextDiff::from_lines(&shown_parts(one), &shown_parts(other)).ratio();
        pairs.max_by(|one, other| likeness(one).total_cmp(&likeness(other)))
    };
    let own: Vec<(Slip, Slip)> = here.iter().filter_map(|format| nearest(format)).collect();
    if own.is_empty() { formats::all().iter().filter_map(|format| nearest(format.id())).take(SHOWN).collect() } else { own }
}

/// The files of an example under each other.
pub fn shown_parts(slip: &Slip) -> String {
    let mut text = String::new();
    for section in &slip.sections {
        let name = match section.name.as_str() {
            "git" => "git's branches and tags".to_owned(),
            "files" => "files".to_owned(),
            _ => section.path().unwrap_or_default().to_owned(),
        };
        text.push_str(&format!("# {name}\n{}", with_end(section)));
    }
    text
}

fn with_end(section: &Section) -> String {
    let text = section.text.trim_end();
    format!("{text}\n")
}

/// The lines of a wrong example and of a right one, and whether each is another one there.
pub fn sides(wrong: &str, right: &str) -> [Vec<(bool, String)>; 2] {
    let diff = TextDiff::from_lines(wrong, right);
    [ChangeTag::Insert, ChangeTag::Delete].map(|left_out| {
        let changes = diff.iter_all_changes().filter(|change| change.tag() != left_out);
        changes.map(|change| (change.tag() != ChangeTag::Equal, change.value().trim_end().to_owned())).collect()
    })
}

fn compare(wrong: &Slip, right: &Slip, screen: &mut Screen) {
    let [wrong, right] = sides(&shown_parts(wrong), &shown_parts(right));
    for (title, style, lines) in [("wrong", GONE, wrong), ("right", GREEN, right)] {
        screen.line(&styled(style, title));
        for (differs, line) in lines {
            let sign = if differs { ">" } else { " " };
            screen.of_file(if differs { style } else { Style::new() }, &format!("  {sign} {line}"));
        }
    }
}
