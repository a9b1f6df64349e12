//! Litres and degrees: what two waters come to, and how much is swapped to bring a tank from one temperature to another.
//!
//! T = Σ V·T / Σ V. Roots are shocked by more than a few degrees at once, so a swap goes in steps.

use crate::figures::FIGURES;
use crate::quantity::{Celsius, Litres};

/// The temperature of two waters in one vessel.
#[must_use]
pub fn mixed((litres, warm): (Litres, Celsius), (poured, fresh): (Litres, Celsius)) -> Celsius {
    let all = litres.get() + poured.get();
    if all <= 0.0 {
        return fresh;
    }
    Celsius::constant((litres.get() * warm.get() + poured.get() * fresh.get()) / all)
}

/// One swap of several: so many litres out, and as many in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Swap {
    /// How much is swapped.
    pub litres: Litres,
    /// What the tank comes to.
    pub to: Celsius,
}

/// The swaps that bring a tank to a temperature with water of another, none by more than roots bear at once: the same
/// litres each time. Empty where that water cannot bring it there.
#[must_use]
pub fn swaps(litres: Litres, from: Celsius, to: Celsius, fresh: Celsius) -> Vec<Swap> {
    let (from, to, fresh) = (from.get(), to.get(), fresh.get());
    // Beyond the fresh water's own temperature nothing is brought by it.
    let left = (to - fresh) / (from - fresh);
    if !(left > 0.0 && left < 1.0) || litres <= Litres::ZERO {
        return Vec::new();
    }
    let times = ((from - to).abs() / FIGURES.water.step).ceil().max(1.0);
    // Each swap leaves the same share of the gap, and the first moves the most.
    let times = (0..20).map(|more| times + f64::from(more)).find(|times| {
        let share = left.powf(1.0 / times);
        (from - fresh).abs() * (1.0 - share) <= FIGURES.water.step
    });
    let Some(times) = times else { return Vec::new() };
    let share = left.powf(1.0 / times);
    let after = |n: u32| fresh + (from - fresh) * share.powf(f64::from(n));
    let swap = |n: u32| Swap { litres: litres * (1.0 - share), to: Celsius::constant(after(n)) };
    (1..=times as u32).map(swap).collect()
}
