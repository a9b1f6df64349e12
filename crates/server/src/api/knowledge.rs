//! What Mopsel knows before anything is set up.

use crate::Problem;
use crate::input::Json;
use actix_web::web;
use mopsel_core::care::{CheckFacts, checks};
use mopsel_core::crop::{Crop, crops};
use mopsel_core::log::{SignFacts, signs};
use mopsel_core::quantity::{EcScale, Litres, Millimetres, UnitSystem};
use mopsel_core::reservoir::{RefillMethod, Reservoir, refill_limit};
use mopsel_core::system::{KindFacts, kinds};
use serde::Serialize;
use utoipa::ToSchema;

/// How a system of units reads.
#[derive(Serialize, ToSchema)]
pub struct UnitFacts {
    /// Which.
    pub key: UnitSystem,
    /// Litres in one unit of volume.
    pub litres_per_unit: f64,
    /// Its sign.
    pub volume: String,
    /// Millimetres in one unit of length.
    pub millimetres_per_unit: f64,
    /// Its sign.
    pub length: String,
    /// Whether temperatures are read in °F.
    pub fahrenheit: bool,
}

/// How an EC scale reads.
#[derive(Serialize, ToSchema)]
pub struct ScaleFacts {
    /// Which.
    pub key: EcScale,
    /// What 1 mS/cm reads on it.
    pub per_ms_cm: f64,
}

/// Kinds, crops, checks, signs and units.
#[derive(Serialize, ToSchema)]
pub struct Knowledge {
    /// Kinds of system with the traits that they usually have.
    pub kinds: Vec<KindFacts>,
    /// The shipped crops.
    pub crops: Vec<Crop>,
    /// The routine checks.
    pub checks: Vec<CheckFacts>,
    /// Signs on plants.
    pub signs: Vec<SignFacts>,
    /// Systems of units.
    pub units: Vec<UnitFacts>,
    /// EC scales.
    pub scales: Vec<ScaleFacts>,
}

/// What Mopsel knows before anything is set up.
#[utoipa::path(get, path = "/api/knowledge", responses((status = 200, body = Knowledge)))]
pub async fn knowledge() -> web::Json<Knowledge> {
    let units = [UnitSystem::Metric, UnitSystem::Us, UnitSystem::Imperial].map(|key| UnitFacts {
        key,
        litres_per_unit: key.litres_per_unit(),
        volume: key.volume_unit().to_owned(),
        millimetres_per_unit: key.millimetres_per_unit(),
        length: key.length_unit().to_owned(),
        fahrenheit: key.fahrenheit(),
    });
    let scales = EcScale::ALL.map(|(key, _)| ScaleFacts { key, per_ms_cm: key.per_ms_cm() });
    web::Json(Knowledge { kinds: kinds().to_vec(), crops: crops().to_vec(), checks: checks().to_vec(), signs: signs().to_vec(), units: units.into(), scales: scales.into() })
}

/// What a reservoir comes to.
#[derive(Serialize, ToSchema)]
pub struct ReservoirPreview {
    /// What it holds to the rim.
    pub capacity: Litres,
    /// The height of the working line, where heights are known.
    pub working_height_mm: Option<Millimetres>,
    /// What one refill of still water may add below the working line.
    pub one_inch: Litres,
}

/// Works out a reservoir without storing it.
#[utoipa::path(post, path = "/api/reservoir/preview", request_body = Reservoir, responses((status = 200, body = ReservoirPreview), (status = 422, body = Problem)))]
pub async fn preview_reservoir(Json(reservoir): Json<Reservoir>) -> Result<web::Json<ReservoirPreview>, Problem> {
    reservoir.check()?;
    let working_height_mm = reservoir.shape.height_of(reservoir.working);
    let inch_below = working_height_mm.and_then(|h| reservoir.shape.volume_at(Millimetres::nearest(h.get() - Millimetres::INCH.get())).ok());
    let from = inch_below.unwrap_or(reservoir.minimum);
    let one_inch = refill_limit(RefillMethod::OneInch, &reservoir, from, None, None, mopsel_core::quantity::Wording::default()).litres;
    Ok(web::Json(ReservoirPreview { capacity: reservoir.shape.capacity(), working_height_mm, one_inch }))
}
