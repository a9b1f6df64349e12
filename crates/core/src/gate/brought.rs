//! What an archive brings: history, not a new decision. What a card or an entry says is held against every limit that does not
//! depend on the moment in which it was recorded; whether it was due or called for was decided then.

use crate::fact::card::{Card, Role};
use crate::fact::{Actor, Body, Entry, Timeline};
use crate::message::member;
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::System;
use jiff::Timestamp;
use uuid::Uuid;

/// Checks a card that is brought, against the one that it hangs on.
///
/// # Errors
/// A refusal at the field: it hangs on what it cannot, or says what no card says.
pub fn brought_card(card: &Card, parent: Option<&Card>) -> Result<(), Refusal> {
    if parent.map(Card::code) != card.parent_code() {
        let found = parent.map_or_else(|| crate::message::term("card.no_parent"), Card::kind);
        let wanted =
            card.parent_code().map_or_else(|| crate::message::term("card.no_parent"), |code| member("card", code));
        return Err(refuse!("wrong_parent", found = found, card = card.kind(), wanted = wanted).at("parent"));
    }
    let in_system = parent.and_then(|parent| if let Card::System(system) = parent { Some(system) } else { None });
    card.check(in_system).at("card")
}

/// Checks an entry that is brought, on its system as it was on that day. Who recorded it may be a child no more, so it is
/// held against what an adult may record.
///
/// # Errors
/// A refusal at the field: recorded before it happened or in the future, an amendment without a reason, a body that no
/// entry of this system has.
pub fn brought_entry(
    entry: &Entry,
    recorded: Timestamp,
    system: &Timeline<System>,
    now: Timestamp,
) -> Result<(), Refusal> {
    if entry.at > now || recorded > now {
        let found = entry.at.max(recorded).to_string();
        return Err(refuse!("time_to_come", found = found, now = now.to_string()).at("at"));
    }
    let said = entry.reason.as_ref().is_some_and(|reason| !reason.as_str().is_empty());
    match (entry.amends, &entry.body) {
        (Some(_), _) if !said => return Err(refuse!("amendment_without_reason").at("reason")),
        (None, Body::Withdrawn {}) => return Err(refuse!("withdrawal_of_nothing").at("amends")),
        _ => {}
    }
    let adult = Actor::new(entry.by, Role::Caretaker, Uuid::nil());
    entry.body.check(system.at(entry.at), &adult).at("body")
}
