//! The cover plan of a place: its closures to come, and how its systems are brought through one of them.

use crate::Problem;
use crate::book::{Pages, PlaceFile, SystemFile};
use jiff::civil::Date;
use jiff::{Timestamp, Zoned};
use mopsel_core::calendar::Stretch;
use mopsel_core::care::cover::{Cover, cover_place, left_of};
use mopsel_core::fact::Actor;
use mopsel_core::message::{Message, days};
use mopsel_core::say;
use mopsel_core::situation::Situation;
use mopsel_core::words::Speaker;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// Closed days in a row that are not over.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClosedView {
    /// The first closed day: ask for the plan with it.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// The last closed day.
    #[schema(value_type = String, format = Date)]
    pub to: Date,
    /// What the closures in it are called.
    pub name: String,
    /// From when to when, and how long, in words.
    pub said: String,
}

/// A day on which somebody comes.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverDay {
    /// Which.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// The same in words.
    pub said: String,
}

/// How one system is brought through.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverSystem {
    /// Which.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// How.
    pub cover: Cover<String>,
}

/// How a place is brought through a closure.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverPlan {
    /// The closed days.
    pub closed: ClosedView,
    /// The last day on which somebody is there anyway, in words.
    pub last_open: String,
    /// The first day on which somebody is there again, in words.
    pub first_open: String,
    /// In a sentence: who comes, how often.
    pub told: String,
    /// The days on which somebody comes.
    pub days: Vec<CoverDay>,
    /// Every system.
    pub systems: Vec<CoverSystem>,
}

/// The closures of a place, and the plan for one of them.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverView {
    /// Which place.
    pub place: Uuid,
    /// What it is called.
    pub name: String,
    /// The day on which this was reckoned, in words.
    pub made: String,
    /// Closures that are not over, in order.
    pub closures: Vec<ClosedView>,
    /// The plan for the one that was asked for, else for the next; absent where none is to come.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plan: Option<CoverPlan>,
    /// Why there is none, in a sentence, where one was asked for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub none: Option<String>,
}

pub(super) fn closed(stretch: &Stretch, place: &PlaceFile, today: Date, speaker: &Speaker) -> ClosedView {
    let (from, to) = (stretch.from(), stretch.to());
    let within = place.place.closures.iter().filter(|closure| closure.from <= to && closure.to >= from);
    let mut names: Vec<&str> = within.filter_map(|closure| closure.name.as_ref().map(|name| name.as_str())).collect();
    names.dedup();
    let day = |date: Date| mopsel_core::calendar::day(date, today);
    let said = say!("closed.span", from = day(from), to = day(to), days = days(stretch.days() as f64));
    ClosedView { from, to, name: names.join(", "), said: speaker.say(&said) }
}

/// A speaker for what is said of a place and of none of its systems.
pub(super) fn of_place(place: &PlaceFile, actor: &Actor) -> Speaker {
    Speaker::new(mopsel_core::words::Reader::new(place.place.units, Default::default(), actor))
}

/// The cover plan of a place.
///
/// # Errors
/// Not found.
pub fn cover_view(
    pages: &Pages,
    id: Uuid,
    from: Option<Date>,
    at: Timestamp,
    actor: &Actor,
) -> Result<CoverView, Problem> {
    let place = pages.places.get(&id).ok_or_else(|| Problem::not_found("place with that id"))?;
    let now = at.to_zoned(place.zone.clone());
    let (today, speaker) = (now.date(), of_place(place, actor));
    let stretches = place.calendar.stretches_from(today);
    let wanted = |stretch: &&Stretch| from.is_none_or(|from| (stretch.from()..=stretch.to()).contains(&from));
    let stretch = stretches.iter().find(wanted);
    let made = stretch.map(|stretch| plan(pages, id, place, stretch, &now, actor));
    let (plan, none) = match made {
        Some(Ok(plan)) => (Some(plan), None),
        Some(Err(said)) => (None, Some(speaker.say(&said))),
        None => (None, None),
    };
    Ok(CoverView {
        place: id,
        name: place.place.name.as_str().to_owned(),
        made: now.strftime("%A %-d %B %Y").to_string(),
        closures: stretches.iter().map(|stretch| closed(stretch, place, today, &speaker)).collect(),
        plan,
        none,
    })
}

/// The plan for one closure; or what is said instead.
fn plan(
    pages: &Pages,
    id: Uuid,
    place: &PlaceFile,
    stretch: &Stretch,
    now: &Zoned,
    actor: &Actor,
) -> Result<CoverPlan, Message> {
    let (today, speaker, around) = (now.date(), of_place(place, actor), pages.around());
    let here = |file: &&SystemFile| file.place == id && !file.card.archived;
    let files: Vec<&SystemFile> = pages.every_system().filter(here).collect();
    let situations: Vec<Situation<'_>> =
        files.iter().map(|file| pages.situation(actor, file, place, now, &around)).collect();
    let (on, covers) = cover_place(*stretch, &situations)?;
    let say = |message: Message| speaker.say(&message);
    let mut systems: Vec<CoverSystem> = files
        .iter()
        .zip(covers)
        .map(|(file, cover)| {
            let speaker = Speaker::new(pages.reader(actor, file, place));
            let name = file.system.name.as_str().to_owned();
            CoverSystem { id: file.card.id, name, cover: cover.map(&|message| speaker.say(&message)) }
        })
        .collect();
    systems.sort_by(|a, b| a.name.cmp(&b.name));
    let told = match on.len() {
        0 => say!("closed.nobody"),
        times => say!("closed.somebody", times = mopsel_core::message::count(times)),
    };
    let day = |on: &Date| CoverDay { on: *on, said: speaker.day(*on, today) };
    Ok(CoverPlan {
        closed: closed(stretch, place, today, &speaker),
        last_open: speaker.day(left_of(*stretch, today).last_open, today),
        first_open: speaker.day(stretch.first_open, today),
        told: say(told),
        days: on.iter().map(day).collect(),
        systems,
    })
}
