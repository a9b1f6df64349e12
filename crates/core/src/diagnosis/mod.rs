//! What ails a plant: from what is seen to causes, each with what speaks for and against it, how sure, what to
//! do, and the one look that would tell the leaders apart best.
//!
//! Causes, findings, weights and looks are data: `data/causes.toml`, `data/looks.toml`, `data/signs.toml`.
//! - [`knowledge`] reads them;
//! - [`clues`] says what a clue is, [`gather`](mod@gather) what is seen and what the log knows;
//! - [`explain`] weighs it.

mod clues;
mod explain;
mod gather;
mod knowledge;
mod since;
mod ways;

pub use clues::{Clue, Clues};
pub use explain::{Explanation, NextLook, Ranked, Sureness, explain, shares};
pub use gather::gather;
pub use knowledge::{Cause, Evidence, Leads, Look, cause, causes, findings, looks, sentences};
pub use since::outdated;
