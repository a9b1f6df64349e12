//! The open book: all cards and folded states, held in memory and brought up to date from the file
//! before every use. It reads only what changed since it last looked, so a round over hundreds of
//! systems costs no more for years of log than for weeks. Nothing lives here alone: closing the
//! program loses nothing.

use crate::Problem;
use jiff::{Timestamp, Zoned, tz::TimeZone};
use mopsel_core::calendar::Calendar;
use mopsel_core::card::{Card, Meter, Person, Place};
use mopsel_core::care::{Check, Situation};
use mopsel_core::crop::Planting;
use mopsel_core::log::State;
use mopsel_core::mixing::{BatchPoint, Learnt, Product, Recipe, learnt_rise, products, recipes};
use mopsel_core::quantity::Wording;
use mopsel_core::system::System;
use mopsel_store::{Changes, Store, StoredCard};
use std::collections::BTreeMap;
use tokio::sync::{RwLock, RwLockReadGuard};
use uuid::Uuid;

/// A place with what hangs on it.
#[derive(Debug)]
pub struct PlaceFile {
    /// The card.
    pub card: StoredCard,
    /// What it says.
    pub place: Place,
    /// Its zone, looked up.
    pub zone: TimeZone,
    /// Its open days.
    pub calendar: Calendar,
}

/// A system with what hangs on it.
#[derive(Debug)]
pub struct SystemFile {
    /// The card.
    pub card: StoredCard,
    /// What it says.
    pub system: System,
    /// Its place.
    pub place: Uuid,
    /// What grows in it, without what was put away.
    pub plantings: Vec<Planting>,
    /// The cards of its plantings, those put away among them.
    pub planting_cards: Vec<StoredCard>,
    /// Its state.
    pub state: State,
}

/// Everything, as it stands.
#[derive(Debug, Default)]
pub struct Pages {
    tick: i64,
    /// Places by id.
    pub places: BTreeMap<Uuid, PlaceFile>,
    /// Systems by id.
    pub systems: BTreeMap<Uuid, SystemFile>,
    /// People, meters, products and recipes by id.
    pub others: BTreeMap<Uuid, StoredCard>,
    /// What stands on the shelf.
    pub shelf: ShelfPages,
}

/// Products and recipes, shipped and own, with what was learnt of them.
#[derive(Debug, Default)]
pub struct ShelfPages {
    /// Products by id, without what was put away.
    pub products: BTreeMap<Uuid, Product>,
    /// Recipes by id, without what was put away.
    pub recipes: BTreeMap<Uuid, Recipe>,
    /// EC rises learnt from the batches of all systems.
    pub learnt: BTreeMap<Uuid, Learnt>,
}

impl ShelfPages {
    fn of(pages: &Pages) -> Self {
        let own = || pages.others.values().filter(|stored| !stored.archived);
        let own_products = own().filter_map(|stored| if let Card::Product(product) = &stored.card { Some((stored.id, product.clone())) } else { None });
        let own_recipes = own().filter_map(|stored| if let Card::Recipe(recipe) = &stored.card { Some((stored.id, recipe.clone())) } else { None });
        let products: BTreeMap<Uuid, Product> = products().iter().cloned().chain(own_products).collect();
        let recipes = recipes().iter().cloned().chain(own_recipes).collect();
        let batches: Vec<&BatchPoint> = pages.systems.values().flat_map(|file| &file.state.batches).collect();
        let given = |id: Uuid| products.get(&id).and_then(|product| product.rise);
        let learnt = products.keys().filter_map(|id| Some((*id, learnt_rise(*id, &batches, given)?))).collect();
        Self { products, recipes, learnt }
    }
}

/// The book over a store.
#[derive(Debug)]
pub struct Book {
    store: Store,
    pages: RwLock<Pages>,
}

impl Book {
    /// A book over a store; empty until it is first opened.
    #[must_use]
    pub fn new(store: Store) -> Self {
        let mut pages = Pages::default();
        pages.shelf = ShelfPages::of(&pages);
        Self { store, pages: RwLock::new(pages) }
    }

    /// The store beneath.
    #[must_use]
    pub fn store(&self) -> &Store {
        &self.store
    }

    /// The pages, up to date.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn open(&self) -> Result<RwLockReadGuard<'_, Pages>, Problem> {
        let seen = self.pages.read().await.tick;
        let changes = self.store.changes_since(seen).await?;
        if changes.tick != seen {
            let mut pages = self.pages.write().await;
            if changes.tick > pages.tick {
                pages.take_in(changes)?;
            }
        }
        Ok(self.pages.read().await)
    }
}

impl Pages {
    fn take_in(&mut self, changes: Changes) -> Result<(), Problem> {
        let mut cards = changes.cards;
        cards.sort_by_key(|card| match card.card {
            Card::Place(_) => 0,
            Card::Person(_) | Card::Meter(_) | Card::Product(_) | Card::Recipe(_) => 1,
            Card::System(_) => 2,
            Card::Planting(_) => 3,
        });
        for card in cards {
            self.take_card(card)?;
        }
        for (system, state) in changes.states {
            if let Some(file) = self.systems.get_mut(&system) {
                file.state = state;
            }
        }
        self.tick = changes.tick;
        self.shelf = ShelfPages::of(self);
        Ok(())
    }

    fn take_card(&mut self, stored: StoredCard) -> Result<(), Problem> {
        match &stored.card {
            Card::Place(place) => {
                let file = PlaceFile { zone: place.time_zone()?, calendar: place.calendar()?, place: place.clone(), card: stored.clone() };
                self.places.insert(stored.id, file);
            }
            Card::Person(_) | Card::Meter(_) | Card::Product(_) | Card::Recipe(_) => {
                self.others.insert(stored.id, stored);
            }
            Card::System(system) => {
                let place = stored.parent.unwrap_or_default();
                let before = self.systems.remove(&stored.id);
                let (plantings, planting_cards, state) = before.map(|b| (b.plantings, b.planting_cards, b.state)).unwrap_or_default();
                self.systems.insert(stored.id, SystemFile { system: system.clone(), place, plantings, planting_cards, state, card: stored });
            }
            Card::Planting(_) => {
                if let Some(file) = stored.parent.and_then(|parent| self.systems.get_mut(&parent)) {
                    file.planting_cards.retain(|card| card.id != stored.id);
                    file.planting_cards.push(stored);
                    file.planting_cards.sort_by_key(|card| card.id);
                    file.plantings =
                        file.planting_cards.iter().filter(|c| !c.archived).filter_map(|c| if let Card::Planting(p) = &c.card { Some(p.clone()) } else { None }).collect();
                }
            }
        }
        Ok(())
    }

    /// A system by its id.
    ///
    /// # Errors
    /// Not found.
    pub fn system(&self, id: Uuid) -> Result<&SystemFile, Problem> {
        self.systems.get(&id).ok_or_else(|| Problem::not_found("system with that id"))
    }

    /// The place of a system.
    ///
    /// # Errors
    /// Not found.
    pub fn place_of(&self, file: &SystemFile) -> Result<&PlaceFile, Problem> {
        self.places.get(&file.place).ok_or_else(|| Problem::not_found("place with that id"))
    }

    /// A person by their id, with the place they belong to.
    #[must_use]
    pub fn person(&self, id: Uuid) -> Option<(&Person, Uuid)> {
        self.others.get(&id).and_then(|stored| if let (Card::Person(person), Some(place)) = (&stored.card, stored.parent) { Some((person, place)) } else { None })
    }

    /// The meter that a system is measured with.
    #[must_use]
    pub fn meter(&self, file: &SystemFile) -> Option<&Meter> {
        let stored = self.others.get(&file.system.meter?)?;
        if let Card::Meter(meter) = &stored.card { Some(meter) } else { None }
    }

    /// When each meter was last calibrated, at whichever system.
    #[must_use]
    pub fn calibrations(&self) -> BTreeMap<Uuid, Timestamp> {
        let mut last: BTreeMap<Uuid, Timestamp> = BTreeMap::new();
        for file in self.systems.values() {
            if let (Some(meter), Some(at)) = (file.system.meter, file.state.done.get(&Check::Calibrate)) {
                let known = last.entry(meter).or_insert(*at);
                *known = (*known).max(*at);
            }
        }
        last
    }

    /// The units and scale in which a system is spoken of.
    #[must_use]
    pub fn wording(&self, file: &SystemFile, place: &PlaceFile) -> Wording {
        self.wording_for(None, file, place)
    }

    /// The same for one reader, who may have units of their own.
    #[must_use]
    pub fn wording_for(&self, reader: Option<Uuid>, file: &SystemFile, place: &PlaceFile) -> Wording {
        let person = reader.and_then(|id| self.person(id)).map(|(person, _)| person);
        Wording {
            units: person.and_then(|person| person.units).unwrap_or(place.place.units),
            ec: person.and_then(|person| person.ec_scale).unwrap_or_else(|| self.meter(file).map(|meter| meter.scale).unwrap_or_default()),
        }
    }

    /// All that the rules look at, for one system and one reader.
    #[must_use]
    pub fn situation<'a>(&'a self, reader: Option<Uuid>, file: &'a SystemFile, place: &'a PlaceFile, now: &'a Zoned, calibrations: &BTreeMap<Uuid, Timestamp>) -> Situation<'a> {
        let own = file.state.done.get(&Check::Calibrate).copied();
        Situation {
            system: &file.system,
            plantings: &file.plantings,
            state: &file.state,
            calendar: &place.calendar,
            now,
            wording: self.wording_for(reader, file, place),
            calibrated: file.system.meter.and_then(|meter| calibrations.get(&meter).copied()).max(own),
        }
    }
}
