//! How many days a thing may be late before lateness starts to cost plants.

use crate::figures::FIGURES;
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;

/// Slack in days, and what shortened it.
#[derive(Debug, Clone, PartialEq)]
pub struct Slack {
    /// Days.
    pub days: f64,
    /// Why it is halved, in a sentence; `None` at its usual length.
    pub halved: Option<Message>,
}

/// The slack of a check here and now: its usual slack (less for the meshes of channels), halved for
/// the sensitive ones when the water is warm or there is little of it.
#[must_use]
pub fn slack(check: Check, s: &Situation<'_>) -> Slack {
    let facts = check.facts();
    if let Some(own) = s.system.slacks.get(&check) {
        return shorten(*own, facts.sensitive, s);
    }
    let film = check == Check::Filters && s.system.traits.channels;
    shorten(if film { FIGURES.margin.film_filters } else { facts.slack }, facts.sensitive, s)
}

/// Halves `days` for sensitive things in warm or scarce water; once, not twice.
#[must_use]
pub fn shorten(days: f64, sensitive: bool, s: &Situation<'_>) -> Slack {
    let halved = if sensitive { pressed(s) } else { None };
    Slack { days: if halved.is_some() { days * FIGURES.margin.crowded_share } else { days }, halved }
}

fn pressed(s: &Situation<'_>) -> Option<Message> {
    let warm = s.known.readings.temperature.map(|t| t.value).filter(|t| t.get() >= FIGURES.water.warm);
    if let Some(warm) = warm {
        return Some(say!("margin.warm", temperature = warm));
    }
    let plants = s.plants();
    if plants == 0 {
        return None;
    }
    let each = s.system.reservoir.working / f64::from(plants);
    (each.get() < FIGURES.water.litres_a_plant).then(|| say!("margin.scarce", litres = each))
}
