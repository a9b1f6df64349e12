//! EC rises learnt from batches that were mixed and measured.

use crate::statistics::median;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// One logged batch: what one litre of it was given, and by how much its EC rose.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct BatchPoint {
    /// Products with their mL or g in a litre.
    pub per_litre: Vec<(Uuid, f64)>,
    /// EC of the batch less EC of the water, in mS/cm.
    pub rise: f64,
}

/// A learnt rise.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Learnt {
    /// mS/cm for 1 mL or 1 g in a litre.
    pub rise: f64,
    /// From how many batches.
    pub batches: usize,
}

/// The rise of a product, median over the batches that held it.
///
/// Where every product of a batch has a rise on its label, all are corrected by the same factor,
/// measured over computed. Where some have none, what the others leave is shared among those by
/// their amounts. `given` tells the rise on a label; 0 for what does not feed.
#[must_use]
pub fn learnt_rise(product: Uuid, batches: &[&BatchPoint], given: impl Fn(Uuid) -> Option<f64>) -> Option<Learnt> {
    let mut rises = Vec::new();
    for batch in batches.iter().filter(|batch| batch.per_litre.iter().any(|(id, _)| *id == product)) {
        let known: f64 = batch.per_litre.iter().filter_map(|(id, rate)| Some(given(*id)? * rate)).sum();
        let unknown: f64 = batch.per_litre.iter().filter(|(id, _)| given(*id).is_none()).map(|(_, rate)| rate).sum();
        let rise = match given(product) {
            Some(label) if unknown == 0.0 && known > 0.0 => label * batch.rise / known,
            None if unknown > 0.0 => (batch.rise - known) / unknown,
            _ => continue,
        };
        if rise.is_finite() && rise > 0.0 && rise < 10.0 {
            rises.push(rise);
        }
    }
    Some(Learnt { rise: median(&rises)?, batches: rises.len() })
}
