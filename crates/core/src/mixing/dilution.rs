//! Weakening a stronger solution: C₁V₁ = C₂V₂.

use crate::message::percent;
use crate::quantity::Litres;
use crate::{Refusal, refuse};

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
        let (from, to) = (percent(from_percent), percent(to_percent));
        return Err(refuse!("dilution_figures", from = from, to = to, litres = total));
    }
    if from_percent < to_percent {
        return Err(refuse!("dilution_upwards", from = percent(from_percent), to = percent(to_percent)));
    }
    let concentrate = total * (to_percent / from_percent);
    let water = (total - concentrate).or_nothing();
    Ok(Dilution { concentrate, water, parts_water: from_percent / to_percent - 1.0 })
}
