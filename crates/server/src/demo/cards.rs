//! Who and what is in the demo: places, people, meters, systems, plantings.

use super::{id, new_card};
use jiff::Zoned;
use jiff::civil::Date;
use mopsel_core::bench::usual_tools;
use mopsel_core::calendar::{Closure, Weekday, add_days};
use mopsel_core::crop::{CropGroup, Planting, Stage, crop};
use mopsel_core::fact::NewCard;
use mopsel_core::fact::card::{Card, Meter, Person, Place, Role};
use mopsel_core::mixing::{Container, shipped_id};
use mopsel_core::quantity::{Conductivity, EcScale, Litres, Millimetres, Name, Note, UnitSystem};
use mopsel_core::reservoir::{Mark, Reservoir, Shape};
use mopsel_core::system::{
    Equipment, EquipmentKind, Kind, Measuring, Methods, PhMethod, PortSet, System, TopOffMethod, Traits,
};
use mopsel_core::{Refusal, refuse};

use std::collections::BTreeMap;

/// Everyone and everything in the demo.
pub struct Cast {
    cards: Vec<NewCard>,
    today: Date,
}

fn mm(value: f64) -> Millimetres {
    Millimetres::constant(value)
}

fn litres(value: f64) -> Litres {
    Litres::constant(value)
}

/// What stands ready to mix and carry in at a place.
fn containers(place: &str) -> &'static [(&'static str, f64)] {
    match place {
        "Gullhaven Library, seed loft" => &[("grey can", 18.0), ("blue can", 18.0)],
        "Long Acre polytunnel" => &[("barrel", 110.0), ("5 gal bucket", 17.0)],
        "Tern Street flat" => &[("watering can", 5.0)],
        _ => &[("blue can", 10.0), ("white can", 10.0), ("bucket", 8.0)],
    }
}

/// The recipe and the ways of caring for the water.
fn fed(recipe: &str, top_off: TopOffMethod, ph: PhMethod) -> Methods {
    Methods { recipe: Some(shipped_id(recipe)), top_off, ph, ..Methods::default() }
}

/// A straight box that holds `rim` litres, with its three volumes.
fn boxed(length: f64, width: f64, height: f64, volumes: [f64; 3]) -> Reservoir {
    reservoir(Shape::Box { length_mm: mm(length), width_mm: mm(width), height_mm: mm(height) }, volumes)
}

fn reservoir(shape: Shape, [minimum, working, maximum]: [f64; 3]) -> Reservoir {
    Reservoir { shape, minimum: litres(minimum), working: litres(working), maximum: litres(maximum) }
}

impl Cast {
    /// The whole cast, checked.
    pub fn new(now: &Zoned) -> Result<Self, Refusal> {
        let mut cast = Self { cards: vec![], today: now.date() };
        cast.places()?;
        cast.home()?;
        cast.school()?;
        cast.library()?;
        cast.polytunnel()?;
        Ok(cast)
    }

    /// All cards, those that others hang on first.
    pub fn cards(&self) -> &[NewCard] {
        &self.cards
    }

    /// A system by its name.
    pub fn system(&self, name: &str) -> Result<&System, Refusal> {
        let found = self
            .cards
            .iter()
            .find(|card| card.id == id(name))
            .and_then(|new| if let Card::System(system) = &new.card { Some(system) } else { None });
        found.ok_or_else(|| refuse!("demo_system_missing", name = name))
    }

    /// The open days of the place that a system stands in.
    pub fn open_days(&self, system: &str) -> Vec<Weekday> {
        let place = self.cards.iter().find(|card| card.id == id(system)).and_then(|card| card.parent);
        self.cards
            .iter()
            .find(|card| Some(card.id) == place)
            .map_or(vec![], |new| if let Card::Place(place) = &new.card { place.open_days.clone() } else { vec![] })
    }

    fn add(&mut self, name: &str, parent: Option<&str>, card: Card) -> Result<(), Refusal> {
        let within = match (&card, parent) {
            (Card::Planting(_), Some(parent)) => Some(self.system(parent)?.clone()),
            _ => None,
        };
        card.check(within.as_ref())?;
        self.cards.push(new_card(name, parent, card));
        Ok(())
    }

    fn places(&mut self) -> Result<(), Refusal> {
        let weekdays = Weekday::ALL[..5].to_vec();
        let not_mondays = Weekday::ALL[1..].to_vec();
        let all = Weekday::ALL.to_vec();
        for (name, open_days, units) in [
            ("Tern Street flat", all.clone(), UnitSystem::Metric),
            ("Cobble Row School, room 6", weekdays.clone(), UnitSystem::Metric),
            ("Cobble Row School, room 9", weekdays, UnitSystem::Metric),
            ("Gullhaven Library, seed loft", not_mondays, UnitSystem::Metric),
            ("Long Acre polytunnel", all, UnitSystem::Us),
        ] {
            let containers = containers(name)
                .iter()
                .map(|(says, holds)| {
                    Ok(Container { stands: *says == "barrel", ..Container::carried(Name::new(says)?, litres(*holds)) })
                })
                .collect::<Result<_, Refusal>>()?;
            self.add(
                name,
                None,
                Card::Place(Place {
                    closures: if name.starts_with("Cobble Row") { self.term_break() } else { vec![] },
                    name: Name::new(name)?,
                    zone: super::ZONE.to_owned(),
                    open_days,
                    units,
                    containers,
                    tools: usual_tools(units),
                }),
            )?;
            self.person(name, "Wren", Role::Caretaker)?;
        }
        for (place, who, role) in [
            ("Cobble Row School, room 6", "J. T.", Role::Child),
            ("Cobble Row School, room 6", "Ode", Role::Helper),
            ("Cobble Row School, room 9", "M. K.", Role::Child),
            ("Gullhaven Library, seed loft", "Ansa", Role::Helper),
        ] {
            self.person(place, who, role)?;
        }
        for (place, name, scale) in [
            ("Tern Street flat", "Kitchen pen", EcScale::MilliSiemens),
            ("Gullhaven Library, seed loft", "Loft meter", EcScale::MilliSiemens),
            ("Gullhaven Library, seed loft", "Reading-room meter", EcScale::MilliSiemens),
            ("Long Acre polytunnel", "Tunnel truncheon", EcScale::Ppm500),
        ] {
            self.add(name, Some(place), Card::Meter(Meter { name: Name::new(name)?, scale, compensated: true }))?;
        }
        Ok(())
    }

    fn person(&mut self, place: &str, who: &str, role: Role) -> Result<(), Refusal> {
        self.add(
            &format!("{place}/{who}"),
            Some(place),
            Card::Person(Person {
                name: Name::new(who)?,
                role,
                units: None,
                ec_scale: None,
                lifts_kg: None,
                feed: None,
                away: vec![],
            }),
        )
    }

    /// A system with the usual traits of its kind; `fit` changes what is special.
    fn grow(
        &mut self,
        place: &str,
        name: &str,
        kind: Kind,
        reservoir: Reservoir,
        measured: Option<&str>,
        fit: impl FnOnce(&mut System),
    ) -> Result<(), Refusal> {
        let facts = kind.facts();
        let mut system = System {
            name: Name::new(name)?,
            kind,
            traits: facts.traits,
            reservoir,
            ports: facts.ports,
            measuring: if measured.is_some() { Measuring::Meter } else { Measuring::RecipeOnly },
            meter: measured.map(id),
            refill: facts.refill,
            change_days: facts.change_days,
            source_ec: Conductivity::constant(0.3),
            methods: Methods::default(),
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
            since: add_days(self.today, -112),
            note: None,
        };
        fit(&mut system);
        self.add(name, Some(place), Card::System(system))
    }

    /// A piece of equipment that was put in so many days ago.
    fn piece(&self, system: &str, what: EquipmentKind, days_ago: i64, spare: Option<bool>) -> Equipment {
        let since = Some(add_days(self.today, -days_ago));
        Equipment { id: id(&format!("{system}/{}", what.code())), what, name: None, since, spare, service_days: None }
    }

    /// Twelve days from six days on.
    fn term_break(&self) -> Vec<Closure> {
        let (from, to) = (add_days(self.today, 6), add_days(self.today, 17));
        vec![Closure { name: Name::new("Term break").ok(), from, to }]
    }

    fn plant(
        &mut self,
        system: &str,
        name: &str,
        ports: (u16, u16),
        stage: Stage,
        days_ago: i64,
    ) -> Result<(), Refusal> {
        let planting = Planting {
            crop: Name::new(name)?,
            group: crop(name).map_or(CropGroup::Leafy, |crop| crop.group),
            ports: PortSet::range(ports.0, ports.1),
            stage,
            sown_on: Some(add_days(self.today, -days_ago - 21)),
            planted_on: add_days(self.today, -days_ago),
            came: None,
            ec_band: None,
            ph_band: None,
            note: None,
        };
        self.add(&format!("{system}/{name}"), Some(system), Card::Planting(planting))
    }

    fn home(&mut self) -> Result<(), Refusal> {
        let home = "Tern Street flat";
        let crate_shape = Shape::Tapered {
            rim_length_mm: mm(400.0),
            rim_width_mm: mm(280.0),
            floor_length_mm: mm(340.0),
            floor_width_mm: mm(225.0),
            height_mm: mm(190.0),
        };
        self.grow(
            home,
            "Window crate",
            Kind::StillWater,
            reservoir(crate_shape, [6.4, 14.0, 16.0]),
            Some("Kitchen pen"),
            |s| {
                s.ports = 6;
                s.methods = fed("one_part", TopOffMethod::Plain, PhMethod::SeparateBatch);
            },
        )?;
        self.plant("Window crate", "Pak choi", (1, 3), Stage::Vegetative, 26)?;
        self.plant("Window crate", "Mizuna", (4, 6), Stage::Vegetative, 26)?;
        self.grow(
            home,
            "Shelf jars (4)",
            Kind::StillWater,
            reservoir(Shape::Stated { litres: litres(8.4) }, [3.0, 7.2, 8.0]),
            Some("Kitchen pen"),
            |s| {
                s.ports = 4;
                s.traits = Traits { opaque: false, ..s.traits };
                s.note = Note::new("Glass in sleeves, 1.8 L each; one sleeve is torn.").ok();
            },
        )?;
        self.plant("Shelf jars (4)", "Sorrel", (1, 2), Stage::Vegetative, 33)?;
        self.plant("Shelf jars (4)", "Chervil", (3, 4), Stage::Vegetative, 33)
    }

    fn school(&mut self) -> Result<(), Refusal> {
        let room6 = "Cobble Row School, room 6";
        let marks = [(60.0, 12.0), (150.0, 31.0), (240.0, 50.0), (330.0, 70.0)]
            .map(|(h, l)| Mark { height_mm: mm(h), litres: litres(l) });
        self.grow(
            room6,
            "Corner tower",
            Kind::Tower,
            reservoir(Shape::Marks { marks: marks.to_vec() }, [24.0, 64.0, 66.0]),
            None,
            |s| {
                s.measuring = Measuring::DropKit;
                s.methods = fed("two_part_leaf", TopOffMethod::LightFeed, PhMethod::SeparateBatch);
            },
        )?;
        self.plant("Corner tower", "Parsley", (1, 9), Stage::Vegetative, 40)?;
        self.plant("Corner tower", "Nasturtium", (10, 15), Stage::Vegetative, 30)?;
        self.plant("Corner tower", "Kale", (16, 26), Stage::Vegetative, 40)?;
        let room9 = "Cobble Row School, room 9";
        let air = self.piece("Blue raft", EquipmentKind::AirPump, 50, Some(true));
        let stone = self.piece("Blue raft", EquipmentKind::AirStone, 50, None);
        self.grow(room9, "Blue raft", Kind::AeratedRaft, boxed(560.0, 380.0, 260.0, [22.0, 46.0, 52.0]), None, |s| {
            s.ports = 12;
            s.equipment = vec![air, stone];
            s.methods = fed("one_part", TopOffMethod::LightFeed, PhMethod::RecipeOnly);
        })?;
        self.plant("Blue raft", "Swiss chard", (1, 8), Stage::Vegetative, 35)?;
        self.plant("Blue raft", "Dill", (9, 12), Stage::Vegetative, 35)
    }

    fn library(&mut self) -> Result<(), Refusal> {
        let loft = "Gullhaven Library, seed loft";
        let pump = self.piece("Loft rails", EquipmentKind::WaterPump, 60, Some(false));
        self.grow(
            loft,
            "Loft rails",
            Kind::FilmChannel,
            boxed(620.0, 420.0, 420.0, [40.0, 96.0, 102.0]),
            Some("Loft meter"),
            |s| {
                s.equipment = vec![pump];
                s.methods = Methods {
                    alkalinity: Some(120.0),
                    ..fed("two_part_leaf", TopOffMethod::LightFeed, PhMethod::Reservoir)
                };
            },
        )?;
        self.plant("Loft rails", "Coriander", (1, 18), Stage::Vegetative, 24)?;
        self.plant("Loft rails", "Watercress", (19, 36), Stage::Vegetative, 24)?;
        self.grow(
            loft,
            "Reading-room rack",
            Kind::Rack,
            boxed(480.0, 400.0, 340.0, [20.0, 52.0, 60.0]),
            Some("Reading-room meter"),
            |s| {
                s.ports = 36;
                s.note = Note::new("Fed from a 170 L fresh-water drum by a float valve.").ok();
            },
        )?;
        self.plant("Reading-room rack", "Rocket", (1, 20), Stage::Vegetative, 22)?;
        self.plant("Reading-room rack", "Tatsoi", (21, 36), Stage::Vegetative, 22)?;
        self.grow(
            loft,
            "Propagation tote",
            Kind::SprayTote,
            boxed(520.0, 360.0, 300.0, [12.0, 34.0, 42.0]),
            Some("Reading-room meter"),
            |s| {
                s.change_days = 14;
                s.traits.heel = litres(3.0);
                s.methods = fed("three_part", TopOffMethod::Plain, PhMethod::SeparateBatch);
            },
        )?;
        self.plant("Propagation tote", "Mint", (1, 12), Stage::Seedling, 20)?;
        self.plant("Propagation tote", "Lemon balm", (13, 24), Stage::Seedling, 20)
    }

    fn polytunnel(&mut self) -> Result<(), Refusal> {
        let tunnel = "Long Acre polytunnel";
        self.grow(
            tunnel,
            "Bucket row",
            Kind::BucketChain,
            reservoir(Shape::Stated { litres: litres(140.0) }, [60.0, 118.0, 130.0]),
            Some("Tunnel truncheon"),
            |s| {
                s.traits.top_off_reservoir = true;
                s.methods = fed("dry_three_part", TopOffMethod::SameStrength, PhMethod::SeparateBatch);
                s.intervals.insert(mopsel_core::system::Check::Level, 2);
            },
        )?;
        self.plant("Bucket row", "Aubergine", (1, 6), Stage::Flowering, 48)?;
        self.grow(
            tunnel,
            "Bean table",
            Kind::EbbAndFlow,
            boxed(700.0, 480.0, 330.0, [34.0, 75.0, 82.0]),
            Some("Tunnel truncheon"),
            |_| {},
        )?;
        self.plant("Bean table", "Dwarf beans", (1, 20), Stage::Vegetative, 30)?;
        self.grow(
            tunnel,
            "Mat bench",
            Kind::SpreaderMat,
            boxed(420.0, 300.0, 220.0, [9.0, 22.0, 25.0]),
            Some("Tunnel truncheon"),
            |s| s.ports = 10,
        )?;
        self.plant("Mat bench", "Viola", (1, 5), Stage::Vegetative, 28)?;
        self.plant("Mat bench", "Marigold", (6, 10), Stage::Vegetative, 28)
    }
}
