//! A reservoir change or a full reset, done by hand, one step after the other. The steps follow from
//! what the system has; some may be left out, but never silently.

mod guide;
mod parts;
mod step;

pub use guide::{ChangeRun, Guide, GuideStep, fill_limit, fill_to, guide};
pub use parts::{ChangeParts, OldWater, StepMark};
pub use step::{ChangeStep, steps_of};

/// Fresh water further than this from the tank's is said to be so.
pub const TEMPER_WARNS: f64 = 3.0;
/// Further than this, roots are shocked: a reason is wanted before it goes in.
pub const TEMPER_ASKS: f64 = 5.0;
