//! Reservoir changes under way: one at a system, until it ends in an entry or is given up.

use super::entries::time;
use super::{Decision, Meets, PersonNow, Refused, Seen, SystemFacts, present};
use crate::fact::{Actor, ChangeRun, Entry, StoredRun};
use crate::guide::{entry_of, guide};
use crate::refusal::AtField;
use crate::refuse;
use jiff::Timestamp;
use uuid::Uuid;

pub(super) fn save(
    id: Uuid,
    version: i64,
    run: &ChangeRun,
    at: &SystemFacts,
    actor: &Actor,
    now: Timestamp,
) -> Result<Decision, Refused> {
    if at.entry.is_some() {
        return Err(refuse!("change_closed").at("id").into());
    }
    let who = at.open_to(actor)?;
    match &at.run {
        Some(there) if there.id == id && there.run == *run => return Ok(Decision::Already),
        Some(there) if there.id != id || there.version != version => return Err(Refused::Conflict(Meets::Run)),
        // Somebody gave it up: it is not begun again by a save that was on its way.
        None if version > 0 || at.put_away => return Err(refuse!("change_given_up").at("version").into()),
        Some(_) | None => {}
    }
    // Begun a second time it would leave out what keeps hands and roots from harm.
    if at.run.is_none() && run.parts.first && at.known.done.entries > 0 {
        return Err(refuse!("first_fill_is_past").at("run.parts.first").into());
    }
    at.situation(actor, &now.to_zoned(at.zone.clone()), |s| guide(run, s).map(|_| ())).at("run")?;
    let started = at.run.as_ref().map_or(now, |there| there.started);
    let run = run.clone();
    Ok(Decision::KeepRun(Box::new(StoredRun { id, system: at.id, who, version: version + 1, run, started, at: now })))
}

pub(super) fn finish(
    id: Uuid,
    ended: Option<Timestamp>,
    at: &SystemFacts,
    actor: &Actor,
    person: Option<&PersonNow>,
    now: Timestamp,
) -> Result<Decision, Refused> {
    if let Some(there) = &at.entry {
        return if there.system == at.id { Ok(Decision::Already) } else { Err(Refused::IdTaken) };
    }
    let actor = present(actor, person)?;
    let by = at.open_to(&actor)?;
    let stored = at.run.as_ref().filter(|run| run.id == id).ok_or(Refused::NotFound("change under way"))?;
    let body = at.situation(&actor, &now.to_zoned(at.zone.clone()), |s| entry_of(&stored.run, s)).at("run")?;
    let when = time(ended, at, now)?;
    Ok(Decision::Append(Box::new(Entry { id, at: when, by, body, amends: None, reason: None })))
}

/// Gives a change up; to give it up again, or after it has ended, is no mistake, and takes away no other.
pub(super) fn drop(seen: Seen, at: &SystemFacts, actor: &Actor) -> Result<Decision, Refused> {
    actor.adult()?;
    actor.of_place(at.place)?;
    match &at.run {
        Some(there) if there.id == seen.id && there.version != seen.version => Err(Refused::Conflict(Meets::Run)),
        Some(there) if there.id == seen.id => Ok(Decision::Remove),
        Some(_) | None => Ok(Decision::Already),
    }
}
