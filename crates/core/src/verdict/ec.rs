//! What an EC means: held against the band of what grows, the source water, and the EC before.

use super::{Gauge, Subject, Tone, Verdict};
use crate::crop::EcTarget;
use crate::log::State;
use crate::mixing::balance::{POUR_SLOWLY_ABOVE, Water, drain_first, top_off};
use crate::quantity::{Conductivity, Litres, Wording};
use crate::system::System;

/// Days that a strength outside its band may wait.
const SLACK: f64 = 3.0;
/// Within this of the source water there is nothing left to feed on.
const SPENT_WITHIN: f64 = 0.2;
/// A rise between two readings that is more than the meter's noise.
const RISE: f64 = 0.1;

/// Judges a strength.
///
/// `volume` is the water it stands in, `before` the strength and volume at the reading before it.
/// Dilution is worked linearly in EC, good to a few per cent at these strengths.
#[must_use]
pub fn judge_ec(
    ec: Conductivity,
    target: Option<&EcTarget>,
    system: &System,
    volume: Option<Litres>,
    before: Option<(Conductivity, Litres)>,
    wording: Wording,
    by_child: bool,
) -> Verdict {
    let said = format!("EC {}", wording.ec(ec));
    let Some(target) = target else {
        return Verdict::calm(
            Subject::Ec,
            Tone::Watch,
            format!("{said}; nothing is planted to hold it against"),
            "The band comes from what grows here.",
            "Enter what grows in this system.",
        );
    };
    let band = format!("{} {}", wording.ec_band(target.low, target.high), target.reason);
    let reading = ec.get();
    let (low, high) = (target.low.get(), target.high.get());
    let gauge = Gauge { from: 0.0, to: (high * 1.5).max(reading * 1.1), band: [low, high], value: [reading * 0.98, reading * 1.02] };
    let source = system.source_ec.get();
    let verdict = if reading <= source + SPENT_WITHIN && low > source + SPENT_WITHIN {
        let why = format!("It is within {} of the source water: the feed is spent.", wording.ec(Conductivity::nearest(SPENT_WITHIN)));
        let next = if by_child { "Tell an adult: the water wants changing." } else { "Change the reservoir; topping off would only stretch what is missing." };
        Verdict::calm(Subject::Ec, Tone::Act, format!("{said}, below {band}"), &why, next).todo("Renew the spent solution", SLACK)
    } else if reading < low * 0.98 {
        let next = if by_child { "Tell an adult: feed is a concentrate.".to_owned() } else { stronger(system, volume, ec, target, wording) };
        Verdict::calm(Subject::Ec, Tone::Act, format!("{said}, below {band}"), "The plants have eaten the water weak; older leaves yellow first.", &next)
            .todo("Feed: the water is weak", SLACK)
    } else if reading > high * 1.02 {
        Verdict::calm(
            Subject::Ec,
            Tone::Act,
            format!("{said}, above {band}"),
            "Strong water pulls water out of the roots; leaf tips brown.",
            &weaker(system, volume, ec, target, wording),
        )
        .todo("Weaken the water", SLACK)
    } else if gathering(ec, volume, before) {
        Verdict::calm(
            Subject::Ec,
            Tone::Watch,
            format!("{said}, inside {band}, but rising while the level falls"),
            "The plants drink more than they eat, so salts gather.",
            "Top off weaker, with plain water for now, and change sooner.",
        )
    } else {
        Verdict::calm(Subject::Ec, Tone::Fine, format!("{said}, inside {band}"), "Strength suits what grows here.", "Nothing to do.")
    };
    let sure = target.warning.clone().unwrap_or_else(|| "A meter in calibration is true to about 2 %.".to_owned());
    verdict.sure(&sure).on(gauge)
}

/// Whether salts gather: EC up while the level falls.
fn gathering(ec: Conductivity, volume: Option<Litres>, before: Option<(Conductivity, Litres)>) -> bool {
    matches!((volume, before), (Some(now), Some((ec0, v0))) if ec.get() - ec0.get() >= RISE && now.get() < v0.get())
}

/// The strength of a top-off that brings the water to the middle of the band, by the salt balance
/// EC_add = (EC₁V₁ − EC₀V₀) / (V₁ − V₀).
fn stronger(system: &System, volume: Option<Litres>, ec: Conductivity, target: &EcTarget, wording: Wording) -> String {
    let middle = f64::midpoint(target.low.get(), target.high.get());
    let full = system.reservoir.working.get();
    match volume.map(Litres::get) {
        Some(v0) if full - v0 > full * 0.03 && !system.traits.still() => {
            let litres = wording.volume(Litres::nearest(full - v0));
            let wanted = Water::new(system.reservoir.working, Conductivity::nearest(middle));
            let add = top_off(Water::new(Litres::nearest(v0), ec), wanted, system.source_ec).map_or(f64::INFINITY, |w| w.ec.get());
            if add <= POUR_SLOWLY_ABOVE {
                format!("Top off {litres} of feed at {}: that brings it to {}.", wording.ec(Conductivity::nearest(add)), wording.ec(Conductivity::nearest(middle)))
            } else {
                format!("Add feed, stirred into a jug of water first, in small portions with the pump on; then top off {litres}.")
            }
        }
        _ => format!("Add feed stirred into a jug of water, little by little, to reach {}.", wording.ec(Conductivity::nearest(middle))),
    }
}

/// Plain water up to the working line and what that gives; where it is not enough, how much to
/// drain first: D = (EC₀V₀ + EC_w(V₁−V₀) − EC₁V₁) / (EC₀ − EC_w).
fn weaker(system: &System, volume: Option<Litres>, ec: Conductivity, target: &EcTarget, wording: Wording) -> String {
    let (full, high) = (system.reservoir.working.get(), target.high.get());
    let Some(v0) = volume.map(|v| v.get().min(full)) else {
        return "Read the level, then top off with plain water.".to_owned();
    };
    let room = full - v0;
    let diluted = Water::new(Litres::nearest(v0), ec).with(Water::new(Litres::nearest(room), system.source_ec)).ec.get();
    if system.traits.still() {
        return "Swap some of the water for plain water at the same level; do not raise the line past its limit.".to_owned();
    }
    if diluted <= high {
        return format!("Top off {} of plain water: that brings it to {}.", wording.volume(Litres::nearest(room)), wording.ec(Conductivity::nearest(diluted)));
    }
    let aim = f64::midpoint(target.low.get(), high);
    let (before, after) = (Water::new(Litres::nearest(v0), ec), Water::new(system.reservoir.working, Conductivity::nearest(aim)));
    let Ok(drain) = drain_first(before, after, system.source_ec) else {
        return "Plain water from this source cannot weaken it; use a softer source, or change the reservoir.".to_owned();
    };
    format!("Drain {}, then fill up with plain water: that brings it to {}.", wording.volume(drain), wording.ec(Conductivity::nearest(aim)))
}

/// The last strength and the volume now known for it, for judging a state rather than a visit.
#[must_use]
pub(super) fn before_of(state: &State) -> Option<(Conductivity, Litres)> {
    state.ec_before.map(|dated| dated.value)
}
