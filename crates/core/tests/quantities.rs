//! Quantities refuse what cannot be, and read as their readers read.

use crate::common::told;
use crate::common::{Refused, Said};
use mopsel_core::words::Reader;

use crate::common::{celsius, kit};
use mopsel_core::quantity::{Celsius, Conductivity, EcReading, EcScale, Litres, Name, Note, Ph, PhReading, UnitSystem};
use mopsel_core::system::PortSet;
use proptest::prelude::*;

#[test]
fn what_is_no_number_is_no_quantity() {
    for value in [f64::NAN, f64::INFINITY, f64::NEG_INFINITY, -0.001, 1e9] {
        assert!(Litres::new(value).is_err(), "{value} L");
        assert!(Ph::new(value).is_err(), "pH {value}");
        assert!(Conductivity::new(value).is_err(), "EC {value}");
        assert!(Celsius::new(value).is_err(), "{value} °C");
    }
}

#[test]
fn a_refusal_says_found_allowed_and_mend() {
    let refusal = Ph::new(14.6).refusal();
    assert!(refusal.found.contains("14.6"), "{refusal:?}");
    assert_eq!(refusal.allowed, "allowed is 0.0 to 14.0");
    assert!(!refusal.mend.is_empty());
    assert!(Conductivity::new(1600.0).refusal().mend.contains("1600 µS/cm is 1.6 mS/cm"));
}

#[test]
fn one_point_six_reads_800_1024_and_1120_ppm() {
    for (scale, ppm) in [(EcScale::Ppm500, 800.0), (EcScale::Ppm640, 1024.0), (EcScale::Ppm700, 1120.0)] {
        let reading = EcReading { value: ppm, scale, compensated: true };
        assert!((reading.at_25(None).unwrap().get() - 1.6).abs() < 1e-12);
        assert!(
            told(Conductivity::new(1.6).unwrap(), Reader { ec: scale, ..Reader::default() })
                .starts_with(&format!("{ppm:.0} ppm"))
        );
    }
}

#[test]
fn a_meter_without_compensation_is_brought_to_25_degrees() {
    let reading = EcReading { value: 1.5, scale: EcScale::MilliSiemens, compensated: false };
    assert!((reading.at_25(Some(celsius(18.0))).unwrap().get() - 1.744).abs() < 5e-4);
    assert!(reading.at_25(None).refusal().allowed.contains("temperature"));
}

#[test]
fn ppm_without_its_scale_is_asked_for_not_guessed() {
    let error = serde_json::from_str::<EcReading>(r#"{"value":800,"scale":"ppm"}"#).unwrap_err().to_string();
    let end = error.rfind('}').unwrap();
    let error = mopsel_core::Refusal::carried(&error[..=end]).unwrap().said().to_string();
    assert!(error.contains("ppm without its scale") && error.contains("ppm500, ppm640 or ppm700"), "{error:?}");
}

#[test]
fn a_kit_band_runs_upwards() {
    assert!(serde_json::from_str::<PhReading>(r#"{"by":"kit","low":6.5,"high":6.0}"#).is_err());
    assert_eq!(kit(6.0, 6.5).say().said(), "6.0–6.5 by drop kit");
}

#[test]
fn text_is_bounded_trimmed_and_kept_as_typed() {
    assert_eq!(Name::new("  Blue <b>raft</b> ").unwrap().as_str(), "Blue <b>raft</b>");
    assert!(Name::new("   ").is_err());
    assert!(Name::new(&"x".repeat(81)).is_err());
    assert!(Note::new("one\ntwo").is_ok());
    assert!(Note::new("bell\u{7}").is_err());
    assert!(Note::new(&"x".repeat(1_000_000)).refusal().found.contains("1000000"));
}

#[test]
fn numbers_are_said_in_the_readers_units() {
    let us = Reader { units: UnitSystem::Us, ..Reader::default() };
    assert_eq!(told(Litres::new(3.785411784).unwrap(), us), "1.0 gal");
    assert_eq!(told(celsius(20.0), us), "68.0 °F");
    let imperial = Reader { units: UnitSystem::Imperial, ..us };
    assert_eq!(told(Litres::new(4.54609 * 2.0).unwrap(), imperial), "2.0 gal");
    assert_eq!(told(Litres::new(14.0).unwrap(), Reader::default()), "14.0 L");
}

#[test]
fn ports_are_read_as_people_write_them() {
    let read = |text: &str| PortSet::try_from(text.to_owned());
    assert_eq!(String::from(read("3, 1-2; 7").unwrap()), "1-3, 7");
    for wrong in ["", "0", "9-3", "a", "1-4000", "-", "1--2"] {
        assert!(read(wrong).is_err(), "{wrong:?}");
    }
}

proptest! {
    #[test]
    fn a_stored_quantity_comes_back_the_same(value in 0.0..20000.0f64) {
        let litres = Litres::new(value).unwrap();
        let text = serde_json::to_string(&litres).unwrap();
        prop_assert_eq!(serde_json::from_str::<Litres>(&text).unwrap(), litres);
    }

    #[test]
    fn hostile_port_text_never_panics(text in "\\PC{0,60}") {
        let _ = PortSet::try_from(text);
    }
}
