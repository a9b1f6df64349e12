//! What an EC means: held against the band of what grows, the source water, and the EC before.

use super::{Gauge, Tone, Verdict};
use crate::crop::EcTarget;
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::Message;
use crate::mixing::Water;
use crate::mixing::balance::{drain_first, top_off};
use crate::quantity::{Conductivity, Litres, band};
use crate::say;
use crate::system::System;

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
) -> Verdict {
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Ec, tone, finding, why, next);
    let Some(target) = target else {
        let finding = say!("verdict.ec.nothing_planted", ec = ec);
        let (why, next) = (say!("verdict.ec.nothing_planted_why"), say!("verdict.ec.nothing_planted_next"));
        return verdict(Tone::Watch, finding, why, next);
    };
    let (figures, source) = (&FIGURES.strength, system.source_ec);
    let (error, slack) = (figures.meter_error, figures.slack);
    let near_source = source + Conductivity::constant(figures.spent_within);
    let wanted = || (band(target.low, target.high), target.reason.clone());
    let judged = if ec <= near_source && target.low > near_source {
        let (band, crops) = wanted();
        let finding = say!("verdict.ec.spent", ec = ec, band = band, crops = crops);
        let why = say!("verdict.ec.spent_why", within = Conductivity::constant(figures.spent_within));
        verdict(Tone::Act, finding, why, say!("verdict.ec.spent_next")).todo(say!("verdict.ec.spent_todo"), slack)
    } else if ec < target.low * (1.0 - error) {
        let (band, crops) = wanted();
        let finding = say!("verdict.ec.weak", ec = ec, band = band, crops = crops);
        let next = stronger(system, volume, ec, target);
        verdict(Tone::Act, finding, say!("verdict.ec.weak_why"), next).todo(say!("verdict.ec.weak_todo"), slack)
    } else if ec > target.high * (1.0 + error) {
        let (band, crops) = wanted();
        let finding = say!("verdict.ec.strong", ec = ec, band = band, crops = crops);
        let next = weaker(system, volume, ec, target);
        verdict(Tone::Act, finding, say!("verdict.ec.strong_why"), next).todo(say!("verdict.ec.strong_todo"), slack)
    } else if gathering(ec, volume, before) {
        let (band, crops) = wanted();
        let finding = say!("verdict.ec.gathering", ec = ec, band = band, crops = crops);
        verdict(Tone::Watch, finding, say!("verdict.ec.gathering_why"), say!("verdict.ec.gathering_next"))
    } else {
        let (band, crops) = wanted();
        let finding = say!("verdict.ec.right", ec = ec, band = band, crops = crops);
        verdict(Tone::Fine, finding, say!("verdict.ec.right_why"), say!("verdict.nothing_to_do"))
    };
    let sure = target.warning.clone().unwrap_or_else(|| say!("verdict.ec.sure"));
    let (reading, high) = (ec.get(), target.high.get());
    judged.sure(sure).on(Gauge {
        from: 0.0,
        to: (high * 1.5).max(reading * 1.1),
        band: [target.low.get(), high],
        value: [reading * (1.0 - error), reading * (1.0 + error)],
    })
}

/// Whether salts gather: EC up while the level falls.
fn gathering(ec: Conductivity, volume: Option<Litres>, before: Option<(Conductivity, Litres)>) -> bool {
    let rise = FIGURES.strength.rise;
    matches!((volume, before), (Some(now), Some((was, stood))) if (ec - was).get() >= rise && now < stood)
}

/// The strength of a top-off that brings the water to the middle of the band, by the salt balance
/// EC_add = (EC₁V₁ − EC₀V₀) / (V₁ − V₀).
fn stronger(system: &System, volume: Option<Litres>, ec: Conductivity, target: &EcTarget) -> Message {
    let (aim, full) = (target.aim(), system.reservoir.working);
    let room = volume.and_then(|volume| Some((volume, (full - volume).positive()?)));
    let room = room.filter(|(_, room)| *room > full * FIGURES.strength.room_share && !system.traits.still());
    let Some((volume, room)) = room else { return say!("verdict.ec.weak_stir_in", aim = aim) };
    match top_off(Water::new(volume, ec), Water::new(full, aim), system.source_ec) {
        Ok(add) if add.ec.get() <= FIGURES.strength.pour_slowly_above => {
            say!("verdict.ec.weak_top_off", room = room, ec = add.ec, aim = aim)
        }
        _ => say!("verdict.ec.weak_portions", room = room),
    }
}

/// Plain water up to the working line and what that gives; where it is not enough, how much to
/// drain first: D = (EC₀V₀ + EC_w(V₁−V₀) − EC₁V₁) / (EC₀ − EC_w).
fn weaker(system: &System, volume: Option<Litres>, ec: Conductivity, target: &EcTarget) -> Message {
    let full = system.reservoir.working;
    let Some(volume) = volume.map(|volume| volume.min(full)) else { return say!("verdict.ec.strong_read_level") };
    if system.traits.still() {
        return say!("verdict.ec.strong_swap");
    }
    let (standing, room) = (Water::new(volume, ec), (full - volume).or_nothing());
    let diluted = standing.with(Water::new(room, system.source_ec)).ec;
    if diluted <= target.high {
        return say!("verdict.ec.strong_top_off", room = room, ec = diluted);
    }
    match drain_first(standing, Water::new(full, target.aim()), system.source_ec) {
        Ok(drain) => say!("verdict.ec.strong_drain", drain = drain, aim = target.aim()),
        Err(_) => say!("verdict.ec.strong_source"),
    }
}
