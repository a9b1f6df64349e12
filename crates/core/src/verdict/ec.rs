//! What an EC means: held against the band of what grows, the source water, and the EC before.

use super::{Gauge, Tone, Verdict};
use crate::crop::EcTarget;
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Message, Param};
use crate::mixing::Water;
use crate::mixing::balance::{drain_first, plain_to, soften, top_off};
use crate::projection::salts_gather;
use crate::quantity::{About, Conductivity, Litres, band};
use crate::reservoir::RefillMethod;
use crate::say;
use crate::system::System;

/// What an EC is judged by.
#[derive(Debug, Clone, Copy)]
pub struct EcAsk<'a> {
    /// The strength, read or worked out.
    pub ec: About<Conductivity>,
    /// What grows here wants.
    pub target: Option<&'a EcTarget>,
    /// The system.
    pub system: &'a System,
    /// The water it stands in; `None` where that is not known well enough to pour by.
    pub volume: Option<Litres>,
    /// What may be added to it.
    pub room: Litres,
    /// EC and volume at the full reading before, where only plain water came in between; both before
    /// anything was poured.
    pub before: Option<(Conductivity, Litres)>,
}

/// Judges a strength.
///
/// What no tank can show asks for the probe before the plants. Within reach of the source water it is
/// spent, whatever the band. Dilution is worked linearly in EC, good to a few per cent at these
/// strengths, and every amount brings it to what is aimed at, never past the band.
#[must_use]
pub fn judge_ec(ask: EcAsk<'_>) -> Verdict {
    let EcAsk { ec: about, target, system, .. } = ask;
    let ec = about.value;
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Ec, tone, finding, why, next);
    if let Some(doubted) = doubted(&about, system) {
        return doubted;
    }
    let Some(target) = target else {
        let finding = say!("verdict.ec.nothing_planted", ec = about);
        let (why, next) = (say!("verdict.ec.nothing_planted_why"), say!("verdict.ec.nothing_planted_next"));
        return verdict(Tone::Watch, finding, why, next);
    };
    let (figures, source) = (&FIGURES.strength, system.source_ec);
    let (error, slack) = (figures.meter_error, figures.slack);
    let (wanted, crops) = (band(target.low, target.high), target.reason.clone());
    let judged = if target.at_source(ec, source) && target.no_room_over(source) {
        let finding = say!("verdict.ec.hard_source", ec = about, source = source, band = wanted, crops = crops);
        let next = softer(system, target);
        verdict(Tone::Watch, finding, say!("verdict.ec.hard_source_why"), next)
    } else if target.spent(ec, source) {
        let within = Conductivity::constant(figures.spent_within);
        let finding = say!("verdict.ec.spent", ec = about, band = wanted, crops = crops);
        let why = say!("verdict.ec.spent_why", within = within);
        verdict(Tone::Act, finding, why, say!("verdict.ec.spent_next")).todo(say!("verdict.ec.spent_todo"), slack)
    } else if ec < target.low * (1.0 - error) {
        let finding = say!("verdict.ec.weak", ec = about, band = wanted, crops = crops);
        let next = stronger(&ask, target);
        let why =
            if system.traits.to_waste { say!("verdict.ec.weak_why_to_waste") } else { say!("verdict.ec.weak_why") };
        verdict(Tone::Act, finding, why, next).todo(say!("verdict.ec.weak_todo"), slack)
    } else if ec > target.high * (1.0 + error) {
        let finding = say!("verdict.ec.strong", ec = about, band = wanted, crops = crops);
        let next = weaker(&ask, target);
        verdict(Tone::Act, finding, say!("verdict.ec.strong_why"), next).todo(say!("verdict.ec.strong_todo"), slack)
    } else if !system.traits.to_waste
        && ask.volume.zip(ask.before).is_some_and(|(litres, before)| salts_gather((ec, litres), before))
    {
        let finding = say!("verdict.ec.gathering", ec = about, band = wanted, crops = crops);
        verdict(Tone::Watch, finding, say!("verdict.ec.gathering_why"), say!("verdict.ec.gathering_next"))
    } else {
        let finding = say!("verdict.ec.right", ec = about, band = wanted, crops = crops);
        verdict(Tone::Fine, finding, say!("verdict.ec.right_why"), say!("verdict.nothing_to_do"))
    };
    // Two crops that want different water: that goes before everything, for no strength mends it.
    let judged = match &target.warning {
        Some(warning) => {
            let why = say!("sentences", all = Param::Sentences(vec![warning.clone(), judged.why.clone()]));
            Verdict { tone: judged.tone.max(Tone::Watch), why, ..judged }
        }
        None => judged,
    };
    let sure = if about.measured { say!("verdict.ec.sure") } else { say!("verdict.ec.sure_worked_out") };
    let (reading, high) = (ec.get(), target.high.get());
    judged.sure(sure).on(Gauge {
        from: 0.0,
        to: (high * 1.5).max(reading * 1.1),
        band: [target.low.get(), high],
        value: [(reading * (1.0 - error)).min(about.low.get()), (reading * (1.0 + error)).max(about.high.get())],
    })
}

/// A reading that no tank can show: too strong for anything that lives, or weaker than what it is
/// filled from.
fn doubted(about: &About<Conductivity>, system: &System) -> Option<Verdict> {
    let (figures, ec, source) = (&FIGURES.strength, about.value, system.source_ec);
    let finding = if ec.get() > figures.read_most {
        say!("verdict.ec.probe_high", ec = *about, most = Conductivity::constant(figures.read_most))
    } else if ec + Conductivity::constant(figures.under_source) < source {
        say!("verdict.ec.probe_low", ec = *about, source = source)
    } else {
        return None;
    };
    let verdict =
        Verdict::new(Subject::Ec, Tone::Act, finding, say!("verdict.ec.probe_why"), say!("verdict.ec.probe_next"));
    Some(verdict.todo(say!("verdict.ec.probe_todo"), figures.slack))
}

/// How much softer water mixed into the source would leave room for feed.
fn softer(system: &System, target: &EcTarget) -> Message {
    let rain = Conductivity::constant(FIGURES.strength.rain);
    match soften(system.full(), system.source_ec, rain, target.low.min(system.source_ec) * HALF) {
        Some(soft) => say!("verdict.ec.hard_source_next", soft = soft, hard = (system.full() - soft).or_nothing()),
        None => say!("verdict.ec.hard_source_soft"),
    }
}

const HALF: f64 = 0.5;

/// The strength of a top-off that brings the water to the middle of the band, by the salt balance
/// EC_add = (EC₁V₁ − EC₀V₀) / (V₁ − V₀).
fn stronger(ask: &EcAsk<'_>, target: &EcTarget) -> Message {
    let (aim, ec, room) = (target.aim, ask.ec.value, ask.room);
    let Some(volume) = ask.volume else { return say!("verdict.ec.read_level_first") };
    let (rise, full) = ((aim - ec).size(), volume + room);
    let stir_in = || say!("verdict.ec.weak_stir_in", volume = volume, rise = rise, aim = aim);
    if room < full * FIGURES.strength.room_share {
        return stir_in();
    }
    match top_off(Water::new(volume, ec), Water::new(full, aim), ask.system.source_ec) {
        Ok(add) if add.ec.get() <= FIGURES.strength.most_in_jug => {
            say!("verdict.ec.weak_top_off", room = room, ec = add.ec, aim = aim)
        }
        _ => stir_in(),
    }
}

/// As much plain water as brings it to what is aimed at; where there is no room for that, how much to
/// drain first: D = (EC₀V₀ + EC_w(V₁−V₀) − EC₁V₁) / (EC₀ − EC_w).
fn weaker(ask: &EcAsk<'_>, target: &EcTarget) -> Message {
    let (aim, source, ec) = (target.aim, ask.system.source_ec, ask.ec.value);
    let Some(volume) = ask.volume else { return say!("verdict.ec.read_level_first") };
    let (standing, plain) = (Water::new(volume, ec), plain_to(Water::new(volume, ec), aim, source));
    if let Some(plain) = plain.filter(|plain| *plain <= ask.room) {
        return say!("verdict.ec.strong_top_off", room = plain, ec = aim);
    }
    if ask.system.refill != RefillMethod::NoLimit {
        return match drain_first(standing, Water::new(volume, aim), source) {
            Ok(swap) => say!("verdict.ec.strong_swap", swap = swap, aim = aim),
            Err(_) => say!("verdict.ec.strong_source"),
        };
    }
    match drain_first(standing, Water::new(volume + ask.room, aim), source) {
        Ok(drain) => say!("verdict.ec.strong_drain", drain = drain, plain = ask.room + drain, aim = aim),
        Err(_) => say!("verdict.ec.strong_source"),
    }
}
