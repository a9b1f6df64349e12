//! The order of a round: sound systems first, suspects last of all, place by place, and within a place by its own order
//! where that is set.

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
    /// Days until it costs plants.
    pub margin_days: f64,
}

/// The stops in the order in which they are walked, by their places in the list. Places go by the least margin among
/// their sound systems; within a place those with a turn of their own go first, by it, and the others by margin.
/// Suspects come last of all, wherever they stand: what is on hands and tools goes no further from there.
#[must_use]
pub fn walk(stops: &[Stop]) -> Vec<usize> {
    let least = |place: Uuid, suspect: bool| {
        let here = stops.iter().filter(|stop| stop.place == place && stop.suspect == suspect);
        here.map(|stop| stop.margin_days).fold(f64::INFINITY, f64::min)
    };
    let mut order: Vec<usize> = (0..stops.len()).collect();
    order.sort_by(|a, b| {
        let (a, b) = (&stops[*a], &stops[*b]);
        let place = || {
            let (here, there) = (least(a.place, a.suspect), least(b.place, b.suspect));
            here.total_cmp(&there).then(a.place.cmp(&b.place))
        };
        let turn = || a.turn.unwrap_or(u16::MAX).cmp(&b.turn.unwrap_or(u16::MAX));
        a.suspect.cmp(&b.suspect).then_with(place).then_with(turn).then(a.margin_days.total_cmp(&b.margin_days))
    });
    order
}
