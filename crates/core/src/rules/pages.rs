//! The pages of the rules under docs/rules, made from the rules themselves.

use std::fmt::Write;

use super::{FAMILIES, Need, Rule, Slip, all};

/// What each family looks at.
const FAMILY_WORDS: [(&str, &str); 10] = [
    ("form", "whether the file is read at all, and says what its format knows"),
    ("trigger", "what starts the pipeline"),
    ("branch", "branches and tags that it names"),
    ("order", "which job and step comes first, and what waits for what"),
    ("permission", "what a job's token may do"),
    ("secret", "which secrets and variables are read, where, and by whom"),
    ("cache", "what is cached, under which key"),
    ("artifact", "the folder from the build to the publish"),
    ("site", "the site itself: scripts, lockfile, base path, front page"),
    ("upkeep", "what has gone stale since the example was written"),
];

/// The page of a family, in Markdown.
pub fn page(family: &str) -> String {
    let mut out = String::new();
    let words = FAMILY_WORDS.iter().find(|(name, _)| *name == family).map_or("", |(_, words)| words);
    let _ = writeln!(
        out,
        "<!-- Made from the rules by the tests; DULK_WRITE_DOCS=1 cargo test -p dulk-core writes it anew. -->\n\n# {family}\n\nThese rules look at {words}."
    );
    for rule in all().filter(|rule| rule.family() == family) {
        rule_section(rule, &mut out);
    }
    out
}

fn rule_section(rule: &Rule, out: &mut String) {
    let _ = write!(out, "\n## {}\n\n**{}.** ({})\n\n{}\n", rule.id, rule.title, rule.severity.word(), rule.why);
    for (title, examples) in [("Wrong", rule.bad), ("Right", rule.good)] {
        for format in crate::formats::all() {
            let Some(slip) = examples.iter().map(|text| Slip::read(text)).find(|slip| slip.format() == format.id()) else {
                continue;
            };
            let _ = writeln!(out, "\n{title}:\n\n```yaml");
            for section in &slip.sections {
                let name = section.path().unwrap_or(if section.name == "git" { "git: branches and tags" } else { "files" });
                let _ = writeln!(out, "# {name}\n{}", section.text.trim_end());
            }
            out.push_str("```\n");
        }
    }
    if !rule.needs.is_empty() {
        let needs: Vec<&str> = rule.needs.iter().map(|need| Need::words(*need)).collect();
        let _ = writeln!(out, "\nIt needs to know {}; where that is not known, it says nothing.", crate::finding::listed(&needs));
    }
}

/// The list of all families with their rules.
pub fn index() -> String {
    let mut out = String::from(
        "<!-- Made from the rules by the tests; DULK_WRITE_DOCS=1 cargo test -p dulk-core writes it anew. -->\n\n# The rules\n",
    );
    for family in FAMILIES {
        let _ = writeln!(out, "\n## [{family}]({family}.md)\n");
        for rule in all().filter(|rule| rule.family() == family) {
            let anchor: String = rule.id.chars().filter(|c| *c != '.').collect();
            let _ = writeln!(out, "- [{}]({family}.md#{anchor}) ({}): {}", rule.id, rule.severity.word(), rule.title);
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_pages_are_up_to_date() {
        let dir = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/rules");
        let mut pages: Vec<(String, String)> = FAMILIES.iter().map(|family| (format!("{family}.md"), page(family))).collect();
        pages.push(("README.md".into(), index()));
        if std::env::var_os("DULK_WRITE_DOCS").is_some() {
            std::fs::create_dir_all(&dir).unwrap_or_else(|error| panic!("{error}"));
            for (name, text) in &pages {
                std::fs::write(dir.join(name), text).unwrap_or_else(|error| panic!("{error}"));
            }
        }
        for (name, text) in &pages {
            let written = std::fs::read_to_string(dir.join(name)).unwrap_or_default();
            assert!(written == *text, "docs/rules/{name} is out of date: DULK_WRITE_DOCS=1 cargo test -p dulk-core writes it");
        }
    }
}
