//! Whether the chosen way of topping off drifts the tank, and what another would do.
//!
//! With V litres that lose w a day and are topped off at c while the plants take up u, EC moves by
//! (c − u) · w / V a day. At c = u it stays level.

use crate::figures::FIGURES;
use crate::message::{Message, count};
use crate::quantity::{Conductivity, middle};
use crate::say;
use crate::situation::Situation;
use crate::system::TopOffMethod;
use serde::Serialize;

/// What a method does to the tank.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct MethodDrift<W = Message> {
    /// Which method.
    pub method: TopOffMethod,
    /// As it is said.
    pub name: W,
    /// The strength it pours.
    pub strength: Conductivity,
    /// EC a week, in mS/cm.
    pub ec_a_week: f64,
    /// In words.
    pub said: W,
}

/// What topping off does here.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct TopOffAdvice<W = Message> {
    /// What the chosen method does, in a sentence.
    pub finding: W,
    /// What to do about it.
    pub next: W,
    /// Whether it drifts the tank.
    pub drifting: bool,
    /// The strength that holds EC level.
    pub hold_at: Conductivity,
    /// The chosen method first, then the others from the least drift on.
    pub methods: Vec<MethodDrift<W>>,
    /// From how many stretches this is known.
    pub sure: W,
}

impl<W> TopOffAdvice<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> TopOffAdvice<V> {
        let method = |drift: MethodDrift<W>| MethodDrift {
            method: drift.method,
            name: say(drift.name),
            strength: drift.strength,
            ec_a_week: drift.ec_a_week,
            said: say(drift.said),
        };
        TopOffAdvice {
            finding: say(self.finding),
            next: say(self.next),
            drifting: self.drifting,
            hold_at: self.hold_at,
            methods: self.methods.into_iter().map(method).collect(),
            sure: say(self.sure),
        }
    }
}

/// The strengths that the methods pour, and what they come to.
struct Pouring {
    source: Conductivity,
    aim: Conductivity,
    uptake: Conductivity,
    ready: Option<Conductivity>,
    fillings_a_week: f64,
}

impl Pouring {
    fn drift(&self, method: TopOffMethod) -> MethodDrift {
        let strength = match method {
            TopOffMethod::Plain => self.source,
            TopOffMethod::LightFeed => middle(self.source, self.aim),
            TopOffMethod::SameStrength => self.aim,
            TopOffMethod::Measured => self.uptake,
            TopOffMethod::Premixed => self.ready.unwrap_or(self.aim),
            TopOffMethod::Reservoir => self.ready.unwrap_or(self.uptake),
        };
        let over = strength - self.uptake;
        let ec_a_week = over.get() * self.fillings_a_week;
        let by = over.size() * self.fillings_a_week;
        let said = if ec_a_week.abs() < FIGURES.strength.drifts {
            say!("top_off_drift.holds")
        } else if ec_a_week > 0.0 {
            say!("top_off_drift.rises", by = by)
        } else {
            say!("top_off_drift.falls", by = by)
        };
        MethodDrift { method, name: say!("top_off_drift.method", method = method.say()), strength, ec_a_week, said }
    }
}

/// The advice, once two stretches of uptake are known.
#[must_use]
pub fn top_off_advice(s: &Situation<'_>) -> Option<TopOffAdvice> {
    // Where nothing comes back the water keeps the strength that it was mixed at.
    if s.system.traits.to_waste {
        return None;
    }
    let ledger = &s.known.lessons.ledger;
    let aim = s.ec_target()?.aim;
    let (taken, a_day) = (ledger.takes_up(aim)?, ledger.water_a_day()?);
    let uptake = taken.value;
    let pouring = Pouring {
        source: s.system.source_ec,
        aim,
        uptake,
        ready: s.known.lessons.ready(s.system).and_then(|premixed| premixed.value.ec),
        fillings_a_week: a_day * 7.0 / s.system.full(),
    };
    let chosen = pouring.drift(s.system.methods.top_off);
    let open = |method: &TopOffMethod| match method {
        TopOffMethod::Reservoir => s.system.traits.top_off_reservoir,
        TopOffMethod::Premixed => pouring.ready.is_some(),
        _ => true,
    };
    let others = TopOffMethod::ALL.into_iter().filter(|method| *method != chosen.method && open(method));
    let mut others: Vec<MethodDrift> = others.map(|method| pouring.drift(method)).collect();
    others.sort_by(|a, b| a.ec_a_week.abs().total_cmp(&b.ec_a_week.abs()));
    let drifting = chosen.ec_a_week.abs() >= FIGURES.strength.drifts;
    let next = match others.first().filter(|_| drifting) {
        Some(best) => {
            let (method, said) = (best.name.clone(), best.said.clone());
            say!("top_off_drift.hold_at", ec = uptake, method = method, said = said)
        }
        None => say!("top_off_drift.go_on"),
    };
    let (name, said) = (chosen.name.clone(), chosen.said.clone());
    let finding = if drifting {
        say!("top_off_drift.drifts", method = name, said = said)
    } else {
        say!("top_off_drift.even", method = name)
    };
    let methods = std::iter::once(chosen).chain(others).collect();
    let range = crate::quantity::band(taken.low, taken.high);
    let sure = say!("top_off_drift.sure", ec = uptake, range = range, stretches = count(ledger.stretches.len()));
    Some(TopOffAdvice { finding, next, drifting, hold_at: uptake, methods, sure })
}
