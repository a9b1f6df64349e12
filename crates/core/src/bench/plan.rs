//! A plan, as it is shown, ticked off, printed and logged.

use crate::dosing::PhEstimate;
use crate::fact::{Body, Wait, WaitFor};
use crate::message::{Message, Param, Unit};
use crate::mixing::{MeasuringPlan, ProductKind, Share, Water};
use crate::quantity::{Amount, Conductivity, EcScale, Litres, Salt};
use crate::say;
use serde::Serialize;
use uuid::Uuid;

/// A value that is expected, with its range.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Expected<W = Message> {
    /// The middle.
    pub value: f64,
    /// From here.
    pub low: f64,
    /// To here.
    pub high: f64,
    /// In words, with its unit.
    pub said: W,
    /// The same on the other scales of pocket meters, for an EC.
    pub also: Vec<W>,
}

/// An EC with its range, on the reader's scale and on the others.
pub(super) fn expected_ec(value: Conductivity, spread: Conductivity, scale: EcScale) -> Expected {
    let (low, high) = ((value - spread).or_nothing(), value + spread);
    // In µS/cm everybody reads it off the mS/cm.
    let told = |other: &EcScale| *other != scale && *other != EcScale::MicroSiemens;
    let others = EcScale::ALL.iter().map(|(scale, _)| *scale).filter(told);
    let also = others.map(|other| say!("bench.on_scale", ec = Param::Number(value.get(), fixed(other)))).collect();
    let said = if spread.get() > A_HAIR {
        say!("bench.ec_range", ec = value, range = crate::quantity::band(low, high))
    } else {
        say!("bench.ec", ec = value)
    };
    Expected { value: value.get(), low: low.get(), high: high.get(), said, also }
}

/// A range narrower than this is none, in mS/cm.
const A_HAIR: f64 = 0.004;

/// A scale that a figure is written on whoever reads it.
fn fixed(scale: EcScale) -> Unit {
    match scale {
        EcScale::MilliSiemens => Unit::OnMilliSiemens,
        EcScale::MicroSiemens => Unit::OnMicroSiemens,
        EcScale::Ppm500 => Unit::OnPpm500,
        EcScale::Ppm640 => Unit::OnPpm640,
        EcScale::Ppm700 => Unit::OnPpm700,
    }
}

/// A product's share for one filling of one container.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Portion<W = Message> {
    /// Into which container.
    pub container: String,
    /// How much.
    pub amount: Amount,
    /// In words.
    pub said: W,
    /// How it is measured with the tools at hand.
    pub measuring: Option<MeasuringPlan>,
    /// The same in words, with the rounding error.
    pub measured: W,
}

/// A product in a plan.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Dose<W = Message> {
    /// The product, shipped or own.
    pub product: Uuid,
    /// Its name.
    pub name: String,
    /// What it is.
    pub what: ProductKind,
    /// How much in all.
    pub amount: Amount,
    /// Share of it that goes in before it is measured, where the rest follows only as far as it is needed: what is said,
    /// and the portions, are of that share. Absent where all of it goes in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub first: Option<f64>,
    /// EC rise of 1 mL or 1 g in a litre, where it is known.
    pub rise: Option<f64>,
    /// In words.
    pub said: W,
    /// For each litre of fresh water.
    pub per_litre: Amount,
    /// Why it comes at this place in the order.
    pub reason: W,
    /// Its share for each filling.
    pub portions: Vec<Portion<W>>,
}

/// One filling of one container, in words.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Filling<W = Message> {
    /// The filling.
    #[serde(flatten)]
    pub share: Share,
    /// The water in words.
    pub said: W,
}

/// Which step of a plan. Steps that put a product in carry the number of its dose.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum StepKind {
    Jugs,
    Water,
    Dose,
    BackTo7,
    Mix,
    Ec,
    Ph,
    Pour,
    Drain,
    Hose,
    Circulate,
    Keep,
    Lean,
    Stir,
    Wait,
    Measure,
    Look,
    Bath,
    Rinse,
    Concentrate,
    Label,
}

/// A step of a plan.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct PlanStep<W = Message> {
    /// The step, by its code; with `dose` it names one step of a plan.
    pub kind: StepKind,
    /// What to do.
    pub say: W,
    /// Why.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub why: Option<W>,
    /// The caution that belongs here.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub caution: Option<W>,
    /// Which of the doses it is about.
    pub dose: Option<usize>,
    /// How that dose is handled, without its amounts.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub handling: Option<W>,
    /// A wait.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wait: Option<Wait<W>>,
}

pub(super) fn step(kind: StepKind, say: Message) -> PlanStep {
    PlanStep { kind, say, why: None, caution: None, dose: None, handling: None, wait: None }
}

impl PlanStep {
    pub(super) fn why(mut self, why: Message) -> Self {
        self.why = Some(why);
        self
    }
    pub(super) fn caution(mut self, caution: Message) -> Self {
        self.caution = Some(caution);
        self
    }
    pub(super) fn dosing(mut self, dose: usize, handling: Message) -> Self {
        self.dose = Some(dose);
        self.handling = Some(handling);
        self
    }
    pub(super) fn wait(mut self, what: WaitFor, minutes: f64) -> Self {
        self.wait = Some(Wait::new(what, minutes));
        self
    }
}

/// The salt balance of a plan, S = EC · V: before + added − drained = after.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, utoipa::ToSchema)]
pub struct LedgerLine {
    /// What stood there.
    pub before: f64,
    /// What comes in.
    pub added: f64,
    /// What goes out.
    pub drained: f64,
    /// What stands there then.
    pub after: f64,
}

impl LedgerLine {
    pub(super) fn new(before: Option<Water>, added: &[Water], drained: Option<Water>, after: Water) -> Self {
        let salt = |water: Option<Water>| water.map_or(Salt::NONE, Water::salt).get();
        let added: Salt = added.iter().map(|water| water.salt()).sum();
        Self { before: salt(before), added: added.get(), drained: salt(drained), after: after.salt().get() }
    }
}

/// A plan.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Plan<W = Message> {
    /// What it makes, in a few words.
    pub title: W,
    /// The answer in a sentence.
    pub answer: W,
    /// To be drained first.
    pub drain: Litres,
    /// Plain water, by the hose or the can.
    pub plain: Litres,
    /// Water to be mixed with products.
    pub batch: Litres,
    /// Strength of that batch.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub batch_ec: Option<Expected<W>>,
    /// The pH of the batch as it is poured.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub batch_ph: Option<Expected<W>>,
    /// What stands there afterwards.
    pub after: Option<Litres>,
    /// Its strength.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after_ec: Option<Expected<W>>,
    /// The pH that is expected.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ph: Option<Expected<W>>,
    /// How much of the label's rate: 1 is all of it.
    pub strength: Option<f64>,
    /// The products in the order of mixing.
    pub doses: Vec<Dose<W>>,
    /// Whether it is mixed in the vessel itself, by the hose, with nothing to carry.
    pub in_vessel: bool,
    /// The fillings.
    pub shares: Vec<Filling<W>>,
    /// To carry, in kg.
    pub carry_kg: f64,
    /// The same in words.
    pub carry: W,
    /// The steps.
    pub steps: Vec<PlanStep<W>>,
    /// What is to be looked at before anything is poured.
    pub warnings: Vec<W>,
    /// How sure this is.
    pub sure: W,
    /// The salt balance, where strengths are known.
    pub ledger: Option<LedgerLine>,
    /// The pH estimate, where that is what it is for.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ph_estimate: Option<PhEstimate<W>>,
    /// What is logged when it was done as planned; absent where no log is kept.
    pub entry: Option<Body>,
}

impl Plan {
    /// A plan that says nothing but its title yet.
    pub(super) fn new(title: Message) -> Self {
        Self {
            answer: title.clone(),
            carry: title.clone(),
            sure: title.clone(),
            title,
            drain: Litres::ZERO,
            plain: Litres::ZERO,
            batch: Litres::ZERO,
            batch_ec: None,
            batch_ph: None,
            after: None,
            after_ec: None,
            ph: None,
            strength: None,
            doses: vec![],
            in_vessel: false,
            shares: vec![],
            carry_kg: 0.0,
            steps: vec![],
            warnings: vec![],
            ledger: None,
            ph_estimate: None,
            entry: None,
        }
    }

    /// What of the batch is carried; nothing of what is mixed in the vessel, or in something that stands.
    pub(super) fn carried(&self) -> Litres {
        self.shares.iter().filter(|filling| !filling.share.stands).map(|filling| filling.share.litres).sum()
    }

    /// The new water that goes in; nothing where feed is stirred into what is there.
    pub(super) fn poured(&self) -> Litres {
        let Some(Body::Visit(visit)) = &self.entry else { return self.plain + self.batch };
        visit.top_off.map_or(Litres::ZERO, |top_off| top_off.litres)
    }

    /// What there is to carry, in all: 1 L is 1 kg.
    pub(super) fn carry(&mut self, litres: Litres) {
        self.carry_kg = litres.get();
        self.carry = say!("bench.carry", weight = Param::Number(litres.get(), Unit::Kilograms));
    }
}

impl<W> Expected<W> {
    fn map<V>(self, say: &impl Fn(W) -> V) -> Expected<V> {
        let Self { value, low, high, said, also } = self;
        Expected { value, low, high, said: say(said), also: also.into_iter().map(say).collect() }
    }
}

impl<W> Dose<W> {
    fn map<V>(self, say: &impl Fn(W) -> V) -> Dose<V> {
        let portion = |portion: Portion<W>| Portion {
            container: portion.container,
            amount: portion.amount,
            said: say(portion.said),
            measuring: portion.measuring,
            measured: say(portion.measured),
        };
        Dose {
            product: self.product,
            name: self.name,
            what: self.what,
            amount: self.amount,
            first: self.first,
            rise: self.rise,
            said: say(self.said),
            per_litre: self.per_litre,
            reason: say(self.reason),
            portions: self.portions.into_iter().map(portion).collect(),
        }
    }
}

impl<W> PlanStep<W> {
    fn map<V>(self, say: &impl Fn(W) -> V) -> PlanStep<V> {
        PlanStep {
            kind: self.kind,
            say: say(self.say),
            why: self.why.map(say),
            caution: self.caution.map(say),
            dose: self.dose,
            handling: self.handling.map(say),
            wait: self.wait.map(|wait| wait.map(say)),
        }
    }
}

impl<W> Plan<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Plan<V> {
        let filling = |filling: Filling<W>| Filling { share: filling.share, said: say(filling.said) };
        Plan {
            title: say(self.title),
            answer: say(self.answer),
            drain: self.drain,
            plain: self.plain,
            batch: self.batch,
            batch_ec: self.batch_ec.map(|ec| ec.map(say)),
            batch_ph: self.batch_ph.map(|ph| ph.map(say)),
            after: self.after,
            after_ec: self.after_ec.map(|ec| ec.map(say)),
            ph: self.ph.map(|ph| ph.map(say)),
            strength: self.strength,
            doses: self.doses.into_iter().map(|dose| dose.map(say)).collect(),
            in_vessel: self.in_vessel,
            shares: self.shares.into_iter().map(filling).collect(),
            carry_kg: self.carry_kg,
            carry: say(self.carry),
            steps: self.steps.into_iter().map(|step| step.map(say)).collect(),
            warnings: self.warnings.into_iter().map(say).collect(),
            sure: say(self.sure),
            ledger: self.ledger,
            ph_estimate: self.ph_estimate.map(|estimate| estimate.map(say)),
            entry: self.entry,
        }
    }
}
