//! The line that roots are used to, in water that is neither moved nor aerated, and when it was last passed.
//!
//! The line is the highest level that the water stood at in the last three days: roots below it are water roots, those
//! above it have turned into air roots. Between two readings the level fell evenly. Water that was poured up to the line
//! raises nothing; what stands above it is a *rise*, whether somebody wrote the pour down or not.

use crate::calendar::days_between;
use crate::figures::FIGURES;
use crate::quantity::Litres;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// Where the water stood at one look.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
struct Stood {
    at: Timestamp,
    /// As it was found; `None` where nobody read it.
    found: Option<Litres>,
    /// As it was left; `None` where that is not known.
    left: Option<Litres>,
}

/// Water that was raised above the line.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Rise {
    /// When.
    pub at: Timestamp,
    /// The line before; `None` where nobody had read it.
    pub line: Option<Litres>,
    /// How far above the line it stood; where that was not known, all that was poured.
    pub by: Litres,
}

/// The levels of the last days, and the last rises above the line.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
pub struct Line {
    stood: Vec<Stood>,
    rises: Vec<Rise>,
}

/// Looks so close together are one: a logger's day would fill the list.
const APART_DAYS: f64 = 0.25;
/// Rises of a month, at most one a week by the rules.
const RISES: usize = 6;

impl Line {
    /// The line at a moment: the highest level of the last three days. `thirst` is what may be drunk on a thirsty day:
    /// by it the last level before these days is carried into them where nobody has read since. `None` where nothing is
    /// known of these days.
    #[must_use]
    pub fn at(&self, now: Timestamp, thirst: Option<Litres>) -> Option<Litres> {
        self.with(now, None, thirst)
    }

    /// The same, with what is just being read.
    #[must_use]
    pub fn with(&self, now: Timestamp, read: Option<Litres>, thirst: Option<Litres>) -> Option<Litres> {
        let days = FIGURES.refill.hold_days;
        let age = |stood: &Stood| days_between(stood.at, now);
        let recent = self.stood.iter().filter(|stood| age(stood) <= days);
        let highs = recent.clone().flat_map(|stood| [stood.found, stood.left]).flatten();
        let earlier = self.stood.iter().rposition(|stood| age(stood) > days);
        let carried = earlier.and_then(|n| {
            let (from, left) = (self.stood[n], self.stood[n].left?);
            let before = age(&from) - days;
            let next = self.stood.get(n + 1).map_or((0.0, read), |next| (age(next), next.found));
            match next {
                // What is higher than before was filled up in between, nobody knows when.
                (end, Some(found)) if found <= left && found > Litres::ZERO => {
                    let part = before / (age(&from) - end);
                    Some((left - (left - found).or_nothing() * part).or_nothing())
                }
                (_, Some(found)) if found > left => None,
                // Nobody read it, or it has been dry for nobody knows how long.
                _ => Some((left - thirst? * before).or_nothing()),
            }
        });
        highs.chain(carried).reduce(Litres::max)
    }

    /// When water last rose above the line.
    #[must_use]
    pub fn raised(&self) -> Option<Timestamp> {
        self.rises.last().map(|rise| rise.at)
    }

    /// The last rises, oldest first.
    #[must_use]
    pub fn rises(&self) -> &[Rise] {
        &self.rises
    }

    /// Takes down one look. `poured` is what was added at it without being read.
    pub(super) fn note(
        &mut self,
        at: Timestamp,
        (found, left): (Option<Litres>, Option<Litres>),
        poured: Litres,
        thirst: Option<Litres>,
    ) {
        let first = self.stood.is_empty();
        let line = self.with(at, found, thirst).or_else(|| {
            // Nothing higher than what stood there last, unless somebody filled it unseen.
            self.stood.iter().rev().find_map(|stood| stood.left).or(found)
        });
        let highest = found.into_iter().chain(left).reduce(Litres::max);
        let rise = match (highest, line) {
            (Some(highest), Some(line)) if above(highest, line) => Some((highest - line).or_nothing()),
            // Nobody knows where it stood: all that was poured may be above the line.
            (None, _) if poured > Litres::ZERO => Some(poured),
            (Some(_), None) if !first && poured > Litres::ZERO => Some(poured),
            _ => None,
        };
        if let Some(by) = rise {
            super::keep_last(&mut self.rises, Rise { at, line: line.filter(|_| highest.is_some()), by }, RISES);
        }
        let stood = Stood { at, found, left };
        match self.stood.last_mut() {
            Some(last) if days_between(last.at, at) < APART_DAYS && last.left.is_some() && left.is_some() => {
                if left >= last.left {
                    *last = Stood { found: last.found, ..stood };
                }
            }
            _ => self.stood.push(stood),
        }
        let days = FIGURES.refill.hold_days;
        let older = self.stood.iter().filter(|stood| days_between(stood.at, at) > days).count();
        self.stood.drain(..older.saturating_sub(1));
    }
}

/// Whether a level stands above a line by more than a hand pours past it.
#[must_use]
pub fn above(level: Litres, line: Litres) -> bool {
    level > line * (1.0 + FIGURES.level.limit_over)
}
