//! The log across systems: by time, and by what an entry is found by.
//!
//! What an entry is found by is worked out by the core ([`words_of`], [`tokens_of`]) and kept in a full-text index whose
//! rows stand in order of time, so that the newest that fit are read first and no more of them than a page.

use crate::log::{Thread, select_entries, threads_of};
use crate::{Rebuilding, Result, Store, Tx, facts, rows};
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

/// More words that begin alike are not named one by one.
const MOST_MEANT: i64 = 64;
/// Bits of a row's number that are the entry's place in the log.
const PLACE_BITS: u32 = 20;
/// Entries that are taken into the index in one transaction.
const AT_ONCE: i64 = 5000;

/// The number of an entry's row.
fn row_of(at: Timestamp, seq: i64) -> i64 {
    (at.as_millisecond() << PLACE_BITS) | (seq & ((1 << PLACE_BITS) - 1))
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
            let whole = meant.get(n).filter(|meant| !meant.is_empty());
            let said = match whole {
                Some(words) => format!("said : ({})", any_of(words.iter().cloned().chain([typed]))),
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
            let at = rows::time_in(&row, "at")?;
            let row = row_of(at, row.try_get("seq")?);
            sqlx::query("DELETE FROM entry_words WHERE rowid = ?").bind(row).execute(&mut **tx).await?;
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
        .bind(row_of(entry.at, logged.seq))
        .bind(said)
        .bind(tokens_of(entry, logged.system))
        .execute(&mut **tx)
        .await?;
    Ok(())
}

impl Store {
    /// The words that begin like each of those that are looked for.
    async fn meant(&self, sought: &Sought) -> Result<Vec<Vec<String>>> {
        let mut all = Vec::with_capacity(sought.words.len());
        for SoughtWord { word, .. } in &sought.words {
            let begins = plain(word);
            let query = sqlx::query_scalar("SELECT word FROM said_word WHERE word >= ? AND word < ? LIMIT ?");
            let ends = format!("{begins}\u{10ffff}");
            let words: Vec<String> = query.bind(&begins).bind(ends).bind(MOST_MEANT).fetch_all(&self.read).await?;
            all.push(if words.len() as i64 == MOST_MEANT { Vec::new() } else { words });
        }
        Ok(all)
    }

    /// A page of the log over systems, newest first: what stands, each with what it replaced. `before` is the time and the
    /// place of the last entry of the page before.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn find(&self, sought: &Sought, before: Option<(Timestamp, i64)>, limit: u32) -> Result<Vec<Thread>> {
        if sought.systems.as_ref().is_some_and(Vec::is_empty) {
            return Ok(Vec::new());
        }
        let (at, seq) = before.map_or((i64::MAX, i64::MAX), |(at, seq)| (at.as_millisecond(), seq));
        let from = sought.from.map_or(i64::MIN, Timestamp::as_millisecond);
        let until = sought.until.map_or(i64::MAX, Timestamp::as_millisecond);
        let found = match sought.asked(&self.meant(sought).await?) {
            None => {
                sqlx::query(select_entries!(
                    "WHERE (at < ?1 OR (at = ?1 AND seq < ?2)) AND at >= ?3 AND at < ?4
                     AND NOT EXISTS (SELECT 1 FROM entry later WHERE later.amends = entry.id)
                     ORDER BY at DESC, seq DESC LIMIT ?5"
                ))
                .bind(at)
                .bind(seq)
                .bind(from)
                .bind(until)
                .bind(limit)
                .fetch_all(&self.read)
                .await?
            }
            Some(asked) => {
                let low = sought.from.map_or(i64::MIN, |from| row_of(from, 0));
                let high = before.map_or(i64::MAX, |(at, seq)| row_of(at, seq));
                let high = high.min(sought.until.map_or(i64::MAX, |until| row_of(until, 0)));
                sqlx::query(
                    "SELECT e.seq, e.id, e.system, e.at, e.recorded, e.who, e.body, e.shape, e.device, e.amends, e.reason
                     FROM entry_words w CROSS JOIN entry e
                     ON e.at = (w.rowid >> 20) AND (e.seq & 1048575) = (w.rowid & 1048575)
                     WHERE w.entry_words MATCH ?1 AND w.rowid >= ?2 AND w.rowid < ?3
                     ORDER BY w.rowid DESC LIMIT ?4",
                )
                .bind(asked)
                .bind(low)
                .bind(high)
                .bind(limit)
                .fetch_all(&self.read)
                .await?
            }
        };
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
                    if let Some(history) = history.filter(|_| logged.entry.body != Body::FromNewer) {
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
        Ok(())
    }
}
