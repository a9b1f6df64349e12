//! A logger's day comes to what a person would have written down, and judges as that does.

use crate::common::{Garden, at, entry, level, planting, system, visit};
use jiff::{SignedDuration, Timestamp};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Entry, Sensed, Stirred, Visit, condensed};
use mopsel_core::projection::Known;
use mopsel_core::quantity::{Conductivity, Ph};
use mopsel_core::system::{Check, Kind};
use mopsel_core::trend::Measured;
use mopsel_core::trend::history::{Span, over};
use proptest::prelude::*;
use uuid::Uuid;

fn reading(at: Timestamp, ph: f64, ec: f64, temperature: f64) -> Sensed {
    Sensed {
        ph: Ph::new(ph).ok(),
        ec: Conductivity::new(ec).ok(),
        temperature: Some(crate::common::celsius(temperature)),
        ..Sensed::nothing(at)
    }
}

fn minutes(from: &str, n: i64) -> Timestamp {
    at(from) + SignedDuration::from_mins(n)
}

fn as_entry(read: Sensed) -> Entry {
    Entry { id: Uuid::from_u128(7), at: read.at, by: Uuid::nil(), body: Body::Sensed(read), amends: None, reason: None }
}

#[test]
fn a_day_is_what_stood_last_and_how_warm_it_got() {
    let warm = |n: i64| if (120..=180).contains(&n) { 26.0 } else { 20.0 };
    let day: Vec<Sensed> = (0..100)
        .map(|n| reading(minutes("2027-03-08 08:00", n * 5), 6.0 + n as f64 * 0.002, 1.5, warm(n * 5)))
        .collect();
    let came = condensed(&day, Stirred::NEVER);
    assert_eq!(came.len(), 2);
    assert_eq!((came[0].temperature.unwrap().get(), came[0].ph), (26.0, None));
    let last = came[1];
    assert_eq!(last.at, day[99].at);
    assert!((last.ph.unwrap().get() - 6.195).abs() < 0.003);
    assert_eq!((last.ec.unwrap().get(), last.temperature.unwrap().get()), (1.5, 20.0));
}

#[test]
fn advice_that_was_followed_is_not_given_again_by_water_that_is_no_more() {
    let poured = minutes("2027-03-08 08:00", 300);
    let value = |n: i64| if n * 5 < 300 { 7.4 } else { 6.0 };
    let day = |until: i64| -> Vec<Sensed> {
        (0..=until / 5).map(|n| reading(minutes("2027-03-08 08:00", n * 5), value(n), 1.5, 20.0)).collect()
    };
    let at = [poured];
    let stirred = Stirred { at: &at, settles: SignedDuration::from_mins(20) };
    let last = |until: i64| *condensed(&day(until), stirred).last().unwrap();
    // A quarter of an hour before it, and five minutes after it: what stood there before, as of before.
    assert_eq!((last(295).ph.unwrap().get(), last(295).at), (7.4, minutes("2027-03-08 08:00", 295)));
    assert_eq!(last(305), last(295), "while it mixes nothing is said");
    // Mixed, it is what stands there now, and nothing of before.
    assert_eq!((last(320).ph.unwrap().get(), last(320).at), (6.0, minutes("2027-03-08 08:00", 320)));
}

#[test]
fn what_pours_stirs_and_what_looks_does_not() {
    let topped = |litres: f64| {
        let water = mopsel_core::fact::TopOffWater::Plain;
        Visit {
            top_off: Some(mopsel_core::fact::TopOff { litres: crate::common::l(litres), water }),
            ..Visit::default()
        }
    };
    assert!(Body::Visit(topped(2.0)).stirs() && Body::Change(Change::full(crate::common::l(20.0))).stirs());
    assert!(!Body::Visit(level(20.0)).stirs() && !Body::Withdrawn {}.stirs());
}

#[test]
fn one_spike_and_what_was_before_the_last_pour_count_for_nothing() {
    let value = |n: i64| match n {
        // Poured half an hour before the end.
        n if n < 94 => 7.4,
        98 => 13.0,
        _ => 6.0,
    };
    let day: Vec<Sensed> = (0..100).map(|n| reading(minutes("2027-03-08 08:00", n * 5), value(n), 1.5, 20.0)).collect();
    assert_eq!(condensed(&day, Stirred::NEVER).last().unwrap().ph.unwrap().get(), 6.0);
}

#[test]
fn quantities_that_end_at_other_times_keep_their_own() {
    let day = [
        Sensed { ph: Ph::new(6.0).ok(), ..Sensed::nothing(at("2027-03-08 08:00")) },
        Sensed { ec: Conductivity::new(1.5).ok(), ..Sensed::nothing(at("2027-03-08 16:00")) },
    ];
    let came = condensed(&day, Stirred::NEVER);
    assert_eq!(came, day);
    assert_eq!(condensed(&[], Stirred::NEVER), []);
}

proptest! {
    #[test]
    fn nothing_that_was_read_before_a_pour_stands_after_it(
        poured in 0i64..1440, settles in 0i64..60, step in 1i64..30
    ) {
        let pour = minutes("2027-03-08 00:00", poured);
        let value = |at: Timestamp| if at < pour { 5.0 } else { 6.0 };
        let times = (0..1440 / step).map(|n| minutes("2027-03-08 00:00", n * step));
        let day: Vec<Sensed> = times.map(|at| reading(at, value(at), 1.5, 20.0)).collect();
        let at = [pour];
        for one in condensed(&day, Stirred { at: &at, settles: SignedDuration::from_mins(settles) }) {
            if let Some(ph) = one.ph {
                prop_assert_eq!(ph.get(), value(one.at));
            }
        }
    }

    #[test]
    fn what_a_day_comes_to_lies_within_what_was_read(
        values in proptest::collection::vec((0i64..1440, 4.0..9.0f64, 0.2..4.0f64, 10.0..30.0f64), 1..200)
    ) {
        let mut day: Vec<Sensed> =
            values.iter().map(|(n, ph, ec, t)| reading(minutes("2027-03-08 00:00", *n), *ph, *ec, *t)).collect();
        day.sort_by_key(|one| one.at);
        let came = condensed(&day, Stirred::NEVER);
        prop_assert!(!came.is_empty() && came.len() <= 2);
        let reach = |of: &dyn Fn(&Sensed) -> Option<f64>| {
            let all: Vec<f64> = day.iter().filter_map(of).collect();
            (all.iter().copied().fold(f64::MAX, f64::min), all.iter().copied().fold(f64::MIN, f64::max))
        };
        for one in &came {
            prop_assert!(day.iter().any(|read| read.at == one.at));
            for of in [
                &(|s: &Sensed| s.ph.map(Ph::get)) as &dyn Fn(&Sensed) -> Option<f64>,
                &|s: &Sensed| s.ec.map(Conductivity::get),
                &|s: &Sensed| s.temperature.map(|t| t.get()),
            ] {
                let (low, high) = reach(of);
                if let Some(value) = of(one) {
                    prop_assert!((low..=high).contains(&value));
                }
            }
        }
        prop_assert_eq!(came.last().unwrap().at, day.last().unwrap().at);
    }
}

#[test]
fn a_logger_measures_and_looks_at_nothing() {
    let raft = system(Kind::AeratedRaft);
    let mut read = reading(at("2027-03-08 20:00"), 6.1, 1.5, 20.0);
    read.litres = Some(crate::common::l(20.0));
    let log = [noted_visit(), as_entry(read)];
    let known = crate::common::known(&log, &raft);
    let done = &known.done;
    assert_eq!(done.of(Check::Readings), Some(read.at));
    assert_eq!(done.of(Check::Level), Some(read.at));
    assert_eq!(done.of(Check::LookIn), Some(at("2027-03-07 08:00")), "nobody was there");
    assert_eq!(done.entries, 1);
    assert_eq!(known.readings.ph.unwrap().at, read.at);
    assert_eq!(known.water.ec().unwrap().value.get(), 1.5);
}

fn noted_visit() -> Entry {
    visit("2027-03-07 08:00", Visit { all_fine: true, ..Visit::default() })
}

#[test]
fn it_is_judged_as_a_reading_by_hand_is() {
    let raft = system(Kind::AeratedRaft);
    let by_hand = Visit {
        ph: Some(crate::common::ph(7.4)),
        ec: Some(crate::common::ec(1.5)),
        temperature: Some(crate::common::celsius(20.0)),
        ..Visit::default()
    };
    let full = entry("2027-03-07 08:00", Body::Change(Change::full(crate::common::l(20.0))));
    let hand: Known = crate::common::known(&[full.clone(), visit("2027-03-08 20:00", by_hand)], &raft);
    let logger: Known = crate::common::known(&[full, as_entry(reading(at("2027-03-08 20:00"), 7.4, 1.5, 20.0))], &raft);
    assert_eq!(hand.water, logger.water);
    assert_eq!(hand.readings.ph_since, logger.readings.ph_since);
    assert_eq!(hand.tank, logger.tank);
}

#[test]
fn each_reading_is_drawn_once_and_a_silent_quarter_of_a_day_is_a_gap() {
    let sensed: Vec<Sensed> = (0..200)
        .filter(|n| !(50..130).contains(n))
        .map(|n| reading(minutes("2027-03-08 00:00", n * 5), 6.0, 1.5, 20.0))
        .collect();
    let mut log = vec![visit("2027-03-07 08:00", Visit { ph: Some(crate::common::ph(6.2)), ..level(20.0) })];
    log.extend(condensed(&sensed, Stirred::NEVER).into_iter().map(as_entry));
    let garden = Garden::new(
        system(Kind::AeratedRaft),
        vec![planting("Dill", (1, 4), Stage::Vegetative)],
        &log,
        "2027-03-09 09:00",
    );
    let span = Span { from: Timestamp::MIN, to: Timestamp::MAX };
    let drawn = over(&log, &sensed, span, 5000, &garden.situation());
    let ph = drawn.iter().find(|trend| trend.quantity == Measured::Ph).unwrap();
    assert_eq!((ph.readings, ph.points.len()), (121, 121));
    let gaps: Vec<Timestamp> = ph.points.iter().filter(|point| point.gap).map(|point| point.at).collect();
    assert_eq!(gaps, [minutes("2027-03-08 00:00", 0), minutes("2027-03-08 00:00", 650)]);
}
