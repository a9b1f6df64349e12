//! pH as it was read: one value from a meter, or the band between two colours of a drop kit.

use super::Ph;
use crate::message::{Message, Param, Unit, ph};
use crate::{Refusal, refuse, say};
use serde::{Deserialize, Serialize};

/// A pH reading with what is known of its precision.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "Wire", into = "Wire")]
pub enum PhReading {
    /// Read off a meter; taken as true to within 0.1.
    Meter(Ph),
    /// Between two colours of a drop kit. The band is what is known, so the band is what is kept.
    Kit {
        /// The lower colour.
        low: Ph,
        /// The higher colour.
        high: Ph,
    },
}

/// On the wire: `{"by":"meter","value":6.1}` or `{"by":"kit","low":6.0,"high":6.5}`.
#[derive(Debug, Clone, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
#[schema(as = PhReading)]
pub enum Wire {
    /// From a meter.
    Meter {
        /// pH, 0–14.
        value: Ph,
    },
    /// From a drop kit.
    Kit {
        /// Lower end of the band.
        low: Ph,
        /// Upper end of the band.
        high: Ph,
    },
}

impl TryFrom<Wire> for PhReading {
    type Error = Refusal;
    fn try_from(wire: Wire) -> Result<Self, Refusal> {
        match wire {
            Wire::Meter { value } => Ok(Self::Meter(value)),
            Wire::Kit { low, high } if low <= high => Ok(Self::Kit { low, high }),
            Wire::Kit { low, high } => Err(refuse!("kit_band_reversed", low = low, high = high)),
        }
    }
}

impl From<PhReading> for Wire {
    fn from(reading: PhReading) -> Self {
        match reading {
            PhReading::Meter(value) => Self::Meter { value },
            PhReading::Kit { low, high } => Self::Kit { low, high },
        }
    }
}

impl PhReading {
    /// The lowest and the highest pH that the reading allows: ±0.1 for a meter, the band for a kit.
    #[must_use]
    pub fn range(self) -> (f64, f64) {
        match self {
            Self::Meter(value) => (value.get() - 0.1, value.get() + 0.1),
            Self::Kit { low, high } => (low.get(), high.get()),
        }
    }

    /// The middle of what is known.
    #[must_use]
    pub fn middle(self) -> f64 {
        let (low, high) = self.range();
        f64::midpoint(low, high)
    }

    /// As it is said: "6.1", or "6.0–6.5 by drop kit".
    #[must_use]
    pub fn say(self) -> Message {
        match self {
            Self::Meter(value) => say!("reading.ph_meter", ph = ph(value.get())),
            Self::Kit { low, high } => say!("reading.ph_kit", band = Param::Band(low.get(), high.get(), Unit::Ph)),
        }
    }
}

impl From<PhReading> for Param {
    fn from(reading: PhReading) -> Self {
        reading.say().into()
    }
}

impl utoipa::PartialSchema for PhReading {
    fn schema() -> utoipa::openapi::RefOr<utoipa::openapi::schema::Schema> {
        Wire::schema()
    }
}

impl utoipa::ToSchema for PhReading {
    fn name() -> std::borrow::Cow<'static, str> {
        Wire::name()
    }
    fn schemas(schemas: &mut Vec<(String, utoipa::openapi::RefOr<utoipa::openapi::schema::Schema>)>) {
        Wire::schemas(schemas);
    }
}
