//! The story of a planting.

use super::{Acting, Id, now};
use crate::actor::Who;
use crate::book::{Book, Pages, SystemFile};
use crate::problem::ProblemSaid;
use crate::view::{Stood, StoryView, story_view};
use crate::{Clock, Problem};
use actix_web::web;
use jiff::Timestamp;
use mopsel_core::calendar::start_of;
use mopsel_core::crop::Origin;
use mopsel_core::fact::card::Card;
use uuid::Uuid;

/// The story of a planting, from planting on to its last harvest: stages, water, feed, cases, harvest.
#[utoipa::path(get, path = "/api/plantings/{id}/story", params(("id" = Uuid, Path), Acting), responses((status = 200, body = StoryView), (status = 404, body = ProblemSaid)))]
pub async fn read_story(
    id: Id,
    Who(actor): Who,
    book: web::Data<Book>,
    clock: web::Data<Clock>,
) -> Result<web::Json<StoryView>, Problem> {
    let mut parts: Vec<Stood> = Vec::new();
    let mut next = Some((id.0, None));
    // What was moved goes on from where it stood before; a cutting begins anew.
    while let Some((planting, until)) = next.filter(|_| parts.len() < MOST_CHAPTERS) {
        let found = planted(&*book.as_opened(&actor).await, planting);
        let Planted { system, from, came } = match found {
            // The system that it came from may be gone.
            Err(_) if !parts.is_empty() => break,
            found => found?,
        };
        let entries = book.store().entries_since(system, from).await?;
        parts.push(Stood { system, planting, until, entries });
        next = came.filter(|came| !came.cutting).map(|came| (came.planting, Some(from)));
    }
    let pages = book.as_opened(&actor).await;
    Ok(web::Json(story_view(&pages, &parts, now(&clock), &actor)?))
}

/// No plant is moved more often.
const MOST_CHAPTERS: usize = 20;

/// Where a planting stands.
struct Planted {
    system: Uuid,
    /// When it was planted on there.
    from: Timestamp,
    came: Option<Origin>,
}

/// Where a planting stands, since when, and where it came from.
fn planted(pages: &Pages, planting: Uuid) -> Result<Planted, Problem> {
    let here = |file: &SystemFile| {
        let card = file.planting_cards.iter().find(|card| card.id == planting)?;
        let Card::Planting(planting) = &card.card else { return None };
        let zone = &pages.places.get(&file.place)?.zone;
        Some(Planted { system: file.card.id, from: start_of(planting.planted_on, zone), came: planting.came })
    };
    pages.every_system().find_map(here).ok_or_else(|| Problem::not_found("planting with that id"))
}
