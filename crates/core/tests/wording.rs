//! Quantities in the reader's words: rounded once, in their units and on their scale.
use mopsel_core::mixing::RateVolume;
use mopsel_core::quantity::{Amount, AmountUnit, CUP_ML, FLUID_OUNCE_ML, OUNCE_G, TABLESPOON_ML, TEASPOON_ML};
use mopsel_core::quantity::{Celsius, Conductivity, EcScale, Litres, Millimetres, UnitSystem};
use proptest::prelude::*;

use crate::common::told;
use mopsel_core::message::{Param, Unit, degrees};
use mopsel_core::words::{Called, Reader, searched};

fn words(units: UnitSystem, ec: EcScale) -> Reader {
    Reader { units, ec, child: false }
}

#[test]
fn volumes_lengths_and_temperatures_in_three_systems() {
    let (volume, length, warm) =
        (Litres::new(37.854_117_84).unwrap(), Millimetres::new(254.0).unwrap(), Celsius::new(20.0).unwrap());
    let cases = [
        (UnitSystem::Metric, "37.9 L", "254 mm", "20.0 °C"),
        (UnitSystem::Us, "10.0 gal", "10.0 in", "68.0 °F"),
        (UnitSystem::Imperial, "8.3 gal", "10.0 in", "20.0 °C"),
    ];
    for (units, litres, mm, celsius) in cases {
        let w = words(units, EcScale::MilliSiemens);
        assert_eq!((told(volume, w).as_str(), told(length, w).as_str(), told(warm, w).as_str()), (litres, mm, celsius));
    }
}

#[test]
fn differences_of_temperature_have_no_thirty_two_in_them() {
    let us = words(UnitSystem::Us, EcScale::MilliSiemens);
    let metric = Reader::default();
    assert_eq!(
        (
            told(degrees(5.0), us).as_str(),
            told(degrees(3.0), us).as_str(),
            told(degrees(3.0), metric).as_str(),
            told(degrees(3.5), metric).as_str()
        ),
        ("9 °F", "5.4 °F", "3 °C", "3.5 °C")
    );
}

#[test]
fn one_strength_on_five_scales() {
    let strength = Conductivity::new(1.6).unwrap();
    let said = EcScale::ALL.map(|(scale, _)| told(strength, words(UnitSystem::Metric, scale)));
    assert_eq!(said, ["1.60 mS/cm", "1600 µS/cm", "800 ppm (500)", "1024 ppm (640)", "1120 ppm (700)"]);
}

#[test]
fn weights_to_carry() {
    assert_eq!(told(Param::Number(18.0, Unit::Kilograms), words(UnitSystem::Us, EcScale::MilliSiemens)), "40 lb");
    assert_eq!(told(Param::Number(18.0, Unit::Kilograms), words(UnitSystem::Imperial, EcScale::MilliSiemens)), "18 kg");
}

#[test]
fn liquids_climb_from_teaspoons_to_fluid_ounces() {
    let us = words(UnitSystem::Us, EcScale::MilliSiemens);
    for (ml, starts) in
        [(2.46, "½ tsp"), (7.39, "1½ tsp"), (22.18, "1½ tbsp"), (63.0, "2.13 fl oz"), (CUP_ML, "8 fl oz")]
    {
        let said = told(Amount::ml(ml), us);
        assert!(said.starts_with(starts) && said.ends_with("mL)"), "{said}");
    }
    assert!(told(Amount::grams(500.0), us).starts_with("17.6 oz (500 g)"));
}

#[test]
fn the_factors_are_the_defined_ones() {
    let within = |found: f64, wanted: f64| assert!((found / wanted - 1.0).abs() < 1e-3, "{found} is not {wanted}");
    within(TEASPOON_ML, 4.928_92);
    within(TABLESPOON_ML, 14.786_76);
    within(FLUID_OUNCE_ML, 29.573_53);
    within(CUP_ML, 236.588_2);
    within(OUNCE_G, 28.349_523);
    within(RateVolume::UsGallon.litres(), 3.785_411_784);
    within(RateVolume::ImperialGallon.litres(), 4.546_09);
    assert!((TABLESPOON_ML / TEASPOON_ML - 3.0).abs() < 1e-12 && (CUP_ML / TABLESPOON_ML - 16.0).abs() < 1e-12);
}

#[test]
fn an_amount_reads_back_what_it_was_and_refuses_what_cannot_be() {
    let amount: Amount = serde_json::from_str(r#"{"value":12.5,"unit":"g"}"#).unwrap();
    assert_eq!((amount.value, amount.unit), (12.5, AmountUnit::G));
    for wrong in
        [r#"{"value":-1,"unit":"g"}"#, r#"{"value":1e9,"unit":"ml"}"#, r#"{"value":1,"unit":"cup"}"#, r#"{"value":1}"#]
    {
        assert!(serde_json::from_str::<Amount>(wrong).is_err(), "{wrong:?}");
    }
}

proptest! {
    #[test]
    fn amounts_are_said_to_half_a_per_cent_or_half_a_hundredth(ml in 0.1..5000.0f64) {
        let said = told(Amount::ml(ml), Reader::default());
        let read: f64 = said.trim_end_matches(" mL").parse().unwrap();
        prop_assert!((read - ml).abs() <= 0.0051 * ml.max(1.0), "{said} for {ml}");
    }

    #[test]
    fn a_kitchen_measure_is_the_same_amount(ml in 1.0..5000.0f64) {
        let said = told(Amount::ml(ml), words(UnitSystem::Us, EcScale::MilliSiemens));
        let (number, rest) = said.split_once(' ').unwrap();
        let size = if rest.starts_with("tsp") { TEASPOON_ML } else if rest.starts_with("tbsp") { TABLESPOON_ML } else { FLUID_OUNCE_ML };
        let quarter = ["¼", "½", "¾"].iter().position(|part| number.ends_with(part));
        let whole = number.trim_end_matches(['¼', '½', '¾']);
        let whole: f64 = if whole.is_empty() { 0.0 } else { whole.parse().unwrap() };
        let read = whole + quarter.map_or(0.0, |n| 0.25 * (n as f64 + 1.0));
        prop_assert!((read - ml / size).abs() <= 0.0201 * (ml / size).max(1.0), "{said} for {ml}");
    }
}

proptest! {
    #[test]
    fn what_is_called_so_is_found_by_how_a_word_begins_and_nothing_else(
        names in prop::collection::vec("[abÄ]{1,3}( [abÄ]{1,3}){0,2}", 0..20), word in "[abÄ]{1,3}"
    ) {
        let called = Called::by(names.iter().enumerate().map(|(n, name)| (name.as_str(), n)));
        let word = word.to_lowercase();
        let begins = |name: &str| searched(name).iter().any(|one| one.starts_with(&word));
        let expected: Vec<usize> = (0..names.len()).filter(|n| begins(&names[*n])).collect();
        prop_assert_eq!(called.beginning(&word), expected);
    }
}
