//! The arithmetic at the reservoir: how much of what, how strong, measured with which tool, in
//! which container. One file a question; every answer conserves salt.

mod alkalinity;
pub mod balance;
mod containers;
mod dilution;
mod measure;
mod order;
mod rate;
mod sanitiser;

pub use alkalinity::acid_for;
pub use containers::{Container, Share, shares_of, split};
pub use dilution::{Dilution, dilute};
pub use measure::{MeasuringPlan, Tool, measure};
pub use order::{ProductKind, mixing_order};
pub use rate::{Amount, PrintedRate, Rate, RateAmount, RatePer};
pub use sanitiser::{Sanitiser, check_together};
