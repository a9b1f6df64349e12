//! A person's calendar (RFC 5545): what is due at their place, a whole day each, under an address of their own.
//!
//! Each task is one event for as long as it is asked for, under one UID: when its day moves, the event moves; when it is
//! done, its next day takes its place, and what is not asked for any more is not in the calendar. Days move by what is
//! recorded, by an edited card, and by the day that it is: SEQUENCE grows with each of the three, and never falls.

use crate::Problem;
use crate::book::{Pages, PlaceFile};
use icalendar::{Calendar, Component, Event, Property};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use mopsel_core::calendar::start_of;
use mopsel_core::care::look::lines;
use mopsel_core::care::{Standing, tasks};
use mopsel_core::fact::Actor;
use mopsel_core::fact::card::Card;
use mopsel_core::verdict::Rank;
use mopsel_core::words::Speaker;
use uuid::Uuid;

/// Tasks are told so far ahead, in days.
const AHEAD: i32 = 60;

/// The calendar with a secret, as of a moment.
///
/// # Errors
/// Not found, where nobody has it, or who had it was put away.
pub fn calendar(pages: &Pages, secret: Uuid, at: Timestamp) -> Result<String, Problem> {
    let whose = |stored: &&mopsel_core::fact::StoredCard| {
        matches!(&stored.card, Card::Person(person) if person.feed == Some(secret)) && !stored.archived
    };
    let nobody = || Problem::not_found("calendar at that address");
    let stored = pages.every_other().find(whose).ok_or_else(nobody)?;
    let (Card::Person(person), Some(place_id)) = (&stored.card, stored.parent) else { return Err(nobody()) };
    let place = pages.places.get(&place_id).filter(|place| !place.card.archived).ok_or_else(nobody)?;
    of_place(pages, place, &Actor::new(stored.id, person.role, place_id), at)
}

/// What is due at a place, as somebody is told it.
///
/// # Errors
/// Not found.
pub fn of_place(pages: &Pages, place: &PlaceFile, actor: &Actor, at: Timestamp) -> Result<String, Problem> {
    let place_id = place.card.id;
    let (now, around) = (at.to_zoned(place.zone.clone()), pages.around());
    // Both only ever grow: what was written so far, and the day.
    let sequence = pages.tick() + at.as_second() / 86_400;
    let stamp = |at: Timestamp| at.to_zoned(TimeZone::UTC).strftime("%Y%m%dT%H%M%SZ").to_string();
    let mut calendar = Calendar::new();
    calendar.name(&format!("Mopsel: {}", place.place.name.as_str()));
    calendar.append_property(("REFRESH-INTERVAL;VALUE=DURATION", "PT1H"));
    for file in pages.every_system().filter(|file| file.place == place_id && !file.card.archived) {
        let situation = pages.situation(actor, file, place, &now, &around);
        let speaker = Speaker::new(pages.reader(actor, file, place));
        let recorded = file.known.done.last_at.unwrap_or(Timestamp::UNIX_EPOCH);
        let changed = recorded.max(start_of(now.date(), &place.zone));
        for task in lines(tasks(&situation), &situation).into_iter().filter(|task| -task.days_late <= AHEAD) {
            let on = if task.standing == Standing::Late { situation.today() } else { task.due_on };
            let day = |date: jiff::civil::Date| date.strftime("%Y%m%d").to_string();
            let whole = |name: &str, date| Property::new(name, day(date)).add_parameter("VALUE", "DATE").done();
            let mut event = Event::new();
            event
                .uid(&format!("{}.{}@mopsel", file.card.id, task.code))
                .summary(&format!("{}: {}", file.system.name.as_str(), speaker.say(&task.name)))
                .description(&format!("{} {}", speaker.say(&task.reason), speaker.say(&task.safe)))
                .append_property(whole("DTSTART", on))
                .append_property(whole("DTEND", mopsel_core::calendar::add_days(on, 1)))
                .add_property("DTSTAMP", stamp(at))
                .add_property("LAST-MODIFIED", stamp(changed))
                .add_property("SEQUENCE", sequence.to_string())
                .add_property("TRANSP", "TRANSPARENT")
                .add_property("PRIORITY", priority(task.rank));
            calendar.push(event.done());
        }
    }
    Ok(calendar.done().to_string())
}

/// How a rank is told to a calendar: 1 comes first, 0 is left to whoever reads it.
fn priority(rank: Rank) -> &'static str {
    match rank {
        Rank::People => "1",
        Rank::Hours => "2",
        Rank::Days => "4",
        Rank::Routine => "0",
    }
}
