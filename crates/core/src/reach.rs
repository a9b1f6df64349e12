//! Whether the roots of young plants among old ones reach the water, where it may not be raised to them.
//!
//! At the working line the water stands a little up the pots. Below them, a plant drinks as far down as its roots hang: about a
//! centimetre longer each day, or as they were seen.

use crate::calendar::days_between;
use crate::crop::{Planting, Stage};
use crate::figures::FIGURES;
use crate::quantity::{Litres, Millimetres, Quantity};
use crate::refill::young;
use crate::reservoir::RefillMethod;
use crate::situation::Situation;

/// A planting whose roots hang above the water.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dry<'a> {
    /// Which.
    pub planting: &'a Planting,
    /// About how long its roots are.
    pub roots: Millimetres,
    /// How far the water stands below the pots.
    pub gap: Millimetres,
}

/// The plantings whose roots do not reach the water by all that is known; none where the water may be raised to the pots,
/// and where nobody knows how high it stands.
#[must_use]
pub fn dry<'a>(s: &Situation<'a>) -> Vec<Dry<'a>> {
    let (system, figures) = (s.system, &FIGURES.roots);
    let roots_hang_in_it = !system.traits.sprayers && !system.traits.channels && !system.traits.to_waste;
    // Where all are young, the water is raised to the pots instead.
    if system.refill == RefillMethod::NoLimit || !roots_hang_in_it || young(s) {
        return Vec::new();
    }
    let Some(gap) = s.water().litres().and_then(|about| below_pots(about.value, s)) else { return Vec::new() };
    let now = s.now.timestamp();
    let seen = s.known.happened.roots_reach.filter(|at| days_between(*at, now) <= figures.seen_days);
    let one = |planting: &'a Planting| {
        let age = f64::from((s.today() - planting.growing_since()).get_days());
        let young = planting.stage <= Stage::Seedling || age <= figures.young_days;
        let reached = seen.is_some_and(|at| s.date(at) >= planting.planted_on);
        let roots = planting.root_length(s.today());
        (young && age >= 0.0 && !reached && roots < gap).then_some(Dry { planting, roots, gap })
    };
    s.plantings.iter().filter(|planting| planting.stage != Stage::Done).filter_map(one).collect()
}

/// How far below the pots so much water stands; `None` where only litres are known of the vessel.
pub(crate) fn below_pots(litres: Litres, s: &Situation<'_>) -> Option<Millimetres> {
    let height = |litres| s.system.reservoir.shape.height_of(litres);
    let (line, stands) = height(s.system.full()).zip(height(litres))?;
    let pots = line.get() - FIGURES.refill.up_the_pot;
    Some(Millimetres::calculated((pots - stands.get()).max(0.0)))
}
