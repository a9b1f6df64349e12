//! What must never meet. Refused, not only warned about.

use crate::Refusal;
use serde::{Deserialize, Serialize};

/// Something that kills germs, or that meets it while cleaning.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "said in `say`")]
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
    pub fn say(self) -> &'static str {
        match self {
            Self::Peroxide => "peroxide",
            Self::Brine => "strong brine",
            Self::Ammonia => "ammonia",
            Self::CitricAcid => "citric acid",
            Self::Vinegar => "vinegar",
            Self::PhDown => "pH down",
            Self::Bleach => "bleach",
        }
    }
}

/// Refuses two that must never meet, together or without a full rinse between.
///
/// # Errors
/// Bleach with ammonia, with any acid or with peroxide; peroxide with vinegar.
pub fn check_together(a: Sanitiser, b: Sanitiser) -> Result<(), Refusal> {
    use Sanitiser::{Ammonia, Bleach, CitricAcid, Peroxide, PhDown, Vinegar};
    let danger = match (a, b) {
        (Bleach, Ammonia) | (Ammonia, Bleach) => "they give off chloramine gas",
        (Bleach, CitricAcid | Vinegar | PhDown) | (CitricAcid | Vinegar | PhDown, Bleach) => "they give off chlorine gas",
        (Bleach, Peroxide) | (Peroxide, Bleach) => "they react violently",
        (Peroxide, Vinegar) | (Vinegar, Peroxide) => "they make a corrosive acid",
        _ => return Ok(()),
    };
    Err(Refusal::new(
        format!("found {} with {}: {danger}", a.say(), b.say()),
        "allowed is one of them, with a full rinse before any other",
        "Choose one. Rinse everything with plain water, twice, before the other is even opened.",
    ))
}
