//! The gate: a command is decided by the core on what stands inside the write transaction, and what
//! it decided is written before that ends.

use crate::{
    Result, Standing, Store, StoreError, Tx, accounts, facts, next_tick, pictures, projections, rows, search, sensed,
};
use jiff::Timestamp;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::upcast::{CARD_VERSION, ENTRY_VERSION};
use mopsel_core::fact::{Account, Actor, Draft, Entry, LoggedEntry, NewCard, Picture, StoredCard, StoredRun, Timer};
use mopsel_core::gate::{CardWrite, Command, Decision, Facts, Meets, Refused, SystemFacts, decide, likely};
use mopsel_core::quantity::Note;
use sqlx::Row;
use uuid::Uuid;

/// What a command came to.
#[derive(Debug, Clone)]
pub enum Outcome {
    /// An entry, and whether it had been there already.
    Entry(Box<LoggedEntry>, bool),
    /// A visit half done.
    Draft(Box<Draft>),
    /// A change under way.
    Run(Box<StoredRun>),
    /// A card.
    Card(Box<StoredCard>),
    /// A timer.
    Timer(Box<Timer>),
    /// A picture.
    Picture(Box<Picture>),
    /// An account.
    Account(Box<Account>),
    /// Nothing is left of it.
    Gone,
}

impl Store {
    /// Carries out a command, or says why not.
    ///
    /// # Errors
    /// What the gate refuses; `Conflict` with what stands where somebody else was faster; `ReadOnly`
    /// for a file that is only read; when the file cannot be written, and then nothing is.
    pub async fn submit(&self, command: &Command, actor: &Actor, now: Timestamp) -> Result<Outcome> {
        self.writing(async |tx| {
            let actor = &accounts::granted(tx, actor, now).await?;
            let facts = facts::of(tx, command, actor, now).await?;
            let person = facts::person(tx, actor).await?;
            match decide(command, &facts, actor, person.as_ref(), now) {
                // What was carried out before gets its first answer, whatever the clock says since.
                Ok(Decision::Already) => already(command, facts),
                Ok(decision) => {
                    likely(now, last_written(tx).await?, actor)?;
                    let outcome = carry_out(tx, command, &facts, decision, actor, now).await?;
                    sqlx::query("UPDATE file_facts SET last_written = ?")
                        .bind(now.as_millisecond())
                        .execute(&mut **tx)
                        .await?;
                    Ok(outcome)
                }
                Err(Refused::Refusal(refusal)) => Err(StoreError::Refused(refusal)),
                Err(Refused::NotFound(what)) => Err(StoreError::NotFound(what)),
                Err(Refused::IdTaken) => Err(StoreError::IdTaken),
                Err(Refused::Conflict(meets)) => Err(StoreError::Conflict(standing(meets, facts)?)),
            }
        })
        .await
    }

    /// Adds many entries of one system as they are and folds once: for filling a file that nobody
    /// works on, with what was checked before.
    ///
    /// # Errors
    /// When the file cannot be written; then nothing of it is kept.
    pub async fn fill(&self, system: Uuid, entries: &[Entry], now: Timestamp) -> Result<()> {
        self.writing(async |tx| {
            let history = facts::history_of(tx, system).await?.ok_or(StoreError::NotFound("system"))?;
            for entry in entries {
                let logged = insert_entry(tx, system, entry, None, now).await?;
                search::take_in(tx, &logged, &history).await?;
            }
            let tick = next_tick(tx).await?;
            projections::rebuild(tx, system, &history, tick).await.map(|_| ())
        })
        .await
    }
}

/// The latest time at which anything was written; `None` while nothing was.
async fn last_written(tx: &mut Tx<'_>) -> Result<Option<Timestamp>> {
    let last: i64 = sqlx::query_scalar("SELECT last_written FROM file_facts").fetch_one(&mut **tx).await?;
    Ok(Timestamp::from_millisecond(last).ok().filter(|_| last > 0))
}

fn gone() -> StoreError {
    StoreError::Corrupt("what was there a moment ago is not".to_owned())
}

/// What stands where two writers met.
fn standing(meets: Meets, facts: Facts) -> Result<Standing> {
    let found = match (meets, facts) {
        (Meets::Card, Facts::Card(facts)) => facts.there.map(|card| Standing::Card(Box::new(card))),
        (Meets::Amendment, Facts::System(at)) => at.newest.map(|entry| Standing::Entry(Box::new(entry))),
        (Meets::Draft, Facts::System(at)) => at.draft.or(at.closing).map(|draft| Standing::Draft(Box::new(draft))),
        (Meets::Run, Facts::System(at)) => at.run.map(|run| Standing::Run(Box::new(run))),
        (Meets::Account, Facts::Account(facts)) => facts.there.map(|there| Standing::Account(Box::new(there))),
        _ => None,
    };
    found.ok_or_else(gone)
}

/// The first answer again, for a request that was carried out before.
fn already(command: &Command, facts: Facts) -> Result<Outcome> {
    let found = match (command, facts) {
        (Command::Add(..) | Command::FinishChange { .. }, Facts::System(at)) => {
            at.entry.map(|entry| Outcome::Entry(Box::new(entry), true))
        }
        (Command::DropDraft(_) | Command::DropChange(_), _) => Some(Outcome::Gone),
        (Command::SaveDraft { .. }, Facts::System(at)) => at.draft.map(|draft| Outcome::Draft(Box::new(draft))),
        (Command::SaveChange { .. }, Facts::System(at)) => at.run.map(|run| Outcome::Run(Box::new(run))),
        (_, Facts::Card(facts)) => facts.there.map(|card| Outcome::Card(Box::new(card))),
        (Command::ErasePicture { .. }, _) => Some(Outcome::Gone),
        (_, Facts::Picture(_, facts)) => facts.there.map(|picture| Outcome::Picture(Box::new(picture))),
        (_, Facts::Timer(facts)) => facts.there.map(|timer| Outcome::Timer(Box::new(timer))),
        (_, Facts::Account(facts)) => facts.there.map(|account| Outcome::Account(Box::new(account))),
        _ => None,
    };
    found.ok_or_else(gone)
}

async fn carry_out(
    tx: &mut Tx<'_>,
    command: &Command,
    facts: &Facts,
    decision: Decision,
    actor: &Actor,
    now: Timestamp,
) -> Result<Outcome> {
    match (decision, facts) {
        (Decision::Append(entry), Facts::System(at)) => append(tx, at, *entry, vec![], actor, now).await,
        (Decision::AppendAndTurn(entry, turned), Facts::System(at)) => append(tx, at, *entry, turned, actor, now).await,
        (Decision::KeepDraft(draft), _) => {
            keep_draft(tx, &draft).await?;
            Ok(Outcome::Draft(draft))
        }
        (Decision::KeepRun(run), _) => {
            keep_run(tx, &run).await?;
            Ok(Outcome::Run(run))
        }
        (Decision::KeepCard(card), _) => keep_card(tx, command, *card, actor, now).await,
        (Decision::KeepTimer(timer, replaces), _) => {
            for id in replaces {
                dismiss_timer(tx, id, now).await?;
            }
            let account = actor.grant.as_ref().map(|grant| grant.account);
            let timer = Box::new(Timer { account, ..*timer });
            keep_timer(tx, &timer).await?;
            Ok(Outcome::Timer(timer))
        }
        (Decision::KeepPicture(picture), _) => {
            let Command::KeepPicture(_, new) = command else { return Err(gone()) };
            pictures::keep(tx, &picture, new, now).await?;
            Ok(Outcome::Picture(picture))
        }
        (Decision::KeepAccount(account), _) => {
            accounts::keep(tx, &account).await?;
            Ok(Outcome::Account(account))
        }
        (Decision::Remove, _) => {
            remove(tx, command, actor, now).await?;
            Ok(Outcome::Gone)
        }
        (Decision::Append(_) | Decision::AppendAndTurn(..) | Decision::Already, _) => Err(gone()),
    }
}

/// Adds an entry, with the cards that it turns, and folds what it comes to.
async fn append(
    tx: &mut Tx<'_>,
    at: &SystemFacts,
    entry: Entry,
    turned: Vec<CardWrite>,
    actor: &Actor,
    now: Timestamp,
) -> Result<Outcome> {
    let logged = insert_entry(tx, at.id, &entry, actor.device.as_deref(), now).await?;
    search::take_in(tx, &logged, &at.history).await?;
    let tick = next_tick(tx).await?;
    let mut times = vec![entry.at];
    times.extend(at.amended.as_ref().map(|amended| amended.entry.at));
    if sensed::retouch(tx, at.id, &times).await? {
        projections::rebuild(tx, at.id, &at.history, tick).await?;
    } else {
        projections::bring_up(tx, at.id, &at.history, &logged.entry, tick).await?;
    }
    for over in ["DELETE FROM draft WHERE id = ?", "DELETE FROM change_run WHERE id = ?"] {
        sqlx::query(over).bind(entry.id.to_string()).execute(&mut **tx).await?;
    }
    for write in &turned {
        put_and_fold(tx, write, None, By { who: actor.person, entry: Some(entry.id), at: now }, tick).await?;
    }
    Ok(Outcome::Entry(Box::new(logged), false))
}

/// Adds a row to the log, as recorded at `now`.
pub(crate) async fn insert_entry(
    tx: &mut Tx<'_>,
    system: Uuid,
    entry: &Entry,
    device: Option<&str>,
    now: Timestamp,
) -> Result<LoggedEntry> {
    let row = sqlx::query(
        "INSERT INTO entry (id, system, at, recorded, who, body, shape, device, amends, reason)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING seq",
    )
    .bind(entry.id.to_string())
    .bind(system.to_string())
    .bind(entry.at.as_millisecond())
    .bind(now.as_millisecond())
    .bind(entry.by.to_string())
    .bind(rows::to_json(&entry.body)?)
    .bind(ENTRY_VERSION)
    .bind(device)
    .bind(entry.amends.map(|amends| amends.to_string()))
    .bind(entry.reason.as_ref().map(Note::as_str))
    .fetch_one(&mut **tx)
    .await?;
    let device = device.map(str::to_owned);
    Ok(LoggedEntry { seq: row.try_get("seq")?, system, recorded: now, device, entry: entry.clone() })
}

async fn keep_draft(tx: &mut Tx<'_>, draft: &Draft) -> Result<()> {
    sqlx::query(
        "INSERT OR REPLACE INTO draft (system, who, id, version, body, shape, at, read_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(draft.system.to_string())
    .bind(draft.who.to_string())
    .bind(draft.id.to_string())
    .bind(draft.version)
    .bind(rows::to_json(&draft.visit)?)
    .bind(ENTRY_VERSION)
    .bind(draft.at.to_string())
    .bind(draft.read_at.map(|at| at.to_string()))
    .execute(&mut **tx)
    .await?;
    Ok(())
}

async fn keep_run(tx: &mut Tx<'_>, run: &StoredRun) -> Result<()> {
    sqlx::query(
        "INSERT OR REPLACE INTO change_run (system, id, who, version, body, started, at) VALUES (?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(run.system.to_string())
    .bind(run.id.to_string())
    .bind(run.who.to_string())
    .bind(run.version)
    .bind(rows::to_json(&run.run)?)
    .bind(run.started.as_millisecond())
    .bind(run.at.as_millisecond())
    .execute(&mut **tx)
    .await?;
    Ok(())
}

async fn dismiss_timer(tx: &mut Tx<'_>, id: Uuid, now: Timestamp) -> Result<()> {
    let query = sqlx::query("UPDATE timer SET dismissed = ? WHERE id = ? AND dismissed IS NULL");
    query.bind(now.as_millisecond()).bind(id.to_string()).execute(&mut **tx).await?;
    Ok(())
}

async fn keep_timer(tx: &mut Tx<'_>, timer: &Timer) -> Result<()> {
    sqlx::query("INSERT INTO timer (id, system, what, label, started, ends, account) VALUES (?, ?, ?, ?, ?, ?, ?)")
        .bind(timer.id.to_string())
        .bind(timer.system.map(|system| system.to_string()))
        .bind(rows::wait_code(timer.what)?)
        .bind(&timer.label)
        .bind(timer.started.as_millisecond())
        .bind(timer.ends.as_millisecond())
        .bind(timer.account.map(|account| account.to_string()))
        .execute(&mut **tx)
        .await?;
    Ok(())
}

async fn keep_card(
    tx: &mut Tx<'_>,
    command: &Command,
    write: CardWrite,
    actor: &Actor,
    now: Timestamp,
) -> Result<Outcome> {
    let tick = next_tick(tx).await?;
    let made = if let Command::MakeCard(made) = command { Some(&**made) } else { None };
    put_and_fold(tx, &write, made, By { who: actor.person, entry: None, at: now }, tick).await?;
    Ok(Outcome::Card(Box::new(write.card)))
}

/// How a version of a card came about.
#[derive(Debug, Clone, Copy)]
pub(crate) struct By {
    /// The person who made it, where that is known.
    pub who: Option<Uuid>,
    /// The entry of the log that turned it, where it was one.
    pub entry: Option<Uuid>,
    /// When.
    pub at: Timestamp,
}

async fn put_and_fold(
    tx: &mut Tx<'_>,
    CardWrite { card, new }: &CardWrite,
    made: Option<&NewCard>,
    by: By,
    tick: i64,
) -> Result<()> {
    let before = if *new { None } else { facts::card(tx, card.id).await? };
    put_card(tx, card, made, by, tick).await?;
    fold_anew(tx, card, before.as_ref(), tick).await
}

/// Writes a version of a card: the first one, with what it was made from, or one on top of those that are there. With it
/// stands how it came about.
pub(crate) async fn put_card(
    tx: &mut Tx<'_>,
    card: &StoredCard,
    made: Option<&NewCard>,
    By { who, entry, at }: By,
    tick: i64,
) -> Result<()> {
    let body = rows::to_json(&card.card)?;
    let holds_from = rows::holds_from(card.holds);
    if card.version == 1 {
        sqlx::query(
            "INSERT INTO card (id, kind, parent, version, archived, body, shape, holds_from, made_from, changed)
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(card.id.to_string())
        .bind(card.card.code())
        .bind(card.parent.map(|parent| parent.to_string()))
        .bind(card.version)
        .bind(i64::from(card.archived))
        .bind(&body)
        .bind(CARD_VERSION)
        .bind(&holds_from)
        .bind(made.map(rows::to_json).transpose()?.unwrap_or_default())
        .bind(tick)
        .execute(&mut **tx)
        .await?;
    } else {
        sqlx::query(
            "UPDATE card SET version = ?, archived = ?, body = ?, shape = ?, holds_from = ?, changed = ? WHERE id = ?",
        )
        .bind(card.version)
        .bind(i64::from(card.archived))
        .bind(&body)
        .bind(CARD_VERSION)
        .bind(&holds_from)
        .bind(tick)
        .bind(card.id.to_string())
        .execute(&mut **tx)
        .await?;
    }
    sqlx::query(
        "INSERT INTO card_version (card, version, archived, body, shape, holds_from, at, who, entry)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(card.id.to_string())
    .bind(card.version)
    .bind(i64::from(card.archived))
    .bind(&body)
    .bind(CARD_VERSION)
    .bind(&holds_from)
    .bind(at.to_string())
    .bind(who.map(|who| who.to_string()))
    .bind(entry.map(|entry| entry.to_string()))
    .execute(&mut **tx)
    .await?;
    Ok(())
}

/// What a card's edit makes outdated is folded anew: a system's own log, or those of a place whose days
/// begin at another hour now.
async fn fold_anew(tx: &mut Tx<'_>, card: &StoredCard, before: Option<&StoredCard>, tick: i64) -> Result<()> {
    match (&card.card, before.map(|before| &before.card)) {
        (Card::System(_), _) => {
            // How long a pour mixes is the system's; nothing else of it moves what a day comes to.
            if !facts::mixes_alike(tx, card.id).await? {
                sensed::condense_all(tx, card.id).await?;
            }
            if let Some(history) = facts::history_of(tx, card.id).await? {
                projections::rebuild(tx, card.id, &history, tick).await?;
            }
        }
        (Card::Place(now), Some(Card::Place(was))) if now.zone != was.zone => {
            let query = sqlx::query_scalar("SELECT id FROM card WHERE parent = ? AND kind = 'system'");
            let systems: Vec<String> = query.bind(card.id.to_string()).fetch_all(&mut **tx).await?;
            for system in systems {
                let system = rows::id(&system)?;
                sensed::condense_all(tx, system).await?;
                if let Some(history) = facts::history_of(tx, system).await? {
                    projections::rebuild(tx, system, &history, tick).await?;
                }
            }
        }
        _ => {}
    }
    Ok(())
}

/// Remembers that something half done was put away.
async fn put_away(tx: &mut Tx<'_>, id: Uuid) -> Result<()> {
    let query = sqlx::query("INSERT INTO put_away (id) VALUES (?) ON CONFLICT DO NOTHING").bind(id.to_string());
    query.execute(&mut **tx).await?;
    Ok(())
}

async fn remove(tx: &mut Tx<'_>, command: &Command, actor: &Actor, now: Timestamp) -> Result<()> {
    match command {
        Command::DropDraft(seen) => {
            put_away(tx, seen.id).await?;
            let query = sqlx::query("DELETE FROM draft WHERE system = ? AND who = ?").bind(seen.system.to_string());
            query.bind(actor.person.unwrap_or_default().to_string()).execute(&mut **tx).await?;
        }
        Command::DropChange(seen) => {
            put_away(tx, seen.id).await?;
            let query = sqlx::query("DELETE FROM change_run WHERE system = ?").bind(seen.system.to_string());
            query.execute(&mut **tx).await?;
        }
        Command::ErasePicture { id, .. } => pictures::erase(tx, *id).await?,
        Command::DismissTimer(id) => {
            dismiss_timer(tx, *id, now).await?;
        }
        _ => {}
    }
    Ok(())
}
