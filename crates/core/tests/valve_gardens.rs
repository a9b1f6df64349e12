//! Systems behind a float valve, with a drum that is filled by the advice alone: what they drink, how strong the drum has to
//! be, and when it runs dry.
//!
//! What the plants take up here is made by itself: litres that grow through the season with cool and bright days by chance,
//! and salt at a strength of their own. The advice sees levels and strengths with the errors of a rule and a meter.

use crate::common::soak::seeds;
use crate::common::{Garden, at_the_bench, boxed, ec, level, mm, planting, system, zone};
use crate::garden::Chance;
use jiff::SignedDuration;
use jiff::civil::{Date, date};
use mopsel_core::bench::{Ask, Purpose};
use mopsel_core::calendar::{add_days, start_of};
use mopsel_core::care::outlook::{Ahead, outlook};
use mopsel_core::crop::Stage;
use mopsel_core::fact::{Body, Change, Entry, Premix, PremixIn, Visit};
use mopsel_core::forecast::drinks;
use mopsel_core::quantity::Litres;
use mopsel_core::reservoir::Shape;
use mopsel_core::system::{Kind, System, TopOffMethod, Traits};
use mopsel_core::verdict::Rank;
use uuid::Uuid;

const BEGAN: Date = date(2027, 3, 1);
const DAYS: i64 = 60;

struct Drummed {
    garden: Garden,
    /// What really stands there: the vessel's salt, the drum's litres and strength.
    salt: f64,
    drum: f64,
    drum_ec: f64,
    volume: f64,
    /// What is drunk on the first day, and by how much more each day.
    thirst: (f64, f64),
    uptake: f64,
    drunk: Vec<f64>,
    fills: u32,
    fared: Fared,
}

#[derive(Default)]
struct Fared {
    /// Looks after the first week, and those at which a day's drinking was known within 15 %.
    told: (u32, u32),
    /// Looks from the third filling on, and those at which EC stood within 10 % of the target.
    strength: (u32, u32),
    /// Days that the drum was said to run dry on, and those within one day.
    dry: (u32, u32),
    /// Times the drum was found dry, and those at which that came first.
    empty: (u32, u32),
}

impl Drummed {
    fn any(seed: u64) -> Self {
        let mut chance = Chance::new(seed + 5000);
        let (volume, holds) = (chance.between(30.0, 120.0), chance.between(20.0, 120.0));
        let plain = system(Kind::BucketChain);
        let (length, depth) = ((volume / 0.8 * 1e6 / 350.0).sqrt(), 350.0);
        let drum = Shape::Cylinder {
            diameter_mm: mm((holds * 1e6 / 600.0 * 4.0 / std::f64::consts::PI).sqrt()),
            height_mm: mm(600.0),
        };
        let of = System {
            traits: Traits { top_off_reservoir: true, drain_back: Litres::ZERO, heel: Litres::ZERO, ..plain.traits },
            reservoir: boxed(length, length, depth, [volume * 0.4, volume, volume * 1.1]),
            methods: mopsel_core::system::Methods { top_off: TopOffMethod::Reservoir, ..plain.methods.clone() },
            drum: chance.happens(0.5).then_some(drum),
            since: BEGAN,
            ..plain
        };
        let garden = Garden::new(of, vec![planting("Tomato", (1, 4), Stage::Vegetative)], &[], "2027-03-01 08:00");
        let thirst = (holds * chance.between(0.04, 0.1), chance.between(0.0, 0.01));
        let mut own = Self {
            garden,
            salt: volume * 1.9,
            drum: holds * 0.9,
            drum_ec: 1.9,
            volume,
            thirst,
            uptake: chance.between(0.9, 2.4),
            drunk: Vec::new(),
            fills: 1,
            fared: Fared::default(),
        };
        own.garden.now = at(0, 8);
        own.log(Body::Change(Change { ec: Some(ec(1.9)), ..Change::full(Litres::new(volume).unwrap()) }));
        let first =
            Premix { ec: Some(ec(1.9)), ..Premix::of(PremixIn::TopOffReservoir, Litres::new(own.drum).unwrap()) };
        own.log(Body::Premix(first));
        own
    }

    fn log(&mut self, body: Body) {
        let at = self.garden.now.timestamp();
        self.garden.log(Entry { id: Uuid::now_v7(), at, by: Uuid::nil(), body, amends: None, reason: None });
        self.garden.now = self.garden.now.saturating_add(SignedDuration::from_mins(5));
        self.garden.calibrated = Some(self.garden.now.timestamp());
    }

    fn look(&mut self, day: i64, chance: &mut Chance) {
        self.garden.now = at(day, 8);
        let left = (self.drum + self.drum.min(1.0) * chance.between(-0.3, 0.3)).max(0.0);
        let strength = self.salt / self.volume;
        let read = Visit {
            supply: Some(Litres::new(left).unwrap()),
            ec: Some(ec((strength * chance.between(0.985, 1.015) * 100.0).round() / 100.0)),
            ..level((self.volume + chance.between(-0.3, 0.3)).min(self.garden.system.highest().get()))
        };
        self.log(Body::Visit(read));
        let s = self.garden.situation();
        let tasks = self.garden.raw_tasks();
        if left <= 0.0 {
            self.fared.empty.0 += 1;
            let hours = tasks.iter().take_while(|task| task.rank <= Rank::Hours).any(|task| task.code == "supply");
            self.fared.empty.1 += u32::from(hours);
        }
        if day >= 7 {
            let really = self.drunk[self.drunk.len() - 6..].iter().sum::<f64>() / 6.0;
            let told = drinks(&s).map_or(0.0, |uptake| uptake.a_day.get());
            self.fared.told.0 += 1;
            self.fared.told.1 += u32::from((told - really).abs() <= really * 0.15);
            let leaves = outlook(&s).into_iter().find(|one| one.of == Ahead::Supply).and_then(|one| one.leaves);
            if let Some(leaves) = leaves.filter(|_| left > 0.0) {
                let (mut stands, mut dry) = (self.drum, day);
                while stands > 0.0 && dry < day + 40 {
                    stands -= self.usual(dry);
                    dry += 1;
                }
                let off = (leaves.on - add_days(BEGAN, dry - 1)).get_days().abs();
                // What is weeks away nobody knows to the day.
                if dry - day <= 10 {
                    self.fared.dry.0 += 1;
                    self.fared.dry.1 += u32::from(off <= 1);
                }
            }
        }
        if self.fills >= 3 {
            let aim = s.ec_target().unwrap().aim.get();
            self.fared.strength.0 += 1;
            self.fared.strength.1 += u32::from((strength - aim).abs() <= aim * 0.1);
        }
        if tasks.iter().any(|task| task.code == "supply" && task.days_late >= 0) {
            self.fill(chance);
        }
    }

    /// Drinking without the chance of a day.
    fn usual(&self, day: i64) -> f64 {
        self.thirst.0 * (1.0 + self.thirst.1 * day as f64)
    }

    fn fill(&mut self, chance: &mut Chance) {
        let ask = Ask::new(Purpose::TopOffReservoir { litres: None });
        let plan = at_the_bench(&self.garden.situation(), &ask).unwrap();
        let Some(Body::Premix(mut premix)) = plan.entry else { panic!() };
        let source = self.garden.system.source_ec.get();
        let (fresh, rise) = match &premix.batch {
            Some(batch) => {
                let rise: f64 = batch.used.iter().map(|one| one.rise.unwrap_or(0.0) * one.amount.value).sum();
                (batch.fresh.get(), rise / batch.fresh.get())
            }
            None => (premix.litres.get() - self.drum, 0.0),
        };
        let mixed = source + rise * chance.between(0.97, 1.03);
        self.drum_ec = (self.drum_ec * self.drum + mixed * fresh) / (self.drum + fresh);
        self.drum += fresh;
        if let Some(batch) = &mut premix.batch {
            batch.ec = Some(ec((mixed * 100.0).round() / 100.0));
        }
        self.fills += 1;
        self.log(Body::Premix(premix));
    }

    fn live(mut self, seed: u64) -> Fared {
        let mut chance = Chance::new(seed + 77);
        for day in 0..DAYS {
            if day > 0 && day % 2 == 0 {
                self.look(day, &mut chance);
            }
            let wants = self.usual(day) * chance.between(0.9, 1.1);
            let fed = wants.min(self.drum);
            self.drum -= fed;
            self.salt = (self.salt + fed * self.drum_ec - wants * self.uptake).max(0.0);
            self.drunk.push(wants);
        }
        self.fared
    }
}

fn at(day: i64, hour: i64) -> jiff::Zoned {
    let start = start_of(add_days(BEGAN, day), &zone());
    start.saturating_add(SignedDuration::from_hours(hour)).unwrap().to_zoned(zone())
}

fn share(of: impl Iterator<Item = (u32, u32)>) -> f64 {
    let (all, so) = of.fold((0, 0), |(all, so), (one, two)| (all + one, so + two));
    f64::from(so) / f64::from(all.max(1)) * 100.0
}

/// A drum that is read with every look tells what is drunk, is mixed as the plants take it up, and is filled before it is dry.
#[test]
fn a_drum_is_known_by_what_left_it() {
    let all: Vec<Fared> = seeds("gardens behind a valve", 100, 16).map(|seed| Drummed::any(seed).live(seed)).collect();
    let told = share(all.iter().map(|f| f.told));
    let strength = share(all.iter().map(|f| f.strength));
    let (dry, days) = (share(all.iter().map(|f| f.dry)), all.iter().map(|f| f.dry.0).sum::<u32>());
    let (empty, first) = all.iter().map(|f| f.empty).fold((0, 0), |(a, b), (c, d)| (a + c, b + d));
    println!(
        "{} gardens behind a valve: drinking within 15 % after a week on {told:.1} % of looks; EC within 10 % of the target from the third filling on {strength:.1} %; the dry day within one on {dry:.1} % of {days}; {empty} found dry, {first} of them first",
        all.len()
    );
    assert_eq!(empty, first, "a dry drum comes first");
    assert!(told >= 90.0, "{told:.1} %");
    assert!(strength >= 85.0, "{strength:.1} %");
    assert!(dry >= 90.0, "{dry:.1} %");
}
