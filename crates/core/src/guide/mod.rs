//! A reservoir change or a full reset, guided by hand: the steps follow from what the system has, some
//! may be left out, but never silently.

mod hands;
mod place;
mod run;
mod step;

pub use place::{Gear, MixingPlace};
pub use run::{Guide, GuideStep, entry_of, guide, look_on, with_places};
pub use step::steps_of;
