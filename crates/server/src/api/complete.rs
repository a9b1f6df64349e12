//! Completes the description that is made from the handlers: what every operation has in common stands here
//! once, so that no handler can forget it.

use serde_json::{Map, Value, json};

/// What an answer that is a problem means.
fn says(status: &str) -> &'static str {
    match status {
        "400" => "The body is no JSON",
        "401" => "Nobody is signed in, and somebody has to be",
        "429" => "Too many tries; the answer says after how long the next is allowed",
        "403" => {
            "Not permitted to whoever is signed in, asked under a foreign host or from another site, or the file is only read"
        }
        "404" => "There is no such thing",
        "408" => "The body took too long to arrive",
        "409" => "Somebody else was faster: what stands there comes with the answer. Or the id is taken",
        "413" => "The body is too large",
        "415" => "The body is of another type than application/json",
        "422" => "Not accepted: what was found, what is allowed and how to mend it, at each field",
        "503" => "The file cannot be read or written just now; nothing was half-written",
        _ => "A problem",
    }
}

/// Adds the problems that any operation may answer with, and makes composed types such that an answer can
/// meet them.
pub fn complete(description: &mut Value) {
    for (path, item) in object(&mut description["paths"]) {
        let with_id = path.contains("{id}");
        for (method, operation) in object(item) {
            let with_body = operation.get("requestBody").is_some();
            if let Some(parameters) = operation.get_mut("parameters").and_then(Value::as_array_mut) {
                parameters.iter_mut().for_each(said_or_not);
            }
            let parameters = operation.get("parameters").and_then(Value::as_array).map_or(0, Vec::len);
            let mut statuses = vec!["401", "403", "503"];
            if with_body {
                statuses.extend(["400", "408", "413", "415"]);
            }
            // A query or a header that cannot be read is refused as a field is.
            if with_body || parameters > 0 {
                statuses.push("422");
            }
            // What an address or a body names may not be there.
            if with_id || with_body {
                statuses.push("404");
            }
            if method != "get" {
                statuses.push("409");
            }
            let responses = object(&mut operation["responses"]);
            for status in statuses {
                responses.entry(status).or_insert_with(|| json!({ "description": "" }));
            }
            for (status, response) in responses.iter_mut().filter(|(status, _)| status.as_str() >= "4") {
                *response = json!({
                    "description": says(status),
                    "content": { "application/problem+json": { "schema": { "$ref": "#/components/schemas/Problem" } } }
                });
            }
            if operation["operationId"] == "read_round" {
                object(&mut operation["responses"])
                    .insert("304".to_owned(), json!({ "description": "Nothing has changed since the given ETag" }));
            }
        }
    }
    let composed = composed(description);
    let schemas = object(&mut description["components"]["schemas"]);
    for name in composed {
        // A part of a whole cannot forbid what the other parts bring; the whole does.
        if let Some(schema) = schemas.get_mut(&name).and_then(Value::as_object_mut) {
            schema.remove("additionalProperties");
        }
    }
    schemas.values_mut().for_each(close);
}

/// A parameter that may be left out is left out: it is never said to be nothing.
fn said_or_not(parameter: &mut Value) {
    let schema = &mut parameter["schema"];
    if let Some(kinds) = schema.get("type").and_then(Value::as_array)
        && let Some(kind) = kinds.iter().find(|kind| *kind != "null").cloned()
    {
        schema["type"] = kind;
    }
    if let Some(one) = schema.get("oneOf").and_then(Value::as_array)
        && let Some(kind) = one.iter().find(|kind| kind["type"] != "null").cloned()
    {
        *schema = kind;
    }
}

fn object(value: &mut Value) -> &mut Map<String, Value> {
    if !value.is_object() {
        *value = Value::Object(Map::new());
    }
    match value {
        Value::Object(map) => map,
        _ => unreachable!("made an object above"),
    }
}

/// The schemas that are named as parts of a composed one.
fn composed(value: &Value) -> Vec<String> {
    let mut names = Vec::new();
    walk(value, &mut |value| {
        for part in value.get("allOf").and_then(Value::as_array).into_iter().flatten() {
            let name = part.get("$ref").and_then(Value::as_str).and_then(|name| name.rsplit('/').next());
            names.extend(name.map(str::to_owned));
        }
    });
    names
}

fn walk(value: &Value, see: &mut impl FnMut(&Value)) {
    see(value);
    match value {
        Value::Object(map) => map.values().for_each(|inner| walk(inner, see)),
        Value::Array(list) => list.iter().for_each(|inner| walk(inner, see)),
        _ => {}
    }
}

/// Whatever is composed takes nothing that none of its parts knows.
fn close(value: &mut Value) {
    match value {
        Value::Object(map) => {
            map.values_mut().for_each(close);
            if map.contains_key("allOf") {
                map.insert("unevaluatedProperties".to_owned(), Value::Bool(false));
            }
        }
        Value::Array(list) => list.iter_mut().for_each(close),
        _ => {}
    }
}
