//! Accounts, the devices on which they are signed in, and links that are good for one use.
//!
//! What an account may be is decided by the gate. Here secrets are kept: passwords and tokens only as hashes, so that
//! whoever reads the file signs in nowhere with what stands in it.

use crate::{Result, Store, StoreError, Tx, classes, facts, next_tick, rows};
use jiff::Timestamp;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Account, Actor, Grant};
use mopsel_core::gate::{AccountFacts, AccountWish, Claimed};
use mopsel_core::quantity::Name;
use mopsel_core::refuse;
use mopsel_core::words::plain;
use sqlx::Row;
use sqlx::sqlite::SqliteRow;
use std::collections::BTreeSet;
use std::sync::Arc;
use uuid::Uuid;

pub(crate) const ACCOUNT: &str =
    "SELECT id, name, owner, people, version, archived, secret IS NOT NULL AS ready FROM account";

/// A device on which somebody is signed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Session {
    /// Its id, by which it is ended.
    pub id: Uuid,
    /// Whose.
    pub account: Uuid,
    /// What the device calls itself.
    pub device: String,
    /// When they signed in.
    pub began: Timestamp,
    /// When it was last used, to the hour.
    pub seen: Timestamp,
    /// When it ends by itself.
    pub ends: Timestamp,
}

/// A link that is good for one use.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Link {
    /// Whose password it lets choose; none for the first account of a file.
    pub account: Option<Uuid>,
    /// Until when.
    pub ends: Timestamp,
}

pub(crate) fn account(row: &SqliteRow) -> Result<Account> {
    let name: &str = row.try_get("name")?;
    Ok(Account {
        id: rows::id(row.try_get("id")?)?,
        name: Name::new(name).map_err(|refusal| StoreError::Corrupt(refusal.code.to_string()))?,
        owner: row.try_get("owner")?,
        people: rows::from_json(row.try_get("people")?)?,
        version: row.try_get("version")?,
        archived: row.try_get("archived")?,
        ready: row.try_get("ready")?,
    })
}

fn session(row: &SqliteRow) -> Result<Session> {
    Ok(Session {
        id: rows::id(row.try_get("id")?)?,
        account: rows::id(row.try_get("account")?)?,
        device: row.try_get("device")?,
        began: rows::time_in(row, "began")?,
        seen: rows::time_in(row, "seen")?,
        ends: rows::time_in(row, "ends")?,
    })
}

async fn all(tx: &mut Tx<'_>) -> Result<Vec<Account>> {
    let rows = sqlx::query(sqlx::AssertSqlSafe(ACCOUNT.to_owned())).fetch_all(&mut **tx).await?;
    rows.iter().map(account).collect()
}

/// The actor with what their account may at this moment, read inside the transaction.
pub(crate) async fn granted(tx: &mut Tx<'_>, actor: &Actor, now: Timestamp) -> Result<Actor> {
    let signed_out = || StoreError::Refused(refuse!("signed_out").at(mopsel_core::Refusal::ACTOR));
    let Some(grant) = &actor.grant else {
        let any: bool = sqlx::query_scalar("SELECT EXISTS (SELECT 1 FROM account)").fetch_one(&mut **tx).await?;
        return if any { Err(signed_out()) } else { Ok(actor.clone()) };
    };
    if let Some((class, _)) = grant.class {
        return if classes::is_open(tx, class, now).await? { Ok(actor.clone()) } else { Err(signed_out()) };
    }
    let query = sqlx::query(sqlx::AssertSqlSafe(format!("{ACCOUNT} WHERE id = ?"))).bind(grant.account.to_string());
    let there = query.fetch_optional(&mut **tx).await?.as_ref().map(account).transpose()?;
    let Some(there) = there.filter(|there| !there.archived) else {
        return Err(StoreError::Refused(refuse!("account_ended").at(mopsel_core::Refusal::ACTOR)));
    };
    let mut grant = Grant { account: there.id, owner: there.owner, ..Grant::default() };
    for id in &there.people {
        let card = facts::card(tx, *id).await?.filter(|card| !card.archived);
        if let Some((Card::Person(person), Some(place))) = card.map(|card| (card.card, card.parent)) {
            grant.people.insert(*id, (place, person.role));
        }
    }
    if actor.person.is_some_and(|person| !grant.people.contains_key(&person)) {
        return Err(StoreError::Refused(refuse!("person_not_yours").at(mopsel_core::Refusal::ACTOR)));
    }
    Ok(Actor { grant: Some(Arc::new(grant)), ..actor.clone() })
}

/// What an account's command rests on.
pub(crate) async fn facts_for(tx: &mut Tx<'_>, id: Uuid, wish: &AccountWish) -> Result<AccountFacts> {
    let all = all(tx).await?;
    let (there, others): (Vec<Account>, Vec<Account>) = all.into_iter().partition(|account| account.id == id);
    let there = there.into_iter().next();
    let called = plain(wish.name.as_str());
    let active = || others.iter().filter(|other| !other.archived);
    let taken: BTreeSet<Uuid> = active().flat_map(|other| other.people.iter().copied()).collect();
    let named = wish.people.iter().chain(there.iter().flat_map(|there| &there.people));
    let mut people = Vec::new();
    for id in named.copied().collect::<BTreeSet<Uuid>>() {
        let Some(card) = facts::card(tx, id).await? else { continue };
        if let (Card::Person(person), Some(place)) = (card.card, card.parent) {
            let before = there.as_ref().is_some_and(|there| there.people.contains(&id));
            let taken = taken.contains(&id) || (card.archived && !before);
            people.push(Claimed { id, place, role: person.role, taken });
        }
    }
    Ok(AccountFacts {
        name_taken: others.iter().any(|other| plain(other.name.as_str()) == called),
        accounts: others.len() + usize::from(there.is_some()),
        other_owners: active().filter(|other| other.owner && other.ready).count(),
        there,
        people,
    })
}

/// Writes an account; where it is ended, so is every session and link of it.
pub(crate) async fn keep(tx: &mut Tx<'_>, account: &Account) -> Result<()> {
    let tick = next_tick(tx).await?;
    sqlx::query(
        "INSERT INTO account (id, name, called, owner, people, version, archived, changed) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
         ON CONFLICT (id) DO UPDATE SET name = excluded.name, called = excluded.called, owner = excluded.owner,
         people = excluded.people, version = excluded.version, archived = excluded.archived, changed = excluded.changed",
    )
    .bind(account.id.to_string())
    .bind(account.name.as_str())
    .bind(plain(account.name.as_str()))
    .bind(account.owner)
    .bind(rows::to_json(&account.people)?)
    .bind(account.version)
    .bind(account.archived)
    .bind(tick)
    .execute(&mut **tx)
    .await?;
    if account.archived {
        for over in ["DELETE FROM session WHERE account = ?", "DELETE FROM link WHERE account = ?"] {
            sqlx::query(over).bind(account.id.to_string()).execute(&mut **tx).await?;
        }
    }
    Ok(())
}

/// Sets a password's hash; every device that was signed in with the old one is signed out.
async fn set_secret(tx: &mut Tx<'_>, account: Uuid, secret: &str) -> Result<()> {
    let tick = next_tick(tx).await?;
    sqlx::query("UPDATE account SET secret = ?, changed = ? WHERE id = ?")
        .bind(secret)
        .bind(tick)
        .bind(account.to_string())
        .execute(&mut **tx)
        .await?;
    sqlx::query("DELETE FROM session WHERE account = ?").bind(account.to_string()).execute(&mut **tx).await?;
    Ok(())
}

async fn begin(tx: &mut Tx<'_>, token: &str, session: &Session) -> Result<()> {
    sqlx::query("DELETE FROM session WHERE ends <= ?").bind(session.began.as_millisecond()).execute(&mut **tx).await?;
    sqlx::query("INSERT INTO session (id, token, account, device, began, seen, ends) VALUES (?, ?, ?, ?, ?, ?, ?)")
        .bind(session.id.to_string())
        .bind(token)
        .bind(session.account.to_string())
        .bind(&session.device)
        .bind(session.began.as_millisecond())
        .bind(session.seen.as_millisecond())
        .bind(session.ends.as_millisecond())
        .execute(&mut **tx)
        .await?;
    Ok(())
}

/// A link that is still good.
async fn good(tx: &mut Tx<'_>, token: &str, now: Timestamp) -> Result<Option<Link>> {
    let query = sqlx::query("SELECT account, ends FROM link WHERE token = ? AND used = 0 AND ends > ?");
    let row = query.bind(token).bind(now.as_millisecond()).fetch_optional(&mut **tx).await?;
    let link = |row: SqliteRow| {
        let account = row.try_get::<Option<&str>, _>("account")?.map(rows::id).transpose()?;
        Ok::<_, StoreError>(Link { account, ends: rows::time_in(&row, "ends")? })
    };
    row.map(link).transpose()
}

impl Store {
    /// An account by the name that somebody signs in with, whatever its case, and the hash of its password.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn account_called(&self, name: &str) -> Result<Option<(Account, String)>> {
        let columns = ACCOUNT.replace(" AS ready FROM", " AS ready, secret FROM");
        let query = sqlx::query(sqlx::AssertSqlSafe(format!(
            "{columns} WHERE called = ? AND archived = 0 AND secret IS NOT NULL"
        )));
        let row = query.bind(plain(name)).fetch_optional(&self.read).await?;
        row.map(|row| Ok((account(&row)?, row.try_get("secret")?))).transpose()
    }

    /// Takes down that somebody signed in on a device; `token` is the hash of what its cookie says, `secret` the hash of
    /// the password that they were let in by. A password that was changed meanwhile lets nobody in.
    ///
    /// # Errors
    /// Not found where the account was ended or its password changed; when the file cannot be written.
    pub async fn sign_in(&self, token: &str, session: &Session, secret: &str) -> Result<()> {
        self.writing(async |tx| {
            let query = sqlx::query_scalar("SELECT count(*) FROM account WHERE id = ? AND archived = 0 AND secret = ?");
            let there: i64 = query.bind(session.account.to_string()).bind(secret).fetch_one(&mut **tx).await?;
            if there == 0 { Err(StoreError::NotFound("account")) } else { begin(tx, token, session).await }
        })
        .await
    }

    /// The session of a cookie, by its hash, if it has not ended.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn session(&self, token: &str, now: Timestamp) -> Result<Option<Session>> {
        let query = sqlx::query("SELECT * FROM session WHERE token = ? AND ends > ?");
        let row = query.bind(token).bind(now.as_millisecond()).fetch_optional(&self.read).await?;
        row.as_ref().map(session).transpose()
    }

    /// Takes down that a session was used, and lets it go on from now.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn used(&self, id: Uuid, seen: Timestamp, ends: Timestamp) -> Result<()> {
        self.writing(async |tx| {
            let query = sqlx::query("UPDATE session SET seen = ?, ends = ? WHERE id = ?");
            query
                .bind(seen.as_millisecond())
                .bind(ends.as_millisecond())
                .bind(id.to_string())
                .execute(&mut **tx)
                .await?;
            Ok(())
        })
        .await
    }

    /// The devices on which somebody is signed in, the one used last first.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn sessions(&self, account: Uuid, now: Timestamp) -> Result<Vec<Session>> {
        let query = sqlx::query("SELECT * FROM session WHERE account = ? AND ends > ? ORDER BY seen DESC, began DESC");
        let found = query.bind(account.to_string()).bind(now.as_millisecond()).fetch_all(&self.read).await?;
        found.iter().map(session).collect()
    }

    /// Signs an account out on one device, or on all but one, or on all.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn sign_out(&self, account: Uuid, one: Option<Uuid>, but: Option<Uuid>) -> Result<()> {
        self.writing(async |tx| {
            let query = sqlx::query(
                "DELETE FROM session WHERE account = ?1 AND (?2 IS NULL OR id = ?2) AND (?3 IS NULL OR id <> ?3)",
            );
            let text = |id: Option<Uuid>| id.map(|id| id.to_string());
            query.bind(account.to_string()).bind(text(one)).bind(text(but)).execute(&mut **tx).await?;
            Ok(())
        })
        .await
    }

    /// Makes a link that is good for one use; those that the account had before are good no more.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn make_link(&self, token: &str, link: &Link, now: Timestamp) -> Result<()> {
        self.writing(async |tx| {
            let account = link.account.map(|id| id.to_string());
            sqlx::query("DELETE FROM link WHERE account IS ? OR ends <= ?")
                .bind(&account)
                .bind(now.as_millisecond())
                .execute(&mut **tx)
                .await?;
            sqlx::query("INSERT INTO link (token, account, ends) VALUES (?, ?, ?)")
                .bind(token)
                .bind(account)
                .bind(link.ends.as_millisecond())
                .execute(&mut **tx)
                .await?;
            Ok(())
        })
        .await
    }

    /// A link that is still good, by the hash of what stands in it.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn link(&self, token: &str, now: Timestamp) -> Result<Option<Link>> {
        good(&mut self.read.begin().await?, token, now).await
    }

    /// Uses a link up: the password of its account is chosen, and its owner is signed in. Without `first`, the account
    /// is the link's; with it, an account that was made a moment ago for whoever owns the file.
    ///
    /// # Errors
    /// Not found for a link that was used or ran out; when the file cannot be written.
    pub async fn redeem(
        &self,
        link_token: &str,
        first: Option<&Account>,
        secret: &str,
        (token, device): (&str, &Session),
    ) -> Result<Uuid> {
        self.writing(async |tx| {
            let link = good(tx, link_token, device.began).await?.ok_or(StoreError::NotFound("link"))?;
            let account = match (link.account, first) {
                (Some(account), _) => account,
                (None, Some(first)) if all(tx).await?.is_empty() => {
                    keep(tx, first).await?;
                    first.id
                }
                (None, _) => return Err(StoreError::NotFound("link")),
            };
            sqlx::query("UPDATE link SET used = 1 WHERE token = ?").bind(link_token).execute(&mut **tx).await?;
            set_secret(tx, account, secret).await?;
            begin(tx, token, &Session { account, ..device.clone() }).await?;
            Ok(account)
        })
        .await
    }

    /// Makes the first account of a file that asked nobody to sign in, with its password, and signs its owner in.
    ///
    /// # Errors
    /// Id taken where there is an account already; when the file cannot be written.
    pub async fn make_first(&self, first: &Account, secret: &str, (token, device): (&str, &Session)) -> Result<()> {
        self.writing(async |tx| {
            if !all(tx).await?.is_empty() {
                return Err(StoreError::IdTaken);
            }
            keep(tx, first).await?;
            set_secret(tx, first.id, secret).await?;
            begin(tx, token, &Session { account: first.id, ..device.clone() }).await
        })
        .await
    }

    /// Chooses another password; every other device is signed out, and this one signed in anew.
    ///
    /// # Errors
    /// When the file cannot be written.
    pub async fn change_secret(&self, account: Uuid, secret: &str, (token, device): (&str, &Session)) -> Result<()> {
        self.writing(async |tx| {
            set_secret(tx, account, secret).await?;
            begin(tx, token, &Session { account, ..device.clone() }).await
        })
        .await
    }

    /// Every account, those that were ended among them.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn accounts(&self) -> Result<Vec<Account>> {
        all(&mut self.read.begin().await?).await
    }
}
