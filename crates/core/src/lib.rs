//! The judgement of Mopsel: what a reading means, when a thing is due, and why.
//!
//! Everything here is a pure function of its arguments. The clock is an argument, so are the log and
//! the cards; there is no I/O, no async and no interface code.
//!
//! The house has floors, and no module looks up (a test holds it):
//!
//! 1. [`message`], [`refusal`], [`statistics`]: what is said and why something is refused, as codes
//! 2. [`quantity`]: numbers with units, and how they calculate
//! 3. [`figures`]: the rules of thumb, each once, with its reason
//! 4. [`band`], [`calendar`], [`reservoir`], [`system`], [`crop`], [`mixing`]: the things of the job
//! 5. [`fact`]: who acts, what is set up and since when, what was done
//! 6. [`projection`]: what the log comes to
//! 7. [`situation`]: all that a rule may look at
//! 8. [`forecast`], [`refill`], [`dosing`], [`diagnosis`], [`verdict`], [`care`], [`guide`], [`bench`], [`drawing`],
//!    [`trend`], [`way`]: the rules
//! 9. [`gate`]: every write, decided
//! 10. [`words`]: sentences, for one reader
//!
//! Someone looking for "when is a change due" opens [`care::change`]; for "what does this pH mean",
//! [`verdict::judge_ph`].

pub mod band;
pub mod bench;
pub mod calendar;
pub mod care;
pub mod columns;
pub mod compare;
pub mod crop;
pub mod diagnosis;
pub mod dosing;
pub mod drawing;
pub mod fact;
pub mod figures;
pub mod forecast;
pub mod gate;
pub mod guide;
pub mod message;
pub mod mixing;
pub mod projection;
pub mod quantity;
pub mod reach;
pub mod refill;
pub mod refusal;
pub mod remind;
pub mod reservoir;
pub mod situation;
pub mod statistics;
pub mod story;
pub mod system;
pub mod trend;
pub mod verdict;
pub mod way;
pub mod words;

pub use refusal::Refusal;
