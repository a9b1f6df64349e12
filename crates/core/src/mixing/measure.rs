//! An amount as it is measured with the tools at hand, and how far off that is.

use super::{Amount, AmountUnit};
use crate::Refusal;
use crate::quantity::Name;
use serde::{Deserialize, Serialize};

/// A syringe, cylinder, spoon or scale.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tool {
    /// What it is called.
    pub name: Name,
    /// What it measures in.
    pub unit: AmountUnit,
    /// The most that it measures at once, in mL or g; more than 0, up to 20 000.
    #[schema(minimum = 0, maximum = 20_000)]
    pub holds: f64,
    /// The distance between two of its marks; more than 0, up to what it holds.
    #[schema(minimum = 0, maximum = 20_000)]
    pub marked_each: f64,
}

impl Tool {
    /// Checks that it holds something and is marked within that.
    ///
    /// # Errors
    /// A refusal that says which.
    pub fn check(&self) -> Result<(), Refusal> {
        if self.holds > 0.0 && self.holds <= 20_000.0 && self.marked_each > 0.0 && self.marked_each <= self.holds {
            return Ok(());
        }
        Err(Refusal::new(
            format!("found “{}” that holds {} and is marked each {}", self.name.as_str(), self.holds, self.marked_each),
            "allowed is more than 0, up to 20000, marked within what it holds",
            "Read the largest mark and the distance between two marks.",
        ))
    }
}

/// What a hand with a syringe is off by anyway, as a share.
const GOOD_ENOUGH: f64 = 0.01;

/// How to measure an amount: so many full measures and a rest at a mark.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct MeasuringPlan {
    /// With which tool.
    pub tool: String,
    /// How often it is filled.
    pub full: u32,
    /// What comes on top, before rounding to a mark.
    pub rest: f64,
    /// The mark to which that is rounded.
    pub rest_at_mark: f64,
    /// What is measured in all.
    pub measured: f64,
    /// How far off that is, as a share: +0.005 is half a per cent too much.
    pub error: f64,
}

/// Of the plans that are right to 1 % the one with the fewest fillings; else the one with the smallest
/// error.
///
/// # Errors
/// Nothing to measure, no tool, or a tool that would be filled more than 50 times.
pub fn measure(amount: Amount, tools: &[Tool]) -> Result<MeasuringPlan, Refusal> {
    let Amount { value: amount, unit } = amount;
    let usable = |tool: &&Tool| tool.unit == unit && tool.holds > 0.0 && tool.marked_each > 0.0 && amount / tool.holds <= 50.0;
    let plans = tools.iter().filter(usable).map(|tool| {
        let full = (amount / tool.holds + 1e-9).floor();
        let rest = amount - full * tool.holds;
        let rest_at_mark = (rest / tool.marked_each).round() * tool.marked_each;
        let measured = full * tool.holds + rest_at_mark;
        MeasuringPlan { tool: tool.name.as_str().to_owned(), full: full as u32, rest, rest_at_mark, measured, error: (measured - amount) / amount }
    });
    // Errors that the hand makes anyway count alike; of those the fewest fillings are best.
    let worth = |plan: &MeasuringPlan| ((plan.error.abs() - GOOD_ENOUGH).max(0.0), plan.full, plan.error.abs());
    let best = plans.min_by(|a, b| worth(a).partial_cmp(&worth(b)).unwrap_or(std::cmp::Ordering::Equal));
    best.filter(|_| amount.is_finite() && amount > 0.0).ok_or_else(|| {
        Refusal::new(
            format!("found {amount:.2} to measure with {} tools", tools.len()),
            "allowed is more than 0, with a tool that is filled at most 50 times",
            "Name a tool of the right size: a syringe, a cylinder, a scale.",
        )
    })
}

impl MeasuringPlan {
    /// As it is done: "3 × 20 mL syringe + 14 mL", "13.6 g on the scale".
    #[must_use]
    pub fn say(&self, unit: AmountUnit) -> String {
        let unit = if unit == AmountUnit::Ml { "mL" } else { "g" };
        let rest = trimmed(self.rest_at_mark);
        match (self.full, self.rest_at_mark > 0.0) {
            (0, _) => format!("{}: {rest} {unit}", self.tool),
            (full, false) => format!("{full} × {}", self.tool),
            (full, true) => format!("{full} × {} + {rest} {unit}", self.tool),
        }
    }
}

/// A number without needless noughts.
fn trimmed(value: f64) -> String {
    let text = format!("{value:.2}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}
