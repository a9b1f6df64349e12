//! The arithmetic at the reservoir: how much of what, how strong, measured with which tool, in
//! which container. One file a question; every answer conserves salt.

pub mod alkalinity;
pub mod balance;
mod containers;
mod dilution;
mod learn;
mod library;
mod measure;
mod order;
mod product;
mod rate;
mod recipe;
mod sanitiser;
pub mod warmth;

pub use balance::Water;
pub use containers::{Container, Share, shares_of, split};
pub use dilution::{Dilution, dilute};
pub use learn::{BatchPoint, Learnt, learnt_rise};
pub use library::{products, recipes, shipped_id, usual_peroxide};
pub use measure::{MeasuringPlan, Tool, measure};
pub use order::{ProductKind, mixing_order};
pub use product::{Analysis, OwnMeasure, Price, Product, STRONGEST_PEROXIDE};
pub use rate::{PrintedRate, RateAmount, RateVolume};
pub use recipe::{FeedFacts, Recipe, RecipeLine, StageParts};
pub use sanitiser::{Sanitiser, check_together};
