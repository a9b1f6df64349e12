//! From a mix to doses over containers, and to steps for the hands.

use super::ask::{Ask, MixIn, Shelf};
use super::feed::{Feed, Mixed, holds};
use super::plan::{Dose, Expected, Filling, Plan, PlanStep, Portion, StepKind, expected_ec, step};
use crate::fact::{Batch, Used, WaitFor};
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit, count, degrees, minutes, plain, term};
use crate::mixing::{Container, Product, ProductKind, Share, Tool, measure, shares_of, split};
use crate::quantity::{Amount, AmountUnit, Celsius, Conductivity, Litres, Name};
use crate::refusal::{AtField, Refusal};
use crate::statistics::median;
use crate::{refuse, say};
use uuid::Uuid;

/// The tools at hand.
pub(super) fn tools<'a>(ask: &'a Ask, shelf: &'a Shelf<'_>) -> &'a [Tool] {
    ask.tools.as_deref().unwrap_or(shelf.tools)
}

/// A batch over the containers at hand, none heavier than whoever asks can lift.
pub(super) fn shares(litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> Result<Vec<Filling>, Refusal> {
    let lifts = Litres::new(shelf.lifts)?;
    let shares = split(litres, ask.containers.as_deref().unwrap_or(shelf.containers), lifts).at("containers")?;
    Ok(shares.into_iter().map(filling).collect())
}

/// Whether a batch is mixed in the vessel itself: as it is asked for, else where it is more than can be
/// carried in cans. Only where no plants hang in it, or where a pump carries away what is poured.
/// `emptied` is a vessel that is filled from empty, its plants on a stand.
pub(super) fn in_vessel(litres: Litres, emptied: bool, ask: &Ask, shelf: &Shelf<'_>) -> Result<bool, Refusal> {
    let free = emptied || shelf.situation.is_none_or(|s| s.plants() == 0 || s.system.traits.pumped());
    match ask.mix_in {
        Some(MixIn::Vessel) if !free => Err(refuse!("mix_over_plants").at("mix_in")),
        Some(MixIn::Vessel) => Ok(true),
        Some(MixIn::Cans) => Ok(false),
        None if free => {
            let containers = ask.containers.as_deref().unwrap_or(shelf.containers);
            Ok(!containers.is_empty() && !carried_in_cans(litres, containers, shelf.lifts))
        }
        None => Ok(false),
    }
}

/// Whether a batch is few enough cans to carry, or one bin that stands. `lifts` in kg.
#[must_use]
pub fn carried_in_cans(litres: Litres, containers: &[Container], lifts: f64) -> bool {
    // A bin that is filled twice has no room for the batch until the first filling is poured.
    let at_once = |shares: &[Share]| shares.len() == 1 || !shares.iter().any(|share| share.stands);
    let few = |shares: Vec<Share>| shares.len() as f64 <= FIGURES.bench.most_carried && at_once(&shares);
    Litres::new(lifts).and_then(|lifts| split(litres, containers, lifts)).is_ok_and(few)
}

fn filling(share: Share) -> Filling {
    Filling { said: say!("bench.water", litres = share.litres), share }
}

/// One vessel that takes all of it: a jug, a basin.
pub(super) fn only(container: &str, litres: Litres) -> Filling {
    filling(Share { container: container.to_owned(), litres, part: 1.0, kilograms: litres.get(), stands: false })
}

/// One product with its portions.
pub(super) fn dose(
    id: Uuid,
    product: &Product,
    per_litre: Amount,
    whole: Amount,
    fillings: &[Filling],
    tools: &[Tool],
) -> Dose {
    let shares: Vec<Share> = fillings.iter().map(|filling| filling.share.clone()).collect();
    let parts = shares_of(whole.value, &shares).into_iter().zip(shares);
    Dose {
        product: id,
        name: product.name.as_str().to_owned(),
        what: product.what,
        amount: whole,
        first: None,
        rise: product.rise,
        said: say!("bench.amount", amount = whole),
        per_litre,
        reason: product.what.reason(),
        portions: parts.map(|(value, share)| portion(whole.with(value), share.container, product, tools)).collect(),
    }
}

fn portion(amount: Amount, container: String, product: &Product, tools: &[Tool]) -> Portion {
    let measuring = measure(amount, tools).ok();
    let badly = measuring.as_ref().is_none_or(|plan| plan.error.abs() > FIGURES.bench.coarse);
    let measured = match (&measuring, badly.then(|| finely(amount, tools)).flatten()) {
        (_, Some(finely)) => finely,
        (Some(plan), None) if (plan.error * 100.0).abs() < 0.05 => say!("bench.measured_exactly", plan = plan.say()),
        (Some(plan), None) => {
            let error = Param::Number(plan.error * 100.0, Unit::SignedPercent);
            say!("bench.measured", plan = plan.say(), error = error)
        }
        (None, None) if amount.unit == AmountUnit::Ml => say!("bench.no_syringe"),
        (None, None) => say!("bench.no_scale"),
    };
    let measured = match product.measures.first() {
        Some(own) => {
            let times = Param::Number(amount.value / own.holds, Unit::OneDecimal);
            say!("bench.or_own_measure", measured = measured, times = times, measure = &own.name)
        }
        None => measured,
    };
    Portion { container, said: say!("bench.amount", amount = amount), amount, measuring, measured }
}

/// An amount under the smallest mark: counted in drops, or as so much of a dilution that is made first.
fn finely(amount: Amount, tools: &[Tool]) -> Option<Message> {
    let figures = &FIGURES.bench;
    if amount.unit == AmountUnit::Ml && amount.value <= figures.drops_up_to {
        let drops = (amount.value / figures.drop).round();
        if drops >= 1.0 && (drops * figures.drop - amount.value).abs() <= amount.value * figures.coarse {
            return Some(say!("bench.in_drops", drops = count(drops as u64)));
        }
    }
    // Ten, or a hundred, parts of the dilution hold one of the product.
    [10.0, 100.0].into_iter().find_map(|times| {
        let part = Amount::ml(amount.value * times);
        let plan = measure(part, tools).ok().filter(|plan| plan.error.abs() <= figures.coarse)?;
        let (one, whole) = (Amount { value: TEN, unit: amount.unit }, Amount::ml(TEN * times));
        Some(say!("bench.as_dilution", one = one, whole = whole, part = part, plan = plan.say()))
    })
}

/// A dilution is made from so much of the product.
const TEN: f64 = 10.0;

/// Puts a mixed batch on a plan: doses, containers, what it is expected to come to, and the steps
/// up to the measured batch.
pub(super) fn mix_into(
    plan: &mut Plan,
    mixed: &Mixed,
    feed: &Feed,
    litres: Litres,
    ask: &Ask,
    shelf: &Shelf<'_>,
) -> Result<(), Refusal> {
    plan.batch = litres;
    plan.shares = if plan.in_vessel { vec![only("vessel", litres)] } else { shares(litres, ask, shelf)? };
    plan.strength = mixed.of_label();
    plan.batch_ec = mixed.ec.map(|(ec, spread)| expected_ec(ec, spread, shelf.scale));
    plan.warnings.extend(mixed.warnings.clone());
    for (line, per_litre) in &mixed.per_litre {
        let whole = *per_litre * litres;
        let dosed = dose(line.id, &line.product, *per_litre, whole, &plan.shares, tools(ask, shelf));
        plan.doses.push(Dose { rise: line.rise, ..dosed });
    }
    plan.warnings.extend(coarse(&plan.doses));
    plan.warnings.extend(feed.not_as_printed(ask, shelf));
    if plan.in_vessel {
        plan.shares.clear();
        // A guide has filled it by the hose already, and has seen the pump run.
        let pumped = shelf.situation.is_some_and(|s| s.system.traits.circulates);
        if !ask.led {
            plan.steps.push(hose_step(litres, ask, shelf));
        }
        if !ask.led || !pumped {
            plan.steps.push(circulate_step(shelf));
        }
    } else {
        plan.steps.push(water_step(plan, ask, shelf));
    }
    plan.warnings.extend(temper(ask));
    dose_steps(plan, mixed, feed.lowers_ph(shelf));
    let mix = FIGURES.bench.mix_minutes;
    plan.steps.push(step(StepKind::Mix, say!("bench.mix", minutes = minutes(mix))).wait(WaitFor::Mix, mix));
    if let Some(ec) = &plan.batch_ec {
        let expected = say!("bench.measure_ec", ec = ec.said.clone());
        plan.steps.push(step(StepKind::Ec, expected).why(say!("bench.measure_ec_why")));
    } else if shelf.situation.is_none_or(|s| s.system.measuring.ec()) {
        plan.steps.push(step(StepKind::Ec, say!("bench.measure_unknown_ec")).why(say!("bench.measure_unknown_ec_why")));
    }
    Ok(())
}

/// A warning of the first portion that cannot be measured well with the tools at hand.
fn coarse(doses: &[Dose]) -> Option<Message> {
    let badly = |portion: &Portion| {
        portion.measuring.as_ref().is_none_or(|measuring| measuring.error.abs() > FIGURES.bench.coarse)
    };
    let (dose, portion) = doses.iter().find_map(|dose| Some((dose, dose.portions.iter().find(|p| badly(p))?)))?;
    let (said, measured) = (portion.said.clone(), portion.measured.clone());
    Some(say!("bench.coarse", amount = said, name = dose.name.as_str(), measured = measured))
}

fn warm(ask: &Ask) -> Param {
    match ask.tank_temperature {
        Some(temperature) => Param::from(temperature),
        None => term("bench.tank_temperature"),
    }
}

/// The water, straight into the vessel.
fn hose_step(litres: Litres, ask: &Ask, shelf: &Shelf<'_>) -> PlanStep {
    let source = shelf.situation.map_or_else(|| term("bench.any_water"), |s| s.system.methods.source.say());
    let within = degrees(FIGURES.change.temper_warns);
    let hose = say!("bench.hose_in", litres = litres, source = source, within = within, warm = warm(ask));
    step(StepKind::Hose, hose).why(say!("bench.hose_in_why"))
}

/// What keeps the water moving while products go in.
fn circulate_step(shelf: &Shelf<'_>) -> PlanStep {
    let pumped = shelf.situation.is_some_and(|s| s.system.traits.circulates);
    let stirred = if pumped { say!("bench.circulate_pump") } else { say!("bench.circulate_by_hand") };
    let stirred = step(StepKind::Circulate, stirred).why(say!("bench.circulate_why"));
    if pumped { stirred.caution(say!("change_caution.power_on")) } else { stirred }
}

fn water_step(plan: &Plan, ask: &Ask, shelf: &Shelf<'_>) -> PlanStep {
    let mut cans: Vec<(&Filling, u32)> = Vec::new();
    for filling in &plan.shares {
        let same = |other: &Filling| {
            other.share.container == filling.share.container && other.share.litres == filling.share.litres
        };
        match cans.iter_mut().find(|(known, _)| same(known)) {
            Some((_, times)) => *times += 1,
            None => cans.push((filling, 1)),
        }
    }
    let can = |(filling, times): &(&Filling, u32)| {
        let (litres, container) = (filling.share.litres, filling.share.container.as_str());
        if filling.share.stands {
            say!("bench.into_standing", litres = litres, container = container, times = count(*times))
        } else if *times > 1 {
            say!("bench.into_can_times", litres = litres, container = container, times = count(*times))
        } else {
            say!("bench.into_can", litres = litres, container = container)
        }
    };
    let cans: Vec<Message> = cans.iter().map(can).collect();
    let warm = warm(ask);
    let source = shelf.situation.map_or_else(|| term("bench.any_water"), |s| s.system.methods.source.say());
    let within = degrees(FIGURES.change.temper_warns);
    let heaviest = plan.shares.iter().map(|filling| filling.share.kilograms).fold(0.0, f64::max);
    let water = say!("bench.fill_cans", cans = cans, source = source, within = within, warm = warm);
    let again = cans_again(plan).then(|| say!("bench.fill_again"));
    let water = say!("sentences", all = Param::Sentences(std::iter::once(water).chain(again).collect()));
    let water = step(StepKind::Water, water).why(say!("bench.fill_cans_why"));
    if heaviest < FIGURES.bench.heavy_can {
        return water;
    }
    water.caution(say!("bench.heavy_can", weight = Param::Number(heaviest, Unit::Kilograms)))
}

/// Whether something that stands is filled more than once.
fn cans_again(plan: &Plan) -> bool {
    plan.shares.iter().filter(|filling| filling.share.stands).count() > 1
}

fn temper(ask: &Ask) -> Option<Message> {
    let apart = ask.water_temperature? - ask.tank_temperature?;
    let most = FIGURES.change.temper_warns;
    let side = term(if apart < 0.0 { "temper.colder" } else { "temper.warmer" });
    let (gap, within) = (degrees(apart.abs()), degrees(most));
    (apart.abs() > most).then(|| say!("bench.temper", apart = gap, side = side, most = within))
}

/// A portion as its tool shows it, where that is close enough; else to the digit.
fn at_marks(portion: &Portion) -> Message {
    let close = portion.measuring.as_ref().filter(|plan| plan.error.abs() <= FIGURES.bench.coarse);
    close.map_or_else(
        || portion.said.clone(),
        |plan| say!("bench.amount", amount = Amount { value: plan.measured, unit: plan.unit }),
    )
}

fn dose_steps(plan: &mut Plan, mixed: &Mixed, lowers_ph: Option<bool>) {
    let silica = holds(mixed, ProductKind::Silica);
    for (index, dose) in plan.doses.iter().enumerate() {
        let (name, said) = (dose.name.as_str(), dose.said.clone());
        let handling = match (plan.in_vessel, dose.amount.unit) {
            (true, AmountUnit::Ml) => say!("bench.pour_into_stream"),
            (true, AmountUnit::G) => say!("bench.dissolve_first"),
            (false, AmountUnit::Ml) => say!("bench.stir_in"),
            (false, AmountUnit::G) => say!("bench.dissolve"),
        };
        let put_in = match dose.portions.as_slice() {
            [one] => {
                let measured = one.measured.clone();
                say!("bench.dose", name = name, amount = said, measured = measured, handling = handling.clone())
            }
            many => {
                let each = |p: &Portion| say!("bench.portion", amount = at_marks(p), container = p.container.as_str());
                let portions: Vec<Message> = many.iter().map(each).collect();
                say!("bench.doses", name = name, amount = said, portions = portions, handling = handling.clone())
            }
        };
        let mut made = step(StepKind::Dose, put_in).why(dose.reason.clone()).dosing(index, handling);
        made.caution = dose.what.caution();
        plan.steps.push(made);
        if dose.what == ProductKind::Silica && silica && lowers_ph != Some(true) {
            let why = match lowers_ph {
                Some(_) => say!("bench.back_to_7_why"),
                None => say!("bench.back_to_7_unknown"),
            };
            let back = step(StepKind::BackTo7, say!("bench.back_to_7")).why(why);
            plan.steps.push(back.caution(say!("bench.gloves")));
        }
    }
}

fn expected_ph(value: f64, low: f64, high: f64, said: fn(Param) -> Message) -> Expected {
    Expected { value, low, high, said: said(Param::Band(low, high, Unit::Ph)), also: vec![] }
}

/// What the pH of a fresh filling is expected to be: what this system's last ones were, or the usual
/// band of fresh feed.
pub(super) fn fresh_ph(shelf: &Shelf<'_>) -> Expected {
    let figures = &FIGURES.ph;
    let known = shelf.situation.map_or(&[] as &[f64], |s| &s.known.lessons.fresh_ph);
    match median(known) {
        Some(usual) => {
            let (low, high) = (usual - figures.fresh_spread, usual + figures.fresh_spread);
            expected_ph(usual, low, high, |range| say!("bench.ph_as_before", range = range))
        }
        None => {
            let (low, high) = (figures.fresh_low, figures.fresh_high);
            expected_ph(figures.fresh_usual, low, high, |range| say!("bench.ph_as_usual", range = range))
        }
    }
}

/// What the pH is expected to be after so much new water in the tank: about where it stands, for a
/// buffered solution is moved little by a top-off. `None` where nobody has read it.
pub(super) fn standing_ph(shelf: &Shelf<'_>, new_part: f64) -> Option<Expected> {
    let figures = &FIGURES.ph;
    let now = shelf.situation?.known.readings.ph?.value.middle();
    let spread = if new_part <= figures.new_water_little { figures.spread_little } else { figures.spread_much };
    Some(expected_ph(now, now - spread, now + spread, |range| say!("bench.ph_as_it_stands", range = range)))
}

/// The step that looks at pH, once everything is in.
pub(super) fn ph_step(expected: &Expected) -> PlanStep {
    step(StepKind::Ph, say!("bench.measure_ph", ph = expected.said.clone())).why(say!("bench.measure_ph_why"))
}

/// What was mixed, as it is logged.
pub(super) fn batch_of(plan: &Plan, source: Conductivity) -> Option<Batch> {
    if plan.doses.is_empty() {
        return None;
    }
    let used = |dose: &Dose| {
        let name = Name::new(&dose.name).ok()?;
        Some(Used { product: dose.product, name, what: dose.what, amount: dose.amount, rise: dose.rise })
    };
    let used = plan.doses.iter().filter_map(used).collect();
    Some(Batch { fresh: plan.batch, used, source_ec: Some(source), ec: None })
}

/// The temperature that is known of the tank.
pub(super) fn tank_temperature(ask: &Ask, shelf: &Shelf<'_>) -> Option<Celsius> {
    let read = || shelf.situation.and_then(|s| s.known.readings.temperature).map(|dated| dated.value);
    ask.tank_temperature.or_else(read)
}

/// A bare figure with up to two decimals.
pub(super) fn figure(value: f64) -> Param {
    plain((value * 100.0).round() / 100.0)
}
