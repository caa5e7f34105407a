//! Lines of a file that is written for people: indented, with comments that are as wide as a screen.

use crate::carrier::{Core, resolve_plain};

use super::{Plan, Publishing};
use crate::knowledge::WantedVariable;
use crate::shown::harmless;

/// Comments are no wider than this, in characters.
const WIDTH: usize = 100;

/// A file as it is written, line by line.
#[derive(Debug)]
pub struct Paper {
    text: String,
    depth: usize,
    step: &'static str,
    sign: &'static str,
}

impl Paper {
    /// An empty one; `step` is what a line is moved in by, and `sign` begins a comment.
    pub fn new(step: &'static str, sign: &'static str) -> Self {
        Self { text: String::new(), depth: 0, step, sign }
    }

    /// One of YAML.
    pub fn yaml() -> Self {
        Self::new("  ", "#")
    }

    /// A line.
    pub fn line(&mut self, text: impl AsRef<str>) {
        let text = text.as_ref();
        if !text.is_empty() {
            self.text.push_str(&self.step.repeat(self.depth));
            self.text.push_str(text);
        }
        self.text.push('\n');
    }

    /// Several lines.
    pub fn lines<T: AsRef<str>>(&mut self, lines: &[T]) {
        lines.iter().for_each(|line| self.line(line));
    }

    /// An empty line.
    pub fn gap(&mut self) {
        self.text.push('\n');
    }

    /// A comment, on as many lines as it takes.
    pub fn comment(&mut self, text: &str) {
        self.hanging("", text);
    }

    /// A comment that begins with something; what follows stands under where the text began.
    fn hanging(&mut self, first: &str, text: &str) {
        let room = WIDTH.saturating_sub(self.step.len() * self.depth + self.sign.len() + 1 + first.len());
        let mut line = String::new();
        let mut start = first.to_owned();
        // What comes from the repository's files never ends a comment, and hides nothing in it.
        let text = harmless(text);
        for word in text.split(' ') {
            if !line.is_empty() && line.chars().count() + 1 + word.chars().count() > room {
                self.line(format!("{} {start}{line}", self.sign));
                start = " ".repeat(first.len());
                line.clear();
            }
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(word);
        }
        self.line(format!("{} {start}{line}", self.sign));
    }

    /// A line, and what stands below it, one step further in.
    pub fn block(&mut self, head: impl AsRef<str>, below: impl FnOnce(&mut Self)) {
        self.line(head);
        self.inside(below);
    }

    /// The same, and nothing at all where nothing stands below.
    pub fn optional_block(&mut self, head: impl AsRef<str>, below: impl FnOnce(&mut Self)) {
        let before = self.text.len();
        self.line(head);
        let without = self.text.len();
        self.inside(below);
        if self.text.len() == without {
            self.text.truncate(before);
        }
    }

    /// Lines one step further in.
    pub fn inside(&mut self, below: impl FnOnce(&mut Self)) {
        self.depth += 1;
        below(self);
        self.depth -= 1;
    }

    /// A list of YAML below a key.
    pub fn list<T: AsRef<str>>(&mut self, key: &str, items: &[T]) {
        self.block(format!("{key}:"), |paper| items.iter().for_each(|item| paper.line(format!("- {}", in_yaml(item.as_ref())))));
    }

    /// A list of YAML behind its key, for a few short words.
    pub fn short_list<T: AsRef<str>>(&mut self, key: &str, items: &[T]) {
        let words: Vec<String> = items.iter().map(|item| in_yaml(item.as_ref())).collect();
        let is_tame = words.iter().all(|word| !word.contains([',', '[', ']', '{', '}']));
        if is_tame {
            self.line(format!("{key}: [{}]", words.join(", ")));
        } else {
            self.list(key, items);
        }
    }

    /// What a person has to read first.
    pub fn head(&mut self, plan: &Plan<'_>, head: &Head<'_>) {
        self.comment(&format!("{}. Drafted by dulk from what this repository holds.", plan.title()));
        let host = plan.host.before.iter().map(|line| (*line).to_owned());
        let mut todo: Vec<String> = head.before.iter().cloned().chain(host).collect();
        if let Some(file) = plan.host.takes_file.filter(|_| !plan.has_host_file) {
            todo.push(format!("Write {file}, which names the folder `{}`: the host's program asks for it.", plan.output));
        }
        let as_file = |one: &&WantedVariable| one.a_file && head.publishing.gives_files;
        let (files, secrets): (Vec<_>, Vec<_>) = head.publishing.secrets.iter().partition(as_file);
        let wanted: Vec<_> = [(head.secrets, &secrets), (head.files, &files), (head.variables, &head.publishing.asked)]
            .into_iter()
            .filter(|(place, names)| !place.is_empty() && !names.is_empty())
            .collect();
        if !todo.is_empty() || !wanted.is_empty() {
            self.line(self.sign);
            self.comment("Before the first push:");
            todo.iter().for_each(|point| self.hanging("- ", point));
        }
        for (place, names) in wanted {
            self.hanging("- ", &format!("{place}:"));
            names.iter().for_each(|one| self.hanging("    ", &format!("{}: {}", one.name, one.what)));
        }
        if !plan.asks.is_empty() {
            self.line(self.sign);
            self.comment("Not known from the files, so look at it:");
            plan.asks.iter().for_each(|point| self.hanging("- ", point));
        }
        self.gap();
    }

    /// The whole file.
    pub fn finish(self) -> String {
        self.text
    }
}

/// What the head of a file says besides what the plan knows.
#[derive(Debug)]
pub struct Head<'h> {
    /// What publishes.
    pub publishing: &'h Publishing,
    /// Where secrets are created, as the beginning of a sentence; "" where none are told.
    pub secrets: &'h str,
    /// The same of those that are files.
    pub files: &'h str,
    /// The same of names and addresses.
    pub variables: &'h str,
    /// What else comes before the first push.
    pub before: &'h [String],
}

/// A text as a scalar of YAML: as it is where that is the same text, and quoted otherwise.
pub fn in_yaml(text: &str) -> String {
    if text.chars().any(char::is_control) {
        return in_double_quotes(text);
    }
    let starts_plain =
        text.starts_with(|c: char| c.is_alphanumeric() || matches!(c, '.' | '/' | '_' | '$' | '(')) || text.starts_with("--");
    let is_plain = starts_plain
        && !text.ends_with([':', ' '])
        && !text.contains(": ")
        && !text.contains(" #")
        && matches!(resolve_plain(text), Core::Text);
    if is_plain { text.to_owned() } else { format!("'{}'", text.replace('\'', "''")) }
}

/// A text between double quotes: every string of JSON is one of YAML.
pub fn in_double_quotes(text: &str) -> String {
    serde_json::Value::from(text).to_string()
}

/// A word as the shell takes it for one.
pub fn in_shell(word: &str) -> String {
    let tame = |c: char| c.is_alphanumeric() || matches!(c, '.' | '/' | '_' | '-' | '=' | ':' | '@' | '+' | ',');
    if !word.is_empty() && word.chars().all(tame) { word.to_owned() } else { format!("'{}'", word.replace('\'', r"'\''")) }
}

#[cfg(test)]
mod tests {
    use super::{Paper, in_shell, in_yaml};
    use crate::carrier::parse;

    #[test]
    fn what_is_written_as_a_scalar_is_read_as_the_same_text() {
        for text in [
            "npm ci",
            "24",
            "3.10",
            "true",
            "no",
            "null",
            "",
            " ",
            "a: b",
            "a #b",
            "- a",
            "*a",
            "&a",
            "'a'",
            "\"a\"",
            "a'b",
            "{a}",
            "[a]",
            "@a",
            "%a",
            "!a",
            "|",
            "a:",
            "~",
            "a\tb",
            "1e3",
            "--option",
            "-",
            "? a",
            "$VAR && x",
            "(cd a && b)",
            "github.ref == 'refs/heads/main'",
        ] {
            let written = format!("key: {}\n", in_yaml(text));
            let tree = parse(&written);
            let node = tree.value(tree.documents[0], "key").expect("a value");
            assert_eq!(tree.scalar(node), Some(text), "{written}");
            assert!(!tree.is_null(node), "{written}");
        }
    }

    #[test]
    fn a_number_stays_a_text_and_a_word_of_the_shell_one_word() {
        assert_eq!((in_yaml("3.10").as_str(), in_yaml("main").as_str()), ("'3.10'", "main"));
        for (word, wanted) in [("dist", "dist"), ("my site", "'my site'"), ("it's", r"'it'\''s'"), ("$(x)", "'$(x)'"), ("", "''")]
        {
            assert_eq!(in_shell(word), wanted);
        }
    }

    #[test]
    fn a_comment_is_no_wider_than_it_may_be_and_ends_no_line() {
        let mut paper = Paper::yaml();
        paper.block("jobs:", |paper| paper.comment(&format!("one\ntwo {}", "word ".repeat(40).trim_end())));
        let text = paper.finish();
        assert!(text.lines().all(|line| line.chars().count() <= 100), "{text}");
        assert!(text.lines().skip(1).all(|line| line.starts_with("  # ")), "{text}");
    }

    #[test]
    fn a_block_without_anything_in_it_is_left_out() {
        let mut paper = Paper::yaml();
        paper.optional_block("with:", |_| {});
        paper.optional_block("env:", |paper| paper.line("A: b"));
        assert_eq!(paper.finish(), "env:\n  A: b\n");
    }
}
