//! The files of `make` and `just`, as far as their commands can be read without running them.
//!
//! Stands on the manual of GNU make ("Writing Rules", "How to Use Variables") and on the manual of just ("Recipes", "Variables"), 2026-11.

/// Variables that read variables: deeper is a circle.
const DEPTH: usize = 8;
/// Longer texts come of no honest file, in bytes.
const TEXT_LIMIT: usize = 20_000;

/// A file's targets and variables.
pub(super) struct Recipes<'t> {
    rules: Vec<Rule<'t>>,
    variables: Vec<(&'t str, &'t str)>,
    /// `{{name}}` reads a variable rather than `$(name)`.
    braces: bool,
}

/// A target with what it waits for, and its commands.
pub(super) struct Rule<'t> {
    name: &'t str,
    /// Other targets, or files.
    pub waits_for: Vec<&'t str>,
    /// Texts that a shell runs one after another, each by itself.
    pub commands: Vec<String>,
}

impl<'t> Recipes<'t> {
    /// Reads a file of `make` or `just`.
    pub fn read(tool: &str, text: &'t str) -> Self {
        let mut recipes = Self { rules: Vec::new(), variables: Vec::new(), braces: tool == "just" };
        let mut open: Vec<usize> = Vec::new();
        let mut goes_on = false;
        for line in text.lines() {
            let indented = if recipes.braces { line.starts_with([' ', '\t']) } else { line.starts_with('\t') };
            if indented || goes_on {
                for rule in &open {
                    recipes.rules[*rule].take(line.trim(), goes_on);
                }
                goes_on = line.ends_with('\\') && !open.is_empty();
                continue;
            }
            if line.trim().is_empty() || line.trim_start().starts_with('#') {
                continue;
            }
            open = recipes.heading(line);
        }
        for rule in recipes.rules.iter_mut().filter(|_| recipes.braces) {
            rule.join_script();
        }
        recipes
    }

    /// A line that stands at the margin: a variable, or targets; gives the numbers of the rules that it opens.
    fn heading(&mut self, line: &'t str) -> Vec<usize> {
        let line = line.strip_prefix("export ").unwrap_or(line).trim();
        if let Some((name, value)) = assignment(line) {
            self.variables.push((name, value.trim().trim_matches(['"', '\''])));
            return Vec::new();
        }
        let Some((names, rest)) = line.split_once(':') else { return Vec::new() };
        let names = names.trim_start_matches('@');
        // Behind a recipe's name stand its parameters.
        let names: Vec<&str> =
            if self.braces { names.split_whitespace().take(1).collect() } else { names.split_whitespace().collect() };
        let rest = rest.trim_start_matches(':');
        let (rest, command) = rest.split_once(';').map_or((rest, None), |(rest, command)| (rest, Some(command)));
        let rest = rest.split('#').next().unwrap_or_default();
        let waits_for: Vec<&str> = rest.split_whitespace().filter(|word| !matches!(*word, "|" | "&&")).collect();
        let mut opened = Vec::new();
        for name in names {
            opened.push(self.rules.len());
            let commands = command.iter().map(|command| plain(command.trim()).to_owned()).collect();
            self.rules.push(Rule { name, waits_for: waits_for.clone(), commands });
        }
        opened
    }

    /// The target that is made when none is named.
    pub fn first(&self) -> Option<&'t str> {
        self.rules.iter().map(|rule| rule.name).find(|name| self.braces || (!name.starts_with('.') && *name != "%"))
    }

    /// The rule of a target: its own with commands, its own without, or the one for all, which is for no file that is there
    /// (`is_file`), nor for a target that is declared to be no file.
    pub fn rule(&self, target: &str, is_file: bool) -> Option<&Rule<'t>> {
        let named = |wanted: &str| {
            let own = || self.rules.iter().filter(|rule| rule.name == wanted);
            own().find(|rule| !rule.commands.is_empty()).or_else(|| own().next())
        };
        let declared = named(".PHONY").is_some_and(|phony| phony.waits_for.contains(&target));
        named(target).or_else(|| named("%").filter(|_| !self.braces && !is_file && !declared))
    }

    /// A text with the variables filled in that are known; the others are left for the shell.
    pub fn filled(&self, text: &str, target: &str, rule: &Rule<'_>, given: &dyn Fn(&str) -> Option<String>) -> String {
        self.filled_within(text, target, rule, given, 0)
    }

    fn filled_within(
        &self,
        text: &str,
        target: &str,
        rule: &Rule<'_>,
        given: &dyn Fn(&str) -> Option<String>,
        depth: usize,
    ) -> String {
        let value = |name: &str| -> Option<String> {
            match name {
                "@" => return Some(target.to_owned()),
                "<" => return Some(rule.waits_for.first().copied().unwrap_or_default().to_owned()),
                "^" => return Some(rule.waits_for.join(" ")),
                "MAKE" => return Some("make".to_owned()),
                _ => {}
            }
            let own = || self.variables.iter().rev().find(|(own, _)| *own == name).map(|(_, value)| *value);
            match given(name) {
                Some(value) => Some(value),
                None if depth < DEPTH => own().map(|value| self.filled_within(value, target, rule, given, depth + 1)),
                None => None,
            }
        };
        let mut filled = String::new();
        let mut rest = text;
        let start = if self.braces { "{{" } else { "$" };
        while let Some(index) = rest.find(start) {
            filled.push_str(&rest[..index]);
            rest = &rest[index + start.len()..];
            if filled.len() > TEXT_LIMIT {
                break;
            }
            if self.braces {
                let name = rest.split("}}").next().unwrap_or_default();
                rest = rest.get(name.len() + 2..).unwrap_or_default();
                filled.push_str(&value(name.trim()).unwrap_or_else(|| "$_".to_owned()));
                continue;
            }
            let (name, length) = match rest.chars().next() {
                Some('$') => {
                    filled.push('$');
                    rest = &rest[1..];
                    continue;
                }
                Some(open @ ('(' | '{')) => {
                    let end = rest.find(if open == '(' { ')' } else { '}' }).unwrap_or(rest.len());
                    (&rest[1..end.max(1)], (end + 1).min(rest.len()))
                }
                Some(one) => (&rest[..one.len_utf8()], one.len_utf8()),
                None => ("", 0),
            };
            let is_name = name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
            match value(name) {
                Some(value) => filled.push_str(&value),
                // A variable that nobody sets is empty; what a function gives is only known when it runs.
                None if is_name => {}
                None => filled.push_str("$_"),
            }
            rest = &rest[length..];
        }
        filled.push_str(rest);
        filled
    }
}

impl Rule<'_> {
    fn take(&mut self, line: &str, goes_on: bool) {
        match self.commands.last_mut().filter(|_| goes_on) {
            Some(last) if last.len() < TEXT_LIMIT => {
                last.truncate(last.len() - usize::from(last.ends_with('\\')));
                last.push_str(line);
            }
            _ if line.is_empty() => {}
            _ => self.commands.push(plain(line).to_owned()),
        }
    }

    /// With a first line that names a program, the recipe is one text for it.
    fn join_script(&mut self) {
        if !self.commands.first().is_some_and(|line| line.starts_with("#!")) {
            return;
        }
        let shell = self.commands[0].ends_with("sh");
        let body = self.commands.split_off(1).join("\n");
        // Whatever another language does is not known.
        self.commands = vec![if shell { body } else { "another-language".to_owned() }];
    }
}

/// A command without the marks that only say how it is shown, or that its failure is passed over.
fn plain(line: &str) -> &str {
    line.trim_start_matches(['@', '-', '+']).trim_start()
}

/// `NAME = value`, `NAME := value`, `NAME ?= value`.
fn assignment(line: &str) -> Option<(&str, &str)> {
    let (left, value) = line.split_once('=')?;
    let name = left.trim_end_matches([':', '?', '+', '!']).trim();
    let is_name = !name.is_empty() && name.bytes().all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'-' | b'.'));
    is_name.then_some((name, value))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn commands(tool: &str, text: &str, target: &str) -> Vec<String> {
        let recipes = Recipes::read(tool, text);
        let rule = recipes.rule(target, false).expect("the target is there");
        rule.commands.iter().map(|line| recipes.filled(line, target, rule, &|_| None)).collect()
    }

    #[test]
    fn targets_have_their_commands() {
        let text = "OUT ?= public\nDIR := $(OUT)/pages\n\n.PHONY: all site\nall: site\n\nsite: quays.json\n\t@mkdir -p $(DIR)\n\t-cp -r src \\\n\t\t$(DIR)\n\n%: Makefile\n\t@sphinx-build -M $@ . _build\n";
        assert_eq!(Recipes::read("make", text).first(), Some("all"));
        assert_eq!(commands("make", text, "site"), ["mkdir -p public/pages", "cp -r src public/pages"]);
        assert_eq!(commands("make", text, "html"), ["sphinx-build -M html . _build"]);
        assert_eq!(Recipes::read("make", text).rule("site", false).map(|rule| rule.waits_for.clone()), Some(vec!["quays.json"]));
    }

    #[test]
    fn recipes_have_their_commands() {
        let text = "out := 'public'\n\nbuild kind='all': check\n    @hugo -d {{out}}\n    echo {{kind}}\n\ncheck:\n    #!/usr/bin/env bash\n    set -e\n    npm test\n";
        assert_eq!(commands("just", text, "build"), ["hugo -d public", "echo $_"]);
        assert_eq!(commands("just", text, "check"), ["set -e\nnpm test"]);
    }

    #[test]
    fn circles_and_torn_lines_end() {
        assert_eq!(commands("make", "A = $(B)\nB = $(A)\nx:\n\techo $(A) $(", "x").len(), 1);
        assert_eq!(commands("make", "x:\n\ta $\n\\\n", "x"), ["a "]);
    }
}
