//! The top-off reservoir behind the float valve: what stood in it, and what it feeds a day.

use super::uptake::{Uptake, given, uptake_of};
use super::{Known, Projection, keep_last, uptake};
use crate::calendar::days_between;
use crate::fact::{Body, Entry, PremixIn};
use crate::figures::FIGURES;
use crate::quantity::Litres;
use crate::reservoir::Shape;
use crate::system::System;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// What stood in it at one time.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct SupplyPoint {
    /// When.
    pub at: Timestamp,
    /// What was left, where it was read.
    pub left: Option<Litres>,
    /// What stood there afterwards.
    pub after: Litres,
    /// What was drawn from it by hand since.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub drawn: Option<Litres>,
    /// Which reservoir it was.
    #[serde(default)]
    pub of: Drum,
}

/// A reservoir behind a float valve, as far as it can be told from another that is put in its place, or from itself where
/// another part of it flows in here.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
pub struct Drum {
    /// What it holds to the rim, where its size is known.
    holds: Option<Litres>,
    /// The part of it that flows in here, where it fills several systems.
    part: Option<f64>,
}

impl Drum {
    /// That of a system as it is set up.
    #[must_use]
    pub fn of(system: &System) -> Self {
        Self { holds: system.drum.as_ref().map(Shape::capacity), part: system.drum_share }
    }

    /// Whether what is left of one says nothing of what was left of the other.
    #[must_use]
    pub fn differs(self, other: Self) -> bool {
        self.part != other.part || self.holds.zip(other.holds).is_some_and(|(holds, other)| holds != other)
    }
}

impl SupplyPoint {
    /// What of it was left to flow into the vessel.
    fn to_feed(self) -> Litres {
        (self.after - self.drawn.unwrap_or(Litres::ZERO)).or_nothing()
    }
}

/// The top-off reservoir; of one that fills several systems the part that flows into this one, as if it were a smaller one of
/// its own.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Supply {
    /// The last points, oldest first.
    pub points: Vec<SupplyPoint>,
    /// To what it was filled, the last times: that stays known however often it was read since.
    #[serde(default)]
    fillings: Vec<Litres>,
    /// Whether it was ever filled, as far as the log tells: what was only read may hold more.
    #[serde(default)]
    filled: bool,
    /// What it let into the vessel since the water was last changed: it turns over with what is poured by hand.
    #[serde(default)]
    fed_since_change: Option<Litres>,
}

/// Enough for eight stretches.
const KEPT: usize = 9;

impl Supply {
    /// The same reservoir as another system has it that is filled from it too, whose part is so many times as large.
    #[must_use]
    pub fn for_other(&self, times: f64) -> Self {
        let point = |point: &SupplyPoint| SupplyPoint {
            at: point.at,
            left: point.left.map(|left| left * times),
            after: point.after * times,
            drawn: point.drawn.map(|drawn| drawn * times),
            of: point.of,
        };
        Self {
            points: self.points.iter().map(point).collect(),
            filled: self.filled,
            fillings: self.fillings.iter().map(|filled| *filled * times).collect(),
            fed_since_change: None,
        }
    }

    /// What stood there last, if anybody ever said.
    #[must_use]
    pub fn last(&self) -> Option<SupplyPoint> {
        self.points.last().copied()
    }

    /// To what it is filled: the lower of its last two fillings, for one may have been misread. A filling is one that was
    /// mixed into it, or a reading above the one before.
    #[must_use]
    pub fn filled_to(&self) -> Option<Litres> {
        self.fillings.iter().copied().min_by(|a, b| a.get().total_cmp(&b.get()))
    }

    /// What it holds at least by all that is known: its size, else the fuller of its last two fillings. Only at this it is said
    /// to be full. `None` where it was never filled, as far as the log tells: what was only read may hold more.
    #[must_use]
    pub fn fullest(&self, system: &System) -> Option<Litres> {
        if system.traits.top_off_reservoir && system.drum.is_some() {
            return self.full(system);
        }
        let fillings = self.fillings.iter().copied().filter(|_| self.filled);
        fillings.max_by(|a, b| a.get().total_cmp(&b.get()))
    }

    /// What stands in it when it is full: a hand's width below the rim, where its size is known; else to what it is filled.
    #[must_use]
    pub fn full(&self, system: &System) -> Option<Litres> {
        let part = system.drum_part();
        let drum = system.drum.as_ref().filter(|_| system.traits.top_off_reservoir);
        let room = drum.map(|drum| drum.capacity() * FIGURES.level.maximum_share * part);
        // Whoever fills it higher has it fuller.
        room.map(|room| self.filled_to().map_or(room, |filled| filled.max(room))).or_else(|| self.filled_to())
    }

    /// What it feeds a day, over the stretches at whose end it was read. One that rose by itself was misread, or filled
    /// unseen.
    #[must_use]
    pub fn feeds(&self) -> Option<Uptake> {
        let stretch = |pair: &[SupplyPoint]| {
            let (days, left) = (days_between(pair[0].at, pair[1].at), pair[1].left?);
            let falls = days >= FIGURES.uptake.shortest && left <= pair[0].to_feed() && !pair[0].of.differs(pair[1].of);
            falls.then(|| (left > Litres::ZERO, (pair[0].to_feed() - left).get() / days))
        };
        let all: Vec<(bool, f64)> = self.points.windows(2).filter_map(stretch).collect();
        // One that was found empty ran dry nobody knows when: it fed more a day than that.
        let whole: Vec<f64> = all.iter().filter(|(whole, _)| *whole).map(|(_, rate)| *rate).collect();
        let rates = if whole.is_empty() { all.into_iter().map(|(_, rate)| rate).collect() } else { whole };
        uptake_of(&rates)
    }

    /// What it takes until it is full, at a moment, where so much is drunk a day; `None` where nobody ever said how full it is
    /// filled.
    #[must_use]
    pub fn takes(&self, now: Timestamp, a_day: Litres, system: &System) -> Option<Litres> {
        self.last()?;
        let takes = (self.full(system)? - self.left_at(now, a_day)).positive()?;
        // Next to nothing, where it once held more, says that the last filling was a small one.
        let worth = self.fullest(system).map_or(Litres::ZERO, |fullest| fullest * FIGURES.bench.least_share);
        (takes >= worth).then_some(takes)
    }

    /// What it let into the vessel since the water was last changed.
    #[must_use]
    pub fn fed_since_change(&self) -> Litres {
        self.fed_since_change.unwrap_or(Litres::ZERO)
    }

    /// What is left in it at a moment, where so much is drunk a day; nothing where nobody ever said.
    #[must_use]
    pub fn left_at(&self, now: Timestamp, a_day: Litres) -> Litres {
        let left = |last: SupplyPoint| (last.to_feed() - a_day * days_between(last.at, now).max(0.0)).or_nothing();
        self.last().map_or(Litres::ZERO, left)
    }
}

/// What a system drinks a day: behind a float valve the level stands still, and what was drunk is what the reservoir
/// behind it lost; else what the level falls by.
#[must_use]
pub fn drinks(known: &Known, system: &System) -> Option<Uptake> {
    let behind = || known.supply.feeds().filter(|feeds| feeds.a_day > Litres::ZERO);
    let behind = if system.traits.top_off_reservoir { behind() } else { None };
    behind.or_else(|| match system.feeding {
        Some(feeding) => given(&known.tank, feeding),
        None => uptake(&known.tank),
    })
}

/// What is behind the float valve at a moment, where so much is drunk a day; nothing where there is none, or nobody knows
/// what it feeds.
#[must_use]
pub fn behind(known: &Known, system: &System, at: Timestamp, a_day: Litres) -> Litres {
    let feeds = system.traits.top_off_reservoir && known.supply.feeds().is_some();
    if feeds { known.supply.left_at(at, a_day) } else { Litres::ZERO }
}

impl Projection for Supply {
    fn apply(&mut self, entry: &Entry, system: &System) {
        let (at, part) = (entry.at, system.drum_part());
        let of = Drum::of(system);
        let point = match &entry.body {
            Body::Visit(visit) => {
                let left = visit.left_behind(system).map(|left| left * part);
                left.map(|left| SupplyPoint { at, left: Some(left), after: left, drawn: None, of })
            }
            Body::Premix(premix) if premix.into == PremixIn::TopOffReservoir => {
                Some(SupplyPoint { at, left: None, after: premix.litres * part, drawn: None, of })
            }
            _ => None,
        };
        if let Body::Change(change) = &entry.body
            && change.renews()
        {
            self.fed_since_change = None;
        }
        if let Body::Change(change) = &entry.body
            && let Some((PremixIn::TopOffReservoir, litres)) = change.drawn(system)
            && let Some(last) = self.points.last_mut()
        {
            last.drawn = Some(last.drawn.unwrap_or(Litres::ZERO) + litres * part);
        }
        if let Some(point) = point {
            let fell = |last: SupplyPoint| match point.left {
                Some(left) if !last.of.differs(point.of) => (last.to_feed() - left).or_nothing(),
                _ => Litres::ZERO,
            };
            self.fed_since_change = Some(self.fed_since_change() + self.last().map_or(Litres::ZERO, fell));
            // To what another one was filled says nothing of this.
            if self.last().is_some_and(|last| last.of.differs(point.of)) {
                self.fillings.clear();
            }
            let filled = point.left.is_none() || self.last().is_some_and(|last| point.after > last.after);
            self.filled |= filled;
            // The first reading tells at least how full it is filled.
            if filled || self.last().is_none() {
                keep_last(&mut self.fillings, point.after, 2);
            }
            keep_last(&mut self.points, point, KEPT);
        }
    }
}
