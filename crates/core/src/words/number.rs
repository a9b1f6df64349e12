//! Numbers as their readers write them.

use super::Reader;
use crate::message::Unit;
use crate::quantity::{EcScale, FLUID_OUNCE_ML, OUNCE_G, TABLESPOON_ML, TEASPOON_ML, UnitSystem};

/// A number with its unit.
pub(super) fn number(value: f64, unit: Unit, reader: Reader) -> String {
    match unit {
        Unit::Litres => volume(value, reader),
        Unit::LitresADay => format!("{} a day", volume(value, reader)),
        Unit::Millilitres => amount(value, "mL", |ml| kitchen_ml(ml, reader.units), reader),
        Unit::Grams => amount(value, "g", |grams| format!("{} oz", figures(grams / OUNCE_G)), reader),
        Unit::Millimetres if reader.units == UnitSystem::Metric => format!("{value:.0} mm"),
        Unit::Millimetres => format!("{:.1} in", value / reader.units.millimetres_per_unit()),
        Unit::Celsius if reader.units.fahrenheit() => format!("{:.1} °F", value * 1.8 + 32.0),
        Unit::Celsius => format!("{value:.1} °C"),
        Unit::Degrees if reader.units.fahrenheit() => format!("{} °F", one_if_needed(value * 1.8)),
        Unit::Degrees => format!("{} °C", one_if_needed(value)),
        Unit::MilliSiemens => format!("{}{}", ec_figure(value, reader.ec), ec_unit(reader.ec)),
        Unit::OnMilliSiemens | Unit::OnMicroSiemens | Unit::OnPpm500 | Unit::OnPpm640 | Unit::OnPpm700 => {
            let scale = on_scale(unit);
            format!("{}{}", ec_figure(value, scale), ec_unit(scale))
        }
        Unit::Kilograms => {
            let units = reader.units;
            format!("{:.0} {}", value / units.kilograms_per_unit(), units.weight_unit())
        }
        Unit::Ph | Unit::OneDecimal => format!("{value:.1}"),
        Unit::TwoDecimals => format!("{value:.2}"),
        Unit::Percent => format!("{} %", shortest(value)),
        Unit::SignedPercent => format!("{value:+.1} %"),
        Unit::Days => counted(value, "day", "days"),
        Unit::Hours => counted(value, "hour", "hours"),
        Unit::Minutes => counted(value, "minute", "minutes"),
        Unit::Count => format!("{value:.0}"),
        Unit::Plain => shortest(value),
    }
}

/// From one number to another, with the unit once.
pub(super) fn band(low: f64, high: f64, unit: Unit, reader: Reader) -> String {
    match unit {
        Unit::MilliSiemens => {
            format!("{}–{}{}", ec_figure(low, reader.ec), ec_figure(high, reader.ec), ec_unit(reader.ec))
        }
        unit => {
            let (low, high) = (number(low, unit, reader), number(high, unit, reader));
            match low.split_once(' ').filter(|(_, sign)| high.ends_with(sign)) {
                Some((figure, _)) => format!("{figure}–{high}"),
                None => format!("{low}–{high}"),
            }
        }
    }
}

/// A number of days as it stands before a noun: "daily", "14-day".
pub(super) fn hyphened(value: f64, unit: Unit, reader: Reader) -> String {
    match unit {
        Unit::Days if (value - 1.0).abs() < 1e-9 => "daily".to_owned(),
        Unit::Days => format!("{}-day", one_if_needed(value)),
        unit => number(value, unit, reader),
    }
}

/// A volume: three figures are as much as a level line can carry.
fn volume(litres: f64, reader: Reader) -> String {
    let value = litres / reader.units.litres_per_unit();
    let unit = reader.units.volume_unit();
    match value {
        v if v >= 99.95 => format!("{v:.0} {unit}"),
        v if v >= 1.0 => format!("{v:.1} {unit}"),
        0.0 => format!("0 {unit}"),
        v => format!("{v:.2} {unit}"),
    }
}

/// An amount of product; in US and imperial units as a kitchen measures it, with the millilitres or
/// grams beside it, which no spoon rounds away.
fn amount(value: f64, sign: &str, kitchen: impl Fn(f64) -> String, reader: Reader) -> String {
    let plain = format!("{} {sign}", figures(value));
    if reader.units == UnitSystem::Metric { plain } else { format!("{} ({plain})", kitchen(value)) }
}

/// Millilitres in an imperial fluid ounce, and in the spoons that are sold where it is used.
const IMPERIAL: [f64; 3] = [28.413_062_5, 15.0, 5.0];

/// A liquid in the largest kitchen measure that it fills, of the reader's own country.
fn kitchen_ml(ml: f64, units: UnitSystem) -> String {
    let us = [FLUID_OUNCE_ML, TABLESPOON_ML, TEASPOON_ML];
    let [ounce, tablespoon, teaspoon] = if units == UnitSystem::Imperial { IMPERIAL } else { us };
    match ml {
        ml if ml >= 2.0 * ounce => format!("{} fl oz", spoons(ml / ounce)),
        ml if ml >= tablespoon => format!("{} tbsp", spoons(ml / tablespoon)),
        ml => format!("{} tsp", spoons(ml / teaspoon)),
    }
}

/// How far a spoon in quarters may be off the amount.
const SPOON_OFF: f64 = 0.02;

/// In halves and quarters where that is exact enough, as spoons are made; else in figures.
fn spoons(value: f64) -> String {
    let quarters = (value * 4.0).round();
    if quarters < 1.0 || (quarters / 4.0 - value).abs() > value * SPOON_OFF {
        return figures(value);
    }
    let (whole, part) = ((quarters / 4.0).floor(), quarters % 4.0);
    let part = ["", "¼", "½", "¾"][part as usize];
    if whole > 0.0 { format!("{whole:.0}{part}") } else { part.to_owned() }
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

fn ec_figure(ms: f64, scale: EcScale) -> String {
    let value = ms * scale.per_ms_cm();
    match scale {
        EcScale::MilliSiemens => format!("{value:.2}"),
        // So few are a slip mostly, and are shown as they were typed.
        _ if value < 15.0 && value.fract() > 0.05 => format!("{value:.1}"),
        _ => format!("{value:.0}"),
    }
}

fn ec_unit(scale: EcScale) -> String {
    format!(" {}", scale.sign())
}

fn on_scale(unit: Unit) -> EcScale {
    match unit {
        Unit::OnMicroSiemens => EcScale::MicroSiemens,
        Unit::OnPpm500 => EcScale::Ppm500,
        Unit::OnPpm640 => EcScale::Ppm640,
        Unit::OnPpm700 => EcScale::Ppm700,
        _ => EcScale::MilliSiemens,
    }
}

/// "1 day", "5 days", "2.3 days".
fn counted(value: f64, one: &str, many: &str) -> String {
    let said = one_if_needed(value);
    let unit = if said == "1" { one } else { many };
    format!("{said} {unit}")
}

/// Whole, or with one decimal where it is not.
fn one_if_needed(value: f64) -> String {
    if (value - value.round()).abs() < 0.05 { format!("{value:.0}") } else { format!("{value:.1}") }
}

/// As short as it can be written, and never longer than a reader can take in.
fn shortest(value: f64) -> String {
    if !value.is_finite() {
        return value.to_string();
    }
    if value != 0.0 && !(1e-4..1e9).contains(&value.abs()) {
        return format!("{value:.1e}");
    }
    let text = format!("{value:.4}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}
