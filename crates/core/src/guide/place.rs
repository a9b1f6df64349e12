//! Where the fresh water of a change comes from: mixed in cans or a bin, in the emptied vessel, or ready feed.

use crate::bench::carried_in_cans;
use crate::calendar::{day, days_between};
use crate::fact::{Change, ChangeRun, MixedIn};
use crate::forecast::holds_plain;
use crate::message::Message;
use crate::mixing::Container;
use crate::quantity::Litres;
use crate::refill::fill_to;
use crate::say;
use crate::situation::Situation;
use serde::Serialize;

/// A way to come by the fresh water.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct MixingPlace<W = Message> {
    /// Which.
    pub key: MixedIn,
    /// What there is of it, or why it cannot be had.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub note: Option<W>,
    /// Whether it cannot be had now.
    pub off: bool,
}

impl<W> MixingPlace<W> {
    pub(super) fn map<V>(self, say: &impl Fn(W) -> V) -> MixingPlace<V> {
        MixingPlace { key: self.key, note: self.note.map(say), off: self.off }
    }
}

/// What can be carried here: the containers, and how much of them whoever asks can lift.
#[derive(Debug, Clone, Copy)]
pub struct Gear<'a> {
    /// The containers of the place.
    pub containers: &'a [Container],
    /// In kg.
    pub lifts: f64,
}

/// What a change takes: all that goes in beside what stays behind, the pipes included. `None` where the line is not known.
fn takes(run: &ChangeRun, s: &Situation<'_>) -> Option<Litres> {
    let full = run.volume_after.or(fill_to(s).litres)?;
    let change = Change { extent: run.extent, heel: run.heel, ..Change::full(full) };
    Some((s.system.at_rest(full) - change.left_in(s.system)).or_nothing())
}

/// The ways to come by the fresh water here, the usual one first.
#[must_use]
pub fn places(run: &ChangeRun, s: &Situation<'_>, gear: &Gear<'_>) -> Vec<MixingPlace> {
    let free = |key| MixingPlace { key, note: None, off: false };
    let mut places = vec![free(MixedIn::Cans)];
    // A second vessel is filled while the first still holds the plants.
    if !run.parts.swap {
        let many = takes(run, s).is_some_and(|litres| !carried_in_cans(litres, gear.containers, gear.lifts));
        places.insert(if many { 0 } else { 1 }, free(MixedIn::Vessel));
    }
    for key in [MixedIn::Jug, MixedIn::Drum] {
        places.extend(match ready(key, run, s) {
            Some(Ok(note)) => Some(MixingPlace { key, note: Some(note), off: false }),
            Some(Err(note)) => Some(MixingPlace { key, note: Some(note), off: true }),
            None => None,
        });
    }
    places
}

/// Ready feed that a change could be filled from: how much there is, or why it may not be. `None` where there is none of
/// that sort.
#[must_use]
pub fn ready(from: MixedIn, run: &ChangeRun, s: &Situation<'_>) -> Option<Result<Message, Message>> {
    let ready = s.known.lessons.premixed.filter(|ready| Some(ready.value.into) == from.store())?;
    if from == MixedIn::Drum && (!s.system.own_drum() || holds_plain(s)) {
        return None;
    }
    let there = ready.value;
    let litres = match from {
        MixedIn::Drum => {
            let left = s.known.supply.left_at(s.now.timestamp(), drunk(s)) / s.system.drum_part();
            left.min(there.litres)
        }
        _ => there.litres,
    };
    if litres <= Litres::ZERO {
        return None;
    }
    let made = day(s.date(ready.at), s.today());
    let age = days_between(ready.at, s.now.timestamp());
    if age > there.keeps_days {
        return Some(Err(say!("change.ready_old", day = made)));
    }
    let takes = takes(run, s);
    if let Some(takes) = takes.filter(|takes| *takes > litres) {
        return Some(Err(say!("change.ready_short", litres = litres, takes = takes)));
    }
    let Some(ec) = there.ec else { return Some(Err(say!("change.ready_unknown", litres = litres))) };
    match s.ec_target() {
        Some(target) if ec < target.low || ec > target.high => {
            Some(Err(say!("change.ready_off", ec = ec, low = target.low, high = target.high)))
        }
        _ => Some(Ok(match takes {
            Some(takes) => say!("change.ready", takes = takes, litres = litres, ec = ec, day = made),
            None => say!("change.ready_there", litres = litres, ec = ec, day = made),
        })),
    }
}

fn drunk(s: &Situation<'_>) -> Litres {
    crate::projection::drinks(s.known, s.system).map_or(Litres::ZERO, |drinks| drinks.a_day)
}
