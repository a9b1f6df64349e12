//! What is picked whole stands nowhere any more: the entry that says so ends its planting with it, and the one that takes
//! it back lets it stand again. One write, not two: no ports are freed by half.

use super::entries::to_millisecond;
use super::{CardWrite, NewEntry, SystemFacts};
use crate::crop::{Planting, Stage};
use crate::fact::card::Card;
use crate::fact::{Body, Holds, StoredCard};
use jiff::Timestamp;
use std::collections::BTreeSet;
use uuid::Uuid;

/// A planting that an entry, or the one that it amends, says was picked.
#[derive(Debug, Clone, PartialEq)]
pub struct PickedCard {
    /// The planting as it is now.
    pub card: StoredCard,
    /// When that version of it was written.
    pub made: Timestamp,
    /// What it was before that.
    pub before: Option<Card>,
}

/// What was picked whole.
fn whole(body: &Body) -> BTreeSet<Uuid> {
    let Body::Visit(visit) = body else { return BTreeSet::new() };
    visit.harvests.iter().filter(|harvest| harvest.whole).map(|harvest| harvest.planting).collect()
}

/// The plantings that end with an entry of a moment, or stand again with it.
pub(super) fn ended(new: &NewEntry, when: Timestamp, at: &SystemFacts) -> Vec<CardWrite> {
    let is = whole(&new.body);
    let was = at.amended.as_ref().map(|amended| whole(&amended.entry.body)).unwrap_or_default();
    at.picked.iter().filter_map(|picked| turned(picked, (&was, &is), when, at)).collect()
}

fn turned(
    picked: &PickedCard,
    (was, is): (&BTreeSet<Uuid>, &BTreeSet<Uuid>),
    when: Timestamp,
    at: &SystemFacts,
) -> Option<CardWrite> {
    let there = &picked.card;
    let Card::Planting(planting) = &there.card else { return None };
    let done = planting.stage == Stage::Done;
    let (stage, holds) = if is.contains(&there.id) && !done {
        let day = when.to_zoned(at.zone.clone()).date().max(planting.planted_on);
        (Stage::Done, Holds::From(day))
    } else if was.contains(&there.id) && !is.contains(&there.id) && done {
        // It was never so: what it was stands as far back as it stood.
        (ended_by(picked, planting, at)?, Holds::Always)
    } else {
        return None;
    };
    let card = Card::Planting(Planting { stage, ..planting.clone() });
    let version = there.version + 1;
    Some(CardWrite { card: StoredCard { version, holds, card, ..there.clone() }, new: false })
}

/// The stage from which the amended entry ended it; `None` where somebody ended it by hand, or touched it since.
fn ended_by(picked: &PickedCard, now: &Planting, at: &SystemFacts) -> Option<Stage> {
    let amended = at.amended.as_ref()?;
    let at_once = to_millisecond(amended.recorded) == to_millisecond(picked.made);
    let Some(Card::Planting(before)) = &picked.before else { return None };
    let only_ended = Planting { stage: Stage::Done, ..before.clone() } == *now;
    (only_ended && (at_once || amended.entry.amends.is_some())).then_some(before.stage)
}
