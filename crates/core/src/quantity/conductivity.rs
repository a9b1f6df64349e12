//! EC as a meter shows it, and what it is at 25 °C.

use super::{Celsius, Conductivity};
use crate::message::typed;
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};

/// What a meter's number stands for. "ppm" without one of the three factors means nothing, so there
/// is no such variant: the scale is asked once, stored with the meter, and never guessed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(try_from = "String", into = "String")]
pub enum EcScale {
    /// Millisiemens per centimetre, the canonical one.
    #[default]
    #[schema(rename = "ms_cm")]
    MilliSiemens,
    /// Microsiemens per centimetre: a thousand of them are one mS/cm.
    #[schema(rename = "us_cm")]
    MicroSiemens,
    /// ppm, 500 per mS/cm.
    #[schema(rename = "ppm500")]
    Ppm500,
    /// ppm, 640 per mS/cm.
    #[schema(rename = "ppm640")]
    Ppm640,
    /// ppm, 700 per mS/cm.
    #[schema(rename = "ppm700")]
    Ppm700,
}

impl EcScale {
    /// Every scale, with the code that stands for it on the wire.
    pub const ALL: [(Self, &'static str); 5] = [
        (Self::MilliSiemens, "ms_cm"),
        (Self::MicroSiemens, "us_cm"),
        (Self::Ppm500, "ppm500"),
        (Self::Ppm640, "ppm640"),
        (Self::Ppm700, "ppm700"),
    ];

    /// Its sign, as it stands behind a figure.
    #[must_use]
    pub fn sign(self) -> &'static str {
        match self {
            Self::MilliSiemens => "mS/cm",
            Self::MicroSiemens => "µS/cm",
            Self::Ppm500 => "ppm (500)",
            Self::Ppm640 => "ppm (640)",
            Self::Ppm700 => "ppm (700)",
        }
    }

    /// What one mS/cm reads on this scale.
    #[must_use]
    pub fn per_ms_cm(self) -> f64 {
        match self {
            Self::MilliSiemens => 1.0,
            Self::MicroSiemens => 1000.0,
            Self::Ppm500 => 500.0,
            Self::Ppm640 => 640.0,
            Self::Ppm700 => 700.0,
        }
    }
}

impl TryFrom<String> for EcScale {
    type Error = Refusal;

    fn try_from(code: String) -> Result<Self, Refusal> {
        let known = Self::ALL.iter().find(|(_, known)| *known == code).map(|(scale, _)| *scale);
        known.ok_or_else(|| {
            if code == "ppm" { refuse!("scale_missing") } else { refuse!("scale_unknown", found = typed(&code)) }
        })
    }
}

impl From<EcScale> for String {
    fn from(scale: EcScale) -> Self {
        EcScale::ALL.iter().find(|(known, _)| *known == scale).map_or("ms_cm", |(_, code)| code).to_owned()
    }
}

/// Most meters correct what they read by this share a degree.
const COMPENSATION: f64 = 0.02;
/// The temperature to which they correct it, in °C.
const REFERENCE: Celsius = Celsius::constant(25.0);

/// An EC reading as it stood on the meter.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct EcReading {
    /// The number on the meter's display.
    #[schema(example = 1.6)]
    pub value: f64,
    /// The meter's scale.
    pub scale: EcScale,
    /// Whether the meter corrects to 25 °C by itself; nearly all do.
    #[serde(default = "yes")]
    pub compensated: bool,
}

fn yes() -> bool {
    true
}

impl EcReading {
    /// A strength that was worked out rather than read.
    #[must_use]
    pub fn worked_out(ec: Conductivity) -> Self {
        Self { value: ec.get(), scale: EcScale::MilliSiemens, compensated: true }
    }

    /// EC at 25 °C: the number over its scale, and without compensation EC / (1 + 0.02 (T − 25)).
    ///
    /// # Errors
    /// A refusal when the result lies outside 0–20 mS/cm, or when the meter does not compensate and
    /// no temperature is known.
    pub fn at_25(self, temperature: Option<Celsius>) -> Result<Conductivity, Refusal> {
        let raw = Conductivity::new(self.value / self.scale.per_ms_cm())?;
        if self.compensated {
            return Ok(raw);
        }
        let Some(temperature) = temperature else {
            return Err(refuse!("ec_without_temperature"));
        };
        Conductivity::new(raw.get() / (1.0 + COMPENSATION * (temperature - REFERENCE)))
    }
}
