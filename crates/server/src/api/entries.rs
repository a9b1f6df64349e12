//! The log and the visits that are half done.

use super::{Id, now, recorder};
use crate::book::{Book, PlaceFile, SystemFile};
use crate::input::{Json, tag, unknown_tag, variant};
use crate::view::{DraftView, EntryView, LogPage, draft_view, entry_view, lines_of, log_page};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use jiff::{Timestamp, ToSpan};
use mopsel_core::Refusal;
use mopsel_core::log::{Body, Entry, Visit};
use mopsel_core::quantity::Note;
use mopsel_store::{Draft, NewEntry, StoreError};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;
use uuid::Uuid;

/// An entry to be added.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AddEntry {
    /// Made by the client; repeat the request with the same id as often as needed.
    pub id: Uuid,
    /// When it happened; now when absent.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub at: Option<Timestamp>,
    /// Who did it.
    pub by: Uuid,
    /// What happened.
    #[schema(value_type = Body)]
    pub body: Value,
    /// The entry that this one replaces.
    #[serde(default)]
    pub amends: Option<Uuid>,
    /// Why it was amended; wanted for an amendment.
    #[serde(default)]
    pub reason: Option<Note>,
}

/// An entry that was refused because another was faster, as it would have been shown.
#[derive(Serialize)]
struct Refused {
    #[serde(flatten)]
    entry: Entry,
    lines: Vec<String>,
}

fn body(value: Value) -> Result<Body, Problem> {
    let at = "body";
    Ok(match tag(&value, "kind") {
        "visit" => Body::Visit(variant(value, "kind", at)?),
        "change" => Body::Change(variant(value, "kind", at)?),
        "treatment" => Body::Treatment(variant(value, "kind", at)?),
        "correction" => Body::Correction(variant(value, "kind", at)?),
        "premix" => Body::Premix(variant(value, "kind", at)?),
        "withdrawn" => Body::Withdrawn {},
        other => return Err(unknown_tag(other, "visit, change, treatment, correction, premix or withdrawn", "body.kind")),
    })
}

/// Clocks of phones differ; so much into the future is taken as now.
const CLOCK_MINUTES: i64 = 5;

/// The time of an entry: not in the future, not before the system was there.
fn time(wanted: Option<Timestamp>, now: Timestamp, file: &SystemFile, place: &PlaceFile) -> Result<Timestamp, Problem> {
    let Some(at) = wanted else { return Ok(now) };
    if at > now.saturating_add(CLOCK_MINUTES.minutes()).unwrap_or(now) {
        return Err(Refusal::new(format!("found {at}, which is still to come"), format!("allowed is up to now, {now}"), "Check the date and the device's clock.").at("at").into());
    }
    let local = at.to_zoned(place.zone.clone()).date();
    if local < file.system.since {
        return Err(Refusal::new(
            format!("found {local}, before the system was set up"),
            format!("allowed is {} or after", file.system.since),
            "Check the date, or set the system's start earlier under Set-up.",
        )
        .at("at")
        .into());
    }
    Ok(at.min(now))
}

fn checked_amendment(request: &AddEntry, body: &Body) -> Result<(), Problem> {
    let reason_given = request.reason.as_ref().is_some_and(|reason| !reason.as_str().is_empty());
    match (request.amends, body) {
        (Some(_), _) if !reason_given => {
            Err(Refusal::new("found an amendment without a reason", "allowed is an amendment with one", "Say in a few words what was wrong.").at("reason").into())
        }
        (None, Body::Withdrawn {}) => {
            Err(Refusal::new("found a withdrawal of nothing", "allowed is a withdrawal that names the entry it amends", "Name the entry in “amends”.").at("amends").into())
        }
        _ => Ok(()),
    }
}

/// Adds an entry, or an amendment of one. The same request again adds nothing and answers the same.
#[utoipa::path(post, path = "/api/systems/{id}/entries", params(("id" = Uuid, Path)), request_body = AddEntry, responses((status = 201, body = EntryView), (status = 200, description = "It was there already", body = EntryView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub async fn append(id: Id, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<AddEntry>) -> Result<HttpResponse, Problem> {
    let at_now = now(&clock);
    let parsed = body(request.body.clone())?;
    checked_amendment(&request, &parsed)?;
    let known = book.store().entry(request.id).await.ok();
    let (new, system) = {
        let pages = book.open().await?;
        let file = pages.system(id.0)?;
        let by_child = recorder(&pages, file, request.by)?;
        if file.card.archived {
            return Err(Refusal::new("found a system that was put away", "allowed are systems in use", "Take it out again under Set-up.").into());
        }
        parsed.check(&file.system, by_child).map_err(|refusal| refusal.at("body"))?;
        // A repeated request without a time means the time that it was given when it came first.
        let wanted = request.at.or(known.as_ref().map(|k| k.entry.at));
        let at = time(wanted, at_now, file, pages.place_of(file)?)?;
        let entry = Entry { id: request.id, at, by: request.by, body: parsed, amends: request.amends, reason: request.reason.clone() };
        (NewEntry { system: id.0, entry }, file.system.clone())
    };
    let appended = match book.store().append(&new, &system, at_now).await {
        Err(StoreError::Amended(current)) => {
            let pages = book.open().await?;
            let view = entry_view(&pages, (*current).clone())?;
            let yours = Refused { lines: lines_of(&pages, id.0, &new.entry.body)?, entry: new.entry };
            return Err(Problem::from(StoreError::Amended(current)).with_both(view, yours));
        }
        other => other?,
    };
    let pages = book.open().await?;
    let view = entry_view(&pages, appended.entry)?;
    Ok(if appended.repeated { HttpResponse::Ok().json(view) } else { HttpResponse::Created().json(view) })
}

/// Which page of the log.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LogQuery {
    /// From the page before.
    pub before: Option<String>,
    /// How many entries, 1–100; 20 when absent.
    pub limit: Option<u32>,
}

/// A page of a system's log, newest first.
#[utoipa::path(get, path = "/api/systems/{id}/log", params(("id" = Uuid, Path), LogQuery), responses((status = 200, body = LogPage), (status = 422, body = Problem)))]
pub async fn read_log(id: Id, book: web::Data<Book>, query: web::Query<LogQuery>) -> Result<web::Json<LogPage>, Problem> {
    let limit = query.limit.unwrap_or(20);
    if !(1..=100).contains(&limit) {
        return Err(Refusal::new(format!("found {limit}"), "allowed is 1 to 100", "Ask for fewer at a time.").at("limit").into());
    }
    let parse = |text: &str| text.split_once('.').and_then(|(at, seq)| Some((Timestamp::from_millisecond(at.parse().ok()?).ok()?, seq.parse::<i64>().ok()?)));
    let before = match query.before.as_deref() {
        None => None,
        Some(text) => Some(
            parse(text).ok_or_else(|| Refusal::new("found a page mark that is none", "allowed is the mark from the page before", "Start from the newest page.").at("before"))?,
        ),
    };
    book.open().await?.system(id.0)?;
    let threads = book.store().log_page(id.0, before, limit).await?;
    Ok(web::Json(log_page(&*book.open().await?, threads, limit)?))
}

/// Whose draft.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct DraftQuery {
    /// The person's id.
    pub who: Uuid,
}

/// What is half done by a person at a system.
#[derive(Serialize, ToSchema)]
pub struct DraftAnswer {
    /// Absent when nothing is.
    pub draft: Option<DraftView>,
}

/// The visit that someone has half done at a system.
#[utoipa::path(get, path = "/api/systems/{id}/draft", params(("id" = Uuid, Path), DraftQuery), responses((status = 200, body = DraftAnswer)))]
pub async fn read_draft(id: Id, book: web::Data<Book>, query: web::Query<DraftQuery>) -> Result<web::Json<DraftAnswer>, Problem> {
    let pages = book.open().await?;
    let draft = book.store().draft(id.0, query.who).await?;
    Ok(web::Json(DraftAnswer { draft: draft.map(|draft| draft_view(&pages, draft)).transpose()? }))
}

/// A visit half done, to be saved.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaveDraft {
    /// The id that the entry will have.
    pub id: Uuid,
    /// Whose.
    pub who: Uuid,
    /// The version that the writer saw, 0 for a new one.
    pub version: i64,
    /// As far as it has come.
    pub visit: Visit,
}

/// Saves a visit half done, so that it survives a reload and a restart.
#[utoipa::path(put, path = "/api/systems/{id}/draft", params(("id" = Uuid, Path)), request_body = SaveDraft, responses((status = 200, body = DraftView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub async fn save_draft(id: Id, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<SaveDraft>) -> Result<web::Json<DraftView>, Problem> {
    {
        let pages = book.open().await?;
        recorder(&pages, pages.system(id.0)?, request.who)?;
    }
    if book.store().entry(request.id).await.is_ok() {
        return Err(Refusal::new("found a visit that is closed already", "allowed are visits under way", "Amend it in the log instead.").at("id").into());
    }
    let draft = Draft { id: request.id, system: id.0, who: request.who, version: request.version, visit: request.visit.clone(), at: now(&clock) };
    let saved = book.store().save_draft(&draft).await;
    let pages = book.open().await?;
    match saved {
        Err(StoreError::DraftChanged(current)) => {
            let (view, yours) = (draft_view(&pages, (*current).clone())?, draft_view(&pages, draft)?);
            Err(Problem::from(StoreError::DraftChanged(current)).with_both(view, yours))
        }
        other => Ok(web::Json(draft_view(&pages, other?)?)),
    }
}

/// Puts a half done visit away.
#[utoipa::path(delete, path = "/api/systems/{id}/draft", params(("id" = Uuid, Path), DraftQuery), responses((status = 204)))]
pub async fn drop_draft(id: Id, book: web::Data<Book>, query: web::Query<DraftQuery>) -> Result<HttpResponse, Problem> {
    book.store().drop_draft(id.0, query.who).await?;
    Ok(HttpResponse::NoContent().finish())
}
