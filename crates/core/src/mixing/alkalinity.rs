//! How much acid the water itself holds against.

use crate::Refusal;
use crate::quantity::Ph;

/// Share of carbonate that stands as bicarbonate, α(p) = 1 / (1 + 10^(6.35 − p)); for pH below 8.3.
fn bicarbonate(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(6.35 - ph))
}

/// Acid for a litre, in meq: Alk/50 · (1 − α(pH_t)/α(pH₀)), with the alkalinity in mg/L CaCO₃.
///
/// # Errors
/// A pH of 8.3 or more, a target above the present pH, an alkalinity outside 0–1000 mg/L.
pub fn acid_for(alkalinity: f64, from: Ph, to: Ph) -> Result<f64, Refusal> {
    if !(0.0..=1000.0).contains(&alkalinity) || from.get() >= 8.3 || to > from {
        return Err(Refusal::new(
            format!("found alkalinity {alkalinity} mg/L, from pH {} to {}", from.get(), to.get()),
            "allowed is 0 to 1000 mg/L, from below pH 8.3 down to a lower pH",
            "Do a jar test instead: it holds for any water.",
        ));
    }
    Ok(alkalinity / 50.0 * (1.0 - bicarbonate(to.get()) / bicarbonate(from.get())))
}
