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
    /// It stands where it is, as a bin or a barrel does: filled by the hose, pumped or poured over, never carried.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub stands: bool,
}

impl Container {
    /// One that is carried.
    #[must_use]
    pub fn carried(name: Name, holds: Litres) -> Self {
        Self { name, holds, stands: false }
    }
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
    /// What it weighs to carry: 1 L is 1 kg. Nothing where it stands.
    pub kilograms: f64,
    /// Whether it stands where it is.
    pub stands: bool,
}

/// One filling of the smallest that takes it all. Where only something that stands is large enough for a few fillings, those;
/// nobody carries it, so that no weight parts it. Else as few fillings as can be, the largest containers first and again as often as needed; among those
/// the water is shared out as evenly as they take it, and none is filled beyond what is lifted.
///
/// # Errors
/// Nothing to split, nothing to split it into, or more than 40 fillings.
pub fn split(total: Litres, containers: &[Container], lifts: Litres) -> Result<Vec<Share>, Refusal> {
    let takes = |container: &Container| {
        if container.stands { container.holds.get() } else { container.holds.min(lifts).get() }
    };
    let mut sorted: Vec<&Container> = containers.iter().filter(|c| takes(c) > 0.0).collect();
    sorted.sort_by(|a, b| b.holds.get().total_cmp(&a.holds.get()));
    let in_all: f64 = sorted.iter().map(|container| takes(container)).sum();
    let most = FIGURES.bench.most_fillings;
    if total <= Litres::ZERO || in_all <= 0.0 || total.get() / in_all * sorted.len() as f64 > most {
        let holds = Litres::calculated(in_all);
        return Err(refuse!("batch_beyond_containers", found = total, holds = holds, most = count(most as u64)));
    }
    let whole = total.get();
    // One filling is the smallest container that takes it all.
    if let Some(one) = sorted.iter().rev().find(|container| takes(container) >= whole - A_DROP) {
        return Ok(vec![share(one, whole, whole)]);
    }
    let mut fillings: Vec<&Container> = Vec::new();
    let mut room = 0.0;
    // What stands is filled again and again rather than helped out with cans.
    let standing: Vec<&Container> = sorted.iter().copied().filter(|container| container.stands).take(1).collect();
    for container in if standing.is_empty() { &sorted } else { &standing }.iter().cycle() {
        fillings.push(container);
        room += takes(container);
        if room >= whole - A_DROP {
            break;
        }
    }
    let even = evenly(whole, &fillings.iter().map(|container| takes(container)).collect::<Vec<_>>());
    Ok(fillings.into_iter().zip(even).map(|(container, litres)| share(container, litres, whole)).collect())
}

fn share(container: &Container, litres: f64, whole: f64) -> Share {
    Share {
        container: container.name.as_str().to_owned(),
        litres: Litres::calculated(litres),
        part: litres / whole,
        kilograms: if container.stands { 0.0 } else { litres },
        stands: container.stands,
    }
}

/// Shares a whole out over what each takes, evenly, save where one takes less than its even share.
fn evenly(whole: f64, takes: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..takes.len()).collect();
    order.sort_by(|a, b| takes[*a].total_cmp(&takes[*b]));
    let mut shares = vec![0.0; takes.len()];
    let mut rest = whole;
    for (done, at) in order.iter().enumerate() {
        let even = rest / (takes.len() - done) as f64;
        shares[*at] = even.min(takes[*at]);
        rest -= shares[*at];
    }
    shares
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
