//! The weeks ahead of a place: a strip for each system, what each day costs, and what could be moved.

use super::cover::of_place;
use crate::Problem;
use crate::book::{Pages, SystemFile};
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::calendar::add_days;
use mopsel_core::care::ahead::{Coming, ahead, looks_together, offers};
use mopsel_core::care::routine::interval;
use mopsel_core::fact::Actor;
use mopsel_core::quantity::{Litres, UnitSystem};
use mopsel_core::situation::Situation;
use mopsel_core::system::Check;
use mopsel_core::words::Speaker;
use serde::Serialize;
use std::borrow::Cow;
use utoipa::ToSchema;
use uuid::Uuid;

/// A day to come, and what it costs.
#[derive(Debug, Serialize, ToSchema)]
pub struct AheadDay {
    /// Which.
    #[schema(value_type = String, format = Date)]
    pub on: Date,
    /// The same in words.
    pub said: String,
    /// Whether somebody comes on it.
    pub open: bool,
    /// Minutes that all of it usually takes, look-ins among them.
    pub minutes: u32,
    /// Litres that are poured.
    pub litres: Litres,
}

/// The strip of one system.
#[derive(Debug, Serialize, ToSchema)]
pub struct AheadSystem {
    /// Which.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// What falls on which day.
    pub coming: Vec<Coming<String>>,
}

/// A heavy job that could be done on another day.
#[derive(Debug, Serialize, ToSchema)]
pub struct AheadOffer {
    /// At which system.
    pub system: Uuid,
    /// The code of its task.
    pub code: Cow<'static, str>,
    /// The day on which it is due.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// The day that is offered.
    #[schema(value_type = String, format = Date)]
    pub to: Date,
    /// In a sentence.
    pub said: String,
}

/// The weeks ahead of a place.
#[derive(Debug, Serialize, ToSchema)]
pub struct AheadView {
    /// Which place.
    pub place: Uuid,
    /// What it is called.
    pub name: String,
    /// Its units.
    pub units: UnitSystem,
    /// The days, from today on.
    pub days: Vec<AheadDay>,
    /// Its systems, by name.
    pub systems: Vec<AheadSystem>,
    /// What could be moved, so that two heavy jobs do not fall on one day.
    pub offers: Vec<AheadOffer>,
    /// Whether a child reads it.
    pub child: bool,
}

/// The weeks ahead of a place.
///
/// # Errors
/// Not found.
pub fn ahead_view(pages: &Pages, id: Uuid, days: u16, at: Timestamp, actor: &Actor) -> Result<AheadView, Problem> {
    let place = pages.places.get(&id).ok_or_else(|| Problem::not_found("place with that id"))?;
    let now = at.to_zoned(place.zone.clone());
    let (today, speaker, around) = (now.date(), of_place(place, actor), pages.around());
    let mut files: Vec<&SystemFile> =
        pages.every_system().filter(|file| file.place == id && !file.card.archived).collect();
    files.sort_by(|a, b| a.system.name.as_str().cmp(b.system.name.as_str()));
    let situations: Vec<Situation<'_>> =
        files.iter().map(|file| pages.situation(actor, file, place, &now, &around)).collect();
    let looks = situations.iter().filter(|s| interval(Check::LookIn, s).is_some()).count();
    let look_minutes = u32::from(Check::LookIn.facts().minutes) * u32::try_from(looks).unwrap_or(u32::MAX);
    let all: Vec<(&str, Vec<Coming>)> =
        files.iter().zip(&situations).map(|(file, s)| (file.system.name.as_str(), ahead(days, s))).collect();
    let day = |n: u16| {
        let on = add_days(today, n.into());
        let falls = || all.iter().flat_map(|(_, list)| list.iter().filter(|one| one.on == on));
        let open = place.calendar.is_open(on);
        let minutes: u32 = falls().map(|one| u32::from(one.minutes)).sum();
        let litres = falls().map(|one| one.litres).sum();
        let minutes = if open { minutes + look_minutes } else { minutes };
        AheadDay { on, said: speaker.day(on, today), open, minutes, litres }
    };
    let offers = if actor.is_child() { Vec::new() } else { offers(&all, &place.calendar, today) };
    Ok(AheadView {
        place: id,
        name: place.place.name.as_str().to_owned(),
        units: speaker.reader().units,
        days: (0..days).map(day).collect(),
        offers: offers
            .into_iter()
            .map(|offer| AheadOffer {
                system: files[offer.at].card.id,
                said: speaker.say(&offer.said),
                code: offer.code,
                from: offer.from,
                to: offer.to,
            })
            .collect(),
        systems: files
            .iter()
            .zip(all)
            .map(|(file, (name, list))| {
                let speaker = Speaker::new(pages.reader(actor, file, place));
                let say = |message| speaker.say(&message);
                let coming = looks_together(list).into_iter().map(|one| one.map(&say)).collect();
                AheadSystem { id: file.card.id, name: name.to_owned(), coming }
            })
            .collect(),
        child: actor.is_child(),
    })
}
