//! What Mopsel knows before anything is set up.

use super::Acting;
use crate::Problem;
use crate::actor::Who;
use crate::input::Json;
use crate::problem::ProblemSaid;
use actix_web::web;
use mopsel_core::bench::{FieldFacts, FieldKind, PurposeFacts, examples, purposes};
use mopsel_core::crop::{Crop, crops};
use mopsel_core::fact::{SignFacts, plans, signs};
use mopsel_core::figures::FIGURES;
use mopsel_core::mixing::{products, usual_peroxide};
use mopsel_core::quantity::{EcScale, Litres, Millimetres, UnitSystem};
use mopsel_core::refuse;
use mopsel_core::reservoir::{RefillMethod, Reservoir, Shape};
use mopsel_core::system::{CheckFacts, EquipmentFacts, EquipmentKind, KindFacts, checks, equipment, kinds};
use mopsel_core::words::{Choice, Reader, Speaker, choices};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::{IntoParams, ToSchema};

/// How a system of units reads.
#[derive(Serialize, ToSchema)]
pub struct UnitFacts {
    /// The system of units, by its code.
    pub key: UnitSystem,
    /// Litres in one unit of volume.
    pub litres_per_unit: f64,
    /// Its sign.
    pub volume: String,
    /// Millimetres in one unit of length.
    pub millimetres_per_unit: f64,
    /// Its sign.
    pub length: String,
    /// Kilograms in one unit of weight.
    pub kilograms_per_unit: f64,
    /// Its sign.
    pub weight: String,
    /// Whether temperatures are read in °F.
    pub fahrenheit: bool,
}

/// How an EC scale reads.
#[derive(Serialize, ToSchema)]
pub struct ScaleFacts {
    /// The scale, by its code.
    pub key: EcScale,
    /// What 1 mS/cm reads on it.
    pub per_ms_cm: f64,
}

/// A kind of system, in words.
#[derive(Serialize, ToSchema)]
pub struct KindView {
    /// What is known of it.
    #[serde(flatten)]
    pub facts: KindFacts,
    /// Its name.
    pub name: String,
    /// What it is, in one plain sentence.
    pub plain: String,
}

/// A routine check, in words.
#[derive(Serialize, ToSchema)]
pub struct CheckView {
    /// What is known of it.
    #[serde(flatten)]
    pub facts: CheckFacts,
    /// What to do, in two to five words.
    pub name: String,
    /// What to do, in a sentence.
    pub doing: String,
}

/// A kind of equipment, in words.
#[derive(Serialize, ToSchema)]
pub struct EquipmentView {
    /// Which kind.
    pub key: EquipmentKind,
    /// What it is called.
    pub name: String,
    /// Days between two services.
    pub service_days: u16,
}

/// A sign on the plants, in words.
#[derive(Serialize, ToSchema)]
pub struct SignView {
    /// What is known of it.
    #[serde(flatten)]
    pub facts: SignFacts,
    /// In plain words.
    pub say: String,
}

/// A field of the bench, in words.
#[derive(Serialize, ToSchema)]
pub struct FieldView {
    /// Its key within the purpose.
    pub key: &'static str,
    /// What it holds.
    pub kind: FieldKind,
    /// What it is called.
    pub label: String,
}

/// Something that the bench is asked for, in words.
#[derive(Serialize, ToSchema)]
pub struct PurposeView {
    /// As it is sent.
    pub key: &'static str,
    /// What it is called.
    pub name: String,
    /// With which others it is offered.
    pub group: String,
    /// Its fields, in order.
    pub fields: Vec<FieldView>,
    /// The fields that have no default anywhere.
    pub needs: &'static [String],
    /// The fields that a system would give, so that they are wanted where there is none.
    pub alone: &'static [String],
    /// Whether a recipe and a strength belong to it.
    pub feeds: bool,
    /// Whether it may be mixed in the vessel itself.
    pub mixes: bool,
}

/// A question to start from.
#[derive(Serialize, ToSchema)]
pub struct ExampleView {
    /// In a line.
    pub name: String,
    /// As it would stand in an address.
    pub asks: &'static BTreeMap<String, String>,
}

/// What the bench can be asked for.
#[derive(Serialize, ToSchema)]
pub struct BenchFacts {
    /// In the order in which it is offered.
    pub purposes: Vec<PurposeView>,
    /// Questions to start from.
    pub examples: Vec<ExampleView>,
    /// The bottle that a treatment is worked out for where no other is picked.
    pub usual_peroxide: String,
}

fn bench_facts(speaker: &Speaker) -> BenchFacts {
    let field = |of: &PurposeFacts, field: &'static FieldFacts| FieldView {
        key: &field.key,
        kind: field.kind,
        label: speaker.say(&of.label(field)),
    };
    let purpose = |facts: &'static PurposeFacts| PurposeView {
        key: &facts.key,
        name: speaker.say(&facts.name()),
        group: speaker.say(&facts.group_name()),
        fields: facts.fields.iter().map(|one| field(facts, one)).collect(),
        needs: &facts.needs,
        alone: &facts.alone,
        feeds: facts.feeds,
        mixes: facts.mixes,
    };
    let usual =
        products().iter().find(|(id, _)| *id == usual_peroxide()).map(|(_, product)| product.name.as_str().to_owned());
    BenchFacts {
        purposes: purposes().iter().map(purpose).collect(),
        examples: examples()
            .iter()
            .map(|example| ExampleView { name: speaker.say(&example.name()), asks: &example.asks })
            .collect(),
        usual_peroxide: usual.unwrap_or_default(),
    }
}

/// Kinds, crops, checks, signs and units.
#[derive(Serialize, ToSchema)]
pub struct Knowledge {
    /// Kinds of system with the traits that they usually have.
    pub kinds: Vec<KindView>,
    /// The shipped crops.
    pub crops: Vec<Crop>,
    /// What can stand at a system beside the vessel.
    pub equipment: Vec<EquipmentView>,
    /// The routine checks.
    pub checks: Vec<CheckView>,
    /// Signs on plants.
    pub signs: Vec<SignView>,
    /// The causes that a case can be made of.
    pub case_causes: Vec<Choice>,
    /// Systems of units.
    pub units: Vec<UnitFacts>,
    /// EC scales.
    pub scales: Vec<ScaleFacts>,
    /// How far a refill may usually raise the water.
    pub usual_refill: UsualRefill,
    /// The colours of a drop kit for pH, each from one to the next.
    pub kit_bands: Vec<KitBand>,
    /// What the bench can be asked for.
    pub bench: BenchFacts,
    /// What can be chosen where, in order, by the name of the list.
    #[schema(value_type = BTreeMap<String, Vec<Choice>>)]
    pub choices: BTreeMap<&'static str, Vec<Choice>>,
}

/// How far a refill may usually raise the water, by whether anything moves it.
#[derive(Serialize, ToSchema)]
pub struct UsualRefill {
    /// In still water, where roots above the line breathe air.
    pub still: RefillMethod,
    /// In water that is moved or aerated.
    pub moved: RefillMethod,
}

/// Between two colours of a drop kit.
#[derive(Serialize, ToSchema)]
pub struct KitBand {
    /// From this pH.
    pub low: f64,
    /// Up to this one.
    pub high: f64,
    /// As it is said.
    pub said: String,
}

fn kit_bands() -> Vec<KitBand> {
    let figures = &FIGURES.ph;
    let count = ((figures.kit_high - figures.kit_low) / figures.kit_step).round() as usize;
    let band = |n: usize| {
        let low = figures.kit_low + n as f64 * figures.kit_step;
        let high = low + figures.kit_step;
        KitBand { low, high, said: format!("{low:.1}–{high:.1}") }
    };
    (0..count).map(band).collect()
}

/// What Mopsel knows before anything is set up.
#[utoipa::path(get, path = "/api/knowledge", params(Acting), responses((status = 200, body = Knowledge)))]
pub async fn knowledge(Who(actor): Who) -> web::Json<Knowledge> {
    let speaker = Speaker::new(Reader::new(UnitSystem::Metric, EcScale::MilliSiemens, &actor));
    let units = [UnitSystem::Metric, UnitSystem::Us, UnitSystem::Imperial].map(|key| UnitFacts {
        key,
        litres_per_unit: key.litres_per_unit(),
        volume: key.volume_unit().to_owned(),
        millimetres_per_unit: key.millimetres_per_unit(),
        length: key.length_unit().to_owned(),
        kilograms_per_unit: key.kilograms_per_unit(),
        weight: key.weight_unit().to_owned(),
        fahrenheit: key.fahrenheit(),
    });
    let kind = |facts: &KindFacts| KindView {
        name: speaker.say(&facts.key.name()),
        plain: speaker.say(&facts.key.plain()),
        facts: facts.clone(),
    };
    let check = |facts: &CheckFacts| CheckView {
        name: speaker.say(&facts.key.name()),
        doing: speaker.say(&facts.key.doing()),
        facts: facts.clone(),
    };
    let piece = |facts: &EquipmentFacts| EquipmentView {
        key: facts.key,
        name: speaker.say(&facts.key.name()),
        service_days: facts.service_days,
    };
    let sign = |facts: &SignFacts| SignView { say: speaker.say(&facts.key.say()), facts: facts.clone() };
    web::Json(Knowledge {
        kinds: kinds().iter().map(kind).collect(),
        crops: crops().to_vec(),
        equipment: equipment().iter().map(piece).collect(),
        checks: checks().iter().map(check).collect(),
        signs: signs().iter().map(sign).collect(),
        case_causes: plans().iter().map(|plan| Choice { key: &plan.cause, name: speaker.say(&plan.name()) }).collect(),
        units: units.into(),
        scales: EcScale::ALL.map(|(key, _)| ScaleFacts { key, per_ms_cm: key.per_ms_cm() }).into(),
        usual_refill: UsualRefill { still: RefillMethod::OneInch, moved: RefillMethod::NoLimit },
        kit_bands: kit_bands(),
        bench: bench_facts(&speaker),
        choices: choices(&speaker),
    })
}

/// What a vessel comes to.
#[derive(Serialize, ToSchema)]
pub struct ShapePreview {
    /// What it holds to the rim.
    pub capacity: Litres,
    /// The reservoir that is suggested for it.
    pub suggested: Reservoir,
    /// The height of the suggested working line, where heights are known.
    pub working_height_mm: Option<Millimetres>,
}

/// What runs home into a vessel.
#[derive(Debug, Clone, Copy, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct RunsHome {
    /// Litres that run back when the pump stops; the lines that are suggested leave room for them.
    #[serde(default)]
    drain_back: Option<Litres>,
}

/// Works out a vessel without storing it: what it holds, and the volumes that suit it.
#[utoipa::path(post, path = "/api/shape/preview", params(RunsHome), request_body(content = Shape, example = json!({"form": "tapered", "rim_length_mm": 400, "rim_width_mm": 280, "floor_length_mm": 340, "floor_width_mm": 225, "height_mm": 190})), responses((status = 200, body = ShapePreview), (status = 422, body = ProblemSaid)))]
pub async fn preview_shape(
    query: web::Query<RunsHome>,
    Json(shape): Json<Shape>,
) -> Result<web::Json<ShapePreview>, Problem> {
    shape.check()?;
    let drain_back = query.drain_back.unwrap_or(Litres::ZERO);
    if drain_back >= shape.capacity() {
        let refusal = refuse!("part_fills_vessel", found = drain_back, most = shape.capacity());
        return Err(refusal.at("drain_back").into());
    }
    let suggested = Reservoir::suggested(shape, drain_back);
    Ok(web::Json(ShapePreview {
        capacity: suggested.shape.capacity(),
        working_height_mm: suggested.shape.height_of(suggested.working),
        suggested,
    }))
}
