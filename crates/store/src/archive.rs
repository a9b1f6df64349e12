//! Everything out and in: what an archive holds, read in one piece while others write, and brought in all or nothing.
//!
//! An archive is history. What is brought keeps its ids and its times; what is there already, and the same, is passed over, so
//! that the same archive twice is once. What it comes to is folded anew before anything is kept.

use crate::{Result, Store, StoreError, Tx, facts, log, next_tick, projections, rows, search};
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::upcast::{self, CARD_VERSION, ENTRY_VERSION};
use mopsel_core::fact::{Entry, LoggedEntry, NewCard, Timeline};
use mopsel_core::gate::{MOST_CARDS, MOST_PICTURES, brought_card, brought_entry};
use mopsel_core::message::{count, typed};
use mopsel_core::quantity::Note;
use mopsel_core::refusal::AtField;
use mopsel_core::refuse;
use mopsel_core::system::{PortSet, System};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use sqlx::sqlite::{SqliteConnection, SqliteRow};
use sqlx::{Connection, Row};
use std::collections::{BTreeSet, HashMap};
use uuid::Uuid;

/// One version of a card.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedCard {
    /// Its id.
    pub id: Uuid,
    /// What it hangs on.
    pub parent: Option<Uuid>,
    /// Which version, from 1.
    pub version: i64,
    /// Whether it was put away with it.
    pub archived: bool,
    /// From when it holds; `null` where it was always so.
    pub holds_from: Option<Date>,
    /// When it was written.
    pub at: Timestamp,
    /// The shape that it is written in.
    pub shape: i64,
    /// What it says.
    pub card: Box<RawValue>,
}

/// One entry of the log, amended ones among them.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedEntry {
    /// Its id.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// When it happened.
    pub at: Timestamp,
    /// When it was recorded.
    pub recorded: Timestamp,
    /// By whom.
    pub by: Uuid,
    /// On which device, as that calls itself.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub device: Option<String>,
    /// The entry that it replaces.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub amends: Option<Uuid>,
    /// Why.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reason: Option<Note>,
    /// The shape that it is written in.
    pub shape: i64,
    /// What it says.
    pub body: Box<RawValue>,
}

/// A picture; its bytes stand beside.
#[derive(Debug, Clone, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct ArchivedPicture {
    /// Its id.
    pub id: Uuid,
    /// Of which system.
    pub system: Uuid,
    /// When it was taken.
    pub at: Timestamp,
    /// When it was kept.
    pub recorded: Timestamp,
    /// By whom.
    pub by: Uuid,
    /// Of which ports.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// What it shows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
    /// In pixels.
    pub width: u32,
    /// In pixels.
    pub height: u32,
    /// As it is shown.
    #[serde(skip)]
    pub image: Vec<u8>,
    /// As it is shown small.
    #[serde(skip)]
    pub small: Vec<u8>,
}

/// One thing that an archive brings. Cards come before entries and pictures, and what they hang on before them.
#[derive(Debug)]
pub enum Brings {
    /// A version of a card.
    Card(ArchivedCard),
    /// An entry.
    Entry(ArchivedEntry),
    /// A picture.
    Picture(Box<ArchivedPicture>),
}

/// What was brought.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Brought {
    /// Versions of cards that are new.
    pub cards: usize,
    /// Entries that are new.
    pub entries: usize,
    /// Pictures that are new.
    pub pictures: usize,
    /// What was there already.
    pub there: usize,
}

/// A file as it stood at one moment, while others go on writing. It has a connection of its own, however slowly it is
/// read, so that it takes none from those who look at the round meanwhile.
pub struct Snapshot {
    connection: SqliteConnection,
}

fn raw(text: String) -> Result<Box<RawValue>> {
    RawValue::from_string(text).map_err(|error| StoreError::Corrupt(error.to_string()))
}

fn archived_card(row: &SqliteRow) -> Result<ArchivedCard> {
    let shape: i64 = row.try_get("shape")?;
    let at: &str = row.try_get("at")?;
    let holds: Option<&str> = row.try_get("holds_from")?;
    Ok(ArchivedCard {
        id: rows::id(row.try_get("card")?)?,
        parent: row.try_get::<Option<&str>, _>("parent")?.map(rows::id).transpose()?,
        version: row.try_get("version")?,
        archived: row.try_get::<i64, _>("archived")? != 0,
        holds_from: holds.map(str::parse).transpose().map_err(|_| StoreError::Corrupt("a card's day".into()))?,
        at: at.parse().map_err(|_| StoreError::Corrupt("a card's time".into()))?,
        shape: shape.max(CARD_VERSION),
        card: raw(upcast::card(shape, row.try_get("body")?).into_owned())?,
    })
}

fn archived_entry(row: &SqliteRow) -> Result<(i64, ArchivedEntry)> {
    let shape: i64 = row.try_get("shape")?;
    let reason: Option<&str> = row.try_get("reason")?;
    let entry = ArchivedEntry {
        id: rows::id(row.try_get("id")?)?,
        system: rows::id(row.try_get("system")?)?,
        at: rows::time_in(row, "at")?,
        recorded: rows::time_in(row, "recorded")?,
        by: rows::id(row.try_get("who")?)?,
        device: row.try_get("device")?,
        amends: row.try_get::<Option<&str>, _>("amends")?.map(rows::id).transpose()?,
        reason: reason.map(Note::new).transpose().map_err(|why| StoreError::Corrupt(why.code.to_string()))?,
        shape: shape.max(ENTRY_VERSION),
        body: raw(upcast::entry(shape, row.try_get("body")?).into_owned())?,
    };
    Ok((row.try_get("seq")?, entry))
}

impl Snapshot {
    /// How many versions of cards, entries and pictures there are.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn counts(&mut self) -> Result<(i64, i64, i64)> {
        let query =
            "SELECT (SELECT count(*) FROM card_version), (SELECT count(*) FROM entry), (SELECT count(*) FROM picture)";
        Ok(sqlx::query_as(query).fetch_one(&mut self.connection).await?)
    }

    /// Every version of every card, what others hang on first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn cards(&mut self) -> Result<Vec<ArchivedCard>> {
        let found = sqlx::query(
            "SELECT v.card, c.parent, v.version, v.archived, v.holds_from, v.at, v.shape, v.body
             FROM card_version v JOIN card c ON c.id = v.card
             ORDER BY CASE c.kind WHEN 'place' THEN 0 WHEN 'product' THEN 1 WHEN 'recipe' THEN 2 WHEN 'person' THEN 3
                 WHEN 'meter' THEN 4 WHEN 'system' THEN 5 ELSE 6 END, v.card, v.version",
        );
        found.fetch_all(&mut self.connection).await?.iter().map(archived_card).collect()
    }

    /// Some entries after a place in the log, in the order of recording, each with its place.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn entries(&mut self, after: i64, most: u32) -> Result<Vec<(i64, ArchivedEntry)>> {
        let found = sqlx::query(log::select_entries!("WHERE seq > ? ORDER BY seq LIMIT ?")).bind(after).bind(most);
        found.fetch_all(&mut self.connection).await?.iter().map(archived_entry).collect()
    }

    /// The next picture after an id, by id, with its bytes.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn picture(&mut self, after: &str) -> Result<Option<ArchivedPicture>> {
        let query = sqlx::query("SELECT * FROM picture WHERE id > ? ORDER BY id LIMIT 1").bind(after.to_owned());
        let Some(row) = query.fetch_optional(&mut self.connection).await? else { return Ok(None) };
        let ports: Option<&str> = row.try_get("ports")?;
        let note: Option<&str> = row.try_get("note")?;
        Ok(Some(ArchivedPicture {
            id: rows::id(row.try_get("id")?)?,
            system: rows::id(row.try_get("system")?)?,
            at: rows::time_in(&row, "at")?,
            recorded: rows::time_in(&row, "recorded")?,
            by: rows::id(row.try_get("who")?)?,
            ports: ports.map(rows::from_json).transpose()?,
            note: note.map(Note::new).transpose().map_err(|why| StoreError::Corrupt(why.code.to_string()))?,
            width: row.try_get("width")?,
            height: row.try_get("height")?,
            image: row.try_get("image")?,
            small: row.try_get("small")?,
        }))
    }
}

/// Brings things in, inside one transaction.
struct Bringing<'a, 'c> {
    tx: &'a mut Tx<'c>,
    now: Timestamp,
    tick: i64,
    brought: Brought,
    /// Systems that are folded anew.
    touched: BTreeSet<Uuid>,
    histories: HashMap<Uuid, Timeline<System>>,
}

impl Bringing<'_, '_> {
    async fn card(&mut self, brings: ArchivedCard) -> Result<()> {
        if brings.shape > CARD_VERSION {
            return Err(newer("card"));
        }
        let text = upcast::card(brings.shape, brings.card.get()).into_owned();
        let card: Card = serde_json::from_str(&text).map_err(|why| {
            StoreError::Refused(refuse!("archive_unreadable", why = typed(&why.to_string())).at("card"))
        })?;
        let query =
            sqlx::query("SELECT archived, body, shape, holds_from FROM card_version WHERE card = ? AND version = ?");
        let kept = query.bind(brings.id.to_string()).bind(brings.version).fetch_optional(&mut **self.tx).await?;
        let holds_from = brings.holds_from.map(|day| day.to_string());
        if let Some(row) = kept {
            let there: Card = rows::from_json(&upcast::card(row.try_get("shape")?, row.try_get("body")?))?;
            let same = there == card
                && (row.try_get::<i64, _>("archived")? != 0) == brings.archived
                && row.try_get::<Option<String>, _>("holds_from")? == holds_from;
            return if same {
                self.brought.there += 1;
                Ok(())
            } else {
                let name = typed(there.name());
                Err(StoreError::Refused(refuse!(
                    "archive_other_card",
                    name = name,
                    version = count(brings.version as u32)
                )))
            };
        }
        let there = facts::card(self.tx, brings.id).await?;
        if brings.version != there.as_ref().map_or(0, |there| there.version) + 1 {
            return Err(StoreError::Refused(refuse!("archive_gap", name = typed(card.name())).at("version")));
        }
        if there.as_ref().is_some_and(|there| there.card.code() != card.code() || there.parent != brings.parent) {
            return Err(StoreError::IdTaken);
        }
        let parent = match brings.parent {
            Some(parent) => Some(facts::card(self.tx, parent).await?.ok_or(StoreError::NotFound("card"))?),
            None => None,
        };
        brought_card(&card, parent.as_ref().map(|parent| &parent.card)).map_err(StoreError::Refused)?;
        self.keep_card(&brings, &card, &holds_from).await?;
        self.brought.cards += 1;
        match card {
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

    async fn keep_card(&mut self, brings: &ArchivedCard, card: &Card, holds_from: &Option<String>) -> Result<()> {
        let body = rows::to_json(card)?;
        if brings.version == 1 {
            let made = NewCard { id: brings.id, parent: brings.parent, card: card.clone() };
            sqlx::query(
                "INSERT INTO card (id, kind, parent, version, archived, body, shape, holds_from, made_from, changed)
                 VALUES (?, ?, ?, 1, ?, ?, ?, ?, ?, ?)",
            )
            .bind(brings.id.to_string())
            .bind(card.code())
            .bind(brings.parent.map(|parent| parent.to_string()))
            .bind(i64::from(brings.archived))
            .bind(&body)
            .bind(CARD_VERSION)
            .bind(holds_from)
            .bind(rows::to_json(&made)?)
            .bind(self.tick)
            .execute(&mut **self.tx)
            .await?;
        } else {
            sqlx::query(
                "UPDATE card SET version = ?, archived = ?, body = ?, shape = ?, holds_from = ?, changed = ? WHERE id = ?",
            )
            .bind(brings.version)
            .bind(i64::from(brings.archived))
            .bind(&body)
            .bind(CARD_VERSION)
            .bind(holds_from)
            .bind(self.tick)
            .bind(brings.id.to_string())
            .execute(&mut **self.tx)
            .await?;
        }
        sqlx::query(
            "INSERT INTO card_version (card, version, archived, body, shape, holds_from, at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(brings.id.to_string())
        .bind(brings.version)
        .bind(i64::from(brings.archived))
        .bind(&body)
        .bind(CARD_VERSION)
        .bind(holds_from)
        .bind(brings.at.to_string())
        .execute(&mut **self.tx)
        .await?;
        Ok(())
    }

    async fn entry(&mut self, brings: ArchivedEntry) -> Result<()> {
        if brings.shape > ENTRY_VERSION {
            return Err(newer("entry"));
        }
        let text = upcast::entry(brings.shape, brings.body.get()).into_owned();
        let body = serde_json::from_str(&text).map_err(|why| {
            StoreError::Refused(refuse!("archive_unreadable", why = typed(&why.to_string())).at("body"))
        })?;
        let ArchivedEntry { id, system, at, recorded, by, device, amends, reason, .. } = brings;
        let entry = Entry { id, at, by, body, amends, reason };
        if let Some(there) = log::by_id(self.tx, id).await? {
            if there.system != system || there.entry != entry {
                return Err(StoreError::IdTaken);
            }
            self.brought.there += 1;
            return Ok(());
        }
        if !self.histories.contains_key(&system) {
            let history = facts::history_of(self.tx, system).await?.ok_or(StoreError::NotFound("system"))?;
            self.histories.insert(system, history);
        }
        let Some(history) = self.histories.get(&system) else { return Err(StoreError::NotFound("system")) };
        brought_entry(&entry, recorded, history, self.now).map_err(StoreError::Refused)?;
        if !matches!(facts::card(self.tx, by).await?.map(|card| card.card), Some(Card::Person(_))) {
            return Err(StoreError::NotFound("person"));
        }
        if let Some(amended) = amends {
            let there = log::by_id(self.tx, amended).await?.filter(|there| there.system == system);
            there.ok_or(StoreError::NotFound("entry"))?;
            if log::newest_amendment(self.tx, amended).await?.is_some() {
                return Err(StoreError::Refused(refuse!("archive_amended_twice").at("amends")));
            }
        }
        let seq = sqlx::query(
            "INSERT INTO entry (id, system, at, recorded, who, body, shape, device, amends, reason)
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING seq",
        )
        .bind(id.to_string())
        .bind(system.to_string())
        .bind(at.as_millisecond())
        .bind(recorded.as_millisecond())
        .bind(by.to_string())
        .bind(rows::to_json(&entry.body)?)
        .bind(ENTRY_VERSION)
        .bind(&device)
        .bind(amends.map(|amends| amends.to_string()))
        .bind(entry.reason.as_ref().map(Note::as_str))
        .fetch_one(&mut **self.tx)
        .await?;
        let logged = LoggedEntry { seq: seq.try_get("seq")?, system, recorded, device, entry };
        search::take_in(self.tx, &logged, history).await?;
        self.touched.insert(system);
        self.brought.entries += 1;
        Ok(())
    }

    async fn picture(&mut self, brings: ArchivedPicture) -> Result<()> {
        let there: i64 = sqlx::query_scalar("SELECT count(*) FROM picture WHERE id = ?")
            .bind(brings.id.to_string())
            .fetch_one(&mut **self.tx)
            .await?;
        if there > 0 {
            self.brought.there += 1;
            return Ok(());
        }
        let system = facts::card(self.tx, brings.system).await?.map(|card| card.card);
        let Some(Card::System(system)) = system else { return Err(StoreError::NotFound("system")) };
        if let Some(ports) = &brings.ports {
            ports.check(system.ports).at("ports").map_err(StoreError::Refused)?;
        }
        sqlx::query(
            "INSERT INTO picture (id, system, at, recorded, who, ports, note, width, height, bytes, small, image)
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(brings.id.to_string())
        .bind(brings.system.to_string())
        .bind(brings.at.as_millisecond())
        .bind(brings.recorded.as_millisecond())
        .bind(brings.by.to_string())
        .bind(brings.ports.as_ref().map(rows::to_json).transpose()?)
        .bind(brings.note.as_ref().map(Note::as_str))
        .bind(brings.width)
        .bind(brings.height)
        .bind(i64::try_from(brings.image.len()).unwrap_or(i64::MAX))
        .bind(&brings.small)
        .bind(&brings.image)
        .execute(&mut **self.tx)
        .await?;
        self.brought.pictures += 1;
        Ok(())
    }

    /// What a file takes is kept by this road as well.
    async fn within_limits(&mut self) -> Result<()> {
        let cards: i64 = sqlx::query_scalar("SELECT count(*) FROM card").fetch_one(&mut **self.tx).await?;
        if usize::try_from(cards).is_ok_and(|cards| cards > MOST_CARDS) {
            return Err(StoreError::Refused(refuse!("too_many_cards", most = count(MOST_CARDS))));
        }
        let crowded = "SELECT count(*) AS kept FROM picture GROUP BY system ORDER BY kept DESC LIMIT 1";
        let pictures: Option<i64> = sqlx::query_scalar(crowded).fetch_optional(&mut **self.tx).await?;
        if pictures.and_then(|kept| u32::try_from(kept).ok()).is_some_and(|kept| kept > MOST_PICTURES) {
            return Err(StoreError::Refused(refuse!("too_many_pictures", most = count(MOST_PICTURES))));
        }
        Ok(())
    }

    /// What the brought entries come to.
    async fn fold(&mut self) -> Result<()> {
        for system in std::mem::take(&mut self.touched) {
            let history = facts::history_of(self.tx, system).await?.ok_or(StoreError::NotFound("system"))?;
            projections::rebuild(self.tx, system, &history, self.tick).await?;
        }
        Ok(())
    }
}

fn newer(what: &'static str) -> StoreError {
    StoreError::Refused(refuse!("archive_newer", what = typed(what)).at("shape"))
}

impl Store {
    /// The file as it stands now, to be read in pieces while others go on writing.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn snapshot(&self) -> Result<Snapshot> {
        let mut connection = SqliteConnection::connect_with(&self.read.connect_options()).await?;
        // A transaction begins with its first look, and ends with the connection.
        for begin in ["BEGIN", "SELECT count(*) FROM tick"] {
            sqlx::query(begin).execute(&mut connection).await?;
        }
        Ok(Snapshot { connection })
    }

    /// A system by when it was how.
    ///
    /// # Errors
    /// `NotFound`, or when the file cannot be read.
    pub async fn history(&self, system: Uuid) -> Result<Timeline<System>> {
        let mut tx = self.read.begin().await?;
        facts::history_of(&mut tx, system).await?.ok_or(StoreError::NotFound("system"))
    }

    /// Brings in what `next` gives until it gives nothing more; all of it or nothing.
    ///
    /// # Errors
    /// What `next` says; what cannot be brought, by its refusal; when the file cannot be written.
    pub async fn bring(
        &self,
        now: Timestamp,
        next: &mut (dyn FnMut() -> Result<Option<Brings>> + Send),
    ) -> Result<Brought> {
        self.writing(async |tx| {
            let tick = next_tick(tx).await?;
            let mut bringing = Bringing {
                tx,
                now,
                tick,
                brought: Brought::default(),
                touched: BTreeSet::new(),
                histories: HashMap::new(),
            };
            while let Some(brings) = next()? {
                match brings {
                    Brings::Card(card) => bringing.card(card).await?,
                    Brings::Entry(entry) => bringing.entry(entry).await?,
                    Brings::Picture(picture) => bringing.picture(*picture).await?,
                }
            }
            bringing.within_limits().await?;
            bringing.fold().await?;
            let brought = bringing.brought;
            sqlx::query("UPDATE file_facts SET last_written = max(last_written, ?)")
                .bind(now.as_millisecond())
                .execute(&mut **tx)
                .await?;
            Ok(brought)
        })
        .await
    }
}
