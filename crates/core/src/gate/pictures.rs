//! Pictures: kept once, of what is there, and taken away by adults.

use super::{Decision, Refused, SystemFacts, entries::time, present};
use crate::fact::{Actor, NewPicture, Picture};
use crate::message::count;
use crate::refusal::AtField;
use crate::refuse;
use jiff::Timestamp;

/// The most that are kept of one system: about as much as a backup takes without a thought.
pub const MOST_PICTURES: u32 = 400;
/// The most bytes of one picture.
pub const MOST_PICTURE_BYTES: usize = 400 * 1024;

/// What a picture's command rests on.
#[derive(Debug, Clone, Default)]
pub struct PictureFacts {
    /// The picture with the command's id.
    pub there: Option<Picture>,
    /// How many of the system are kept.
    pub kept: u32,
}

pub(super) fn keep(
    new: &NewPicture,
    at: &SystemFacts,
    facts: &PictureFacts,
    actor: &Actor,
    person: Option<&super::PersonNow>,
    now: Timestamp,
) -> Result<Decision, Refused> {
    if let Some(there) = &facts.there {
        let same = there.system == at.id && actor.person == Some(there.by);
        return if same { Ok(Decision::Already) } else { Err(Refused::IdTaken) };
    }
    let actor = present(actor, person)?;
    let by = at.open_to(&actor)?;
    let when = time(new.at, at, now)?;
    new.ports.as_ref().map_or(Ok(()), |ports| ports.check(at.history.at(when).ports)).at("ports")?;
    if facts.kept >= MOST_PICTURES {
        return Err(refuse!("too_many_pictures", most = count(MOST_PICTURES)).into());
    }
    let bytes = u32::try_from(new.image.len()).unwrap_or(u32::MAX);
    let NewPicture { id, ports, note, width, height, .. } = new.clone();
    Ok(Decision::KeepPicture(Box::new(Picture { id, system: at.id, at: when, by, ports, note, width, height, bytes })))
}

pub(super) fn drop(
    at: &SystemFacts,
    facts: &PictureFacts,
    actor: &Actor,
    person: Option<&super::PersonNow>,
) -> Result<Decision, Refused> {
    if facts.there.is_none() {
        return Ok(Decision::Already);
    }
    let actor = present(actor, person)?;
    at.open_to(&actor)?;
    if actor.is_child() {
        return Err(refuse!("child_erases").into());
    }
    Ok(Decision::Remove)
}
