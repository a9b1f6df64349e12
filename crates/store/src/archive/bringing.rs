//! Bringing an archive in, inside one transaction.

use super::{ArchivedCard, ArchivedDelivery, ArchivedEntry, ArchivedPicture, ArchivedSensed, Brings, Brought};
use crate::sensed::{self, Delivered, NewDelivery, SensedLine, Taking};
use crate::{
    LongTask, Result, Store, StoreError, Tx, Underway, facts, log, next_tick, pictures, projections, rows, search,
    write,
};
use jiff::Timestamp;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::upcast::{self, CARD_VERSION, ENTRY_VERSION};
use mopsel_core::fact::{Actor, Body, Entry, Holds, NewCard, NewPicture, Picture, StoredCard, Timeline};
use mopsel_core::gate::{MOST_CARDS, MOST_PICTURES, brought_card, brought_entry, brought_under};
use mopsel_core::message::{count, typed};
use mopsel_core::refusal::AtField;
use mopsel_core::system::System;
use mopsel_core::{Refusal, refuse};
use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use uuid::Uuid;

struct Bringing<'a, 'c> {
    tx: &'a mut Tx<'c>,
    now: Timestamp,
    tick: i64,
    brought: Brought,
    /// Systems that are folded anew.
    touched: BTreeSet<Uuid>,
    /// What was known of each system by when: the last of them is how it is told now.
    histories: HashMap<Uuid, Vec<(Timestamp, Timeline<System>)>>,
    /// The newest version of each card that was brought, with what it hangs on as that was then.
    newest: BTreeMap<Uuid, (Card, Option<Card>)>,
    /// Entries that say what none may say, with where they stand; those that were amended since count for nothing.
    failing: HashMap<Uuid, (String, Refusal)>,
    /// People that are known to be there.
    people: HashSet<Uuid>,
    /// The number of each delivery that came.
    deliveries: HashMap<Uuid, i64>,
    /// What loggers read.
    taking: Taking,
    /// The number of the delivery, where it is a file that people wrote, and no archive.
    of_file: Option<i64>,
    /// Which file brought which entry, by the id of its delivery; none where it is this one.
    files: Vec<(Uuid, Option<Uuid>)>,
}

/// What was known at a moment; the first that was ever known, where it is earlier than that.
fn known_at<T>(all: &[(Timestamp, T)], at: Timestamp) -> Option<&T> {
    let known = all.iter().rev().find(|(since, _)| *since <= at).or(all.first());
    known.map(|(_, what)| what)
}

impl Bringing<'_, '_> {
    async fn card(&mut self, brings: ArchivedCard) -> Result<()> {
        if brings.shape > CARD_VERSION {
            return Err(newer("card"));
        }
        let text = upcast::card(brings.shape, brings.card.get()).into_owned();
        let card: Card = serde_json::from_str(&text).map_err(|why| unreadable(&why, "card"))?;
        if let Card::Place(place) = &card {
            // Its days are told by it while the rest of the archive comes in.
            place.time_zone().at("card").map_err(StoreError::Refused)?;
        }
        let holds = brings.holds_from.map_or(Holds::Always, Holds::From);
        let versions = facts::dated_versions(self.tx, brings.id).await?;
        let number = usize::try_from(brings.version).unwrap_or(usize::MAX);
        if let Some((_, kept)) = number.checked_sub(1).and_then(|n| versions.get(n)) {
            if kept.says == card && kept.archived == brings.archived && kept.holds == holds {
                self.brought.there += 1;
                return Ok(());
            }
            let (name, version) = (typed(kept.says.name()), count(number));
            return Err(StoreError::Refused(refuse!("archive_other_card", name = name, version = version)));
        }
        if number != versions.len() + 1 {
            return Err(StoreError::Refused(refuse!("archive_gap", name = typed(card.name())).at("version")));
        }
        let there = facts::card(self.tx, brings.id).await?;
        if there.as_ref().is_some_and(|there| there.card.code() != card.code() || there.parent != brings.parent) {
            return Err(StoreError::IdTaken);
        }
        let on = match brings.parent {
            Some(parent) => {
                let versions = facts::dated_versions(self.tx, parent).await?;
                Some(known_at(&versions, brings.at).map(|on| on.says.clone()).ok_or(StoreError::NotFound("card"))?)
            }
            None => None,
        };
        brought_under(&card, brings.parent, on.as_ref()).map_err(StoreError::Refused)?;
        self.newest.insert(brings.id, (card.clone(), on));
        let made = NewCard { id: brings.id, parent: brings.parent, card: card.clone() };
        let kept = StoredCard {
            id: brings.id,
            parent: brings.parent,
            version: brings.version,
            archived: brings.archived,
            holds,
            card,
        };
        write::put_card(self.tx, &kept, Some(&made), write::By { who: None, entry: None, at: brings.at }, self.tick)
            .await?;
        self.brought.cards += 1;
        match kept.card {
            Card::System(_) => {
                self.touched.insert(brings.id);
            }
            // Days begin at another hour now.
            Card::Place(_) => {
                let query = sqlx::query_scalar("SELECT id FROM card WHERE parent = ? AND kind = 'system'");
                let systems: Vec<String> = query.bind(brings.id.to_string()).fetch_all(&mut **self.tx).await?;
                for system in systems {
                    self.touched.insert(rows::id(&system)?);
                }
            }
            _ => {}
        }
        Ok(())
    }

    /// What was known of a system by when; every card stands there before the first entry comes.
    async fn learn(&mut self, system: Uuid) -> Result<()> {
        if !self.histories.contains_key(&system) {
            let known = facts::histories_of(self.tx, system).await?;
            self.histories.insert(system, known);
        }
        Ok(())
    }

    /// A visit that was withdrawn since is brought as another, so that a file that was taken back can come again.
    async fn revived(&mut self, mut brings: ArchivedEntry) -> Result<ArchivedEntry> {
        while let Some(newest) = log::newest_amendment(self.tx, brings.id).await?
            && newest.entry.body == (Body::Withdrawn {})
        {
            brings.id = Uuid::new_v5(&brings.id, b"again");
        }
        Ok(brings)
    }

    async fn entry(&mut self, place: &str, brings: ArchivedEntry) -> Result<()> {
        if brings.shape > ENTRY_VERSION {
            return Err(newer("entry"));
        }
        if brings.shape < 1 {
            let why = typed(&format!("shape {}", brings.shape));
            return Err(StoreError::Refused(refuse!("archive_unreadable", why = why).at("shape")));
        }
        let text = upcast::entry(brings.shape, brings.body.get()).into_owned();
        let body = serde_json::from_str(&text).map_err(|why| unreadable(&why, "body"))?;
        let ArchivedEntry { id, system, at, recorded, by, device, amends, reason, .. } = brings;
        let entry = Entry { id, at, by, body, amends, reason };
        if let Some(there) = log::by_id(self.tx, id).await? {
            // A line of a file is known by its words: an earlier release may have made another visit of them.
            let same = there.entry == entry || (self.of_file.is_some() && there.entry.at == entry.at);
            if there.system != system || !same {
                return Err(StoreError::IdTaken);
            }
            self.brought.there += 1;
            return Ok(());
        }
        self.learn(system).await?;
        let histories = self.histories.get(&system).map_or(&[][..], Vec::as_slice);
        let then = known_at(histories, recorded).ok_or(StoreError::NotFound("system"))?;
        if let Err(refusal) = brought_entry(&entry, recorded, then, self.now) {
            self.failing.insert(id, (place.to_owned(), refusal));
        }
        if !self.people.contains(&by) {
            let card = facts::card(self.tx, by).await?.map(|card| card.card);
            let Some(Card::Person(_)) = card else { return Err(StoreError::NotFound("person")) };
            self.people.insert(by);
        }
        if let Some(amended) = amends {
            let there = log::by_id(self.tx, amended).await?.filter(|there| there.system == system);
            there.ok_or(StoreError::NotFound("entry"))?;
            if log::newest_amendment(self.tx, amended).await?.is_some() {
                return Err(StoreError::Refused(refuse!("archive_amended_twice").at("amends")));
            }
            self.failing.remove(&amended);
        }
        let logged = write::insert_entry(self.tx, system, &entry, device.as_deref(), recorded).await?;
        if let Some((_, now)) = histories.last() {
            search::take_in(self.tx, &logged, now).await?;
        }
        self.touched.insert(system);
        self.brought.entries += 1;
        Ok(())
    }

    async fn picture(&mut self, brings: ArchivedPicture) -> Result<()> {
        let facts = pictures::facts(self.tx, brings.system, brings.id).await?;
        if facts.there.is_some() {
            self.brought.there += 1;
            return Ok(());
        }
        let system = facts::card(self.tx, brings.system).await?.map(|card| card.card);
        let Some(Card::System(system)) = system else { return Err(StoreError::NotFound("system")) };
        if let Some(ports) = &brings.ports {
            ports.check(system.ports).at("ports").map_err(StoreError::Refused)?;
        }
        if facts.kept >= MOST_PICTURES {
            return Err(StoreError::Refused(refuse!("too_many_pictures", most = count(MOST_PICTURES))));
        }
        let ArchivedPicture { id, system, at, recorded, by, ports, note, width, height, image, small } = brings;
        let bytes = u32::try_from(image.len()).unwrap_or(u32::MAX);
        let kept = Picture { id, system, at, by, ports: ports.clone(), note: note.clone(), width, height, bytes };
        let new = NewPicture { id, at: Some(at), ports, note, width, height, image, small };
        pictures::keep(self.tx, &kept, &new, recorded).await?;
        self.brought.pictures += 1;
        Ok(())
    }

    async fn delivery(&mut self, brings: ArchivedDelivery) -> Result<()> {
        let by = facts::card(self.tx, brings.by).await?.filter(|card| matches!(card.card, Card::Person(_)));
        by.ok_or(StoreError::NotFound("person"))?;
        let Some((number, new)) = sensed::bring(self.tx, &brings).await? else {
            return Err(StoreError::Refused(refuse!("archive_other_delivery", source = typed(&brings.source))));
        };
        self.deliveries.insert(brings.id, number);
        self.brought.there += usize::from(!new);
        Ok(())
    }

    /// A logger's readings, each held against its system as it was then.
    async fn sensed(&mut self, all: &[ArchivedSensed]) -> Result<()> {
        let mut by_delivery: BTreeMap<i64, Vec<SensedLine>> = BTreeMap::new();
        for (n, one) in all.iter().enumerate() {
            let number = *self.deliveries.get(&one.delivery).ok_or(StoreError::NotFound("delivery"))?;
            self.learn(one.system).await?;
            let known = self.histories.get(&one.system).and_then(|all| all.last());
            let (_, history) = known.ok_or(StoreError::NotFound("system"))?;
            one.read.check(history.at(one.read.at), self.now).map_err(StoreError::Refused)?;
            let line = SensedLine { system: one.system, line: n as u64, read: one.read };
            by_delivery.entry(number).or_default().push(line);
        }
        for (number, lines) in by_delivery {
            self.taking.take(self.tx, number, &lines).await?;
        }
        if self.taking.differs.is_empty() {
            return Ok(());
        }
        Err(StoreError::Refused(refuse!("line_differs")))
    }

    /// What a file takes is kept by this road as well.
    async fn within_limits(&mut self) -> Result<()> {
        if let Some((place, refusal)) = self.failing.values().min_by_key(|(place, _)| (place.len(), place.clone())) {
            return Err(StoreError::Refused(refusal.clone().at(place)));
        }
        for (card, on) in self.newest.values() {
            brought_card(card, on.as_ref()).map_err(StoreError::Refused)?;
        }
        let cards: i64 = sqlx::query_scalar("SELECT count(*) FROM card").fetch_one(&mut **self.tx).await?;
        if usize::try_from(cards).is_ok_and(|cards| cards > MOST_CARDS) {
            return Err(StoreError::Refused(refuse!("too_many_cards", most = count(MOST_CARDS))));
        }
        Ok(())
    }

    /// What the brought entries come to.
    async fn fold(&mut self) -> Result<()> {
        let came = self.taking.came;
        self.brought.readings += usize::try_from(came.new).unwrap_or(usize::MAX);
        self.brought.there += usize::try_from(came.there).unwrap_or(usize::MAX);
        self.touched.extend(self.taking.systems());
        for system in std::mem::take(&mut self.touched) {
            // What was poured and on whose clock decides what a logger's days come to.
            sensed::condense_all(self.tx, system).await?;
            let history = facts::history_of(self.tx, system).await?.ok_or(StoreError::NotFound("system"))?;
            projections::rebuild(self.tx, system, &history, self.tick).await?;
        }
        Ok(())
    }
}

/// Why something cannot be read, as the core says it where it knows.
fn unreadable(why: &serde_json::Error, field: &str) -> StoreError {
    let why = why.to_string();
    let refusal = Refusal::carried(&why).unwrap_or_else(|| refuse!("archive_unreadable", why = typed(&why)));
    StoreError::Refused(refusal.at(field))
}

/// What is wrong with a line, with where it stands.
fn in_line(error: StoreError, place: &str) -> StoreError {
    StoreError::Refused(match error {
        StoreError::Refused(refusal) => refusal.at(place),
        StoreError::NotFound(what) => refuse!("archive_names_nothing", what = typed(what)).at(place),
        StoreError::IdTaken => refuse!("archive_id_taken").at(place),
        other => return other,
    })
}

fn newer(what: &'static str) -> StoreError {
    StoreError::Refused(refuse!("archive_newer", what = typed(what)).at("shape"))
}

impl<'a, 'c> Bringing<'a, 'c> {
    async fn new(tx: &'a mut Tx<'c>, now: Timestamp, of_file: Option<i64>) -> Result<Self> {
        let tick = next_tick(tx).await?;
        Ok(Self {
            tx,
            now,
            tick,
            brought: Brought::default(),
            touched: BTreeSet::new(),
            histories: HashMap::new(),
            newest: BTreeMap::new(),
            failing: HashMap::new(),
            people: HashSet::new(),
            deliveries: HashMap::new(),
            taking: Taking::default(),
            of_file,
            files: Vec::new(),
        })
    }

    /// Brings in what `next` gives until it gives nothing more, and folds it.
    async fn all(mut self, next: &mut Next<'_>) -> Result<Brought> {
        while let Some((place, brings)) = next()? {
            let came = match brings {
                Brings::Card(card) => self.card(card).await,
                Brings::Entry(entry) if self.of_file.is_some() => {
                    let entry = self.revived(entry).await?;
                    self.files.push((entry.id, None));
                    self.entry(&place, entry).await
                }
                Brings::Entry(mut entry) => {
                    let files = std::mem::take(&mut entry.files);
                    self.files.extend(files.into_iter().map(|file| (entry.id, Some(file))));
                    self.entry(&place, entry).await
                }
                Brings::Picture(picture) => self.picture(*picture).await,
                Brings::Delivery(delivery) => self.delivery(delivery).await,
                Brings::Sensed(readings) => self.sensed(&readings).await,
            };
            came.map_err(|error| in_line(error, &place))?;
        }
        self.within_limits().await?;
        for (entry, file) in std::mem::take(&mut self.files) {
            let number = file.map_or(self.of_file, |file| self.deliveries.get(&file).copied());
            sensed::brought(self.tx, number.ok_or(StoreError::NotFound("delivery"))?, entry).await?;
        }
        self.fold().await?;
        Ok(self.brought)
    }
}

/// What gives one thing after the other, each with where it stands.
type Next<'n> = dyn FnMut() -> Result<Option<(String, Brings)>> + Send + 'n;

impl Store {
    /// Brings in what `next` gives, each with where it stands, until it gives nothing more; all of it or nothing. `lines` is
    /// how many there will be, where that is known.
    ///
    /// # Errors
    /// What `next` says; what cannot be brought, by its refusal; when the file cannot be written.
    pub async fn bring(&self, now: Timestamp, lines: Option<u64>, next: &mut Next<'_>) -> Result<Brought> {
        self.writing(async |tx| {
            let underway = Underway::new(self, LongTask::Archive, lines);
            let mut next = || {
                let brings = next()?;
                if let Some((_, brings)) = &brings {
                    underway.add(if let Brings::Sensed(some) = brings { some.len() as u64 } else { 1 });
                }
                Ok(brings)
            };
            let brought = Bringing::new(tx, now, None).await?.all(&mut next).await?;
            sqlx::query("UPDATE file_facts SET last_written = max(last_written, ?)")
                .bind(now.as_millisecond())
                .execute(&mut **tx)
                .await?;
            Ok(brought)
        })
        .await
    }

    /// Brings in the visits of a file that people wrote, as a delivery that can be taken back whole. The entries carry the
    /// file's name as their device.
    ///
    /// # Errors
    /// As [`Store::bring`] and [`Store::deliver`].
    pub async fn bring_visits(
        &self,
        new: &NewDelivery,
        actor: &Actor,
        now: Timestamp,
        next: &mut Next<'_>,
    ) -> Result<Delivered> {
        self.writing(async |tx| {
            let underway = Underway::new(self, LongTask::File, None);
            // What it brings is known again by this moment and its name: no other of that name has the same.
            let at = sensed::after_any(tx, new, now).await?;
            let number = match sensed::begin(tx, new, actor, at).await? {
                Ok(number) => number,
                Err(again) => return Ok(again),
            };
            let mut next = move || {
                let brings = next()?;
                underway.add(u64::from(brings.is_some()));
                Ok(brings.map(|(place, brings)| match brings {
                    Brings::Entry(entry) => (place, Brings::Entry(ArchivedEntry { recorded: at, ..entry })),
                    other => (place, other),
                }))
            };
            let Brought { entries, there, .. } = Bringing::new(tx, at, Some(number)).await?.all(&mut next).await?;
            let came = Delivered { new: entries as u64, there: there as u64, again: false };
            sensed::end(tx, number, came, at).await?;
            Ok(came)
        })
        .await
    }
}
