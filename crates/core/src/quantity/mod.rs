//! Quantities are types. Each stands in one canonical unit, knows its bounds, and refuses what is
//! not a number or cannot be: a value inside the program has been checked once, at its edge.
//!
//! They calculate, so that a rule reads as its formula: volumes add, strength times volume is salt,
//! and a subtraction gives a [`Difference`], which has to be asked whether it is one.

mod about;
mod amount;
mod arithmetic;
mod conductivity;
mod day;
mod ph;
mod text;
mod units;

pub use about::About;
pub use amount::{Amount, AmountUnit, CUP_ML, FLUID_OUNCE_ML, OUNCE_G, TABLESPOON_ML, TEASPOON_ML};
pub use arithmetic::{Difference, Quantity, Salt, middle};
pub use conductivity::{EcReading, EcScale};
pub use day::{FIRST_DAY, LAST_DAY, checked_day, day, day_if_any};
pub use ph::PhReading;
pub use text::{Name, Note};
pub use units::{UnitSystem, factors};

use crate::message::{Param, Unit, plain, term};
use crate::{Refusal, refuse};
use serde::{Deserialize, Serialize};

/// Defines a checked quantity: its unit, its bounds and what the bounds come from.
macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $what:literal, $mend:literal, $unit:expr, $min:tt to $max:tt) => {
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

            /// Checks a value.
            ///
            /// # Errors
            /// A refusal when the value is not a number or lies outside `MIN..=MAX`.
            pub fn new(value: f64) -> Result<Self, Refusal> {
                if value.is_finite() && (Self::MIN..=Self::MAX).contains(&value) {
                    return Ok(Self(value));
                }
                Err(refuse!(
                    "quantity_out_of_bounds",
                    what = term($what),
                    found = if value.is_finite() { Param::Number(value, $unit) } else { plain(value) },
                    low = Param::Number(Self::MIN, $unit),
                    high = Param::Number(Self::MAX, $unit),
                    check = term($mend)
                ))
            }

            /// A figure that is written in the source, in data or in a test.
            ///
            /// # Panics
            /// When it lies outside the bounds: a mistake of whoever wrote it, never of a user.
            #[must_use]
            pub const fn constant(value: f64) -> Self {
                assert!(value >= Self::MIN && value <= Self::MAX, "a constant lies outside its quantity's bounds");
                Self(value)
            }

            /// The number, in the canonical unit.
            #[must_use]
            pub const fn get(self) -> f64 {
                self.0
            }
        }

        impl Quantity for $name {
            const UNIT: Unit = $unit;
            fn number(self) -> f64 {
                self.0
            }
            fn calculated(value: f64) -> Self {
                Self(value)
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

        impl From<$name> for Param {
            fn from(value: $name) -> Self {
                Self::Number(value.0, $unit)
            }
        }
    };
}

quantity!(
    /// A volume of water, in litres. A single body of water here holds at most 20 000 L.
    Litres, "quantity.volume", "quantity.check_litres", Unit::Litres, 0.0 to 20000.0
);
quantity!(
    /// A small measured liquid, in millilitres.
    Millilitres, "quantity.liquid", "quantity.check_millilitres", Unit::Millilitres, 0.0 to 100000.0
);
quantity!(
    /// A length or a water level, in millimetres.
    Millimetres, "quantity.length", "quantity.check_millimetres", Unit::Millimetres, 0.0 to 10000.0
);
quantity!(
    /// Electrical conductivity at 25 °C, in mS/cm.
    Conductivity, "quantity.ec", "quantity.check_scale", Unit::MilliSiemens, 0.0 to 20.0
);
quantity!(
    /// pH of the solution, 0 to 14.
    Ph, "quantity.ph", "quantity.check_probe", Unit::Ph, 0.0 to 14.0
);
quantity!(
    /// Temperature of the water, in °C: from freezing to what no root survives.
    Celsius, "quantity.temperature", "quantity.check_celsius", Unit::Celsius, 0.0 to 60.0
);

quantity!(
    /// What was picked, in grams: a few leaves to a tonne.
    Grams, "quantity.harvest", "quantity.check_grams", Unit::Grams, 0.1 to 1000000.0
);
quantity!(
    /// A weight on a scale, in kilograms: a litre of water weighs one.
    Kilograms, "quantity.weight", "quantity.check_kilograms", Unit::Kilograms, 0.0 to 20000.0
);

impl Litres {
    /// No water.
    pub const ZERO: Self = Self(0.0);
}

impl Millimetres {
    /// One inch, the most that still water is raised in one refill.
    pub const INCH: Self = Self(factors::INCH_MM);
}

/// From one quantity to another of the same, for a sentence.
#[must_use]
pub fn band<Q: Quantity>(low: Q, high: Q) -> Param {
    Param::Band(low.number(), high.number(), Q::UNIT)
}
