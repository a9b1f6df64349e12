//! Quantities are types. Each stands in one canonical unit, knows its bounds, and refuses what is
//! not a number or cannot be: a value inside the program has been checked once, at its edge.

mod conductivity;
mod ph;
mod text;
mod units;

pub use conductivity::{EcReading, EcScale};
pub use ph::PhReading;
pub use text::{Name, Note};
pub use units::{UnitSystem, Wording, factors};

use crate::Refusal;
use serde::{Deserialize, Serialize};

/// Defines a checked quantity: its unit, its bounds and what the bounds come from.
macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $what:literal, $unit:literal, $min:tt to $max:tt, $mend:literal) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Serialize, Deserialize, utoipa::ToSchema)]
        #[serde(try_from = "f64", into = "f64")]
        #[schema(minimum = $min, maximum = $max)]
        pub struct $name(f64);

        impl $name {
            /// The least value that is accepted.
            pub const MIN: f64 = $min;
            /// The greatest value that is accepted.
            pub const MAX: f64 = $max;
            /// The canonical unit, as it is written behind the number.
            pub const UNIT: &'static str = $unit;

            /// Checks a value.
            ///
            /// # Errors
            /// A refusal when the value is not a number or lies outside `MIN..=MAX`.
            pub fn new(value: f64) -> Result<Self, Refusal> {
                if value.is_finite() && (Self::MIN..=Self::MAX).contains(&value) {
                    return Ok(Self(value));
                }
                Err(Refusal::new(
                    format!("found {} {} of {value} {}", article($what), $what, $unit).replace("  ", " ").trim_end().to_owned(),
                    format!("allowed is {} to {} {}", Self::MIN, Self::MAX, $unit).trim_end().to_owned(),
                    $mend,
                ))
            }

            /// The nearest value that the bounds allow, for results of arithmetic on checked values.
            #[must_use]
            pub fn nearest(value: f64) -> Self {
                if value.is_nan() { Self(Self::MIN) } else { Self(value.clamp(Self::MIN, Self::MAX)) }
            }

            /// The number, in the canonical unit.
            #[must_use]
            pub fn get(self) -> f64 {
                self.0
            }
        }

        impl TryFrom<f64> for $name {
            type Error = Refusal;
            fn try_from(value: f64) -> Result<Self, Refusal> {
                Self::new(value)
            }
        }

        impl From<$name> for f64 {
            fn from(value: $name) -> f64 {
                value.0
            }
        }
    };
}

fn article(noun: &str) -> &'static str {
    if noun.starts_with(['a', 'e', 'i', 'o', 'u', 'E']) { "an" } else { "a" }
}

quantity!(
    /// A volume of water, in litres. A single body of water here holds at most 20 000 L.
    Litres, "volume", "L", 0.0 to 20000.0, "Check the unit: litres are wanted here."
);
quantity!(
    /// A small measured liquid, in millilitres.
    Millilitres, "liquid amount", "mL", 0.0 to 100000.0, "Check the unit: millilitres are wanted here."
);
quantity!(
    /// A length or a water level, in millimetres.
    Millimetres, "length", "mm", 0.0 to 10000.0, "Check the unit: millimetres are wanted here."
);
quantity!(
    /// Electrical conductivity at 25 °C, in mS/cm.
    Conductivity, "EC", "mS/cm", 0.0 to 20.0, "Check the meter's scale: 1600 µS/cm is 1.6 mS/cm, and a ppm figure needs its scale."
);
quantity!(
    /// pH of the solution, 0 to 14.
    Ph, "pH", "", 0.0 to 14.0, "Rinse the probe, swirl, and read it again."
);
quantity!(
    /// Temperature of the water, in °C: from freezing to what no root survives.
    Celsius, "temperature", "°C", 0.0 to 60.0, "Check the unit: a reading in °F is converted before it is sent."
);

impl Litres {
    /// No water.
    pub const ZERO: Self = Self(0.0);
}

impl Millimetres {
    /// One inch, the most that still water is raised in one refill.
    pub const INCH: Self = Self(25.0);
}
