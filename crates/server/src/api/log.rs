//! The log over all systems: found by place, system, person, sort, time and words.

use super::entries::mark;
use super::{Acting, MOST_ON_A_PAGE};
use crate::Problem;
use crate::actor::Who;
use crate::book::{Book, Pages};
use crate::problem::ProblemSaid;
use crate::view::{LogAcross, log_across};
use actix_web::web;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use mopsel_core::calendar::{add_days, start_of};
use mopsel_core::fact::Sort;
use mopsel_core::fact::card::Card;
use mopsel_core::message::{count, typed};
use mopsel_core::refuse;
use mopsel_core::words::{begins, searched};
use mopsel_store::{Sought, SoughtWord};
use serde::Deserialize;
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
    pub limit: Option<u32>,
    /// The mark of the page before.
    #[serde(default)]
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
        let systems = pages.systems.values().filter(|file| begins(file.system.name.as_str(), &word));
        let people = pages
            .others
            .values()
            .filter(|card| matches!(&card.card, Card::Person(person) if begins(person.name.as_str(), &word)));
        let (systems, people) = (systems.map(|file| file.card.id).collect(), people.map(|card| card.id).collect());
        SoughtWord { word, systems, people }
    };
    searched(text).into_iter().map(called).collect()
}

/// The systems that are looked at; `None` for all of them.
fn systems_of(places: &[Uuid], systems: Vec<Uuid>, pages: &Pages) -> Option<Vec<Uuid>> {
    if places.is_empty() {
        return (!systems.is_empty()).then_some(systems);
    }
    let here = pages.systems.values().filter(|file| places.contains(&file.place)).map(|file| file.card.id);
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
        let pages = book.as_opened().await;
        let systems = systems_of(&places, systems, &pages);
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
    let threads = book.store().find(&sought, before, limit).await?;
    Ok(web::Json(log_across(&*book.as_opened().await, &actor, threads, limit)?))
}
