//! When each thing is due, why, and how much lateness costs: one file a rule.

mod afar;
pub mod ahead;
mod by_need;
mod cause;
pub mod change;
pub mod cover;
pub mod cycle;
pub mod fit;
pub mod follow_up;
mod gather;
pub mod hygiene;
mod kept;
pub mod light;
pub mod look;
mod margin;
pub mod one_order;
pub mod outlook;
mod own_rules;
pub mod paper;
pub mod put_off;
mod risks;
pub mod rota;
pub mod routine;
pub mod sheet;
mod silence;
pub mod stages;
mod task;
pub mod top_off;
pub mod walk;

pub use afar::{FromList, from_list};
pub use kept::{KeptLine, kept};
pub use margin::{Slack, slack};
pub use risks::{Risk, RiskFacts, known_risks, risk_sentences, risks};
pub use task::{Standing, Task, Urgency, comes_first, pressing, tasks};
