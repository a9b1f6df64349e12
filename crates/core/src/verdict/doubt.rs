//! Slips: what was typed and is more likely a slip than so. Asked once, and kept where it is said to be so;
//! nothing is refused for it.

use crate::fact::{Subject, Visit};
use crate::figures::FIGURES;
use crate::message::{Message, plain};
use crate::quantity::{Celsius, EcScale, Litres};
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
    if typed.scale != EcScale::MilliSiemens && typed.value > 0.0 && typed.value < LEAST_PPM {
        return Some(say!("doubt.ec_scale", value = plain(typed.value)));
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
    let read = visit.temperature?;
    (read > Celsius::constant(FIGURES.water.no_warmer)).then(|| say!("doubt.temperature", temperature = read))
}
