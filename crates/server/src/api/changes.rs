//! Guided reservoir changes: one under way at a system, kept until it ends in an entry.

use super::bench::or_usual;
use super::{Acting, Id, SeenQuery, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::{EntryView, entry_view, speaker};
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::Refusal;
use mopsel_core::fact::{Actor, ChangeRun, StoredRun};
use mopsel_core::gate::Command;
use mopsel_core::guide::{Gear, Guide, guide, look_on, with_places};
use mopsel_core::refusal::AtField;
use mopsel_core::situation::Situation;
use mopsel_core::words::RefusalSaid;
use mopsel_store::{Outcome, Standing};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A guide in words.
type GuideSaid = Guide<String, RefusalSaid>;

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
    pub guide: Guide<String, RefusalSaid>,
}

fn run_view(pages: &Pages, stored: StoredRun) -> Result<RunView, Problem> {
    let place = pages.place_of(pages.system(stored.system)?)?;
    let said = |at: Timestamp| at.to_zoned(place.zone.clone()).strftime("%a %-d %b, %H:%M").to_string();
    Ok(RunView {
        who_name: pages.name_of(stored.who),
        started: said(stored.started),
        saved: said(stored.at),
        id: stored.id,
        who: stored.who,
        version: stored.version,
        run: stored.run,
    })
}

/// Where a change stands, in its reader's words: for who leads it, or who looks on.
fn guided(
    pages: &Pages,
    system: Uuid,
    run: &ChangeRun,
    actor: &Actor,
    at: Timestamp,
    works: impl Fn(&ChangeRun, &Situation<'_>) -> Result<Guide, Refusal>,
) -> Result<GuideSaid, Problem> {
    let file = pages.system(system)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    let situation = pages.situation(actor, file, place, &now, &around);
    let speaker = speaker(pages, actor, file)?;
    let containers = or_usual(&place.place.containers, pages.reader(actor, file, place).units);
    let gear = Gear { containers: &containers, lifts: pages.lifts(actor) };
    let guide = with_places(run, &situation, &gear, works).at("run")?;
    Ok(guide.map(&|message| speaker.say(&message), &|refusal: Refusal| speaker.refuse(&refusal)))
}

/// The change under way at a system, with its guide.
#[utoipa::path(get, path = "/api/systems/{id}/change", params(("id" = Uuid, Path), Acting), responses((status = 200, body = ChangeAnswer), (status = 404, body = ProblemSaid)))]
pub async fn read_change(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<ChangeAnswer>, Problem> {
    let stored = book.store().change_run(id.0).await?;
    let pages = book.as_opened(&actor).await;
    let run = stored.as_ref().map(|stored| stored.run.clone()).unwrap_or_default();
    let guide = guided(&pages, id.0, &run, &actor, now(&clock), look_on)?;
    Ok(web::Json(ChangeAnswer { under_way: stored.map(|stored| run_view(&pages, stored)).transpose()?, guide }))
}

/// A change to be looked at.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"run": {"extent": "full", "parts": {"reset": true, "sanitisers": ["peroxide"]}}}))]
pub struct GuideRequest {
    /// As far as it has come.
    pub run: ChangeRun,
}

/// Works out where a change stands: its steps, what follows from what was measured, what is missing.
/// Stores nothing.
#[utoipa::path(post, path = "/api/systems/{id}/change/guide", params(("id" = Uuid, Path), Acting), request_body = GuideRequest, responses((status = 200, body = Guide<String, RefusalSaid>), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn guide_change(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<GuideRequest>,
) -> Result<web::Json<GuideSaid>, Problem> {
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(guided(&pages, id.0, &request.run, &actor, now(&clock), guide)?))
}

/// A change to be saved.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SaveChange {
    /// The id that the entry will have; made by the client.
    pub id: Uuid,
    /// The version that the writer saw, 0 for a new one.
    pub version: i64,
    /// As far as it has come.
    pub run: ChangeRun,
}

/// Saves a change, so that it can be left and taken up again on any device.
#[utoipa::path(put, path = "/api/systems/{id}/change", params(("id" = Uuid, Path), Acting), request_body = SaveChange, responses((status = 200, body = ChangeAnswer), (status = 404, body = ProblemSaid), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn save_change(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<SaveChange>,
) -> Result<web::Json<ChangeAnswer>, Problem> {
    let at = now(&clock);
    let SaveChange { id: change, version, run } = request;
    let command = Command::SaveChange { system: id.0, id: change, version, run: Box::new(run.clone()) };
    let saved = book.store().submit(&command, &actor, at).await.map_err(Problem::from);
    let pages = book.open(&actor).await?;
    let saved = match saved {
        Ok(Outcome::Run(saved)) => *saved,
        Ok(_) => return Err(Problem::not_found("such change")),
        Err(mut problem) => {
            let Some(Standing::Run(there)) = problem.take_standing() else { return Err(problem) };
            let who = actor.person.unwrap_or_default();
            let yours = StoredRun { id: change, system: id.0, who, version, run, started: at, at };
            return Err(problem.with_both(run_view(&pages, *there)?, run_view(&pages, yours)?));
        }
    };
    let guide = guided(&pages, id.0, &saved.run, &actor, at, guide)?;
    Ok(web::Json(ChangeAnswer { under_way: Some(run_view(&pages, saved)?), guide }))
}

/// Gives a change up. What was done of it is not recorded.
#[utoipa::path(delete, path = "/api/systems/{id}/change", params(("id" = Uuid, Path), SeenQuery, Acting), responses((status = 204), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid), (status = 409, body = ProblemSaid)))]
pub async fn drop_change(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    query: web::Query<SeenQuery>,
) -> Result<HttpResponse, Problem> {
    let command = Command::DropChange(query.seen(id.0));
    match book.store().submit(&command, &actor, now(&clock)).await.map_err(Problem::from) {
        Ok(_) => Ok(HttpResponse::NoContent().finish()),
        Err(mut problem) => Err(match problem.take_standing() {
            Some(Standing::Run(there)) => problem.with_both(run_view(&*book.open(&actor).await?, *there)?, ()),
            _ => problem,
        }),
    }
}

/// A change to be closed.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FinishChange {
    /// Its id; repeat the request as often as needed.
    pub id: Uuid,
    /// When it was done; now when absent.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub at: Option<jiff::Timestamp>,
    /// When it was finished on the device, by the server's clock as the device knows it: what waited for a connection was
    /// done then, where nothing else says when.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub saved: Option<jiff::Timestamp>,
}

/// Closes a change: all of it becomes one entry of the log.
#[utoipa::path(post, path = "/api/systems/{id}/change/finish", params(("id" = Uuid, Path), Acting), request_body = FinishChange, responses((status = 201, body = EntryView), (status = 200, description = "It was closed already", body = EntryView), (status = 404, body = ProblemSaid), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn finish_change(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<FinishChange>,
) -> Result<HttpResponse, Problem> {
    let now = now(&clock);
    let at = request.at.or(request.saved.map(|saved| saved.min(now)));
    let command = Command::FinishChange { system: id.0, id: request.id, at };
    let outcome = book.store().submit(&command, &actor, now).await?;
    super::entries::answer(&book, &actor, outcome).await
}

/// An entry as it is shown, with the status that says whether it is new.
pub(super) async fn shown(
    book: &Book,
    actor: &Actor,
    entry: mopsel_core::fact::LoggedEntry,
    repeated: bool,
) -> Result<HttpResponse, Problem> {
    let pages = book.open(actor).await?;
    let view = entry_view(&pages, actor, entry)?;
    Ok(if repeated { HttpResponse::Ok().json(view) } else { HttpResponse::Created().json(view) })
}
