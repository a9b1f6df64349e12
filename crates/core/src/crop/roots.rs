//! About how long the roots of a planting are, and so whether they reach the water.

use super::{Planting, Stage};
use crate::figures::FIGURES;
use crate::quantity::{Millimetres, Quantity};
use jiff::civil::Date;

impl Planting {
    /// About how far its roots hang below the pot on a day: they grow evenly from the day on which it is planted on. Nothing
    /// before the first true leaf.
    #[must_use]
    pub fn root_length(&self, date: Date) -> Millimetres {
        let figures = &FIGURES.roots;
        let age = f64::from((date - self.growing_since()).get_days()).max(0.0);
        let length =
            if self.stage == Stage::Germinating { 0.0 } else { (age * figures.grow_a_day).min(figures.longest) };
        Millimetres::calculated(length)
    }
}
