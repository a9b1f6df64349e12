//! Which steps a change has at a system.

use crate::fact::{ChangeExtent, ChangeStep};
use crate::quantity::Litres;
use crate::system::System;

/// The steps of a change at a system, in order.
#[must_use]
pub fn steps_of(system: &System, extent: ChangeExtent, reset: bool, swap: bool) -> Vec<ChangeStep> {
    use ChangeStep::{
        CloseLid, Drain, Dry, Flush, Heel, Inlet, LidAside, Measure, Organic, PowerOff, PowerOn, Prepare, Refill,
        Rinse, RinseAgain, Roots, Sanitise, Stone, Swap, Temper, Wait,
    };
    let traits = &system.traits;
    let full = extent == ChangeExtent::Full;
    let all = [
        (Prepare, true),
        (Temper, true),
        (PowerOff, traits.powered()),
        (LidAside, !swap),
        (Swap, swap),
        (Drain, !swap),
        (Heel, !swap && (!full || traits.heel > Litres::ZERO)),
        (Rinse, full && !swap),
        (Flush, full && traits.channels),
        (Roots, true),
        (Inlet, full && traits.circulates),
        (Stone, full && traits.aerated),
        (Organic, reset),
        (Sanitise, reset),
        (RinseAgain, reset),
        (Dry, reset),
        (Refill, !swap),
        (PowerOn, traits.powered()),
        (CloseLid, !swap),
        (Wait, traits.powered()),
        (Measure, true),
    ];
    all.into_iter().filter(|(_, has)| *has).map(|(step, _)| step).collect()
}
