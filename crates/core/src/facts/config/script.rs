//! JavaScript, TypeScript and JSON. The parser is a library and stays behind this file.

use oxc_allocator::Allocator;
use oxc_ast::ast::{
    Argument, ArrayExpressionElement, ArrowFunctionBody, AssignmentTarget, BindingPattern, Declaration,
    ExportDefaultDeclarationKind, Expression, FunctionBody, ObjectExpression, ObjectPropertyKind, Program, Statement,
    VariableDeclaration,
};
use oxc_parser::Parser;
use oxc_span::{GetSpan, SourceType};

use super::nesting::is_too_deep;
use super::{Setting, Unreadable, Value};
use crate::text::Span;

/// A script of this size, in bytes, is read on a stack that holds any nesting it can have.
pub(super) const SCRIPT_SIZE_LIMIT: usize = 128 << 10;
const STACK_SIZE: usize = 256 << 20;
/// A script of this size, in bytes, needs no stack of its own: where it is not nested too deeply, each of its bytes takes less than 500 of
/// the stack, also in a development build (arrow functions, powers and assignments one after the other), and every thread has 1 MB.
pub(super) const SMALL_SCRIPT: usize = 1 << 10;
/// Values nested deeper than this are unknown.
const DEPTH_LIMIT: usize = 24;

/// Reads JSON; comments and trailing commas are taken, as configuration files have them.
pub(super) fn read_json(text: &str) -> Result<Setting, Unreadable> {
    let body = text.trim_start_matches('\u{feff}');
    match serde_json::from_str::<serde::de::IgnoredAny>(body) {
        _ if is_too_deep(body) => Err(too_deep()),
        Ok(_) => Ok(parse_json(text)),
        Err(error) => {
            let with_comments = body.contains("//") || body.contains("/*") || error.to_string().contains("trailing comma");
            let setting =
                (with_comments && text.len() <= SCRIPT_SIZE_LIMIT).then(|| on_stack_for(text, || parse_json(text))).flatten();
            match setting {
                Some(setting) if setting.value != Value::Unknown => Ok(setting),
                _ => Err(json_error(text, &error)),
            }
        }
    }
}

/// Where it breaks, in bytes of the whole text: lines and columns count without the mark of its byte order, and columns count bytes.
fn json_error(text: &str, error: &serde_json::Error) -> Unreadable {
    let body = text.trim_start_matches('\u{feff}');
    let start: usize = body.split_inclusive('\n').take(error.line().saturating_sub(1)).map(str::len).sum();
    let offset = text.len() - body.len() + start + error.column().saturating_sub(1);
    let offset = text.floor_char_boundary(offset);
    let reason = error.to_string();
    let reason = reason.split(" at line ").next().unwrap_or(&reason).to_owned();
    Unreadable { span: Span::new(offset, offset), reason }
}

fn parse_json(text: &str) -> Setting {
    let blank = text.trim_start_matches('\u{feff}');
    // In brackets an object is an expression; the bracket takes the place of nothing, so offsets move by one.
    let wrapped = format!("({blank})");
    let shift = text.len() as i64 - blank.len() as i64 - 1;
    let allocator = Allocator::default();
    let Ok(expression) = Parser::new(&allocator, &wrapped, SourceType::mjs()).parse_expression() else {
        return Setting { value: Value::Unknown, span: Span::default() };
    };
    let reader = Reader { constants: Vec::new(), shift };
    reader.setting(&expression, 0)
}

fn too_deep() -> Unreadable {
    Unreadable { span: Span::default(), reason: "it is nested too deeply".into() }
}

/// The kind of script that a file holds. Markup in scripts is none of a program that runs as it is.
pub(super) fn kind_of(path: &str) -> SourceType {
    SourceType::from_path(path).unwrap_or_else(|_| SourceType::mjs()).with_jsx(false)
}

/// Reads what a module exports by default, without running it.
pub(super) fn read_module(path: &str, text: &str) -> Result<Setting, Unreadable> {
    if text.len() > SCRIPT_SIZE_LIMIT {
        return Err(Unreadable { span: Span::default(), reason: "it is larger than 128 KB".into() });
    }
    if is_too_deep(text) {
        return Err(too_deep());
    }
    let source_type = kind_of(path);
    let result = on_stack_for(text, || {
        let allocator = Allocator::default();
        let parsed = Parser::new(&allocator, text, source_type).parse();
        if parsed.panicked {
            return Err(Unreadable { span: Span::default(), reason: "it is not understood as a script".into() });
        }
        Ok(exported(&parsed.program))
    });
    result.unwrap_or_else(|| Err(Unreadable { span: Span::default(), reason: "it is not understood as a script".into() }))
}

/// The library reads nested values by recursion: give it a stack that the script cannot exhaust. Most are so small that the one at hand is
/// large enough; to start a thread and to wait for it takes a twentieth of a small check.
pub(super) fn on_stack_for<T: Send>(text: &str, work: impl FnOnce() -> T + Send) -> Option<T> {
    if text.len() <= SMALL_SCRIPT {
        return Some(work());
    }
    std::thread::scope(|scope| {
        let builder = std::thread::Builder::new().stack_size(STACK_SIZE);
        builder.spawn_scoped(scope, work).ok()?.join().ok()
    })
}

fn exported(program: &Program<'_>) -> Setting {
    let mut reader = Reader { constants: Vec::new(), shift: 0 };
    for statement in &program.body {
        match statement {
            Statement::VariableDeclaration(declaration) => reader.note(declaration),
            Statement::ExportDeclaration(export) => {
                if let Declaration::VariableDeclaration(declaration) = &export.declaration {
                    reader.note(declaration);
                }
            }
            _ => {}
        }
    }
    for statement in &program.body {
        match statement {
            Statement::ExportDefaultDeclaration(export) => {
                return match &export.declaration {
                    ExportDefaultDeclarationKind::FunctionDeclaration(function) => {
                        function.body.as_ref().map_or_else(|| unknown(statement.span()), |body| reader.returned(body, 0))
                    }
                    other => other.as_expression().map_or_else(|| unknown(statement.span()), |value| reader.setting(value, 0)),
                };
            }
            Statement::ExpressionStatement(line) => {
                if let Expression::AssignmentExpression(assignment) = &line.expression
                    && let AssignmentTarget::StaticMemberExpression(target) = &assignment.left
                    && target.property.name == "exports"
                    && matches!(&target.object, Expression::Identifier(object) if object.name == "module")
                {
                    return reader.setting(&assignment.right, 0);
                }
            }
            _ => {}
        }
    }
    Setting { value: Value::Unknown, span: Span::default() }
}

fn unknown(span: oxc_span::Span) -> Setting {
    Setting { value: Value::Unknown, span: Span { start: span.start, end: span.end } }
}

struct Reader<'p, 'a> {
    /// `const NAME = value` at the top of the file.
    constants: Vec<(&'p str, &'p Expression<'a>)>,
    shift: i64,
}

impl<'p, 'a> Reader<'p, 'a> {
    fn note(&mut self, declaration: &'p VariableDeclaration<'a>) {
        if !declaration.kind.is_const() {
            return;
        }
        for one in &declaration.declarations {
            if let (BindingPattern::BindingIdentifier(name), Some(value)) = (&one.id, &one.init) {
                self.constants.push((name.name.as_str(), value));
            }
        }
    }

    fn span(&self, span: oxc_span::Span) -> Span {
        let moved = |offset: u32| u32::try_from(i64::from(offset) + self.shift).unwrap_or(0);
        Span { start: moved(span.start), end: moved(span.end) }
    }

    fn setting(&self, expression: &Expression<'a>, depth: usize) -> Setting {
        let expression = expression.get_inner_expression();
        let value = match expression {
            _ if depth > DEPTH_LIMIT => Value::Unknown,
            Expression::StringLiteral(text) => Value::Text(text.value.to_string()),
            Expression::BooleanLiteral(truth) => Value::Bool(truth.value),
            Expression::NumericLiteral(number) => Value::Number(number.value),
            Expression::NullLiteral(_) => Value::Null,
            Expression::TemplateLiteral(template) if template.expressions.is_empty() => {
                let text = template.quasis.first().and_then(|part| part.value.cooked.as_ref());
                text.map_or(Value::Unknown, |text| Value::Text(text.to_string()))
            }
            Expression::ArrayExpression(array) => Value::List(
                array
                    .elements
                    .iter()
                    .map(|element| match element {
                        ArrayExpressionElement::SpreadElement(spread) => {
                            Setting { value: Value::Unknown, span: self.span(spread.span) }
                        }
                        element => element.as_expression().map_or_else(
                            || Setting { value: Value::Null, span: self.span(element.span()) },
                            |value| self.setting(value, depth + 1),
                        ),
                    })
                    .collect(),
            ),
            Expression::ObjectExpression(object) => self.object(object, depth),
            Expression::Identifier(name) => match self.constants.iter().find(|(known, _)| *known == name.name.as_str()) {
                Some((_, value)) => return self.setting(value, depth + 1),
                None => Value::Unknown,
            },
            Expression::CallExpression(call) => {
                // `defineConfig(…)` and its kin hand their argument through; of any other call nothing is known.
                let named = matches!(&call.callee, Expression::Identifier(name) if name.name.starts_with("define"));
                match call.arguments.first().and_then(Argument::as_expression) {
                    Some(argument) if named => return self.setting(argument, depth + 1),
                    Some(argument) => Value::Call(Box::new(self.setting(argument, depth + 1))),
                    None => {
                        let empty = Value::Map { entries: Vec::new(), open: !call.arguments.is_empty() };
                        Value::Call(Box::new(Setting { value: empty, span: self.span(call.span) }))
                    }
                }
            }
            Expression::ArrowFunctionExpression(function) => match &function.body {
                ArrowFunctionBody::FunctionBody(body) => return self.returned(body, depth + 1),
                body => match body.as_expression() {
                    Some(value) => return self.setting(value, depth + 1),
                    None => Value::Unknown,
                },
            },
            Expression::FunctionExpression(function) => match &function.body {
                Some(body) => return self.returned(body, depth + 1),
                None => Value::Unknown,
            },
            _ => Value::Unknown,
        };
        Setting { value, span: self.span(expression.span()) }
    }

    /// What a function returns, when it returns at one place only and at its top level.
    fn returned(&self, body: &FunctionBody<'a>, depth: usize) -> Setting {
        let branches = body.statements.iter().any(|statement| {
            matches!(
                statement,
                Statement::IfStatement(_)
                    | Statement::SwitchStatement(_)
                    | Statement::TryStatement(_)
                    | Statement::ForStatement(_)
            )
        });
        let mut returns = body.statements.iter().filter_map(|statement| match statement {
            Statement::ReturnStatement(one) => one.argument.as_ref(),
            _ => None,
        });
        match (returns.next(), returns.next()) {
            (Some(value), None) if !branches => self.setting(value, depth + 1),
            _ => Setting { value: Value::Unknown, span: self.span(body.span) },
        }
    }

    fn object(&self, object: &ObjectExpression<'a>, depth: usize) -> Value {
        let mut open = false;
        let mut entries = Vec::new();
        for property in &object.properties {
            match property {
                ObjectPropertyKind::ObjectProperty(property) if !property.computed => match property.key.static_name() {
                    Some(name) => entries.push((
                        name.into_owned(),
                        self.span(property.key.span()),
                        self.setting(&property.value, depth + 1),
                    )),
                    None => open = true,
                },
                // What is spread may set anything, also what was set before it.
                _ => {
                    open = true;
                    entries.clear();
                }
            }
        }
        Value::Map { entries, open }
    }
}
