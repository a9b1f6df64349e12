//! The log is the truth: typed entries, and the state that is folded from them.

mod entry;
mod findings;
mod fold;
mod ledger;
mod lessons;
mod poured;
mod say;

pub use entry::{Body, Change, ChangeExtent, Entry, Treatment, TreatmentKind, Visit};
pub use findings::{Clarity, PlantSign, Plants, RootAnswers, RootStage, Roots, Running, SignFacts, Smell, TopOff, TopOffWater, WaterGlass, signs};
pub use fold::{Dated, State, VolumePoint, effective, fold};
pub use ledger::{Interval, Ledger};
pub use lessons::{PhDose, Premixed};
pub use poured::{Batch, Correction, Premix, PremixIn, Used};
pub use say::say_entry;
