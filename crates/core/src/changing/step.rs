//! The steps, what is done at each, and which of them a system has.

use crate::log::ChangeExtent;
use crate::quantity::Litres;
use crate::system::{Kind, System};
use serde::{Deserialize, Serialize};

/// A step of a change, in the order in which they are done.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "each is described in `words`")]
pub enum ChangeStep {
    Prepare,
    Temper,
    PowerOff,
    LidAside,
    Swap,
    Drain,
    Heel,
    Rinse,
    Flush,
    Roots,
    Inlet,
    Stone,
    Organic,
    Sanitise,
    RinseAgain,
    Dry,
    Refill,
    PowerOn,
    CloseLid,
    Wait,
    Measure,
}

/// What stands on a step's sheet.
pub(super) struct Words {
    pub name: &'static str,
    pub doing: &'static str,
    pub caution: Option<&'static str>,
}

const fn words(name: &'static str, doing: &'static str) -> Words {
    Words { name, doing, caution: None }
}

impl Words {
    const fn caution(mut self, caution: &'static str) -> Self {
        self.caution = Some(caution);
        self
    }
}

impl ChangeStep {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Prepare => "prepare",
            Self::Temper => "temper",
            Self::PowerOff => "power_off",
            Self::LidAside => "lid_aside",
            Self::Swap => "swap",
            Self::Drain => "drain",
            Self::Heel => "heel",
            Self::Rinse => "rinse",
            Self::Flush => "flush",
            Self::Roots => "roots",
            Self::Inlet => "inlet",
            Self::Stone => "stone",
            Self::Organic => "organic",
            Self::Sanitise => "sanitise",
            Self::RinseAgain => "rinse_again",
            Self::Dry => "dry",
            Self::Refill => "refill",
            Self::PowerOn => "power_on",
            Self::CloseLid => "close_lid",
            Self::Wait => "wait",
            Self::Measure => "measure",
        }
    }

    /// Whether it may not be left out without a reason.
    #[must_use]
    pub fn wants_a_reason(self) -> bool {
        matches!(self, Self::PowerOff | Self::PowerOn | Self::RinseAgain | Self::Temper | Self::Roots)
    }

    pub(super) fn words(self) -> Words {
        match self {
            Self::Prepare => words("Prepare the fresh batch", "Mix it in cans or a barrel, never over the plants. The bench works out how much of what."),
            Self::Temper => words("Bring it to the tank's temperature", "Measure both. Stand the cans in the room, or add warm or cold water, until they are close."),
            Self::PowerOff => {
                words("Power off at the plug, let it drain back", "Pull the plugs of pump and air. Shut the supply valve, if there is one. Wait until nothing runs home any more.")
                    .caution("Unplug before hands go in. Plugs and sockets stay dry and above the water.")
            }
            Self::LidAside => words("Rest lid and net pots on a stand", "Roots hang free, out of sun and wind; wet them if it takes more than ten minutes."),
            Self::Swap => words(
                "Swap the vessel",
                "Fill a second, clean vessel to its mark with the fresh batch. Move lid and plants over in half a minute; then clean the old one at leisure.",
            ),
            Self::Drain => words("Drain the old water", "Onto garden or house plants, where it still feeds; else as local rules say.")
                .caution("Not into drains that lead to streams. Lift with the knees: 1 L is 1 kg."),
            Self::Heel => words(
                "Measure what stays behind",
                "What cannot be drained is the heel: read its level, and its EC if you can. The batch was mixed around the usual one; where this one is far off, the bench works it out anew.",
            ),
            Self::Rinse => words("Rinse the vessel", "Plain water and a soft brush: walls, floor, seams. Let it run out."),
            Self::Flush => words("Run clean water through the channels", "Plain water for two hours or more takes the salts off; then drain again.")
                .caution("Mains current near water: dry hands at the plug."),
            Self::Roots => {
                words("Look at the roots", "White to cream and separate is sound. Strands that stick, slime, brown, a foul smell: note it, and open a visit for it afterwards.")
            }
            Self::Inlet => {
                words("Pump inlet and sediment bag", "Take the pump out, clear its inlet and the bag or sieve before it, put both back.").caution("Only with the plug pulled.")
            }
            Self::Stone => words("The air stone", "Rinse it, scrub off slime; a stone that bubbles on one side only is replaced."),
            Self::Organic => words("Everything out, organic matter off", "Pots, pebbles, liner: no root or leaf stays. A sanitiser only reaches what is clean."),
            Self::Sanitise => words("Sanitise", "One of them, by its label, everywhere the water went; then let it act.")
                .caution("Gloves, goggles, open window, an adult. Never two sanitisers together: bleach with acid, ammonia or peroxide, and peroxide with vinegar, are dangerous."),
            Self::RinseAgain => words("Rinse twice with plain water", "Until nothing smells of it. What stays behind burns roots, and meets the next product."),
            Self::Dry => words("Dry", "Wipe and air it. No water stays caught between liner and box."),
            Self::Refill => words("Refill slowly", "Pour along the wall, away from the stems, and stop at the line."),
            Self::PowerOn => words("Power on, and see all of it run", "Before the lid closes: every sprayer, channel and outlet wet, the stone bubbling, no drip on the floor.")
                .caution("Dry hands at the plug; the cable hangs in a loop below the socket."),
            Self::CloseLid => words("Close the lid", "Plants back in their places; no light on the water."),
            Self::Wait => words("Let it mix", "Twenty minutes with the pump on; forty-five where only air moves the water."),
            Self::Measure => words("Measure", "Level, EC, pH and temperature. Fresh feed lowers pH by itself: correct only now."),
        }
    }
}

/// The steps of a change at a system, in order.
#[must_use]
pub fn steps_of(system: &System, extent: ChangeExtent, reset: bool, swap: bool) -> Vec<ChangeStep> {
    use ChangeStep::{
        CloseLid, Drain, Dry, Flush, Heel, Inlet, LidAside, Measure, Organic, PowerOff, PowerOn, Prepare, Refill, Rinse, RinseAgain, Roots, Sanitise, Stone, Swap, Temper, Wait,
    };
    let t = &system.traits;
    let powered = t.circulates || t.aerated || t.sprayers;
    let full = extent == ChangeExtent::Full;
    let channels = system.kind == Kind::FilmChannel;
    let all = [
        (Prepare, true),
        (Temper, true),
        (PowerOff, powered),
        (LidAside, !swap),
        (Swap, swap),
        (Drain, !swap),
        (Heel, !swap && (!full || t.heel > Litres::ZERO)),
        (Rinse, full && !swap),
        (Flush, full && channels),
        (Roots, true),
        (Inlet, full && t.circulates),
        (Stone, full && t.aerated),
        (Organic, reset),
        (Sanitise, reset),
        (RinseAgain, reset),
        (Dry, reset),
        (Refill, !swap),
        (PowerOn, powered),
        (CloseLid, !swap),
        (Wait, powered),
        (Measure, true),
    ];
    all.into_iter().filter(|(_, has)| *has).map(|(step, _)| step).collect()
}
