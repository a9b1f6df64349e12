//! The round, a system's page, and verdicts while someone types.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::Book;
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::view::{Round, SystemView, round, speaker, system_view};
use crate::{Clock, Problem};
use actix_web::web;
use jiff::ToSpan;
use mopsel_core::fact::Visit;
use mopsel_core::refusal::AtField;
use mopsel_core::verdict::{Judgement, judge_visit};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// What is due everywhere, the system with the least margin first.
#[utoipa::path(get, path = "/api/round", params(Acting), responses((status = 200, body = Round)))]
pub async fn read_round(
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Round>, Problem> {
    let changing: Vec<Uuid> = book.store().change_runs().await?.into_iter().map(|run| run.system).collect();
    let pages = book.open().await?;
    Ok(web::Json(round(&pages, now(&clock), &actor, &changing)?))
}

/// Trends reach back this far.
const TREND_DAYS: i64 = 70;

/// A system's page.
#[utoipa::path(get, path = "/api/systems/{id}", params(("id" = Uuid, Path), Acting), responses((status = 200, body = SystemView), (status = 404, body = ProblemSaid)))]
pub async fn read_system(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<SystemView>, Problem> {
    let at = now(&clock);
    let from = at.saturating_sub((TREND_DAYS * 24).hours()).unwrap_or(at);
    let entries = book.store().entries_since(id.0, from).await?;
    let pages = book.open().await?;
    Ok(web::Json(system_view(&pages, id.0, &entries, at, &actor)?))
}

/// A visit to be judged.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"visit": {"level": {"by": "height", "height_mm": 120}, "ph": {"by": "meter", "value": 6.8}, "ec": {"value": 1.4, "scale": "ms_cm"}, "temperature": 21.5}}))]
pub struct JudgeRequest {
    /// As far as it has come.
    pub visit: Visit,
}

/// Judges a visit as far as it has come. Stores nothing.
#[utoipa::path(post, path = "/api/systems/{id}/judge", params(("id" = Uuid, Path), Acting), request_body = JudgeRequest, responses((status = 200, body = Judgement<String>), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn judge(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<JudgeRequest>,
) -> Result<web::Json<Judgement<String>>, Problem> {
    let pages = book.open().await?;
    let file = pages.system(id.0)?;
    let place = pages.place_of(file)?;
    let now = now(&clock).to_zoned(place.zone.clone());
    let situation = pages.situation(&actor, file, place, &now, &pages.calibrations());
    let speaker = speaker(&pages, &actor, file)?;
    let judgement = judge_visit(&request.visit, &situation).at("visit")?;
    Ok(web::Json(judgement.map(&|message| speaker.say(&message))))
}
