//! Slips: what was typed and is more likely a slip than so. Asked once, and kept where it is said to be so;
//! nothing is refused for it.

use crate::fact::{Batch, Body, ChangeExtent, Subject, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, plain};
use crate::quantity::{Celsius, Conductivity, EcReading, EcScale, Litres};
use crate::refill::fill_to;
use crate::say;
use crate::situation::Situation;
use serde::Serialize;

/// A question about something that was typed.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Doubt<W = Message> {
    /// What it is about.
    pub subject: Subject,
    /// The question.
    pub question: W,
}

impl<W> Doubt<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Doubt<V> {
        Doubt { subject: self.subject, question: say(self.question) }
    }
}

/// What is doubtful about a visit as far as it has come, held against the water as it is estimated.
#[must_use]
pub fn doubts(visit: &Visit, s: &Situation<'_>) -> Vec<Doubt> {
    let found = [level(visit, s), strength(visit, s), acidity(visit, s), warmth(visit)];
    let subjects = [Subject::Level, Subject::Ec, Subject::Ph, Subject::Temperature];
    let pairs = found.into_iter().zip(subjects);
    pairs.filter_map(|(question, subject)| Some(Doubt { subject, question: question? })).collect()
}

/// What is doubtful about any entry: a visit, or what was measured after a change, of a batch, of feed that is kept.
#[must_use]
pub fn doubts_of(body: &Body, s: &Situation<'_>) -> Vec<Doubt> {
    let of = |subject: Subject, question: Option<Message>| question.map(|question| Doubt { subject, question });
    let strength = |typed: Option<EcReading>, batch: Option<&Batch>| {
        let typed = typed.or(batch.and_then(|batch| batch.ec))?;
        of(Subject::Ec, scale(typed).or_else(|| unlike_the_mix(typed, batch?)))
    };
    match body {
        Body::Visit(visit) => {
            let found = doubts(visit, s);
            let batch =
                strength(None, visit.batch.as_ref()).filter(|_| found.iter().all(|one| one.subject != Subject::Ec));
            found.into_iter().chain(batch).collect()
        }
        Body::Change(change) => {
            let level = fill_to(s).litres.filter(|_| change.extent == ChangeExtent::Full).and_then(|meant| {
                let far = (change.volume_after - meant).size() > s.system.full() * FIGURES.level.far * 2.0;
                far.then(|| say!("doubt.change_level", after = change.volume_after, meant = meant))
            });
            let mixed = change.heel.is_none_or(|heel| heel == Litres::ZERO).then_some(change.batch.as_ref()).flatten();
            let (level, warm) = (of(Subject::Level, level), of(Subject::Temperature, change.temperature.and_then(hot)));
            level.into_iter().chain(strength(change.ec, mixed)).chain(warm).collect()
        }
        Body::Premix(premix) => strength(premix.ec, premix.batch.as_ref()).into_iter().collect(),
        Body::Treatment(_)
        | Body::Correction(_)
        | Body::Withdrawn {}
        | Body::Sensed(_)
        | Body::FromNewer
        | Body::Unreadable => Vec::new(),
    }
}

/// A figure in ppm that is one in mS/cm.
fn scale(typed: EcReading) -> Option<Message> {
    let slip = typed.scale != EcScale::MilliSiemens && typed.value > 0.0 && typed.value < LEAST_PPM;
    slip.then(|| say!("doubt.ec_scale", value = plain(typed.value)))
}

/// An EC far from what went into the water, where all of that is known.
fn unlike_the_mix(typed: EcReading, batch: &Batch) -> Option<Message> {
    let read = typed.at_25(None).ok()?;
    let rises = batch.used.iter().map(|used| Some(used.rise? * used.amount.value / batch.fresh.get()));
    let rise: f64 = rises.sum::<Option<f64>>().filter(|rise| rise.is_finite())?;
    let expected = Conductivity::new(batch.source_ec?.get() + rise).ok()?;
    let times = (read.get().max(0.01) / expected.get().max(0.01)).ln().abs();
    let far = times > FIGURES.strength.far_times.ln() && (read - expected).size().get() > FIGURES.strength.far;
    far.then(|| say!("doubt.ec_far", expected = expected))
}

/// A level far outside of what drinking and pouring can have left.
fn level(visit: &Visit, s: &Situation<'_>) -> Option<Message> {
    let (read, about) = (visit.measured(s.system)?, s.water().litres()?);
    let far = s.system.full() * FIGURES.level.far;
    if read + far < about.low {
        let gap = (about.value - read).or_nothing();
        return Some(say!("doubt.level_low", gap = gap, expected = about.value));
    }
    let gap: Litres = (read - about.value).or_nothing();
    (read > about.high + far).then(|| say!("doubt.level_high", gap = gap, expected = about.value))
}

/// A figure that stands on another scale, or far from what was expected.
fn strength(visit: &Visit, s: &Situation<'_>) -> Option<Message> {
    let typed = visit.ec?;
    if let Some(slip) = scale(typed) {
        return Some(slip);
    }
    let (read, about) = (typed.at_25(visit.temperature).ok()?, s.water().ec()?);
    let times = (read.get().max(0.01) / about.value.get().max(0.01)).ln().abs();
    let outside = read < about.low || read > about.high;
    let far =
        outside && times > FIGURES.strength.far_times.ln() && (read - about.value).size().get() > FIGURES.strength.far;
    far.then(|| say!("doubt.ec_far", expected = about.value))
}

/// Fewer ppm than this are a figure in mS/cm.
const LEAST_PPM: f64 = 15.0;

fn acidity(visit: &Visit, s: &Situation<'_>) -> Option<Message> {
    let (read, about) = (visit.ph?.middle(), s.water().ph()?);
    let outside = read < about.low.get() || read > about.high.get();
    let far = outside && (read - about.value.get()).abs() > FIGURES.ph.far;
    far.then(|| say!("doubt.ph_far", expected = about.value))
}

/// Warmer than any water that plants stand in: read in the other unit.
fn warmth(visit: &Visit) -> Option<Message> {
    hot(visit.temperature?)
}

fn hot(read: Celsius) -> Option<Message> {
    (read > Celsius::constant(FIGURES.water.no_warmer)).then(|| say!("doubt.temperature", temperature = read))
}
