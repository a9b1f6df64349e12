//! An amount as it is measured with the tools at hand, and how far off that is.

use crate::Refusal;
use serde::{Deserialize, Serialize};

/// A syringe, cylinder, spoon or scale.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Tool {
    /// What it is called.
    pub name: String,
    /// The most that it measures at once, in mL or g.
    pub holds: f64,
    /// The distance between two of its marks.
    pub marked_each: f64,
}

/// How to measure an amount: so many full measures and a rest at a mark.
#[derive(Debug, Clone, PartialEq, Serialize)]
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

/// The plan with the smallest error; of equal ones the one with the fewest fillings.
///
/// # Errors
/// Nothing to measure, no tool, or a tool that would be filled more than 50 times.
pub fn measure(amount: f64, tools: &[Tool]) -> Result<MeasuringPlan, Refusal> {
    let usable = |tool: &&Tool| tool.holds > 0.0 && tool.marked_each > 0.0 && amount / tool.holds <= 50.0;
    let plans = tools.iter().filter(usable).map(|tool| {
        let full = (amount / tool.holds + 1e-9).floor();
        let rest = amount - full * tool.holds;
        let rest_at_mark = (rest / tool.marked_each).round() * tool.marked_each;
        let measured = full * tool.holds + rest_at_mark;
        MeasuringPlan { tool: tool.name.clone(), full: full as u32, rest, rest_at_mark, measured, error: (measured - amount) / amount }
    });
    let best = plans.min_by(|a, b| (a.error.abs() + f64::from(a.full) * 1e-6).total_cmp(&(b.error.abs() + f64::from(b.full) * 1e-6)));
    best.filter(|_| amount.is_finite() && amount > 0.0).ok_or_else(|| {
        Refusal::new(
            format!("found {amount:.2} to measure with {} tools", tools.len()),
            "allowed is more than 0, with a tool that is filled at most 50 times",
            "Name a tool of the right size: a syringe, a cylinder, a scale.",
        )
    })
}
