//! What a pH means: held against the band, with the precision of what read it.

use super::{Gauge, Rank, Tone, Verdict};
use crate::band::PhBand;
use crate::calendar::days_between;
use crate::dosing::{DosePart, PhAsk, beyond_twice, blocked, estimate, last_ph, reaches_band};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Message, Param, minutes, ph, term};
use crate::mixing::{Product, ProductKind, products, shipped_id};
use crate::projection::PhProduct;
use crate::quantity::{About, Amount, Litres, Ph, PhReading};
use crate::refill::too_wide;
use crate::say;
use crate::situation::Situation;
use crate::system::{Measuring, PhMethod, Traits};
use jiff::Timestamp;
use uuid::Uuid;

/// Judges a pH. A reading whose precision reaches into the band is "inside as far as this can
/// tell", a verdict of its own. Beyond the ends at which uptake is blocked it cannot wait. What no
/// water with plants in it shows asks for the probe before the plants.
#[must_use]
pub fn judge_ph(reading: PhReading, band: PhBand, traits: &Traits, measuring: Measuring) -> Verdict {
    let figures = &FIGURES.ph;
    let (low, high) = reading.range();
    let said = || crate::quantity::band(band.low, band.high);
    let whole = match reading {
        PhReading::Meter(_) => reaches_band(reading, band),
        PhReading::Kit { .. } => low >= band.low.get() && high <= band.high.get(),
    };
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Ph, tone, finding, why, next);
    let judged = if !(figures.read_least..=figures.read_most).contains(&reading.middle()) {
        let (why, next) = (say!("verdict.ph.probe_why"), say!("verdict.ph.probe_next"));
        verdict(Tone::Act, say!("verdict.ph.probe", ph = reading), why, next)
            .todo(say!("verdict.ph.probe_todo"), figures.dosed_slack)
    } else if whole {
        let finding = say!("verdict.ph.right", ph = reading, band = said());
        verdict(Tone::Fine, finding, say!("verdict.ph.right_why"), say!("verdict.nothing_to_do"))
    } else if edge(reading, band) {
        let finding = say!("verdict.ph.edge", ph = reading, band = said());
        verdict(Tone::Watch, finding, say!("verdict.ph.edge_why"), say!("verdict.ph.edge_next"))
    } else {
        outside(reading, band, traits, measuring)
    };
    with_sure(judged, reading, band)
}

/// With how sure it is, and where it stands on its band.
fn with_sure(judged: Verdict, reading: PhReading, band: PhBand) -> Verdict {
    let (low, high) = reading.range();
    let sure = match reading {
        PhReading::Meter(_) => say!("verdict.ph.sure_meter"),
        PhReading::Kit { .. } => say!("verdict.ph.sure_kit"),
    };
    let shown = [band.low.get(), band.high.get()];
    judged.sure(sure).on(Gauge { from: 4.0, to: 8.5, band: shown, value: [low, high] })
}

/// Whether the reading's precision reaches into the band.
fn edge(reading: PhReading, band: PhBand) -> bool {
    let (low, high) = reading.range();
    match reading {
        PhReading::Meter(_) => high >= band.low.get() && low <= band.high.get(),
        PhReading::Kit { .. } => reaches_band(reading, band),
    }
}

fn outside(reading: PhReading, band: PhBand, traits: &Traits, measuring: Measuring) -> Verdict {
    let figures = &FIGURES.ph;
    let middle = reading.middle();
    let above = middle > band.high.get();
    let blocked = middle >= figures.blocked_above || middle <= figures.blocked_below;
    let why = match (blocked, above) {
        (true, true) => say!("verdict.ph.why_locked_out"),
        (true, false) => say!("verdict.ph.why_harmed"),
        (false, _) => say!("verdict.ph.why_poorly"),
    };
    let wait = match (measuring, traits.circulates, traits.aerated) {
        (Measuring::DropKit | Measuring::KitAndMeter | Measuring::RecipeOnly, ..) => {
            say!("verdict.ph.measure_next_visit")
        }
        (_, true, _) => say!("verdict.ph.wait", minutes = minutes(figures.mix_pumped)),
        (_, false, true) => say!("verdict.ph.wait", minutes = minutes(figures.mix_unpumped)),
        _ => say!("verdict.ph.wait_stirred", minutes = minutes(figures.mix_unpumped)),
    };
    let product = if above { ProductKind::PhDown } else { ProductKind::PhUp };
    let aim = ph(figures.aim);
    let next = say!("verdict.ph.usual_dose", aim = aim, product = product, wait = wait, most = ph(figures.most_a_day));
    let said = crate::quantity::band(band.low, band.high);
    let (finding, todo) = if above {
        (say!("verdict.ph.high", ph = reading, band = said), say!("verdict.ph.high_todo"))
    } else {
        (say!("verdict.ph.low", ph = reading, band = said), say!("verdict.ph.low_todo"))
    };
    let tone = if blocked { Tone::Now } else { Tone::Act };
    Verdict::new(Subject::Ph, tone, finding, why, next).todo(todo, figures.slack)
}

/// The same where the system is known: the dose is worked out for the water that stands there, or the
/// reason against one is said. `read` is when the pH was read; just now when absent. Helpers who are
/// children are told to fetch an adult, whatever the dose.
#[must_use]
pub fn judge_ph_of(
    reading: PhReading,
    read: Option<Timestamp>,
    standing: Option<About<Litres>>,
    s: &Situation<'_>,
) -> Verdict {
    let edge = edge(reading, s.ph_band());
    let verdict = match edge && beyond_twice(reading, read, s) {
        true => with_sure(outside(reading, s.ph_band(), &s.system.traits, s.system.measuring), reading, s.ph_band()),
        false => judge_ph(reading, s.ph_band(), &s.system.traits, s.system.measuring),
    };
    let mild = verdict.tone == Tone::Act && !blocked(reading.middle());
    if s.system.methods.ph == PhMethod::Drum && mild {
        let next = if s.actor.is_child() { verdict.next } else { say!("verdict.ph.through_drum") };
        return Verdict { tone: Tone::Watch, rank: Rank::Routine, todo: None, next, ..verdict };
    }
    let believable = (FIGURES.ph.read_least..=FIGURES.ph.read_most).contains(&reading.middle());
    match standing.filter(|_| believable && verdict.tone >= Tone::Act && !s.actor.is_child()) {
        Some(standing) if too_wide(&standing, s) => {
            Verdict { next: say!("verdict.ph.read_level_first", litres = standing), ..verdict }
        }
        Some(standing) => with_dose(verdict, reading, read, standing.value, s),
        None => verdict,
    }
}

/// A dose has gone in since the last reading: what it did is read before anything else is poured.
#[must_use]
pub fn judge_dosed(about: About<Ph>, dosed: Timestamp, s: &Situation<'_>) -> Verdict {
    let (ago, wait) = (days_between(dosed, s.now.timestamp()) * MINUTES_A_DAY, s.mixes_in());
    let finding = say!("verdict.ph.dosed", ph = about);
    let next = if s.system.measuring.ph_by_kit() {
        say!("verdict.ph.measure_at_next_visit")
    } else if ago < wait {
        say!("verdict.ph.measure_in", minutes = minutes((wait - ago).ceil()))
    } else {
        say!("verdict.ph.measure_now")
    };
    let verdict = Verdict::new(Subject::Ph, Tone::Watch, finding, say!("verdict.ph.dosed_why"), next);
    if s.system.measuring.ph_by_kit() {
        return verdict;
    }
    verdict.todo(say!("verdict.ph.measure_todo"), FIGURES.ph.dosed_slack)
}

/// So much water has gone in since the last reading that nobody can tell on which side of the band it is: it is measured
/// before anything is done about it. `None` where that is still known.
#[must_use]
pub fn judge_ph_poured(about: About<Ph>, s: &Situation<'_>) -> Option<(Timestamp, Verdict)> {
    let (moved, band) = (about.moved?, s.ph_band());
    if about.high < band.low || about.low > band.high {
        return None;
    }
    let (finding, why) = (say!("verdict.ph.poured"), say!("verdict.ph.poured_why"));
    let verdict = Verdict::new(Subject::Ph, Tone::Watch, finding, why, say!("verdict.ph.poured_next"));
    Some((moved, verdict.todo(say!("verdict.ph.poured_todo"), FIGURES.ph.dosed_slack)))
}

const MINUTES_A_DAY: f64 = 1440.0;

/// The product that moves pH that way here: the one that was last poured, else the shipped one.
fn usual_product(kind: ProductKind, s: &Situation<'_>) -> Option<(Uuid, Product, Param)> {
    let shipped = shipped_id(kind.code());
    let known = products().iter().find(|(id, _)| *id == shipped).map(|(_, product)| product)?;
    let last = if kind == ProductKind::PhUp { &s.known.lessons.base } else { &s.known.lessons.acid };
    match last {
        Some(PhProduct { product, name, unit }) if *product != shipped => {
            // Of an own bottle only the log speaks: what it holds against is learnt, not read off a label.
            let own = Product { name: name.clone(), unit: *unit, meq: None, rate: None, ..known.clone() };
            Some((*product, own, Param::from(name)))
        }
        _ => Some((shipped, known.clone(), kind.say())),
    }
}

fn with_dose(
    mut verdict: Verdict,
    reading: PhReading,
    read: Option<Timestamp>,
    litres: Litres,
    s: &Situation<'_>,
) -> Verdict {
    let up = reading.middle() < s.ph_band().low.get();
    let kind = if up { ProductKind::PhUp } else { ProductKind::PhDown };
    let Some((id, product, name)) = usual_product(kind, s) else { return verdict };
    if read.is_some() && last_ph(s).is_none() {
        return Verdict { next: say!("verdict.ph.read_again"), ..verdict };
    }
    match estimate(PhAsk { ph: reading, aim: None, litres, jar: None, read }, (id, &product), Some(s)) {
        Ok(found) => {
            let way = if s.system.methods.ph == PhMethod::Reservoir { "dose.at_the_pump" } else { "dose.in_a_jug" };
            let after = if s.system.measuring.ph_by_kit() {
                say!("verdict.ph.measure_next_visit")
            } else {
                say!("verdict.ph.wait_then_rest", minutes = minutes(found.wait_minutes))
            };
            verdict.next = say!(
                "verdict.ph.dose",
                dose = Amount { value: found.now, unit: product.unit },
                product = name,
                part = part(found.part),
                way = term(way),
                after = after,
                to = ph(found.to)
            );
            let source = verdict.sure.take();
            let all: Vec<Message> = source.into_iter().chain([found.sure]).collect();
            verdict.sure = Some(say!("sentences", all = Param::Sentences(all)));
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
