//! Beside each other: what differs, by how much, and whether the data can carry it.

use crate::common::{Garden, Said, level, planting, system, visit};
use jiff::Timestamp;
use mopsel_core::compare::{Along, Compared, Row, Subject, rows, told};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Entry, Harvested, Visit};
use mopsel_core::quantity::{Grams, Name};
use mopsel_core::statistics::apart;
use mopsel_core::system::Kind;
use mopsel_core::trend::history::Span;
use proptest::prelude::*;
use uuid::Uuid;

fn row(values: &[f64]) -> Row {
    let along =
        |(n, value): (usize, &f64)| Along { day: n as f64, at: Timestamp::UNIX_EPOCH, low: *value, high: *value };
    let points: Vec<Along> = values.iter().enumerate().map(along).collect();
    let usual = mopsel_core::statistics::median(values);
    Row { values: points.len(), points, usual, low: None, high: None }
}

fn said(what: Compared, sides: &[(&str, &[f64])]) -> String {
    let all: Vec<(Name, Row)> = sides.iter().map(|(name, values)| (Name::new(name).unwrap(), row(values))).collect();
    let all: Vec<(Name, &Row)> = all.iter().map(|(name, row)| (name.clone(), row)).collect();
    told(what, &all).said()
}

#[test]
fn what_differs_is_told_with_by_how_much_and_whether_it_can_be_carried() {
    let (much, little) = ([2.0, 2.1, 2.2, 2.0, 2.1], [1.0, 1.1, 0.9, 1.0, 1.1]);
    assert_eq!(
        said(Compared::Drunk, &[("Tower", &much), ("Raft", &little)]),
        "Tower drinks most, 2.1 L a day; Raft least, 1.0 L a day. They are 1.1 L a day apart, most likely 0.90–1.2 L a day: more \
         than chance."
    );
    let wide = [0.4, 3.9, 1.0, 2.6, 2.0];
    assert!(said(Compared::Drunk, &[("Tower", &much), ("Raft", &wide)]).ends_with("it may be chance."));
    assert_eq!(
        said(Compared::Ph, &[("Tower", &[6.0; 5]), ("Raft", &[6.0; 5])]),
        "Tower and Raft stand alike, at about 6.0."
    );
}

#[test]
fn too_little_is_said_to_be_too_little() {
    let few = said(Compared::Ec, &[("Tower", &[1.5, 1.6, 1.5]), ("Raft", &[0.9, 0.8, 0.9, 0.9])]);
    assert!(few.ends_with("With 3 values on a side nothing more can be said; it takes 4."), "{few}");
    assert_eq!(
        said(Compared::Ec, &[("Tower", &[1.5]), ("Raft", &[])]),
        "Only of Tower was it read: there is nothing to hold it against."
    );
    assert_eq!(said(Compared::Ec, &[("Tower", &[])]), "Nothing of it was read.");
    let yields = said(Compared::Picked, &[("Basil", &[60.0, 150.0]), ("Dill", &[30.0])]);
    assert!(yields.contains("One run of each cannot tell the variety"), "{yields}");
}

#[test]
fn of_many_sides_the_furthest_apart_have_to_be_further_apart() {
    let (a, b): (Vec<f64>, Vec<f64>) = (1..=10).map(|n| (f64::from(n) + 5.0, f64::from(n) * 1.1)).unzip();
    let (by, two) = apart(&a, &b, 2).unwrap();
    let six = apart(&a, &b, 6).unwrap().1.unwrap();
    let two = two.unwrap();
    assert!((by - 4.5).abs() < 0.5);
    assert!(two.0 > 0.0 && six.0 < two.0 && six.1 > two.1, "{two:?} {six:?}");
    assert_eq!(apart(&a[..3], &b[..3], 6).unwrap().1, None, "three on a side cannot carry it");
}

proptest! {
    #[test]
    fn a_shift_is_found_whichever_way_it_is_looked_at(
        values in proptest::collection::vec(0.0..10.0f64, 4..30), by in 20.0..50.0f64
    ) {
        let moved: Vec<f64> = values.iter().map(|value| value + by).collect();
        let (up, range) = apart(&moved, &values, 2).unwrap();
        let (down, _) = apart(&values, &moved, 2).unwrap();
        prop_assert!((up - by).abs() < 1e-9 && (up + down).abs() < 1e-9);
        let (low, high) = range.unwrap();
        prop_assert!(low <= up && up <= high && low > 0.0);
    }
}

fn log() -> Vec<Entry> {
    let at = |day: i8| format!("2027-02-{day:02} 09:00");
    let mut log: Vec<Entry> = (1..=8).map(|n| visit(&at(n * 2), level(40.0 - f64::from(n)))).collect();
    let harvest = Harvested {
        planting: Uuid::from_u128(9),
        crop: Name::new("Dill").unwrap(),
        whole: false,
        grams: Grams::new(80.0).ok(),
        pieces: None,
    };
    log.push(visit(&at(17), Visit { harvests: vec![harvest], ..Visit::default() }));
    log
}

#[test]
fn a_planting_is_told_its_share_and_a_port_its_own() {
    let plantings = vec![planting("Dill", (1, 4), Stage::Vegetative), planting("Kale", (5, 8), Stage::Vegetative)];
    let garden = Garden::new(system(Kind::AeratedRaft), plantings, &log(), "2027-03-09 09:00");
    let s = garden.situation();
    let span = Span { from: crate::common::at("2027-02-01 00:00"), to: crate::common::at("2027-03-09 09:00") };
    let dill = garden.planted[0].now().ports.clone();
    let usual = |planting: bool, a_port: bool, what: Compared| {
        let planting = planting.then_some((Uuid::from_u128(9), &dill));
        let all = rows(&log(), &Subject { span, planting, a_port }, 200, &s);
        all.into_iter().find(|(quantity, _)| *quantity == what).unwrap().1.usual
    };
    let near = |found: Option<f64>, wanted: f64| assert!((found.unwrap() - wanted).abs() < 1e-6, "{found:?}");
    near(usual(false, false, Compared::Drunk), 0.5);
    near(usual(true, false, Compared::Drunk), 0.25);
    near(usual(false, true, Compared::Drunk), 0.5 / 8.0);
    near(usual(true, true, Compared::Drunk), 0.25 / 4.0);
    near(usual(true, false, Compared::Picked), 80.0);
    near(usual(true, true, Compared::Picked), 20.0);
    assert_eq!(usual(false, false, Compared::Ph), None);
}
