//! What a pH means: held against 5.5–6.5, with the precision of what read it.

use super::{Gauge, Tone, Verdict};
use crate::dosing::{DosePart, PhAsk, estimate, ph_band, reaches_band};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Param, Unit, minutes, ph, term};
use crate::mixing::{ProductKind, products, shipped_id};
use crate::quantity::{Amount, Litres, PhReading};
use crate::say;
use crate::situation::Situation;
use crate::system::{Measuring, PhMethod, Traits};

/// Judges a pH. A reading whose precision reaches into the band is "inside as far as this can
/// tell", a verdict of its own. Beyond the ends at which uptake is blocked it cannot wait.
#[must_use]
pub fn judge_ph(reading: PhReading, traits: &Traits, measuring: Measuring) -> Verdict {
    let figures = &FIGURES.ph;
    let (low, high) = reading.range();
    let whole = match reading {
        PhReading::Meter(_) => reaches_band(reading),
        PhReading::Kit { .. } => low >= figures.band_low && high <= figures.band_high,
    };
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Ph, tone, finding, why, next);
    let judged = if whole {
        let finding = say!("verdict.ph.right", ph = reading, band = ph_band());
        verdict(Tone::Fine, finding, say!("verdict.ph.right_why"), say!("verdict.nothing_to_do"))
    } else if high >= figures.band_low && low <= figures.band_high {
        let finding = say!("verdict.ph.edge", ph = reading, band = ph_band());
        verdict(Tone::Watch, finding, say!("verdict.ph.edge_why"), say!("verdict.ph.edge_next"))
    } else {
        outside(reading, traits, measuring)
    };
    let sure = match reading {
        PhReading::Meter(_) => say!("verdict.ph.sure_meter"),
        PhReading::Kit { .. } => say!("verdict.ph.sure_kit"),
    };
    let band = [figures.band_low, figures.band_high];
    judged.sure(sure).on(Gauge { from: 4.0, to: 8.5, band, value: [low, high] })
}

fn outside(reading: PhReading, traits: &Traits, measuring: Measuring) -> Verdict {
    let figures = &FIGURES.ph;
    let middle = reading.middle();
    let above = middle > figures.band_high;
    let blocked = middle >= figures.blocked_above || middle <= figures.blocked_below;
    let why = match (blocked, above) {
        (true, true) => say!("verdict.ph.why_locked_out"),
        (true, false) => say!("verdict.ph.why_harmed"),
        (false, _) => say!("verdict.ph.why_poorly"),
    };
    let wait = match (measuring, traits.circulates, traits.aerated) {
        (Measuring::DropKit | Measuring::RecipeOnly, ..) => say!("verdict.ph.measure_next_visit"),
        (_, true, _) => say!("verdict.ph.wait", minutes = minutes(figures.mix_pumped)),
        (_, false, true) => say!("verdict.ph.wait", minutes = minutes(figures.mix_unpumped)),
        _ => say!("verdict.ph.wait_stirred", minutes = minutes(figures.mix_unpumped)),
    };
    let product = if above { ProductKind::PhDown } else { ProductKind::PhUp };
    let aim = Param::Band(figures.aim_low, figures.aim_high, Unit::Ph);
    let next = say!("verdict.ph.usual_dose", aim = aim, product = product, wait = wait, most = ph(figures.most_a_day));
    let (finding, todo) = if above {
        (say!("verdict.ph.high", ph = reading, band = ph_band()), say!("verdict.ph.high_todo"))
    } else {
        (say!("verdict.ph.low", ph = reading, band = ph_band()), say!("verdict.ph.low_todo"))
    };
    let tone = if blocked { Tone::Now } else { Tone::Act };
    Verdict::new(Subject::Ph, tone, finding, why, next).todo(todo, figures.slack)
}

/// The same where the system is known: the dose is worked out, or the reason against one is said.
/// Helpers who are children are told to fetch an adult, whatever the dose.
#[must_use]
pub fn judge_ph_of(reading: PhReading, volume: Option<Litres>, s: &Situation<'_>) -> Verdict {
    let verdict = judge_ph(reading, &s.system.traits, s.system.measuring);
    match volume.filter(|_| verdict.tone >= Tone::Act && !s.actor.is_child()) {
        Some(litres) => with_dose(verdict, reading, litres, s),
        None => verdict,
    }
}

fn with_dose(mut verdict: Verdict, reading: PhReading, litres: Litres, s: &Situation<'_>) -> Verdict {
    let up = reading.middle() < FIGURES.ph.band_low;
    let kind = if up { ProductKind::PhUp } else { ProductKind::PhDown };
    let last = s.known.lessons.ph_doses.iter().rev().find(|dose| dose.up == up).map(|dose| dose.product);
    let id = last.unwrap_or_else(|| shipped_id(kind.code()));
    let Some(product) = products().iter().map(|(_, product)| product).find(|product| product.what == kind) else {
        return verdict;
    };
    match estimate(PhAsk { ph: reading, aim: None, litres, jar: None }, (id, product), Some(s)) {
        Ok(found) => {
            let way = if s.system.methods.ph == PhMethod::Reservoir { "dose.at_the_pump" } else { "dose.in_a_jug" };
            let after = if s.system.measuring == Measuring::DropKit {
                say!("verdict.ph.measure_next_visit")
            } else {
                say!("verdict.ph.wait_then_rest", minutes = minutes(found.wait_minutes))
            };
            verdict.next = say!(
                "verdict.ph.dose",
                dose = Amount { value: found.now, unit: product.unit },
                product = kind,
                part = part(found.part),
                way = term(way),
                after = after,
                to = ph(found.to),
                most = ph(FIGURES.ph.most_a_day)
            );
            let source = verdict.sure.take();
            verdict.sure =
                Some(say!("sentences", all = Param::Sentences(source.into_iter().chain([found.sure]).collect())));
        }
        Err(against) => verdict.next = against.mending(),
    }
    verdict
}

/// Which part of the whole a dose is, in words.
fn part(part: DosePart) -> Param {
    term(match part {
        DosePart::Half => "dose.half",
        DosePart::Rest => "dose.rest",
        DosePart::Trial => "dose.a_trial",
    })
}
