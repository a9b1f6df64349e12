//! What the tests share: systems of the demo's kinds, and a bench to ask the rules from.
#![allow(dead_code, clippy::unwrap_used, missing_docs)]

use jiff::{Timestamp, Zoned, tz::TimeZone};
use mopsel_core::calendar::{Calendar, Weekday};
use mopsel_core::care::{Check, Situation, Task, tasks};
use mopsel_core::crop::{CropGroup, Planting, Stage, crop};
use mopsel_core::log::{Body, Entry, State, Visit, fold};
use mopsel_core::quantity::{Celsius, Conductivity, EcReading, EcScale, Litres, Millimetres, Name, Ph, PhReading, Wording};
use mopsel_core::reservoir::{LevelReading, RefillMethod, Reservoir, Shape};
use mopsel_core::system::{Kind, Measuring, Methods, PortSet, System};
use std::collections::BTreeMap;
use uuid::Uuid;

pub fn mm(v: f64) -> Millimetres {
    Millimetres::new(v).unwrap()
}

pub fn l(v: f64) -> Litres {
    Litres::new(v).unwrap()
}

pub fn boxed(length: f64, width: f64, height: f64, [minimum, working, maximum]: [f64; 3]) -> Reservoir {
    Reservoir { shape: Shape::Box { length_mm: mm(length), width_mm: mm(width), height_mm: mm(height) }, minimum: l(minimum), working: l(working), maximum: l(maximum) }
}

/// A system of a kind with the kind's usual traits, 100 L to the rim unless said otherwise.
pub fn system(kind: Kind) -> System {
    let facts = kind.facts();
    System {
        name: Name::new("Loft rails").unwrap(),
        kind,
        traits: facts.traits,
        reservoir: boxed(500.0, 500.0, 400.0, [40.0, 90.0, 98.0]),
        ports: facts.ports,
        measuring: Measuring::Meter,
        meter: None,
        refill: facts.refill,
        change_days: facts.change_days,
        source_ec: Conductivity::new(0.3).unwrap(),
        methods: Methods::default(),
        intervals: BTreeMap::new(),
        since: "2027-01-01".parse().unwrap(),
        note: None,
    }
}

pub fn planting(name: &str, ports: (u16, u16), stage: Stage) -> Planting {
    let group = crop(name).map_or(CropGroup::Leafy, |c| c.group);
    Planting { crop: Name::new(name).unwrap(), group, ports: PortSet::range(ports.0, ports.1), stage, sown_on: None, planted_on: "2027-02-01".parse().unwrap(), note: None }
}

/// A local time in Pellworth, as "2027-03-09 08:30".
pub fn at(text: &str) -> Timestamp {
    let civil: jiff::civil::DateTime = text.replace(' ', "T").parse().unwrap();
    civil.to_zoned(zone()).unwrap().timestamp()
}

pub fn zone() -> TimeZone {
    TimeZone::get("Europe/London").unwrap()
}

pub fn entry(when: &str, body: Body) -> Entry {
    Entry { id: Uuid::now_v7(), at: at(when), by: Uuid::nil(), body, amends: None, reason: None }
}

pub fn visit(when: &str, visit: Visit) -> Entry {
    entry(when, Body::Visit(visit))
}

pub fn level(litres: f64) -> Visit {
    Visit { level: Some(LevelReading::Volume { litres: l(litres), pump_ran: true }), ..Visit::default() }
}

pub fn done(check: Check) -> Visit {
    Visit { done: vec![check], ..Visit::default() }
}

pub fn ph(value: f64) -> PhReading {
    PhReading::Meter(Ph::new(value).unwrap())
}

pub fn kit(low: f64, high: f64) -> PhReading {
    PhReading::Kit { low: Ph::new(low).unwrap(), high: Ph::new(high).unwrap() }
}

pub fn ec(value: f64) -> EcReading {
    EcReading { value, scale: EcScale::MilliSiemens, compensated: true }
}

pub fn celsius(value: f64) -> Celsius {
    Celsius::new(value).unwrap()
}

/// A system with its log, at a time and place, to ask the rules from.
pub struct Bench {
    pub system: System,
    pub plantings: Vec<Planting>,
    pub state: State,
    pub calendar: Calendar,
    pub now: Zoned,
    pub calibrated: Option<Timestamp>,
}

impl Bench {
    pub fn new(system: System, plantings: Vec<Planting>, log: &[Entry], now: &str) -> Self {
        let state = fold(log, &system);
        Self { system, plantings, state, calendar: Calendar::weekly(&Weekday::ALL).unwrap(), now: at(now).to_zoned(zone()), calibrated: None }
    }

    pub fn open(mut self, days: &[Weekday]) -> Self {
        self.calendar = Calendar::weekly(days).unwrap();
        self
    }

    pub fn situation(&self) -> Situation<'_> {
        Situation {
            system: &self.system,
            plantings: &self.plantings,
            state: &self.state,
            calendar: &self.calendar,
            now: &self.now,
            wording: Wording::default(),
            calibrated: self.calibrated,
        }
    }

    pub fn tasks(&self) -> Vec<Task> {
        tasks(&self.situation())
    }

    pub fn task(&self, code: &str) -> Task {
        self.tasks().into_iter().find(|t| t.code == code).unwrap_or_else(|| panic!("no task {code} among {:?}", self.tasks().iter().map(|t| t.code.clone()).collect::<Vec<_>>()))
    }
}

/// Still water in the tub of the reference case: 52 × 36 cm, straight.
pub fn tub() -> System {
    System { reservoir: boxed(520.0, 360.0, 200.0, [8.0, 28.0, 34.0]), refill: RefillMethod::OneInch, ..system(Kind::StillWater) }
}
