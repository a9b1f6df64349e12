//! Behind a float valve the level stands still: what was drunk is what the reservoir behind it lost.

use crate::common::{Garden, Refused, Said, at_the_bench, boxed, ec, entry, l, level, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::care::outlook::{Ahead, outlook};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Entry, Premix, PremixIn, Visit};
use mopsel_core::forecast::{drinks, minimum_reached, supply_takes};
use mopsel_core::quantity::Litres;
use mopsel_core::system::{Kind, System, Traits};

/// Eighty litres behind a valve with a drum of thirty.
fn chain() -> System {
    let plain = system(Kind::BucketChain);
    System {
        traits: Traits { top_off_reservoir: true, ..plain.traits },
        reservoir: boxed(500.0, 500.0, 400.0, [45.0, 80.0, 90.0]),
        ..plain
    }
}

fn drum(when: &str, litres: f64, strength: f64) -> Entry {
    entry(when, Body::Premix(Premix { ec: Some(ec(strength)), ..Premix::of(PremixIn::TopOffReservoir, l(litres)) }))
}

fn read(when: &str, litres: f64, left: f64, strength: f64) -> Entry {
    visit(when, Visit { supply: Some(l(left)), ec: Some(ec(strength)), ..level(litres) })
}

/// Five litres a day out of the drum, at the strength `uptake`, under a steady level.
fn steady(uptake: f64, poured: f64) -> Vec<Entry> {
    let mut log = vec![entry("2027-03-01 09:00", Body::Change(Change { ec: Some(ec(2.0)), ..Change::full(l(80.0)) }))];
    log.push(drum("2027-03-01 09:30", 30.0, poured));
    let mut strength = 2.0;
    for (day, left) in [(3, 20.0), (5, 10.0)] {
        strength += (poured - uptake) * 10.0 / 80.0;
        log.push(read(&format!("2027-03-{day:02} 09:30"), 80.0, left, strength));
    }
    log
}

fn tomato(log: &[Entry], now: &str) -> Garden {
    Garden::new(chain(), vec![planting("Tomato", (1, 4), Stage::Vegetative)], log, now)
}

#[test]
fn what_left_the_drum_is_what_was_drunk() {
    let garden = tomato(&steady(1.6, 2.2), "2027-03-05 10:00");
    let s = garden.situation();
    let a_day = drinks(&s).unwrap().a_day.get();
    assert!((a_day - 5.0).abs() < 0.05, "{a_day} L a day under a level that stands still");
    let task = garden.task("supply");
    assert_eq!(task.due_on.to_string(), "2027-03-06", "{}", task.reason);
    // Ten litres behind the valve and thirty-five over the minimum: nine days, not twenty-one and not two.
    let minimum = minimum_reached(&s).unwrap();
    assert_eq!(s.date(minimum.at).to_string(), "2027-03-14");
    let ahead = outlook(&s).into_iter().find(|one| one.of == Ahead::Level).unwrap().map(&|message| message.said());
    assert_eq!(ahead.leaves.unwrap().on.to_string(), "2027-03-14");
}

#[test]
fn the_strength_that_plants_take_up_is_learnt_of_what_flowed_in() {
    let garden = tomato(&steady(1.6, 2.2), "2027-03-05 10:00");
    let s = garden.situation();
    let taken = garden.known.lessons.ledger.takes_up(s.ec_target().unwrap().aim).unwrap();
    assert!((taken.value.get() - 1.6).abs() < 0.05, "{taken:?}");
    // A reading of the tank alone says nothing of it: nobody knows what flowed in since.
    let mut blind = steady(1.6, 2.2);
    blind.push(visit("2027-03-07 09:30", Visit { ec: Some(ec(2.2)), ..level(80.0) }));
    let after = tomato(&blind, "2027-03-07 10:00");
    assert_eq!(after.known.lessons.ledger.stretches.len(), garden.known.lessons.ledger.stretches.len());
}

#[test]
fn the_vessel_stands_still_while_the_drum_holds_and_falls_from_then_on() {
    let log = steady(1.6, 2.2);
    let stands = |now: &str| tomato(&log, now).situation().water().litres().unwrap().value.get();
    assert!((stands("2027-03-06 21:30") - 80.0).abs() < 0.5, "the drum holds until the seventh");
    assert!(
        (stands("2027-03-09 09:30") - 70.0).abs() < 0.6,
        "two days after it ran dry: {}",
        stands("2027-03-09 09:30")
    );
}

#[test]
fn a_drum_that_was_found_empty_is_the_first_thing_to_see_to_and_stays_due_since_then() {
    let mut log = steady(1.6, 2.2);
    log.push(visit("2027-03-07 09:30", Visit { supply: Some(l(0.0)), ..level(80.0) }));
    for now in ["2027-03-07 10:00", "2027-03-09 10:00"] {
        let garden = tomato(&log, now);
        let task = garden.task("supply");
        assert_eq!(task.due_on.to_string(), "2027-03-07", "on {now}: {}", task.reason);
        let a_day = drinks(&garden.situation()).unwrap().a_day.get();
        assert!((a_day - 5.0).abs() < 0.05, "running dry is no lesser thirst: {a_day}");
    }
    let garden = tomato(&log, "2027-03-09 10:00");
    let stands = garden.situation().water().litres().unwrap().value.get();
    assert!((stands - 70.0).abs() < 0.6, "{stands}");
    let first = &garden.tasks()[0];
    assert_eq!(first.code, "supply", "{first:?}");
}

#[test]
fn a_drum_that_was_only_ever_read_empty_is_to_be_filled_too() {
    let log = [visit("2027-03-07 09:30", Visit { supply: Some(l(0.0)), ..level(80.0) })];
    let task = tomato(&log, "2027-03-07 10:00").task("supply");
    assert_eq!(task.reason, "The top-off reservoir was empty today.");
    assert!(!task.safe_why.contains("no harm") && task.doing.contains("plain water"), "{task:?}");
}

#[test]
fn the_bench_fills_a_drum_with_what_it_takes_and_asks_where_nobody_ever_filled_it() {
    let ask = || Ask::new(Purpose::TopOffReservoir { litres: None });
    let garden = tomato(&steady(1.6, 2.2), "2027-03-05 10:00");
    let takes = supply_takes(&garden.situation()).unwrap();
    let plan = at_the_bench(&garden.situation(), &ask()).unwrap();
    let filled = if plan.batch > Litres::ZERO { plan.batch } else { plan.plain };
    assert!((filled - takes).size().get() < 1e-9 && takes > l(10.0), "the task, the kit and the bench say one figure");
    let log = [visit("2027-03-07 09:30", Visit { supply: Some(l(0.0)), ..level(80.0) })];
    let refusal = at_the_bench(&tomato(&log, "2027-03-07 10:00").situation(), &ask()).refusal();
    assert_eq!((refusal.code.as_ref(), refusal.field.as_str()), ("supply_size_unknown", "purpose.litres"));
}

#[test]
fn what_flows_in_turns_the_water_over() {
    let mut log = steady(1.6, 2.2);
    let before = tomato(&log, "2027-03-05 10:00").known.supply.fed_since_change();
    assert!((before.get() - 20.0).abs() < 1e-9);
    log.push(entry("2027-03-06 09:00", Body::Change(Change::full(l(80.0)))));
    assert!(tomato(&log, "2027-03-06 10:00").known.supply.fed_since_change().get() < 1e-9);
}
