//! Who may give a command: each names the sort of thing that it is, and the place that it touches.

use super::{Command, Facts, PersonNow};
use crate::fact::card::Card;
use crate::fact::{Act, Actor};
use crate::refusal::Refusal;
use uuid::Uuid;

impl Command {
    /// The sort of thing that it is. [`crate::fact::card::Role::may`] says who may do it.
    #[must_use]
    pub fn act(&self) -> Act {
        match self {
            Self::Add(..)
            | Self::SaveDraft { .. }
            | Self::DropDraft(_)
            | Self::StartTimer { .. }
            | Self::DismissTimer(_)
            | Self::KeepPicture(..)
            | Self::ErasePicture { .. } => Act::Care,
            Self::SaveChange { .. } | Self::FinishChange { .. } | Self::DropChange(_) => Act::Change,
            Self::MakeCard(new) => act_on(&new.card, true),
            // Of which kind the card is, the facts say.
            Self::EditCard { .. } => Act::SetUp,
            Self::MakeAccount { .. } | Self::EditAccount { .. } => Act::People,
        }
    }
}

/// What it is to make a card of a kind, or to edit one.
fn act_on(card: &Card, new: bool) -> Act {
    match card {
        Card::Place(_) if new => Act::House,
        Card::Place(_) | Card::System(_) | Card::Planting(_) | Card::Product(_) | Card::Recipe(_) => Act::SetUp,
        Card::Meter(_) => Act::Devices,
        Card::Person(_) => Act::People,
    }
}

/// Whether somebody may give a command, by what stands: a role that was changed a moment ago holds.
pub(super) fn permitted(
    command: &Command,
    facts: &Facts,
    actor: &Actor,
    person: Option<&PersonNow>,
) -> Result<(), Refusal> {
    // Without a sign-in it is the person picked on the machine who acts, wherever they belong.
    let now = Actor { role: person.map_or(actor.role, |person| person.role), ..actor.clone() };
    match facts {
        Facts::System(at) | Facts::Picture(at, _) => {
            if now.grant.is_some() && person.is_some_and(|person| person.place == at.place) {
                // What is recorded is recorded by a person, with the role of that person.
                return Actor { grant: None, ..now }.may(command.act(), None);
            }
            now.may(command.act(), Some(at.place))
        }
        Facts::Card(facts) => {
            let there = facts.there.as_ref().map(|there| &there.card);
            let act = match command {
                Command::EditCard { card, .. } => {
                    if let Some(Card::Person(before)) = there
                        && own(facts.there.as_ref().map(|there| there.id), &now)
                        && card.as_deref().is_none_or(|to| matches!(to, Card::Person(to) if to.role == before.role))
                    {
                        // One's own units, name and calendar.
                        return Ok(());
                    }
                    there.map_or(Act::SetUp, |card| act_on(card, false))
                }
                other => other.act(),
            };
            now.may(act, facts.place)
        }
        Facts::Timer(facts) => now.may(command.act(), facts.place),
        // Which places an account touches, its own rule asks.
        Facts::Account(_) => Ok(()),
    }
}

/// Whether a card is of the person who acts, at whichever of their places.
fn own(card: Option<Uuid>, actor: &Actor) -> bool {
    let Some(id) = card else { return false };
    actor.person == Some(id) || actor.grant.as_ref().is_some_and(|grant| grant.people.contains_key(&id))
}
