//! From a mix to doses over containers, and to steps for the hands.

use super::ask::{Ask, Shelf};
use super::feed::{Mixed, holds};
use super::plan::{Dose, Expected, Plan, PlanStep, Portion, Wait, WaitFor, expected_ec};
use crate::changing::TEMPER_WARNS;
use crate::log::{Batch, Used};
use crate::mixing::{Amount, AmountUnit, Product, ProductKind, Share, Tool, into_litres, measure, shares_of, split};
use crate::quantity::{Celsius, Conductivity, Litres, Wording};
use crate::refusal::{AtField, Refusal};
use uuid::Uuid;

/// Minutes a fresh batch is left before it is measured.
const MIX_MINUTES: u32 = 15;
/// Fresh feed settles here when nothing is known of the system.
const FRESH_PH: (f64, f64) = (5.5, 6.5);

pub(super) fn step(code: &str, say: impl Into<String>) -> PlanStep {
    PlanStep { code: code.to_owned(), say: say.into(), why: None, caution: None, dose: None, handling: None, wait: None }
}

impl PlanStep {
    pub(super) fn why(mut self, why: impl Into<String>) -> Self {
        self.why = Some(why.into());
        self
    }
    pub(super) fn caution(mut self, caution: impl Into<String>) -> Self {
        self.caution = Some(caution.into());
        self
    }
    pub(super) fn dosing(mut self, dose: usize, handling: &str) -> Self {
        self.dose = Some(dose);
        self.handling = Some(handling.to_owned());
        self
    }
    pub(super) fn wait(mut self, what: WaitFor, minutes: u32) -> Self {
        self.wait = Some(Wait::new(what, minutes));
        self
    }
}

/// The tools at hand.
pub(super) fn tools<'a>(ask: &'a Ask, shelf: &'a Shelf<'_>) -> &'a [Tool] {
    ask.tools.as_deref().unwrap_or(shelf.tools)
}

/// A batch over the containers at hand.
pub(super) fn shares(litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Vec<Share>, Refusal> {
    let mut shares = split(litres, ask.containers.as_deref().unwrap_or(shelf.containers)).at("containers")?;
    for share in &mut shares {
        share.said = shelf.wording.volume(share.litres);
    }
    Ok(shares)
}

/// One vessel that takes all of it: a jug, a basin.
pub(super) fn only(container: &str, litres: Litres, w: Wording) -> Share {
    Share { container: container.to_owned(), litres, part: 1.0, kilograms: litres.get(), said: w.volume(litres) }
}

/// One product with its portions.
pub(super) fn dose(id: Uuid, product: &Product, per_litre: Amount, whole: Amount, shares: &[Share], tools: &[Tool], w: Wording) -> Dose {
    let portions = shares_of(whole.value, shares).into_iter().zip(shares).map(|(value, share)| portion(whole.with(value), share.container.clone(), product, tools, w)).collect();
    Dose {
        product: id,
        name: product.name.as_str().to_owned(),
        what: product.what,
        amount: whole,
        said: w.amount(whole),
        per_litre,
        reason: product.what.reason().to_owned(),
        portions,
    }
}

fn portion(amount: Amount, container: String, product: &Product, tools: &[Tool], w: Wording) -> Portion {
    let measuring = measure(amount, tools).ok();
    let measured = match &measuring {
        Some(plan) => {
            let error = plan.error * 100.0;
            let error = if error.abs() < 0.05 { "exactly".to_owned() } else { format!("{error:+.1} %") };
            format!("{} ({error})", plan.say(amount.unit))
        }
        None => format!("no {} at hand is of the right size", if amount.unit == AmountUnit::Ml { "syringe or cylinder" } else { "scale" }),
    };
    let own = product.measures.first().map_or(String::new(), |own| format!(", or {:.1} × {}", amount.value / own.holds, own.name.as_str()));
    Portion { container, said: w.amount(amount), amount, measuring, measured: format!("{measured}{own}") }
}

/// Puts a mixed batch on a plan: doses, containers, what it is expected to come to, and the steps
/// up to the measured batch.
pub(super) fn mix_into(plan: &mut Plan, mixed: &Mixed, litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<(), Refusal> {
    let w = shelf.wording;
    plan.batch = litres;
    plan.shares = shares(litres, ask, shelf)?;
    plan.strength = Some(mixed.strength);
    plan.batch_ec = mixed.ec.map(|(ec, spread)| expected_ec(ec, spread, w));
    plan.warnings.extend(mixed.warnings.clone());
    for (line, per_litre) in &mixed.per_litre {
        plan.doses.push(dose(line.id, &line.product, *per_litre, into_litres(*per_litre, litres), &plan.shares, tools(ask, shelf), w));
    }
    let coarse = plan.doses.iter().flat_map(|d| d.portions.iter().map(move |p| (d, p))).find(|(_, p)| p.measuring.as_ref().is_none_or(|m| m.error.abs() > 0.05));
    if let Some((dose, portion)) = coarse {
        plan.warnings.push(format!("{} of {} cannot be measured to 5 % with the tools at hand: {}.", portion.said, dose.name, portion.measured));
    }
    plan.steps.push(water_step(plan, ask, shelf));
    if let Some(warning) = temper(ask, w) {
        plan.warnings.push(warning);
    }
    dose_steps(plan, mixed);
    plan.steps.push(step("mix", format!("Stir, and let it mix for {MIX_MINUTES} minutes.")).wait(WaitFor::Mix, MIX_MINUTES));
    if let Some(ec) = &plan.batch_ec {
        plan.steps.push(step("ec", format!("Measure EC: {} is expected.", ec.said)).why("A batch that is far off is one that was measured wrongly: look before you pour."));
    }
    Ok(())
}

fn water_step(plan: &Plan, ask: &Ask, shelf: &Shelf<'_>) -> PlanStep {
    let w = shelf.wording;
    let mut cans: Vec<(String, u32)> = Vec::new();
    for share in &plan.shares {
        let filling = format!("{} into the {}", share.said, share.container);
        match cans.iter_mut().find(|(said, _)| *said == filling) {
            Some((_, times)) => *times += 1,
            None => cans.push((filling, 1)),
        }
    }
    let cans: Vec<String> = cans.into_iter().map(|(said, times)| if times > 1 { format!("{said} ×{times}") } else { said }).collect();
    let warm = ask.tank_temperature.map_or("the tank's temperature".to_owned(), |t| w.temperature(t));
    let source = shelf.situation.map_or("water", |s| s.system.methods.source.say());
    let heavy = plan.shares.iter().map(|share| share.kilograms).fold(0.0, f64::max);
    let water = step("water", format!("{}: {source} within {} of {warm}.", sentence(&cans.join(", ")), w.degrees(TEMPER_WARNS)))
        .why("Water first; products into water, never water onto products. Never over the plants.");
    if heavy >= 12.0 { water.caution(format!("The heaviest can weighs {}: lift with the knees, or fill it less.", w.weight(heavy))) } else { water }
}

fn temper(ask: &Ask, w: Wording) -> Option<String> {
    let apart = ask.water_temperature?.get() - ask.tank_temperature?.get();
    let side = if apart < 0.0 { "colder" } else { "warmer" };
    (apart.abs() > TEMPER_WARNS)
        .then(|| format!("The fresh water is {} {side} than the tank: let it stand, for roots are shocked by more than {}.", w.degrees(apart.abs()), w.degrees(TEMPER_WARNS)))
}

fn dose_steps(plan: &mut Plan, mixed: &Mixed) {
    let silica_alone = holds(mixed, ProductKind::Silica) && plan.doses.len() == 1;
    for (index, dose) in plan.doses.iter().enumerate() {
        let each = if dose.portions.len() == 1 {
            format!("{}: {}", dose.said, dose.portions[0].measured)
        } else {
            let parts: Vec<String> = dose.portions.iter().map(|p| format!("{} into the {}", p.said, p.container)).collect();
            format!("{} in all: {}", dose.said, parts.join(", "))
        };
        let verb = if dose.amount.unit == AmountUnit::Ml { "Shake, pour, stir in" } else { "Weigh, stir until it is dissolved" };
        let mut made = step(&format!("dose_{index}"), format!("{}, {each}. {verb}.", dose.name)).why(dose.reason.clone()).dosing(index, &format!("{verb}."));
        made.caution = dose.what.caution().map(str::to_owned);
        plan.steps.push(made);
        if dose.what == ProductKind::Silica && silica_alone {
            plan.steps.push(
                step("back_to_7", "Bring the pH back to about 7 with a few drops of pH down.")
                    .why("Silica is alkaline, and no feed follows that would lower it.")
                    .caution("Gloves and goggles; into water."),
            );
        }
    }
}

/// What the pH of a fresh filling is expected to be: what this system's last ones were, or the usual
/// band of fresh feed.
pub(super) fn fresh_ph(shelf: &Shelf<'_>) -> Expected {
    let known = shelf.situation.map_or(&[] as &[f64], |s| &s.state.fresh_ph);
    let (value, low, high, from) = match crate::robust::median(known) {
        Some(usual) => (usual, usual - 0.2, usual + 0.2, "as at the last fillings"),
        None => (6.0, FRESH_PH.0, FRESH_PH.1, "as fresh feed usually falls to"),
    };
    Expected { value, low, high, said: format!("{low:.1}–{high:.1}, {from}"), also: vec![] }
}

/// Parts of the tank that may be new water before its pH is said to be open.
const MOVES_LITTLE: f64 = 0.3;

/// What the pH is expected to be after so much new water in the tank: about where it stands, for a
/// buffered solution is moved little by a top-off. `None` where nobody has read it.
pub(super) fn standing_ph(shelf: &Shelf<'_>, new_part: f64) -> Option<Expected> {
    let now = shelf.situation?.state.ph?.value.middle();
    let spread = if new_part <= MOVES_LITTLE { 0.3 } else { 0.6 };
    let (low, high) = (now - spread, now + spread);
    Some(Expected { value: now, low, high, said: format!("{low:.1}–{high:.1}, about where it stands"), also: vec![] })
}

/// The step that looks at pH, once everything is in.
pub(super) fn ph_step(expected: &Expected) -> PlanStep {
    step("ph", format!("Measure pH: {}.", expected.said)).why("Only now: fresh feed lowers pH by itself, so nothing is corrected before it is all in and mixed.")
}

/// What was mixed, as it is logged.
pub(super) fn batch_of(plan: &Plan, source: Conductivity) -> Option<Batch> {
    if plan.doses.is_empty() {
        return None;
    }
    let used = plan
        .doses
        .iter()
        .filter_map(|dose| Some(Used { product: dose.product, name: crate::quantity::Name::new(&dose.name).ok()?, what: dose.what, amount: dose.amount }))
        .collect();
    Some(Batch { fresh: plan.batch, used, source_ec: Some(source), ec: None })
}

/// Adds what there is to carry, in all.
pub(super) fn carry(plan: &mut Plan, litres: f64, w: Wording) {
    plan.carry_kg = litres;
    plan.carry = format!("{} to carry", w.weight(litres));
}

/// With a capital first letter.
pub(super) fn sentence(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}

/// The temperature that is known of the tank.
pub(super) fn tank_temperature(ask: &Ask, shelf: &Shelf<'_>) -> Option<Celsius> {
    ask.tank_temperature.or(shelf.situation.and_then(|s| s.state.temperature).map(|dated| dated.value))
}
