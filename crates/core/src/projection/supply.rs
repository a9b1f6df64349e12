//! The top-off reservoir behind the float valve: what stood in it, and what it feeds a day.

use super::uptake::{Uptake, uptake_of};
use super::{Projection, keep_last};
use crate::calendar::days_between;
use crate::fact::{Body, Entry, PremixIn};
use crate::figures::FIGURES;
use crate::quantity::Litres;
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
}

/// The top-off reservoir.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Supply {
    /// The last points, oldest first.
    pub points: Vec<SupplyPoint>,
}

/// Enough for eight stretches.
const KEPT: usize = 9;

impl Supply {
    /// What stood there last, if anybody ever said.
    #[must_use]
    pub fn last(&self) -> Option<SupplyPoint> {
        self.points.last().copied()
    }

    /// To what it is filled: the lower of its last two fillings, for one may have been misread. A filling is one that was
    /// mixed into it, or a reading above the one before.
    #[must_use]
    pub fn filled_to(&self) -> Option<Litres> {
        let rises =
            |n: usize| n == 0 || self.points[n].left.is_none() || self.points[n].after > self.points[n - 1].after;
        let fillings = (0..self.points.len()).rev().filter(|n| rises(*n)).map(|n| self.points[n].after);
        fillings.take(2).min_by(|a, b| a.get().total_cmp(&b.get()))
    }

    /// What it feeds a day, over the stretches at whose end it was read. One that rose by itself was misread, or filled
    /// unseen.
    #[must_use]
    pub fn feeds(&self) -> Option<Uptake> {
        let stretch = |pair: &[SupplyPoint]| {
            let (days, left) = (days_between(pair[0].at, pair[1].at), pair[1].left?);
            (days >= FIGURES.uptake.shortest && left <= pair[0].after).then(|| (pair[0].after - left).get() / days)
        };
        let rates: Vec<f64> = self.points.windows(2).filter_map(stretch).collect();
        uptake_of(&rates)
    }
}

impl Projection for Supply {
    fn apply(&mut self, entry: &Entry, _: &System) {
        let at = entry.at;
        let point = match &entry.body {
            Body::Visit(visit) => visit.supply.map(|left| SupplyPoint { at, left: Some(left), after: left }),
            Body::Premix(premix) if premix.into == PremixIn::TopOffReservoir => {
                Some(SupplyPoint { at, left: None, after: premix.litres })
            }
            _ => None,
        };
        if let Some(point) = point {
            keep_last(&mut self.points, point, KEPT);
        }
    }
}
