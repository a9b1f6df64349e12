//! Which steps a change has at a system.

use crate::fact::{ChangeExtent, ChangeParts, ChangeStep};
use crate::quantity::Litres;
use crate::system::System;

/// The steps of a change at a system, in order.
#[must_use]
pub fn steps_of(system: &System, extent: ChangeExtent, parts: &ChangeParts) -> Vec<ChangeStep> {
    use ChangeStep::{
        Bath, CloseLid, Dose, Drain, Dry, Flush, Heel, Inlet, LidAside, Measure, Organic, PowerOff, PowerOn, Prepare,
        Refill, Rinse, RinseAgain, Roots, Sanitise, Stone, Swap, Temper, Wait,
    };
    if parts.first {
        let powered = system.traits.powered();
        let all = [
            (Rinse, true),
            (Prepare, true),
            (Refill, true),
            (PowerOn, powered),
            (CloseLid, true),
            (Wait, powered),
            (Measure, true),
        ];
        return all.into_iter().filter(|(_, has)| *has).map(|(step, _)| step).collect();
    }
    let (traits, reset, treats) = (&system.traits, parts.reset, parts.treats);
    // Roots that are bathed hang outside meanwhile: the vessel is cleaned, not swapped.
    let swap = parts.swap && !treats;
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
        (Bath, treats),
        (Inlet, full && traits.circulates),
        (Stone, full && traits.aerated),
        (Organic, reset || treats),
        (Sanitise, reset),
        (RinseAgain, reset),
        (Dry, reset),
        (Refill, !swap),
        (PowerOn, traits.powered()),
        (CloseLid, !swap),
        (Wait, traits.powered()),
        (Measure, true),
        (Dose, treats),
    ];
    all.into_iter().filter(|(_, has)| *has).map(|(step, _)| step).collect()
}
