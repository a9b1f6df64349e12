//! A file with a place, a person and a system, and what is done with it.
use jiff::{SignedDuration, Timestamp};
use mopsel_core::calendar::Weekday;
use mopsel_core::fact::card::{Card, Person, Place, Role};
use mopsel_core::fact::{Actor, Body, Holds, LoggedEntry, NewCard, StoredCard, TopOff, TopOffWater, Visit};
use mopsel_core::gate::{Command, NewEntry};
use mopsel_core::quantity::{Conductivity, Litres, Name, Note, UnitSystem};
use mopsel_core::reservoir::{LevelReading, Reservoir, Shape};
use mopsel_core::system::{Kind, Measuring, System};
use mopsel_store::{Outcome, Store, StoreError};
use std::collections::BTreeMap;
use std::path::PathBuf;
use tempfile::TempDir;
use uuid::Uuid;

pub struct Fixture {
    pub store: Store,
    pub folder: TempDir,
    pub place: Uuid,
    pub person: Uuid,
    pub system_id: Uuid,
}

pub fn now() -> Timestamp {
    "2027-03-09T08:30:00Z".parse().unwrap()
}

pub fn litres(value: f64) -> Litres {
    Litres::new(value).unwrap()
}

pub fn vessel(rim: f64) -> Reservoir {
    Reservoir::suggested(Shape::Stated { litres: litres(rim) }, Litres::ZERO)
}

pub fn row(name: &str) -> System {
    let kind = Kind::BucketChain;
    System {
        name: Name::new(name).unwrap(),
        kind,
        traits: kind.facts().traits,
        reservoir: vessel(140.0),
        ports: 6,
        measuring: Measuring::Meter,
        meter: None,
        refill: kind.facts().refill,
        change_days: 14,
        source_ec: Conductivity::new(0.3).unwrap(),
        methods: Default::default(),
        ec_band: None,
        ph_band: None,
        intervals: BTreeMap::new(),
        slacks: BTreeMap::new(),
        rules: vec![],
        equipment: vec![],
        drum: None,
        drum_of: None,
        drum_share: None,
        feeding: None,
        turn: None,
        since: "2027-01-01".parse().unwrap(),
        note: None,
    }
}

pub fn person(name: &str, role: Role) -> Card {
    Card::Person(Person {
        name: Name::new(name).unwrap(),
        role,
        units: None,
        ec_scale: None,
        lifts_kg: None,
        feed: None,
        away: vec![],
    })
}

/// Someone who sets up, before anybody was picked.
pub fn anybody() -> Actor {
    Actor::default()
}

impl Fixture {
    pub async fn new() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("mopsel.db")).await.unwrap();
        let (place, person_id, system_id) = (Uuid::now_v7(), Uuid::now_v7(), Uuid::now_v7());
        let system = row("Bucket row");
        let home = Place {
            closures: vec![],
            name: Name::new("Long Acre polytunnel").unwrap(),
            zone: "Europe/London".into(),
            open_days: Weekday::ALL.to_vec(),
            units: UnitSystem::Us,
            containers: vec![],
            tools: vec![],
        };
        let fixture = Self { store, folder, place, person: person_id, system_id };
        fixture.make(place, None, Card::Place(home)).await.unwrap();
        fixture.make(person_id, Some(place), person("Wren", Role::Caretaker)).await.unwrap();
        fixture.make(system_id, Some(place), Card::System(system)).await.unwrap();
        fixture
    }

    pub fn file(&self) -> PathBuf {
        self.folder.path().join("mopsel.db")
    }

    /// The caretaker of the place.
    pub fn wren(&self) -> Actor {
        Actor::new(self.person, Role::Caretaker, self.place)
    }

    pub async fn submit(&self, command: &Command) -> Result<Outcome, StoreError> {
        self.store.submit(command, &self.wren(), now()).await
    }

    pub async fn make(&self, id: Uuid, parent: Option<Uuid>, card: Card) -> Result<StoredCard, StoreError> {
        let command = Command::MakeCard(Box::new(NewCard { id, parent, card }));
        match self.store.submit(&command, &anybody(), now()).await? {
            Outcome::Card(card) => Ok(*card),
            other => panic!("{other:?}"),
        }
    }

    /// Edits a card from the version that was seen.
    pub async fn edit(
        &self,
        id: Uuid,
        version: i64,
        card: Option<Card>,
        holds: Option<Holds>,
    ) -> Result<StoredCard, StoreError> {
        let card = card.map(Box::new);
        match self.submit(&Command::EditCard { id, version, card, archived: None, holds }).await? {
            Outcome::Card(card) => Ok(*card),
            other => panic!("{other:?}"),
        }
    }

    pub async fn put_away(&self, id: Uuid, version: i64) {
        let command = Command::EditCard { id, version, card: None, archived: Some(true), holds: None };
        self.submit(&command).await.unwrap();
    }

    pub fn visit(&self, hours: i64, read: f64) -> NewEntry {
        let visit = Visit {
            level: Some(LevelReading::Volume { litres: litres(read), pump_ran: true }),
            top_off: Some(TopOff { litres: litres(3.3), water: TopOffWater::Plain }),
            ..Visit::default()
        };
        NewEntry {
            id: Uuid::now_v7(),
            at: Some(now() - SignedDuration::from_hours(hours)),
            body: Body::Visit(visit),
            amends: None,
            reason: None,
            closes: None,
            saved: None,
        }
    }

    pub async fn append(&self, new: &NewEntry) -> Result<(LoggedEntry, bool), StoreError> {
        match self.submit(&Command::Add(self.system_id, Box::new(new.clone()))).await? {
            Outcome::Entry(entry, repeated) => Ok((*entry, repeated)),
            other => panic!("{other:?}"),
        }
    }

    pub fn amendment(&self, of: &NewEntry, read: f64) -> NewEntry {
        NewEntry { at: of.at, amends: Some(of.id), reason: Note::new("misread").ok(), ..self.visit(0, read) }
    }

    /// What is kept is what the log comes to.
    pub async fn holds_together(&self) {
        let kept = self.store.kept(self.system_id).await.unwrap();
        assert_eq!(kept, Some(self.store.folded(self.system_id).await.unwrap()));
    }
}
