//! Reading a request body: JSON, bounded, and refused with the field that is wrong.

use crate::Problem;
use actix_web::dev::Payload;
use actix_web::http::{StatusCode, header};
use actix_web::rt::time::timeout;
use actix_web::web::Bytes;
use actix_web::{FromRequest, HttpRequest};
use mopsel_core::message::typed as typed_text;
use mopsel_core::{Refusal, refuse};
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::future::Future;
use std::pin::Pin;
use std::time::Duration;

/// The largest body that is read.
pub const LIMIT: usize = 64 * 1024;

/// How long a body may take to arrive.
const MOST_SECONDS: Duration = Duration::from_secs(20);

/// A JSON body of type `T`.
pub struct Json<T>(pub T);

impl<T: DeserializeOwned + 'static> FromRequest for Json<T> {
    type Error = Problem;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let kind =
            request.headers().get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or("nothing").to_owned();
        let announced = request
            .headers()
            .get(header::CONTENT_LENGTH)
            .and_then(|v| v.to_str().ok())
            .and_then(|v| v.parse::<usize>().ok());
        let bytes = Bytes::from_request(request, payload);
        Box::pin(async move {
            if kind.split(';').next().map(str::trim) != Some("application/json") {
                return Err(Problem::new(
                    StatusCode::UNSUPPORTED_MEDIA_TYPE,
                    "not-json",
                    "Not JSON",
                    format!(
                        "Found a body of the type {kind}; allowed is application/json. Set the Content-Type header."
                    ),
                ));
            }
            if announced.is_some_and(|length| length > LIMIT) {
                return Err(too_large(announced));
            }
            let bytes =
                timeout(MOST_SECONDS, bytes).await.map_err(|_| too_slow())?.map_err(|_| too_large(announced))?;
            let value: Value = serde_json::from_slice(&bytes).map_err(|error| {
                Problem::new(
                    StatusCode::BAD_REQUEST,
                    "not-json",
                    "Not JSON",
                    format!("The body is not JSON: {error}. Send one JSON object."),
                )
            })?;
            typed(value, "").map(Self)
        })
    }
}

fn too_slow() -> Problem {
    Problem::new(
        StatusCode::REQUEST_TIMEOUT,
        "too-slow",
        "Too slow",
        format!("The body did not arrive within {} seconds; nothing was done. Send it again.", MOST_SECONDS.as_secs()),
    )
}

fn too_large(found: Option<usize>) -> Problem {
    let found = found.map_or("more than that".to_owned(), |bytes| format!("{} KB", bytes / 1024));
    Problem::new(
        StatusCode::PAYLOAD_TOO_LARGE,
        "too-large",
        "Too large",
        format!(
            "Found a body of {found}; allowed is {} KB. Send one thing at a time, and shorten notes.",
            LIMIT / 1024
        ),
    )
}

/// Turns a value into `T`; where it cannot be one, says at which field below `within`.
pub fn typed<T: DeserializeOwned>(value: Value, within: &str) -> Result<T, Problem> {
    serde_path_to_error::deserialize(value).map_err(|error| {
        // "lines[0].rate" becomes "lines.0.rate", as the core writes it.
        let path = error.path().to_string().replace('[', ".").replace(']', "");
        let path = if path == "." { String::new() } else { path };
        let field = [within, &path].iter().filter(|part| !part.is_empty()).copied().collect::<Vec<_>>().join(".");
        Problem::from(refusal(&error.into_inner().to_string(), &field))
    })
}

/// Turns a tagged value into `T`, by way of its variant's own type, so that the path inside is kept.
pub fn variant<T: DeserializeOwned>(mut value: Value, tag: &str, within: &str) -> Result<T, Problem> {
    if let Some(object) = value.as_object_mut() {
        object.remove(tag);
    }
    typed(value, within)
}

/// The tag of a tagged value.
pub fn tag<'a>(value: &'a Value, tag: &str) -> &'a str {
    value.get(tag).and_then(Value::as_str).unwrap_or("")
}

/// A refusal of an unknown tag.
pub fn unknown_tag(found: &str, allowed: &'static str, field: &str) -> Problem {
    let refusal = if found.is_empty() {
        refuse!("tag_missing", allowed = allowed)
    } else {
        refuse!("tag_unknown", found = typed_text(found), allowed = allowed)
    };
    refusal.at(field).into()
}

/// A refusal from a deserialiser's message: the core's own are carried in it whole, the others name
/// what they expected.
fn refusal(message: &str, field: &str) -> Refusal {
    // The deserialiser writes "… at line 1 column 2" behind what it was handed on.
    let own = message.rfind('}').and_then(|end| Refusal::carried(&message[..=end]));
    let plain = message.replace('`', "");
    let refusal = match (own, plain.split_once(", expected ")) {
        (Some(refusal), _) => {
            let within = if refusal.field.is_empty() { String::new() } else { format!(".{}", refusal.field) };
            return Refusal { field: format!("{field}{within}"), ..refusal };
        }
        (None, Some((found, expected))) => {
            refuse!("wrong_type", found = kind_found(found), allowed = kind_wanted(expected))
        }
        (None, None) => match plain.strip_prefix("missing field ") {
            Some(missing) => refuse!("field_missing", name = missing),
            None => refuse!("does_not_fit", found = plain.chars().take(160).collect::<String>()),
        },
    };
    refusal.at(field)
}

/// What a deserialiser found, in plain words.
fn kind_found(found: &str) -> String {
    let found = found.trim_start_matches("invalid ").trim_start_matches("type: ").trim_start_matches("value: ");
    match found {
        "null" | "unit" => "nothing".to_owned(),
        "sequence" => "a list".to_owned(),
        "map" => "an object".to_owned(),
        _ => match found.split_once(' ') {
            Some(("string", text)) => format!("the text {}", text.chars().take(60).collect::<String>()),
            Some(("integer" | "floating" | "boolean", value)) => value.trim_start_matches("point ").to_owned(),
            _ => found.chars().take(120).collect(),
        },
    }
}

/// What it wanted, in plain words.
fn kind_wanted(expected: &str) -> String {
    match expected {
        "f64" | "f32" => "a number".to_owned(),
        "u8" | "u16" | "u32" | "u64" | "usize" => "a whole number, 0 or more".to_owned(),
        "i32" | "i64" => "a whole number".to_owned(),
        "a boolean" => "true or false".to_owned(),
        other => other.to_owned(),
    }
}
