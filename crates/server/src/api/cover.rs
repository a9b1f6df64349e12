//! Closures, and how systems are brought through them.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::Book;
use crate::closures::{ClosuresRead, read};
use crate::feed::calendar;
use crate::input::CalendarText;
use crate::problem::ProblemSaid;
use crate::view::{
    AheadView, CoverView, WeekView, ahead_view, cover_view, remembered_from, systems_of, today_at, week_view,
};
use crate::{Clock, Problem};
use actix_web::http::header::CACHE_CONTROL;
use actix_web::{HttpResponse, web};
use jiff::civil::Date;
use jiff::tz::{Offset, TimeZone};
use mopsel_core::care::ahead::MOST_DAYS;
use mopsel_core::care::sheet::monday_of;
use mopsel_core::message::{count, typed};
use mopsel_core::refuse;
use serde::Deserialize;
use std::collections::BTreeMap;
use utoipa::IntoParams;

/// For which closure.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Closed {
    /// A day of the closure; the next one when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
}

/// The closures of a place that are not over, and the cover plan for one of them.
#[utoipa::path(get, path = "/api/places/{id}/cover", params(("id" = Uuid, Path), Closed, Acting), responses((status = 200, body = CoverView), (status = 404, body = ProblemSaid)))]
pub async fn read_cover(
    id: Id,
    closed: web::Query<Closed>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<CoverView>, Problem> {
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(cover_view(&pages, id.0, closed.from, now(&clock), &actor)?))
}

/// Which week.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Week {
    /// A day of it; this one when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
}

/// A sheet is made for a week at most so far from today, in days.
const WEEKS_BESIDE: i32 = 112;

/// A week of a class: what children can safely do at each system, on which day, and who does it.
#[utoipa::path(get, path = "/api/places/{id}/week", params(("id" = Uuid, Path), Week, Acting), responses((status = 200, body = WeekView), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_week(
    id: Id,
    week: web::Query<Week>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<WeekView>, Problem> {
    let at = now(&clock);
    let (monday, from, systems) = {
        let pages = book.as_opened(&actor).await;
        let today = today_at(&pages, id.0, at)?;
        let wanted = week.from.unwrap_or(today);
        if (wanted - today).get_days().abs() > WEEKS_BESIDE {
            let (found, most) = (wanted.to_string(), count(WEEKS_BESIDE.unsigned_abs()));
            return Err(refuse!("week_too_far", found = found, most = most).at("from").into());
        }
        let monday = monday_of(wanted);
        (monday, remembered_from(&pages, id.0, monday)?, systems_of(&pages, id.0))
    };
    let mut logs = BTreeMap::new();
    for system in systems {
        logs.insert(system, book.store().entries_since(system, from).await?);
    }
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(week_view(&pages, id.0, monday, &logs, at, &actor)?))
}

/// How far to look ahead.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Days {
    /// In days, 1–112; four weeks when absent.
    #[serde(default)]
    #[param(minimum = 1, maximum = 112)]
    pub days: Option<u16>,
}

const FOUR_WEEKS: u16 = 28;

/// The weeks ahead of a place: what falls on which day at each system, until when it can wait, and what each day costs.
#[utoipa::path(get, path = "/api/places/{id}/ahead", params(("id" = Uuid, Path), Days, Acting), responses((status = 200, body = AheadView), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_ahead(
    id: Id,
    days: web::Query<Days>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<AheadView>, Problem> {
    let days = days.days.unwrap_or(FOUR_WEEKS);
    if !(1..=MOST_DAYS).contains(&days) {
        return Err(refuse!("days_ahead", found = count(days), most = count(MOST_DAYS)).at("days").into());
    }
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(ahead_view(&pages, id.0, days, now(&clock), &actor)?))
}

/// The calendar of a person: what is due at their place, as whole days (RFC 5545). Whoever has the address reads it;
/// another secret, or none, at the person's card ends it.
#[utoipa::path(get, path = "/calendar/{id}.ics", params(("id" = Uuid, Path)), responses((status = 200, content_type = "text/calendar", body = String), (status = 404, body = ProblemSaid)))]
pub async fn read_calendar(id: Id, book: web::Data<Book>, clock: web::Data<Clock>) -> Result<HttpResponse, Problem> {
    let pages = book.whole().await?;
    let text = calendar(&pages, id.0, now(&clock))?;
    Ok(HttpResponse::Ok()
        .content_type("text/calendar; charset=utf-8")
        .insert_header((CACHE_CONTROL, "no-store"))
        .body(text))
}

/// The text of a calendar file (RFC 5545), of at most 1 MB.
#[derive(utoipa::ToSchema)]
#[schema(value_type = String)]
#[allow(dead_code, reason = "for the description")]
pub struct CalendarFile(String);

/// Reads closures from a calendar file: whole days and their repetitions up to two years ahead. Stores nothing.
#[utoipa::path(post, path = "/api/closures/read", params(Acting), request_body(content = CalendarFile, content_type = "text/calendar"), responses((status = 200, body = ClosuresRead), (status = 422, body = ProblemSaid)))]
pub async fn read_closures(
    Who(_): Who,
    clock: web::Data<Clock>,
    CalendarText(text): CalendarText,
) -> Result<web::Json<ClosuresRead>, Problem> {
    // What is not over anywhere yet is not past.
    let today = now(&clock).to_zoned(TimeZone::fixed(Offset::constant(-12))).date();
    // A long file keeps no worker from others.
    let read = tokio::task::spawn_blocking(move || read(&text, today)).await;
    let read = read.map_err(|_| Problem::from(refuse!("no_calendar_file", found = typed("")).at("body")))?;
    Ok(web::Json(read?))
}
