//! The one shape of every error outward: RFC 9457 `application/problem+json`.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use mopsel_core::Refusal;
use mopsel_store::StoreError;
use serde::Serialize;
use serde_json::Value;

/// What went wrong, where, and how to mend it.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct Problem {
    /// Which sort of problem; stays the same from release to release.
    #[serde(rename = "type")]
    pub kind: String,
    /// The sort in words.
    pub title: String,
    /// The HTTP status.
    pub status: u16,
    /// This case, in a sentence or two.
    pub detail: String,
    /// What was found, what is allowed and how to mend it, at the fields they belong to.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub fields: Vec<Refusal>,
    /// Where two versions meet: the one that stands.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub current: Option<Box<Value>>,
    /// Where two versions meet: the one that was refused.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub yours: Option<Box<Value>>,
}

impl Problem {
    /// A problem without fields.
    pub fn new(status: StatusCode, kind: &str, title: &str, detail: impl Into<String>) -> Self {
        Self { kind: format!("/problems/{kind}"), title: title.to_owned(), status: status.as_u16(), detail: detail.into(), fields: vec![], current: None, yours: None }
    }

    /// Nothing there with that id or at that address.
    pub fn not_found(what: &str) -> Self {
        Self::new(StatusCode::NOT_FOUND, "not-found", "Not found", format!("There is no {what} here. It may never have been, or the address is mistyped."))
    }

    /// Two versions meet; both are shown.
    pub fn conflict(detail: &str, current: Value, yours: Value) -> Self {
        Self { current: Some(Box::new(current)), yours: Some(Box::new(yours)), ..Self::new(StatusCode::CONFLICT, "changed-meanwhile", "Changed meanwhile", detail) }
    }

    /// Puts both versions in the shape in which they are shown.
    #[must_use]
    pub fn with_both(mut self, current: impl Serialize, yours: impl Serialize) -> Self {
        self.current = serde_json::to_value(current).ok().map(Box::new);
        self.yours = serde_json::to_value(yours).ok().map(Box::new);
        self
    }
}

impl std::fmt::Display for Problem {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}: {}", self.title, self.detail)
    }
}

impl std::error::Error for Problem {}

impl From<Refusal> for Problem {
    fn from(refusal: Refusal) -> Self {
        let detail = format!("{}. {}. {}", capital(&refusal.found), capital(&refusal.allowed), refusal.mend);
        Self { fields: vec![refusal], ..Self::new(StatusCode::UNPROCESSABLE_ENTITY, "not-accepted", "Not accepted", detail) }
    }
}

/// With a capital first letter.
fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound(what) => Self::not_found(what),
            StoreError::IdTaken => {
                let refusal = Refusal::new("found an id that belongs to something else", "allowed is a new id, or the very same request again", "Make a new id.").at("id");
                Self { status: StatusCode::CONFLICT.as_u16(), ..Self::from(refusal) }
            }
            StoreError::Changed(card) => {
                Self::conflict("Someone else changed this meanwhile. Both versions are shown; nothing was overwritten.", crate::view::card_value(&card), Value::Null)
            }
            StoreError::Amended(entry) => Self::conflict(
                "This entry was amended meanwhile. Both versions are shown; nothing was overwritten.",
                serde_json::to_value(&entry.entry).unwrap_or_default(),
                Value::Null,
            ),
            StoreError::DraftChanged(draft) => Self::conflict(
                "This visit was continued on another device. Both versions are shown; nothing was overwritten.",
                serde_json::to_value(&draft.visit).unwrap_or_default(),
                Value::Null,
            ),
            StoreError::RunChanged(run) => Self::conflict(
                "This change was continued on another device. Both versions are shown; nothing was overwritten.",
                serde_json::to_value(&run.run).unwrap_or_default(),
                Value::Null,
            ),
            StoreError::Database(_) | StoreError::Corrupt(_) => {
                tracing::error!(%error, "the store failed");
                Self::new(
                    StatusCode::SERVICE_UNAVAILABLE,
                    "store-failed",
                    "Not stored",
                    "The data file could not be read or written; nothing was half-written. Look for a full disk, then try again.",
                )
            }
        }
    }
}

impl ResponseError for Problem {
    fn status_code(&self) -> StatusCode {
        StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR)
    }

    fn error_response(&self) -> HttpResponse {
        HttpResponse::build(self.status_code()).content_type("application/problem+json").json(self)
    }
}
