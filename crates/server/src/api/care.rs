//! The round, a system's page, and verdicts while someone types.

use super::{Acting, Id, now};
use crate::actor;
use crate::actor::Who;
use crate::book::Book;
use crate::input::{Json, typed};
use crate::problem::ProblemSaid;
use crate::view::{
    Fit, LabelView, OutingView, PaperView, Round, SystemView, fitting, labels, outing, paper_view, round, speaker,
    system_view,
};
use crate::{Clock, Hosts, Problem};
use actix_web::http::header::{CACHE_CONTROL, ETAG, IF_NONE_MATCH, VARY};
use actix_web::{HttpRequest, HttpResponse, web};
use jiff::{Timestamp, ToSpan};
use mopsel_core::care::judging::{JudgingTable, judging_table};
use mopsel_core::care::look::lines;
use mopsel_core::care::one_order::{one_for_all, told};
use mopsel_core::care::put_off::{Choices, choices};
use mopsel_core::care::tasks;
use mopsel_core::fact::{Actor, Body, Visit};
use mopsel_core::refusal::AtField;
use mopsel_core::refuse;
use mopsel_core::situation::Situation;
use mopsel_core::verdict::{Doubt, Judgement, doubts_of, judge_visit};
use mopsel_core::words::{RefusalSaid, Speaker};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use std::hash::{DefaultHasher, Hash, Hasher};
use utoipa::ToSchema;
use uuid::Uuid;

/// What is due everywhere, the system with the least margin first.
#[utoipa::path(get, path = "/api/round", params(Acting), responses((status = 200, body = Round)))]
pub async fn read_round(
    request: HttpRequest,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<HttpResponse, Problem> {
    let changing: Vec<Uuid> = book.store().change_runs().await?.into_iter().map(|run| run.system).collect();
    let pages = book.as_opened(&actor).await;
    Ok(unless_known(&request, &round(&pages, now(&clock), &actor, &changing)?))
}

/// Over which places.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Over {
    /// Their ids, with commas between; all when absent.
    #[serde(default)]
    pub places: Option<String>,
}

/// The round as it is walked: what is done where and in which order, and what is made ready for all of it.
#[utoipa::path(get, path = "/api/outing", params(Over, Acting), responses((status = 200, body = OutingView), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_outing(
    over: web::Query<Over>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<OutingView>, Problem> {
    let places = ids(over.places.as_deref())?;
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(outing(&pages, &places, now(&clock), &actor)?))
}

/// Ids with commas between.
fn ids(named: Option<&str>) -> Result<Vec<Uuid>, Problem> {
    let named = named.unwrap_or_default().split(',').filter(|id| !id.is_empty());
    let ids: Result<Vec<Uuid>, _> = named.map(Uuid::parse_str).collect();
    ids.map_err(|_| Problem::not_found("place with that id"))
}

/// Labels, for which address.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Labelled {
    /// The address under which phones open this server, as `http://garden.example:4180`; one that it answers under.
    #[param(pattern = "^https?://")]
    pub at: String,
    /// Ids of places, with commas between; all when absent.
    #[serde(default)]
    pub places: Option<String>,
}

/// Labels for the vessels of some places: QR codes that open the visit of their system.
#[utoipa::path(get, path = "/api/labels", params(Labelled, Acting), responses((status = 200, body = Vec<LabelView>), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_labels(
    wanted: web::Query<Labelled>,
    Who(actor): Who,
    book: web::Data<Book>,
    hosts: web::Data<Hosts>,
) -> Result<web::Json<Vec<LabelView>>, Problem> {
    let origin = wanted.at.strip_suffix('/').unwrap_or(&wanted.at);
    let named = origin.strip_prefix("http://").or_else(|| origin.strip_prefix("https://"));
    let named = named.filter(|name| name.len() <= MOST_NAME && hosts.allows(name));
    if named.is_none() {
        return Err(refuse!("label_address").at("at").into());
    }
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(labels(&pages, &ids(wanted.places.as_deref())?, origin, &actor)?))
}

/// No name of a host with its port is longer.
const MOST_NAME: usize = 260;

/// How long there is.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Minutes {
    /// In minutes, 1–480.
    #[param(minimum = 1, maximum = 480)]
    pub minutes: u16,
}

/// What of today's tasks is done in the minutes that there are, and what waits: the set that wins the most margin.
#[utoipa::path(get, path = "/api/round/fit", params(Minutes, Acting), responses((status = 200, body = Fit)))]
pub async fn read_fit(
    minutes: web::Query<Minutes>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Fit>, Problem> {
    let changing: Vec<Uuid> = book.store().change_runs().await?.into_iter().map(|run| run.system).collect();
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(fitting(round(&pages, now(&clock), &actor, &changing)?, minutes.minutes)))
}

/// An answer that is asked for again and again: where it is as it was, that is all that is said.
fn unless_known(request: &HttpRequest, answer: &impl Serialize) -> HttpResponse {
    let body = serde_json::to_vec(answer).unwrap_or_default();
    let mut hasher = DefaultHasher::new();
    body.hash(&mut hasher);
    let tag = format!("W/\"{:016x}\"", hasher.finish());
    let known = request.headers().get(IF_NONE_MATCH).and_then(|value| value.to_str().ok()) == Some(&tag);
    let mut answer = if known { HttpResponse::NotModified() } else { HttpResponse::Ok() };
    answer.insert_header((ETAG, tag)).insert_header((CACHE_CONTROL, "no-cache")).insert_header((VARY, actor::PERSON));
    if known { answer.finish() } else { answer.content_type("application/json").body(body) }
}

/// Asks the rules of one system, as it is at a moment for whoever asks, with somebody who puts the answer into words.
async fn looked_at<T>(
    book: &Book,
    actor: &Actor,
    at: Timestamp,
    system: Uuid,
    ask: impl FnOnce(&Situation<'_>, &Speaker) -> T,
) -> Result<T, Problem> {
    let pages = book.as_opened(actor).await;
    let file = pages.system(system)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    Ok(ask(&pages.situation(actor, file, place, &now, &around), &speaker(&pages, actor, file)?))
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
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(system_view(&pages, id.0, &entries, at, &actor)?))
}

/// A visit on paper: what is due at a system, step by step, without any amount to pour.
#[utoipa::path(get, path = "/api/systems/{id}/sheet", params(("id" = Uuid, Path), Acting), responses((status = 200, body = PaperView), (status = 404, body = ProblemSaid)))]
pub async fn read_sheet(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<PaperView>, Problem> {
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(paper_view(&pages, id.0, now(&clock), &actor)?))
}

/// What can be said of the numbers of a visit while there is no connection: for a device to keep. No amount stands in it.
#[utoipa::path(get, path = "/api/systems/{id}/judging", params(("id" = Uuid, Path), Acting), responses((status = 200, body = JudgingTable<String>), (status = 404, body = ProblemSaid)))]
pub async fn read_judging(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<JudgingTable<String>>, Problem> {
    let table = looked_at(&book, &actor, now(&clock), id.0, |s, speaker| {
        judging_table(s).map(&|message| speaker.say(&message))
    });
    table.await.map(web::Json)
}

/// What can become of a routine task instead of doing it on its day: the open days within its margin to which it can be
/// moved, and whether it can be skipped this time.
#[utoipa::path(get, path = "/api/systems/{id}/put-off/{code}", params(("id" = Uuid, Path), ("code" = String, Path, description = "The code of the task"), Acting), responses((status = 200, body = Choices<String>), (status = 404, body = ProblemSaid)))]
pub async fn read_choices(
    path: web::Path<(String, String)>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Choices<String>>, Problem> {
    let (id, code) = path.into_inner();
    let id = id.parse().map_err(|_| Problem::not_found("system with that id"))?;
    let pages = book.as_opened(&actor).await;
    let file = pages.system(id)?;
    let place = pages.place_of(file)?;
    let now = now(&clock).to_zoned(place.zone.clone());
    let around = pages.around();
    let situation = pages.situation(&actor, file, place, &now, &around);
    let speaker = speaker(&pages, &actor, file)?;
    let mut all = tasks(&situation);
    all.extend(lines(all.clone(), &situation).into_iter().filter(|line| !line.parts.is_empty()));
    let found = choices(&code, &all, &situation).filter(|_| !actor.is_child());
    let found = found.ok_or_else(|| Problem::not_found("task that could be put off"))?;
    Ok(web::Json(found.map(&|message| speaker.say(&message))))
}

/// A visit to be judged.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"visit": {"level": {"by": "height", "height_mm": 120}, "ph": {"by": "meter", "value": 6.8}, "ec": {"value": 1.4, "scale": "ms_cm"}, "temperature": 21.5}}))]
pub struct JudgeRequest {
    /// As far as it has come.
    #[schema(value_type = Visit)]
    pub visit: Value,
}

/// What a visit means as far as it has come, without the parts that cannot be.
#[derive(Serialize, ToSchema)]
pub struct JudgedVisit {
    /// What the rest of it means.
    #[serde(flatten)]
    pub judgement: Judgement<String>,
    /// Whether what was found of level, strength and pH is put right by one order.
    pub together: bool,
    /// The parts that cannot be, each with how to mend it. While somebody types that is no failure.
    pub faults: Vec<RefusalSaid>,
}

/// An entry to be looked over for slips before it is saved.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"body": {"kind": "change", "extent": "full", "volume_after": 20, "ec": {"value": 1.3, "scale": "ppm700"}}}))]
pub struct DoubtsRequest {
    /// As it would be recorded.
    pub body: Body,
}

/// What in an entry is more likely a slip than so: to be asked about before it is saved. Stores nothing.
#[utoipa::path(post, path = "/api/systems/{id}/doubts", params(("id" = Uuid, Path), Acting), request_body = DoubtsRequest, responses((status = 200, body = [Doubt<String>]), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn doubt(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<DoubtsRequest>,
) -> Result<web::Json<Vec<Doubt<String>>>, Problem> {
    let found = looked_at(&book, &actor, now(&clock), id.0, |s, speaker| {
        let found = doubts_of(&request.body, s).into_iter();
        found.map(|one| one.map(&|message| speaker.say(&message))).collect()
    });
    found.await.map(web::Json)
}

/// Judges a visit as far as it has come. Stores nothing. A part that cannot be is named, and the rest is judged.
#[utoipa::path(post, path = "/api/systems/{id}/judge", params(("id" = Uuid, Path), Acting), request_body = JudgeRequest, responses((status = 200, body = JudgedVisit), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn judge(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<JudgeRequest>,
) -> Result<web::Json<JudgedVisit>, Problem> {
    let pages = book.as_opened(&actor).await;
    let file = pages.system(id.0)?;
    let place = pages.place_of(file)?;
    let now = now(&clock).to_zoned(place.zone.clone());
    let around = pages.around();
    let situation = pages.situation(&actor, file, place, &now, &around);
    let speaker = speaker(&pages, &actor, file)?;
    let (mut rest, mut faults) = (request.visit, Vec::new());
    loop {
        let judged = typed::<Visit>(rest.clone(), "visit")
            .and_then(|visit| judge_visit(&visit, &situation).at("visit").map_err(Problem::from));
        match judged {
            Ok(mut judgement) => {
                judgement.verdicts = judgement.verdicts.into_iter().map(|one| told(one, &situation)).collect();
                let together = one_for_all(&judgement.verdicts, &situation);
                let judgement = judgement.map(&|message| speaker.say(&message));
                return Ok(web::Json(JudgedVisit { judgement, together, faults }));
            }
            Err(problem) => {
                let part =
                    problem.refusals().first().and_then(|first| first.field.split('.').nth(1)).map(str::to_owned);
                let without = part.zip(rest.as_object_mut()).and_then(|(part, rest)| rest.remove(&part));
                if without.is_none() {
                    return Err(problem);
                }
                faults.extend(problem.refusals().iter().map(|refusal| speaker.refuse(refusal)));
            }
        }
    }
}
