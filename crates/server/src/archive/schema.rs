//! The JSON Schema (2020-12) of each kind of line, made from the description of the API: one source for both.

use serde_json::{Map, Value, json};
use std::collections::BTreeSet;

/// A schema of a line: its own properties, and what they refer to.
pub fn of(kind: &str) -> Value {
    let description: Value = serde_json::from_str(&crate::description()).unwrap_or_default();
    let all = &description["components"]["schemas"];
    let id = json!({ "type": "string", "format": "uuid" });
    let time = json!({ "type": "string", "format": "date-time" });
    let maybe = |of: Value| json!({ "anyOf": [of, { "type": "null" }] });
    let shape = json!({ "type": "integer", "minimum": 1, "description": "The shape that it is written in." });
    let (properties, required) = match kind {
        "card" => (
            json!({
                "id": id, "parent": maybe(id.clone()), "version": { "type": "integer", "minimum": 1 },
                "archived": { "type": "boolean" }, "holds_from": maybe(json!({ "type": "string", "format": "date" })),
                "at": time, "shape": shape, "card": { "$ref": "#/$defs/Card" },
            }),
            json!(["id", "parent", "version", "archived", "holds_from", "at", "shape", "card"]),
        ),
        "entry" => (
            json!({
                "id": id, "system": id, "at": time, "recorded": time, "by": id, "device": { "type": "string" },
                "amends": id, "reason": { "type": "string" }, "files": { "type": "array", "items": id },
                "shape": shape, "body": { "$ref": "#/$defs/Body" },
            }),
            json!(["id", "system", "at", "recorded", "by", "shape", "body"]),
        ),
        "delivery" => (
            json!({
                "id": id, "by": id, "source": { "type": "string" }, "recorded": time,
                "readings": { "type": "integer", "minimum": 0 }, "there": { "type": "integer", "minimum": 0 }, "taken_back": time, "taken_back_by": id,
                "reason": { "type": "string" },
            }),
            json!(["id", "by", "source", "recorded", "readings"]),
        ),
        _ => (
            json!({
                "id": id, "system": id, "at": time, "recorded": time, "by": id, "ports": { "$ref": "#/$defs/PortSet" },
                "note": { "type": "string" }, "width": { "type": "integer", "minimum": 1 },
                "height": { "type": "integer", "minimum": 1 },
            }),
            json!(["id", "system", "at", "recorded", "by", "width", "height"]),
        ),
    };
    let mut needed = BTreeSet::new();
    gather(&properties, all, &mut needed);
    let defs: Map<String, Value> = needed.into_iter().map(|name| (name.clone(), moved(&all[&name]))).collect();
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": format!("A line: one {kind}"),
        "type": "object",
        "additionalProperties": false,
        "properties": properties,
        "required": required,
        "$defs": defs,
    })
}

fn named(reference: &str) -> Option<&str> {
    reference.strip_prefix("#/components/schemas/").or_else(|| reference.strip_prefix("#/$defs/"))
}

/// Every schema that something refers to, and what those refer to.
fn gather(value: &Value, all: &Value, into: &mut BTreeSet<String>) {
    match value {
        Value::Object(fields) => {
            if let Some(name) = fields.get("$ref").and_then(Value::as_str).and_then(named)
                && into.insert(name.to_owned())
            {
                gather(&all[name], all, into);
            }
            fields.values().for_each(|value| gather(value, all, into));
        }
        Value::Array(items) => items.iter().for_each(|value| gather(value, all, into)),
        _ => {}
    }
}

/// The same with its references where they stand here.
fn moved(value: &Value) -> Value {
    match value {
        Value::Object(fields) => {
            let field = |(key, value): (&String, &Value)| {
                let value = match value.as_str().filter(|_| key == "$ref").and_then(named) {
                    Some(name) => json!(format!("#/$defs/{name}")),
                    None => moved(value),
                };
                (key.clone(), value)
            };
            Value::Object(fields.iter().map(field).collect())
        }
        Value::Array(items) => Value::Array(items.iter().map(moved).collect()),
        other => other.clone(),
    }
}
