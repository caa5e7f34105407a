//! One function for each thing that is read by itself.

use dulk_core::carrier::{self, Tree};
use dulk_core::expression::{Expr, holes, parse, parse_phrases, parse_shell_test, parse_variables};
use dulk_core::facts::{config, read_settings};
use dulk_core::pattern::Glob;
use dulk_core::rehearsal::{check_clock, clock_words, least_by_minutes, least_gap, next_times, read_clock, regex_fits};
use dulk_core::shell::{sets_unknown_variables, variable_reads, variables_set};
use dulk_core::text::{SourceFile, Sources, Span};

use crate::held::{Held, inside};

/// Bytes as text, or nothing: what is no text is refused before anything is read.
fn text(data: &[u8]) -> &str {
    std::str::from_utf8(data).unwrap_or_default()
}

/// Every part of a tree lies in its text.
fn check_tree(tree: &Tree, text: &str) {
    tree.errors.iter().for_each(|error| inside(text, error.span));
    for root in &tree.documents {
        check_node(tree, *root, text);
    }
}

fn check_node(tree: &Tree, node: carrier::NodeId, text: &str) {
    inside(text, tree.node(node).span);
    // What an anchor stands for is looked at where it stands.
    for item in tree.items(node) {
        inside(text, tree.node(*item).span);
    }
    for (key, value) in tree.pairs(node) {
        inside(text, tree.node(*key).span);
        inside(text, tree.node(*value).span);
    }
}

/// YAML and JSON.
pub fn yaml(data: &[u8]) {
    let text = text(data);
    check_tree(&carrier::parse(text), text);
}

/// Configuration: the first byte chooses the language by the ending of a path.
pub fn config(data: &[u8]) {
    const PATHS: [&str; 8] = [
        "package.json", "tsconfig.json", "netlify.toml", "hugo.yaml", "vite.config.js", "astro.config.mjs", "next.config.ts", "nuxt.config.tsx",
    ];
    let Some((first, rest)) = data.split_first() else { return };
    let text = text(rest);
    if let Err(error) = config::read(PATHS[usize::from(*first) % PATHS.len()], text) {
        inside(text, error.span);
    }
}

/// dulk.toml.
pub fn settings(data: &[u8]) {
    let mut sources = Sources::default();
    let file = sources.add(SourceFile::new("dulk.toml", text(data).to_owned()));
    if let Err(error) = read_settings(file, sources.get(file)) {
        let breaks = text(data).matches(['\n', '\r']).count();
        assert!(error.line >= 1 && error.line as usize <= breaks + 1);
    }
}

/// Conditions, in each of their languages.
pub fn conditions(data: &[u8]) {
    let text = text(data);
    let check = |expression: &Expr| {
        expression.walk(&mut |part| inside(text, Span::new(part.range.start, part.range.end)));
        let _ = (expression.path(), expression.dotted(), expression.path_with_stars());
    };
    for hole in holes(text) {
        inside(text, Span::new(hole.range.start, hole.range.end));
        if let Ok(expression) = &hole.inside {
            check(expression);
        }
    }
    for read in [parse(text, 0..text.len()), parse_phrases(text), parse_shell_test(text), parse_variables(text)] {
        match read {
            Ok(expression) => check(&expression),
            Err(error) => inside(text, Span::new(error.range.start, error.range.end)),
        }
    }
}

/// A script of a shell.
pub fn shell(data: &[u8]) {
    let text = text(data);
    let script = dulk_core::shell::parse(text);
    for (name, range) in [true, false].into_iter().flat_map(|of_script| variable_reads(text, of_script)) {
        assert!(text.get(range).is_some_and(|read| read.contains(name)));
    }
    let _ = (variables_set(text), sets_unknown_variables(text), format!("{script:?}").len());
}

/// A pattern, and a name for it behind the first line.
pub fn patterns(data: &[u8]) {
    let (pattern, name) = text(data).split_once('\n').unwrap_or((text(data), "main"));
    if let Ok(glob) = Glob::read(pattern) {
        let _ = glob.fits(name);
        // Without signs that mean something, a pattern fits its own name and no other.
        if pattern.chars().all(|c| c.is_alphanumeric() || "/.-_ ".contains(c)) {
            assert!(glob.fits(pattern) && glob.fits(name) == (name == pattern));
        }
    }
    let _ = (regex_fits(pattern, false, name), regex_fits(pattern, true, name));
}

/// A line of the clock.
pub fn clock(data: &[u8]) {
    let text = text(data);
    let _ = (clock_words(text), least_by_minutes(text));
    // What is told quickly is what is told in full.
    assert_eq!(check_clock(text).is_ok(), read_clock(text).is_ok());
    if let Ok(time) = read_clock(text) {
        let next = next_times(&time, 1_764_028_800, 3);
        assert!(next.len() <= 3);
        let _ = least_gap(&time);
    }
}

/// What may hold a credential.
pub fn mask(data: &[u8]) {
    let text = text(data);
    let masked = dulk_core::mask::mask(text);
    // Lines stay lines, so that what is shown stands where it did.
    assert_eq!(masked.matches('\n').count(), text.matches('\n').count());
}

/// A single pipeline file at the place of its format.
fn one(path: &str, data: &[u8]) {
    let held = Held::new([(path.to_owned(), text(data).to_owned()), ("package.json".to_owned(), PACKAGE.to_owned())]);
    held.check_all(false);
}

const PACKAGE: &str = r#"{"scripts": {"build": "vite build", "test": "vitest run"}, "devDependencies": {"vite": "7.0.0"}}"#;

macro_rules! readers {
    ($($name:ident $path:literal)*) => {$(
        #[doc = concat!("`", $path, "`")]
        pub fn $name(data: &[u8]) {
            one($path, data);
        }
    )*};
}

readers! {
    workflow ".github/workflows/sail.yml"
    gitlab ".gitlab-ci.yml"
    travis ".travis.yml"
    buddy "buddy.yml"
    buildspec "buildspec.yml"
    amplify "amplify.yml"
    codepipeline "infra/way.yml"
    cloudbuild "cloudbuild.yaml"
    jenkins "Jenkinsfile"
}
