//! Slips: what was typed and is more likely a slip than so. Asked once, and kept where it is said to be so;
//! nothing is refused for it.

use crate::fact::{Batch, Body, ChangeExtent, Subject, Used, Visit};
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

/// An EC that what went into the water cannot make, where all of that is known. One that it makes without one of the
/// products asks whether that one went in.
fn unlike_the_mix(typed: EcReading, batch: &Batch) -> Option<Message> {
    let (read, figures) = (typed.at_25(None).ok()?.get(), &FIGURES.strength);
    let rise = |used: &Used| Some(used.rise? * used.amount.value / batch.fresh.get());
    let rises: Vec<(&Used, f64)> = batch.used.iter().map(|used| Some((used, rise(used)?))).collect::<Option<_>>()?;
    let all: f64 = rises.iter().map(|(_, rise)| rise).sum();
    let source = batch.source_ec?.get();
    let expected = Conductivity::new(source + all).ok()?;
    // Labels are off by so much, and meters.
    let near = |rise: f64| {
        let made = source + rise;
        let off = rise.abs() * figures.label_spread * MARGIN + made * figures.meter_error * MARGIN + figures.same;
        (read - made).abs() <= off
    };
    if near(all) {
        return None;
    }
    let without = |(used, alone): &&(&Used, f64)| used.what.feeds() && *alone > 0.0 && near(all - alone);
    Some(match rises.iter().find(without) {
        Some((used, _)) if rises.len() > 1 => say!("doubt.ec_without", name = &used.name, expected = expected),
        _ => say!("doubt.ec_far", expected = expected),
    })
}

/// What is read lies further outside than that many times what labels and meters are off by.
const MARGIN: f64 = 2.0;

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
    // By the salt balance it lies within a range: what a meter in calibration shows outside of that is no drinking.
    let off = FIGURES.strength.meter_error * MARGIN + 1.0;
    let (low, high) = (about.low.get() / off - FIGURES.strength.same, about.high.get() * off + FIGURES.strength.same);
    let outside = read.get() < low || read.get() > high;
    outside.then(|| say!("doubt.ec_far", expected = about.value))
}

/// Fewer ppm than this are a figure in mS/cm.
const LEAST_PPM: f64 = 15.0;

fn acidity(visit: &Visit, s: &Situation<'_>) -> Option<Message> {
    let ((low, high), about) = (visit.ph?.range(), s.water().ph()?);
    let beyond = (about.low.get() - high).max(low - about.high.get());
    (beyond > FIGURES.ph.far).then(|| say!("doubt.ph_far", expected = about.value))
}

/// Warmer than any water that plants stand in: read in the other unit.
fn warmth(visit: &Visit) -> Option<Message> {
    hot(visit.temperature?)
}

fn hot(read: Celsius) -> Option<Message> {
    (read > Celsius::constant(FIGURES.water.no_warmer)).then(|| say!("doubt.temperature", temperature = read))
}
