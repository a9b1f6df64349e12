//! Guided reservoir changes: one under way at a system, kept until it ends in an entry.

use super::{Id, now, recorder};
use crate::book::{Book, Pages};
use crate::input::Json;
use crate::view::{EntryView, entry_view};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::Refusal;
use mopsel_core::changing::{ChangeRun, Guide, guide};
use mopsel_core::log::{Body, Entry};
use mopsel_core::refusal::AtField;
use mopsel_store::{NewEntry, StoreError, StoredRun};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A change under way, as it is shown.
#[derive(Serialize, ToSchema)]
pub struct RunView {
    /// The id that the entry will have.
    pub id: Uuid,
    /// Who saved it last.
    pub who: Uuid,
    /// By name.
    pub who_name: String,
    /// Name it when saving on top.
    pub version: i64,
    /// As far as it has come.
    pub run: ChangeRun,
    /// Begun, in the place's own time, in words.
    pub started: String,
    /// Last saved, in words.
    pub saved: String,
}

/// A change and its guide.
#[derive(Serialize, ToSchema)]
pub struct ChangeAnswer {
    /// The change under way; absent when there is none.
    pub under_way: Option<RunView>,
    /// Its steps; those of a full change when none is under way.
    pub guide: Guide,
}

fn run_view(pages: &Pages, stored: StoredRun) -> Result<RunView, Problem> {
    let place = pages.place_of(pages.system(stored.system)?)?;
    let said = |at: Timestamp| at.to_zoned(place.zone.clone()).strftime("%a %-d %b, %H:%M").to_string();
    Ok(RunView {
        who_name: pages.person(stored.who).map_or_else(|| "someone".to_owned(), |(person, _)| person.name.as_str().to_owned()),
        started: said(stored.started),
        saved: said(stored.at),
        id: stored.id,
        who: stored.who,
        version: stored.version,
        run: stored.run,
    })
}

/// The guide of a change, or the entry it ends in, worked out on the pages as they stand.
fn on_pages<T>(
    pages: &Pages,
    system: Uuid,
    by: Option<Uuid>,
    at: Timestamp,
    work: impl FnOnce(&mopsel_core::care::Situation<'_>, bool) -> Result<T, Refusal>,
) -> Result<T, Problem> {
    let file = pages.system(system)?;
    let place = pages.place_of(file)?;
    let by_child = by.map_or(Ok(false), |by| recorder(pages, file, by))?;
    let now = at.to_zoned(place.zone.clone());
    let situation = pages.situation(by, file, place, &now, &std::collections::BTreeMap::new());
    Ok(work(&situation, by_child)?)
}

/// The change under way at a system, with its guide.
#[utoipa::path(get, path = "/api/systems/{id}/change", params(("id" = Uuid, Path), super::Reader), responses((status = 200, body = ChangeAnswer), (status = 404, body = Problem)))]
pub async fn read_change(id: Id, book: web::Data<Book>, clock: web::Data<Clock>, reader: web::Query<super::Reader>) -> Result<web::Json<ChangeAnswer>, Problem> {
    let stored = book.store().change_run(id.0).await?;
    let pages = book.open().await?;
    let run = stored.as_ref().map(|stored| stored.run.clone()).unwrap_or_default();
    let person = reader.by.filter(|by| pages.person(*by).is_some());
    let guide = on_pages(&pages, id.0, None, now(&clock), |s, _| {
        let file = pages.systems.get(&id.0);
        let wording = file.and_then(|file| Some(pages.wording_for(person, file, pages.places.get(&file.place)?)));
        guide(&run, &mopsel_core::care::Situation { wording: wording.unwrap_or(s.wording), ..*s }, false)
    })?;
    Ok(web::Json(ChangeAnswer { under_way: stored.map(|stored| run_view(&pages, stored)).transpose()?, guide }))
}

/// A change to be looked at.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"run": {"extent": "full", "parts": {"reset": true, "sanitisers": ["peroxide"]}}}))]
pub struct GuideRequest {
    /// Who leads it; never a child.
    #[serde(default)]
    pub by: Option<Uuid>,
    /// As far as it has come.
    pub run: ChangeRun,
}

/// Works out where a change stands: its steps, what follows from what was measured, what is missing.
/// Stores nothing.
#[utoipa::path(post, path = "/api/systems/{id}/change/guide", params(("id" = Uuid, Path)), request_body = GuideRequest, responses((status = 200, body = Guide), (status = 422, body = Problem)))]
pub async fn guide_change(id: Id, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<GuideRequest>) -> Result<web::Json<Guide>, Problem> {
    let pages = book.open().await?;
    Ok(web::Json(on_pages(&pages, id.0, request.by, now(&clock), |s, by_child| guide(&request.run, s, by_child).at("run"))?))
}

/// A change to be saved.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaveChange {
    /// The id that the entry will have; made by the client.
    pub id: Uuid,
    /// Who leads it.
    pub who: Uuid,
    /// The version that the writer saw, 0 for a new one.
    pub version: i64,
    /// As far as it has come.
    pub run: ChangeRun,
}

/// Saves a change, so that it can be left and taken up again on any device.
#[utoipa::path(put, path = "/api/systems/{id}/change", params(("id" = Uuid, Path)), request_body = SaveChange, responses((status = 200, body = ChangeAnswer), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub async fn save_change(id: Id, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<SaveChange>) -> Result<web::Json<ChangeAnswer>, Problem> {
    let at = now(&clock);
    let guide = {
        let pages = book.open().await?;
        on_pages(&pages, id.0, Some(request.who), at, |s, by_child| guide(&request.run, s, by_child).at("run"))?
    };
    if book.store().entry(request.id).await.is_ok() {
        return Err(Refusal::new("found a change that is closed already", "allowed are changes under way", "Amend it in the log instead.").at("id").into());
    }
    let stored = StoredRun { id: request.id, system: id.0, who: request.who, version: request.version, run: request.run.clone(), started: at, at };
    let saved = book.store().save_change_run(&stored).await;
    let pages = book.open().await?;
    match saved {
        Err(StoreError::RunChanged(current)) => {
            let view = run_view(&pages, (*current).clone())?;
            Err(Problem::from(StoreError::RunChanged(current)).with_both(view, run_view(&pages, stored)?))
        }
        other => Ok(web::Json(ChangeAnswer { under_way: Some(run_view(&pages, other?)?), guide })),
    }
}

/// Gives a change up. What was done of it is not recorded.
#[utoipa::path(delete, path = "/api/systems/{id}/change", params(("id" = Uuid, Path)), responses((status = 204)))]
pub async fn drop_change(id: Id, book: web::Data<Book>) -> Result<HttpResponse, Problem> {
    book.store().drop_change_run(id.0).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// A change to be closed.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FinishChange {
    /// Its id; repeat the request as often as needed.
    pub id: Uuid,
    /// Who closes it.
    pub by: Uuid,
}

/// Closes a change: all of it becomes one entry of the log.
#[utoipa::path(post, path = "/api/systems/{id}/change/finish", params(("id" = Uuid, Path)), request_body = FinishChange, responses((status = 201, body = EntryView), (status = 200, description = "It was closed already", body = EntryView), (status = 422, body = Problem)))]
pub async fn finish_change(id: Id, book: web::Data<Book>, clock: web::Data<Clock>, Json(request): Json<FinishChange>) -> Result<HttpResponse, Problem> {
    if let Ok(there) = book.store().entry(request.id).await
        && there.system == id.0
    {
        let pages = book.open().await?;
        return Ok(HttpResponse::Ok().json(entry_view(&pages, there)?));
    }
    let stored = book.store().change_run(id.0).await?.filter(|stored| stored.id == request.id).ok_or_else(|| Problem::not_found("such change under way"))?;
    let at = now(&clock);
    let (body, system): (Body, _) = {
        let pages = book.open().await?;
        let body = on_pages(&pages, id.0, Some(request.by), at, |s, by_child| stored.run.entry(s, by_child).at("run"))?;
        (body, pages.system(id.0)?.system.clone())
    };
    let entry = Entry { id: request.id, at, by: request.by, body, amends: None, reason: None };
    let appended = book.store().append(&NewEntry { system: id.0, entry }, &system, at).await?;
    let pages = book.open().await?;
    Ok(HttpResponse::Created().json(entry_view(&pages, appended.entry)?))
}
