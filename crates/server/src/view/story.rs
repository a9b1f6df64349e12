//! The story of a planting, through every system that it stood in.

use crate::Problem;
use crate::book::{Pages, SystemFile};
use jiff::Timestamp;
use mopsel_core::calendar::{day, start_of};
use mopsel_core::crop::Planting;
use mopsel_core::fact::{Actor, Entry, Timeline};
use mopsel_core::message::Message;
use mopsel_core::mixing::Product;
use mopsel_core::say;
use mopsel_core::story::{Story, story};
use mopsel_core::words::Speaker;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// The story of a planting, with where it stood.
#[derive(Debug, Serialize, ToSchema)]
pub struct StoryView {
    /// The system that it stood in.
    pub system: Uuid,
    /// What that is called.
    pub system_name: String,
    /// The story.
    pub story: Story<String>,
    /// From where it came, where it was moved here or cut.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub came: Option<Elsewhere>,
    /// Where plants of it went, and its cuttings.
    pub went: Vec<Elsewhere>,
    /// How it stood elsewhere before, the latest first.
    pub before: Vec<Chapter>,
}

/// Another planting that this one came from, or became.
#[derive(Debug, Serialize, ToSchema)]
pub struct Elsewhere {
    /// Which.
    pub planting: Uuid,
    /// How, where and when.
    pub said: String,
}

/// An earlier part of a story, in another system.
#[derive(Debug, Serialize, ToSchema)]
pub struct Chapter {
    /// The system.
    pub system: Uuid,
    /// What that is called.
    pub system_name: String,
    /// What happened there until it was moved.
    pub story: Story<String>,
}

/// A planting in its system, with the system's log since it stood there.
#[derive(Debug)]
pub struct Stood {
    /// The system.
    pub system: Uuid,
    /// The planting.
    pub planting: Uuid,
    /// Until when it is told of; to its end when absent.
    pub until: Option<Timestamp>,
    /// The log.
    pub entries: Vec<Entry>,
}

/// The story of a planting, with the parts of it that lie in other systems, the latest first.
///
/// # Errors
/// Not found.
pub fn story_view(pages: &Pages, parts: &[Stood], at: Timestamp, actor: &Actor) -> Result<StoryView, Problem> {
    let Some((here, earlier)) = parts.split_first() else { return Err(Problem::not_found("planting with that id")) };
    let before = earlier.iter().map(|stood| chapter(pages, stood, at, actor)).collect::<Result<_, _>>()?;
    let Chapter { system, system_name, story } = chapter(pages, here, at, actor)?;
    let file = pages.system(system)?;
    let place = pages.place_of(file)?;
    let speaker = Speaker::new(pages.reader(actor, file, place));
    let today = at.to_zoned(place.zone.clone()).date();
    let said = |message: Message| speaker.say(&message);
    let came = planting_of(file, here.planting).and_then(|planting| Some((planting, planting.came?)));
    let came = came.map(|(planting, came)| {
        let name = pages.system(came.system).map_or("", |from| from.system.name.as_str());
        let on = day(planting.planted_on, today);
        Elsewhere {
            planting: came.planting,
            said: said(if came.cutting {
                say!("story.came_cutting", name = name, day = on)
            } else {
                say!("story.came_moved", name = name, day = on, since = day(came.grown_since, today))
            }),
        }
    });
    let mut went = Vec::new();
    for to in pages.every_system() {
        for (id, timeline) in to.planting_ids.iter().zip(&to.planted) {
            let planting = timeline.now();
            let Some(from) = planting.came.filter(|came| came.planting == here.planting) else { continue };
            // What was taken back never stood there.
            if timeline.archived_at(start_of(planting.planted_on, &place.zone)) {
                continue;
            }
            let (name, on) = (to.system.name.as_str(), day(planting.planted_on, today));
            let told = if from.cutting {
                say!("story.went_cutting", name = name, day = on)
            } else {
                say!("story.went_moved", ports = planting.ports.say(), name = name, day = on)
            };
            went.push((planting.planted_on, Elsewhere { planting: *id, said: said(told) }));
        }
    }
    went.sort_by_key(|(on, _)| *on);
    let went = went.into_iter().map(|(_, one)| one).collect();
    Ok(StoryView { system, system_name, story, came, went, before })
}

fn planting_of(file: &SystemFile, id: Uuid) -> Option<&Planting> {
    let at = file.planting_ids.iter().position(|one| *one == id)?;
    file.planted.get(at).map(Timeline::now)
}

fn chapter(pages: &Pages, stood: &Stood, at: Timestamp, actor: &Actor) -> Result<Chapter, Problem> {
    let file = pages.system(stood.system)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    let s = pages.situation(actor, file, place, &now, &around);
    let speaker = Speaker::new(pages.reader(actor, file, place));
    let at = file.planting_ids.iter().position(|id| *id == stood.planting);
    let timeline = at.and_then(|at| file.planted.get(at)).ok_or_else(|| Problem::not_found("planting with that id"))?;
    let priced = |(id, product): (&Uuid, &Product)| Some((*id, product.price.clone()?));
    let prices = pages.shelf.products.iter().filter_map(priced).collect();
    let story = story(stood.planting, timeline, &stood.entries, &prices, stood.until, &s);
    let story = story.map(&|message| speaker.say(&message));
    Ok(Chapter { system: stood.system, system_name: file.system.name.as_str().to_owned(), story })
}
