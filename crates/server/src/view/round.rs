//! The round.

use super::cover::{closed, of_place};
use crate::Problem;
use crate::api::bench::with_amounts;
use crate::book::{Pages, PlaceFile, SystemFile};
use jiff::{Timestamp, Zoned};
use mopsel_core::bench::ask_of;
use mopsel_core::bench::kit::is_for_today;
use mopsel_core::care::cover::worth_saying;
use mopsel_core::care::fit::{Worth, worth};
use mopsel_core::care::hygiene::mind;
use mopsel_core::care::look::lines;
use mopsel_core::care::{FromList, Standing, Task, Urgency, comes_first, from_list, pressing, tasks};
use mopsel_core::crop::Planting;
use mopsel_core::drawing::{Section, section};
use mopsel_core::fact::Actor;
use mopsel_core::quantity::UnitSystem;
use mopsel_core::say;
use mopsel_core::situation::Situation;
use mopsel_core::system::{Check, Kind};
use mopsel_core::verdict::Rank;
use mopsel_core::way::Way;
use mopsel_core::words::Speaker;
use serde::Serialize;
use std::borrow::Cow;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// A system on the round.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundSystem {
    /// Its id.
    pub id: Uuid,
    /// Its name.
    pub name: String,
    /// Its place's id.
    pub place: Uuid,
    /// Its place's name.
    pub place_name: String,
    /// The units in which it is spoken of.
    pub units: UnitSystem,
    /// Its kind.
    pub kind: Kind,
    /// Its kind in words.
    pub kind_name: String,
    /// What grows in it, in words.
    pub growing: String,
    /// Its drawing.
    pub section: Section,
    /// The task with the least margin; `None` where nothing was ever due.
    pub pressing: Option<Task<String>>,
    /// Tasks of today's list.
    pub due: usize,
    /// Whether a power cut stops something here.
    pub plug: bool,
    /// Whether hands, tools or water would carry something from here: it is visited last.
    pub suspect: bool,
    /// The same in a sentence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub suspect_why: Option<String>,
    /// Whether its water is being changed.
    pub changing: bool,
    /// Whether it may be called fine from a list of several.
    pub from_list: FromList,
    /// Why not, where it may not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub from_list_why: Option<String>,
}

/// A task of today, with its system.
#[derive(Debug, Serialize, ToSchema)]
pub struct TodayTask {
    /// At which of the systems, by its place in their list.
    pub at: usize,
    /// The task, as far as a line of the list shows it.
    pub task: TaskLine,
}

/// A task in one line.
#[derive(Debug, Serialize, ToSchema)]
pub struct TaskLine {
    /// What it is, stable from day to day.
    pub code: Cow<'static, str>,
    /// What to do, in a few words.
    pub name: String,
    /// How much of what, where something is poured.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub amount: Option<String>,
    /// For a child: what to do, in a sentence of its own.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub child_does: Option<String>,
    /// Whether an adult does it.
    pub adult: bool,
    /// The routine check that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub check: Option<Check>,
    /// Days late.
    pub days_late: i32,
    /// Where it stands.
    pub standing: Standing,
    /// Days left until lateness starts to cost plants.
    pub margin_days: f64,
    /// The same in words.
    pub safe: String,
    /// Minutes that it usually takes.
    pub minutes: u16,
    /// What it comes before: first by this, then by margin.
    pub rank: Rank,
    /// What doing it wins.
    #[serde(skip)]
    pub worth: Worth,
    /// How loudly it asks.
    pub urgency: Urgency,
    /// Where it is done; absent where it is ticked off.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub way: Option<Way<String>>,
}

impl TaskLine {
    pub(super) fn new(task: &Task, pace: f64, speaker: &Speaker) -> Self {
        let worth = worth(task, pace);
        Self {
            code: task.code.clone(),
            name: speaker.say(&task.name),
            amount: ask_of(task).map(|_| speaker.say(&task.doing)),
            child_does: speaker.reader().child.then(|| speaker.say(&task.doing)),
            adult: task.adult,
            check: task.check,
            days_late: task.days_late,
            standing: task.standing,
            margin_days: tenths(task.margin_days),
            safe: speaker.say(&task.safe),
            minutes: worth.minutes,
            rank: task.rank,
            worth,
            urgency: task.urgency,
            way: task.way.clone().map(|way| way.map(&|said| speaker.say(&said))),
        }
    }
}

/// The round.
#[derive(Debug, Serialize, ToSchema)]
pub struct Round {
    /// The date, in words, at the first place.
    pub today: String,
    /// Whether a child reads it.
    pub child: bool,
    /// All systems: where people are in danger, where a change is under way, then by rank and margin.
    pub systems: Vec<RoundSystem>,
    /// What is late, due today, or asks for a hand: by rank, then least margin first.
    pub tasks: Vec<TodayTask>,
    /// Closures that begin soon, or are on.
    pub closures: Vec<RoundClosure>,
}

/// A closure that begins soon, or is on.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundClosure {
    /// At which place.
    pub place: Uuid,
    /// That, and when, in a sentence.
    pub said: String,
}

fn closures_soon(pages: &Pages, nows: &BTreeMap<Uuid, Zoned>, actor: &Actor) -> Vec<RoundClosure> {
    let lives = |id: &Uuid| pages.every_system().any(|file| file.place == *id && !file.card.archived);
    let here = pages.places.iter().filter(|(id, place)| !place.card.archived && lives(id));
    let soon = here.filter_map(|(id, place)| {
        let today = nows.get(id)?.date();
        let stretch = place.calendar.stretches_from(today).into_iter().find(|stretch| worth_saying(stretch, today))?;
        let speaker = of_place(place, actor);
        let span = closed(&stretch, place, today, &speaker).said;
        let name = place.place.name.as_str();
        let on = stretch.from() <= today;
        let said = if on {
            say!("closed.on", place = name, span = span)
        } else {
            say!("closed.soon", place = name, span = span)
        };
        Some(RoundClosure { place: *id, said: speaker.say(&said) })
    });
    soon.collect()
}

/// The round over all systems that are not put away.
///
/// # Errors
/// When a system's place is missing from the book.
pub fn round(pages: &Pages, at: Timestamp, actor: &Actor, changing: &[Uuid]) -> Result<Round, Problem> {
    let around = pages.around();
    let local = |(id, place): (&Uuid, &PlaceFile)| (*id, at.to_zoned(place.zone.clone()));
    let nows: BTreeMap<Uuid, Zoned> = pages.places.iter().map(|(id, place)| local((id, place))).collect();
    let mut systems = Vec::with_capacity(pages.systems.len());
    let mut today: Vec<(Uuid, TaskLine)> = Vec::new();
    for file in pages.every_system().filter(|file| !file.card.archived) {
        let place = pages.place_of(file)?;
        let Some(now) = nows.get(&file.place).filter(|_| !place.card.archived) else { continue };
        let situation = pages.situation(actor, file, place, now, &around);
        let speaker = Speaker::new(pages.reader(actor, file, place));
        let reader = (pages.reader(actor, file, place), place);
        let (now, later): (Vec<Task>, Vec<Task>) =
            lines(tasks(&situation), &situation).into_iter().partition(is_for_today);
        // What is done today says how much.
        let mut all = with_amounts(now, pages, actor, reader, &situation);
        all.extend(later);
        all.sort_by(|a, b| comes_first(a.order(), b.order()));
        let before = today.len();
        let due = all.iter().filter(|task| is_for_today(task));
        today.extend(due.map(|task| (file.card.id, TaskLine::new(task, file.known.done.pace(), &speaker))));
        let due = today.len() - before;
        let changing = changing.contains(&file.card.id);
        systems.push(round_system(file, place, &situation, &speaker, &all, due, changing));
    }
    // Roots hang on a stand while the water is changed: only people come before that.
    let people = |system: &RoundSystem| order(system).0 == Rank::People;
    systems.sort_by(|a, b| {
        people(b).cmp(&people(a)).then(b.changing.cmp(&a.changing)).then(comes_first(order(a), order(b)))
    });
    today.sort_by(|(_, a), (_, b)| comes_first((a.rank, a.margin_days), (b.rank, b.margin_days)));
    let places: BTreeMap<Uuid, usize> = systems.iter().enumerate().map(|(n, system)| (system.id, n)).collect();
    let tasks = today.into_iter().filter_map(|(id, task)| Some(TodayTask { at: *places.get(&id)?, task })).collect();
    let closures = closures_soon(pages, &nows, actor);
    let first = nows.values().next().cloned().unwrap_or_else(|| at.to_zoned(jiff::tz::TimeZone::UTC));
    Ok(Round { today: first.strftime("%A %-d %B %Y").to_string(), child: actor.is_child(), systems, tasks, closures })
}

/// Nobody plans by less than a tenth of a day; and the round stays as it is from minute to minute.
fn tenths(days: f64) -> f64 {
    (days * 10.0).round() / 10.0
}

fn order(system: &RoundSystem) -> (Rank, f64) {
    system.pressing.as_ref().map_or((Rank::Routine, f64::INFINITY), Task::order)
}

fn round_system(
    file: &SystemFile,
    place: &PlaceFile,
    situation: &Situation<'_>,
    speaker: &Speaker,
    all: &[Task],
    due: usize,
    changing: bool,
) -> RoundSystem {
    let mut pressing = pressing(all).cloned();
    if let Some(task) = &mut pressing {
        task.margin_days = tenths(task.margin_days);
    }
    let suspect_why = mind(situation).map(|why| speaker.say(&why));
    let (from_list, why) = from_list(all, changing, situation);
    RoundSystem {
        id: file.card.id,
        name: file.system.name.as_str().to_owned(),
        place: file.place,
        place_name: place.place.name.as_str().to_owned(),
        units: speaker.reader().units,
        kind: file.system.kind,
        kind_name: speaker.say(&file.system.kind.name()),
        growing: growing(&file.plantings),
        section: section(situation),
        pressing: pressing.map(|task| task.map(&|message| speaker.say(&message))),
        due,
        plug: file.system.traits.mains(),
        suspect: suspect_why.is_some(),
        suspect_why,
        changing,
        from_list,
        from_list_why: why.map(|why| speaker.say(&why)),
    }
}

fn growing(plantings: &[Planting]) -> String {
    let mut names: Vec<&str> = plantings.iter().map(|planting| planting.crop.as_str()).collect();
    names.dedup();
    names.join(", ")
}
