//! Variables without which a program surely ends in failure: JavaScript and TypeScript by their syntax, Python and shell by their lines.
//!
//! Only what every run of the program comes to counts: statements at the top of the file, and those of a function that is called there.

use std::collections::BTreeMap;

use oxc_allocator::Allocator;
use oxc_ast::ast::{
    Argument, BindingPattern, CallExpression, Declaration, Expression, FunctionBody, IfStatement, Program, Statement,
    VariableDeclaration,
};
use oxc_parser::Parser;
use oxc_span::GetSpan;

use super::nesting::is_too_deep;
use super::script::{SCRIPT_SIZE_LIMIT, kind_of, on_stack_for};
use crate::text::Span;

/// A variable and where it is read.
pub type Demand = (String, Span);

/// The variables that a program in JavaScript or TypeScript ends without.
pub fn of_javascript(path: &str, text: &str) -> Vec<Demand> {
    // Most programs read none.
    if text.len() > SCRIPT_SIZE_LIMIT || !text.contains("process.env") || is_too_deep(text) {
        return Vec::new();
    }
    let source_type = kind_of(path);
    let found = on_stack_for(text, || {
        let allocator = Allocator::default();
        let parsed = Parser::new(&allocator, text, source_type).parse();
        if parsed.panicked { Vec::new() } else { Walker::new(text, &parsed.program).found }
    });
    found.unwrap_or_default()
}

/// How a function is called decides what of its endings fails the program.
const CALLED_DEPTH: usize = 4;

struct Walker<'p, 'a> {
    text: &'p str,
    functions: BTreeMap<&'p str, &'p FunctionBody<'a>>,
    /// Names that hold the value of a variable.
    held: BTreeMap<&'p str, (&'p str, Span)>,
    found: Vec<Demand>,
    /// A statement before may have ended the program well.
    over: bool,
}

impl<'p, 'a> Walker<'p, 'a> {
    fn new(text: &'p str, program: &'p Program<'a>) -> Self {
        let mut walker = Self { text, functions: BTreeMap::new(), held: BTreeMap::new(), found: Vec::new(), over: false };
        for statement in &program.body {
            match statement {
                Statement::FunctionDeclaration(function) => {
                    if let (Some(name), Some(body)) = (&function.id, &function.body) {
                        walker.functions.insert(name.name.as_str(), body);
                    }
                }
                Statement::VariableDeclaration(declaration) => walker.note_functions(declaration),
                _ => {}
            }
        }
        walker.statements(&program.body, 0, true);
        walker
    }

    fn note_functions(&mut self, declaration: &'p VariableDeclaration<'a>) {
        for one in &declaration.declarations {
            let BindingPattern::BindingIdentifier(name) = &one.id else { continue };
            let body = match one.init.as_ref().map(Expression::get_inner_expression) {
                Some(Expression::ArrowFunctionExpression(function)) => match &function.body {
                    oxc_ast::ast::ArrowFunctionBody::FunctionBody(body) => Some(body),
                    _ => None,
                },
                Some(Expression::FunctionExpression(function)) => function.body.as_ref(),
                _ => None,
            };
            if let Some(body) = body {
                self.functions.insert(name.name.as_str(), body);
            }
        }
    }

    /// `throws` says whether an error that is thrown here ends the program.
    fn statements(&mut self, statements: &'p [Statement<'a>], depth: usize, throws: bool) {
        for statement in statements {
            if self.over {
                return;
            }
            match statement {
                Statement::VariableDeclaration(declaration) => self.declaration(declaration, depth, throws),
                Statement::ExportDeclaration(export) => {
                    if let Declaration::VariableDeclaration(declaration) = &export.declaration {
                        self.declaration(declaration, depth, throws);
                    }
                }
                Statement::ExpressionStatement(line) => self.expression(&line.expression, depth, throws),
                Statement::IfStatement(choice) => self.choice(choice, throws),
                // What comes after may be reached seldom.
                Statement::ReturnStatement(_) | Statement::ThrowStatement(_) => self.over = true,
                Statement::FunctionDeclaration(_) | Statement::ImportDeclaration(_) | Statement::ClassDeclaration(_) => {}
                other => self.over |= self.may_end(other.span()),
            }
        }
    }

    fn inside(&mut self, body: &'p FunctionBody<'a>, depth: usize, throws: bool) {
        self.statements(&body.statements, depth + 1, throws);
        let text = &self.text[body.span.start as usize..body.span.end as usize];
        self.over = ["process.exit()", "process.exit(0)"].iter().any(|well| text.contains(well));
    }

    fn may_end(&self, span: oxc_span::Span) -> bool {
        let slice = &self.text[span.start as usize..span.end as usize];
        ["process.exit", "return", "throw"].iter().any(|word| slice.contains(word))
    }

    fn declaration(&mut self, declaration: &'p VariableDeclaration<'a>, depth: usize, throws: bool) {
        for one in &declaration.declarations {
            let Some(value) = &one.init else { continue };
            match &one.id {
                BindingPattern::BindingIdentifier(name) => match variable(value) {
                    Some(read) => {
                        self.held.insert(name.name.as_str(), read);
                    }
                    None => self.expression(value, depth, throws),
                },
                BindingPattern::ObjectPattern(pattern) if is_environment(value) => {
                    for property in &pattern.properties {
                        if let (Some(key), BindingPattern::BindingIdentifier(name)) = (property.key.name(), &property.value)
                            && let Some(index) = self.text[property.span.start as usize..].find(key.as_ref())
                        {
                            let start = property.span.start as usize + index;
                            let slice = &self.text[start..start + key.len()];
                            self.held.insert(name.name.as_str(), (slice, Span::new(start, start + slice.len())));
                        }
                    }
                }
                _ => {}
            }
        }
    }

    /// A call at the top: of a function of this file, or of `assert`.
    fn expression(&mut self, expression: &'p Expression<'a>, depth: usize, throws: bool) {
        match expression.get_inner_expression() {
            Expression::AwaitExpression(waiting) => self.expression(&waiting.argument, depth, throws),
            Expression::CallExpression(call) => self.call(call, depth, throws),
            _ => {}
        }
    }

    fn call(&mut self, call: &'p CallExpression<'a>, depth: usize, throws: bool) {
        match &call.callee {
            Expression::Identifier(name) if name.name == "assert" => self.asserted(call, throws),
            Expression::Identifier(name) => {
                if let Some(body) = self.functions.get(name.name.as_str()).copied().filter(|_| depth < CALLED_DEPTH) {
                    self.inside(body, depth, throws);
                }
            }
            Expression::StaticMemberExpression(member) => match (&member.object, member.property.name.as_str()) {
                (Expression::Identifier(object), "ok") if object.name == "assert" => self.asserted(call, throws),
                // What is caught may be passed over.
                (inner, "catch" | "then" | "finally") => self.expression(inner, depth, false),
                _ => {}
            },
            Expression::ArrowFunctionExpression(_)
            | Expression::FunctionExpression(_)
            | Expression::ParenthesizedExpression(_) => {
                let body = match call.callee.get_inner_expression() {
                    Expression::ArrowFunctionExpression(function) => match &function.body {
                        oxc_ast::ast::ArrowFunctionBody::FunctionBody(body) => Some(&**body),
                        _ => None,
                    },
                    Expression::FunctionExpression(function) => function.body.as_deref(),
                    _ => None,
                };
                if let Some(body) = body.filter(|_| depth < CALLED_DEPTH) {
                    self.inside(body, depth, throws);
                }
            }
            _ => {}
        }
    }

    fn asserted(&mut self, call: &'p CallExpression<'a>, throws: bool) {
        let read = call.arguments.first().and_then(Argument::as_expression).and_then(|value| self.read(value));
        self.found.extend(read.filter(|_| throws).map(|(name, span)| (name.to_owned(), span)));
    }

    fn choice(&mut self, choice: &'p IfStatement<'a>, throws: bool) {
        let mut lacking = Vec::new();
        let whole = self.lacking(&choice.test, &mut lacking);
        if whole && self.fails(&choice.consequent, throws) {
            self.found.extend(lacking.into_iter().map(|(name, span)| (name.to_owned(), span)));
        } else {
            self.over |= self.may_end(choice.span);
        }
    }

    /// The variables of which each alone makes a condition hold when it is not set; gives whether it asks for nothing else that could.
    fn lacking(&self, test: &'p Expression<'a>, found: &mut Vec<(&'p str, Span)>) -> bool {
        use oxc_ast::ast::{BinaryOperator, LogicalOperator, UnaryOperator};
        match test.get_inner_expression() {
            Expression::UnaryExpression(not) if not.operator == UnaryOperator::LogicalNot => {
                found.extend(self.read(&not.argument));
                true
            }
            Expression::BinaryExpression(compare)
                if matches!(compare.operator, BinaryOperator::Equality | BinaryOperator::StrictEquality) =>
            {
                let nothing = match compare.right.get_inner_expression() {
                    Expression::Identifier(name) => name.name == "undefined",
                    Expression::NullLiteral(_) => compare.operator == BinaryOperator::Equality,
                    _ => false,
                };
                found.extend(self.read(&compare.left).filter(|_| nothing));
                true
            }
            Expression::LogicalExpression(both) if both.operator == LogicalOperator::Or => {
                self.lacking(&both.left, found) & self.lacking(&both.right, found)
            }
            _ => false,
        }
    }

    fn read(&self, expression: &'p Expression<'a>) -> Option<(&'p str, Span)> {
        match expression.get_inner_expression() {
            Expression::Identifier(name) => self.held.get(name.name.as_str()).copied(),
            other => variable(other),
        }
    }

    /// Whether a statement always ends the program in failure.
    fn fails(&self, statement: &Statement<'a>, throws: bool) -> bool {
        match statement {
            Statement::BlockStatement(block) => block.body.iter().any(|one| self.fails(one, throws)),
            Statement::ThrowStatement(_) => throws,
            Statement::ExpressionStatement(line) => {
                let slice = &self.text[line.span.start as usize..line.span.end as usize];
                let code = slice.strip_prefix("process.exit(").and_then(|rest| rest.split(')').next());
                code.is_some_and(|code| code.trim().parse::<u8>().is_ok_and(|code| code != 0))
            }
            _ => false,
        }
    }
}

/// `process.env.NAME` and `process.env["NAME"]`.
fn variable<'p>(expression: &'p Expression<'_>) -> Option<(&'p str, Span)> {
    let (object, name, span) = match expression.get_inner_expression() {
        Expression::StaticMemberExpression(member) => (&member.object, member.property.name.as_str(), member.span),
        Expression::ComputedMemberExpression(member) => match &member.expression {
            Expression::StringLiteral(text) => (&member.object, text.value.as_str(), member.span),
            _ => return None,
        },
        _ => return None,
    };
    is_environment(object).then_some((name, Span { start: span.start, end: span.end }))
}

fn is_environment(expression: &Expression<'_>) -> bool {
    match expression.get_inner_expression() {
        Expression::StaticMemberExpression(member) => {
            member.property.name == "env" && matches!(&member.object, Expression::Identifier(object) if object.name == "process")
        }
        _ => false,
    }
}

/// `NAME = os.environ["KEY"]` at the margin: without the variable it is an error.
pub fn of_python(text: &str) -> Vec<Demand> {
    let mut found = Vec::new();
    let mut start = 0;
    for line in text.split_inclusive('\n') {
        let at = start;
        start += line.len();
        let Some(index) = line.find("os.environ[").filter(|_| !line.starts_with([' ', '\t', '#', '"', '\''])) else { continue };
        let is_assignment = line[..index].trim_end().ends_with('=') && !line[..index].contains(" if ");
        let rest = &line[index + "os.environ[".len()..];
        let name = rest.strip_prefix(['"', '\'']).and_then(|rest| rest.split(['"', '\'']).next());
        let Some(name) = name.filter(|_| is_assignment && !line.contains(" if ")) else { continue };
        let from = at + index;
        found.push((name.to_owned(), Span::new(from, from + "os.environ[".len() + name.len() + 3)));
    }
    found
}

/// `${NAME:?…}`: without the variable the shell ends.
pub fn of_shell(text: &str) -> Vec<Demand> {
    let mut found = Vec::new();
    for command in crate::shell::parse(text).commands.iter().filter(|command| !command.guarded && command.subshells.is_empty()) {
        let Some(slice) = text.get(command.range.clone()) else { continue };
        for (name, range) in crate::shell::variable_reads(slice, true) {
            let tail = &slice[range.clone()];
            let ends =
                [":?", "?"].iter().any(|mark| tail.strip_prefix("${").is_some_and(|rest| rest[name.len()..].starts_with(mark)));
            if ends && command.join == crate::shell::Join::Next {
                let from = command.range.start + range.start;
                found.push((name.to_owned(), Span::new(from, from + range.len())));
            }
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    fn names(text: &str) -> Vec<String> {
        of_javascript("a.mjs", text).into_iter().map(|(name, _)| name).collect()
    }

    #[test]
    fn a_program_demands_what_it_ends_without() {
        for (text, expected) in [
            ("const key = process.env.KEY;\nif (!key) {\n  console.error('no key');\n  process.exit(1);\n}", &["KEY"][..]),
            ("const { KEY, PLACE: place } = process.env\nif (!KEY || !place) throw new Error('x')", &["KEY", "PLACE"]),
            ("import assert from 'node:assert'\nassert(process.env['KEY'])", &["KEY"]),
            (
                "async function main() {\n  if (process.env.KEY === undefined) process.exit(2)\n}\nmain().catch(console.error)",
                &["KEY"],
            ),
            ("(async () => { if (!process.env.KEY) throw 1 })()", &["KEY"]),
            ("await main()\nasync function main() { if (!process.env.KEY) throw 1 }", &["KEY"]),
        ] {
            assert_eq!(names(text), expected, "{text}");
        }
    }

    #[test]
    fn what_it_does_without_is_no_demand() {
        for text in [
            "const key = process.env.KEY ?? 'none'\nif (!key) process.exit(1)",
            "if (!process.env.KEY) process.exit(0)",
            "if (!process.env.KEY) console.warn('no key')",
            "if (!process.env.KEY && process.env.CI) process.exit(1)",
            "if (process.argv.includes('--dry')) process.exit(0)\nif (!process.env.KEY) process.exit(1)",
            "function send() { if (!process.env.KEY) throw 1 }\nexport { send }",
            "async function main() { if (!process.env.KEY) throw 1 }\nmain().catch(() => {})",
            "try { if (!process.env.KEY) throw 1 } catch {}",
        ] {
            assert!(names(text).is_empty(), "{text}");
        }
    }

    #[test]
    fn lines_of_python_and_shell_demand() {
        let python: Vec<_> =
            of_python("import os\nKEY = os.environ[\"KEY\"]\ndef f():\n    x = os.environ['LATER']\nos.environ['SET'] = 'x'\n");
        assert_eq!(python, [("KEY".to_owned(), Span::new(16, 33))]);
        let shell: Vec<String> =
            of_shell(": \"${KEY:?is not set}\"\nif x; then echo ${LATER:?}; fi\n").into_iter().map(|one| one.0).collect();
        assert_eq!(shell, ["KEY"]);
    }
}
