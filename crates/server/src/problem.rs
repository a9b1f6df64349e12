//! The one shape of every error outward: RFC 9457 `application/problem+json`.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use mopsel_core::message::count;
use mopsel_core::words::{Reader, RefusalSaid, Speaker};
use mopsel_core::{Refusal, refuse};
use mopsel_store::{Fault, LongWork, Standing, StoreError};
use serde::Serialize;
use serde_json::Value;
use std::path::Path;

/// What went wrong, before it is put into its reader's words.
#[derive(Debug, Clone)]
pub struct Problem {
    status: StatusCode,
    kind: &'static str,
    title: &'static str,
    detail: Box<str>,
    refusals: Vec<Refusal>,
    current: Option<Box<Value>>,
    yours: Option<Box<Value>>,
    lines: Box<[LineFault]>,
    /// What stands where two writers met, until it has been put into `current`.
    standing: Option<Box<Standing>>,
}

/// What went wrong, where, and how to mend it.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
#[schema(as = Problem)]
pub struct ProblemSaid {
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
    pub fields: Vec<RefusalSaid>,
    /// Where two versions meet: the one that stands.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub current: Option<Box<Value>>,
    /// What was refused, in the shape in which it is shown, with its lines in words.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<Object>)]
    pub yours: Option<Box<Value>>,
    /// Of a file or a list of readings: the lines that cannot be taken, the first five hundred of them.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub lines: Vec<LineSaid>,
}

/// A line that cannot be taken.
#[derive(Debug, Clone)]
pub struct LineFault {
    /// Which, from 1; of a list, from 0.
    pub line: u64,
    /// In which column, from 0; in none where it is the whole line.
    pub column: Option<usize>,
    /// Where in the file it begins, in bytes.
    pub offset: u64,
    /// How long it is, in bytes, with its end.
    pub length: u64,
    /// What stands in it.
    pub cells: Vec<String>,
    /// Why.
    pub refusal: Refusal,
}

/// A line that cannot be taken, in its reader's words.
#[derive(Debug, Clone, Serialize, utoipa::ToSchema)]
pub struct LineSaid {
    /// Which, from 1; of a list, from 0.
    pub line: u64,
    /// In which column, from 0; absent where it is the whole line.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub column: Option<usize>,
    /// Where in the file it begins, in bytes.
    pub offset: u64,
    /// How long it is, in bytes, with its end.
    pub length: u64,
    /// What stands in it.
    pub cells: Vec<String>,
    /// What was found, what is allowed and how to mend it.
    pub why: RefusalSaid,
}

impl Problem {
    /// Lines that cannot be taken: how many, and the first of them.
    pub fn of_lines(all: usize, lines: Vec<LineFault>) -> Self {
        Self { lines: lines.into(), ..refuse!("lines_at_fault", found = count(all)).into() }
    }

    /// A problem without fields.
    pub fn new(status: StatusCode, kind: &'static str, title: &'static str, detail: impl Into<String>) -> Self {
        let detail = detail.into().into_boxed_str();
        Self {
            status,
            kind,
            title,
            detail,
            refusals: vec![],
            current: None,
            yours: None,
            lines: Box::default(),
            standing: None,
        }
    }

    /// Nobody is signed in, and what was asked for is not for everybody.
    pub fn signed_out() -> Self {
        Self {
            status: StatusCode::UNAUTHORIZED,
            kind: "signed-out",
            title: "Signed out",
            ..refuse!("signed_out").into()
        }
    }

    /// A name and a password that let nobody in.
    pub fn wrong_password(refusal: Refusal) -> Self {
        Self { status: StatusCode::UNAUTHORIZED, kind: "wrong-password", title: "Not let in", ..refusal.into() }
    }

    /// Too many tries; after so many seconds one more is allowed.
    pub fn too_many(seconds: u64) -> Self {
        let wait = refuse!("too_many_tries", seconds = count(u32::try_from(seconds).unwrap_or(u32::MAX)));
        let (status, kind) = (StatusCode::TOO_MANY_REQUESTS, "too-many-tries");
        Self { status, kind, title: "Too many tries", ..wait.into() }
    }

    /// What an actor may not do.
    pub fn not_permitted(refusal: Refusal) -> Self {
        Self { status: StatusCode::FORBIDDEN, kind: "not-permitted", title: "Not permitted", ..refusal.into() }
    }

    /// Nothing there with that id or at that address.
    pub fn not_found(what: &str) -> Self {
        let detail = format!("There is no {what} here. It may never have been, or the address is mistyped.");
        Self::new(StatusCode::NOT_FOUND, "not-found", "Not found", detail)
    }

    /// What was refused, field by field.
    #[must_use]
    pub fn refusals(&self) -> &[Refusal] {
        &self.refusals
    }

    /// What stands where two writers met, taken out to be shown.
    pub fn take_standing(&mut self) -> Option<Standing> {
        self.standing.take().map(|standing| *standing)
    }

    /// Puts both versions in the shape in which they are shown.
    #[must_use]
    pub fn with_both(mut self, current: impl Serialize, yours: impl Serialize) -> Self {
        self.current = serde_json::to_value(current).ok().map(Box::new);
        self.yours = serde_json::to_value(yours).ok().map(Box::new);
        self
    }

    /// Puts what was refused in the shape in which it is shown.
    #[must_use]
    pub fn with_yours(mut self, yours: impl Serialize) -> Self {
        self.yours = serde_json::to_value(yours).ok().map(Box::new);
        self
    }

    /// The answer, for one reader.
    pub fn said_to(&self, reader: Reader) -> HttpResponse {
        let speaker = Speaker::new(reader);
        let fields: Vec<RefusalSaid> = self.refusals.iter().map(|refusal| speaker.refuse(refusal)).collect();
        let clauses =
            |said: &RefusalSaid| format!("{}. {}. {}", capital(&said.found), capital(&said.allowed), said.mend);
        let detail = fields.first().map_or_else(|| self.detail.to_string(), clauses);
        HttpResponse::build(self.status).content_type("application/problem+json").json(ProblemSaid {
            kind: format!("/problems/{}", self.kind),
            title: self.title.to_owned(),
            status: self.status.as_u16(),
            detail,
            fields,
            current: self.current.clone(),
            yours: self.yours.clone(),
            lines: self.lines.iter().map(|fault| fault.said(&speaker)).collect(),
        })
    }
}

impl LineFault {
    /// One of a list: it stands in no file.
    #[must_use]
    pub fn in_list(line: u64, refusal: Refusal) -> Self {
        Self { line, column: None, offset: 0, length: 0, cells: Vec::new(), refusal }
    }

    fn said(&self, speaker: &Speaker) -> LineSaid {
        let Self { line, column, offset, length, cells, refusal } = self.clone();
        LineSaid { line, column, offset, length, cells, why: speaker.refuse(&refusal) }
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
        let problem = Self::new(StatusCode::UNPROCESSABLE_ENTITY, "not-accepted", "Not accepted", "");
        Self { refusals: vec![refusal], ..problem }
    }
}

/// With a capital first letter.
fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

fn conflict(standing: Standing) -> Problem {
    let detail = match &standing {
        Standing::Card(_) => "Someone else changed this meanwhile. Nothing was overwritten.",
        Standing::Entry(_) => "This entry was amended meanwhile. Nothing was overwritten.",
        Standing::Draft(_) => "This visit was continued on another device. Nothing was overwritten.",
        Standing::Run(_) => "This change was continued on another device. Nothing was overwritten.",
        Standing::Account(_) => "Someone else changed this account meanwhile. Nothing was overwritten.",
    };
    let problem = Problem::new(StatusCode::CONFLICT, "changed-meanwhile", "Changed meanwhile", detail);
    Problem { standing: Some(Box::new(standing)), ..problem }
}

/// Long work is under way: nothing is lost, and it will be written in a while.
fn busy(work: &LongWork) -> Problem {
    let far = work.percent().map(|percent| format!(" ({percent} %)")).unwrap_or_default();
    let detail = format!("{}{far}. Saving goes on when that is done; nothing is lost.", work.what.said());
    Problem::new(StatusCode::SERVICE_UNAVAILABLE, "busy", "Busy with an import", detail)
}

/// A file that cannot be read or written just now. The sort of problem says which, for a program.
fn failed(fault: Fault, why: String) -> Problem {
    let (kind, title) = match fault {
        Fault::Full => ("disk-full", "The disk is full"),
        Fault::Locked => ("file-locked", "The file is locked"),
        Fault::Damaged => ("file-damaged", "The file is damaged"),
        Fault::WriteProtected => ("write-protected", "Write-protected"),
        Fault::Unreachable | Fault::Foreign | Fault::Other => ("store-failed", "Not stored"),
    };
    tracing::error!(%why, "{title}");
    Problem::new(StatusCode::SERVICE_UNAVAILABLE, kind, title, format!("{}.", capital(why.trim_end_matches('.'))))
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        match error {
            StoreError::NotFound(what) => Self::not_found(&format!("such {what}")),
            StoreError::Refused(refusal) => match &*refusal.code {
                "signed_out" | "account_ended" => Self::signed_out(),
                "role_may_not" | "person_not_yours" => Self::not_permitted(refusal),
                _ => refusal.into(),
            },
            StoreError::Conflict(standing) => conflict(standing),
            StoreError::IdTaken => {
                let refusal = mopsel_core::refuse!("id_taken").at("id");
                Self { status: StatusCode::CONFLICT, ..Self::from(refusal) }
            }
            StoreError::ReadOnly(why) => {
                Self::new(StatusCode::FORBIDDEN, "read-only", "Read only", format!("{}.", capital(&why)))
            }
            StoreError::Fault(fault, why) => failed(fault, why),
            StoreError::Busy(work) => busy(&work),
            StoreError::Database(error) => {
                let fault = Fault::of(&error);
                tracing::error!(%error, "the database");
                failed(fault, fault.said(Path::new("The data file")))
            }
            StoreError::Corrupt(why) => {
                tracing::error!(%why, "a row cannot be read");
                failed(
                    Fault::Damaged,
                    "Something in the data file cannot be read; nothing was written. Look with `mopsel check`, and \
                     bring back the last backup with `mopsel restore`"
                        .to_owned(),
                )
            }
            StoreError::Unfit(why) => failed(Fault::Other, why),
        }
    }
}

impl ResponseError for Problem {
    fn status_code(&self) -> StatusCode {
        self.status
    }

    fn error_response(&self) -> HttpResponse {
        self.said_to(Reader::default())
    }
}
