//! Infrastructure written as code: what is made with `new`, and what is called on it, as far as it is written out. Nothing is run: what
//! stands in a branch or a loop, or would have to be computed, is not known.

use oxc_allocator::Allocator;
use oxc_ast::ast::{
    Argument, ArrayExpressionElement, AssignmentTarget, BindingPattern, ClassElement, Declaration, ExportDefaultDeclarationKind,
    Expression, ObjectPropertyKind, Statement,
};
use oxc_parser::Parser;
use oxc_span::{GetSpan, SourceType};

use super::nesting::is_too_deep;
use super::script::{SCRIPT_SIZE_LIMIT, on_stack_for};
use crate::text::Span;

/// Values nested deeper than this are unknown.
const DEPTH_LIMIT: usize = 24;
/// More makes no honest file.
const LINE_LIMIT: usize = 2_000;

/// A value as it is written.
#[derive(Clone, Debug)]
pub(crate) struct Part {
    pub kind: PartKind,
    pub span: Span,
}

/// What a value is.
#[derive(Clone, Debug)]
pub(crate) enum PartKind {
    Text(String),
    /// A number, or a yes or no, as it is written.
    Word(String),
    List(Vec<Part>),
    /// Names with their bytes and values.
    Map(Vec<(String, Span, Part)>),
    /// `new NAME(…)` or `NAME(…)`, with dots in the name.
    Made {
        name: String,
        arguments: Vec<Part>,
    },
    /// A name, with dots in it, without `this`.
    Name(String),
    Unknown,
}

/// A line of code that makes something or calls it.
#[derive(Clone, Debug)]
pub(crate) struct Line {
    /// The name that what is made has from here on.
    pub kept_as: Option<String>,
    /// The call.
    pub call: Part,
}

/// The lines of a program in the order they stand, those of constructors and functions with them; nothing when it is no program.
pub(crate) fn lines(text: &str) -> Vec<Line> {
    if text.len() > SCRIPT_SIZE_LIMIT || is_too_deep(text) {
        return Vec::new();
    }
    let read = || {
        let allocator = Allocator::default();
        let parsed = Parser::new(&allocator, text, SourceType::ts()).parse();
        let mut reader = Reader { lines: Vec::new() };
        if !parsed.panicked {
            reader.statements(&parsed.program.body, 0);
        }
        reader.lines
    };
    on_stack_for(text, read).unwrap_or_default()
}

struct Reader {
    lines: Vec<Line>,
}

impl Reader {
    fn statements(&mut self, body: &[Statement<'_>], depth: usize) {
        if depth > DEPTH_LIMIT {
            return;
        }
        for statement in body {
            match statement {
                Statement::VariableDeclaration(declaration) => {
                    for one in &declaration.declarations {
                        if let (BindingPattern::BindingIdentifier(name), Some(value)) = (&one.id, &one.init) {
                            self.line(Some(name.name.to_string()), value);
                        }
                    }
                }
                Statement::ExpressionStatement(line) => match &line.expression {
                    Expression::AssignmentExpression(assignment) => {
                        if let AssignmentTarget::StaticMemberExpression(target) = &assignment.left {
                            self.line(Some(target.property.name.to_string()), &assignment.right);
                        }
                    }
                    other => self.line(None, other),
                },
                Statement::BlockStatement(block) => self.statements(&block.body, depth + 1),
                Statement::ClassDeclaration(class) => self.class(&class.body.body, depth),
                Statement::FunctionDeclaration(function) => {
                    function.body.iter().for_each(|body| self.statements(&body.statements, depth + 1));
                }
                Statement::ExportDeclaration(export) => match &export.declaration {
                    Declaration::ClassDeclaration(class) => self.class(&class.body.body, depth),
                    Declaration::FunctionDeclaration(function) => {
                        function.body.iter().for_each(|body| self.statements(&body.statements, depth + 1));
                    }
                    _ => {}
                },
                Statement::ExportDefaultDeclaration(export) => {
                    if let ExportDefaultDeclarationKind::ClassDeclaration(class) = &export.declaration {
                        self.class(&class.body.body, depth);
                    }
                }
                _ => {}
            }
        }
    }

    fn class(&mut self, members: &[ClassElement<'_>], depth: usize) {
        for member in members {
            if let ClassElement::MethodDefinition(method) = member
                && let Some(body) = &method.value.body
            {
                self.statements(&body.statements, depth + 1);
            }
        }
    }

    fn line(&mut self, kept_as: Option<String>, expression: &Expression<'_>) {
        let call = part(expression, 0);
        if self.lines.len() < LINE_LIMIT {
            self.lines.push(Line { kept_as, call });
        }
    }
}

fn part(expression: &Expression<'_>, depth: usize) -> Part {
    let expression = expression.get_inner_expression();
    let span = span_of(expression.span());
    let kind = match expression {
        _ if depth > DEPTH_LIMIT => PartKind::Unknown,
        Expression::StringLiteral(text) => PartKind::Text(text.value.to_string()),
        Expression::TemplateLiteral(template) if template.expressions.is_empty() => {
            let text = template.quasis.first().and_then(|part| part.value.cooked.as_ref());
            text.map_or(PartKind::Unknown, |text| PartKind::Text(text.to_string()))
        }
        Expression::BooleanLiteral(truth) => PartKind::Word(truth.value.to_string()),
        Expression::NumericLiteral(number) => PartKind::Word(number.value.to_string()),
        Expression::ArrayExpression(array) => PartKind::List(
            array
                .elements
                .iter()
                .map(|element| match element {
                    ArrayExpressionElement::SpreadElement(spread) => Part { kind: PartKind::Unknown, span: span_of(spread.span) },
                    element => element.as_expression().map_or_else(
                        || Part { kind: PartKind::Unknown, span: span_of(element.span()) },
                        |one| part(one, depth + 1),
                    ),
                })
                .collect(),
        ),
        Expression::ObjectExpression(object) => PartKind::Map(
            object
                .properties
                .iter()
                .filter_map(|property| match property {
                    ObjectPropertyKind::ObjectProperty(property) if !property.computed => {
                        let name = property.key.static_name()?.into_owned();
                        Some((name, span_of(property.key.span()), part(&property.value, depth + 1)))
                    }
                    _ => None,
                })
                .collect(),
        ),
        Expression::NewExpression(made) => match dotted(&made.callee) {
            Some(name) => PartKind::Made { name, arguments: arguments(&made.arguments, depth) },
            None => PartKind::Unknown,
        },
        Expression::CallExpression(call) => match dotted(&call.callee) {
            Some(name) => PartKind::Made { name, arguments: arguments(&call.arguments, depth) },
            None => PartKind::Unknown,
        },
        other => dotted(other).map_or(PartKind::Unknown, PartKind::Name),
    };
    Part { kind, span }
}

fn arguments(given: &[Argument<'_>], depth: usize) -> Vec<Part> {
    let one = |argument: &Argument<'_>| match argument.as_expression() {
        Some(expression) => part(expression, depth + 1),
        None => Part { kind: PartKind::Unknown, span: span_of(argument.span()) },
    };
    given.iter().map(one).collect()
}

/// `amplify.Platform.WEB`; `this.` counts for nothing.
fn dotted(expression: &Expression<'_>) -> Option<String> {
    match expression.get_inner_expression() {
        Expression::Identifier(name) => Some(name.name.to_string()),
        Expression::StaticMemberExpression(member) => match member.object.get_inner_expression() {
            Expression::ThisExpression(_) => Some(member.property.name.to_string()),
            object => Some(format!("{}.{}", dotted(object)?, member.property.name)),
        },
        _ => None,
    }
}

fn span_of(span: oxc_span::Span) -> Span {
    Span { start: span.start, end: span.end }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_made_is_listed_with_its_name() {
        let text = "class A extends Stack { constructor(s, i) { super(s, i); this.app = new amplify.App(this, 'Quay', { platform: Platform.WEB, \
                    on: true, list: [1, ...x] }); const b = this.app.addBranch('main'); if (b) { new Gone(this, 'x'); } } }";
        let found = lines(text);
        let told: Vec<(Option<&str>, String)> = found
            .iter()
            .filter_map(|line| match &line.call.kind {
                PartKind::Made { name, arguments } => Some((line.kept_as.as_deref(), format!("{name} {}", arguments.len()))),
                _ => None,
            })
            .collect();
        assert_eq!(told, [(Some("app"), "amplify.App 3".to_owned()), (Some("b"), "app.addBranch 1".to_owned())]);
    }

    #[test]
    fn no_program_gives_nothing_and_no_harm() {
        for text in ["", "{{{{", "new (", "class { constructor( }", "new A(new A(new A(new A())))"] {
            assert!(lines(text).len() < 2, "{text}");
        }
    }
}
