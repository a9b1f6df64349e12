//! What a pH means: held against 5.5–6.5, with the precision of what read it.

use super::{Gauge, Subject, Tone, Verdict};
use crate::crop::{PH_AIM, PH_BAND, PH_BLOCKED};
use crate::quantity::PhReading;
use crate::system::{Measuring, Traits};

/// Days that a pH outside its band may wait.
const SLACK: f64 = 3.0;

/// Judges a pH. A reading whose precision reaches into the band is "inside as far as this can
/// tell", a verdict of its own. Above 7.0 and below 5.0 uptake is blocked.
#[must_use]
pub fn judge_ph(reading: PhReading, traits: &Traits, measuring: Measuring, by_child: bool) -> Verdict {
    let (low, high) = reading.range();
    let middle = reading.middle();
    let gauge = Gauge { from: 4.0, to: 8.5, band: [PH_BAND.0, PH_BAND.1], value: [low, high] };
    let said = reading.say();
    let band = format!("{:.1}–{:.1}", PH_BAND.0, PH_BAND.1);
    let sure = match reading {
        PhReading::Meter(_) => "A meter in calibration is true to about 0.1.",
        PhReading::Kit { .. } => "A drop kit tells the band between two colours, no more.",
    };
    let exact = matches!(reading, PhReading::Meter(_));
    let inside = if exact { (PH_BAND.0..=PH_BAND.1).contains(&middle) } else { low >= PH_BAND.0 && high <= PH_BAND.1 };
    let verdict = if inside {
        Verdict::calm(Subject::Ph, Tone::Fine, format!("pH {said}, inside {band}"), "Nutrients can be taken up.", "Nothing to do.")
    } else if high >= PH_BAND.0 && low <= PH_BAND.1 {
        let why = "The edge lies within what this can tell apart.";
        Verdict::calm(Subject::Ph, Tone::Watch, format!("pH {said}, at the edge of {band}: inside within its precision"), why, "Leave it, and measure again at the next visit.")
    } else {
        outside(&said, middle, &band, traits, measuring, by_child)
    };
    verdict.sure(sure).on(gauge)
}

fn outside(said: &str, middle: f64, band: &str, traits: &Traits, measuring: Measuring, by_child: bool) -> Verdict {
    let above = middle > PH_BAND.1;
    let blocked = middle >= PH_BLOCKED.1 || middle <= PH_BLOCKED.0;
    let (side, product, verb) = if above { ("above", "pH down", "Bring the pH down") } else { ("below", "pH up", "Bring the pH up") };
    let why = if blocked && above {
        "Above 7.0 iron and phosphate are locked out."
    } else if blocked {
        "Below 5.0 roots are harmed and calcium is locked out."
    } else {
        "Away from the band some nutrients are taken up poorly; plants show it in a week or two."
    };
    let wait = match (measuring, traits.circulates, traits.aerated) {
        (Measuring::DropKit | Measuring::RecipeOnly, ..) => "measure again at the next visit",
        (_, true, _) => "wait 20 minutes, measure",
        (_, false, true) => "wait 45 minutes, measure",
        _ => "stir in a jug first, wait 45 minutes, measure",
    };
    let next = if by_child {
        "Tell an adult: correcting pH means a concentrate.".to_owned()
    } else {
        format!(
            "Aim at {:.1}–{:.1}: half the usual dose of {product} in a separate jug of tank water, pour slowly, {wait}, then the rest. At most 1.0 a day; gloves and goggles; never acid and base on one visit.",
            PH_AIM.0, PH_AIM.1
        )
    };
    Verdict::calm(Subject::Ph, if blocked { Tone::Now } else { Tone::Act }, format!("pH {said}, {side} {band}"), why, &next).todo(verb, SLACK)
}
