//! What is new since a reader last looked.

use crate::{Result, Store, accounts, rows};
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Account, StoredCard, Version};
use mopsel_core::projection::Part;
use sqlx::Row;
use std::collections::BTreeMap;
use uuid::Uuid;

/// A card that cannot be read: it stands apart, with the reason, and the rest goes on.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Broken {
    /// Its id, as far as that can be read.
    pub id: String,
    /// What kind of card it is.
    pub kind: String,
    /// Why it cannot be read.
    pub why: String,
}

/// Cards and projections that changed, and the tick to ask from next time.
#[derive(Debug, Default)]
pub struct News {
    /// The clock of changes.
    pub tick: i64,
    /// Cards, newest version of each.
    pub cards: Vec<StoredCard>,
    /// Every version of those cards among them that were ever edited, the first one first.
    pub versions: BTreeMap<Uuid, Vec<Version<Card>>>,
    /// Cards that cannot be read.
    pub broken: Vec<Broken>,
    /// Accounts.
    pub accounts: Vec<Account>,
    /// Projections, as text.
    pub projections: Vec<(Uuid, Part, String)>,
}

/// A `SELECT` over the card columns.
macro_rules! select_cards {
    ($rest:literal) => {
        concat!("SELECT id, kind, parent, version, archived, body, shape, holds_from FROM card ", $rest)
    };
}
pub(crate) use select_cards;

impl Store {
    /// Everything that changed after `since`; 0 gives everything there is.
    ///
    /// # Errors
    /// When the file cannot be read.
    pub async fn news_since(&self, since: i64) -> Result<News> {
        const TICK: &str = "SELECT value FROM tick";
        // Mostly nothing is new: that is asked alone, for a transaction costs three times as much.
        let tick: i64 = sqlx::query_scalar(TICK).fetch_one(&self.read).await?;
        if tick == since {
            return Ok(News { tick, ..News::default() });
        }
        let mut tx = self.read.begin().await?;
        let tick: i64 = sqlx::query_scalar(TICK).fetch_one(&mut *tx).await?;
        let found = sqlx::query(select_cards!("WHERE changed > ?")).bind(since).fetch_all(&mut *tx).await?;
        let (mut cards, mut broken) = (Vec::with_capacity(found.len()), Vec::new());
        for row in &found {
            match rows::card(row) {
                Ok(card) => cards.push(card),
                Err(error) => broken.push(Broken {
                    id: row.try_get("id").unwrap_or_default(),
                    kind: row.try_get("kind").unwrap_or_default(),
                    why: error.to_string(),
                }),
            }
        }
        let found = sqlx::query(
            "SELECT v.card, v.archived, v.body, v.shape, v.holds_from, v.at
             FROM card_version v JOIN card c ON c.id = v.card WHERE c.changed > ? AND c.version > 1 ORDER BY v.card, v.version",
        )
        .bind(since)
        .fetch_all(&mut *tx)
        .await?;
        let mut versions: BTreeMap<Uuid, Vec<Version<Card>>> = BTreeMap::new();
        for row in &found {
            // An old version that cannot be read is as if it had never been; the newest one is checked above.
            if let (Ok(card), Ok(version)) = (rows::id(row.try_get("card")?), rows::version(row)) {
                versions.entry(card).or_default().push(version);
            }
        }
        let query = sqlx::query("SELECT system, part, body FROM projection WHERE changed > ?").bind(since);
        let mut projections = Vec::new();
        for row in query.fetch_all(&mut *tx).await? {
            let name: &str = row.try_get("part")?;
            // A part that this release does not know is left for the one that does.
            if let Some(part) = Part::ALL.into_iter().find(|part| part.name() == name) {
                projections.push((rows::id(row.try_get("system")?)?, part, row.try_get("body")?));
            }
        }
        let query = sqlx::query(sqlx::AssertSqlSafe(format!("{} WHERE changed > ?", accounts::ACCOUNT))).bind(since);
        let accounts = query.fetch_all(&mut *tx).await?.iter().map(accounts::account).collect::<Result<_>>()?;
        Ok(News { tick, cards, versions, broken, accounts, projections })
    }
}
