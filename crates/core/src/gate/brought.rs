//! What an archive brings: history, not a new decision. What a card or an entry says is held against every limit that does not
//! depend on the moment in which it was recorded; whether it was due or called for was decided then.

use super::cards::hangs_right;
use crate::fact::card::{Card, Role};
use crate::fact::{Actor, Body, Entry, Timeline};
use crate::message::typed;
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::System;
use jiff::Timestamp;
use uuid::Uuid;

/// Checks what a brought card hangs on; every version of it keeps that.
///
/// # Errors
/// A refusal at the parent.
pub fn brought_under(card: &Card, parent: Option<Uuid>, on: Option<&Card>) -> Result<(), Refusal> {
    hangs_right(card, parent, on)
}

/// Checks a brought card as it stands now. What it said before is history, and may be what an earlier release still took: but
/// what is cared for by it from now on keeps every limit of today. `on` is what it hangs on, as that was when it was written.
///
/// # Errors
/// A refusal that names the card, and says what is to be edited where it comes from.
pub fn brought_card(card: &Card, on: Option<&Card>) -> Result<(), Refusal> {
    let in_system = on.and_then(|on| if let Card::System(system) = on { Some(system) } else { None });
    card.check(in_system).map_err(|refusal| {
        refuse!("archive_card", name = typed(card.name()), why = refusal.mending()).at(&refusal.field).at("card")
    })
}

/// Checks an entry that is brought, on its system as it was on that day by what was known when it was recorded: a vessel that
/// was corrected since does not make untrue what was read before. Who recorded it may be a child no more, so it is held
/// against what an adult may record.
///
/// # Errors
/// A refusal at the field: dated to come, an amendment without a reason, a body that no
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
