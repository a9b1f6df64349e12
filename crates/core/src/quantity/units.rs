//! The units that people read. Inside, everything is canonical; a number meets its reader's unit
//! once, when it is put into words or into a field.

use super::{Celsius, Conductivity, EcScale, Litres, Millimetres};
use crate::mixing::{Amount, AmountUnit, FLUID_OUNCE_ML, OUNCE_G, TABLESPOON_ML, TEASPOON_ML};
use serde::{Deserialize, Serialize};

/// Exact conversion factors.
pub mod factors {
    /// Litres in a US gallon.
    pub const US_GALLON_L: f64 = 3.785_411_784;
    /// Litres in an imperial gallon.
    pub const IMPERIAL_GALLON_L: f64 = 4.546_09;
    /// Millimetres in an inch.
    pub const INCH_MM: f64 = 25.4;
}

/// Which units a place reads.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
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

    /// Whether temperatures are read in °F.
    #[must_use]
    pub fn fahrenheit(self) -> bool {
        self == Self::Us
    }
}

/// How quantities are put into words for one reader: the place's units and the meter's EC scale.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Wording {
    /// Units of volume, length and temperature.
    pub units: UnitSystem,
    /// Scale of EC figures.
    pub ec: EcScale,
}

impl Wording {
    /// A volume: "14.0 L", "4.5 gal"; three figures are as much as a level line can carry.
    #[must_use]
    pub fn volume(self, volume: Litres) -> String {
        let value = volume.get() / self.units.litres_per_unit();
        let unit = self.units.volume_unit();
        if value >= 99.95 {
            format!("{value:.0} {unit}")
        } else if value >= 1.0 {
            format!("{value:.1} {unit}")
        } else {
            format!("{value:.2} {unit}")
        }
    }

    /// A volume a day.
    #[must_use]
    pub fn volume_a_day(self, volume: Litres) -> String {
        format!("{} a day", self.volume(volume))
    }

    /// A length: "25 mm", "1.0 in".
    #[must_use]
    pub fn length(self, length: Millimetres) -> String {
        let value = length.get() / self.units.millimetres_per_unit();
        if self.units == UnitSystem::Metric { format!("{value:.0} mm") } else { format!("{value:.1} in") }
    }

    /// A temperature: "21.5 °C", "70.7 °F".
    #[must_use]
    pub fn temperature(self, temperature: Celsius) -> String {
        if self.units.fahrenheit() { format!("{:.1} °F", temperature.get() * 1.8 + 32.0) } else { format!("{:.1} °C", temperature.get()) }
    }

    /// A difference of temperatures: "3 °C", "5.4 °F".
    #[must_use]
    pub fn degrees(self, celsius: f64) -> String {
        let (value, unit) = if self.units.fahrenheit() { (celsius * 1.8, "°F") } else { (celsius, "°C") };
        if (value - value.round()).abs() < 0.05 { format!("{value:.0} {unit}") } else { format!("{value:.1} {unit}") }
    }

    /// An amount of product: "73.6 mL", "12.4 g"; in US and imperial units as a kitchen measures it,
    /// with the millilitres or grams beside it, which no spoon rounds away.
    #[must_use]
    pub fn amount(self, amount: Amount) -> String {
        let Amount { value, unit } = amount;
        let (plain, kitchen) = match unit {
            AmountUnit::Ml => (format!("{} mL", figures(value)), kitchen_ml(value)),
            AmountUnit::G => (format!("{} g", figures(value)), format!("{} oz", figures(value / OUNCE_G))),
        };
        if self.units == UnitSystem::Metric { plain } else { format!("{kitchen} ({plain})") }
    }

    /// A weight to carry: "12 kg", "26 lb".
    #[must_use]
    pub fn weight(self, kilograms: f64) -> String {
        const POUND_KG: f64 = 0.453_592_37;
        if self.units == UnitSystem::Us { format!("{:.0} lb", kilograms / POUND_KG) } else { format!("{kilograms:.0} kg") }
    }

    /// An EC on the reader's scale: "1.60 mS/cm", "1120 ppm (700)".
    #[must_use]
    pub fn ec(self, ec: Conductivity) -> String {
        let value = ec.get() * self.ec.per_ms_cm();
        match self.ec {
            EcScale::MilliSiemens => format!("{value:.2} mS/cm"),
            scale => format!("{value:.0} ppm ({:.0})", scale.per_ms_cm()),
        }
    }

    /// A band of EC: "1.20–1.80 mS/cm".
    #[must_use]
    pub fn ec_band(self, low: Conductivity, high: Conductivity) -> String {
        let (low, high, per) = (low.get() * self.ec.per_ms_cm(), high.get() * self.ec.per_ms_cm(), self.ec.per_ms_cm());
        if self.ec == EcScale::MilliSiemens { format!("{low:.2}–{high:.2} mS/cm") } else { format!("{low:.0}–{high:.0} ppm ({per:.0})") }
    }
}

/// Three figures, as much as any spoon or scale can be read to.
fn figures(value: f64) -> String {
    match value {
        v if v >= 99.95 => format!("{v:.0}"),
        v if v >= 9.995 => format!("{v:.1}"),
        v if v >= 0.0995 => format!("{v:.2}"),
        v => format!("{v:.3}"),
    }
}

/// A liquid in the largest US kitchen measure that it fills.
fn kitchen_ml(ml: f64) -> String {
    match ml {
        ml if ml >= 2.0 * FLUID_OUNCE_ML => format!("{} fl oz", figures(ml / FLUID_OUNCE_ML)),
        ml if ml >= TABLESPOON_ML => format!("{} tbsp", figures(ml / TABLESPOON_ML)),
        ml => format!("{} tsp", figures(ml / TEASPOON_ML)),
    }
}
