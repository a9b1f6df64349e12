//! Reading a request body: JSON, bounded, and refused with the field that is wrong.

use crate::Problem;
use actix_web::dev::Payload;
use actix_web::http::{StatusCode, header};
use actix_web::rt::time::timeout;
use actix_web::web::Bytes;
use actix_web::{FromRequest, HttpRequest};
use futures_util::StreamExt;
use mopsel_core::message::typed as typed_text;
use mopsel_core::{Refusal, refuse};
use mopsel_store::{Fault, StoreError};
use serde::de::DeserializeOwned;
use serde_json::Value;
use std::fs::File;
use std::future::Future;
use std::io::{Seek, SeekFrom, Write};
use std::path::Path;
use std::pin::Pin;
use std::time::{Duration, Instant};

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
            let value: Value = serde_json::from_slice(&bytes).map_err(|error| not_json(&error))?;
            typed(value, "").map(Self)
        })
    }
}

fn not_json(error: &serde_json::Error) -> Problem {
    let (line, column) = (error.line(), error.column());
    let detail = format!(
        "The body is not JSON: it breaks off or goes wrong at line {line}, column {column}. Send one JSON object."
    );
    Problem::new(StatusCode::BAD_REQUEST, "not-json", "Not JSON", detail)
}

/// How long a picture may take to arrive, from a phone with one bar.
const MOST_SECONDS_PICTURE: Duration = Duration::from_secs(120);
/// A file comes no slower on the whole, in bytes a second.
const LEAST_A_SECOND: u64 = 4 * 1024;

/// The bytes of a picture; what it is, its bytes tell, not the header.
pub struct Picture(pub Bytes);

impl FromRequest for Picture {
    type Error = Problem;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let wanted = Wanted {
            is: |kind| kind.starts_with("image/"),
            allowed: "image/jpeg, image/png or image/webp",
            limit: crate::picture::LIMIT,
            too_large: too_large_picture,
        };
        let read = whole(request, payload, wanted);
        Box::pin(async move {
            let bytes = read.await?;
            bytes.map(Self).ok_or_else(|| crate::picture::no_picture(0).into())
        })
    }
}

/// The text of a calendar file.
pub struct CalendarText(pub String);

impl FromRequest for CalendarText {
    type Error = Problem;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let wanted = Wanted {
            is: |kind| kind.starts_with("text/calendar"),
            allowed: "text/calendar",
            limit: crate::closures::LIMIT,
            too_large: too_large_calendar,
        };
        let read = all_of(request, payload, wanted);
        Box::pin(async move { Ok(Self(String::from_utf8_lossy(&read.await?).into_owned())) })
    }
}

/// A JSON body of very many of the same, as a logger's script sends it.
pub struct Many<T>(pub T);

/// The largest such body.
const MANY: usize = 4 * 1024 * 1024;

impl<T: DeserializeOwned + 'static> FromRequest for Many<T> {
    type Error = Problem;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let wanted = Wanted {
            is: |kind| kind.split(';').next().is_some_and(|kind| kind.trim() == "application/json"),
            allowed: "application/json",
            limit: MANY,
            too_large: |found| too_much(found, MANY, "Send fewer readings in one post."),
        };
        let read = all_of(request, payload, wanted);
        Box::pin(async move {
            let value = serde_json::from_slice(&read.await?).map_err(|error| not_json(&error))?;
            typed(value, "").map(Self)
        })
    }
}

/// The beginning of a file of readings.
pub struct CsvBeginning(pub Bytes);

/// The most of it that is looked at.
const BEGINNING: usize = 256 * 1024;

impl FromRequest for CsvBeginning {
    type Error = Problem;
    type Future = Pin<Box<dyn Future<Output = Result<Self, Problem>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let too_large = |found| too_much(found, BEGINNING, "Send only the beginning of the file.");
        let is = |kind: &str| kind.starts_with("text/csv");
        let read = all_of(request, payload, Wanted { is, allowed: "text/csv", limit: BEGINNING, too_large });
        Box::pin(async move { read.await.map(Self) })
    }
}

fn too_much(found: Option<usize>, limit: usize, mend: &str) -> Problem {
    let found = found.map_or("more than that".to_owned(), |bytes| format!("{} KB", bytes / 1024));
    let detail = format!("Found a body of {found}; allowed is {} KB. {mend}", limit / 1024);
    Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", detail)
}

/// What is sent whole to the disk is no larger, in bytes.
const MOST_SENT: u64 = 4 * 1024 * 1024 * 1024;

/// Puts a body into a file without a name beside the data, where there is room for what comes of it. Whatever ends the
/// program, nothing of it is left behind.
///
/// # Errors
/// A problem where it breaks off, is too large, or the disk is full.
pub async fn sent_to_disk(mut payload: actix_web::web::Payload, beside: &Path) -> Result<File, Problem> {
    let folder = beside.parent().filter(|folder| !folder.as_os_str().is_empty());
    let kept = folder.map_or_else(tempfile::tempfile, tempfile::tempfile_in);
    let mut kept = kept.map_err(|error| unkept(&error, beside))?;
    let (mut size, begun) = (0u64, Instant::now());
    // A slow line is waited for as long as something comes; what dribbles in holds a place on the disk and a connection.
    let stalled = || {
        let detail = "It stopped arriving, or came too slowly. Nothing was imported; send it again.";
        Problem::new(StatusCode::REQUEST_TIMEOUT, "too-slow", "Stopped arriving", detail)
    };
    while let Some(piece) = timeout(MOST_SECONDS, payload.next()).await.map_err(|_| stalled())? {
        if begun.elapsed() > MOST_SECONDS_PICTURE + Duration::from_secs(size / LEAST_A_SECOND) {
            return Err(stalled());
        }
        let piece = piece.map_err(|error| {
            let detail = format!("It did not arrive whole: {error}. Nothing was brought in; send it again.");
            Problem::new(StatusCode::BAD_REQUEST, "broke-off", "Broke off", detail)
        })?;
        size += piece.len() as u64;
        if size > MOST_SENT {
            let detail =
                "Found more than 4 GB; allowed is less. Send it in parts; an archive is brought in by `mopsel import`.";
            return Err(Problem::new(StatusCode::PAYLOAD_TOO_LARGE, "too-large", "Too large", detail));
        }
        kept.write_all(&piece).map_err(|error| unkept(&error, beside))?;
    }
    kept.seek(SeekFrom::Start(0)).map_err(|error| unkept(&error, beside))?;
    Ok(kept)
}

/// What is sent could not be put on the disk: no matter of whoever sent it.
fn unkept(error: &std::io::Error, beside: &Path) -> Problem {
    let fault = Fault::of_disk(error);
    StoreError::Fault(fault, fault.said(beside)).into()
}

/// What a body that is no JSON has to be.
struct Wanted {
    is: fn(&str) -> bool,
    allowed: &'static str,
    limit: usize,
    too_large: fn(Option<usize>) -> Problem,
}

/// The same; what broke off is nothing.
fn all_of(
    request: &HttpRequest,
    payload: &mut Payload,
    wanted: Wanted,
) -> impl Future<Output = Result<Bytes, Problem>> + use<> {
    let read = whole(request, payload, wanted);
    async move { Ok(read.await?.unwrap_or_default()) }
}

/// The bytes of a body of a type, within a limit and a time; `None` where they broke off.
fn whole(
    request: &HttpRequest,
    payload: &mut Payload,
    wanted: Wanted,
) -> impl Future<Output = Result<Option<Bytes>, Problem>> + use<> {
    let header = |name| request.headers().get(name).and_then(|v: &header::HeaderValue| v.to_str().ok());
    let kind = header(header::CONTENT_TYPE).unwrap_or("nothing").to_owned();
    let announced = header(header::CONTENT_LENGTH).and_then(|length| length.parse::<usize>().ok());
    let payload = actix_web::web::Payload::from_request(request, payload);
    async move {
        if !(wanted.is)(&kind) {
            let detail = format!("Found a body of the type {kind}; allowed is {}.", wanted.allowed);
            return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "wrong-type", "Of another type", detail));
        }
        if announced.is_some_and(|length| length > wanted.limit) {
            return Err((wanted.too_large)(announced));
        }
        let payload = payload.await.map_err(|_| (wanted.too_large)(announced))?;
        match timeout(MOST_SECONDS_PICTURE, payload.to_bytes_limited(wanted.limit)).await {
            Err(_) => Err(too_slow()),
            Ok(Err(_)) => Err((wanted.too_large)(announced)),
            Ok(Ok(Err(_))) => Ok(None),
            Ok(Ok(Ok(bytes))) => Ok(Some(bytes)),
        }
    }
}

fn too_large_calendar(found: Option<usize>) -> Problem {
    let found = found.map_or("more than that".to_owned(), |bytes| format!("{} KB", bytes / 1024));
    Problem::new(
        StatusCode::PAYLOAD_TOO_LARGE,
        "too-large",
        "Too large",
        format!(
            "Found a calendar of {found}; allowed is {} KB. Export only the closures, or a single year.",
            crate::closures::LIMIT / 1024
        ),
    )
}

fn too_large_picture(found: Option<usize>) -> Problem {
    let found = found.map_or("more than that".to_owned(), |bytes| format!("{} MB", bytes / 1024 / 1024));
    Problem::new(
        StatusCode::PAYLOAD_TOO_LARGE,
        "too-large",
        "Too large",
        format!(
            "Found a picture of {found}; allowed is {} MB. Send it smaller, as a phone does when it is asked to.",
            crate::picture::LIMIT / 1024 / 1024
        ),
    )
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
    if !value.is_object() {
        let found = shown(&value);
        return Err(refuse!("wrong_type", found = found, allowed = "an object").at(within).into());
    }
    serde_path_to_error::deserialize(&value).map_err(|error| {
        // "lines[0].rate" becomes "lines.0.rate", as the core writes it; a key that is unknown is said, not shown
        // in the path.
        let path = error.path().to_string().replace('[', ".").replace(']', "");
        let path = path.trim_end_matches(".?").trim_start_matches('.').to_owned();
        let mut at = path.split('.').filter(|part| !part.is_empty());
        let there = at.clone().try_fold(&value, |value, part| match value {
            Value::Array(list) => list.get(part.parse::<usize>().ok()?),
            value => value.get(part),
        });
        let last = at.next_back().unwrap_or_default().to_owned();
        let field = [within, &path].iter().filter(|part| !part.is_empty()).copied().collect::<Vec<_>>().join(".");
        Problem::from(refusal(&error.into_inner().to_string(), &field, &last, there))
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

/// A refusal from a deserialiser's message: the core's own are carried in it whole, the others name what
/// they expected. What was found is said as it was sent, never as a parser puts it.
fn refusal(message: &str, field: &str, last: &str, there: Option<&Value>) -> Refusal {
    if let Some(refusal) = Refusal::carried(message) {
        let within = if refusal.field.is_empty() { String::new() } else { format!(".{}", refusal.field) };
        return Refusal { field: format!("{field}{within}"), ..refusal };
    }
    let plain = message.replace('`', "");
    if let Some(missing) = plain.strip_prefix("missing field ") {
        return refuse!("field_missing", name = missing).at(field);
    }
    for (unknown, what) in [("unknown variant ", ""), ("unknown field ", "the field ")] {
        if let Some((found, allowed)) = plain.strip_prefix(unknown).and_then(|rest| rest.split_once(", expected ")) {
            let found = format!("{what}“{}”", found.chars().take(60).collect::<String>());
            return refuse!("wrong_type", found = found, allowed = allowed.replace("one of ", "one of: ")).at(field);
        }
    }
    let found = there.map_or_else(|| "something else".to_owned(), shown);
    match wanted(&plain, last) {
        Some(allowed) => refuse!("wrong_type", found = found, allowed = allowed).at(field),
        None => refuse!("does_not_fit").at(field),
    }
}

/// A value as it was sent, in short.
fn shown(value: &Value) -> String {
    match value {
        Value::Null => "nothing".to_owned(),
        Value::Bool(value) => value.to_string(),
        Value::Number(number) => number.to_string(),
        Value::String(text) => format!("the text “{}”", text.chars().take(60).collect::<String>()),
        Value::Array(_) => "a list".to_owned(),
        Value::Object(_) => "an object".to_owned(),
    }
}

/// What would have been right, in plain words.
fn wanted(message: &str, field: &str) -> Option<String> {
    let said = match field {
        "at" => "a date and time, like 2027-03-09T08:30:00Z",
        "since" | "from" | "planted_on" | "sown_on" => "a date, like 2027-03-09",
        _ if message.contains("UUID") => "an id, like 0197f0a0-0000-7000-8000-000000000001",
        _ => match message.rsplit_once(", expected ")?.1 {
            "f64" | "f32" => "a number",
            "u8" => "a whole number from 0 to 255",
            "u16" => "a whole number from 0 to 65535",
            "u32" => "a whole number from 0 to 4294967295",
            "u64" | "usize" => "a whole number, 0 or more",
            "i32" | "i64" => "a whole number",
            "a boolean" => "true or false",
            "a string" | "a borrowed string" => "a text",
            "a sequence" => "a list",
            "a map" => "an object",
            other if other.starts_with("struct ") || other.contains(" enum ") => "an object",
            other => return Some(other.to_owned()),
        },
    };
    Some(said.to_owned())
}
