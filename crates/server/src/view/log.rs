//! The log as it is shown: a system is spoken of as it was on the day of each entry.

use super::speaker;
use crate::Problem;
use crate::book::Pages;
use crate::told::Piece;
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::fact::{Actor, Body, Draft, Entry, LoggedEntry, Sort, Visit};
use mopsel_core::words::say_entry;
use mopsel_store::{StoreError, Thread};
use serde::Serialize;
use serde_json::value::{RawValue, to_raw_value};
use utoipa::ToSchema;
use uuid::Uuid;

/// A visit half done.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct DraftView {
    /// The id that the entry will have.
    pub id: Uuid,
    /// The person who has it half done.
    pub who: Uuid,
    /// Name it when saving on top, or when closing it.
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
pub fn draft_view(pages: &Pages, actor: &Actor, draft: Draft) -> Result<DraftView, Problem> {
    let Draft { id, system, who, version, visit, at, read_at: _ } = draft;
    let lines = lines_of(pages, actor, system, at, &Body::Visit(visit.clone()))?;
    Ok(DraftView { id, who, version, visit, at, lines })
}

/// What a body says about a system as it was then, a line each.
///
/// # Errors
/// Not found.
pub fn lines_of(
    pages: &Pages,
    actor: &Actor,
    system: Uuid,
    at: Timestamp,
    body: &Body,
) -> Result<Vec<String>, Problem> {
    let file = pages.system(system)?;
    let speaker = speaker(pages, actor, file)?;
    Ok(say_entry(body, file.history.at(at)).iter().map(|line| speaker.say(line)).collect())
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
///
/// # Errors
/// Not found.
pub fn entry_view(pages: &Pages, actor: &Actor, logged: LoggedEntry) -> Result<EntryView, Problem> {
    let place = pages.place_of(pages.system(logged.system)?)?;
    let zoned = logged.entry.at.to_zoned(place.zone.clone());
    Ok(EntryView {
        by_name: pages.name_of(logged.entry.by),
        when: zoned.strftime("%a %-d %b %Y, %H:%M").to_string(),
        lines: lines_of(pages, actor, logged.system, logged.entry.at, &logged.entry.body)?,
        seq: logged.seq,
        recorded: logged.recorded,
        // An entry that cannot be read is shown by its line, in a body that says nothing.
        entry: match logged.entry.body {
            Body::FromNewer | Body::Unreadable => Entry { body: Body::Withdrawn {}, ..logged.entry },
            _ => logged.entry,
        },
    })
}

/// An entry of the log over all systems, with what it replaced.
#[derive(Debug, Serialize, ToSchema)]
pub struct AcrossThread {
    /// At which system.
    pub system: Uuid,
    /// What that is called.
    pub system_name: String,
    /// At which place.
    pub place: Uuid,
    /// What that is called.
    pub place_name: String,
    /// The day on which it happened, there.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// That day, in words.
    pub day: String,
    /// The time of day there.
    pub time: String,
    /// Of which sorts it is.
    pub sorts: Vec<Sort>,
    /// What stands.
    pub head: EntryView,
    /// What stood before, newest first.
    pub earlier: Vec<EntryView>,
}

/// A page of the log over all systems.
#[derive(Debug, Serialize, ToSchema)]
pub struct LogAcross {
    /// Newest first.
    #[schema(value_type = Vec<AcrossThread>)]
    pub threads: Vec<Box<RawValue>>,
    /// Ask with this for the next page; absent on the last.
    pub next: Option<String>,
}

/// The mark of the page behind an entry.
fn mark_of(thread: &Thread) -> String {
    format!("{}.{}", thread.head.entry.at.as_millisecond(), thread.head.seq)
}

/// An entry with what it replaced, as it is shown.
fn thread_view(pages: &Pages, actor: &Actor, thread: Thread) -> Result<ThreadView, Problem> {
    let earlier = thread.earlier.into_iter().map(|entry| entry_view(pages, actor, entry));
    Ok(ThreadView { head: entry_view(pages, actor, thread.head)?, earlier: earlier.collect::<Result<_, Problem>>()? })
}

/// A page of threads as it is shown.
///
/// # Errors
/// Not found.
pub fn log_page(pages: &Pages, actor: &Actor, threads: Vec<Thread>, limit: u32) -> Result<LogPage, Problem> {
    let next = threads.last().filter(|_| threads.len() >= limit as usize).map(mark_of);
    let views = threads.into_iter().map(|thread| thread_view(pages, actor, thread));
    Ok(LogPage { threads: views.collect::<Result<_, Problem>>()?, next })
}

/// An entry of the log over all systems as it is sent.
///
/// # Errors
/// Not found.
pub fn piece_of(pages: &Pages, actor: &Actor, thread: Thread) -> Result<Piece, Problem> {
    let mark = mark_of(&thread);
    let file = pages.system(thread.head.system)?;
    let place = pages.place_of(file)?;
    let zoned = thread.head.entry.at.to_zoned(place.zone.clone());
    let ThreadView { head, earlier } = thread_view(pages, actor, thread)?;
    let view = AcrossThread {
        system: file.card.id,
        system_name: file.system.name.as_str().to_owned(),
        place: file.place,
        place_name: place.place.name.as_str().to_owned(),
        on: zoned.date(),
        day: zoned.strftime("%A %-d %B %Y").to_string(),
        time: zoned.strftime("%H:%M").to_string(),
        sorts: Sort::ALL.into_iter().filter(|sort| sort.holds(&head.entry.body)).collect(),
        head,
        earlier,
    };
    Ok(Piece { json: to_raw_value(&view).map_err(|error| StoreError::Corrupt(error.to_string()))?, mark })
}
