//! The trends of a system as they are shown: the series with their bands, and what was done in words.

use super::speaker;
use crate::Problem;
use crate::book::Pages;
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::calendar::{add_days, local_date, start_of};
use mopsel_core::fact::{Actor, Entry, Sensed};
use mopsel_core::quantity::{EcScale, UnitSystem};
use mopsel_core::trend::history::{Span, over};
use mopsel_core::trend::{DeedKind, Trend, deeds};
use mopsel_core::words::say_entry;
use serde::Serialize;
use std::collections::HashMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// Something that was done, marked on the lines.
#[derive(Debug, Serialize, ToSchema)]
pub struct DeedView {
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What.
    pub what: DeedKind,
    /// What its entry says.
    pub said: String,
}

/// The trends of a system.
#[derive(Debug, Serialize, ToSchema)]
pub struct TrendsView {
    /// Of which.
    pub system: Uuid,
    /// What that is called.
    pub name: String,
    /// What its place is called.
    pub place_name: String,
    /// On whose clock days are told.
    pub zone: String,
    /// The first day that is drawn.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// The last.
    #[schema(value_type = String, format = Date)]
    pub to: Date,
    /// Today there.
    #[schema(value_type = String, format = Date)]
    pub today: Date,
    /// The day of its first entry; absent where there is none.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub since: Option<Date>,
    /// The series; those in which nothing was read are there, and empty.
    pub trends: Vec<Trend<String>>,
    /// What was done, oldest first.
    pub deeds: Vec<DeedView>,
    /// The units that its reader reads.
    pub units: UnitSystem,
    /// The EC scale that its reader reads.
    pub ec_scale: EcScale,
}

/// The trends of a system over some days; `entries` is its whole log, `sensed` what loggers read on
/// these days.
///
/// # Errors
/// Not found.
pub fn trends_view(
    pages: &Pages,
    id: Uuid,
    (entries, sensed): (&[Entry], &[Sensed]),
    (from, to): (Date, Date),
    points: usize,
    at: Timestamp,
    actor: &Actor,
) -> Result<TrendsView, Problem> {
    let file = pages.system(id)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    let s = pages.situation(actor, file, place, &now, &around);
    let speaker = speaker(pages, actor, file)?;
    let span = Span { from: start_of(from, &place.zone), to: start_of(add_days(to, 1), &place.zone) };
    let by_id: HashMap<Uuid, &Entry> = entries.iter().map(|entry| (entry.id, entry)).collect();
    let said = |entry: Uuid| {
        let lines = by_id.get(&entry).map(|entry| say_entry(&entry.body, file.history.at(entry.at)));
        lines.unwrap_or_default().iter().map(|line| speaker.say(line)).collect::<Vec<_>>().join(". ")
    };
    let done = deeds(entries).into_iter().filter(|deed| span.from <= deed.at && deed.at < span.to);
    Ok(TrendsView {
        system: id,
        name: file.system.name.as_str().to_owned(),
        place_name: place.place.name.as_str().to_owned(),
        zone: place.place.zone.clone(),
        from,
        to,
        today: now.date(),
        since: entries.iter().map(|entry| entry.at).min().map(|first| local_date(first, &now)),
        trends: over(entries, sensed, span, points, &s)
            .into_iter()
            .map(|one| one.map(&|told| speaker.say(&told)))
            .collect(),
        deeds: done.map(|deed| DeedView { at: deed.at, what: deed.what, said: said(deed.entry) }).collect(),
        units: speaker.reader().units,
        ec_scale: speaker.reader().ec,
    })
}
