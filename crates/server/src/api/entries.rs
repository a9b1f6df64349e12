//! The log and the visits that are half done.

use super::{Acting, Id, MOST_ON_A_PAGE, SeenQuery, now};
use crate::actor::Who;
use crate::book::Book;
use crate::input::{Json, tag, unknown_tag, variant};
use crate::problem::ProblemSaid;
use crate::view::{DraftView, EntryView, LogPage, draft_view, entry_view, lines_of, log_page};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::fact::{Actor, Body, Draft, Entry, Visit};
use mopsel_core::gate::{Command, NewEntry};
use mopsel_core::message::count;
use mopsel_core::quantity::Note;
use mopsel_core::{Refusal, refuse};
use mopsel_store::{Outcome, Standing};
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
    /// What happened.
    #[schema(value_type = Body)]
    pub body: Value,
    /// The entry that this one replaces.
    #[serde(default)]
    pub amends: Option<Uuid>,
    /// Why it was amended; wanted for an amendment.
    #[serde(default)]
    pub reason: Option<Note>,
    /// The version of the half done visit that this closes, where there is one with its id.
    #[serde(default)]
    pub closes: Option<i64>,
    /// When it was saved on the device, by the server's clock as the device knows it. What waited for a connection happened
    /// then, where nothing else says when.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub saved: Option<Timestamp>,
}

/// An entry that was refused because another was faster, as it would have been shown.
#[derive(Serialize)]
struct Yours {
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
        other => {
            let known = "visit, change, treatment, correction, premix or withdrawn";
            return Err(unknown_tag(other, known, "body.kind"));
        }
    })
}

/// The answer to a command that ends in an entry.
pub(super) async fn answer(book: &Book, actor: &Actor, outcome: Outcome) -> Result<HttpResponse, Problem> {
    match outcome {
        Outcome::Entry(entry, repeated) => super::changes::shown(book, actor, *entry, repeated).await,
        _ => Err(Problem::not_found("such entry")),
    }
}

/// Adds an entry, or an amendment of one. The same request again adds nothing and answers the same.
#[utoipa::path(post, path = "/api/systems/{id}/entries", params(("id" = Uuid, Path), Acting), request_body = AddEntry, responses((status = 201, body = EntryView), (status = 200, description = "It was there already", body = EntryView), (status = 404, body = ProblemSaid), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn append(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<AddEntry>,
) -> Result<HttpResponse, Problem> {
    let now = now(&clock);
    let AddEntry { id: entry, at, body: value, amends, reason, closes, saved } = request;
    let body = body(value)?;
    let new = NewEntry { id: entry, at, body: body.clone(), amends, reason: reason.clone(), closes, saved };
    match book.store().submit(&Command::Add(id.0, Box::new(new)), &actor, now).await.map_err(Problem::from) {
        Ok(outcome) => answer(&book, &actor, outcome).await,
        Err(mut problem) => {
            let standing = problem.take_standing();
            let pages = book.open(&actor).await?;
            let (at, by) = (at.or(saved).unwrap_or(now), actor.person.unwrap_or_default());
            // What was refused is said back in words: it may have waited on a device, far from the page it was typed on.
            let Ok(lines) = lines_of(&pages, &actor, id.0, at, &body) else { return Err(problem) };
            let yours = Yours { lines, entry: Entry { id: entry, at, by, body, amends, reason } };
            Err(match standing {
                Some(Standing::Entry(there)) => problem.with_both(entry_view(&pages, &actor, *there)?, yours),
                Some(Standing::Draft(there)) => problem.with_both(draft_view(&pages, &actor, *there)?, yours),
                _ => problem.with_yours(yours),
            })
        }
    }
}

/// Which page of the log.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct LogQuery {
    /// Entries on a page, 1 to 100; 30 when absent.
    #[param(minimum = 1, maximum = 100)]
    pub limit: Option<u32>,
    /// The mark of the page before.
    #[param(pattern = r"^-?\d+\.-?\d+$")]
    pub before: Option<String>,
}

/// A page of a system's log, newest first, each entry with what it replaced.
#[utoipa::path(get, path = "/api/systems/{id}/log", params(("id" = Uuid, Path), LogQuery, Acting), responses((status = 200, body = LogPage), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_log(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    query: web::Query<LogQuery>,
) -> Result<web::Json<LogPage>, Problem> {
    let limit = query.limit.unwrap_or(30);
    if !(1..=MOST_ON_A_PAGE).contains(&limit) {
        return Err(refuse!("page_limit", found = count(limit), most = count(MOST_ON_A_PAGE)).at("limit").into());
    }
    let before = query.before.as_deref().map(mark).transpose()?;
    book.as_opened(&actor).await.system(id.0)?;
    let threads = book.store().log_page(id.0, before, limit).await?;
    Ok(web::Json(log_page(&*book.as_opened(&actor).await, &actor, threads, limit)?))
}

/// The time and the place of the last entry of the page before.
pub(super) fn mark(text: &str) -> Result<(Timestamp, i64), Refusal> {
    let parts = text
        .split_once('.')
        .and_then(|(at, seq)| Some((Timestamp::from_millisecond(at.parse().ok()?).ok()?, seq.parse::<i64>().ok()?)));
    parts.ok_or_else(|| refuse!("page_mark").at("before"))
}

/// What is half done by a person at a system.
#[derive(Serialize, ToSchema)]
pub struct DraftAnswer {
    /// Absent when nothing is.
    pub draft: Option<DraftView>,
}

/// The visit that the actor has half done at a system.
#[utoipa::path(get, path = "/api/systems/{id}/draft", params(("id" = Uuid, Path), Acting), responses((status = 200, body = DraftAnswer), (status = 404, body = ProblemSaid)))]
pub async fn read_draft(id: Id, Who(actor): Who, book: web::Data<Book>) -> Result<web::Json<DraftAnswer>, Problem> {
    book.as_opened(&actor).await.system(id.0)?;
    let draft = match actor.person {
        Some(person) => book.store().draft(id.0, person).await?,
        None => None,
    };
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(DraftAnswer { draft: draft.map(|draft| draft_view(&pages, &actor, draft)).transpose()? }))
}

/// A visit half done, to be saved.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaveDraft {
    /// The id that the entry will have.
    pub id: Uuid,
    /// The version that the writer saw, 0 for a new one.
    pub version: i64,
    /// As far as it has come.
    pub visit: Visit,
}

/// Saves a visit half done, so that it survives a reload and a restart.
#[utoipa::path(put, path = "/api/systems/{id}/draft", params(("id" = Uuid, Path), Acting), request_body = SaveDraft, responses((status = 200, body = DraftView), (status = 404, body = ProblemSaid), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn save_draft(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<SaveDraft>,
) -> Result<web::Json<DraftView>, Problem> {
    let at = now(&clock);
    let SaveDraft { id: visit_id, version, visit } = request;
    let command = Command::SaveDraft { system: id.0, id: visit_id, version, visit: Box::new(visit.clone()) };
    let saved = book.store().submit(&command, &actor, at).await.map_err(Problem::from);
    let pages = book.open(&actor).await?;
    match saved {
        Ok(Outcome::Draft(draft)) => Ok(web::Json(draft_view(&pages, &actor, *draft)?)),
        Ok(_) => Err(Problem::not_found("such visit")),
        Err(mut problem) => {
            let standing = problem.take_standing();
            let who = actor.person.unwrap_or_default();
            let yours = Draft { id: visit_id, system: id.0, who, version, visit, at, read_at: None };
            let Ok(yours) = draft_view(&pages, &actor, yours) else { return Err(problem) };
            Err(match standing {
                Some(Standing::Draft(there)) => problem.with_both(draft_view(&pages, &actor, *there)?, yours),
                _ => problem.with_yours(yours),
            })
        }
    }
}

/// Puts a half done visit away.
#[utoipa::path(delete, path = "/api/systems/{id}/draft", params(("id" = Uuid, Path), SeenQuery, Acting), responses((status = 204), (status = 404, body = ProblemSaid), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn drop_draft(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    query: web::Query<SeenQuery>,
) -> Result<HttpResponse, Problem> {
    let command = Command::DropDraft(query.seen(id.0));
    match book.store().submit(&command, &actor, now(&clock)).await.map_err(Problem::from) {
        Ok(_) => Ok(HttpResponse::NoContent().finish()),
        Err(mut problem) => Err(match problem.take_standing() {
            Some(Standing::Draft(there)) => {
                problem.with_both(draft_view(&*book.open(&actor).await?, &actor, *there)?, ())
            }
            _ => problem,
        }),
    }
}
