//! Behind a float valve the level stands still: what was drunk is what the reservoir behind it lost.

use crate::common::{Garden, Refused, Said, at_the_bench, boxed, ec, entry, l, level, mm, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::care::outlook::{Ahead, outlook};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Entry, Premix, PremixIn, Running, Visit};
use mopsel_core::forecast::{drinks, holds_plain, minimum_reached, supply_takes};
use mopsel_core::projection::Known;
use mopsel_core::quantity::Litres;
use mopsel_core::reservoir::Shape;
use mopsel_core::system::{Kind, Methods, System, TopOffMethod, Traits};

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

fn behind(left: f64) -> Visit {
    Visit { supply: Some(l(left)), ..level(80.0) }
}

fn round_drum() -> Shape {
    Shape::Cylinder { diameter_mm: mm(300.0), height_mm: mm(500.0) }
}

/// Ten litres are left of thirty: what is mixed to them stands on top of them, at the strength of both, and drinking goes on
/// being learnt.
#[test]
fn what_is_mixed_onto_a_rest_stands_on_top_of_it() {
    let mut log = steady(1.6, 2.2);
    let garden = tomato(&log, "2027-03-05 10:00");
    let ask = Ask::new(Purpose::TopOffReservoir { litres: None });
    let plan = at_the_bench(&garden.situation(), &ask).unwrap();
    let Some(Body::Premix(premix)) = &plan.entry else { panic!("{:?}", plan.entry) };
    let fresh = premix.batch.as_ref().unwrap().fresh.get();
    assert!((fresh - 20.0).abs() < 0.3, "{fresh}");
    assert!((premix.litres.get() - 30.0).abs() < 0.3, "{:?}", premix.litres);
    log.push(entry("2027-03-05 10:30", plan.entry.clone().unwrap()));
    let twice = at_the_bench(&tomato(&log, "2027-03-05 10:31").situation(), &ask).refusal();
    assert!(twice.mend.starts_with("It is full."), "{}", twice.mend);
    let ready = tomato(&log, "2027-03-05 11:00").known.lessons.premixed.unwrap().value;
    let new = garden.known.lessons.ledger.takes_up(mopsel_core::quantity::Conductivity::new(2.4).unwrap()).unwrap();
    let (low, high) = (new.value.get().min(2.2), new.value.get().max(2.2));
    let ec = ready.ec.unwrap().get();
    assert!(low - 0.01 <= ec && ec <= high + 0.01, "{ec} between {low} and {high}");
    // Five litres a day later nothing was misread, and followed twice nothing overflows.
    log.push(visit("2027-03-07 10:30", behind(20.0)));
    let later = tomato(&log, "2027-03-07 11:00");
    assert!((drinks(&later.situation()).unwrap().a_day.get() - 5.0).abs() < 0.1);
    let again = at_the_bench(&later.situation(), &ask).unwrap();
    let Some(Body::Premix(again)) = &again.entry else { panic!("{:?}", again.entry) };
    assert!((again.litres.get() - 30.0).abs() < 0.5, "{:?}", again.litres);
}

#[test]
fn a_drum_of_known_size_is_read_by_its_height_and_never_holds_more() {
    let system = System { drum: Some(round_drum()), ..chain() };
    let read = |visit: Visit| Body::Visit(visit).check(&system, &crate::common::adult());
    let height = |mm_: f64| Visit { supply_height_mm: Some(mm(mm_)), ..level(80.0) };
    assert_eq!(read(height(200.0)), Ok(()));
    // 0.07069 m² × 200 mm.
    assert!((height(200.0).left_behind(&system).unwrap().get() - 14.137).abs() < 0.01);
    assert_eq!(read(height(600.0)).unwrap_err().field, "supply_height_mm");
    assert_eq!(read(behind(36.0)).unwrap_err().code, "supply_over_drum");
    assert_eq!(read(Visit { supply: Some(l(5.0)), ..height(100.0) }).unwrap_err().code, "supply_twice");
    let full = Premix::of(PremixIn::TopOffReservoir, l(40.0));
    assert_eq!(Body::Premix(full).check(&system, &crate::common::adult()).unwrap_err().code, "supply_over_drum");
    let unknown = Body::Visit(height(100.0)).check(&chain(), &crate::common::adult());
    assert_eq!(unknown.unwrap_err().code, "supply_without_size");
    // What it takes follows from its size: 35.3 L to the rim, a hand below that when full.
    let log = [visit("2027-03-05 09:00", height(100.0))];
    let garden = Garden::new(system, vec![planting("Tomato", (1, 4), Stage::Vegetative)], &log, "2027-03-05 10:00");
    let plan = at_the_bench(&garden.situation(), &Ask::new(Purpose::TopOffReservoir { litres: None })).unwrap();
    let Some(Body::Premix(premix)) = plan.entry else { panic!() };
    assert!(premix.litres.get() > 30.0 && premix.litres.get() <= 35.35, "{:?}", premix.litres);
    let over = Ask::new(Purpose::TopOffReservoir { litres: Some(l(34.0)) });
    assert_eq!(at_the_bench(&garden.situation(), &over).unwrap_err().code, "supply_over_drum");
}

#[test]
fn a_drum_where_no_valve_is_or_of_no_size_is_refused_at_set_up() {
    let still = System { drum: Some(round_drum()), ..crate::common::tub() };
    assert_eq!(still.check().unwrap_err().field, "drum");
    let flat = Shape::Cylinder { diameter_mm: mm(300.0), height_mm: mm(0.0) };
    let refused = System { drum: Some(flat), ..chain() }.check().unwrap_err();
    assert!(refused.field.starts_with("drum"), "{}", refused.field);
}

/// A tank far too strong is taken down with plain water once; the next filling is feed again, and the task says so too.
#[test]
fn plain_water_that_took_a_strong_tank_down_is_no_habit() {
    let mut log = steady(1.6, 2.2);
    log.push(visit("2027-03-07 09:00", Visit { ec: Some(ec(3.6)), ..behind(0.5) }));
    let mixed = |log: &[Entry], now: &str| {
        let methods = Methods { top_off: TopOffMethod::Reservoir, ..chain().methods };
        let plants = vec![planting("Tomato", (1, 4), Stage::Vegetative)];
        Garden::new(System { methods, ..chain() }, plants, log, now)
    };
    let ask = Ask::new(Purpose::TopOffReservoir { litres: None });
    let strong = mixed(&log, "2027-03-07 10:00");
    let plan = at_the_bench(&strong.situation(), &ask).unwrap();
    assert!(plan.doses.is_empty(), "{:?}", plan.answer);
    log.push(entry("2027-03-07 10:30", plan.entry.unwrap()));
    log.push(visit("2027-03-12 09:00", Visit { ec: Some(ec(2.3)), ..behind(2.0) }));
    let later = mixed(&log, "2027-03-12 10:00");
    assert!(!holds_plain(&later.situation()));
    let plan = at_the_bench(&later.situation(), &ask).unwrap();
    assert!(!plan.doses.is_empty(), "{}", plan.answer.said());
}

/// A drum of so many litres to the rim.
fn of_size(holds: f64) -> System {
    System { drum: Some(Shape::Stated { litres: l(holds) }), ..chain() }
}

#[test]
fn a_drum_that_is_put_in_the_place_of_another_was_not_drunk() {
    let mut known = Known::default();
    let (large, small) = (of_size(60.0), of_size(25.0));
    known.apply(&drum("2027-03-01 09:30", 50.0, 2.0), &large);
    known.apply(&read("2027-03-03 09:30", 80.0, 40.0, 2.0), &large);
    known.apply(&read("2027-03-05 09:30", 80.0, 20.0, 2.0), &small);
    let a_day = known.supply.feeds().unwrap();
    assert!((a_day.a_day.get() - 5.0).abs() < 1e-6 && a_day.intervals == 1, "{a_day:?}");
    assert!((known.supply.fed_since_change().get() - 10.0).abs() < 1e-6, "the twenty of the swap were carried away");
    assert_eq!(known.lessons.ledger.stretches.len(), 0, "nobody knows what flowed in over the swap");
    assert!((known.supply.full(&small).unwrap().get() - 23.75).abs() < 1e-6, "full is what the new one holds");
}

#[test]
fn a_stuck_valve_stays_until_it_is_seen_to_run_free() {
    let looked = |free| {
        let running = Some(Running { valve_right: Some(free), ..Running::default() });
        Visit { running, ..Visit::default() }
    };
    let mut garden = tomato(&steady(1.6, 2.2), "2027-03-05 10:00");
    garden.log(visit("2027-03-05 09:40", looked(false)));
    let task = garden.task("running");
    assert_eq!(task.name, "See to it: a stuck or clogged float valve");
    assert!(task.doing.contains("rinse inlet and outlet"), "{}", task.doing);
    garden.log(visit("2027-03-05 09:50", looked(true)));
    assert!(garden.tasks().iter().all(|task| task.code != "running"));
    let none = Body::Visit(looked(true)).check(&system(Kind::BucketChain), &crate::common::adult());
    assert_eq!(none.unwrap_err().code, "part_not_here");
}

#[test]
fn a_drum_that_was_read_once_is_not_said_to_be_full() {
    let log = [read("2027-03-04 09:00", 80.0, 4.0, 1.6)];
    let garden = tomato(&log, "2027-03-05 10:00");
    let ask = Ask::new(Purpose::TopOffReservoir { litres: None });
    let refused = at_the_bench(&garden.situation(), &ask).refusal();
    assert!(!refused.mend.contains("It is full"), "{}", refused.mend);
    let wanted = Ask::new(Purpose::TopOffReservoir { litres: Some(l(20.0)) });
    assert!(at_the_bench(&garden.situation(), &wanted).is_ok());
}

#[test]
fn a_drum_that_stands_as_full_as_it_once_was_read_is_not_full_where_it_held_more() {
    let mut log = vec![drum("2027-03-01 09:30", 60.0, 1.8)];
    for (day, left) in [(3, 30.0), (5, 0.0), (6, 4.0)] {
        log.push(read(&format!("2027-03-{day:02} 09:30"), 80.0, left, 1.6));
    }
    let garden = tomato(&log, "2027-03-06 10:00");
    let refused = at_the_bench(&garden.situation(), &Ask::new(Purpose::TopOffReservoir { litres: None })).refusal();
    assert!(refused.mend.starts_with("Type how much you fill it with"), "{}", refused.mend);
}
