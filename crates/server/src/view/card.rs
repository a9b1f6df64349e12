//! Cards, and places with what hangs on them.

use crate::book::Pages;
use mopsel_core::fact::card::{Card, Role};
use mopsel_core::fact::{Act, Actor, Holds, StoredCard};
use serde::Serialize;
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
    /// From when its last edit holds.
    pub holds: Holds,
    /// What it says.
    pub body: Card,
}

impl From<&StoredCard> for CardView {
    fn from(stored: &StoredCard) -> Self {
        Self {
            id: stored.id,
            parent: stored.parent,
            version: stored.version,
            archived: stored.archived,
            holds: stored.holds,
            body: stored.card.clone(),
        }
    }
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

/// The people of a place, those put away among them.
pub fn people_of(pages: &Pages, place: Uuid) -> Vec<CardView> {
    let people = pages.every_other().filter(|card| card.parent == Some(place));
    people.filter(|card| matches!(card.card, Card::Person(_))).map(CardView::from).collect()
}

/// The same for an actor: the secret in the address of a calendar is for whoever it belongs to, and for those who decide
/// over people.
pub fn people_for(pages: &Pages, place: Uuid, actor: &Actor) -> Vec<CardView> {
    let mut people = people_of(pages, place);
    if actor.grant.is_some() && actor.may(Act::People, Some(place)).is_err() {
        for card in people.iter_mut().filter(|card| Some(card.id) != actor.person) {
            if let Card::Person(person) = &mut card.body {
                person.feed = None;
            }
        }
    }
    people
}

/// Whether children help at a place.
pub fn children_at(pages: &Pages, place: Uuid) -> bool {
    let mut here = pages.every_other().filter(|card| card.parent == Some(place) && !card.archived);
    here.any(|card| matches!(&card.card, Card::Person(person) if person.role == Role::Child))
}

/// Every place, those put away among them.
pub fn places(pages: &Pages, actor: &Actor) -> Vec<PlaceView> {
    let view = |id: Uuid, card: &StoredCard| {
        let meters = pages.every_other().filter(|card| card.parent == Some(id));
        let systems = pages.every_system().filter(|system| system.place == id);
        let mut systems: Vec<CardView> = systems.map(|system| CardView::from(&system.card)).collect();
        systems.sort_by(|a, b| a.body.name().cmp(b.body.name()));
        PlaceView {
            card: CardView::from(card),
            people: people_for(pages, id, actor),
            meters: meters.filter(|card| matches!(card.card, Card::Meter(_))).map(CardView::from).collect(),
            systems,
        }
    };
    let mut views: Vec<PlaceView> = pages.places.iter().map(|(id, place)| view(*id, &place.card)).collect();
    views.sort_by(|a, b| a.card.body.name().cmp(b.card.body.name()));
    views
}
