//! How fast a system drinks.

use super::Tank;
use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::quantity::Litres;
use crate::statistics::{median, quantile};
use crate::system::Feeding;
use jiff::Timestamp;

/// Water used a day: the middle, and how far the intervals spread.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Uptake {
    /// Lower quartile: a quiet day.
    pub low: Litres,
    /// Water a day, median of the intervals.
    pub a_day: Litres,
    /// Upper quartile: a thirsty day.
    pub high: Litres,
    /// From how many intervals.
    pub intervals: usize,
}

/// Water used a day, from the intervals between two measured volumes without a change between
/// them. Water that was added unmeasured in between is counted. `None` until one interval is known.
#[must_use]
pub fn uptake(tank: &Tank) -> Option<Uptake> {
    uptake_of(&rates(tank).map(|(rate, _)| rate).collect::<Vec<_>>())
}

/// The same where a timer feeds: so much of what it was set to was given, and it is set to this now. Until that is read, what
/// it is set to.
#[must_use]
pub(super) fn given(tank: &Tank, feeding: Feeding) -> Option<Uptake> {
    let now = feeding.a_day();
    let of_now = |(rate, set): (f64, Option<Litres>)| set.map_or(rate, |set| rate * (now / set));
    let set = || Some(Uptake { low: now, a_day: now, high: now, intervals: 0 });
    uptake_of(&rates(tank).map(of_now).collect::<Vec<_>>()).or_else(set)
}

/// Water used a day over each interval, and what the timer was set to by then.
fn rates(tank: &Tank) -> impl Iterator<Item = (f64, Option<Litres>)> {
    let mut rates = Vec::new();
    let mut from: Option<(Timestamp, Litres)> = None;
    let mut added = Litres::ZERO;
    for point in &tank.volumes {
        if point.changed {
            // Drained without a reading, nobody knows from how much on it was drunk.
            from = point.after.map(|after| (point.at, after));
            added = Litres::ZERO;
            continue;
        }
        let Some(before) = point.before else {
            added += point.added;
            continue;
        };
        if let Some((start, stood)) = from {
            let days = days_between(start, point.at);
            if days >= FIGURES.uptake.shortest {
                // A level that rose by itself was misread, or filled unseen: it says nothing was drunk.
                rates.push(((stood + added - before).or_nothing().get() / days, point.fed_a_day));
            }
        }
        from = point.after.map(|after| (point.at, after));
        added = Litres::ZERO;
    }
    rates.into_iter()
}

/// The middle and the spread of some rates, in litres a day; `None` where there are none.
pub(super) fn uptake_of(rates: &[f64]) -> Option<Uptake> {
    let part = |q: f64| quantile(rates, q).and_then(|a_day| Litres::new(a_day).ok());
    let a_day = median(rates).and_then(|a_day| Litres::new(a_day).ok())?;
    let thirsty = FIGURES.uptake.thirsty;
    Some(Uptake { low: part(1.0 - thirsty)?, a_day, high: part(thirsty)?, intervals: rates.len() })
}

impl Uptake {
    /// What may be drunk on a day, from quiet to thirsty: at least a share of the usual to each side,
    /// and more while few intervals are known.
    #[must_use]
    pub fn spread(&self) -> (Litres, Litres) {
        let figures = &FIGURES.uptake;
        let few = (self.intervals as f64) < figures.steady_from;
        let share = if few { figures.spread_few } else { figures.spread_steady };
        (self.low.min(self.a_day * (1.0 - share)), self.high.max(self.a_day * (1.0 + share)))
    }
}
