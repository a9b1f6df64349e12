//! What must never meet. Refused, not only warned about.

use crate::message::{Param, member, term};
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};

/// Something that kills germs, or that meets it while cleaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Sanitiser {
    Peroxide,
    Brine,
    Ammonia,
    CitricAcid,
    Vinegar,
    PhDown,
    Bleach,
}

impl Sanitiser {
    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member(
            "sanitiser",
            match self {
                Self::Peroxide => "peroxide",
                Self::Brine => "brine",
                Self::Ammonia => "ammonia",
                Self::CitricAcid => "citric_acid",
                Self::Vinegar => "vinegar",
                Self::PhDown => "ph_down",
                Self::Bleach => "bleach",
            },
        )
    }
}

/// Refuses two that must never meet, together or without a full rinse between.
///
/// # Errors
/// Bleach with ammonia, with any acid or with peroxide; peroxide with vinegar.
pub fn check_together(a: Sanitiser, b: Sanitiser) -> Result<(), Refusal> {
    use Sanitiser::{Ammonia, Bleach, CitricAcid, Peroxide, PhDown, Vinegar};
    let danger = match (a, b) {
        (Bleach, Ammonia) | (Ammonia, Bleach) => term("sanitiser.chloramine"),
        (Bleach, CitricAcid | Vinegar | PhDown) | (CitricAcid | Vinegar | PhDown, Bleach) => term("sanitiser.chlorine"),
        (Bleach, Peroxide) | (Peroxide, Bleach) => term("sanitiser.violent"),
        (Peroxide, Vinegar) | (Vinegar, Peroxide) => term("sanitiser.corrosive"),
        _ => return Ok(()),
    };
    Err(refuse!("sanitisers_meet", one = a.say(), other = b.say(), danger = danger))
}
