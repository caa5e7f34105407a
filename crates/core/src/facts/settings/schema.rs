//! The JSON Schema of dulk.toml, made of the values that it is read into. It is a page of the documentation, so that only a test makes it.

use schemars::JsonSchema;

use super::{Named, Settings};
use crate::rules;

impl JsonSchema for Named {
    fn inline_schema() -> bool {
        true
    }

    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Named".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        String::json_schema(generator)
    }
}

pub(super) fn token_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    schemars::json_schema!({ "type": "string", "enum": ["read", "write"] })
}

pub(super) fn pages_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    schemars::json_schema!({ "type": "string", "pattern": "^(pipeline|branch:.+)$" })
}

/// Rules by family, each with what it may be set to.
pub(super) fn rules_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    let mut families = serde_json::Map::new();
    for rule in rules::all() {
        let value = serde_json::json!({ "description": rule.title, "enum": ["off", "advice", "warning", "error"] });
        let name = rule.id.split_once('.').map_or(rule.id, |(_, name)| name);
        let family = families
            .entry(rule.family())
            .or_insert_with(|| serde_json::json!({ "type": "object", "additionalProperties": false, "properties": {} }));
        family["properties"][name] = value;
    }
    schemars::json_schema!({ "type": "object", "properties": families })
}

pub(super) fn rule_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
    let ids: Vec<&str> = rules::all().map(|rule| rule.id).collect();
    schemars::json_schema!({ "type": "string", "enum": ids })
}

/// The JSON Schema of dulk.toml, for editors.
pub(super) fn settings_schema() -> String {
    let schema = schemars::schema_for!(Settings);
    serde_json::to_string_pretty(&schema).unwrap_or_default() + "\n"
}
