//! One drum behind the float valves of several systems: read once, and each knows its part.

use crate::common::{Garden, Refused, Said, adult, at_the_bench, boxed, ec, entry, l, level, planting, system, visit};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::care::outlook::{Ahead, outlook};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Entry, Premix, PremixIn, Visit};
use mopsel_core::forecast::{drinks, minimum_reached, supply_left, supply_takes};
use mopsel_core::projection::Known;
use mopsel_core::system::{Kind, Methods, System, TopOffMethod, Traits};
use uuid::Uuid;

const OWNER: Uuid = Uuid::from_u128(40);

/// Eighty litres behind a valve that takes three fifths of what its drum gives.
fn owner() -> System {
    let plain = system(Kind::BucketChain);
    System {
        traits: Traits { top_off_reservoir: true, ..plain.traits },
        reservoir: boxed(500.0, 500.0, 400.0, [45.0, 80.0, 90.0]),
        methods: Methods { top_off: TopOffMethod::Reservoir, ..plain.methods.clone() },
        drum_share: Some(0.6),
        ..plain
    }
}

/// The drum loses ten litres a day: six of them into the owner.
fn log() -> Vec<Entry> {
    let mut log = vec![
        entry("2027-03-01 09:00", Body::Change(Change { ec: Some(ec(1.6)), ..Change::full(l(80.0)) })),
        entry(
            "2027-03-01 09:30",
            Body::Premix(Premix { ec: Some(ec(1.8)), ..Premix::of(PremixIn::TopOffReservoir, l(100.0)) }),
        ),
    ];
    for (day, left) in [(3, 80.0), (5, 60.0)] {
        let read = Visit { supply: Some(l(left)), ec: Some(ec(1.6)), ..level(80.0) };
        log.push(visit(&format!("2027-03-{day:02} 09:30"), read));
    }
    log
}

fn tomato(system: System, log: &[Entry]) -> Garden {
    Garden::new(system, vec![planting("Tomato", (1, 4), Stage::Vegetative)], log, "2027-03-05 10:00")
}

#[test]
fn its_part_is_what_a_system_drinks_and_the_drum_is_told_whole() {
    let garden = tomato(owner(), &log());
    let s = garden.situation();
    let near = |found: f64, wanted: f64| assert!((found - wanted).abs() < 0.3, "{found} for {wanted}");
    near(drinks(&s).unwrap().a_day.get(), 6.0);
    near(supply_left(&s).get(), 60.0);
    near(supply_takes(&s).unwrap().get(), 40.0);
    let ahead = outlook(&s).into_iter().find(|one| one.of == Ahead::Supply).unwrap();
    near(ahead.points[0].value, 60.0);
    let said = ahead.said.said();
    assert!(said.contains("feeds 10.0 L a day"), "{said}");
    // What flowed in is six tenths of what it lost: at 1.8 under an EC that stands still, that is what is taken up.
    let taken = garden.known.lessons.ledger.takes_up(s.ec_target().unwrap().aim).unwrap();
    near(taken.value.get() * 10.0, 18.0);
    // What is mixed for it fills it whole.
    let plan = at_the_bench(&s, &Ask::new(Purpose::TopOffReservoir { litres: None })).unwrap();
    let Some(Body::Premix(premix)) = plan.entry else { panic!("no entry") };
    near(premix.litres.get(), 100.0);
}

#[test]
fn the_other_system_holds_as_long_as_the_drum_and_falls_by_its_own_part() {
    let at_owner = tomato(owner(), &log());
    let other = System { drum_share: Some(0.4), drum_of: Some(OWNER), ..owner() };
    let filled = [
        entry("2027-03-01 09:00", Body::Change(Change { ec: Some(ec(1.6)), ..Change::full(l(80.0)) })),
        visit("2027-03-05 09:00", level(80.0)),
    ];
    let mut garden = tomato(other, &filled);
    let known = std::mem::take(&mut garden.known);
    garden.known = known.fed_from(&at_owner.known, (&at_owner.system, &garden.system));
    let s = garden.situation();
    assert!((drinks(&s).unwrap().a_day.get() - 4.0).abs() < 0.2);
    // Six days behind the valve, then thirty-five litres at four a day.
    let minimum = minimum_reached(&s).unwrap();
    assert_eq!(s.date(minimum.at).to_string(), "2027-03-20");
    assert!(garden.tasks().iter().all(|task| task.code != "supply"), "it is filled where it belongs");
    assert_eq!(
        at_the_bench(&s, &Ask::new(Purpose::TopOffReservoir { litres: None })).refusal().found,
        "found a reading or filling of a top-off reservoir that belongs to another system"
    );
    assert!(garden.known.lessons.ledger.stretches.is_empty(), "what flowed in is never known here");
    assert!(garden.known.lessons.ready(&garden.system).is_none(), "nobody draws from it by hand here");
    assert!(at_owner.known.lessons.ready(&at_owner.system).is_some());
}

#[test]
fn it_is_read_and_filled_where_it_belongs() {
    let other = System { drum_share: Some(0.4), drum_of: Some(OWNER), ..owner() };
    let read = Body::Visit(Visit { supply: Some(l(20.0)), ..Visit::default() });
    assert_eq!(read.check(&other, &adult()).unwrap_err().code, "supply_elsewhere");
    let filled = Body::Premix(Premix::of(PremixIn::TopOffReservoir, l(20.0)));
    assert_eq!(filled.check(&other, &adult()).unwrap_err().code, "supply_elsewhere");
    assert!(read.check(&owner(), &adult()).is_ok());
    let without = System { drum_share: None, ..other.clone() };
    assert_eq!(without.check().unwrap_err().field, "drum_share");
    let too_much = System { drum_share: Some(1.2), ..owner() };
    assert_eq!(too_much.check().unwrap_err().code, "drum_share");
    assert!(other.check().is_ok());
}

#[test]
fn another_share_is_no_drinking() {
    let mut known = Known::default();
    let (before, after) = (owner(), System { drum_share: Some(0.3), ..owner() });
    log().iter().for_each(|entry| known.apply(entry, &before));
    let drunk = known.supply.fed_since_change();
    let read = Visit { supply: Some(l(50.0)), ec: Some(ec(1.6)), ..level(80.0) };
    known.apply(&visit("2027-03-06 09:30", read), &after);
    assert_eq!(known.supply.fed_since_change(), drunk, "what the part became smaller by was drunk by nobody");
    let a_day = known.supply.feeds().unwrap();
    assert!((a_day.a_day.get() - 6.0).abs() < 0.1, "{a_day:?}");
}
