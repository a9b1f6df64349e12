//! What an actor sees of the book: the places that they belong to, as if there were no others. And what an account or a
//! class may, by what stands in it.

use crate::book::Pages;
use mopsel_core::fact::card::{Card, Role};
use mopsel_core::fact::{Account, Actor, Grant, StoredCard};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::{Arc, Mutex, PoisonError};
use uuid::Uuid;

/// What is seen: which places, and whether as a class sees them.
type Sight = (BTreeSet<Uuid>, bool);

/// So many different sights are kept.
const MOST_SIGHTS: usize = 64;

/// The book as it is seen by those who do not see all of it, each until the next write.
#[derive(Debug, Default)]
pub struct Sights(Mutex<HashMap<Sight, Arc<Pages>>>);

impl Sights {
    /// Of the pages those of the places that an actor sees.
    pub fn of(&self, pages: Arc<Pages>, actor: &Actor) -> Arc<Pages> {
        let Some(grant) = actor.grant.as_ref().filter(|grant| !grant.owner) else { return pages };
        let places = grant.people.values().map(|(place, _)| *place).chain(grant.class.map(|(_, place)| place));
        let sight: Sight = (places.collect(), grant.class.is_some());
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(known) = kept.get(&sight).filter(|known| known.tick == pages.tick) {
            return Arc::clone(known);
        }
        if kept.len() >= MOST_SIGHTS {
            kept.clear();
        }
        let narrow = Arc::new(pages.of_places(&sight.0, sight.1));
        kept.insert(sight, Arc::clone(&narrow));
        narrow
    }
}

impl Pages {
    /// Of these pages those of some places, as if there were no others; for a class, as if there were no adults. What is
    /// learnt of products is everybody's.
    fn of_places(&self, sight: &BTreeSet<Uuid>, class: bool) -> Self {
        let adult = |card: &StoredCard| matches!(&card.card, Card::Person(person) if person.role != Role::Child);
        let of = |card: &StoredCard| card.parent.is_none_or(|place| sight.contains(&place)) && !(class && adult(card));
        let held = |parent: Option<Uuid>| parent.is_some_and(|place| sight.contains(&place));
        let kept = |all: &BTreeMap<Uuid, Arc<StoredCard>>| {
            let some = all.iter().filter(|(_, card)| of(card));
            some.map(|(id, card)| (*id, Arc::clone(card))).collect()
        };
        let places = self.places.iter().filter(|(id, _)| sight.contains(id));
        let systems = self.systems.iter().filter(|(_, file)| held(Some(file.place)));
        let mut pages = Self {
            tick: self.tick,
            places: places.map(|(id, place)| (*id, Arc::clone(place))).collect(),
            systems: systems.map(|(id, file)| (*id, Arc::clone(file))).collect(),
            others: kept(&self.others),
            accounts: self.accounts.clone(),
            any_account: self.any_account,
            shelf: Arc::clone(&self.shelf),
            ahead: self.ahead.clone(),
            ..Self::default()
        };
        pages.call();
        pages
    }

    /// What an account may, by what stands now.
    #[must_use]
    pub fn grant(&self, account: &Account) -> Grant {
        let held = |id: &Uuid| {
            let (person, place) = self.person(*id)?;
            let here = !self.others.get(id)?.archived;
            here.then_some((*id, (place, person.role)))
        };
        let people = account.people.iter().filter_map(held).collect();
        Grant { account: account.id, owner: account.owner, people, class: None }
    }

    /// What a device of a class may: whoever records on it is one of the children of the room.
    #[must_use]
    pub fn class_grant(&self, (class, place): (Uuid, Uuid)) -> Grant {
        let here = self.every_other().filter(|card| card.parent == Some(place) && !card.archived);
        let child = |card: &StoredCard| {
            let Card::Person(person) = &card.card else { return None };
            (person.role == Role::Child).then_some((card.id, (place, Role::Child)))
        };
        Grant { people: here.filter_map(child).collect(), class: Some((class, place)), ..Grant::default() }
    }
}
