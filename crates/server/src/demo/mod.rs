//! The demo scenario: ten invented systems in an invented town, with ten weeks of care told up to
//! a given moment. The same moment gives the same file, to the digit.

mod cards;
mod drawn;
mod habit;
mod stories;

use cards::Cast;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan, Zoned};
use mopsel_core::Refusal;
use mopsel_core::fact::card::Role;
use mopsel_core::fact::{Actor, NewCard, NewPicture};
use mopsel_core::gate::Command;
use mopsel_core::system::PortSet;
use mopsel_store::{Store, StoreError};
use uuid::Uuid;

use crate::Clock;

/// The zone of the demo's places.
const ZONE: &str = "Europe/London";

/// The ids of the demo are made from names, so that they are the same each time.
fn id(name: &str) -> Uuid {
    Uuid::new_v5(&Uuid::NAMESPACE_URL, format!("mopsel-demo/{name}").as_bytes())
}

/// The clock of a demo that stands still: 8:30 in the morning of a day.
///
/// # Errors
/// When the day cannot be.
pub fn standing_clock(today: Date) -> Result<Clock, jiff::Error> {
    Ok(Clock::Standing(today.at(8, 30, 0, 0).to_zoned(TimeZone::get(ZONE)?)?.timestamp()))
}

/// Why a demo could not be made.
#[derive(Debug, thiserror::Error)]
pub enum DemoError {
    /// The scenario itself is wrong; a test would have said so.
    #[error("the demo scenario: {0}")]
    Scenario(#[from] Refusal),
    /// The file.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The zone.
    #[error(transparent)]
    Zone(#[from] jiff::Error),
}

/// Fills an empty store with the scenario up to `now`.
///
/// # Errors
/// When the store cannot be written.
pub async fn fill(store: &Store, now: Timestamp) -> Result<(), DemoError> {
    let now: Zoned = now.to_zoned(TimeZone::get(ZONE)?);
    let cast = Cast::new(&now)?;
    for card in cast.cards() {
        store.submit(&Command::MakeCard(Box::new(card.clone())), &Actor::default(), now.timestamp()).await?;
    }
    for (system, entries) in stories::all(&cast, &now)? {
        store.fill(id(system), &entries, now.timestamp()).await?;
    }
    pictures(store, &now).await
}

/// Two pictures of the beans: green a week ago, and with yellow lowest leaves yesterday.
async fn pictures(store: &Store, now: &Zoned) -> Result<(), DemoError> {
    let place = "Long Acre polytunnel";
    let wren = Actor::new(id(&format!("{place}/Wren")), Role::Caretaker, id(place));
    for (days_ago, yellow) in [(8, 0.1), (1, 0.75)] {
        let Some(drawn) = drawn::beans(yellow) else { continue };
        let at = (now.date() - days_ago.days()).at(17, 10, 0, 0).to_zoned(now.time_zone().clone())?;
        let picture = NewPicture {
            id: id(&format!("beans/{days_ago}")),
            at: Some(at.timestamp()),
            ports: Some(PortSet::range(3, 11)),
            note: None,
            width: drawn.width,
            height: drawn.height,
            image: drawn.image,
            small: drawn.small,
        };
        let command = Command::KeepPicture(id("Bean table"), Box::new(picture));
        store.submit(&command, &wren, now.timestamp()).await?;
    }
    Ok(())
}

/// A card of the demo by its name.
fn new_card(name: &str, parent: Option<&str>, card: mopsel_core::fact::card::Card) -> NewCard {
    NewCard { id: id(name), parent: parent.map(id), card }
}
