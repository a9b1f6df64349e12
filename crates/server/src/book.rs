//! The open book: all cards and projections, held in memory and brought up to date from the file
//! before every use. It reads only what changed since it last looked, so a round over hundreds of
//! systems costs no more for years of log than for weeks. It is for reading: what is written is
//! decided inside the write transaction, on what stands there.

use crate::shelf::ShelfPages;
use crate::sight::Sights;
use crate::told::{Prefers, Told};
use crate::{Clock, Problem};
use jiff::{SignedDuration, Timestamp, Zoned, tz::TimeZone};
use mopsel_core::calendar::{Calendar, Weekday};
use mopsel_core::crop::Planting;
use mopsel_core::fact::card::{Card, Meter, Person, Place};
use mopsel_core::fact::{Account, Actor, Holds, Planted, StoredCard, Timeline, Version};
use mopsel_core::figures::FIGURES;
use mopsel_core::projection::{Known, Touched, touches};
use mopsel_core::quantity::{Name, UnitSystem};
use mopsel_core::situation::Situation;
use mopsel_core::system::{Check, System};
use mopsel_core::words::{Called, Reader};
use mopsel_store::{Broken, News, Store};
use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;
use tokio::sync::RwLock;
use uuid::Uuid;

/// A place with what hangs on it.
#[derive(Debug, Clone)]
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
#[derive(Debug, Clone)]
pub struct SystemFile {
    /// The card.
    pub card: StoredCard,
    /// What it says now.
    pub system: System,
    /// What it said, by when.
    pub history: Timeline<System>,
    /// Its place.
    pub place: Uuid,
    /// What grows in it now.
    pub plantings: Vec<Planting>,
    /// What grew in it, by when.
    pub planted: Vec<Timeline<Planting>>,
    /// Their ids, in the same order.
    pub planting_ids: Vec<Uuid>,
    /// The cards of its plantings, those put away among them.
    pub planting_cards: Vec<StoredCard>,
    /// What is known of it with what stands in the top-off reservoir of another system that fills it too.
    pub with_drum: Option<Box<Known>>,
    /// What its log comes to.
    pub known: Known,
}

/// Everything, as it stands; or of it what one actor sees.
#[derive(Debug, Clone, Default)]
pub struct Pages {
    pub(crate) tick: i64,
    /// Places by id.
    pub places: BTreeMap<Uuid, Arc<PlaceFile>>,
    /// Systems by id.
    pub systems: BTreeMap<Uuid, Arc<SystemFile>>,
    /// People, meters, products and recipes by id.
    pub others: BTreeMap<Uuid, Arc<StoredCard>>,
    /// Accounts by id, without those that were ended.
    pub accounts: BTreeMap<Uuid, Account>,
    /// Whether anybody ever signed in here: from then on nobody acts without.
    pub any_account: bool,
    /// What stands on the shelf.
    pub shelf: Arc<ShelfPages>,
    /// Cards that cannot be read, by id.
    pub broken: BTreeMap<String, Broken>,
    /// Systems with entries that are dated to come, which count for nothing until then.
    pub(crate) ahead: BTreeSet<Uuid>,
    /// Systems of which something that is kept could not be read.
    pub(crate) unreadable: BTreeSet<Uuid>,
    /// Systems by the words of their names.
    pub systems_called: Called<Uuid>,
    /// People by the words of their names.
    pub people_called: Called<Uuid>,
    /// Every version of the cards that were ever edited.
    pub(crate) versions: BTreeMap<Uuid, Arc<Vec<Version<Card>>>>,
}

/// What one system is told of the others.
#[derive(Debug, Default)]
pub struct Around {
    /// When each meter was last calibrated, at whichever system.
    calibrations: BTreeMap<Uuid, Timestamp>,
    /// What makes a system a suspect because of another.
    touches: BTreeMap<Uuid, Vec<Touched>>,
}

/// The book over a store.
#[derive(Debug)]
pub struct Book {
    store: Store,
    clock: Clock,
    pages: RwLock<Arc<Pages>>,
    sights: Sights,
    told: Told,
}

impl Book {
    /// A book over a store; empty until it is first opened.
    #[must_use]
    pub fn new(store: Store, clock: Clock) -> Self {
        let mut pages = Pages::default();
        pages.shelf = Arc::new(ShelfPages::of(&pages));
        let pages = RwLock::new(Arc::new(pages));
        Self { store, clock, pages, sights: Sights::default(), told: Told::default() }
    }

    /// The store beneath.
    #[must_use]
    pub fn store(&self) -> &Store {
        &self.store
    }

    /// Entries that were put into words lately.
    #[must_use]
    pub fn told(&self) -> &Told {
        &self.told
    }

    /// Everything, up to date: for telling who somebody is, and for what nobody in particular asks. What an actor reads
    /// comes from [`Book::open`].
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn whole(&self) -> Result<Arc<Pages>, Problem> {
        let seen = self.pages.read().await.tick;
        let news = self.store.news_since(seen).await?;
        if news.tick != seen {
            let mut pages = self.pages.write().await;
            if news.tick > pages.tick {
                if !news.cards.is_empty() {
                    self.told.forget();
                }
                let pages = Arc::make_mut(&mut pages);
                pages.take_in(news)?;
                self.mend(pages).await?;
            }
        }
        Ok(self.pages.read().await.clone())
    }

    /// What an actor sees, up to date.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn open(&self, actor: &Actor) -> Result<Arc<Pages>, Problem> {
        Ok(self.sights.of(self.whole().await?, actor))
    }

    /// What an actor sees, as it was last opened: for a request that only reads, and whose [`crate::actor::Who`]
    /// has opened the book.
    pub async fn as_opened(&self, actor: &Actor) -> Arc<Pages> {
        self.sights.of(self.pages.read().await.clone(), actor)
    }

    /// What is kept of a system and cannot be read is made anew from its log, here and in the file; entries
    /// that are dated to come, made under a wrong clock, are left out until then.
    async fn mend(&self, pages: &mut Pages) -> Result<(), Problem> {
        for system in std::mem::take(&mut pages.unreadable) {
            if let Some(file) = pages.systems.get_mut(&system) {
                Arc::make_mut(file).known = self.store.folded(system).await?;
                if let Err(error) = self.store.mend(system).await {
                    tracing::error!(%system, %error, "what is kept could not be made anew in the file");
                }
            }
        }
        let now = self.clock.now();
        let to_come = |file: &&mut Arc<SystemFile>| file.known.done.last_at.is_some_and(|last| last > soon(now));
        pages.ahead.clear();
        for file in pages.systems.values_mut().filter(to_come) {
            let file = Arc::make_mut(file);
            file.known = self.store.folded_until(file.card.id, now).await?;
            pages.ahead.insert(file.card.id);
        }
        Ok(())
    }
}

/// What a place is called that cannot be read.
const PLACE_UNREADABLE: &str = "A place that cannot be read";

/// Clocks of devices differ a little; so much ahead is now.
fn soon(now: Timestamp) -> Timestamp {
    now.saturating_add(SignedDuration::from_mins(10)).unwrap_or(now)
}

impl Pages {
    fn take_in(&mut self, news: News) -> Result<(), Problem> {
        self.versions.extend(news.versions.into_iter().map(|(id, versions)| (id, Arc::new(versions))));
        for account in news.accounts {
            if account.archived {
                self.accounts.remove(&account.id);
            } else {
                self.accounts.insert(account.id, account);
            }
        }
        self.any_account |= !self.accounts.is_empty();
        let mut cards = news.cards;
        let any = !cards.is_empty();
        for card in &cards {
            self.broken.remove(&card.id.to_string());
        }
        for broken in news.broken {
            tracing::error!(id = broken.id, kind = broken.kind, why = broken.why, "a card cannot be read");
            if broken.kind == "place" {
                self.stand_in_for_place(&broken.id);
            }
            self.broken.insert(broken.id.clone(), broken);
        }
        cards.sort_by_key(|card| match card.card {
            Card::Place(_) => 0,
            Card::Person(_) | Card::Meter(_) | Card::Product(_) | Card::Recipe(_) => 1,
            Card::System(_) => 2,
            Card::Planting(_) => 3,
        });
        // A system's timeline is told in its place's days, and holds those of its plantings.
        let mut retell: BTreeSet<Uuid> = BTreeSet::new();
        for card in cards {
            match &card.card {
                Card::Place(_) => {
                    let here = self.systems.values().filter(|file| file.place == card.id);
                    retell.extend(here.map(|file| file.card.id));
                }
                Card::System(_) => retell.extend([card.id]),
                Card::Planting(_) => retell.extend(card.parent),
                Card::Person(_) | Card::Meter(_) | Card::Product(_) | Card::Recipe(_) => {}
            }
            let (id, kind) = (card.id.to_string(), card.card.code().to_owned());
            if let Err(problem) = self.take_card(card) {
                self.broken.insert(id.clone(), Broken { id, kind, why: problem.to_string() });
            }
        }
        for system in retell {
            self.retell(system);
        }
        if any {
            self.call();
        }
        for (system, part, text) in news.projections {
            if let Some(file) = self.systems.get_mut(&system)
                && let Err(error) = Arc::make_mut(file).known.read(part, &text)
            {
                tracing::error!(%system, part = part.name(), %error, "what is kept cannot be read: made anew");
                self.unreadable.insert(system);
            }
        }
        self.share_drums();
        self.tick = news.tick;
        self.shelf = Arc::new(ShelfPages::of(self));
        Ok(())
    }

    /// A place that cannot be read is there by its id alone, so that its systems are seen and looked after: in UTC, with
    /// every day open. Nothing is written for it until it can be read again.
    fn stand_in_for_place(&mut self, id: &str) {
        let (Ok(id), Ok(name)) = (Uuid::parse_str(id), Name::new(PLACE_UNREADABLE)) else { return };
        let place = Place {
            name,
            zone: "UTC".to_owned(),
            open_days: Weekday::ALL.into(),
            closures: Vec::new(),
            units: UnitSystem::default(),
            containers: Vec::new(),
            tools: Vec::new(),
        };
        let (zone, Ok(calendar)) = (TimeZone::UTC, place.calendar()) else { return };
        let kept = Card::Place(place.clone());
        let card = StoredCard { id, parent: None, version: 0, archived: false, holds: Holds::Always, card: kept };
        self.places.entry(id).or_insert(Arc::new(PlaceFile { zone, calendar, place, card }));
    }

    fn take_card(&mut self, stored: StoredCard) -> Result<(), Problem> {
        match &stored.card {
            Card::Place(place) => {
                let (zone, calendar) = (place.time_zone()?, place.calendar()?);
                let file = PlaceFile { zone, calendar, place: place.clone(), card: stored.clone() };
                self.places.insert(stored.id, Arc::new(file));
            }
            Card::Person(_) | Card::Meter(_) | Card::Product(_) | Card::Recipe(_) => {
                self.others.insert(stored.id, Arc::new(stored));
            }
            Card::System(system) => {
                let system = system.clone();
                let place = stored.parent.unwrap_or_default();
                let before = self.systems.remove(&stored.id);
                let before = before.map(Arc::unwrap_or_clone);
                let (planting_cards, known) = before.map(|file| (file.planting_cards, file.known)).unwrap_or_default();
                let history = Timeline::always(system.clone());
                let (plantings, planted, planting_ids) = (vec![], vec![], vec![]);
                let file = SystemFile {
                    system,
                    history,
                    place,
                    plantings,
                    planted,
                    planting_ids,
                    planting_cards,
                    known,
                    with_drum: None,
                    card: stored,
                };
                self.systems.insert(file.card.id, Arc::new(file));
            }
            Card::Planting(_) => {
                if let Some(file) = stored.parent.and_then(|parent| self.systems.get_mut(&parent)) {
                    let file = Arc::make_mut(file);
                    file.planting_cards.retain(|card| card.id != stored.id);
                    file.planting_cards.push(stored);
                    file.planting_cards.sort_by_key(|card| card.id);
                }
            }
        }
        Ok(())
    }

    /// Tells a system's timelines anew.
    fn retell(&mut self, id: Uuid) {
        let Some(file) = self.systems.get_mut(&id) else { return };
        let file = Arc::make_mut(file);
        let zone = self.places.get(&file.place).map_or(TimeZone::UTC, |place| place.zone.clone());
        let now = (&file.system, file.card.archived);
        file.history = timeline(self.versions.get(&id), now, &zone, Card::system);
        let told = |card: &StoredCard| {
            let now = (card.card.planting()?, card.archived);
            Some(timeline(self.versions.get(&card.id), now, &zone, Card::planting))
        };
        let told = |card: &StoredCard| Some((card.id, told(card)?));
        (file.planting_ids, file.planted) = file.planting_cards.iter().filter_map(told).unzip();
        let growing = file.planting_cards.iter().filter(|card| !card.archived);
        file.plantings = growing.filter_map(|card| card.card.planting().cloned()).collect();
    }

    pub(crate) fn call(&mut self) {
        let systems = self.systems.values().map(|file| (file.system.name.as_str(), file.card.id));
        self.systems_called = Called::by(systems);
        let people = self.others.values().filter_map(|stored| match &stored.card {
            Card::Person(person) => Some((person.name.as_str(), stored.id)),
            _ => None,
        });
        self.people_called = Called::by(people);
    }

    /// Every system, those put away among them.
    pub fn every_system(&self) -> impl Iterator<Item = &SystemFile> {
        self.systems.values().map(|file| &**file)
    }

    /// Every person, meter, product and recipe, those put away among them.
    pub fn every_other(&self) -> impl Iterator<Item = &StoredCard> {
        self.others.values().map(|card| &**card)
    }

    /// A system by its id.
    ///
    /// # Errors
    /// Not found.
    pub fn system(&self, id: Uuid) -> Result<&SystemFile, Problem> {
        self.systems.get(&id).map(|file| &**file).ok_or_else(|| Problem::not_found("system with that id"))
    }

    /// Whether entries of a system are dated to come.
    #[must_use]
    pub fn is_ahead(&self, system: Uuid) -> bool {
        self.ahead.contains(&system)
    }

    /// The place of a system.
    ///
    /// # Errors
    /// Not found.
    pub fn place_of(&self, file: &SystemFile) -> Result<&PlaceFile, Problem> {
        self.places.get(&file.place).map(|place| &**place).ok_or_else(|| Problem::not_found("place with that id"))
    }

    /// A person by their id, with the place they belong to.
    #[must_use]
    pub fn person(&self, id: Uuid) -> Option<(&Person, Uuid)> {
        let stored = self.others.get(&id)?;
        if let Card::Person(person) = &stored.card { Some((person, stored.parent?)) } else { None }
    }

    /// Whether anybody is known at all, also somebody who was put away.
    #[must_use]
    pub fn has_people(&self) -> bool {
        self.others.values().any(|stored| matches!(stored.card, Card::Person(_)))
    }

    /// A person's name, for what they did.
    #[must_use]
    pub fn name_of(&self, id: Uuid) -> String {
        self.person(id).map_or_else(|| "someone".to_owned(), |(person, _)| person.name.as_str().to_owned())
    }

    /// The meter that a system is measured with.
    #[must_use]
    pub fn meter(&self, file: &SystemFile) -> Option<&Meter> {
        let stored = self.others.get(&file.system.meter?)?;
        if let Card::Meter(meter) = &stored.card { Some(meter) } else { None }
    }

    /// How much was written so far: it grows with each entry and each edit, and never falls.
    pub fn tick(&self) -> i64 {
        self.tick
    }

    /// What the systems know of each other.
    #[must_use]
    pub fn around(&self) -> Around {
        let systems = self.systems.values().filter(|file| !file.card.archived);
        let touches = touches(systems.map(|file| (file.card.id, &file.system.name, &file.known)));
        Around { calibrations: self.calibrations(), touches }
    }

    /// When each meter was last calibrated, at whichever system.
    fn calibrations(&self) -> BTreeMap<Uuid, Timestamp> {
        let mut last: BTreeMap<Uuid, Timestamp> = BTreeMap::new();
        for file in self.systems.values() {
            if let (Some(meter), Some(at)) = (file.system.meter, file.known.done.of(Check::Calibrate)) {
                last.entry(meter).and_modify(|known: &mut Timestamp| *known = at.max(*known)).or_insert(at);
            }
        }
        last
    }

    /// The reader of a system's words: their own units and scale, else the place's and the meter's.
    #[must_use]
    pub fn reader(&self, actor: &Actor, file: &SystemFile, place: &PlaceFile) -> Reader {
        let Prefers { units, ec, .. } = self.prefers(actor);
        let meter = || self.meter(file).map(|meter| meter.scale).unwrap_or_default();
        Reader::new(units.unwrap_or(place.place.units), ec.unwrap_or_else(meter), actor)
    }

    /// What an actor reads, wherever they read it.
    #[must_use]
    pub fn prefers(&self, actor: &Actor) -> Prefers {
        let person = actor.person.and_then(|id| self.person(id)).map(|(person, _)| person);
        Prefers {
            units: person.and_then(|person| person.units),
            ec: person.and_then(|person| person.ec_scale),
            child: actor.is_child(),
        }
    }

    /// What whoever asks carries without harm, in kg.
    #[must_use]
    pub fn lifts(&self, actor: &Actor) -> f64 {
        actor.person.and_then(|id| self.person(id)).map_or(FIGURES.bench.lift, |(person, _)| person.lifts())
    }

    /// All that the rules look at, for one system and one actor.
    #[must_use]
    pub fn situation<'a>(
        &'a self,
        actor: &'a Actor,
        file: &'a SystemFile,
        place: &'a PlaceFile,
        now: &'a Zoned,
        around: &'a Around,
    ) -> Situation<'a> {
        let own = file.known.done.of(Check::Calibrate);
        Situation {
            system: &file.system,
            history: &file.history,
            plantings: &file.plantings,
            planted: Planted(&file.planted),
            planting_ids: &file.planting_ids,
            known: file.with_drum.as_deref().unwrap_or(&file.known),
            calendar: &place.calendar,
            now,
            feed: self.shelf.feed(file.system.methods.recipe),
            calibrated: file.system.meter.and_then(|meter| around.calibrations.get(&meter).copied()).max(own),
            touched: around.touches.get(&file.card.id).map_or(&[], Vec::as_slice),
            actor,
        }
    }
}

/// What a card said, by when: `now` where it was never edited.
fn timeline<T>(
    versions: Option<&Arc<Vec<Version<Card>>>>,
    (now, archived): (&T, bool),
    zone: &TimeZone,
    what: impl Fn(&Card) -> Option<&T>,
) -> Timeline<T>
where
    T: serde::Serialize + serde::de::DeserializeOwned + Clone,
{
    let as_what = |version: &Version<Card>| {
        let says = what(&version.says)?.clone();
        Some(Version { holds: version.holds, archived: version.archived, made: version.made, says })
    };
    let known: Vec<Version<T>> = versions.into_iter().flat_map(|all| all.iter()).filter_map(as_what).collect();
    match known.split_first() {
        Some((first, later)) => Timeline::new(first, later, zone),
        None => {
            let alone = Version { holds: Holds::Always, archived, made: Timestamp::MIN, says: now.clone() };
            Timeline::new(&alone, &[], zone)
        }
    }
}
