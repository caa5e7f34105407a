//! The shapes of the catalog's data, taken from the types that hold it: `src/knowledge` is read as Rust, so that they stand once.

use std::collections::BTreeMap;
use std::path::Path;

use syn::{Fields, GenericArgument, Item, PathArguments};

type Result<T> = std::result::Result<T, Box<dyn std::error::Error>>;

/// What a value of the data is.
#[derive(Debug)]
pub enum Shape {
    /// `Word`
    Word,
    /// `bool`
    Truth,
    /// A whole number of any width.
    Number,
    /// `List<T>`
    List(Box<Shape>),
    /// `Table<T>`: by name.
    Table(Box<Shape>),
    /// `Option<T>`
    Perhaps(Box<Shape>),
    /// A tuple.
    Several(Vec<Shape>),
    /// A type of its own.
    Named(String),
}

/// A structure.
#[derive(Debug)]
pub struct Structure {
    /// As the generated code calls it.
    pub path: String,
    /// Its fields.
    pub fields: Vec<(String, Shape)>,
    /// It has a default, so that every field may be missing.
    pub lenient: bool,
}

/// A choice.
#[derive(Debug)]
pub struct Choice {
    /// As the generated code calls it.
    pub path: String,
    /// Its variants with their fields.
    pub variants: Vec<(String, Vec<(String, Shape)>)>,
    /// The one that stands where none is written.
    pub default: Option<String>,
}

/// All types.
#[derive(Debug, Default)]
pub struct Shapes {
    pub structures: BTreeMap<String, Structure>,
    pub choices: BTreeMap<String, Choice>,
}

impl Shapes {
    /// Reads the types of a source file; `module` is how the generated code calls the module.
    pub fn read(&mut self, file: &Path, module: &str) -> Result<()> {
        let source = syn::parse_file(&std::fs::read_to_string(file)?)?;
        for item in source.items {
            match item {
                Item::Struct(item) => {
                    if let Fields::Named(fields) = &item.fields {
                        let (name, lenient) = (item.ident.to_string(), derives_default(&item.attrs));
                        let fields = fields_of(fields)?;
                        let own = Structure { path: format!("{module}::{name}"), fields, lenient };
                        if let Some(other) = self.structures.insert(name, own) {
                            return Err(format!("{} is called as one in {}", other.path, file.display()).into());
                        }
                    }
                }
                Item::Enum(item) => {
                    let name = item.ident.to_string();
                    let mut choice = Choice { path: format!("{module}::{name}"), variants: Vec::new(), default: None };
                    for variant in &item.variants {
                        let own = variant.ident.to_string();
                        if variant.attrs.iter().any(|attribute| attribute.path().is_ident("default")) {
                            choice.default = Some(own.clone());
                        }
                        let fields = match &variant.fields {
                            Fields::Named(fields) => fields_of(fields)?,
                            _ => Vec::new(),
                        };
                        choice.variants.push((own, fields));
                    }
                    self.choices.insert(name, choice);
                }
                _ => {}
            }
        }
        Ok(())
    }
}

fn derives_default(attributes: &[syn::Attribute]) -> bool {
    let mut found = false;
    for attribute in attributes.iter().filter(|attribute| attribute.path().is_ident("derive")) {
        let _ = attribute.parse_nested_meta(|meta| {
            found |= meta.path.is_ident("Default");
            Ok(())
        });
    }
    found
}

fn fields_of(fields: &syn::FieldsNamed) -> Result<Vec<(String, Shape)>> {
    let one = |field: &syn::Field| {
        let name = field.ident.as_ref().map(|name| name.to_string().trim_start_matches("r#").to_owned()).unwrap_or_default();
        Ok((name, shape(&field.ty)?))
    };
    fields.named.iter().map(one).collect()
}

fn shape(kind: &syn::Type) -> Result<Shape> {
    match kind {
        syn::Type::Tuple(tuple) => Ok(Shape::Several(tuple.elems.iter().map(shape).collect::<Result<_>>()?)),
        syn::Type::Reference(reference) => shape(&reference.elem),
        syn::Type::Path(path) => {
            let last = path.path.segments.last().ok_or("a type without a name")?;
            let inner = || match &last.arguments {
                PathArguments::AngleBracketed(list) => match list.args.first() {
                    Some(GenericArgument::Type(inner)) => shape(inner).map(Box::new),
                    _ => Err("a type without its part".into()),
                },
                _ => Err("a type without its part".into()),
            };
            Ok(match last.ident.to_string().as_str() {
                "Word" => Shape::Word,
                "bool" => Shape::Truth,
                "u8" | "u16" | "u32" | "usize" | "i64" => Shape::Number,
                "List" => Shape::List(inner()?),
                "Table" => Shape::Table(inner()?),
                "Option" => Shape::Perhaps(inner()?),
                name => Shape::Named(name.to_owned()),
            })
        }
        _ => Err("a type that no data has".into()),
    }
}
