//! A week of a class: what children can safely do at each system, on which day, and who does it; the same as a checklist
//! to print, and to type back in the order of the paper.

use super::cover::of_place;
use crate::Problem;
use crate::book::{Pages, SystemFile};
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::calendar::{add_days, local_date, start_of};
use mopsel_core::care::rota::{Hand, Job, share};
use mopsel_core::care::sheet::{Row, measures, rows};
use mopsel_core::fact::card::{Card, Role};
use mopsel_core::fact::{Actor, Body, Entry, effective};
use mopsel_core::projection::usual_minutes;
use mopsel_core::quantity::{EcScale, UnitSystem};
use mopsel_core::say;
use mopsel_core::situation::Situation;
use mopsel_core::system::Check;
use mopsel_core::words::Speaker;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};
use utoipa::ToSchema;
use uuid::Uuid;

/// A day of the week.
#[derive(Debug, Serialize, ToSchema)]
pub struct WeekDay {
    /// Which.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// In words.
    pub said: String,
    /// Whether it is still to come; what was due on a day that is past is not known any more.
    pub to_come: bool,
}

/// Somebody who shares in.
#[derive(Debug, Serialize, ToSchema)]
pub struct WeekHand {
    /// Who.
    pub id: Uuid,
    /// Their initials.
    pub name: String,
    /// The days of this week on which they are absent.
    #[schema(value_type = Vec<String>)]
    pub away: Vec<Date>,
    /// What they did in the eight weeks up to the week before this one, in usual minutes.
    pub did: u32,
}

/// One cell of the checklist.
#[derive(Debug, Serialize, ToSchema)]
pub struct WeekCell {
    /// On which day.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// Whether it is due then.
    pub due: bool,
    /// Who does it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub who: Option<Uuid>,
}

/// One row of the checklist.
#[derive(Debug, Serialize, ToSchema)]
pub struct WeekRow {
    /// The code of its task.
    pub code: String,
    /// What is done.
    pub name: String,
    /// What that means, in a sentence.
    pub doing: String,
    /// The check that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub check: Option<Check>,
    /// The rule that it is, if it is one.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rule: Option<Uuid>,
    /// Its days.
    pub cells: Vec<WeekCell>,
}

/// What is measured at a system, and written down as a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum WeekNumber {
    Level,
    Temperature,
    Ph,
    Ec,
}

/// The sheet of one system.
#[derive(Debug, Serialize, ToSchema)]
pub struct WeekSystem {
    /// Which.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// Its kind, in words.
    pub kind_name: String,
    /// What is ticked.
    pub rows: Vec<WeekRow>,
    /// What is measured.
    pub numbers: Vec<WeekNumber>,
    /// Whether its level is read as a height.
    pub by_height: bool,
    /// Whether its pH is told between two colours.
    pub by_kit: bool,
    /// The scale of its meter.
    pub scale: EcScale,
    /// Whether that corrects for temperature by itself.
    pub compensated: bool,
    /// That people are in danger here: nothing is done here until an adult has seen to it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub danger: Option<String>,
    /// What makes it a suspect; nobody's hands go from it to another.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub suspect_why: Option<String>,
}

/// A week of a class.
#[derive(Debug, Serialize, ToSchema)]
pub struct WeekView {
    /// At which place.
    pub place: Uuid,
    /// What that is called.
    pub name: String,
    /// Its units.
    pub units: UnitSystem,
    /// From when to when, in words.
    pub span: String,
    /// The Monday of the week before, and of the week after.
    #[schema(value_type = Vec<String>)]
    pub beside: (Date, Date),
    /// Today there.
    #[schema(value_type = String, format = Date)]
    pub today: Date,
    /// Its open days.
    pub days: Vec<WeekDay>,
    /// Who shares in.
    pub hands: Vec<WeekHand>,
    /// Why nobody is named, in a sentence.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub nobody: Option<String>,
    /// Its systems, by name.
    pub systems: Vec<WeekSystem>,
}

/// What is remembered of who did what, in weeks.
const REMEMBERED: i64 = 8;

/// The moment from which what was done counts for the rota of a week.
pub fn remembered_from(pages: &Pages, place: Uuid, monday: Date) -> Result<Timestamp, Problem> {
    let place = pages.places.get(&place).ok_or_else(|| Problem::not_found("place with that id"))?;
    Ok(start_of(add_days(monday, -(REMEMBERED + 1) * 7), &place.zone))
}

/// A week of a class at a place. `logs` are the entries of its systems since [`remembered_from`].
///
/// # Errors
/// Not found.
pub fn week_view(
    pages: &Pages,
    id: Uuid,
    monday: Date,
    logs: &BTreeMap<Uuid, Vec<Entry>>,
    at: Timestamp,
    actor: &Actor,
) -> Result<WeekView, Problem> {
    let place = pages.places.get(&id).ok_or_else(|| Problem::not_found("place with that id"))?;
    let now = at.to_zoned(place.zone.clone());
    let (today, speaker, around) = (now.date(), of_place(place, actor), pages.around());
    let mut files: Vec<&SystemFile> =
        pages.every_system().filter(|file| file.place == id && !file.card.archived).collect();
    files.sort_by(|a, b| a.system.name.as_str().cmp(b.system.name.as_str()));
    let days: Vec<Date> = (0..7).map(|n| add_days(monday, n)).filter(|on| place.calendar.is_open(*on)).collect();
    let (people, hands) = hands(pages, id, monday, logs, &files);
    let mut jobs: Vec<Job> = Vec::new();
    let mut cells: Vec<(usize, usize, usize)> = Vec::new();
    let mut systems = Vec::new();
    for (n, file) in files.iter().enumerate() {
        let s = pages.situation(actor, file, place, &now, &around);
        let speaker = Speaker::new(pages.reader(actor, file, place));
        let rows = rows(&days, &s);
        for (r, row) in rows.iter().enumerate() {
            for (c, on) in days.iter().enumerate().filter(|(_, on)| row.due.contains(on)) {
                jobs.push(Job { on: *on, minutes: row.minutes });
                cells.push((n, r, c));
            }
        }
        systems.push(WeekSystem {
            id: file.card.id,
            name: file.system.name.as_str().to_owned(),
            kind_name: speaker.say(&file.system.kind.name()),
            rows: rows.iter().map(|one| row(one, &days, &speaker)).collect(),
            numbers: numbers(&s),
            by_height: file.system.reservoir.shape.height_of(file.system.reservoir.working).is_some(),
            by_kit: file.system.measuring.ph_by_kit(),
            scale: pages.meter(file).map(|meter| meter.scale).unwrap_or_default(),
            compensated: pages.meter(file).is_none_or(|meter| meter.compensated),
            danger: mopsel_core::care::follow_up::danger(&s).map(|why| speaker.say(&why)),
            suspect_why: mopsel_core::care::hygiene::mind(&s).map(|why| speaker.say(&why)),
        });
    }
    for ((n, r, c), who) in cells.into_iter().zip(share(&hands, &jobs, monday)) {
        systems[n].rows[r].cells[c].who = who.map(|who| people[who].0);
    }
    let nobody = match () {
        () if people.is_empty() => Some(say!("week.nobody")),
        () if days.is_empty() => Some(say!("week.closed")),
        () => None,
    };
    let date = |on: Date| on.strftime("%a %-d %b").to_string();
    let span = say!("week.span", from = date(monday), to = date(add_days(monday, 6)));
    Ok(WeekView {
        place: id,
        name: place.place.name.as_str().to_owned(),
        units: speaker.reader().units,
        span: speaker.say(&span),
        today,
        beside: (add_days(monday, -7), add_days(monday, 7)),
        days: days
            .iter()
            .map(|on| WeekDay { on: *on, said: on.strftime("%a %-d %b").to_string(), to_come: *on >= today })
            .collect(),
        hands: people
            .into_iter()
            .zip(&hands)
            .map(|((id, name), hand)| WeekHand {
                id,
                name,
                away: days.iter().filter(|on| hand.away.contains(on)).copied().collect(),
                did: hand.did.round() as u32,
            })
            .collect(),
        nobody: nobody.map(|why| speaker.say(&why)),
        systems,
    })
}

/// The children of a place, with what they did in the weeks before.
fn hands(
    pages: &Pages,
    place: Uuid,
    monday: Date,
    logs: &BTreeMap<Uuid, Vec<Entry>>,
    files: &[&SystemFile],
) -> (Vec<(Uuid, String)>, Vec<Hand>) {
    let zone = pages.places.get(&place).map_or(jiff::tz::TimeZone::UTC, |place| place.zone.clone());
    // A sheet is printed in the week before: what is done in that one does not change it any more.
    let until = start_of(add_days(monday, -7), &zone);
    let mut did: BTreeMap<Uuid, f64> = BTreeMap::new();
    for file in files {
        let entries = logs.get(&file.card.id).map_or(&[][..], Vec::as_slice);
        for entry in effective(entries).into_iter().filter(|entry| entry.at < until) {
            if let Body::Visit(visit) = &entry.body {
                *did.entry(entry.by).or_default() += usual_minutes(visit, file.history.at(entry.at));
            }
        }
    }
    let mut people: Vec<(Uuid, String, BTreeSet<Date>)> = pages
        .others
        .values()
        .filter(|card| card.parent == Some(place) && !card.archived)
        .filter_map(|card| match &card.card {
            Card::Person(person) if person.role == Role::Child => {
                let week = (0..7).map(|n| add_days(monday, n));
                let away =
                    week.filter(|on| person.away.iter().any(|span| (span.from..=span.to).contains(on))).collect();
                Some((card.id, person.name.as_str().to_owned(), away))
            }
            _ => None,
        })
        .collect();
    people.sort_by(|a, b| (&a.1, a.0).cmp(&(&b.1, b.0)));
    let hands =
        people.iter().map(|(id, _, away)| Hand { did: did.get(id).copied().unwrap_or(0.0), away: away.clone() });
    let hands = hands.collect();
    (people.into_iter().map(|(id, name, _)| (id, name)).collect(), hands)
}

fn row(row: &Row, days: &[Date], speaker: &Speaker) -> WeekRow {
    WeekRow {
        code: row.code.clone(),
        name: speaker.say(&row.name),
        doing: row.doing.as_ref().map(|doing| speaker.say(doing)).unwrap_or_default(),
        check: row.check,
        rule: row.rule,
        cells: days.iter().map(|on| WeekCell { on: *on, due: row.due.contains(on), who: None }).collect(),
    }
}

/// What is measured here.
fn numbers(s: &Situation<'_>) -> Vec<WeekNumber> {
    let (water, ec) = measures(s);
    let read = water.then_some([WeekNumber::Temperature, WeekNumber::Ph]);
    std::iter::once(WeekNumber::Level).chain(read.into_iter().flatten()).chain(ec.then_some(WeekNumber::Ec)).collect()
}

/// The systems of a place, for their logs.
pub fn systems_of(pages: &Pages, place: Uuid) -> Vec<Uuid> {
    let here = pages.every_system().filter(|file| file.place == place && !file.card.archived);
    here.map(|file| file.card.id).collect()
}

/// Today at a place.
///
/// # Errors
/// Not found.
pub fn today_at(pages: &Pages, place: Uuid, at: Timestamp) -> Result<Date, Problem> {
    let place = pages.places.get(&place).ok_or_else(|| Problem::not_found("place with that id"))?;
    Ok(local_date(at, &at.to_zoned(place.zone.clone())))
}
