//! Feeding by a timer where what runs out is gone: run to waste.

use crate::message::{count, plain};
use crate::quantity::Litres;
use crate::refusal::Refusal;
use crate::refuse;
use serde::{Deserialize, Serialize};

/// How the timer feeds: so often a day, so much each time to all plants together.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Feeding {
    /// Feeds a day, 1–48.
    #[schema(minimum = 1, maximum = 48)]
    pub times: u16,
    /// Litres of one feed, over all drippers together.
    pub litres: Litres,
}

/// Stone wool on a bright day is fed every half hour; nothing is fed more often.
const MOST_TIMES: u16 = 48;

impl Feeding {
    /// What leaves the reservoir a day.
    #[must_use]
    pub fn a_day(self) -> Litres {
        self.litres * f64::from(self.times)
    }

    /// Checks it against what the vessel holds.
    ///
    /// # Errors
    /// A refusal at the field: no feed or too many a day, an empty feed, or a day of them that is more than the vessel holds.
    pub fn check(self, most: Litres) -> Result<(), Refusal> {
        if !(1..=MOST_TIMES).contains(&self.times) {
            return Err(refuse!("feeding_times", found = count(self.times), most = count(MOST_TIMES)).at("times"));
        }
        if self.litres <= Litres::ZERO {
            return Err(refuse!("feeding_empty", found = plain(0.0)).at("litres"));
        }
        if self.a_day() > most {
            return Err(refuse!("feeding_over_vessel", found = self.a_day(), most = most).at("litres"));
        }
        Ok(())
    }
}
