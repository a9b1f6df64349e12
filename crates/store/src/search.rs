//! The log across systems: by time, and by what an entry is found by.
//!
//! What an entry is found by is worked out by the core ([`words_of`], [`tokens_of`]) and kept in a full-text index whose
//! rows stand in order of time, so that the newest that fit are read first and no more of them than a page.

use crate::log::{Thread, select_entries, threads_of};
use crate::{Fault, Rebuilding, Result, Store, StoreError, Tx, facts, rows};
use jiff::Timestamp;
use mopsel_core::fact::{Body, LoggedEntry, Sort, Timeline};
use mopsel_core::system::System;
use mopsel_core::words::{FOUND_BY, person_token, plain, sort_token, system_token, tokens_of, words_in, words_of};
use sqlx::{QueryBuilder, Row, Sqlite};
use std::collections::hash_map::Entry;
use std::collections::{BTreeSet, HashMap};
use uuid::Uuid;

/// What is looked for. Of each list one has to fit; an empty list asks for nothing.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Sought {
    /// In these systems; `None` for all of them.
    pub systems: Option<Vec<Uuid>>,
    /// By these people.
    pub people: Vec<Uuid>,
    /// Of these sorts.
    pub sorts: Vec<Sort>,
    /// With all of these words.
    pub words: Vec<SoughtWord>,
    /// Not before this moment.
    pub from: Option<Timestamp>,
    /// Before this moment.
    pub until: Option<Timestamp>,
}

/// The beginning of a word: of what an entry says, or of the name of a system or a person.
#[derive(Debug, Clone, PartialEq)]
pub struct SoughtWord {
    /// As it was typed.
    pub word: String,
    /// The systems that are called so.
    pub systems: Vec<Uuid>,
    /// The people that are called so.
    pub people: Vec<Uuid>,
}

impl Thread {
    /// Where it stands in the log.
    #[must_use]
    pub fn spot(&self) -> Spot {
        Spot::of(self.head.entry.at, self.head.seq)
    }
}

/// More words that begin alike are not named one by one.
const MOST_MEANT: usize = 64;
/// Bits of a row's number that are the entry's place in the log.
const PLACE_BITS: u32 = 20;
/// The index is gathered into one piece when it has grown by a twentieth, and by so many entries at least.
const GATHERED_AFTER: i64 = 1000;
/// Entries that are taken into the index in one transaction.
const AT_ONCE: i64 = 5000;

/// Where an entry stands in the log: by its time, then by its place. The number of its row in the index.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Spot(i64);

impl Spot {
    fn of(at: Timestamp, seq: i64) -> Self {
        Self((at.as_millisecond() << PLACE_BITS) | (seq & ((1 << PLACE_BITS) - 1)))
    }
}

/// Any of some tokens.
fn any_of(tokens: impl Iterator<Item = String>) -> String {
    tokens.map(|token| format!("\"{token}\"")).collect::<Vec<_>>().join(" OR ")
}

impl Sought {
    /// As the index is asked; nothing where time alone is asked for. `meant` are the words that begin like each of those
    /// that are looked for; none where they are too many to be named.
    fn asked(&self, meant: &[Vec<String>]) -> Option<String> {
        let mut all: Vec<String> = Vec::new();
        let mut tokens = |some: String| {
            if !some.is_empty() {
                all.push(format!("tokens : ({some})"));
            }
        };
        tokens(any_of(self.systems.iter().flatten().copied().map(system_token)));
        tokens(any_of(self.people.iter().copied().map(person_token)));
        tokens(any_of(self.sorts.iter().copied().map(sort_token)));
        for (n, SoughtWord { word, systems, people }) in self.words.iter().enumerate() {
            let named =
                any_of(systems.iter().copied().map(system_token).chain(people.iter().copied().map(person_token)));
            // What is typed stands between quotation marks: nothing in it is an operator.
            let typed = word.replace('"', "");
            let said = match meant.get(n).filter(|meant| !meant.is_empty()) {
                Some(words) => format!("said : ({})", any_of(words.iter().cloned())),
                None => format!("said : (\"{typed}\" *)"),
            };
            all.push(if named.is_empty() { said } else { format!("({said} OR tokens : ({named}))") });
        }
        (!all.is_empty()).then(|| all.join(" AND "))
    }
}

/// Takes an entry into the index, and what it replaced out of it.
pub(crate) async fn take_in(tx: &mut Tx<'_>, logged: &LoggedEntry, history: &Timeline<System>) -> Result<()> {
    if let Some(amended) = logged.entry.amends {
        let query = sqlx::query("SELECT at, seq FROM entry WHERE id = ?").bind(amended.to_string());
        if let Some(row) = query.fetch_optional(&mut **tx).await? {
            let spot = Spot::of(rows::time_in(&row, "at")?, row.try_get("seq")?);
            sqlx::query("DELETE FROM entry_words WHERE rowid = ?").bind(spot.0).execute(&mut **tx).await?;
        }
    }
    put(tx, logged, history).await?;
    sqlx::query("UPDATE words_kept SET upto = ? WHERE upto < ?1").bind(logged.seq).execute(&mut **tx).await?;
    Ok(())
}

async fn put(tx: &mut Tx<'_>, logged: &LoggedEntry, history: &Timeline<System>) -> Result<()> {
    let entry = &logged.entry;
    let said = words_of(entry, history.at(entry.at));
    let words: BTreeSet<String> = words_in(&said).collect();
    sqlx::query("INSERT OR IGNORE INTO said_word SELECT value FROM json_each(?)")
        .bind(rows::to_json(&words)?)
        .execute(&mut **tx)
        .await?;
    sqlx::query("INSERT OR REPLACE INTO entry_words (rowid, said, tokens) VALUES (?, ?, ?)")
        .bind(Spot::of(entry.at, logged.seq).0)
        .bind(said)
        .bind(tokens_of(entry, logged.system))
        .execute(&mut **tx)
        .await?;
    Ok(())
}

impl Store {
    /// The words that begin like each of those that are looked for.
    async fn meant(&self, sought: &Sought) -> Result<Vec<Vec<String>>> {
        if sought.words.is_empty() {
            return Ok(Vec::new());
        }
        let begin: Vec<String> = sought.words.iter().map(|SoughtWord { word, .. }| plain(word)).collect();
        let found: Vec<String> = sqlx::query_scalar(
            "SELECT (SELECT json_group_array(word) FROM (
                 SELECT word FROM said_word WHERE word >= w.value AND word < w.value || char(1114111) LIMIT 64
             )) FROM json_each(?) w ORDER BY w.key",
        )
        .bind(rows::to_json(&begin)?)
        .fetch_all(&self.read)
        .await?;
        let named = |words: Vec<String>| if words.len() == MOST_MEANT { Vec::new() } else { words };
        found.iter().map(|words| rows::from_json(words).map(named)).collect()
    }

    /// A page of the log over systems, newest first: where what stands and fits is. `before` is the time and the place of
    /// the last entry of the page before.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn find(&self, sought: &Sought, before: Option<(Timestamp, i64)>, limit: u32) -> Result<Vec<Spot>> {
        if sought.systems.as_ref().is_some_and(Vec::is_empty) {
            return Ok(Vec::new());
        }
        let Some(asked) = sought.asked(&self.meant(sought).await?) else {
            return self.by_time(sought, before, limit).await;
        };
        let low = sought.from.map_or(i64::MIN, |from| Spot::of(from, 0).0);
        let high = before.map_or(i64::MAX, |(at, seq)| Spot::of(at, seq).0);
        let high = high.min(sought.until.map_or(i64::MAX, |until| Spot::of(until, 0).0));
        // A bare parameter as a limit is planned by: the statement would be made anew for each page.
        let query = sqlx::query_scalar(
            "SELECT rowid FROM entry_words WHERE entry_words MATCH ?1 AND rowid >= ?2 AND rowid < ?3
             ORDER BY rowid DESC LIMIT ?4 + 0",
        );
        let found: Vec<i64> = query.bind(asked).bind(low).bind(high).bind(limit).fetch_all(&self.read).await?;
        Ok(found.into_iter().map(Spot).collect())
    }

    async fn by_time(&self, sought: &Sought, before: Option<(Timestamp, i64)>, limit: u32) -> Result<Vec<Spot>> {
        let (at, seq) = before.map_or((i64::MAX, i64::MAX), |(at, seq)| (at.as_millisecond(), seq));
        let found = sqlx::query(
            "SELECT at, seq FROM entry WHERE (at < ?1 OR (at = ?1 AND seq < ?2)) AND at >= ?3 AND at < ?4
             AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id)
             ORDER BY at DESC, seq DESC LIMIT ?5 + 0",
        )
        .bind(at)
        .bind(seq)
        .bind(sought.from.map_or(i64::MIN, Timestamp::as_millisecond))
        .bind(sought.until.map_or(i64::MAX, Timestamp::as_millisecond))
        .bind(limit)
        .fetch_all(&self.read)
        .await?;
        found.iter().map(|row| Ok(Spot::of(rows::time_in(row, "at")?, row.try_get("seq")?))).collect()
    }

    /// The entries at some places of the log, in their order, each with what it replaced.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn threads(&self, spots: &[Spot]) -> Result<Vec<Thread>> {
        let numbers: Vec<i64> = spots.iter().map(|spot| spot.0).collect();
        let found = sqlx::query(
            "SELECT e.seq, e.id, e.system, e.at, e.recorded, e.who, e.body, e.shape, e.device, e.amends, e.reason
             FROM json_each(?) s CROSS JOIN entry e
             ON e.at = (s.value >> 20) AND (e.seq & 1048575) = (s.value & 1048575) ORDER BY s.key",
        )
        .bind(rows::to_json(&numbers)?)
        .fetch_all(&self.read)
        .await?;
        threads_of(self, &found).await
    }

    /// Takes into the index what is not in it yet, all of it where it is kept in another version.
    pub(crate) async fn bring_words_up(&self, progress: &mut dyn FnMut(Rebuilding)) -> Result<()> {
        let of: i64 = sqlx::query_scalar("SELECT coalesce(max(seq), 0) FROM entry").fetch_one(&self.read).await?;
        let kept = sqlx::query("SELECT version, upto FROM words_kept").fetch_one(&self.read).await?;
        let (version, mut upto): (i64, i64) = (kept.try_get("version")?, kept.try_get("upto")?);
        if version != FOUND_BY {
            upto = 0;
            self.writing(async |tx| {
                sqlx::query("INSERT INTO entry_words (entry_words) VALUES ('delete-all')").execute(&mut **tx).await?;
                sqlx::query("UPDATE words_kept SET version = ?, upto = 0").bind(FOUND_BY).execute(&mut **tx).await?;
                Ok(())
            })
            .await?;
        }
        let mut histories: HashMap<Uuid, Option<Timeline<System>>> = HashMap::new();
        while upto < of {
            let next = (upto + AT_ONCE).min(of);
            self.writing(async |tx| {
                let mut query = QueryBuilder::<Sqlite>::new(select_entries!("WHERE seq > "));
                query.push_bind(upto).push(" AND seq <= ").push_bind(next);
                query.push(" AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id)");
                for row in query.build().fetch_all(&mut **tx).await? {
                    let logged = rows::entry(&row)?;
                    let history = match histories.entry(logged.system) {
                        Entry::Occupied(known) => known.into_mut(),
                        Entry::Vacant(vacant) => vacant.insert(facts::history_of(tx, logged.system).await?),
                    };
                    let history = history.as_ref();
                    if let Some(history) =
                        history.filter(|_| !matches!(logged.entry.body, Body::FromNewer | Body::Unreadable))
                    {
                        put(tx, &logged, history).await?;
                    }
                }
                sqlx::query("UPDATE words_kept SET upto = ?").bind(next).execute(&mut **tx).await?;
                Ok(())
            })
            .await?;
            upto = next;
            progress(Rebuilding::Words { done: upto, of });
        }
        match self.gather_words(of, progress).await {
            // It wants room for a while. A file is opened without it: what is not gathered is slower to search, no more.
            Err(StoreError::Fault(Fault::Full, _)) => Ok(()),
            gathered => gathered,
        }
    }

    /// Gathers the index into one piece when it has grown: each piece of it is looked into for each word.
    async fn gather_words(&self, of: i64, progress: &mut dyn FnMut(Rebuilding)) -> Result<()> {
        let gathered: i64 = sqlx::query_scalar("SELECT gathered FROM words_kept").fetch_one(&self.read).await?;
        if of - gathered < GATHERED_AFTER.max(of / 20) {
            return Ok(());
        }
        progress(Rebuilding::Gathering);
        self.writing(async |tx| {
            sqlx::query("INSERT INTO entry_words (entry_words) VALUES ('optimize')").execute(&mut **tx).await?;
            sqlx::query("UPDATE words_kept SET gathered = ?").bind(of).execute(&mut **tx).await?;
            Ok(())
        })
        .await
    }
}
