//! How much acid the water itself holds against.

use crate::message::plain;
use crate::quantity::Ph;
use crate::system::MOST_ALKALINITY;
use crate::{Refusal, refuse};

/// Share of carbonate that stands as bicarbonate, α(p) = 1 / (1 + 10^(6.35 − p)); for pH below 8.3.
fn bicarbonate(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(6.35 - ph))
}

/// Acid for a litre, in meq: Alk/50 · (1 − α(pH_t)/α(pH₀)), with the alkalinity in mg/L CaCO₃.
///
/// # Errors
/// A pH of 8.3 or more, a target above the present pH, an alkalinity outside 0–1000 mg/L.
pub fn acid_for(alkalinity: f64, from: Ph, to: Ph) -> Result<f64, Refusal> {
    if !(0.0..=MOST_ALKALINITY).contains(&alkalinity) || from.get() >= CARBONATE_BEGINS || to > from {
        return Err(refuse!("alkalinity_figures", alkalinity = plain(alkalinity), from = from, to = to));
    }
    Ok(alkalinity / MG_PER_MEQ * (1.0 - bicarbonate(to.get()) / bicarbonate(from.get())))
}

/// From here on carbonate counts beside bicarbonate, and the formula no longer holds.
const CARBONATE_BEGINS: f64 = 8.3;
/// mg of CaCO₃ in one milliequivalent.
const MG_PER_MEQ: f64 = 50.0;
