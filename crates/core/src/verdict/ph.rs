//! What a pH means: held against 5.5–6.5, with the precision of what read it.

use super::{Gauge, Subject, Tone, Verdict};
use crate::care::Situation;
use crate::crop::{PH_AIM, PH_BAND, PH_BLOCKED};
use crate::mixing::{Amount, ProductKind, products, shipped_id};
use crate::ph::{DosePart, MOST_A_DAY, PhAsk, estimate};
use crate::quantity::{Litres, PhReading};
use crate::system::{Measuring, PhMethod, Traits};

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

/// The same where the system is known: the dose is worked out, or the reason against one is said.
#[must_use]
pub fn judge_ph_of(reading: PhReading, volume: Option<Litres>, s: &Situation<'_>, by_child: bool) -> Verdict {
    let mut verdict = judge_ph(reading, &s.system.traits, s.system.measuring, by_child);
    let Some(litres) = volume.filter(|_| verdict.tone >= Tone::Act && !by_child) else { return verdict };
    let up = reading.middle() < PH_BAND.0;
    let id = s.state.ph_doses.iter().rev().find(|dose| dose.up == up).map_or_else(|| shipped_id(if up { "ph_up" } else { "ph_down" }), |dose| dose.product);
    let Some(product) = products().iter().map(|(_, product)| product).find(|product| product.what == if up { ProductKind::PhUp } else { ProductKind::PhDown }) else {
        return verdict;
    };
    match estimate(PhAsk { ph: reading, aim: None, litres, jar: None }, (id, product), Some(s)) {
        Ok(found) => {
            let part = match found.part {
                DosePart::Half => "half of the estimate",
                DosePart::Rest => "the rest",
                DosePart::Trial => "a small trial",
            };
            let way = if s.system.methods.ph == PhMethod::Reservoir { "drop by drop at the pump" } else { "in a separate jug of tank water, poured slowly" };
            let after = if s.system.measuring == Measuring::DropKit {
                "measure again at the next visit".to_owned()
            } else {
                format!("wait {} minutes, measure, then the rest", found.wait_minutes)
            };
            let dose = s.wording.amount(Amount { value: found.now, unit: product.unit });
            let what = if up { "pH up" } else { "pH down" };
            verdict.next = format!(
                "{dose} of {what}, {part}, {way}; {after}. Towards {:.1} today, {:.1} a day at most; gloves and goggles; never acid and base on one visit.",
                found.to, MOST_A_DAY
            );
            verdict.sure = format!("{} {}", verdict.sure, found.sure);
        }
        Err(against) => verdict.next = against.mend,
    }
    verdict
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
