//! Visits half done: one for each person at each system.

use super::{Decision, Meets, Refused, Seen, SystemFacts};
use crate::fact::{Actor, Draft, Visit};
use crate::refuse;
use jiff::Timestamp;
use uuid::Uuid;

pub(super) fn save(
    id: Uuid,
    version: i64,
    visit: &Visit,
    at: &SystemFacts,
    actor: &Actor,
    now: Timestamp,
) -> Result<Decision, Refused> {
    if at.entry.is_some() {
        return Err(refuse!("visit_closed").at("id").into());
    }
    let who = at.open_to(actor)?;
    // Somebody put it away: it does not come back by a save that was on its way.
    if at.put_away || (at.draft.is_none() && version > 0) {
        return Err(refuse!("visit_put_away").at("id").into());
    }
    if let Some(there) = &at.draft {
        if there.id == id && there.visit == *visit {
            return Ok(Decision::Already);
        }
        if there.id != id || there.version != version {
            return Err(Refused::Conflict(Meets::Draft));
        }
    }
    // Typed on, the water was read when it was; typed anew, it is read now.
    let before = at.draft.as_ref().filter(|there| there.visit.reads() == visit.reads());
    let read_at = match before {
        Some(there) => there.read_at,
        None => visit.reads().map(|_| now),
    };
    let visit = visit.clone();
    Ok(Decision::KeepDraft(Box::new(Draft { id, system: at.id, who, version: version + 1, visit, at: now, read_at })))
}

/// Puts a visit away; to put it away again is no mistake.
pub(super) fn drop(seen: Seen, at: &SystemFacts, actor: &Actor) -> Result<Decision, Refused> {
    actor.recorder()?;
    match &at.draft {
        Some(there) if there.id == seen.id && there.version != seen.version => Err(Refused::Conflict(Meets::Draft)),
        Some(there) if there.id == seen.id => Ok(Decision::Remove),
        Some(_) | None => Ok(Decision::Already),
    }
}
