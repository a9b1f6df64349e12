//! The log over all systems: found by place, system, person, sort, time and words.

use super::entries::mark;
use super::{Acting, Id, MOST_ON_A_PAGE, now};
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::problem::ProblemSaid;
use crate::told::Piece;
use crate::view::{LogAcross, TrendsView, piece_of, trends_view};
use crate::{Clock, Problem};
use actix_web::web;
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use mopsel_core::calendar::{add_days, start_of};
use mopsel_core::fact::{Actor, Sort};
use mopsel_core::message::{count, typed};
use mopsel_core::refuse;
use mopsel_core::words::searched;
use mopsel_store::{Sought, SoughtWord, Spot};
use serde::Deserialize;
use std::collections::HashMap;
use uuid::Uuid;

/// What is looked for. Lists have commas between; of each, one has to fit.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct LookFor {
    /// Ids of places.
    #[serde(default)]
    pub places: Option<String>,
    /// Ids of systems.
    #[serde(default)]
    pub systems: Option<String>,
    /// Ids of people.
    #[serde(default)]
    pub people: Option<String>,
    /// Sorts of entries: reading, top_off, change, harvest and so on.
    #[serde(default)]
    pub sorts: Option<String>,
    /// Words, or their beginnings; all of them have to be there. Names of systems and people are found too.
    #[serde(default)]
    pub words: Option<String>,
    /// From this day on.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
    /// Up to this day, with it.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    pub to: Option<Date>,
    /// Entries on a page, 1 to 100; 30 when absent.
    #[serde(default)]
    #[param(minimum = 1, maximum = 100)]
    pub limit: Option<u32>,
    /// The mark of the page before.
    #[serde(default)]
    #[param(pattern = r"^-?\d+\.-?\d+$")]
    pub before: Option<String>,
}

/// A search is no longer than this, in characters.
const LONGEST_SEARCH: usize = 200;

fn listed(text: Option<&str>) -> impl Iterator<Item = &str> {
    text.unwrap_or_default().split(',').map(str::trim).filter(|one| !one.is_empty())
}

fn ids(text: Option<&str>, field: &'static str) -> Result<Vec<Uuid>, Problem> {
    listed(text)
        .map(|one| Uuid::parse_str(one).map_err(|_| refuse!("log_id", found = typed(one)).at(field).into()))
        .collect()
}

fn sorts(text: Option<&str>) -> Result<Vec<Sort>, Problem> {
    let known = |one: &str| Sort::ALL.into_iter().find(|sort| sort.code() == one);
    listed(text)
        .map(|one| {
            let all = Sort::ALL.map(Sort::code).join(", ");
            known(one).ok_or_else(|| refuse!("log_sort", found = typed(one), known = typed(&all)).at("sorts").into())
        })
        .collect()
}

/// The words of a search, each with what is called so.
fn words(text: &str, pages: &Pages) -> Vec<SoughtWord> {
    let called = |word: String| {
        let (systems, people) = (pages.systems_called.beginning(&word), pages.people_called.beginning(&word));
        SoughtWord { word, systems, people }
    };
    searched(text).into_iter().map(called).collect()
}

/// The systems that are looked at; `None` for all of them.
fn systems_of(places: &[Uuid], systems: Vec<Uuid>, pages: &Pages) -> Option<Vec<Uuid>> {
    if places.is_empty() {
        return (!systems.is_empty()).then_some(systems);
    }
    let here = pages.every_system().filter(|file| places.contains(&file.place)).map(|file| file.card.id);
    Some(here.filter(|id| systems.is_empty() || systems.contains(id)).collect())
}

/// On whose days from and to are told: those of the first place that is asked about.
fn zone_of(places: &[Uuid], systems: Option<&[Uuid]>, pages: &Pages) -> TimeZone {
    let of_system = systems.and_then(|all| all.first()).and_then(|id| pages.systems.get(id)).map(|file| file.place);
    let place = places.first().copied().or(of_system).and_then(|id| pages.places.get(&id));
    place.or_else(|| pages.places.values().next()).map_or(TimeZone::UTC, |place| place.zone.clone())
}

/// A page of the log over all systems, newest first, each entry with what it replaced and where it happened.
#[utoipa::path(get, path = "/api/log", params(LookFor, Acting), responses((status = 200, body = LogAcross), (status = 422, body = ProblemSaid)))]
pub async fn read_log_across(
    asked: web::Query<LookFor>,
    Who(actor): Who,
    book: web::Data<Book>,
) -> Result<web::Json<LogAcross>, Problem> {
    let limit = asked.limit.unwrap_or(30);
    if !(1..=MOST_ON_A_PAGE).contains(&limit) {
        return Err(refuse!("page_limit", found = count(limit), most = count(MOST_ON_A_PAGE)).at("limit").into());
    }
    let text = asked.words.as_deref().unwrap_or_default();
    if text.chars().count() > LONGEST_SEARCH {
        let (found, most) = (count(text.chars().count() as u32), count(LONGEST_SEARCH as u32));
        return Err(refuse!("log_words", found = found, most = most).at("words").into());
    }
    if let (Some(from), Some(to)) = (asked.from, asked.to)
        && to < from
    {
        return Err(refuse!("log_ends_first", from = typed(&from.to_string()), to = typed(&to.to_string()))
            .at("to")
            .into());
    }
    let before = asked.before.as_deref().map(mark).transpose()?;
    let (places, systems) = (ids(asked.places.as_deref(), "places")?, ids(asked.systems.as_deref(), "systems")?);
    let (people, sorts) = (ids(asked.people.as_deref(), "people")?, sorts(asked.sorts.as_deref())?);
    let sought = {
        let pages = book.as_opened(&actor).await;
        let systems = systems_of(&places, systems, &pages);
        let systems = if actor.grant.as_ref().is_some_and(|grant| !grant.owner) {
            // Of the log over all systems, what one sees of them.
            let asked = systems.unwrap_or_else(|| pages.systems.keys().copied().collect());
            Some(asked.into_iter().filter(|id| pages.systems.contains_key(id)).collect())
        } else {
            systems
        };
        let zone = zone_of(&places, systems.as_deref(), &pages);
        Sought {
            people,
            sorts,
            words: words(text, &pages),
            from: asked.from.map(|from| start_of(from, &zone)),
            until: asked.to.map(|to| start_of(add_days(to, 1), &zone)),
            systems,
        }
    };
    let spots = book.store().find(&sought, before, limit).await?;
    let pieces = pieces(&book, &actor, &spots).await?;
    let next = pieces.last().filter(|_| spots.len() >= limit as usize).map(|piece| piece.mark.clone());
    Ok(web::Json(LogAcross { threads: pieces.into_iter().map(|piece| piece.json).collect(), next }))
}

/// Entries as they are sent: what was not put into words lately is read now.
async fn pieces(book: &Book, actor: &Actor, spots: &[Spot]) -> Result<Vec<Piece>, Problem> {
    let kept = {
        let pages = book.as_opened(actor).await;
        book.told().of(spots, pages.prefers(actor))
    };
    let missing: Vec<Spot> =
        spots.iter().zip(&kept).filter(|(_, piece)| piece.is_none()).map(|(spot, _)| *spot).collect();
    if missing.is_empty() {
        return Ok(kept.into_iter().flatten().collect());
    }
    let threads = book.store().threads(&missing).await?;
    let pages = book.as_opened(actor).await;
    let prefers = pages.prefers(actor);
    let mut fresh: HashMap<Spot, Piece> = HashMap::new();
    for thread in threads {
        let spot = thread.spot();
        let piece = piece_of(&pages, actor, thread)?;
        book.told().keep(spot, prefers, piece.clone());
        fresh.insert(spot, piece);
    }
    Ok(spots.iter().zip(kept).filter_map(|(spot, piece)| piece.or_else(|| fresh.remove(spot))).collect())
}

/// Which days of a system are drawn.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct Drawn {
    /// From this day on; ten weeks before the last one when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
    /// Up to this day, with it; today when absent.
    #[serde(default)]
    #[param(value_type = Option<String>, format = Date)]
    pub to: Option<Date>,
    /// About how many points a series has at most, 50 to 5,000; 1,500 when absent. The lowest and the highest of each
    /// stretch stay.
    #[serde(default)]
    #[param(minimum = 50, maximum = 5000)]
    pub points: Option<u32>,
}

/// Days that are drawn unless others are asked for.
const USUAL_DAYS: i64 = 70;
/// No more is drawn at once, in days.
const MOST_DAYS: i64 = 3660;

/// What was read, drunk and taken up at a system over some days, with the estimate between the readings, the bands of
/// the time, and what was done.
#[utoipa::path(get, path = "/api/systems/{id}/trends", params(("id" = Uuid, Path), Drawn, Acting), responses((status = 200, body = TrendsView), (status = 404, body = ProblemSaid), (status = 422, body = ProblemSaid)))]
pub async fn read_trends(
    id: Id,
    asked: web::Query<Drawn>,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<TrendsView>, Problem> {
    let (at, points) = (now(&clock), asked.points.unwrap_or(1500));
    if !(50..=5000).contains(&points) {
        return Err(refuse!("trend_points", found = count(points)).at("points").into());
    }
    let (from, to, zone) = {
        let pages = book.as_opened(&actor).await;
        let place = pages.place_of(pages.system(id.0)?)?;
        let to = asked.to.unwrap_or_else(|| at.to_zoned(place.zone.clone()).date());
        (asked.from.unwrap_or_else(|| add_days(to, -USUAL_DAYS)), to, place.zone.clone())
    };
    let days = i64::from((to - from).get_days());
    if !(0..=MOST_DAYS).contains(&days) {
        let (from, to) = (typed(&from.to_string()), typed(&to.to_string()));
        return Err(refuse!("trend_days", from = from, to = to, most = count(MOST_DAYS as u32)).at("to").into());
    }
    let entries = book.store().entries_since(id.0, Timestamp::MIN).await?;
    let (begins, ends) = (start_of(from, &zone), start_of(add_days(to, 1), &zone));
    let sensed = book.store().sensed(id.0, begins, ends).await?;
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(trends_view(&pages, id.0, (&entries, &sensed), (from, to), points as usize, at, &actor)?))
}
