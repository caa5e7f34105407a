//! The block language of a `Jenkinsfile`: statements of a name, arguments and a block, with the bytes that everything stands at. Only what
//! declarations are made of is understood; whatever else stands there is kept as its bytes, and nothing is run.

mod lex;
mod parse;
#[cfg(test)]
mod tests;

use std::ops::Range;

pub(super) use lex::tokens;
pub(super) use parse::read;

/// A whole text.
#[derive(Debug, Default)]
pub(super) struct Source {
    /// The statements of the top.
    pub top: Block,
    /// The bytes of comments, in order.
    pub comments: Vec<Range<usize>>,
    /// What could not be read: where, and why in plain words.
    pub errors: Vec<(Range<usize>, String)>,
}

/// Statements between braces, or those of the top.
#[derive(Clone, Debug, Default)]
pub(super) struct Block {
    pub statements: Vec<Statement>,
    /// The bytes, braces included.
    pub range: Range<usize>,
}

/// One statement.
#[derive(Clone, Debug)]
pub(super) struct Statement {
    /// The name it begins with, dots included; empty where it begins otherwise.
    pub name: String,
    /// The bytes of the name.
    pub name_at: Range<usize>,
    /// What it is given.
    pub arguments: Vec<Argument>,
    /// The block behind it.
    pub block: Option<Block>,
    /// It is `name = value`.
    pub assigned: Option<Value>,
    /// More stands in it than is understood.
    pub dark: bool,
    /// All its bytes.
    pub range: Range<usize>,
}

/// Something that a statement is given, by name or by its position.
#[derive(Clone, Debug)]
pub(super) struct Argument {
    pub name: Option<(String, Range<usize>)>,
    pub value: Value,
}

/// A value.
#[derive(Clone, Debug)]
pub(super) enum Value {
    /// A text in quotes.
    Text(Quoted),
    /// Texts that are put together with `+`.
    Sum(Vec<Quoted>, Range<usize>),
    /// A name, a number or a yes or no, as it is written.
    Word(String, Range<usize>),
    List(Vec<Value>, Range<usize>),
    /// Names with values between brackets.
    Map(Vec<(String, Range<usize>, Value)>, Range<usize>),
    /// A call, such as `credentials('x')`.
    Call(Box<Statement>),
    Closure(Block),
    /// Anything else.
    Dark(Range<usize>),
}

/// A text in quotes.
#[derive(Clone, Debug)]
pub(super) struct Quoted {
    /// The bytes, quotes included.
    pub range: Range<usize>,
    /// The bytes between the quotes.
    pub inner: Range<usize>,
    /// What stands in `${…}` or behind a dollar is filled in.
    pub fills: bool,
    /// A backslash is a letter but before a slash.
    pub raw: bool,
}

impl Value {
    pub fn range(&self) -> Range<usize> {
        match self {
            Self::Text(quoted) => quoted.range.clone(),
            Self::Sum(_, range) | Self::Word(_, range) | Self::List(_, range) | Self::Map(_, range) | Self::Dark(range) => {
                range.clone()
            }
            Self::Call(call) => call.range.clone(),
            Self::Closure(block) => block.range.clone(),
        }
    }
}

impl Statement {
    /// The first argument without a name, or that of a name.
    pub fn argument(&self, name: &str) -> Option<&Value> {
        let named = self.arguments.iter().find(|argument| argument.name.as_ref().is_some_and(|(own, _)| own == name));
        named.map(|argument| &argument.value)
    }

    /// The first argument without a name.
    pub fn first(&self) -> Option<&Value> {
        self.arguments.iter().find(|argument| argument.name.is_none()).map(|argument| &argument.value)
    }
}

impl Block {
    /// The statements of a name.
    pub fn all<'b>(&'b self, name: &'b str) -> impl Iterator<Item = &'b Statement> {
        self.statements.iter().filter(move |statement| statement.name == name)
    }

    /// The first statement of a name.
    pub fn get(&self, name: &str) -> Option<&Statement> {
        self.statements.iter().find(|statement| statement.name == name)
    }

    /// The block behind the first statement of a name.
    pub fn block(&self, name: &str) -> Option<&Block> {
        self.get(name)?.block.as_ref()
    }
}
