//! What is carried on a round: plain water, each feed and its strength, products, tools. What several systems are poured
//! by the same recipe at the same strength is mixed in one go and shared out.

use super::ask::{Ask, Purpose};
use super::plan::{Dose, Plan};
use super::tell::ask_of;
use crate::care::{Standing, Task, Urgency};
use crate::fact::Subject;
use crate::message::Message;
use crate::mixing::ProductKind;
use crate::quantity::{Amount, Conductivity, Litres};
use crate::say;
use crate::system::Check;
use std::borrow::Cow;
use std::collections::BTreeMap;
use uuid::Uuid;

/// Whether a task is done on a round of today.
#[must_use]
pub fn is_for_today(task: &Task) -> bool {
    task.standing <= Standing::Today || task.urgency == Urgency::Hand
}

/// What is poured at a system for its tasks of today: a change, else a top-off, or a correction of its strength; the
/// reservoir behind a float valve, where that is due and it is known how much it takes; and peroxide, where a dose is due.
#[must_use]
pub fn pours(tasks: &[Task], supply_takes: Option<Litres>) -> Vec<Ask> {
    let today = || tasks.iter().filter(|task| is_for_today(task));
    let about = |subject| today().any(|task| task.check.is_none() && task.subject == Some(subject));
    let check = |check| today().any(|task| task.check == Some(check));
    let water = if check(Check::Change) {
        Some(Purpose::Change { litres: None, heel: None, heel_ec: None })
    } else if today().any(|task| task.code == "put_right") {
        Some(Purpose::PutRight { from: None, to: None, ec: None, ph: None })
    } else if check(Check::Level) || about(Subject::Level) {
        Some(Purpose::TopOff { from: None, to: None, ec: None, method: None, batch: None })
    } else if about(Subject::Ec) {
        Some(Purpose::Correction { litres: None, ec: None })
    } else {
        None
    };
    // Acid is worked out from a pH that still holds; else there is nothing to pack for it yet.
    let sour = today().find(|task| task.check.is_none() && task.subject == Some(Subject::Ph)).and_then(ask_of);
    let sour = sour.filter(|ask| matches!(ask.purpose, Purpose::Ph { .. }) && water.is_none()).map(|ask| ask.purpose);
    let dose = today().any(|task| task.code == "peroxide");
    let dose = dose.then_some(Purpose::PeroxideDose { litres: None, product: None, again: false });
    let supply = supply_takes.filter(|_| today().any(|task| task.code == "supply"));
    let supply = supply.map(|litres| Purpose::TopOffReservoir { litres: Some(litres) });
    water.into_iter().chain(sour).chain(supply).chain(dose).map(Ask::new).collect()
}

/// How the bench names what is poured into a system, by the key of its purpose.
#[must_use]
pub fn purpose(ask: &Ask) -> &'static str {
    match ask.purpose {
        Purpose::Change { .. } => "change",
        Purpose::Correction { .. } => "correction",
        Purpose::PutRight { .. } => "put_right",
        Purpose::Ph { .. } => "ph",
        Purpose::PeroxideDose { .. } => "peroxide_dose",
        Purpose::TopOffReservoir { .. } => "top_off_reservoir",
        _ => "top_off",
    }
}

/// The tools that the tasks of today ask for, each once, as words of the table.
#[must_use]
pub fn tools<'a>(tasks: impl Iterator<Item = &'a Task>) -> Vec<Message> {
    let mut found: BTreeMap<Cow<'static, str>, Message> = BTreeMap::new();
    for task in tasks.filter(|task| is_for_today(task)) {
        found.extend(tools_of(task).into_iter().map(|tool| (tool.code.clone(), tool)));
    }
    found.into_values().collect()
}

fn tools_of(task: &Task) -> Vec<Message> {
    let (meter, rinse, gloves) = (|| say!("kit.meter"), || say!("kit.rinse"), || say!("kit.gloves"));
    match (task.check, task.subject) {
        (Some(Check::Readings), _) => vec![meter(), rinse()],
        (Some(Check::Calibrate), _) => vec![meter(), rinse(), say!("kit.buffers")],
        (Some(Check::Level | Check::Light), _) => vec![say!("kit.rule")],
        (Some(Check::WaterGlass), _) => vec![say!("kit.glass")],
        (Some(Check::Pests), _) => vec![say!("kit.lens")],
        (Some(Check::Stone), _) => vec![say!("kit.stone")],
        (Some(Check::Filters | Check::Sprayers), _) => vec![say!("kit.brush")],
        (Some(Check::WipeDown), _) => vec![say!("kit.cloth")],
        (Some(Check::TieUp), _) => vec![say!("kit.ties"), say!("kit.scissors")],
        (Some(Check::Harvest), _) => vec![say!("kit.scissors"), say!("kit.scale")],
        (Some(Check::Change), _) => vec![say!("kit.hose"), meter(), say!("kit.cloth")],
        (None, Some(Subject::Ph | Subject::Ec | Subject::Temperature)) => vec![meter(), gloves()],
        (None, _) if matches!(task.code.as_ref(), "peroxide" | "root_treat") => vec![gloves()],
        _ => Vec::new(),
    }
}

/// One product of a mix.
#[derive(Debug, Clone, PartialEq)]
pub struct Ingredient {
    /// Which.
    pub product: Uuid,
    /// What it is called.
    pub name: String,
    /// How much in all.
    pub amount: Amount,
}

/// One batch, for all systems that are poured the same.
#[derive(Debug, Clone, PartialEq)]
pub struct Mix {
    /// Its strength, where it is known.
    pub ec: Option<Conductivity>,
    /// So much of it.
    pub litres: Litres,
    /// What goes in, in the order of mixing.
    pub ingredients: Vec<Ingredient>,
    /// For whom, by the place in the list of systems, and how much.
    pub shares: Vec<(usize, Litres)>,
    /// Whether it is mixed in the vessel itself, by the hose: nothing but the products is carried there.
    pub in_vessel: bool,
}

/// What is made ready on the bench for a round.
#[derive(Debug, Clone, PartialEq)]
pub struct Ready {
    /// Plain water.
    pub plain: Litres,
    /// The batches.
    pub mixes: Vec<Mix>,
    /// Products that go into the water that stands there, besides what the batches take.
    pub products: Vec<Ingredient>,
}

/// A twentieth of a millilitre in a litre: no tool measures finer.
const SAME: f64 = 20.0;

/// What all plans of a round come to. `plans` are by the place of their system in the list.
#[must_use]
pub fn ready(plans: &[(usize, &Plan)]) -> Ready {
    let mut ready = Ready { plain: Litres::ZERO, mixes: Vec::new(), products: Vec::new() };
    let mut keys: Vec<Vec<(Uuid, i64)>> = Vec::new();
    for (at, plan) in plans {
        ready.plain += plan.plain;
        if plan.batch <= Litres::ZERO {
            for dose in &plan.doses {
                add(&mut ready.products, dose.product, &dose.name, dose.amount);
            }
            continue;
        }
        if plan.doses.is_empty() {
            ready.plain += plan.batch;
            continue;
        }
        // Acid goes in by the pH of each batch or tank, on the spot: it is taken along, and not mixed for several.
        let apart = |dose: &&Dose| matches!(dose.what, ProductKind::PhUp | ProductKind::PhDown);
        let (by_measure, mixed): (Vec<&Dose>, Vec<&Dose>) = plan.doses.iter().partition(apart);
        for dose in by_measure {
            add(&mut ready.products, dose.product, &dose.name, dose.amount);
        }
        let rate = |amount: Amount| (amount.value / plan.batch.get() * SAME).round() as i64;
        let mut key: Vec<(Uuid, i64)> = mixed.iter().map(|dose| (dose.product, rate(dose.amount))).collect();
        key.sort_unstable();
        // What is mixed in its vessel is shared with nobody.
        let same =
            keys.iter().position(|other| *other == key).filter(|n| !plan.in_vessel && !ready.mixes[*n].in_vessel);
        let ec = plan.batch_ec.as_ref().and_then(|ec| Conductivity::new(ec.value).ok());
        let n = same.unwrap_or_else(|| {
            keys.push(key);
            ready.mixes.push(Mix {
                ec,
                litres: Litres::ZERO,
                ingredients: Vec::new(),
                shares: Vec::new(),
                in_vessel: plan.in_vessel,
            });
            ready.mixes.len() - 1
        });
        let mix = &mut ready.mixes[n];
        mix.litres += plan.batch;
        mix.shares.push((*at, plan.batch));
        for dose in mixed {
            add(&mut mix.ingredients, dose.product, &dose.name, dose.amount);
        }
    }
    ready
}

fn add(all: &mut Vec<Ingredient>, product: Uuid, name: &str, amount: Amount) {
    match all.iter_mut().find(|one| one.product == product) {
        Some(one) => one.amount = one.amount.with(one.amount.value + amount.value),
        None => all.push(Ingredient { product, name: name.to_owned(), amount }),
    }
}
