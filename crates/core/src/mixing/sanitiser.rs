//! What must never meet. Refused, not only warned about.

use crate::figures::FIGURES;
use crate::message::{Message, Param, member, percent, term};
use crate::quantity::{Amount, Litres};
use crate::{Refusal, refuse, say};
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

impl Sanitiser {
    /// How it is thinned, in a sentence.
    #[must_use]
    pub fn dilution(self) -> Message {
        let (figures, litres) = (&FIGURES.sanitiser, Litres::constant(1.0));
        let ml = Amount::ml;
        match self {
            Self::Peroxide => say!("sanitiser_dilution.peroxide", percent = percent(figures.peroxide)),
            Self::Brine => say!("sanitiser_dilution.brine", amount = Amount::grams(figures.brine), litres = litres),
            Self::Ammonia => say!("sanitiser_dilution.ammonia", amount = ml(figures.ammonia), litres = litres),
            Self::CitricAcid => {
                say!("sanitiser_dilution.citric_acid", amount = Amount::grams(figures.citric_acid), litres = litres)
            }
            Self::Vinegar => say!("sanitiser_dilution.vinegar", amount = ml(figures.vinegar), litres = litres),
            Self::PhDown => say!("sanitiser_dilution.ph_down", amount = ml(figures.ph_down), litres = litres),
            Self::Bleach => say!("sanitiser_dilution.bleach", amount = ml(figures.bleach), litres = litres),
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
        (Bleach, Ammonia) | (Ammonia, Bleach) => term("sanitiser.chloramine"),
        (Bleach, CitricAcid | Vinegar | PhDown) | (CitricAcid | Vinegar | PhDown, Bleach) => term("sanitiser.chlorine"),
        (Bleach, Peroxide) | (Peroxide, Bleach) => term("sanitiser.violent"),
        (Peroxide, Vinegar) | (Vinegar, Peroxide) => term("sanitiser.corrosive"),
        _ => return Ok(()),
    };
    Err(refuse!("sanitisers_meet", one = a.say(), other = b.say(), danger = danger))
}
