//! What the hands do at a step of a change, what may hurt there, and what follows from what was measured.

use crate::fact::{ChangeRun, ChangeStep, MixedIn};
use crate::figures::FIGURES;
use crate::message::{Message, Param};
use crate::quantity::Conductivity;
use crate::say;
use crate::situation::Situation;
use crate::verdict::Tone;

/// What the hands do, by what the system has and where the water comes from.
pub(super) fn doing(step: ChangeStep, mixed: MixedIn, s: &Situation<'_>) -> Message {
    let traits = &s.system.traits;
    let all = |parts: Vec<Option<Message>>| {
        let parts: Vec<Message> = parts.into_iter().flatten().collect();
        say!("sentences", all = Param::Sentences(parts))
    };
    match (step, mixed) {
        (ChangeStep::Prepare, MixedIn::Vessel) if traits.circulates => say!("change.mix_inside_pumped"),
        (ChangeStep::Prepare, MixedIn::Vessel) => say!("change.mix_inside"),
        (ChangeStep::Prepare, MixedIn::Jug) => say!("change.ready_jug"),
        (ChangeStep::Prepare, MixedIn::Drum) => say!("change.ready_drum"),
        (ChangeStep::Temper, MixedIn::Vessel) => say!("change.temper_hose"),
        (ChangeStep::Refill, MixedIn::Vessel) => say!("change.hose"),
        (ChangeStep::LidAside, _) if traits.channels => say!("change.keep_wet"),
        (ChangeStep::SupplyOff, _) => all(vec![
            traits.controller.then(|| say!("change.controller_off")),
            traits.top_off_reservoir.then(|| say!("change.valve_shut")),
        ]),
        (ChangeStep::SupplyOn, _) => all(vec![
            traits.top_off_reservoir.then(|| say!("change.valve_open")),
            traits.controller.then(|| say!("change.controller_on")),
        ]),
        (ChangeStep::PowerOff, _) => all(vec![
            Some(match (traits.circulates || traits.sprayers, traits.aerated) {
                (true, true) => say!("change.unplug_both"),
                (true, false) => say!("change.unplug_pump"),
                (false, _) => say!("change.unplug_air"),
            }),
            traits.circulates.then(|| say!("change.let_run_back")),
        ]),
        (ChangeStep::PowerOn, _) => all(vec![
            traits.sprayers.then(|| say!("change.see_sprayers")),
            traits.channels.then(|| say!("change.see_channels")),
            (traits.circulates && !traits.channels).then(|| say!("change.see_return")),
            traits.aerated.then(|| say!("change.see_bubbles")),
            Some(say!("change.see_dry")),
        ]),
        (ChangeStep::CloseLid, _) if s.plants() == 0 => say!("change.close_empty"),
        _ => Message::of("change_step", step.code(), "doing"),
    }
}

/// Whether the channels are rinsed clean: by the EC that ran back against that of the water itself.
pub(super) fn rinsed(run: &ChangeRun, s: &Situation<'_>) -> (Tone, Option<Message>) {
    let Some(ec) = run.parts.rinse_ec.and_then(|ec| ec.at_25(None).ok()) else {
        return (Tone::Fine, Some(say!("change.rinse_measure")));
    };
    let source = s.system.source_ec;
    if ec > source + Conductivity::constant(FIGURES.change.rinse_clean) {
        (Tone::Watch, Some(say!("change.rinse_salty", ec = ec, source = source)))
    } else {
        (Tone::Fine, Some(say!("change.rinse_clean", ec = ec)))
    }
}

/// The steps at which something may hurt.
pub(super) fn caution(step: ChangeStep) -> Option<Message> {
    match step {
        ChangeStep::PowerOff => Some(say!("change_caution.power_off")),
        ChangeStep::Bath | ChangeStep::Dose => Some(say!("change_caution.peroxide")),
        ChangeStep::Drain => Some(say!("change_caution.drain")),
        ChangeStep::Flush => Some(say!("change_caution.flush")),
        ChangeStep::Inlet => Some(say!("change_caution.inlet")),
        ChangeStep::Sanitise => Some(say!("change_caution.sanitise")),
        ChangeStep::PowerOn => Some(say!("change_caution.power_on")),
        _ => None,
    }
}
