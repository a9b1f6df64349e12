//! Which steps a change has at a system, in the order of hands.

use crate::fact::{ChangeExtent, ChangeParts, ChangeStep, MixedIn};
use crate::quantity::Litres;
use crate::system::System;

/// The steps of a change at a system, in order. `planted` is whether plants grow in it: after a crop nothing is asked of
/// roots that are gone.
///
/// Where the batch is mixed in the vessel itself, that comes once it is drained, rinsed, filled by the hose and seen
/// running; everywhere else the batch is ready before the old water is let out.
#[must_use]
pub fn steps_of(system: &System, extent: ChangeExtent, parts: &ChangeParts, planted: bool) -> Vec<ChangeStep> {
    use ChangeStep::{
        Bath, CloseLid, Dose, Drain, Dry, Flush, Heel, Inlet, LidAside, Measure, Organic, PowerOff, PowerOn, Prepare,
        Refill, Rinse, RinseAgain, Roots, Sanitise, Stone, SupplyOff, SupplyOn, Swap, Temper, Wait,
    };
    let (traits, reset, treats) = (&system.traits, parts.reset, parts.treats);
    let (powered, supplied) = (traits.powered(), traits.supplied());
    // Roots that are bathed hang outside meanwhile: the vessel is cleaned, not swapped.
    let swap = parts.swap && !treats && !parts.first;
    let inside = parts.mixed == Some(MixedIn::Vessel) && !swap;
    let full = extent == ChangeExtent::Full;
    let before = [(Rinse, parts.first), (Prepare, !inside), (Temper, planted && !parts.first), (SupplyOff, supplied)];
    let out = [
        (PowerOff, powered),
        // Where a timer feeds no roots hang in it.
        (LidAside, !swap && planted && !traits.to_waste),
        (Swap, swap),
        (Drain, !swap),
        (Heel, !swap && (!full || traits.heel > Litres::ZERO)),
        (Rinse, full && !swap),
        (Flush, full && traits.channels),
        (Roots, planted && !traits.to_waste),
        (Bath, treats),
        (Inlet, full && traits.circulates),
        (Stone, full && traits.aerated),
        (Organic, reset || treats),
        (Sanitise, reset),
        (RinseAgain, reset),
        (Dry, reset),
    ];
    let fill = [
        (Refill, !swap),
        (PowerOn, powered),
        (Prepare, inside),
        (CloseLid, !swap),
        (SupplyOn, supplied),
        // What was stirred round in the vessel itself has mixed.
        (Wait, powered && !inside),
        (Measure, true),
        (Dose, treats),
    ];
    let out = out.into_iter().filter(|_| !parts.first);
    let all = before.into_iter().chain(out).chain(fill);
    all.filter(|(_, has)| *has).map(|(step, _)| step).collect()
}
