//! How much acid the water itself holds against.

use crate::message::plain;
use crate::quantity::Ph;
use crate::system::MOST_ALKALINITY;
use crate::{Refusal, refuse};

/// Where half of the carbonate stands as bicarbonate.
const HALFWAY: f64 = 6.35;

/// Share of carbonate that stands as bicarbonate, α(p) = 1 / (1 + 10^(6.35 − p)); for pH below 8.3.
///
/// Acid moves α in proportion to what is poured, whatever the pH; it does not move the pH in
/// proportion. So doses are learnt, scaled and capped as changes of α.
#[must_use]
pub fn bicarbonate(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(HALFWAY - ph))
}

/// The pH at which that share stands, 6.35 − log₁₀(1/α − 1); shares beyond pH 3.4 and 9.3 give those ends.
#[must_use]
pub fn ph_of(share: f64) -> f64 {
    const LEAST: f64 = 0.001;
    let share = share.clamp(LEAST, 1.0 - LEAST);
    HALFWAY - (1.0 / share - 1.0).log10()
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
