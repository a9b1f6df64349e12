//! A batch too large for one container, split over those at hand.

use crate::figures::FIGURES;
use crate::message::count;
use crate::quantity::{Litres, Name, Quantity};
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};

/// Something to mix and carry in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Container {
    /// What it is called.
    pub name: Name,
    /// What it takes without spilling on the way.
    pub holds: Litres,
}

/// One filling of one container.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Share {
    /// Which container.
    pub container: String,
    /// How much water goes in.
    pub litres: Litres,
    /// Its part of the whole, for every product's share; the parts add up to 1.
    pub part: f64,
    /// What it weighs to carry: 1 L is 1 kg.
    pub kilograms: f64,
}

/// Fills the largest containers first, and again as often as needed; the rest goes into the smallest
/// one that takes it.
///
/// # Errors
/// Nothing to split, nothing to split it into, or more than 40 fillings.
pub fn split(total: Litres, containers: &[Container]) -> Result<Vec<Share>, Refusal> {
    let mut sorted: Vec<&Container> = containers.iter().filter(|c| c.holds > Litres::ZERO).collect();
    sorted.sort_by(|a, b| b.holds.get().total_cmp(&a.holds.get()));
    let in_all: Litres = sorted.iter().map(|container| container.holds).sum();
    let most = FIGURES.bench.most_fillings;
    if total <= Litres::ZERO || in_all <= Litres::ZERO || total / in_all * sorted.len() as f64 > most {
        return Err(refuse!("batch_beyond_containers", found = total, holds = in_all, most = count(most as u64)));
    }
    let mut shares: Vec<Share> = Vec::new();
    let mut rest = total.get();
    for next in sorted.iter().cycle() {
        let fits = sorted.iter().rev().find(|container| container.holds.get() >= rest - A_DROP);
        let container = fits.unwrap_or(next);
        let litres = rest.min(container.holds.get());
        shares.push(Share {
            container: container.name.as_str().to_owned(),
            litres: Litres::calculated(litres),
            part: litres / total.get(),
            kilograms: litres,
        });
        rest -= litres;
        if rest <= A_DROP {
            break;
        }
    }
    Ok(shares)
}

/// Less is nothing left to fill: what sums are off by in their last places, in litres.
const A_DROP: f64 = 1e-9;

/// Shares of an amount that add up to it exactly, to the last bit.
///
/// Each share is cut to a whole number of the amount's own last place, so that every partial sum can
/// be written without rounding; the last one takes what that left.
#[must_use]
pub fn shares_of(amount: f64, shares: &[Share]) -> Vec<f64> {
    let last_place = f64::from_bits(amount.abs().to_bits() & 0x7ff0_0000_0000_0000) * f64::EPSILON;
    let cut = |part: f64| if last_place > 0.0 { (amount * part / last_place).floor() * last_place } else { 0.0 };
    let mut parts: Vec<f64> = shares.iter().map(|share| cut(share.part)).collect();
    if let Some((last, others)) = parts.split_last_mut() {
        *last = amount - others.iter().sum::<f64>();
    }
    parts
}
