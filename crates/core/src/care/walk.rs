//! The order of a round: where people are in danger, or plants last only hours, before all; then sound systems first,
//! suspects last of all, place by place, and within a place by its own order where that is set.

use super::comes_first;
use crate::verdict::Rank;
use uuid::Uuid;

/// A system on the round, as far as its order goes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stop {
    /// Its place.
    pub place: Uuid,
    /// Whether hands, tools or water would carry something from here.
    pub suspect: bool,
    /// Its own turn within its place, where that is set.
    pub turn: Option<u16>,
    /// What its first task comes before.
    pub rank: Rank,
    /// Days until it costs plants.
    pub margin_days: f64,
}

impl Stop {
    /// Whether it waits for no other.
    #[must_use]
    pub fn is_now(&self) -> bool {
        self.rank <= Rank::Hours
    }
}

/// The stops in the order in which they are walked, by their places in the list. Dangers come first, wherever they stand:
/// a suspect among them too, with hands washed after it. Of the others places go by the least margin among
/// their sound systems; within a place those with a turn of their own go first, by it, and the others by margin.
/// Suspects come last of all, wherever they stand: what is on hands and tools goes no further from there.
#[must_use]
pub fn walk(stops: &[Stop]) -> Vec<usize> {
    let least = |place: Uuid, suspect: bool| {
        let here = stops.iter().filter(|stop| !stop.is_now() && stop.place == place && stop.suspect == suspect);
        here.map(|stop| stop.margin_days).fold(f64::INFINITY, f64::min)
    };
    let mut order: Vec<usize> = (0..stops.len()).collect();
    order.sort_by(|a, b| {
        let (a, b) = (&stops[*a], &stops[*b]);
        if a.is_now() || b.is_now() {
            return b.is_now().cmp(&a.is_now()).then(comes_first((a.rank, a.margin_days), (b.rank, b.margin_days)));
        }
        let place = || {
            let (here, there) = (least(a.place, a.suspect), least(b.place, b.suspect));
            here.total_cmp(&there).then(a.place.cmp(&b.place))
        };
        let turn = || a.turn.unwrap_or(u16::MAX).cmp(&b.turn.unwrap_or(u16::MAX));
        a.suspect.cmp(&b.suspect).then_with(place).then_with(turn).then(a.margin_days.total_cmp(&b.margin_days))
    });
    order
}
