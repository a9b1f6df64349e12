//! What the API answers with: the shapes, and how each is made from the book.

use crate::Problem;
use crate::book::{Pages, PlaceFile, SystemFile};
use jiff::{Timestamp, Zoned};
use mopsel_core::calendar::{days_between, local_date, say_date};
use mopsel_core::card::{Card, Meter, Person, Place};
use mopsel_core::care::top_off::{TopOffAdvice, top_off_advice};
use mopsel_core::care::{Check, Situation, Standing, Task, Urgency, pressing, tasks};
use mopsel_core::crop::{EcTarget, Planting, ec_target};
use mopsel_core::drawing::{Section, section};
use mopsel_core::forecast;
use mopsel_core::log::{Body, Entry, Visit, say_entry};
use mopsel_core::quantity::{EcScale, Litres, UnitSystem};
use mopsel_core::system::{Kind, System};
use mopsel_core::trend::{Trend, trends};
use mopsel_core::verdict::{Room, Verdict, judge_state, limit_from};
use mopsel_store::{Draft, LoggedEntry, StoredCard, Thread};
use serde::Serialize;
use serde_json::Value;
use std::borrow::Cow;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// A card with its version.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct CardView {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// Name it in an edit.
    pub version: i64,
    /// Whether it was put away.
    pub archived: bool,
    /// What it says.
    pub body: Card,
}

impl From<&StoredCard> for CardView {
    fn from(stored: &StoredCard) -> Self {
        Self { id: stored.id, parent: stored.parent, version: stored.version, archived: stored.archived, body: stored.card.clone() }
    }
}

/// A card as a JSON value.
pub fn card_value(stored: &StoredCard) -> Value {
    serde_json::to_value(CardView::from(stored)).unwrap_or_default()
}

/// A visit half done.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DraftView {
    /// The id that the entry will have.
    pub id: Uuid,
    /// Whose.
    pub who: Uuid,
    /// Name it when saving on top.
    pub version: i64,
    /// As far as it has come.
    pub visit: Visit,
    /// When it was last saved.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What it says, a line each.
    pub lines: Vec<String>,
}

/// A visit half done as it is shown.
///
/// # Errors
/// Not found.
pub fn draft_view(pages: &Pages, draft: Draft) -> Result<DraftView, Problem> {
    let lines = lines_of(pages, draft.system, &Body::Visit(draft.visit.clone()))?;
    Ok(DraftView { id: draft.id, who: draft.who, version: draft.version, visit: draft.visit, at: draft.at, lines })
}

/// What a body says about a system, a line each, in the place's units.
///
/// # Errors
/// Not found.
pub fn lines_of(pages: &Pages, system: Uuid, body: &Body) -> Result<Vec<String>, Problem> {
    let file = pages.system(system)?;
    Ok(say_entry(body, &file.system, pages.wording(file, pages.place_of(file)?)))
}

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
    /// The units in which its place reads.
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
    pub pressing: Option<Task>,
    /// How many tasks are late or due today.
    pub due: usize,
    /// Root rot is open here: visited last, hands and tools washed after.
    pub suspect: bool,
    /// A reservoir change is under way.
    pub changing: bool,
}

/// A task of today at a system.
#[derive(Debug, Serialize, ToSchema)]
pub struct TodayTask {
    /// At which system.
    pub system: Uuid,
    /// Its name.
    pub system_name: String,
    /// The task, as far as a line of the list shows it.
    pub task: TaskLine,
}

/// A task in one line.
#[derive(Debug, Serialize, ToSchema)]
pub struct TaskLine {
    /// What it is, stable from day to day.
    pub code: Cow<'static, str>,
    /// What to do, in a few words.
    pub name: Cow<'static, str>,
    /// The routine check that it is, if it is one.
    pub check: Option<Check>,
    /// Days late.
    pub days_late: i32,
    /// Where it stands.
    pub standing: Standing,
    /// Days left until lateness starts to cost plants.
    pub margin_days: f64,
    /// How loudly it asks.
    pub urgency: Urgency,
}

impl From<&Task> for TaskLine {
    fn from(task: &Task) -> Self {
        Self {
            code: task.code.clone(),
            name: task.name.clone(),
            check: task.check,
            days_late: task.days_late,
            standing: task.standing,
            margin_days: task.margin_days,
            urgency: task.urgency,
        }
    }
}

/// The round.
#[derive(Debug, Serialize, ToSchema)]
pub struct Round {
    /// When it was made.
    #[schema(value_type = String, format = DateTime)]
    pub now: Timestamp,
    /// The date, in words, at the first place.
    pub today: String,
    /// All systems, least margin first.
    pub systems: Vec<RoundSystem>,
    /// What is late or due today, late first, each by margin.
    pub tasks: Vec<TodayTask>,
}

/// The round over all systems that are not put away.
///
/// # Errors
/// When a system's place is missing from the book.
pub fn round(pages: &Pages, at: Timestamp, reader: Option<Uuid>, changing: &[Uuid]) -> Result<Round, Problem> {
    let calibrations = pages.calibrations();
    let mut nows: BTreeMap<Uuid, Zoned> = BTreeMap::new();
    for (id, place) in &pages.places {
        nows.insert(*id, at.to_zoned(place.zone.clone()));
    }
    let mut systems = Vec::with_capacity(pages.systems.len());
    let mut today = Vec::new();
    for file in pages.systems.values().filter(|file| !file.card.archived) {
        let place = pages.place_of(file)?;
        let Some(now) = nows.get(&file.place).filter(|_| !place.card.archived) else { continue };
        let situation = pages.situation(reader, file, place, now, &calibrations);
        let all = tasks(&situation);
        let due = all.iter().filter(|task| task.standing <= Standing::Today);
        let before = today.len();
        today.extend(due.map(|task| TodayTask { system: file.card.id, system_name: file.system.name.as_str().to_owned(), task: TaskLine::from(task) }));
        systems.push(RoundSystem { due: today.len() - before, changing: changing.contains(&file.card.id), ..round_system(file, place, &situation, pressing(&all).cloned()) });
    }
    systems.sort_by(|a, b| margin(a).total_cmp(&margin(b)));
    today.sort_by(|a, b| (a.task.standing, a.task.margin_days).partial_cmp(&(b.task.standing, b.task.margin_days)).unwrap_or(std::cmp::Ordering::Equal));
    let first = nows.values().next().map_or_else(|| at.to_zoned(jiff::tz::TimeZone::UTC), Clone::clone);
    Ok(Round { now: at, today: first.strftime("%A %-d %B %Y").to_string(), systems, tasks: today })
}

fn margin(system: &RoundSystem) -> f64 {
    system.pressing.as_ref().map_or(f64::INFINITY, |task| task.margin_days)
}

fn round_system(file: &SystemFile, place: &PlaceFile, situation: &Situation<'_>, pressing: Option<Task>) -> RoundSystem {
    RoundSystem {
        id: file.card.id,
        name: file.system.name.as_str().to_owned(),
        place: file.place,
        place_name: place.place.name.as_str().to_owned(),
        units: situation.wording.units,
        kind: file.system.kind,
        kind_name: file.system.kind.facts().name.clone(),
        growing: growing(&file.plantings),
        section: section(situation),
        pressing,
        due: 0,
        suspect: file.state.root_case.is_some(),
        changing: false,
    }
}

fn growing(plantings: &[Planting]) -> String {
    let mut names: Vec<&str> = plantings.iter().map(|p| p.crop.as_str()).collect();
    names.dedup();
    names.join(", ")
}

/// The last value of something, as it is said.
#[derive(Debug, Serialize, ToSchema)]
pub struct LastValue {
    /// What was measured: the code of its subject.
    pub subject: String,
    /// As it is said, with its unit.
    pub said: String,
    /// When, in words.
    pub when: String,
}

/// A verdict with the time of what it is about.
#[derive(Debug, Serialize, ToSchema)]
pub struct StandingVerdict {
    /// When the finding was made, in words.
    pub when: String,
    /// The verdict.
    pub verdict: Verdict,
}

/// How fast a system drinks.
#[derive(Debug, Serialize, ToSchema)]
pub struct Drinking {
    /// Litres a day.
    pub a_day: Litres,
    /// From how many intervals.
    pub intervals: usize,
    /// In a sentence.
    pub said: String,
}

/// Everything on a system's page but its log.
#[derive(Debug, Serialize, ToSchema)]
pub struct SystemView {
    /// The card.
    pub card: CardView,
    /// What the card says.
    pub system: System,
    /// Its kind in words.
    pub kind_name: String,
    /// Its place's card.
    pub place: CardView,
    /// What the place says.
    pub place_body: Place,
    /// The date there.
    #[schema(value_type = String, format = Date)]
    pub today: jiff::civil::Date,
    /// The people of its place.
    pub people: Vec<CardView>,
    /// The meter that is used.
    pub meter: Option<Meter>,
    /// Its plantings, those put away among them.
    pub plantings: Vec<CardView>,
    /// Its drawing.
    pub section: Section,
    /// Everything to do, least margin first.
    pub tasks: Vec<Task>,
    /// What the last findings mean.
    pub verdicts: Vec<StandingVerdict>,
    /// The last value of each measured thing.
    pub last: Vec<LastValue>,
    /// The strength that suits what grows here.
    pub ec_target: Option<EcTarget>,
    /// How fast it drinks.
    pub drinking: Option<Drinking>,
    /// What may be added now.
    pub room: Option<Room>,
    /// Its readings over the last ten weeks.
    pub trends: Vec<Trend>,
    /// What the way it is topped off does to its strength.
    pub top_off: Option<TopOffAdvice>,
    /// The units that its reader reads.
    pub units: UnitSystem,
    /// The EC scale that its reader reads.
    pub ec_scale: EcScale,
}

/// The page of a system.
///
/// # Errors
/// Not found.
pub fn system_view(pages: &Pages, id: Uuid, entries: &[Entry], at: Timestamp, reader: Option<Uuid>) -> Result<SystemView, Problem> {
    let file = pages.system(id)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let s = pages.situation(reader, file, place, &now, &pages.calibrations());
    let when = |then: Timestamp| say_date(local_date(then, &now), now.date());
    let drinking = forecast::uptake(&file.state).map(|u| Drinking {
        a_day: Litres::nearest(u.a_day),
        intervals: u.intervals,
        said: format!("drinks {}", s.wording.volume_a_day(Litres::nearest(u.a_day))),
    });
    let room = forecast::volume_now(&file.state, at).map(|v| limit_from(v, &s)).map(|limit| Room { litres: limit.litres, up_to: limit.up_to, reason: limit.reason });
    Ok(SystemView {
        card: CardView::from(&file.card),
        system: file.system.clone(),
        kind_name: file.system.kind.facts().name.clone(),
        place: CardView::from(&place.card),
        place_body: place.place.clone(),
        today: now.date(),
        people: people_of(pages, file.place),
        meter: pages.meter(file).cloned(),
        plantings: file.planting_cards.iter().map(CardView::from).collect(),
        section: section(&s),
        tasks: tasks(&s),
        verdicts: judge_state(&s).into_iter().map(|(then, verdict)| StandingVerdict { when: when(then), verdict }).collect(),
        last: last_values(&s, when),
        ec_target: ec_target(&file.plantings, file.system.source_ec),
        drinking,
        room,
        trends: trends(entries, &s),
        top_off: top_off_advice(&s),
        units: s.wording.units,
        ec_scale: s.wording.ec,
    })
}

fn last_values(s: &Situation<'_>, when: impl Fn(Timestamp) -> String) -> Vec<LastValue> {
    let (state, w) = (s.state, s.wording);
    let mut last = Vec::new();
    let mut add = |subject: &str, said: String, at: Timestamp| last.push(LastValue { subject: subject.to_owned(), said, when: when(at) });
    if let Some(volume) = state.last_volume() {
        let known = if days_between(volume.at, s.now.timestamp()) < 1.0 { volume.after } else { forecast::volume_now(state, s.now.timestamp()).unwrap_or(volume.after) };
        let about = if known == volume.after { "" } else { "about " };
        add("level", format!("{about}{}", w.volume(known)), volume.at);
    }
    if let Some(d) = state.temperature {
        add("temperature", w.temperature(d.value), d.at);
    }
    if let Some(d) = state.ph {
        add("ph", format!("pH {}", d.value.say()), d.at);
    }
    if let Some(d) = state.ec {
        add("ec", w.ec(d.value), d.at);
    }
    if let Some(d) = state.premixed {
        add("premixed", format!("{} mixed ahead", w.volume(d.value.litres)), d.at);
    }
    if let Some(d) = state.roots {
        add("roots", format!("stage {}", d.value.0.number()), d.at);
    }
    last
}

fn people_of(pages: &Pages, place: Uuid) -> Vec<CardView> {
    pages.others.values().filter(|c| c.parent == Some(place) && matches!(c.card, Card::Person(Person { .. }))).map(CardView::from).collect()
}

/// A place with what hangs on it, for set-up.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlaceView {
    /// The place.
    pub card: CardView,
    /// Its people.
    pub people: Vec<CardView>,
    /// Its meters.
    pub meters: Vec<CardView>,
    /// Its systems.
    pub systems: Vec<CardView>,
}

/// Every place, those put away among them.
pub fn places(pages: &Pages) -> Vec<PlaceView> {
    let mut views: Vec<PlaceView> = pages
        .places
        .values()
        .map(|place| PlaceView {
            card: CardView::from(&place.card),
            people: people_of(pages, place.card.id),
            meters: pages.others.values().filter(|c| c.parent == Some(place.card.id) && matches!(c.card, Card::Meter(_))).map(CardView::from).collect(),
            systems: pages.systems.values().filter(|s| s.place == place.card.id).map(|s| CardView::from(&s.card)).collect(),
        })
        .collect();
    for view in &mut views {
        view.systems.sort_by(|a, b| a.body.name().cmp(b.body.name()));
    }
    views.sort_by(|a, b| a.card.body.name().cmp(b.card.body.name()));
    views
}

/// An entry of the log with its author's name.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct EntryView {
    /// The entry.
    #[serde(flatten)]
    pub entry: Entry,
    /// Its place in the order of recording.
    pub seq: i64,
    /// When it was recorded.
    #[schema(value_type = String, format = DateTime)]
    pub recorded: Timestamp,
    /// Who, by name.
    pub by_name: String,
    /// When it happened, in the place's own time, in words.
    pub when: String,
    /// What it says, a line each.
    pub lines: Vec<String>,
}

/// An entry with what it replaced.
#[derive(Debug, Serialize, ToSchema)]
pub struct ThreadView {
    /// What stands.
    pub head: EntryView,
    /// What stood before, newest first.
    pub earlier: Vec<EntryView>,
}

/// A page of the log.
#[derive(Debug, Serialize, ToSchema)]
pub struct LogPage {
    /// Newest first.
    pub threads: Vec<ThreadView>,
    /// Ask with this for the next page; absent on the last.
    pub next: Option<String>,
}

/// An entry as it is shown.
pub fn entry_view(pages: &Pages, logged: LoggedEntry) -> Result<EntryView, Problem> {
    let file = pages.system(logged.system)?;
    let place = pages.place_of(file)?;
    let zoned = logged.entry.at.to_zoned(place.zone.clone());
    Ok(EntryView {
        by_name: pages.person(logged.entry.by).map_or_else(|| "someone".to_owned(), |(person, _)| person.name.as_str().to_owned()),
        when: zoned.strftime("%a %-d %b %Y, %H:%M").to_string(),
        lines: say_entry(&logged.entry.body, &file.system, pages.wording(file, place)),
        seq: logged.seq,
        recorded: logged.recorded,
        entry: logged.entry,
    })
}

/// A page of threads as it is shown.
pub fn log_page(pages: &Pages, threads: Vec<Thread>, limit: u32) -> Result<LogPage, Problem> {
    let full = threads.len() >= limit as usize;
    let next = threads.last().filter(|_| full).map(|t| format!("{}.{}", t.head.entry.at.as_millisecond(), t.head.seq));
    let threads = threads
        .into_iter()
        .map(|t| Ok(ThreadView { head: entry_view(pages, t.head)?, earlier: t.earlier.into_iter().map(|e| entry_view(pages, e)).collect::<Result<_, Problem>>()? }))
        .collect::<Result<_, Problem>>()?;
    Ok(LogPage { threads, next })
}
