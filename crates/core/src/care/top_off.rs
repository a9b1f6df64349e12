//! Whether the chosen way of topping off drifts the tank, and what another would do.
//!
//! With V litres that lose w a day and are topped off at c while the plants take up u, EC moves by
//! (c − u) · w / V a day. At c = u it stays level.

use super::Situation;
use crate::crop::ec_target;
use crate::quantity::Conductivity;
use crate::system::TopOffMethod;
use serde::Serialize;

/// More than this in a week is drift, in mS/cm; less is within what a meter tells apart.
const DRIFTS: f64 = 0.15;

/// What a method does to the tank.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct MethodDrift {
    /// Which method.
    pub method: TopOffMethod,
    /// As it is said.
    pub name: String,
    /// The strength it pours.
    pub strength: Conductivity,
    /// EC a week, in mS/cm.
    pub ec_a_week: f64,
    /// In words.
    pub said: String,
}

/// What topping off does here.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct TopOffAdvice {
    /// What the chosen method does, in a sentence.
    pub finding: String,
    /// What to do about it.
    pub next: String,
    /// Whether it drifts the tank.
    pub drifting: bool,
    /// The strength that holds EC level.
    pub hold_at: Conductivity,
    /// The chosen method first, then the others from the least drift on.
    pub methods: Vec<MethodDrift>,
    /// From how many stretches this is known.
    pub sure: String,
}

/// The advice, once two stretches of uptake are known.
#[must_use]
pub fn top_off_advice(s: &Situation<'_>) -> Option<TopOffAdvice> {
    let ledger = &s.state.ledger;
    let (uptake, a_day) = (ledger.uptake_concentration()?, ledger.water_a_day()?);
    let band = ec_target(s.plantings, s.system.source_ec)?;
    let aim = f64::midpoint(band.low.get(), band.high.get());
    let source = s.system.source_ec.get();
    let ready = s.state.premixed.and_then(|premixed| premixed.value.ec).map(Conductivity::get);
    let turnover = a_day * 7.0 / s.system.reservoir.working.get();
    let w = s.wording;
    let drift = |method: TopOffMethod| {
        let strength = match method {
            TopOffMethod::Plain => source,
            TopOffMethod::LightFeed => f64::midpoint(source, aim),
            TopOffMethod::SameStrength => aim,
            TopOffMethod::Measured => uptake.get(),
            TopOffMethod::Premixed => ready.unwrap_or(aim),
            TopOffMethod::Reservoir => ready.unwrap_or(uptake.get()),
        };
        let ec_a_week = (strength - uptake.get()) * turnover;
        let said = if ec_a_week.abs() < DRIFTS {
            "holds the EC".to_owned()
        } else {
            format!("{} by {} a week", if ec_a_week > 0.0 { "EC rises" } else { "EC falls" }, w.ec(Conductivity::nearest(ec_a_week.abs())))
        };
        MethodDrift { method, name: method.say().to_owned(), strength: Conductivity::nearest(strength), ec_a_week, said }
    };
    let chosen = drift(s.system.methods.top_off);
    let open = |method: &TopOffMethod| match method {
        TopOffMethod::Reservoir => s.system.traits.top_off_reservoir,
        TopOffMethod::Premixed => ready.is_some(),
        _ => true,
    };
    let mut others: Vec<MethodDrift> = TopOffMethod::ALL.into_iter().filter(|method| *method != chosen.method && open(method)).map(drift).collect();
    others.sort_by(|a, b| a.ec_a_week.abs().total_cmp(&b.ec_a_week.abs()));
    let drifting = chosen.ec_a_week.abs() >= DRIFTS;
    let hold = w.ec(uptake);
    let next = match others.first().filter(|_| drifting) {
        Some(best) => format!("Top off at {hold} and it stays level; {} {}.", best.name, best.said),
        None => "Go on.".to_owned(),
    };
    let intervals = ledger.intervals.len();
    let mut methods = vec![chosen.clone()];
    methods.extend(others);
    Some(TopOffAdvice {
        finding: format!("With {}, {}", chosen.name, if drifting { chosen.said } else { "the EC holds".to_owned() }),
        next,
        drifting,
        hold_at: uptake,
        methods,
        sure: format!("The plants take up water at {hold}, from the salt ledger of {intervals} stretches."),
    })
}
