//! The units that people read. Inside, everything is canonical; a number meets its reader's unit
//! once, when it is put into words or into a field.

use serde::{Deserialize, Serialize};

/// Exact conversion factors.
pub mod factors {
    /// Litres in a US gallon.
    pub const US_GALLON_L: f64 = 3.785_411_784;
    /// Litres in an imperial gallon.
    pub const IMPERIAL_GALLON_L: f64 = 4.546_09;
    /// Millimetres in an inch.
    pub const INCH_MM: f64 = 25.4;
    /// Kilograms in a pound.
    pub const POUND_KG: f64 = 0.453_592_37;
}

/// Which units a place reads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum UnitSystem {
    /// Litres, millimetres, °C.
    #[default]
    Metric,
    /// US gallons, inches, °F.
    Us,
    /// Imperial gallons, inches, °C.
    Imperial,
}

impl UnitSystem {
    /// Litres in one unit of volume.
    #[must_use]
    pub fn litres_per_unit(self) -> f64 {
        match self {
            Self::Metric => 1.0,
            Self::Us => factors::US_GALLON_L,
            Self::Imperial => factors::IMPERIAL_GALLON_L,
        }
    }

    /// The sign of the unit of volume.
    #[must_use]
    pub fn volume_unit(self) -> &'static str {
        match self {
            Self::Metric => "L",
            Self::Us | Self::Imperial => "gal",
        }
    }

    /// Millimetres in one unit of length.
    #[must_use]
    pub fn millimetres_per_unit(self) -> f64 {
        if self == Self::Metric { 1.0 } else { factors::INCH_MM }
    }

    /// The sign of the unit of length.
    #[must_use]
    pub fn length_unit(self) -> &'static str {
        if self == Self::Metric { "mm" } else { "in" }
    }

    /// Kilograms in one unit of weight.
    #[must_use]
    pub fn kilograms_per_unit(self) -> f64 {
        if self == Self::Us { factors::POUND_KG } else { 1.0 }
    }

    /// The sign of the unit of weight.
    #[must_use]
    pub fn weight_unit(self) -> &'static str {
        if self == Self::Us { "lb" } else { "kg" }
    }

    /// Whether temperatures are read in °F.
    #[must_use]
    pub fn fahrenheit(self) -> bool {
        self == Self::Us
    }
}
