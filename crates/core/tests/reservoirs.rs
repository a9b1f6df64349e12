//! From height to litres and back, and how far still water may rise.

use crate::common::{Garden, Refused, Said, adult, boxed, l, level, mm, planting, system, tub, visit};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, EachVessel, Visit};
use mopsel_core::quantity::{Litres, Millimetres};
use mopsel_core::reservoir::{LevelReading, Mark, RefillMethod, Reservoir, Shape, refill_limit, refills_needed};
use mopsel_core::system::Kind;
use proptest::prelude::*;

fn tapered() -> Shape {
    Shape::Tapered {
        rim_length_mm: mm(400.0),
        rim_width_mm: mm(280.0),
        floor_length_mm: mm(340.0),
        floor_width_mm: mm(220.0),
        height_mm: mm(200.0),
    }
}

#[test]
fn a_straight_box_and_a_cylinder_hold_what_geometry_says() {
    let tub = Shape::Box { length_mm: mm(520.0), width_mm: mm(360.0), height_mm: mm(200.0) };
    assert!((tub.volume_at(Millimetres::INCH).unwrap().get() - 4.754_88).abs() < 1e-9);
    let drum = Shape::Cylinder { diameter_mm: mm(400.0), height_mm: mm(500.0) };
    assert!((drum.capacity().get() - 62.831_853).abs() < 1e-4);
}

#[test]
fn a_tapered_box_follows_the_prismatoid_rule() {
    // V = h/6 · (A₀ + 4 A(h/2) + A(h)) with A₀ = 7.48, A(½) = 9.25, A = 11.2 dm² over 2 dm.
    assert!((tapered().capacity().get() - 2.0 / 6.0 * (7.48 + 4.0 * 9.25 + 11.2)).abs() < 1e-9);
}

#[test]
fn a_bucket_narrower_below_holds_a_frustum() {
    let (rim, floor, height) = (300.0, 260.0, 360.0);
    let bucket = Shape::Bucket { rim_diameter_mm: mm(rim), floor_diameter_mm: mm(floor), height_mm: mm(height) };
    // V = π h / 12 · (D² + D d + d²).
    let whole = std::f64::consts::PI * height / 12.0 * (rim * rim + rim * floor + floor * floor) / 1e6;
    assert!((bucket.capacity().get() - whole).abs() < 1e-9, "{:?} is not {whole}", bucket.capacity());
    let half = bucket.volume_at(mm(180.0)).unwrap();
    assert!(half.get() < whole / 2.0, "the lower half is the smaller one");
    assert!((bucket.height_of(half).unwrap().get() - 180.0).abs() < 1e-6);
    let none = Shape::Bucket { rim_diameter_mm: mm(0.0), floor_diameter_mm: mm(260.0), height_mm: mm(360.0) };
    assert_eq!(none.check().refusal().field, "rim_diameter_mm");
}

#[test]
fn between_marks_the_volume_is_linear() {
    let marks = Shape::Marks {
        marks: vec![Mark { height_mm: mm(100.0), litres: l(10.0) }, Mark { height_mm: mm(200.0), litres: l(30.0) }],
    };
    for (height, litres) in [(0.0, 0.0), (50.0, 5.0), (100.0, 10.0), (150.0, 20.0), (200.0, 30.0)] {
        assert!((marks.volume_at(mm(height)).unwrap().get() - litres).abs() < 1e-9, "{height} mm");
    }
}

#[test]
fn marks_that_fall_are_refused() {
    let marks = Shape::Marks {
        marks: vec![Mark { height_mm: mm(100.0), litres: l(10.0) }, Mark { height_mm: mm(150.0), litres: l(9.0) }],
    };
    assert!(marks.check().refusal().found.contains("mark 2"));
}

#[test]
fn above_the_rim_is_refused_with_the_rim() {
    let refusal = tapered().volume_at(mm(260.0)).refusal();
    assert!(refusal.allowed.contains("200 mm"), "{refusal:?}");
    let over = LevelReading::Volume { litres: l(300.0), pump_ran: true }.volume(&tub().reservoir, Litres::ZERO);
    assert!(over.refusal().allowed.contains("37.4 L"));
}

#[test]
fn with_the_pump_off_the_drain_back_is_taken_off() {
    let reservoir = boxed(500.0, 500.0, 400.0, [20.0, 80.0, 95.0]);
    let read =
        |pump_ran| LevelReading::Height { height_mm: mm(200.0), pump_ran }.volume(&reservoir, l(6.0)).unwrap().get();
    assert!((read(true) - 50.0).abs() < 1e-9);
    assert!((read(false) - 44.0).abs() < 1e-9);
}

#[test]
fn volumes_stand_in_order() {
    let good = tub().reservoir;
    assert!(good.check().is_ok());
    for (change, field) in
        [((30.0, 28.0, 34.0), "minimum"), ((8.0, 35.0, 34.0), "working"), ((8.0, 28.0, 90.0), "maximum")]
    {
        let wrong = Reservoir { minimum: l(change.0), working: l(change.1), maximum: l(change.2), ..good.clone() };
        assert_eq!(wrong.check().refusal().field, field);
    }
    assert!(Reservoir::suggested(tapered(), l(0.0)).check().is_ok());
}

fn limit(method: RefillMethod, now: f64, high: Option<f64>, days: Option<f64>) -> f64 {
    refill_limit(method, &tub().reservoir, l(now), high.map(l), days).litres.get()
}

#[test]
fn one_inch_of_the_52_by_36_tub_is_4_75_litres() {
    assert!((limit(RefillMethod::OneInch, 15.0, None, Some(9.0)) - 4.754_88).abs() < 1e-6);
    assert_eq!(limit(RefillMethod::OneInch, 15.0, None, Some(3.0)), 0.0, "rises stand seven days apart");
    assert!(
        (limit(RefillMethod::OneInch, 15.0, Some(18.0), Some(3.0)) - 3.0).abs() < 1e-9,
        "up to the line is no rise"
    );
    assert!((limit(RefillMethod::OneInch, 15.0, Some(18.0), Some(9.0)) - 3.0 - 4.754_88).abs() < 1e-6);
}

#[test]
fn hold_the_line_never_goes_above_the_last_three_days() {
    assert!((limit(RefillMethod::HoldTheLine, 15.0, Some(18.0), Some(1.0)) - 3.0).abs() < 1e-9);
    assert_eq!(limit(RefillMethod::HoldTheLine, 15.0, None, None), 0.0, "unknown levels are read cautiously");
}

#[test]
fn quarter_to_half_waits_for_the_quarter() {
    assert_eq!(limit(RefillMethod::QuarterToHalf, 12.0, None, None), 0.0);
    let full = 37.44;
    assert!((limit(RefillMethod::QuarterToHalf, 9.0, None, None) - (full / 2.0 - 9.0)).abs() < 1e-6);
}

#[test]
fn it_says_how_many_refills_a_wish_would_take() {
    assert_eq!(refills_needed(&tub().reservoir, l(10.0), l(24.0)).unwrap(), 3);
    assert!(refills_needed(&tub().reservoir, l(10.0), l(36.0)).is_err());
}

fn shapes() -> impl Strategy<Value = Shape> {
    let side = 120.0..900.0f64;
    prop_oneof![
        (side.clone(), side.clone(), side.clone()).prop_map(|(a, b, h)| Shape::Box {
            length_mm: mm(a),
            width_mm: mm(b),
            height_mm: mm(h)
        }),
        (side.clone(), side.clone()).prop_map(|(d, h)| Shape::Cylinder { diameter_mm: mm(d), height_mm: mm(h) }),
        (side.clone(), side.clone(), 0.5..1.5f64, side.clone()).prop_map(|(a, b, t, h)| Shape::Tapered {
            rim_length_mm: mm(a),
            rim_width_mm: mm(b),
            floor_length_mm: mm(a * t),
            floor_width_mm: mm(b * t),
            height_mm: mm(h)
        }),
        (20.0..200.0f64).prop_map(|v| Shape::Stated { litres: l(v) }),
    ]
}

proptest! {
    #[test]
    fn height_and_volume_are_each_others_inverse(shape in shapes(), part in 0.02..0.98f64) {
        let volume = l(shape.capacity().get() * part);
        if let Some(height) = shape.height_of(volume) {
            prop_assert!((shape.volume_at(height).unwrap().get() - volume.get()).abs() < 1e-6 * shape.capacity().get());
        }
    }

    #[test]
    fn no_limit_ever_lets_still_water_rise_by_more_than_an_inch(shape in shapes(), part in 0.0..1.0f64, high in proptest::option::of(0.0..1.0f64), days in proptest::option::of(0.0..30.0f64)) {
        let reservoir = Reservoir::suggested(shape, l(0.0));
        let now = l(reservoir.maximum.get() * part);
        let line = high.map_or(now, |high| l(high * reservoir.maximum.get()).max(now));
        let limit = refill_limit(RefillMethod::OneInch, &reservoir, now, Some(line), days);
        prop_assert!(limit.up_to <= reservoir.maximum.max(now));
        // But for the minimum, which comes first.
        let line = if now < reservoir.minimum { line.max(reservoir.minimum) } else { line };
        if let (Some(before), Some(after)) = (reservoir.shape.height_of(line), reservoir.shape.height_of(limit.up_to)) {
            prop_assert!(after.get() - before.get() <= 25.4 + 1e-6);
        }
    }

    #[test]
    fn held_lines_are_never_passed(part in 0.1..1.0f64, high in 0.1..1.0f64) {
        let reservoir = tub().reservoir;
        let (now, high) = (l(reservoir.maximum.get() * part), l(reservoir.maximum.get() * high));
        let limit = refill_limit(RefillMethod::HoldTheLine, &reservoir, now, Some(high), None);
        let least = if now < reservoir.minimum { reservoir.minimum } else { now };
        prop_assert!(limit.up_to <= high.max(least));
    }
}

/// A loop whose vessels were read one by one at a moment, and stood like this.
fn row(litres: &[f64]) -> Visit {
    let each = EachVessel { litres: litres.iter().map(|litres| l(*litres)).collect(), pump_ran: true };
    Visit { vessels: Some(each), ..Visit::default() }
}

#[test]
fn vessels_of_one_loop_read_one_by_one_are_one_water_and_a_clogged_pipe_shows() {
    let system = system(Kind::BucketChain);
    let mut garden = Garden::new(
        system,
        vec![planting("Aubergine", (1, 3), Stage::Vegetative)],
        &[visit("2027-03-09 08:00", row(&[20.0, 19.0, 18.5, 12.0]))],
        "2027-03-09 09:00",
    );
    assert!((garden.situation().water().litres().unwrap().value.get() - 69.5).abs() < 1e-6);
    let task = garden.tasks().into_iter().find(|task| task.name.starts_with("Clear the pipe")).unwrap();
    assert!(task.reason.contains("Vessel 4 holds 12.0 L, the fullest 20.0 L"), "{}", task.reason);
    assert!(task.adult && task.way.unwrap().part == Some("level"));
    // Read level again it is over; a level of the whole says nothing of the pipe.
    garden.log(visit("2027-03-09 08:30", level(70.0)));
    assert!(garden.tasks().iter().any(|task| task.name.starts_with("Clear the pipe")));
    garden.log(visit("2027-03-09 08:40", row(&[18.0, 17.5, 17.0, 17.0])));
    assert!(garden.tasks().iter().all(|task| !task.name.starts_with("Clear the pipe")));
}

#[test]
fn vessels_that_cannot_be_read_so_are_refused() {
    let refused =
        |visit: Visit, kind: Kind| Body::Visit(visit).check(&system(kind), &adult()).unwrap_err().said().found;
    assert_eq!(refused(row(&[20.0]), Kind::BucketChain), "found 1 vessels");
    assert_eq!(refused(row(&[5.0, 5.0]), Kind::StillWater), "found vessels read one by one, where no pump joins them");
    let both = Visit { level: level(70.0).level, ..row(&[20.0, 20.0]) };
    assert_eq!(refused(both, Kind::BucketChain), "found the level of the whole, and that of each vessel");
    let over = Body::Visit(row(&[60.0, 60.0])).check(&system(Kind::BucketChain), &adult()).unwrap_err();
    assert!(over.field.starts_with("vessels"), "{}", over.field);
}
