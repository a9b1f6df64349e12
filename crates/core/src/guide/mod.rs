//! A reservoir change or a full reset, guided by hand: the steps follow from what the system has, some
//! may be left out, but never silently.

mod run;
mod step;

pub use run::{Guide, GuideStep, entry_of, guide, look_on};
pub use step::steps_of;
