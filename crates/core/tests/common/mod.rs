//! What the tests share: systems of the demo's kinds, and a garden to ask the rules from.

pub mod soak;

use jiff::{Timestamp, Zoned, tz::TimeZone};
use mopsel_core::bench::{Ask, Plan, Shelf, plan, usual_containers, usual_tools};
use mopsel_core::calendar::{Calendar, Weekday};
use mopsel_core::care::top_off::TopOffAdvice;
use mopsel_core::care::{Risk, Task, tasks};
use mopsel_core::crop::{CropGroup, EcTarget, Planting, Stage, crop};
use mopsel_core::dosing::PhEstimate;
use mopsel_core::fact::card::Role;
use mopsel_core::fact::{Actor, Body, Entry, Planted, Timeline, Visit};
use mopsel_core::gate::SystemFacts;
use mopsel_core::guide::Guide;
use mopsel_core::message::{Message, Param};
use mopsel_core::mixing::{FeedFacts, Product, products, recipes};
use mopsel_core::projection::{Known, Touched};
use mopsel_core::quantity::{
    Celsius, Conductivity, EcReading, EcScale, Litres, Millimetres, Name, Ph, PhReading, UnitSystem,
};
use mopsel_core::refusal::Refusal;
use mopsel_core::reservoir::{LevelReading, RefillMethod, Reservoir, Shape};
use mopsel_core::situation::Situation;
use mopsel_core::story::Story;
use mopsel_core::system::{Check, Kind, Measuring, Methods, PortSet, System, Traits};
use mopsel_core::verdict::{Judgement, Verdict};
use mopsel_core::words::{Reader, RefusalSaid, Speaker};
use std::collections::BTreeMap;
use uuid::Uuid;

pub fn mm(v: f64) -> Millimetres {
    Millimetres::new(v).unwrap()
}

pub fn l(v: f64) -> Litres {
    Litres::new(v).unwrap()
}

pub fn boxed(length: f64, width: f64, height: f64, [minimum, working, maximum]: [f64; 3]) -> Reservoir {
    Reservoir {
        shape: Shape::Box { length_mm: mm(length), width_mm: mm(width), height_mm: mm(height) },
        minimum: l(minimum),
        working: l(working),
        maximum: l(maximum),
    }
}

/// A system of a kind with the kind's usual traits, 100 L to the rim unless said otherwise. Nothing runs
/// home when its pump stops: drain-back has tests of its own.
pub fn system(kind: Kind) -> System {
    let facts = kind.facts();
    System {
        name: Name::new("Loft rails").unwrap(),
        kind,
        traits: Traits { drain_back: Litres::ZERO, ..facts.traits },
        reservoir: boxed(500.0, 500.0, 400.0, [40.0, 90.0, 98.0]),
        ports: facts.ports,
        measuring: Measuring::Meter,
        meter: None,
        refill: facts.refill,
        change_days: facts.change_days,
        source_ec: Conductivity::new(0.3).unwrap(),
        methods: Methods { top_off: facts.top_off, ..Methods::default() },
        ec_band: None,
        ph_band: None,
        intervals: BTreeMap::new(),
        slacks: BTreeMap::new(),
        rules: vec![],
        equipment: vec![],
        drum: None,
        drum_of: None,
        drum_share: None,
        feeding: None,
        turn: None,
        since: "2027-01-01".parse().unwrap(),
        note: None,
    }
}

pub fn planting(name: &str, ports: (u16, u16), stage: Stage) -> Planting {
    let group = crop(name).map_or(CropGroup::Leafy, |c| c.group);
    Planting {
        crop: Name::new(name).unwrap(),
        group,
        ports: PortSet::range(ports.0, ports.1),
        stage,
        sown_on: None,
        planted_on: "2027-02-01".parse().unwrap(),
        came: None,
        ec_band: None,
        ph_band: None,
        note: None,
    }
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

/// A note and nothing else: the log is begun, and nothing is known.
pub fn noted(when: &str) -> Entry {
    visit(when, Visit { note: mopsel_core::quantity::Note::new("Set up").ok(), ..Visit::default() })
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

/// An adult of the garden's place.
pub fn adult() -> Actor {
    Actor::new(Uuid::from_u128(1), Role::Caretaker, Uuid::from_u128(2))
}

/// A child of the garden's place.
pub fn child() -> Actor {
    Actor::new(Uuid::from_u128(3), Role::Child, Uuid::from_u128(2))
}

/// What a log comes to on a system that was always as it is.
pub fn known(log: &[Entry], system: &System) -> Known {
    Known::fold(log, &Timeline::always(system.clone()))
}

/// A system of the garden's place as a command meets it: an empty log, nothing half done.
pub fn facts_at(id: Uuid, system: System) -> SystemFacts {
    SystemFacts {
        id,
        archived: false,
        history: Timeline::always(system),
        planted: vec![],
        place: adult().place.unwrap_or_default(),
        zone: zone(),
        calendar: Calendar::weekly(&Weekday::ALL).unwrap(),
        known: Known::default(),
        entry: None,
        amended: None,
        newest: None,
        closing: None,
        draft: None,
        run: None,
        put_away: false,
        named: vec![],
        picked: vec![],
        sources: vec![],
        ids_taken: vec![],
        cards: 0,
    }
}

/// A reader who is a child.
pub const CHILD: Reader = Reader { units: UnitSystem::Metric, ec: EcScale::MilliSiemens, child: true };

/// A quantity in a reader's words.
pub fn told(value: impl Into<Param>, reader: Reader) -> String {
    Speaker::new(reader).say(&Message::new("sentences").with("all", value))
}

/// The refusal in words, of a result that has to be one.
pub trait Refused {
    fn refusal(self) -> RefusalSaid;
}

impl<T: std::fmt::Debug> Refused for Result<T, Refusal> {
    fn refusal(self) -> RefusalSaid {
        self.unwrap_err().said()
    }
}

impl<T: std::fmt::Debug> Refused for Result<T, RefusalSaid> {
    fn refusal(self) -> RefusalSaid {
        self.unwrap_err()
    }
}

/// Puts what the rules answer into words, for an adult who reads metric units.
pub trait Said {
    type Words;
    fn said_to(self, reader: Reader) -> Self::Words;
    fn said(self) -> Self::Words
    where
        Self: Sized,
    {
        self.said_to(Reader::default())
    }
}

macro_rules! said {
    ($($what:ident),*) => {$(
        impl Said for $what<Message> {
            type Words = $what<String>;
            fn said_to(self, reader: Reader) -> Self::Words {
                let speaker = Speaker::new(reader);
                self.map(&|message| speaker.say(&message))
            }
        }
    )*};
}

said!(Verdict, Judgement, Task, Risk, Plan, PhEstimate, TopOffAdvice, EcTarget, Story);

impl Said for Message {
    type Words = String;
    fn said_to(self, reader: Reader) -> String {
        Speaker::new(reader).say(&self)
    }
}

impl Said for Guide {
    type Words = Guide<String, RefusalSaid>;
    fn said_to(self, reader: Reader) -> Self::Words {
        let speaker = Speaker::new(reader);
        self.map(&|message| speaker.say(&message), &|refusal| speaker.refuse(&refusal))
    }
}

impl Said for Refusal {
    type Words = RefusalSaid;
    fn said_to(self, reader: Reader) -> RefusalSaid {
        Speaker::new(reader).refuse(&self)
    }
}

impl<T: Said> Said for Result<T, Refusal> {
    type Words = Result<T::Words, RefusalSaid>;
    fn said_to(self, reader: Reader) -> Self::Words {
        self.map(|value| value.said_to(reader)).map_err(|refusal| refusal.said_to(reader))
    }
}

/// A system with its log, at a time and place, to ask the rules from.
#[derive(Debug)]
pub struct Garden {
    pub system: System,
    pub history: Timeline<System>,
    pub plantings: Vec<Planting>,
    pub planted: Vec<Timeline<Planting>>,
    pub known: Known,
    pub calendar: Calendar,
    pub now: Zoned,
    pub calibrated: Option<Timestamp>,
    pub feed: FeedFacts,
    pub touched: Vec<Touched>,
    pub planting_ids: Vec<Uuid>,
    pub actor: Actor,
}

impl Garden {
    pub fn new(system: System, plantings: Vec<Planting>, log: &[Entry], now: &str) -> Self {
        Self {
            known: known(log, &system),
            history: Timeline::always(system.clone()),
            system,
            planted: plantings.iter().cloned().map(Timeline::always).collect(),
            plantings,
            calendar: Calendar::weekly(&Weekday::ALL).unwrap(),
            now: at(now).to_zoned(zone()),
            calibrated: Some(at(now)),
            feed: FeedFacts::default(),
            touched: vec![],
            planting_ids: vec![],
            actor: adult(),
        }
    }

    /// One more entry of its log.
    pub fn log(&mut self, entry: Entry) {
        self.known.apply(&entry, &self.system);
    }

    pub fn open(mut self, days: &[Weekday]) -> Self {
        self.calendar = Calendar::weekly(days).unwrap();
        self
    }

    /// The same garden, asked about by a child.
    pub fn for_child(mut self) -> Self {
        self.actor = child();
        self
    }

    pub fn situation(&self) -> Situation<'_> {
        Situation {
            feed: self.feed,
            touched: &self.touched,
            planting_ids: &self.planting_ids,
            system: &self.system,
            history: &self.history,
            plantings: &self.plantings,
            planted: Planted(&self.planted),
            known: &self.known,
            calendar: &self.calendar,
            now: &self.now,
            calibrated: self.calibrated,
            actor: &self.actor,
        }
    }

    pub fn tasks(&self) -> Vec<Task<String>> {
        self.raw_tasks().into_iter().map(Said::said).collect()
    }

    /// The same before they are put into words.
    pub fn raw_tasks(&self) -> Vec<Task> {
        tasks(&self.situation())
    }

    pub fn task(&self, code: &str) -> Task<String> {
        self.tasks().into_iter().find(|t| t.code == code).unwrap_or_else(|| {
            panic!("no task {code} among {:?}", self.tasks().iter().map(|t| t.code.clone()).collect::<Vec<_>>())
        })
    }
}

/// What the bench answers a system, with the products and recipes that ship and nothing learnt.
pub fn at_the_bench(s: &Situation<'_>, ask: &Ask) -> Result<Plan, Refusal> {
    with_products(s, ask, &products().iter().cloned().collect())
}

/// The same with products of one's own.
pub fn with_products(s: &Situation<'_>, ask: &Ask, products: &BTreeMap<Uuid, Product>) -> Result<Plan, Refusal> {
    on_shelf(s, products, |shelf| plan(ask, shelf))
}

/// What is worked out with a shelf of the products and recipes that ship.
pub fn with_shelf<T>(s: &Situation<'_>, work: impl FnOnce(&Shelf<'_>) -> T) -> T {
    on_shelf(s, &products().iter().cloned().collect(), work)
}

fn on_shelf<T>(s: &Situation<'_>, products: &BTreeMap<Uuid, Product>, work: impl FnOnce(&Shelf<'_>) -> T) -> T {
    work(&Shelf {
        situation: Some(s),
        products,
        recipes: &recipes().iter().cloned().collect(),
        learnt: &BTreeMap::new(),
        containers: &usual_containers(UnitSystem::Metric),
        tools: &usual_tools(UnitSystem::Metric),
        lifts: 20.0,
        scale: EcScale::MilliSiemens,
        actor: s.actor,
    })
}

/// Still water in the tub of the reference case: 52 × 36 cm, straight.
pub fn tub() -> System {
    System {
        reservoir: boxed(520.0, 360.0, 200.0, [8.0, 28.0, 34.0]),
        refill: RefillMethod::OneInch,
        ..system(Kind::StillWater)
    }
}
