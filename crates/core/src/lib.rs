//! The judgement of Mopsel: what a reading means, when a thing is due, and why.
//!
//! Everything here is a pure function of its arguments. The clock is an argument (`now`), so are
//! the log and the cards; there is no I/O, no async and no interface code. Someone looking for
//! "when is a change due" opens [`care::change`]; for "what does this pH mean", [`verdict::ph`].

pub mod bench;
pub mod calendar;
pub mod card;
pub mod care;
pub mod changing;
pub mod crop;
pub mod drawing;
pub mod forecast;
pub mod log;
pub mod mixing;
pub mod ph;
pub mod quantity;
pub mod refusal;
pub mod reservoir;
pub mod robust;
pub mod system;
pub mod trend;
pub mod verdict;

pub use refusal::Refusal;
