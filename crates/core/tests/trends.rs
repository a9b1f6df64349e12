//! The whole log as series: what was read, the estimate between, what was drunk and eaten, and where it goes.

use crate::common::{Garden, Said, level, planting, system, visit};
use jiff::Timestamp;
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, CaseLook, CaseOutcome, Change, Entry, TopOff, TopOffWater, Visit};
use mopsel_core::message::Message;
use mopsel_core::system::{Check, Kind};
use mopsel_core::trend::history::{Span, over};
use mopsel_core::trend::{DeedKind, Measured, Trend, deeds};

fn read(litres: f64, ph: f64, ec: f64) -> Visit {
    Visit {
        ph: Some(crate::common::ph(ph)),
        ec: Some(crate::common::ec(ec)),
        temperature: Some(crate::common::celsius(20.0)),
        ..level(litres)
    }
}

fn topped(litres: f64, added: f64) -> Visit {
    Visit { top_off: Some(TopOff { litres: crate::common::l(added), water: TopOffWater::Plain }), ..level(litres) }
}

fn all(log: &[Entry]) -> Vec<Trend<String>> {
    let garden = Garden::new(
        system(Kind::AeratedRaft),
        vec![planting("Dill", (1, 4), Stage::Vegetative)],
        log,
        "2027-03-09 09:00",
    );
    let span = Span { from: Timestamp::MIN, to: Timestamp::MAX };
    let said = |message: Message| message.said();
    over(log, &[], span, 500, &garden.situation()).into_iter().map(|one| one.map(&said)).collect()
}

fn of(log: &[Entry], quantity: Measured) -> Trend<String> {
    all(log).into_iter().find(|one| one.quantity == quantity).unwrap()
}

fn day(n: u32) -> String {
    format!("2027-0{}-{:02} 09:00", 2 + n / 28, 1 + n % 28)
}

#[test]
fn ph_that_climbs_since_the_change_is_told_by_the_week_and_from_there() {
    let mut log: Vec<Entry> = (0..10).map(|n| visit(&day(n), read(80.0, 6.8 - 0.1 * f64::from(n), 1.5))).collect();
    log.push(crate::common::entry(&day(10), Body::Change(Change::full(crate::common::l(90.0)))));
    log.extend((0..10).map(|n| visit(&day(11 + 2 * n), read(88.0, 5.7 + 0.1 * f64::from(n), 1.5))));
    let told = of(&log, Measured::Ph).told.unwrap();
    assert!(told.contains("has climbed about 0.4 a week since the change on Thu 11 Feb"), "{told}");
    assert!(told.contains("by 10 readings"), "{told}");
    // One reading that cannot be right does not turn it.
    log[15] = visit(&day(19), read(88.0, 9.9, 1.5));
    assert!(of(&log, Measured::Ph).told.unwrap().contains("has climbed about 0.4 a week"));
    assert!(
        of(&log, Measured::Ec).told.unwrap().contains("EC has held since the change"),
        "the same strength all along"
    );
}

#[test]
fn what_goes_up_and_down_is_not_told_to_hold() {
    let swing = |by: f64| -> String {
        let swung = |n: u32| visit(&day(2 * n), read(88.0, 6.0 + if n.is_multiple_of(2) { by } else { -by }, 1.5));
        of(&(0..12).map(swung).collect::<Vec<Entry>>(), Measured::Ph).told.unwrap()
    };
    assert_eq!(
        swing(0.6),
        "pH went up and down since Mon 1 Feb, within 5.4–6.6, and neither climbed nor fell over all of it."
    );
    assert!(swing(0.2).contains("pH has held since Mon 1 Feb, within 5.8–6.2"), "{}", swing(0.2));
}

#[test]
fn what_held_and_was_read_far_off_just_now_is_not_told_to_hold() {
    let kit = |low: f64| Visit { ph: Some(crate::common::kit(low, low + 0.5)), ..Visit::default() };
    let mut log: Vec<Entry> = (0..9).map(|n| visit(&day(3 * n), kit(6.0))).collect();
    assert!(of(&log, Measured::Ph).told.unwrap().contains("pH has held since Mon 1 Feb, within 6.0–6.5"));
    log.push(visit(&day(30), kit(7.0)));
    let told = of(&log, Measured::Ph).told.unwrap();
    assert_eq!(
        told,
        "pH had held since Mon 1 Feb, at 6.0–6.5; the last reading, 7.0–7.5 on Wed 3 Mar, is out of line."
    );
}

#[test]
fn two_readings_are_told_to_be_too_few() {
    let log = [visit(&day(0), read(80.0, 6.0, 1.5)), visit(&day(9), read(80.0, 7.0, 1.5))];
    let told = of(&log, Measured::Ph).told.unwrap();
    assert!(told.contains("2 readings since Mon 1 Feb, too few to say"), "{told}");
}

#[test]
fn what_was_drunk_is_reckoned_from_level_to_level_with_what_was_added_between() {
    let log = [
        visit(&day(0), topped(80.0, 10.0)),
        // 10 L on, without a reading of the level.
        visit(&day(2), Visit { level: None, ..topped(0.0, 10.0) }),
        visit(&day(5), level(85.0)),
        crate::common::entry(&day(6), Body::Change(Change::full(crate::common::l(92.0)))),
        visit(&day(8), level(88.0)),
    ];
    let drunk = of(&log, Measured::Drunk);
    let a_day: Vec<f64> = drunk.points.iter().map(|point| point.low).collect();
    assert_eq!(a_day.len(), 2);
    assert!((a_day[0] - 3.0).abs() < 1e-9, "(90 + 10 − 85) / 5: {a_day:?}");
    assert!((a_day[1] - 2.0).abs() < 1e-9, "(92 − 88) / 2: {a_day:?}");
    assert!(drunk.told.unwrap().contains("It uses about 2.5 L a day"));
}

#[test]
fn salt_that_is_gone_between_two_full_readings_was_eaten() {
    // 80 L at 1.5 are 120; six days later 70 L at 1.5 are 105: fifteen, or 9.6 g, in six days.
    let log = [visit(&day(0), read(80.0, 6.0, 1.5)), visit(&day(6), read(70.0, 6.0, 1.5))];
    let eaten = of(&log, Measured::Eaten);
    let middle = eaten.points[0].middle();
    assert!((middle - 15.0 * 0.64 / 6.0).abs() < 0.2, "{middle}");
    assert!(eaten.points[0].low < middle && middle < eaten.points[0].high, "with its range");
    // More stretches than are kept in the ledger are all drawn.
    let log: Vec<Entry> = (0..12).map(|n| visit(&day(3 * n), read(90.0 - 5.0 * f64::from(n), 6.0, 1.5))).collect();
    assert_eq!(of(&log, Measured::Eaten).points.len(), 11);
}

#[test]
fn the_estimate_goes_through_every_day_and_a_long_silence_is_a_gap() {
    let mut log: Vec<Entry> = (0..6).map(|n| visit(&day(2 * n), read(90.0 - 2.0 * f64::from(n), 6.0, 1.5))).collect();
    log.push(visit(&day(35), read(70.0, 6.1, 1.5)));
    let volume = of(&log, Measured::Volume);
    assert!(volume.estimate.len() >= 35, "{}", volume.estimate.len());
    assert!(volume.estimate.windows(2).all(|pair| pair[0].at <= pair[1].at));
    let wide = |point: &mopsel_core::trend::Point| point.high - point.low;
    let before = volume.estimate.iter().rev().find(|point| point.at < volume.points[6].at).unwrap();
    assert!(wide(before) > 2.0 * wide(&volume.estimate[0]), "it widens until the next reading");
    let gaps: Vec<bool> = volume.points.iter().map(|point| point.gap).collect();
    assert_eq!(gaps, [false, false, false, false, false, false, true]);
}

#[test]
fn a_reading_from_a_meter_out_of_date_is_marked_and_a_drop_kit_never_is() {
    let mut log = vec![visit("2027-01-01 09:00", crate::common::done(Check::Calibrate))];
    let kit = Visit { ph: Some(crate::common::kit(6.0, 6.5)), ..Visit::default() };
    log.push(visit("2027-01-20 09:00", read(80.0, 6.0, 1.5)));
    log.push(visit("2027-03-01 09:00", read(80.0, 6.0, 1.5)));
    log.push(visit("2027-03-02 09:00", kit));
    let stale = |log: &[Entry]| -> Vec<bool> { of(log, Measured::Ph).points.iter().map(|point| point.stale).collect() };
    assert_eq!(stale(&log), [false, true, false], "thirty days and fourteen of slack");
    assert_eq!(stale(&log[1..]), [false, false, false], "nobody ever wrote one down: nothing is known");
}

#[test]
fn a_case_is_marked_when_it_opens_and_opens_anew_only_after_it_was_gone() {
    let look = |when: &str, outcome: CaseOutcome| {
        let case = CaseLook { cause: "thrips".to_owned(), outcome, ports: None, learnt: None };
        visit(when, Visit { cases: vec![case], ..Visit::default() })
    };
    let log = [
        look(&day(0), CaseOutcome::Same),
        look(&day(3), CaseOutcome::Better),
        look(&day(6), CaseOutcome::Gone),
        visit(&day(7), topped(80.0, 5.0)),
        look(&day(9), CaseOutcome::Worse),
        visit(&day(10), crate::common::done(Check::WipeDown)),
    ];
    let kinds: Vec<DeedKind> = deeds(&log).iter().map(|deed| deed.what).collect();
    assert_eq!(kinds, [DeedKind::Case, DeedKind::TopOff, DeedKind::Case, DeedKind::Cleaning]);
}
