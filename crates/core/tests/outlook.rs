//! What comes if nothing is added, and what is left in the top-off reservoir.

use crate::common::{Garden, Refused, Said, level, planting, system, visit};
use jiff::civil::date;
use mopsel_core::care::outlook::{Ahead, Outlook, outlook};
use mopsel_core::care::routine;
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Entry, Premix, PremixIn, Visit};
use mopsel_core::system::{Check, Kind, System, Traits};
use proptest::prelude::*;

fn of(garden: &Garden, what: Ahead) -> Outlook<String> {
    let all = outlook(&garden.situation());
    let said = |message: mopsel_core::message::Message| message.said();
    all.into_iter().find(|one| one.of == what).unwrap_or_else(|| panic!("nothing of {what:?}")).map(&said)
}

fn read(litres: f64, ph: f64, ec: f64) -> Visit {
    Visit {
        ph: Some(crate::common::ph(ph)),
        ec: Some(crate::common::ec(ec)),
        temperature: Some(crate::common::celsius(20.0)),
        ..level(litres)
    }
}

fn drum() -> System {
    let bare = system(Kind::AeratedRaft);
    System { traits: Traits { top_off_reservoir: true, ..bare.traits }, ..bare }
}

fn left(litres: f64) -> Visit {
    Visit { supply: Some(crate::common::l(litres)), ..Visit::default() }
}

fn premixed(when: &str, litres: f64) -> Entry {
    crate::common::entry(when, Body::Premix(Premix::of(PremixIn::TopOffReservoir, crate::common::l(litres))))
}

/// 3.2 L a day, 20 L left, harvest in nine days: it runs dry on the sixth, 8.8 L short.
#[test]
fn a_drum_that_does_not_last_until_the_harvest_is_told_in_time() {
    let log = [premixed("2027-03-02 09:00", 39.2), visit("2027-03-08 09:00", left(20.0))];
    let dill = planting("Dill", (1, 4), Stage::Vegetative);
    let mut garden = Garden::new(drum(), vec![dill], &log, "2027-03-08 09:00");
    let planted =
        mopsel_core::calendar::add_days(date(2027, 3, 17), -i64::from(garden.plantings[0].facts().unwrap().days));
    garden.plantings[0].planted_on = planted;
    garden.planted = vec![mopsel_core::fact::Timeline::always(garden.plantings[0].clone())];
    let harvest = routine::due(Check::Harvest, &garden.situation()).unwrap().on;
    assert_eq!(harvest, date(2027, 3, 17));
    let told = of(&garden, Ahead::Supply);
    let leaves = told.leaves.unwrap();
    assert_eq!((leaves.on, leaves.earliest < leaves.on), (date(2027, 3, 14), true), "6.25 days");
    assert!(told.said.contains("holds about 20.0 L and feeds 3.2 L a day"), "{}", told.said);
    assert!(told.said.contains("Until the harvest Wed 17 Mar it takes 8.8 L more."), "{}", told.said);
    assert!(told.sure.contains("one interval only, so the range is wide"), "{}", told.sure);
    // The task stands a fifth of the time before, and leads to the bench.
    let task = garden.task("supply");
    assert_eq!((task.due_on, task.adult), (date(2027, 3, 13), true));
    assert_eq!(task.way.unwrap().part, Some("top_off_reservoir"));
    // Filled again, it lasts.
    garden.log(premixed("2027-03-08 09:30", 45.0));
    let told = of(&garden, Ahead::Supply);
    assert!(told.said.ends_with("It lasts until the harvest Wed 17 Mar."), "{}", told.said);
    assert!(!garden.tasks().iter().any(|task| task.code == "supply"));
    // Nobody looks for a month: it ran dry, and the task says so.
    garden.now = crate::common::at("2027-04-08 09:00").to_zoned(crate::common::zone());
    assert!(garden.task("supply").reason.contains("At that rate it ran dry"), "{}", garden.task("supply").reason);
}

#[test]
fn a_drum_that_was_read_once_says_what_is_missing_and_one_misread_filling_does_not_move_it_far() {
    let garden = |log: &[Entry]| Garden::new(drum(), vec![], log, "2027-03-20 09:00");
    assert!(
        of(&garden(&[crate::common::noted("2027-03-01 09:00")]), Ahead::Supply).said.starts_with("Nobody has said yet")
    );
    assert!(of(&garden(&[premixed("2027-03-10 09:00", 40.0)]), Ahead::Supply).said.starts_with("Read once"));
    let mut log = vec![premixed("2027-03-01 09:00", 60.0)];
    log.extend((2..=19).map(|n| visit(&format!("2027-03-{n:02} 09:00"), left(60.0 - 3.0 * f64::from(n - 1)))));
    let steady = of(&garden(&log), Ahead::Supply).leaves.unwrap();
    log[15] = visit("2027-03-16 09:00", left(25.0));
    let misread = of(&garden(&log), Ahead::Supply).leaves.unwrap();
    assert!((misread.on - steady.on).get_days().abs() <= 1, "{steady:?} {misread:?}");
    let bare = system(Kind::AeratedRaft);
    let refused = Body::Visit(left(10.0)).check(&bare, &crate::common::adult()).refusal();
    assert_eq!((refused.code.as_str(), refused.field.as_str()), ("supply_not_here", "supply"));
    assert_eq!(Body::Visit(left(9000.0)).check(&drum(), &crate::common::adult()).refusal().code, "supply_amount");
}

/// Five litres a day from eighty, with EC and pH that move with it.
fn drinking(days: u32) -> Vec<Entry> {
    (0..days)
        .map(|n| {
            let (day, gone) = (n + 1, f64::from(n) * 5.0);
            visit(&format!("2027-03-{day:02} 09:00"), read(85.0 - gone, 5.8 + 0.05 * f64::from(n), 1.4))
        })
        .collect()
}

#[test]
fn what_was_never_read_is_not_said_to_hold() {
    let fresh = crate::common::entry("2027-03-01 09:00", Body::Change(Change::full(crate::common::l(85.0))));
    let plants = vec![planting("Dill", (1, 8), Stage::Vegetative)];
    let garden = Garden::new(system(Kind::AeratedRaft), plants, &[fresh], "2027-03-02 09:00");
    let acidity = of(&garden, Ahead::Ph);
    assert!(
        acidity.said.starts_with("The pH of this water has not been measured") && acidity.points.is_empty(),
        "{}",
        acidity.said
    );
}

#[test]
fn the_day_on_which_the_level_and_the_ph_leave_their_bands_is_told_with_a_range_that_widens() {
    let garden = Garden::new(
        system(Kind::AeratedRaft),
        vec![planting("Dill", (1, 8), Stage::Vegetative)],
        &drinking(6),
        "2027-03-06 09:00",
    );
    let level = of(&garden, Ahead::Level);
    // From 60 L to the minimum of 40 L at 5 L a day: four days, and the fifth day is below.
    let leaves = level.leaves.unwrap();
    assert!((date(2027, 3, 10)..=date(2027, 3, 11)).contains(&leaves.on), "{leaves:?}");
    assert!(leaves.earliest < leaves.on && leaves.latest.unwrap() > leaves.on, "{leaves:?}");
    let widths: Vec<f64> = level.points.iter().map(|point| point.high - point.low).collect();
    assert!(widths.windows(2).take(3).all(|pair| pair[1] > pair[0]), "{widths:?}");
    assert!(level.said.starts_with("Reaches its minimum of 40.0 L") && level.said.contains(" to "), "{}", level.said);
    assert_eq!(level.sure, "From 5 intervals between two levels.");
    let acidity = of(&garden, Ahead::Ph);
    assert!(acidity.sure.contains("climbs by 0.05 a day"), "{}", acidity.sure);
    // Its middle stays inside until water is added; its range does not, and that it stays is not said.
    assert!(acidity.leaves.is_none() && acidity.said.contains("may leave its band"), "{}", acidity.said);
    let ec = of(&garden, Ahead::Ec);
    assert!(ec.points.len() < 7, "no further than to the minimum: {}", ec.points.len());
}

#[test]
fn where_little_is_known_it_is_said_and_nothing_is_made_up() {
    let garden = |log: &[Entry]| {
        Garden::new(
            system(Kind::AeratedRaft),
            vec![planting("Dill", (1, 8), Stage::Vegetative)],
            log,
            "2027-03-08 09:00",
        )
    };
    let once = garden(&[visit("2027-03-07 09:00", read(80.0, 6.0, 1.4))]);
    let level = of(&once, Ahead::Level);
    assert!(level.points.is_empty() && level.said.contains("not known yet"), "{}", level.said);
    assert!(of(&once, Ahead::Ec).sure.contains("not known yet, so the range is wide"));
    let bare = garden(&[crate::common::noted("2027-03-01 09:00")]);
    assert!(outlook(&bare.situation()).is_empty());
    let low = garden(&[visit("2027-03-06 09:00", level_of(60.0)), visit("2027-03-07 09:00", level_of(38.0))]);
    assert_eq!(of(&low, Ahead::Level).said, "Stands at its minimum of 40.0 L, or below it.");
}

fn level_of(litres: f64) -> Visit {
    level(litres)
}

proptest! {
    /// One wrong reading, or a day that was skipped, moves the day on which the level reaches its minimum by a day at most.
    #[test]
    fn one_wrong_level_or_a_skipped_day_moves_the_forecast_by_a_day_at_most(wrong in 1usize..7, off in -12.0f64..12.0, skip in 1usize..7) {
        let garden = |log: &[Entry]| Garden::new(system(Kind::AeratedRaft), vec![], log, "2027-03-08 09:00");
        let log = drinking(8);
        let truth = of(&garden(&log), Ahead::Level).leaves.unwrap().on;
        let mut misread = log.clone();
        misread[wrong] = visit(&format!("2027-03-{:02} 09:00", wrong + 1), level(85.0 - wrong as f64 * 5.0 + off));
        let moved = of(&garden(&misread), Ahead::Level).leaves.unwrap().on;
        prop_assert!((moved - truth).get_days().abs() <= 1, "{truth} {moved}");
        let mut skipped = log;
        skipped.remove(skip);
        let moved = of(&garden(&skipped), Ahead::Level).leaves.unwrap().on;
        prop_assert!((moved - truth).get_days().abs() <= 1, "{truth} {moved}");
    }

    /// Nothing that is told lies outside of its own range, and no day is told in the wrong order.
    #[test]
    fn what_is_told_lies_within_its_range(start in 45.0f64..95.0, a_day in 0.0f64..9.0, ph in 5.2f64..6.9, ec in 0.6f64..2.4, days in 2u32..9) {
        let log: Vec<Entry> = (0..days).map(|n| {
            let litres = (start - a_day * f64::from(n)).max(1.0);
            visit(&format!("2027-03-{:02} 09:00", n + 1), read(litres, ph, ec))
        }).collect();
        let garden = Garden::new(system(Kind::AeratedRaft), vec![planting("Dill", (1, 8), Stage::Vegetative)], &log, &format!("2027-03-{days:02} 12:00"));
        for one in outlook(&garden.situation()) {
            for point in &one.points {
                prop_assert!(point.low <= point.value + 1e-9 && point.value <= point.high + 1e-9 && point.low.is_finite(), "{one:?}");
            }
            if let Some(leaves) = one.leaves {
                prop_assert!(leaves.earliest <= leaves.on && leaves.latest.is_none_or(|latest| leaves.on <= latest), "{leaves:?}");
            }
        }
    }
}

#[test]
fn what_stands_ready_behind_the_float_valve_is_what_was_last_read_there() {
    let mut garden = Garden::new(drum(), vec![], &[premixed("2027-03-02 09:00", 40.0)], "2027-03-08 09:00");
    let ready = |garden: &Garden| garden.known.lessons.premixed.map(|ready| ready.value.litres.get());
    assert_eq!(ready(&garden), Some(40.0));
    garden.log(visit("2027-03-08 08:00", left(0.0)));
    assert_eq!(ready(&garden), Some(0.0), "it stood empty, and nothing is topped off from it");
}

#[test]
fn after_a_silence_a_level_is_likely_and_is_read_first() {
    let garden = Garden::new(system(Kind::AeratedRaft), vec![], &drinking(6), "2027-04-10 09:00");
    assert!(of(&garden, Ahead::Level).said.starts_with("By now it is likely at its minimum"));
}
