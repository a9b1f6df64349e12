//! Weakening a stronger solution: C₁V₁ = C₂V₂.

use crate::Refusal;
use crate::quantity::Litres;

/// How much of the stronger one, how much water.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dilution {
    /// Of the stronger solution.
    pub concentrate: Litres,
    /// Of plain water.
    pub water: Litres,
    /// Parts of water to one part of the stronger one.
    pub parts_water: f64,
}

/// Dilutes from one percentage to another, for so much in all. 12 % to 3 %: 1 part and 3 of water.
///
/// # Errors
/// A wanted strength above what there is, outside 0–100 %, or 0 L.
pub fn dilute(from_percent: f64, to_percent: f64, total: Litres) -> Result<Dilution, Refusal> {
    let known = |p: f64| p.is_finite() && p > 0.0 && p <= 100.0;
    if !known(from_percent) || !known(to_percent) || total <= Litres::ZERO {
        return Err(Refusal::new(
            format!("found {from_percent} % to {to_percent} %, {:.2} L", total.get()),
            "allowed are strengths above 0 up to 100 %, and more than 0 L",
            "Read the strength off the label.",
        ));
    }
    if from_percent < to_percent {
        return Err(Refusal::new(
            format!("found {from_percent} %, weaker than the {to_percent} % wanted"),
            format!("allowed is {to_percent} % or stronger"),
            format!("Use it as it is where {from_percent} % is enough, or get a stronger one."),
        ));
    }
    let concentrate = total.get() * to_percent / from_percent;
    Ok(Dilution { concentrate: Litres::nearest(concentrate), water: Litres::nearest(total.get() - concentrate), parts_water: from_percent / to_percent - 1.0 })
}
