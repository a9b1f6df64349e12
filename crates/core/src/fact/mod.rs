//! Facts: who acts, what is set up and since when, what was done and seen. Everything else is worked
//! out from these.

pub mod actor;
pub mod card;
mod change;
mod effective;
mod entry;
mod findings;
mod happened;
mod history;
mod kept;
mod left_behind;
mod picture;
mod plant_case;
mod plants;
mod poured;
mod put_off;
mod rights;
mod run_off;
mod sensed;
mod sort;
mod transplant;
mod treatment;
pub mod upcast;
mod vessels;
mod wait;

pub use actor::Actor;
pub use change::{ChangeExtent, ChangeParts, ChangeRun, ChangeStep, MixedIn, OldWater, StepMark};
pub use effective::effective;
pub use entry::{Body, Change, Entry, Visit};
pub use findings::{
    Clarity, Meshes, RootAnswers, RootStage, Roots, Running, Smell, Subject, TopOff, TopOffWater, WaterGlass,
};
pub use happened::{Carried, Happened, Harvested, LampSeen, Spray};
pub use history::{Dated, Holds, Planted, Segment, Timeline, Version};
pub use kept::{Draft, LoggedEntry, NewCard, StoredCard, StoredRun, Timer};
pub use picture::{NewPicture, Picture};
pub use plant_case::{CaseLook, CaseOutcome, CasePlan, Shares, plan, plans};
pub use plants::{Course, PlantSign, Plants, SignFacts, Since, Spread, Where, signs};
pub use poured::{Batch, Correction, Dosed, Premix, PremixIn, Used};
pub use put_off::{Chore, Instead, PutOff};
pub use rights::{Account, Act, Grant};
pub use run_off::RunOff;
pub use sensed::{Sensed, Stirred, condensed};
pub use sort::Sort;
pub use transplant::Transplant;
pub use treatment::{Treatment, TreatmentKind};
pub use vessels::{Apart, EachVessel};
pub use wait::{Wait, WaitFor};
