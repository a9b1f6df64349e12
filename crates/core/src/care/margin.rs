//! How many days a thing may be late before lateness starts to cost plants.

use super::Check;
use crate::log::State;
use crate::quantity::{Celsius, Wording};
use crate::system::{Kind, System};

/// At and above this temperature water holds too little oxygen for roots to wait.
pub const WARM_WATER: f64 = 24.0;
/// Below this much water a plant, everything moves faster.
pub const LITRES_A_PLANT: f64 = 2.0;

/// Slack in days, and what shortened it.
#[derive(Debug, Clone, PartialEq)]
pub struct Slack {
    /// Days.
    pub days: f64,
    /// Why it is halved, as a clause; `None` at its usual length.
    pub halved: Option<String>,
}

/// The slack of a check here and now: its usual slack (1 day for the meshes of a film channel),
/// halved for the sensitive ones when the water is warm or there is little of it.
#[must_use]
pub fn slack(check: Check, system: &System, state: &State, plants: u32, wording: Wording) -> Slack {
    let days = if check == Check::Filters && system.kind == Kind::FilmChannel { 1.0 } else { check.facts().slack };
    shorten(days, check.facts().sensitive, system, state, plants, wording)
}

/// Halves `days` for sensitive things in warm or scarce water; once, not twice.
#[must_use]
pub fn shorten(days: f64, sensitive: bool, system: &System, state: &State, plants: u32, wording: Wording) -> Slack {
    let halved = if sensitive { pressed(system, state, plants, wording) } else { None };
    Slack { days: if halved.is_some() { days / 2.0 } else { days }, halved }
}

fn pressed(system: &System, state: &State, plants: u32, wording: Wording) -> Option<String> {
    if let Some(warm) = state.temperature.map(|t| t.value).filter(|t: &Celsius| t.get() >= WARM_WATER) {
        return Some(format!("water at {} halves the slack", wording.temperature(warm)));
    }
    if plants == 0 {
        return None;
    }
    let each = system.reservoir.working.get() / f64::from(plants);
    (each < LITRES_A_PLANT).then(|| format!("only {} a plant halves the slack", wording.volume(crate::quantity::Litres::nearest(each))))
}
