//! Waits that every device sees.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::input::Json;
use crate::problem::ProblemSaid;
use crate::{Clock, Problem};
use actix_web::{HttpResponse, web};
use jiff::Timestamp;
use mopsel_core::fact::{Timer, WaitFor};
use mopsel_core::gate::Command;
use mopsel_core::quantity::Name;
use mopsel_store::Outcome;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A timer as it is shown.
#[derive(Serialize, ToSchema)]
pub struct TimerView {
    /// Its id.
    pub id: Uuid,
    /// At which system.
    pub system: Option<Uuid>,
    /// The system's name.
    pub system_name: Option<String>,
    /// For what.
    pub what: WaitFor,
    /// In a few words.
    pub label: String,
    /// When it is over.
    #[schema(value_type = String, format = DateTime)]
    pub ends: Timestamp,
    /// Seconds left by the server's clock; negative once it is over.
    pub seconds_left: i64,
    /// Seconds in all.
    pub seconds: i64,
}

fn view(pages: &Pages, timer: Timer, now: Timestamp) -> TimerView {
    let name = timer.system.and_then(|id| pages.systems.get(&id)).map(|file| file.system.name.as_str().to_owned());
    TimerView {
        system_name: name,
        seconds_left: timer.ends.as_second() - now.as_second(),
        seconds: timer.ends.as_second() - timer.started.as_second(),
        id: timer.id,
        system: timer.system,
        what: timer.what,
        label: timer.label,
        ends: timer.ends,
    }
}

/// What is being waited for, the next to end first; what is over stays for twelve hours or until it
/// is put away.
#[utoipa::path(get, path = "/api/timers", params(Acting), responses((status = 200, body = Vec<TimerView>)))]
pub async fn list_timers(
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<Vec<TimerView>>, Problem> {
    let now = now(&clock);
    let timers = book.store().timers(now).await?;
    let pages = book.as_opened(&actor).await;
    // What stands at no system is seen by whoever started it.
    let own = |timer: &Timer| match timer.system {
        Some(system) => pages.systems.contains_key(&system),
        None => timer.account == actor.grant.as_ref().map(|grant| grant.account),
    };
    Ok(web::Json(timers.into_iter().filter(own).map(|timer| view(&pages, timer, now)).collect()))
}

/// A timer to be started.
#[derive(Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(example = json!({"id": "0197f0a0-0000-7000-8000-000000000001", "what": "remeasure", "label": "Measure pH again", "minutes": 20}))]
pub struct StartTimer {
    /// Made by the client; repeat the request with the same id as often as needed.
    pub id: Uuid,
    /// At which system.
    #[serde(default)]
    pub system: Option<Uuid>,
    /// For what.
    pub what: WaitFor,
    /// In a few words.
    pub label: Name,
    /// How long, 1 minute to 24 hours.
    #[schema(minimum = 1, maximum = 1440)]
    pub minutes: u32,
}

/// Starts a timer on the server's clock: it survives a reload and shows on every device.
#[utoipa::path(post, path = "/api/timers", params(Acting), request_body = StartTimer, responses((status = 201, body = TimerView), (status = 409, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn start_timer(
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
    Json(request): Json<StartTimer>,
) -> Result<HttpResponse, Problem> {
    let now = now(&clock);
    let StartTimer { id, system, what, label, minutes } = request;
    let command = Command::StartTimer { id, system, what, label, minutes };
    let Outcome::Timer(timer) = book.store().submit(&command, &actor, now).await? else {
        return Err(Problem::not_found("such timer"));
    };
    let pages = book.open(&actor).await?;
    Ok(HttpResponse::Created().json(view(&pages, *timer, now)))
}

/// Puts a timer away.
#[utoipa::path(delete, path = "/api/timers/{id}", params(("id" = Uuid, Path), Acting), responses((status = 204)))]
pub async fn dismiss_timer(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<HttpResponse, Problem> {
    book.store().submit(&Command::DismissTimer(id.0), &actor, now(&clock)).await?;
    Ok(HttpResponse::NoContent().finish())
}
