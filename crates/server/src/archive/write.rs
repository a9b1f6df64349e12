//! Making an archive, in one pass, so that it can be sent while it is made.

use super::csv::{self, Names, Wanted};
use super::manifest::{FileFacts, Manifest, hex};
use super::{
    CARDS, DELIVERIES, ENTRIES, FORMAT, LOGGERS, MANIFEST, PICTURES, VERSION, image_name, logger, schema, small_name,
};
use crate::book::Book;
use crate::{Clock, feed};
use jiff::Timestamp;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Actor, Body, Entry, Timeline};
use mopsel_core::system::System;
use mopsel_store::{ArchivedCard, ArchivedEntry, Snapshot, Store, StoreError};
use serde::Serialize;
use sha2::{Digest, Sha256};
use std::collections::HashMap;
use std::io::{self, Write};
use std::sync::{Arc, LazyLock, Mutex, PoisonError};
use uuid::Uuid;
use zip::write::{SimpleFileOptions, StreamWriter};
use zip::{CompressionMethod, ZipWriter};

/// Whoever wanted it went away.
#[derive(Debug)]
pub struct Cancelled;

/// Entries that are read at once.
const AT_ONCE: u32 = 500;
/// So much is gathered before it is sent on, in bytes.
const PIECE: usize = 64 * 1024;

const README: &str = "This is an archive of a Mopsel file: everything that was set up and recorded, in open formats.

manifest.json    what is in here, each file with its size and its SHA-256
cards.jsonl      places, people, meters, systems, plantings, products, recipes: every version of each, a line each
entries.jsonl    the log, a line an entry, in the order of recording; amended entries are followed by what replaces them
deliveries.jsonl which file or logger brought readings, a line each
loggers.csv      what loggers read, a line a moment: pH, EC in mS/cm at 25 degrees C, degrees C, litres, times in UTC
pictures.jsonl   what is known of each picture; its bytes are in pictures/
schema/          the JSON Schema (2020-12) of each kind of line
calendar/        what is due at each place, as of the day of the archive (iCalendar)
csv/             the same for a spreadsheet: units in the headers, times in UTC
unreadable.jsonl only where the data file is damaged: what could not be read, a line each, as it was found

Quantities in the JSON Lines: L, mL, mm, degrees C, EC as read with its scale. `mopsel import` takes the JSON Lines,
the readings of loggers and the pictures, into an empty file or beside what is there; csv/ is for people and other programs. Visits half done and running
timers are not in here.
";

/// The schemas of the lines: the same for every archive that this program makes.
static SCHEMAS: LazyLock<Vec<(&'static str, Vec<u8>)>> = LazyLock::new(|| {
    let schema = |kind| (kind, serde_json::to_vec_pretty(&schema::of(kind)).unwrap_or_default());
    ["card", "entry", "delivery", "picture"].map(schema).into()
});

/// What was written and not yet sent.
#[derive(Clone, Default)]
struct Pipe(Arc<Mutex<Vec<u8>>>);

impl Write for Pipe {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner).extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

impl Pipe {
    fn take(&self, least: usize) -> Option<Vec<u8>> {
        let mut held = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        (held.len() >= least && !held.is_empty()).then(|| std::mem::take(&mut *held))
    }
}

/// An archive while it is made.
struct Making<S> {
    zip: ZipWriter<StreamWriter<Pipe>>,
    pipe: Pipe,
    send: S,
    files: Vec<FileFacts>,
    open: Option<(String, u64, Sha256)>,
    snapshot: Snapshot,
}

/// What can go wrong meanwhile.
pub type Made<T> = Result<Result<T, Cancelled>, StoreError>;

fn broken(error: impl std::fmt::Display) -> StoreError {
    StoreError::Corrupt(format!("the archive could not be made: {error}"))
}

/// Packs some more of the file that is open, and counts it in.
fn put_into(
    zip: &mut ZipWriter<StreamWriter<Pipe>>,
    open: &mut Option<(String, u64, Sha256)>,
    bytes: &[u8],
) -> Result<(), StoreError> {
    zip.write_all(bytes).map_err(broken)?;
    if let Some((_, length, sum)) = open {
        *length += bytes.len() as u64;
        sum.update(bytes);
    }
    Ok(())
}

/// Goes on, or ends where somebody went away.
macro_rules! go {
    ($made:expr) => {
        match $made? {
            Ok(value) => value,
            Err(cancelled) => return Ok(Err(cancelled)),
        }
    };
}

impl<S: AsyncFnMut(Vec<u8>) -> Result<(), Cancelled>> Making<S> {
    fn begin(&mut self, name: &str, packed: bool) -> Result<(), StoreError> {
        let method = if packed { CompressionMethod::Stored } else { CompressionMethod::Deflated };
        // Millions of lines of the same few words pack well however little is tried.
        let level = (name == LOGGERS).then_some(1);
        let options = SimpleFileOptions::default().compression_method(method).compression_level(level).large_file(true);
        self.zip.start_file(name, options).map_err(broken)?;
        self.open = Some((name.to_owned(), 0, Sha256::new()));
        Ok(())
    }

    async fn put(&mut self, bytes: &[u8]) -> Made<()> {
        put_into(&mut self.zip, &mut self.open, bytes)?;
        self.pass_on(PIECE).await
    }

    async fn pass_on(&mut self, least: usize) -> Made<()> {
        match self.pipe.take(least) {
            Some(piece) => Ok((self.send)(piece).await),
            None => Ok(Ok(())),
        }
    }

    fn end(&mut self) {
        if let Some((name, bytes, sum)) = self.open.take() {
            self.files.push(FileFacts { name, bytes, sha256: hex(&sum.finalize()) });
        }
    }

    async fn whole(&mut self, name: &str, bytes: &[u8], packed: bool) -> Made<()> {
        self.begin(name, packed)?;
        go!(self.put(bytes).await);
        self.end();
        Ok(Ok(()))
    }

    /// A file with a line for each entry that gives one.
    async fn of_entries(
        &mut self,
        name: &str,
        head: &str,
        line: impl Fn(&ArchivedEntry) -> Result<Option<String>, StoreError>,
    ) -> Made<()> {
        self.begin(name, false)?;
        go!(self.put(head.as_bytes()).await);
        let mut after = 0;
        loop {
            let Some((last, some)) = self.snapshot.entries(after, AT_ONCE).await? else { break };
            after = last;
            for entry in &some {
                if let Some(line) = line(entry)? {
                    go!(self.put(line.as_bytes()).await);
                }
            }
        }
        self.end();
        Ok(Ok(()))
    }
}

/// What can be read of a damaged file is enough; any other fault ends it.
fn unless_damaged<T: Default>(found: Result<T, StoreError>) -> Result<T, StoreError> {
    match found {
        Err(error) if error.is_damage() => Ok(T::default()),
        found => found,
    }
}

fn json_line(value: &impl Serialize) -> Result<String, StoreError> {
    let mut text = serde_json::to_string(value).map_err(broken)?;
    text.push('\n');
    Ok(text)
}

/// What the tables need of the cards: names, and systems by when they were how.
#[derive(Default)]
struct Known {
    names: HashMap<Uuid, String>,
    parents: HashMap<Uuid, Uuid>,
    systems: HashMap<Uuid, Timeline<System>>,
}

impl Known {
    fn name(&self, id: Uuid) -> &str {
        self.names.get(&id).map_or("", String::as_str)
    }

    /// An entry as it is read, with its system and its names; nothing for one of a release to come.
    fn entry<T>(&self, archived: &ArchivedEntry, say: impl Fn(&Entry, &System, &Names<'_>) -> T) -> Option<T> {
        let system = self.systems.get(&archived.system)?;
        let body: Body = serde_json::from_str(archived.body.get()).ok()?;
        let ArchivedEntry { id, at, by, amends, reason, .. } = archived.clone();
        let entry = Entry { id, at, by, body, amends, reason };
        let place = self.parents.get(&archived.system).copied().unwrap_or_default();
        let names = Names { place: self.name(place), system: self.name(archived.system), person: self.name(by) };
        Some(say(&entry, system.at(at), &names))
    }
}

/// The newest version of each card, and what the tables need of all of them.
async fn known(store: &Store, cards: &[ArchivedCard]) -> Result<(Known, Vec<(ArchivedCard, Card)>), StoreError> {
    let mut known = Known::default();
    let mut newest: HashMap<Uuid, (ArchivedCard, Card)> = HashMap::new();
    for archived in cards {
        let Ok(card) = serde_json::from_str::<Card>(archived.card.get()) else { continue };
        known.names.insert(archived.id, card.name().to_owned());
        if let Some(parent) = archived.parent {
            known.parents.insert(archived.id, parent);
        }
        newest.insert(archived.id, (archived.clone(), card));
    }
    let mut all: Vec<(ArchivedCard, Card)> = newest.into_values().collect();
    all.sort_by(|a, b| (a.1.code(), a.1.name(), a.0.id).cmp(&(b.1.code(), b.1.name(), b.0.id)));
    for (archived, card) in &all {
        if let Card::System(_) = card {
            match store.history(archived.id).await {
                Ok(history) => drop(known.systems.insert(archived.id, history)),
                // On whose days it was set up cannot be read: it is in no table, and in the lines all the same.
                Err(error) if error.is_damage() => {}
                Err(error) => return Err(error),
            }
        }
    }
    Ok((known, all))
}

/// Makes an archive of a file as it stands now, and hands it on piece by piece; gives how many rows could not be read. It
/// ends where `send` says that nobody wants it any more.
///
/// # Errors
/// When the file cannot be read.
pub async fn write<S>(store: &Store, wanted: Wanted, now: Timestamp, send: S) -> Made<usize>
where
    S: AsyncFnMut(Vec<u8>) -> Result<(), Cancelled>,
{
    let mut snapshot = store.snapshot().await?;
    let cards = snapshot.cards().await?;
    let (known, newest) = known(store, &cards).await?;
    let pipe = Pipe::default();
    let zip = ZipWriter::new_stream(pipe.clone());
    let mut making = Making { zip, pipe, send, files: Vec::new(), open: None, snapshot };
    go!(making.whole("README.txt", README.as_bytes(), false).await);
    for (kind, schema) in SCHEMAS.iter() {
        go!(making.whole(&format!("schema/{kind}.schema.json"), schema, false).await);
    }
    making.begin(CARDS, false)?;
    for card in &cards {
        go!(making.put(json_line(card)?.as_bytes()).await);
    }
    making.end();
    go!(making.of_entries(ENTRIES, "", |entry| json_line(entry).map(Some)).await);
    making.begin(DELIVERIES, false)?;
    for delivery in unless_damaged(making.snapshot.deliveries().await)? {
        go!(making.put(json_line(&delivery)?.as_bytes()).await);
    }
    making.end();
    go!(making.of_loggers().await);
    let mut lines = String::new();
    let mut after = String::new();
    while let Some(picture) = unless_damaged(making.snapshot.picture(&after).await)? {
        after = picture.id.to_string();
        lines.push_str(&json_line(&picture)?);
        go!(making.whole(&image_name(picture.id), &picture.image, true).await);
        go!(making.whole(&small_name(picture.id), &picture.small, true).await);
    }
    go!(making.whole(PICTURES, lines.as_bytes(), false).await);
    let mut table = csv::cards_head();
    for (archived, card) in &newest {
        let hangs_on = archived.parent.map_or("", |parent| known.name(parent));
        table.push_str(&csv::card(&archived.id.to_string(), hangs_on, archived.archived, card));
    }
    go!(making.whole("csv/cards.csv", table.as_bytes(), false).await);
    let stands = |archived: &ArchivedEntry, replaced: &HashMap<Uuid, ()>| !replaced.contains_key(&archived.id);
    let replaced = go!(making.replaced().await);
    let readings = |archived: &ArchivedEntry| {
        let said = known.entry(archived, |entry, system, names| wanted.readings(entry, system, names));
        Ok(said.flatten().filter(|_| stands(archived, &replaced)))
    };
    go!(making.of_entries("csv/readings.csv", &wanted.readings_head(), readings).await);
    let said = |archived: &ArchivedEntry| {
        let said = known.entry(archived, |entry, system, names| wanted.said(entry, system, names));
        Ok(said.filter(|_| stands(archived, &replaced)))
    };
    go!(making.of_entries("csv/log.csv", &csv::said_head(), said).await);
    // What is due, as it was told that day; it follows from the rest, and is not brought in.
    let book = Book::new(store.clone(), Clock::Standing(now));
    let pages = match book.whole().await {
        Ok(pages) => Some(pages),
        // Of a damaged file what can be read is taken along; what follows from all of it cannot be told.
        Err(_) if making.snapshot.unreadable().next().is_some() => None,
        Err(error) => return Err(broken(error)),
    };
    if let Some(pages) = &pages {
        for place in pages.places.values().filter(|place| !place.card.archived) {
            let Ok(calendar) = feed::of_place(pages, place, &Actor::default(), now) else { continue };
            go!(making.whole(&format!("calendar/{}.ics", place.card.id), calendar.as_bytes(), false).await);
        }
    }
    let mut lines = String::new();
    for found in making.snapshot.unreadable() {
        lines.push_str(&json_line(found)?);
    }
    if !lines.is_empty() {
        go!(making.whole("unreadable.jsonl", lines.as_bytes(), false).await);
    }
    let manifest = Manifest {
        format: FORMAT.to_owned(),
        version: VERSION,
        program: env!("CARGO_PKG_VERSION").to_owned(),
        made: now.to_string(),
        files: std::mem::take(&mut making.files),
    };
    let manifest = serde_json::to_vec_pretty(&manifest).map_err(broken)?;
    go!(making.whole(MANIFEST, &manifest, false).await);
    let Making { zip, pipe, mut send, snapshot, .. } = making;
    zip.finish().map_err(broken)?;
    let lost = snapshot.unreadable().count();
    match pipe.take(1) {
        Some(piece) => Ok(send(piece).await.map(|()| lost)),
        None => Ok(Ok(lost)),
    }
}

impl<S: AsyncFnMut(Vec<u8>) -> Result<(), Cancelled>> Making<S> {
    /// What loggers read: read on while the last of it is packed.
    async fn of_loggers(&mut self) -> Made<()> {
        self.begin(LOGGERS, false)?;
        go!(self.put(logger::head().as_bytes()).await);
        let (mut text, mut lines) = (String::new(), logger::Lines::default());
        let Self { zip, pipe, send, open, snapshot, .. } = self;
        let passed = snapshot.sensed(async |some| {
            text.clear();
            some.iter().for_each(|one| lines.add(&mut text, one));
            put_into(zip, open, text.as_bytes()).map_err(Some)?;
            match pipe.take(PIECE) {
                Some(piece) => send(piece).await.map_err(|_| None),
                None => Ok(()),
            }
        });
        match passed.await? {
            Err(Some(error)) => return Err(error),
            Err(None) => return Ok(Err(Cancelled)),
            Ok(()) => self.end(),
        }
        Ok(Ok(()))
    }

    /// The entries that were replaced: they are in the log, and not in the tables.
    async fn replaced(&mut self) -> Made<HashMap<Uuid, ()>> {
        let (mut after, mut replaced) = (0, HashMap::new());
        loop {
            let Some((last, some)) = self.snapshot.entries(after, AT_ONCE).await? else { return Ok(Ok(replaced)) };
            after = last;
            replaced.extend(some.iter().filter_map(|entry| Some((entry.amends?, ()))));
        }
    }
}
