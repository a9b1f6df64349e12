//! Pumps, stones and probes: serviced on their day, replaced before they fail, and what their failing costs.

use crate::common::{Garden, adult, child, planting, system, visit};
use jiff::civil::{Date, date};
use mopsel_core::care::Task;
use mopsel_core::care::equipment::lines;
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Visit};
use mopsel_core::system::{Equipment, EquipmentKind, Kind, Serviced, System, equipment};
use uuid::Uuid;

const PUMP: Uuid = Uuid::from_u128(7);

fn piece(what: EquipmentKind, since: Date) -> Equipment {
    Equipment { id: PUMP, what, name: None, since: Some(since), spare: None, service_days: None }
}

fn garden(kind: Kind, one: Equipment, log: &[mopsel_core::fact::Entry]) -> Garden {
    let log = [&[crate::common::noted("2024-01-02 09:00")], log].concat();
    let system = System { equipment: vec![one], since: date(2024, 1, 1), ..system(kind) };
    Garden::new(system, vec![planting("Kale", (1, 4), Stage::Vegetative)], &log, "2027-03-09 09:00")
}

fn of_it(garden: &Garden) -> Task<String> {
    garden.task(&format!("equipment.{PUMP}"))
}

fn done(when: &str, replaced: bool) -> mopsel_core::fact::Entry {
    let serviced = vec![Serviced { equipment: PUMP, what: EquipmentKind::WaterPump, replaced }];
    visit(when, Visit { serviced, ..Visit::default() })
}

#[test]
fn a_pump_is_serviced_every_ninety_days_and_replaced_after_three_years() {
    let rails = |since: Date, log: &[_]| garden(Kind::FilmChannel, piece(EquipmentKind::WaterPump, since), log);
    let fresh = of_it(&rails(date(2027, 1, 10), &[]));
    assert_eq!((fresh.due_on, fresh.name.as_str()), (date(2027, 4, 10), "Service: Water pump"));
    assert!(
        fresh.reason.contains("every 90 days") && fresh.reason.contains("roots here last about 2 hours"),
        "{fresh:?}"
    );
    assert!(fresh.adult && fresh.one_tap && !fresh.movable);
    let tap = fresh.sound.unwrap();
    assert_eq!((tap.serviced[0].equipment, tap.serviced[0].replaced), (PUMP, false), "what the tap says");

    let serviced = of_it(&rails(date(2026, 6, 1), &[done("2027-03-01 09:00", false)]));
    assert_eq!(serviced.due_on, date(2027, 5, 30));
    assert!(serviced.reason.contains("Last serviced Mon 1 Mar"), "{}", serviced.reason);

    let old = of_it(&rails(date(2024, 3, 1), &[done("2027-02-20 09:00", false)]));
    assert_eq!((old.due_on, old.name.as_str()), (date(2027, 3, 1), "Replace: Water pump"));
    assert!(
        old.sound.unwrap().serviced[0].replaced && old.reason.contains("it lasts about 1095 days"),
        "{}",
        old.reason
    );
    let renewed = of_it(&rails(date(2024, 3, 1), &[done("2027-03-08 09:00", true)]));
    assert_eq!(
        (renewed.due_on, renewed.name.as_str()),
        (date(2027, 6, 6), "Service: Water pump"),
        "counted from the new one"
    );
}

#[test]
fn what_its_failing_costs_follows_the_system_and_no_spare_stands_out() {
    let cost = |kind: Kind, what: EquipmentKind, spare: Option<bool>| {
        let one = Equipment { spare, ..piece(what, date(2027, 1, 10)) };
        let garden = garden(kind, one, &[]);
        let line = lines(&garden.situation()).remove(0);
        (line.cost.map(|said| crate::common::told(said, mopsel_core::words::Reader::default())), line.bare)
    };
    let (said, bare) = cost(Kind::SprayTote, EquipmentKind::WaterPump, Some(false));
    assert_eq!((said.as_deref(), bare), (Some("If it stops, roots here last about 1 hour. There is no spare."), true));
    let (said, bare) = cost(Kind::AeratedRaft, EquipmentKind::AirPump, Some(true));
    assert_eq!(
        (said.as_deref(), bare),
        (Some("If it stops, roots here last about 12 hours. A spare is at hand."), false)
    );
    assert_eq!(cost(Kind::AeratedRaft, EquipmentKind::Lamp, Some(false)), (None, false));
    assert_eq!(
        cost(Kind::StillWater, EquipmentKind::WaterPump, Some(false)),
        (None, false),
        "nothing moves that water"
    );
}

#[test]
fn only_equipment_that_is_there_is_serviced_and_children_leave_plugs_alone() {
    let one = piece(EquipmentKind::WaterPump, date(2027, 1, 10));
    let system = System { equipment: vec![one.clone()], ..system(Kind::FilmChannel) };
    let body = |id: u128, what: EquipmentKind| {
        let serviced = vec![Serviced { equipment: Uuid::from_u128(id), what, replaced: false }];
        Body::Visit(Visit { serviced, ..Visit::default() })
    };
    body(7, EquipmentKind::WaterPump).check(&system, &adult()).unwrap();
    let refused = |body: Body, actor| body.check(&system, &actor).unwrap_err().code;
    assert_eq!(refused(body(8, EquipmentKind::WaterPump), adult()), "equipment_not_here");
    assert_eq!(refused(body(7, EquipmentKind::WaterPump), child()), "child_services");
    let twice = System { equipment: vec![one.clone(), one.clone()], ..system.clone() };
    assert_eq!(twice.check().unwrap_err().code, "equipment_twice");
    let never = System { equipment: vec![Equipment { service_days: Some(0), ..one }], ..system.clone() };
    assert_eq!(never.check().unwrap_err().field, "equipment.0.service_days");
    assert!(equipment().iter().all(|facts| facts.service_days < facts.lasts_days));
}
