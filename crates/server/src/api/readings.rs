//! Readings in bulk: of a logger's script, and of files.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::input::{Json, Many, sent_to_disk};
use crate::problem::{LineFault, ProblemSaid};
use crate::readings::{Came, LookedView, NotTaken, bring, looked, systems};
use crate::{Clock, Problem};
use actix_web::http::StatusCode;
use actix_web::{HttpMessage, HttpRequest, web};
use jiff::Timestamp;
use mopsel_core::columns::{How, LineReader};
use mopsel_core::fact::{Act, Sensed};
use mopsel_core::message::count;
use mopsel_core::quantity::{Celsius, Conductivity, EcReading, Litres, Note, Ph};
use mopsel_core::refuse;
use mopsel_core::words::Reader;
use mopsel_store::{Delivery, NewDelivery, SensedLine, StoreError};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// One reading of a logger: whatever of it was read at one moment.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewReading {
    /// At which system.
    system: Uuid,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    at: Timestamp,
    /// pH, 0–14.
    #[serde(default)]
    #[schema(example = 6.1)]
    ph: Option<Ph>,
    /// EC, on the scale that it is told on.
    #[serde(default)]
    ec: Option<EcReading>,
    /// The water's temperature, in °C.
    #[serde(default)]
    temperature: Option<Celsius>,
    /// What stands in the vessel, in litres.
    #[serde(default)]
    litres: Option<Litres>,
}

/// Readings of a logger.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewReadings {
    /// Made by whoever sends it: the same again is the same delivery.
    id: Uuid,
    /// What the logger is called.
    #[schema(value_type = String, min_length = 1, max_length = 2000)]
    source: Note,
    /// The readings, at most ten thousand, in any order.
    readings: Vec<NewReading>,
}

/// Readings of one post.
const MOST_READINGS: usize = 10_000;
/// Faults that are told.
const MOST_TOLD: usize = 500;

/// What was taken in.
#[derive(Debug, Serialize, ToSchema)]
pub struct TakenView {
    /// Readings or visits that are new.
    pub new: u64,
    /// Those that were there already, and the same.
    pub there: u64,
}

fn differs(lines: &[(u64, &'static str)]) -> Problem {
    let all = lines.iter().map(|(line, field)| LineFault::in_list(*line, refuse!("line_differs").at(field)));
    Problem::of_lines(lines.len(), all.collect())
}

/// Takes a logger's readings in, all of them or none. A reading that is there already, and the same, is passed over. They
/// are kept as they came; a day of them counts as one.
#[utoipa::path(post, path = "/api/readings", params(Acting), request_body = NewReadings, responses((status = 200, body = TakenView), (status = 413, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn take_readings(
    Who(actor): Who,
    sent: Many<NewReadings>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<TakenView>, Problem> {
    actor.may(Act::Devices, None).map_err(Problem::not_permitted)?;
    let (NewReadings { id, source, readings }, at) = (sent.0, now(&clock));
    if readings.is_empty() || readings.len() > MOST_READINGS {
        let (found, most) = (count(readings.len()), count(MOST_READINGS));
        return Err(refuse!("readings_too_many", found = found, most = most).at("readings").into());
    }
    let known = systems(&*book.as_opened(&actor).await, &actor);
    let mut lines = Vec::with_capacity(readings.len());
    let mut faults = Vec::new();
    for (n, one) in readings.iter().enumerate() {
        let checked =
            known.iter().find(|known| known.id == one.system).ok_or_else(|| refuse!("column_system").at("system"));
        let read = checked.and_then(|known| {
            let ec: Option<Conductivity> =
                one.ec.map(|ec| ec.at_25(one.temperature)).transpose().map_err(|r| r.at("ec"))?;
            let read = Sensed { at: one.at, ph: one.ph, ec, temperature: one.temperature, litres: one.litres };
            read.check(known.history.at(one.at), at).map(|()| read)
        });
        match read {
            Ok(read) => lines.push(SensedLine { system: one.system, line: n as u64, read }),
            Err(refusal) => {
                faults.push(LineFault::in_list(n as u64, refusal.at(&format!("readings.{n}"))));
            }
        }
    }
    if !faults.is_empty() {
        let all = faults.len();
        faults.truncate(MOST_TOLD);
        return Err(Problem::of_lines(all, faults));
    }
    let mut some = Some(lines);
    let came = book.store().deliver(&NewDelivery { id, source }, &actor, at, &mut || Ok(some.take())).await?;
    let came = came.map_err(|lines| differs(&lines))?;
    let Came { new, there } = Came::of(&came);
    Ok(web::Json(TakenView { new, there }))
}

/// How a file is to be read.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Read {
    /// As JSON, of the schema `How`; guessed when absent.
    #[serde(default)]
    how: Option<String>,
    /// Whether the file goes on behind what is sent: its last line may be cut.
    #[serde(default)]
    cut: bool,
}

/// How a file is read, and what it is called.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Take {
    /// As JSON, of the schema `How`, as the look at its beginning gave it.
    how: String,
    /// Made by whoever sends it: the same again is the same delivery.
    id: Uuid,
    /// What the file is called.
    #[param(min_length = 1, max_length = 2000)]
    source: String,
}

/// The beginning of a file, as text.
#[derive(ToSchema)]
#[schema(value_type = String)]
#[allow(dead_code, reason = "it stands for text in the description")]
pub struct CsvText(String);

fn how_of(text: &str) -> Result<How, Problem> {
    let value = serde_json::from_str(text)
        .map_err(|_| refuse!("wrong_type", found = "no JSON", allowed = "an object").at("how"))?;
    crate::input::typed(value, "how")
}

/// Looks at the beginning of a file of readings: what each column is taken for, what is not plain, and how its first lines are
/// understood. Nothing is kept.
#[utoipa::path(post, path = "/api/readings/look", params(Acting, Read), request_body(content = CsvText, content_type = "text/csv"), responses((status = 200, body = LookedView), (status = 413, body = ProblemSaid), (status = 415, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn look_at_file(
    request: HttpRequest,
    Who(actor): Who,
    asked: web::Query<Read>,
    sent: crate::input::CsvBeginning,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<LookedView>, Problem> {
    let (at, wanted) = (now(&clock), asked.how.as_deref().map(how_of).transpose()?);
    let reader = request.extensions().get::<Reader>().copied().unwrap_or_default();
    let pages = book.open(&actor).await?;
    looked((&pages, &actor), reader, (&sent.0, asked.cut), wanted, at).map(web::Json)
}

impl From<NotTaken> for Problem {
    fn from(not: NotTaken) -> Self {
        match not {
            NotTaken::Whole(refusal) => refusal.into(),
            NotTaken::Lines(all, lines) => Self::of_lines(all, lines),
            NotTaken::Store(error) => error.into(),
        }
    }
}

/// Takes a whole file of readings in, all of it or nothing. Lines that are there already are passed over; lines that cannot
/// be taken are told, with where in the file they stand.
#[utoipa::path(post, path = "/api/readings/file", params(Acting, Take), request_body(content = CsvText, content_type = "text/csv"), responses((status = 200, body = TakenView), (status = 400, body = ProblemSaid), (status = 413, body = ProblemSaid), (status = 415, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn take_file(
    request: HttpRequest,
    Who(actor): Who,
    asked: web::Query<Take>,
    payload: web::Payload,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<TakenView>, Problem> {
    actor.may(Act::Devices, None).map_err(Problem::not_permitted)?;
    let how = how_of(&asked.how)?;
    let source = Note::new(&asked.source).map_err(|refusal| refusal.at("source"))?;
    if !request.content_type().starts_with("text/csv") {
        let detail = format!("Found a body of the type {}; allowed is text/csv.", request.content_type());
        return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "wrong-type", "Of another type", detail));
    }
    let known = systems(&*book.as_opened(&actor).await, &actor);
    LineReader::new(&how, &known)?;
    let store = book.store().clone();
    let file = sent_to_disk(payload, store.file()).await?;
    let (new, at) = (NewDelivery { id: asked.id, source }, now(&clock));
    let taken = tokio::task::spawn_blocking(move || bring(file, (how, known), &store, (&new, &actor, at))).await;
    let came = taken.map_err(|error| StoreError::Unfit(error.to_string()))??;
    Ok(web::Json(TakenView { new: came.new, there: came.there }))
}

/// A file or a post that brought a logger's readings.
#[derive(Debug, Serialize, ToSchema)]
pub struct DeliveryView {
    /// Its id.
    pub id: Uuid,
    /// The file, or the logger.
    pub source: String,
    /// Who brought it.
    pub by: String,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub recorded: Timestamp,
    /// How many readings were new.
    pub readings: u64,
    /// How many of them another had brought before: they stay until that one is taken back too.
    pub there: u64,
    /// When it was taken back, if it was.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub taken_back: Option<Timestamp>,
    /// Why.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reason: Option<String>,
}

fn delivery_view(delivery: Delivery, pages: &Pages) -> DeliveryView {
    let Delivery { id, who, source, recorded, readings, there, taken_back } = delivery;
    let (taken_back, reason) = taken_back.unzip();
    DeliveryView { id, source, by: pages.name_of(who), recorded, readings, there, taken_back, reason }
}

/// Deliveries that are listed.
const MOST_LISTED: u32 = 50;

/// The last files and posts that brought a logger's readings, newest first.
#[utoipa::path(get, path = "/api/readings/deliveries", params(Acting), responses((status = 200, body = Vec<DeliveryView>)))]
pub async fn list_deliveries(Who(actor): Who, book: web::Data<Book>) -> Result<web::Json<Vec<DeliveryView>>, Problem> {
    let all = book.store().deliveries(MOST_LISTED).await?;
    let pages = book.as_opened(&actor).await;
    let seen = all.into_iter().filter(|one| pages.person(one.who).is_some());
    Ok(web::Json(seen.map(|one| delivery_view(one, &pages)).collect()))
}

/// Why a delivery is taken back.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TakeBack {
    /// The reason.
    #[schema(value_type = String, min_length = 1, max_length = 2000)]
    reason: Note,
}

/// Takes a delivery back: its readings are gone, and what was judged by them is judged anew.
#[utoipa::path(post, path = "/api/readings/deliveries/{id}/take-back", params(("id" = Uuid, Path), Acting), request_body = TakeBack, responses((status = 200, body = DeliveryView), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn take_delivery_back(
    id: Id,
    Who(actor): Who,
    Json(sent): Json<TakeBack>,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<DeliveryView>, Problem> {
    actor.may(Act::Devices, None).map_err(Problem::not_permitted)?;
    if sent.reason.as_str().is_empty() {
        return Err(refuse!("amendment_without_reason").at("reason").into());
    }
    let brought_by = book.store().delivered_by(id.0).await?.ok_or_else(|| Problem::not_found("such delivery"))?;
    let place = book.as_opened(&actor).await.person(brought_by).map(|(_, place)| place);
    let place = place.ok_or_else(|| Problem::not_found("such delivery"))?;
    actor.may(Act::Devices, Some(place)).map_err(Problem::not_permitted)?;
    let taken = book.store().take_back(id.0, &sent.reason, &actor, now(&clock)).await?;
    let pages = book.open(&actor).await?;
    Ok(web::Json(delivery_view(taken, &pages)))
}

/// Which of a logger's readings.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Which {
    /// From this moment on.
    #[serde(default)]
    #[param(value_type = Option<String>, format = DateTime)]
    from: Option<Timestamp>,
    /// Before this moment.
    #[serde(default)]
    #[param(value_type = Option<String>, format = DateTime)]
    to: Option<Timestamp>,
    /// On a page, 1 to 10,000; 1,000 when absent.
    #[serde(default)]
    #[param(minimum = 1, maximum = 10000)]
    limit: Option<u32>,
}

/// What a logger read at one moment.
#[derive(Debug, Serialize, ToSchema)]
pub struct SensedView {
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// pH.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ph: Option<Ph>,
    /// EC at 25 °C, in mS/cm.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ec: Option<Conductivity>,
    /// In °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub temperature: Option<Celsius>,
    /// In litres.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub litres: Option<Litres>,
}

/// A page of a logger's readings.
#[derive(Debug, Serialize, ToSchema)]
pub struct SensedPage {
    /// Oldest first.
    pub readings: Vec<SensedView>,
    /// From when the next page goes on; absent on the last one.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub next: Option<Timestamp>,
}

/// What loggers read at a system, oldest first, by pages.
#[utoipa::path(get, path = "/api/systems/{id}/readings", params(("id" = Uuid, Path), Which, Acting), responses((status = 200, body = SensedPage), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_sensed(
    id: Id,
    asked: web::Query<Which>,
    Who(actor): Who,
    book: web::Data<Book>,
) -> Result<web::Json<SensedPage>, Problem> {
    let limit = asked.limit.unwrap_or(1000);
    if !(1..=MOST_READINGS as u32).contains(&limit) {
        return Err(refuse!("readings_too_many", found = count(limit), most = count(MOST_READINGS)).at("limit").into());
    }
    book.as_opened(&actor).await.system(id.0)?;
    let (from, to) = (asked.from.unwrap_or(Timestamp::MIN), asked.to.unwrap_or(Timestamp::MAX));
    // One more tells whether there is a page behind it.
    let mut read = book.store().sensed_page(id.0, from, to, limit + 1).await?;
    let next = read.get(limit as usize).map(|one| one.at);
    read.truncate(limit as usize);
    let readings = read.into_iter().map(|Sensed { at, ph, ec, temperature, litres }| SensedView {
        at,
        ph,
        ec,
        temperature,
        litres,
    });
    Ok(web::Json(SensedPage { readings: readings.collect(), next }))
}
