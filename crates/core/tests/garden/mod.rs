//! A simulated garden: a small model of what water does when plants live in it, cared for by the advice
//! alone. Water is drunk and evaporates, salt is eaten at a strength of its own, pH drifts by what the
//! roots take and is held by carbonate; days differ, visits are missed, meters and labels are off.
//!
//! Nobody in it knows more than a grower would: it reads with its meter, logs what it did, and does what
//! the tasks, the verdicts and the bench say.
use crate::common::{adult, at, at_the_bench, zone};
use jiff::{Timestamp, ToSpan, Zoned};
use mopsel_core::bench::{Ask, Plan, Purpose};
use mopsel_core::calendar::{Calendar, Closure, Weekday};
use mopsel_core::care::cover::{Cover, cover_place};
use mopsel_core::care::fit::{counts, worth};
use mopsel_core::care::look::lines;
use mopsel_core::care::{Task, tasks};
use mopsel_core::crop::{Planting, Stage, crops};
use mopsel_core::fact::{
    Actor, Batch, Body, Change, Clarity, Entry, Meshes, Planted, Plants, Roots, Subject, Timeline, TopOffWater, Visit,
    WaterGlass,
};
use mopsel_core::mixing::{FeedFacts, products};
use mopsel_core::projection::Known;
use mopsel_core::quantity::{Conductivity, EcReading, Litres, Millimetres, Name, Ph, PhReading};
use mopsel_core::reservoir::{LevelReading, RefillMethod, Reservoir, Shape};
use mopsel_core::situation::Situation;
use mopsel_core::system::{ChangeMethod, Check, Measuring, Methods, PhMethod, PortSet, System, TopOffMethod, kinds};
use mopsel_core::verdict::{Tone, judge_state};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Chance that is the same on every machine.
pub struct Chance(u64);

impl Chance {
    pub fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1)
    }

    /// From 0 up to 1.
    pub fn part(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }

    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.part()
    }

    pub fn happens(&mut self, share: f64) -> bool {
        self.part() < share
    }

    pub fn one_of<T: Clone>(&mut self, all: &[T]) -> T {
        all[(self.part() * all.len() as f64) as usize % all.len()].clone()
    }
}

/// The water as it really is: salt, and what sets its pH. Constants are those of water at 25 °C: pK 6.35 and 10.33 of
/// carbonic acid, 6.8 of phosphoric acid's second step in feed of usual strength, pKw 14. Air holds 600 ppm of carbon
/// dioxide in a room, which water in balance with it takes up to 0.02 mmol/L (Henry's constant 34 mmol/L at one bar).
#[derive(Debug, Clone, Copy)]
struct Water {
    litres: f64,
    salt: f64,
    /// meq that hold against acid, over H₂PO₄⁻ and CO₂.
    alkali: f64,
    /// mmol of carbonate in all, and of phosphate.
    carbonate: f64,
    phosphate: f64,
}

/// mmol/L of CO₂ in water that the air of a room has been through.
const IN_AIR: f64 = 0.02;

/// The shares of carbonate: as CO₂, as bicarbonate, as carbonate.
fn carbonates(ph: f64) -> [f64; 3] {
    let (h, k1, k2) = (10f64.powf(-ph), 10f64.powf(-6.35), 10f64.powf(-10.33));
    let all = h * h + k1 * h + k1 * k2;
    [h * h / all, k1 * h / all, k1 * k2 / all]
}

impl Water {
    fn source(litres: f64, garden: &Nature) -> Self {
        let alkali = garden.alkalinity / 50.0 * litres;
        let [_, bi, tri] = carbonates(garden.source_ph);
        Self { litres, salt: garden.source_ec * litres, alkali, carbonate: alkali / (bi + 2.0 * tri), phosphate: 0.0 }
    }

    fn ec(&self) -> f64 {
        self.salt / self.litres.max(1e-6)
    }

    /// meq/L that would hold against acid at a pH.
    fn holds(&self, ph: f64) -> f64 {
        let [_, bi, tri] = carbonates(ph);
        let (litres, beta) = (self.litres.max(1e-6), 1.0 / (1.0 + 10f64.powf(6.8 - ph)));
        let water = 1000.0 * (10f64.powf(ph - 14.0) - 10f64.powf(-ph));
        (self.carbonate * (bi + 2.0 * tri) + self.phosphate * beta) / litres + water
    }

    fn ph(&self) -> f64 {
        let alkali = self.alkali / self.litres.max(1e-6);
        let (mut low, mut high) = (2.5, 11.0);
        for _ in 0..40 {
            let middle = f64::midpoint(low, high);
            if self.holds(middle) < alkali { low = middle } else { high = middle }
        }
        f64::midpoint(low, high)
    }

    /// So many hours in the air: CO₂ leaves, or comes, at a share an hour of what is over, or missing; roots breathe.
    fn air(&mut self, hours: f64, share: f64) {
        let steps = (hours * share / 0.05).ceil().clamp(1.0, 200.0) as u32;
        let each = hours / f64::from(steps);
        for _ in 0..steps {
            let dissolved = self.carbonate / self.litres.max(1e-6) * carbonates(self.ph())[0];
            let leaves = (dissolved - IN_AIR) * share * each;
            self.carbonate = (self.carbonate + (BREATHED * each - leaves) * self.litres).max(1e-6);
        }
    }

    fn add(&mut self, other: Self) {
        self.litres += other.litres;
        self.salt += other.salt;
        self.alkali += other.alkali;
        self.carbonate += other.carbonate;
        self.phosphate += other.phosphate;
    }

    fn take(&mut self, litres: f64) {
        let left = ((self.litres - litres) / self.litres.max(1e-9)).max(0.0);
        *self = Self {
            litres: self.litres * left,
            salt: self.salt * left,
            alkali: self.alkali * left,
            carbonate: self.carbonate * left,
            phosphate: self.phosphate * left,
        };
    }

    /// Feed brings phosphate, about 30 mg/L of phosphorus at 1.6 mS/cm, and is a little acid.
    fn feed(&mut self, salt: f64, acid: f64) {
        self.salt += salt;
        self.phosphate += salt * 0.6;
        self.alkali -= salt * acid;
    }

    fn acid(&mut self, meq: f64) {
        self.alkali -= meq;
    }
}

/// mmol of CO₂ that roots breathe into a litre in an hour.
const BREATHED: f64 = 0.003;

/// What nobody in the garden knows.
#[derive(Debug, Clone, Copy)]
struct Nature {
    source_ec: f64,
    source_ph: f64,
    alkalinity: f64,
    /// Of a filling, a day.
    drinks: f64,
    /// Times the middle of the band.
    eats: f64,
    /// meq that the roots give off for each mS/cm and litre that they eat: nitrate goes in for bicarbonate, of the ten or
    /// so that a mS/cm holds.
    drift: f64,
    /// meq that a mS/cm of feed takes from a litre.
    acid: f64,
    /// Share an hour of the CO₂ over the air's that leaves.
    air: f64,
    label: f64,
    bottle: f64,
    misses: f64,
    meter: f64,
}

/// How far a pH reading may be off.
const METER: f64 = 0.06;

/// How a garden fared.
#[derive(Debug, Clone, Default)]
pub struct Fared {
    pub name: String,
    pub measuring: &'static str,
    pub days: u32,
    pub ec_in: u32,
    pub ph_in: u32,
    /// Days on which it stood under 5.2.
    pub sour: u32,
    pub doses: u32,
    /// Litres of water that were poured in, and that were drained away.
    pub filled: f64,
    pub thrown: f64,
    /// Lines of tasks that asked for a hand, and the minutes that they usually take.
    pub lines: u32,
    pub minutes: f64,
    pub changes: u32,
    /// Whether so much comes into the meshes that they clog within a day.
    pub clogs: bool,
    /// Whether its water is changed by need.
    pub by_need: bool,
    pub drowned: Vec<String>,
    pub spilt: Vec<String>,
    pub moved_too_far: Vec<String>,
    pub dry: u32,
    pub story: Vec<String>,
    pub refused: BTreeMap<String, u32>,
}

/// How a garden came through a closure.
#[derive(Debug, Clone, Default)]
pub struct Away {
    pub name: String,
    pub days: u32,
    pub visits: u32,
    /// Closed days on which it was below its minimum, above its limits or out of its band.
    pub bad: u32,
    /// Of these, those that the plan had not told of.
    pub untold: u32,
    /// Closed days from which on the plan says that it will not, or may not, hold.
    pub told: u32,
    pub dry: u32,
    pub over: u32,
    pub story: Vec<String>,
}

pub struct Garden {
    system: System,
    plantings: Vec<Planting>,
    planted: Vec<Timeline<Planting>>,
    history: Timeline<System>,
    known: Known,
    calendar: Calendar,
    actor: Actor,
    nature: Nature,
    water: Water,
    now: Zoned,
    chance: Chance,
    /// The highest level of each day, for the roots.
    levels: Vec<(Timestamp, f64)>,
    /// Where the line stood before it was drained for a change.
    stood: Option<f64>,
    last_rise: Option<Timestamp>,
    dosed_today: f64,
    acid_taken: f64,
    pub fared: Fared,
}

impl Fared {
    /// The days on which something went out of band or was put right, as far as they fit on a page.
    #[allow(dead_code, reason = "the bench tells them")]
    pub fn told(&self) -> impl Iterator<Item = &String> {
        self.story.iter().filter(|line| !line.contains("looked in")).take(STORY)
    }
}

/// Lines of a story that is told.
#[allow(dead_code, reason = "the bench tells them")]
const STORY: usize = 24;

fn litres(value: f64) -> Litres {
    Litres::new(value.max(0.0)).unwrap()
}

impl Garden {
    /// A garden of any kind.
    pub fn any(seed: u64) -> Self {
        let mut chance = Chance::new(seed);
        // Its water comes back: what is fed to waste lives by other rules.
        let comes_back: Vec<_> = kinds().iter().filter(|facts| !facts.traits.to_waste).collect();
        let facts = chance.one_of(&comes_back);
        let side = chance.between(220.0, 620.0);
        let shape = Shape::Box {
            length_mm: Millimetres::new(side).unwrap(),
            width_mm: Millimetres::new(side * chance.between(0.6, 1.0)).unwrap(),
            height_mm: Millimetres::new(chance.between(180.0, 420.0)).unwrap(),
        };
        let mut traits = facts.traits;
        traits.drain_back = litres(traits.drain_back.get().min(shape.capacity().get() * 0.25));
        traits.heel = if chance.happens(0.4) { litres(shape.capacity().get() * 0.05) } else { Litres::ZERO };
        let reservoir = Reservoir::suggested(shape, traits.drain_back);
        let measuring = match chance.part() {
            part if part < 0.6 => Measuring::Meter,
            part if part < 0.85 => Measuring::DropKit,
            _ => Measuring::RecipeOnly,
        };
        let methods =
            [TopOffMethod::Plain, TopOffMethod::LightFeed, TopOffMethod::SameStrength, TopOffMethod::Measured];
        let nature = Nature {
            source_ec: chance.between(0.05, 0.55),
            source_ph: chance.between(6.9, 7.9),
            alkalinity: chance.between(25.0, 200.0),
            // Plants that hang over still water are few and small for it: an inch a week has to do.
            drinks: if traits.still() { chance.between(0.004, 0.02) } else { chance.between(0.01, 0.09) },
            eats: chance.between(0.55, 1.15),
            drift: chance.between(-0.3, 0.9),
            acid: chance.between(0.0, 0.2),
            air: if traits.still() { chance.between(0.01, 0.04) } else { chance.between(0.1, 0.6) },
            label: chance.between(0.93, 1.07),
            bottle: chance.between(0.9, 1.1),
            misses: chance.between(0.0, 0.25),
            meter: chance.between(0.985, 1.015),
        };
        let top_off = if measuring == Measuring::Meter { chance.one_of(&methods) } else { TopOffMethod::LightFeed };
        let system = System {
            name: Name::new("Garden").unwrap(),
            kind: facts.key,
            traits,
            ports: facts.ports,
            measuring,
            meter: None,
            refill: facts.refill,
            change_days: facts.change_days,
            source_ec: Conductivity::new((nature.source_ec * 100.0).round() / 100.0).unwrap(),
            methods: Methods {
                top_off,
                ph: if measuring == Measuring::RecipeOnly { PhMethod::RecipeOnly } else { PhMethod::SeparateBatch },
                alkalinity: chance.happens(0.5).then_some(nature.alkalinity.round()),
                change: if seed.is_multiple_of(2) && measuring != Measuring::RecipeOnly {
                    ChangeMethod::Need
                } else {
                    ChangeMethod::Days
                },
                ..Methods::default()
            },
            reservoir,
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
        };
        let crop = chance.one_of(crops());
        let planting = Planting {
            crop: Name::new(&crop.name).unwrap(),
            group: crop.group,
            ports: PortSet::range(1, facts.ports),
            stage: Stage::Vegetative,
            sown_on: None,
            planted_on: "2026-11-01".parse().unwrap(),
            came: None,
            ec_band: None,
            ph_band: None,
            note: None,
        };
        let name = format!(
            "{seed}: {} of {:.0} L, {}, {}, {:?}, {:?}, source {:.2} at {:.0} mg/L, drinks {:.0} %, eats {:.2}",
            facts.key.code(),
            system.full().get(),
            crop.name,
            match measuring {
                Measuring::Meter => "meter",
                Measuring::DropKit => "drop kit",
                Measuring::KitAndMeter => "drop kit and meter",
                Measuring::RecipeOnly => "recipe",
            },
            system.methods.top_off,
            system.refill,
            nature.source_ec,
            nature.alkalinity,
            nature.drinks * 100.0,
            nature.eats,
        );
        let measured = match measuring {
            Measuring::Meter => "meter",
            Measuring::DropKit | Measuring::KitAndMeter => "kit",
            Measuring::RecipeOnly => "recipe",
        };
        Self {
            history: Timeline::always(system.clone()),
            planted: vec![Timeline::always(planting.clone())],
            plantings: vec![planting],
            known: Known::default(),
            calendar: Calendar::weekly(&Weekday::ALL).unwrap(),
            actor: adult(),
            water: Water::source(0.0, &nature),
            nature,
            now: at("2027-01-01 09:00").to_zoned(zone()),
            levels: vec![],
            stood: None,
            last_rise: None,
            dosed_today: 0.0,
            acid_taken: 0.0,
            chance,
            fared: Fared {
                name,
                measuring: measured,
                clogs: seed.is_multiple_of(3),
                by_need: system.methods.change == ChangeMethod::Need,
                ..Fared::default()
            },
            system,
        }
    }

    fn situation(&self) -> Situation<'_> {
        Situation {
            touched: &[],
            planting_ids: &[],
            feed: FeedFacts::default(),
            system: &self.system,
            history: &self.history,
            plantings: &self.plantings,
            planted: Planted(&self.planted),
            known: &self.known,
            calendar: &self.calendar,
            now: &self.now,
            calibrated: Some(self.now.timestamp()),
            actor: &self.actor,
        }
    }

    fn target(&self) -> (f64, f64, f64) {
        let target = self.situation().ec_target().unwrap();
        (target.low.get(), target.aim.get(), target.high.get())
    }

    /// Asks the bench.
    fn ask(&mut self, purpose: Purpose) -> Option<Plan> {
        let found = at_the_bench(&self.situation(), &Ask::new(purpose));
        match found {
            Ok(plan) => Some(plan),
            Err(refusal) => {
                *self.fared.refused.entry(refusal.code.to_string()).or_default() += 1;
                None
            }
        }
    }

    fn log(&mut self, body: Body) {
        let entry =
            Entry { id: Uuid::now_v7(), at: self.now.timestamp(), by: Uuid::nil(), body, amends: None, reason: None };
        entry.body.check(&self.system, &self.actor).unwrap_or_else(|r| panic!("{}: {r}", self.fared.name));
        self.known.apply(&entry, &self.system);
        self.tell(&done(&entry.body));
    }

    fn tell(&mut self, what: &str) {
        let line = format!(
            "{} {:.1} L, EC {:.2}, pH {:.2}: {what}",
            self.now.strftime("%d %b %H:%M"),
            self.water.litres,
            self.water.ec(),
            self.water.ph()
        );
        self.fared.story.push(line.chars().take(400).collect());
    }

    fn later(&mut self, minutes: i64) {
        self.water.air(minutes as f64 / 60.0, self.nature.air);
        self.now = self.now.checked_add(minutes.minutes()).unwrap();
    }

    // ---- what is read

    fn read_level(&mut self) -> f64 {
        let off = self.chance.between(0.995, 1.005);
        (self.water.litres * off).min(self.system.reservoir.shape.capacity().get())
    }

    fn read_ec(&mut self) -> Option<EcReading> {
        let off = self.nature.meter * self.chance.between(0.99, 1.01);
        let value = (self.water.ec() * off * 100.0).round() / 100.0;
        self.system.measuring.ec().then(|| EcReading::worked_out(Conductivity::new(value).unwrap()))
    }

    fn read_ph(&mut self) -> Option<PhReading> {
        let ph = self.water.ph();
        match self.system.measuring {
            Measuring::Meter => {
                let value = ph + self.chance.between(-METER, METER);
                Some(PhReading::Meter(Ph::new((value * 100.0).round() / 100.0).unwrap()))
            }
            Measuring::DropKit | Measuring::KitAndMeter => {
                let low = ((ph * 2.0).floor() / 2.0).clamp(4.0, 8.0);
                Some(PhReading::Kit { low: Ph::new(low).unwrap(), high: Ph::new(low + 0.5).unwrap() })
            }
            Measuring::RecipeOnly => None,
        }
    }

    // ---- what is done

    /// Water and what is in it, as a plan says it was poured.
    fn poured(&mut self, plan: &Plan) {
        let (acid, label) = (self.nature.acid, self.nature.label);
        let rise: f64 = plan
            .doses
            .iter()
            .filter(|dose| dose.what.feeds())
            .map(|dose| dose.rise.unwrap_or(0.0) * dose.amount.value * label)
            .sum();
        let filled_at_rest = self.stood.is_some();
        let stood = self.stood.take().unwrap_or(self.water.litres);
        self.water.take(plan.drain.get());
        let fresh = plan.plain.get() + plan.batch.get();
        self.fared.thrown += plan.drain.get();
        self.fared.filled += fresh;
        let mut batch = Water::source(fresh, &self.nature);
        if fresh > 0.0 {
            batch.feed(rise, acid);
            self.put_batch_right(&mut batch, plan);
        }
        self.water.add(batch);
        if fresh <= 0.0 {
            self.water.feed(rise, acid);
        }
        self.watch_the_roots(stood, filled_at_rest);
    }

    /// Half of the acid, stir, measure, then the rest a little at a time.
    fn put_batch_right(&mut self, batch: &mut Water, plan: &Plan) {
        let Some(dose) = plan.doses.iter().find(|dose| dose.first.is_some()) else {
            return;
        };
        let meq = products().iter().find(|(id, _)| *id == dose.product).unwrap().1.meq.unwrap();
        let (whole, aim) = (dose.amount.value * meq * self.nature.bottle, plan.batch_ph.as_ref().unwrap().value);
        self.acid_taken = 0.0;
        // The first share that the step says, then a little at a time.
        let first = dose.first.unwrap();
        let rest = [0.2, 0.15, 0.15, 0.1, 0.1, 0.1, 0.2, 0.2, 0.3, 0.3];
        // It is measured first, and left alone where it is low enough by itself.
        if batch.ph() + self.chance.between(-METER, METER) <= aim {
            return;
        }
        for part in std::iter::once(first).chain(rest) {
            batch.acid(whole * part);
            self.acid_taken += part;
            if batch.ph() + self.chance.between(-METER, METER) <= aim + 0.1 {
                break;
            }
        }
    }

    /// What was really used is what is written down.
    fn as_taken(&self, batch: Option<Batch>) -> Option<Batch> {
        let mut batch = batch?;
        for used in &mut batch.used {
            if used.what == mopsel_core::mixing::ProductKind::PhDown {
                used.amount.value *= self.acid_taken;
            }
        }
        Some(batch)
    }

    /// The roots that turned into air roots while they stood dry, and the rim.
    fn watch_the_roots(&mut self, stood: f64, filled_at_rest: bool) {
        let now = self.now.timestamp();
        let (rim, home) = (self.system.reservoir.shape.capacity().get(), self.system.traits.drain_back.get());
        let stands = self.water.litres;
        // What is filled while the pump rests holds what will run into the pipes already.
        let home = if filled_at_rest { 0.0 } else { home };
        if stands + home > rim * 1.001 {
            let spilt = format!("{}: {stands:.1} L and {home:.1} L that run home, over {rim:.1} L", self.now.date());
            self.fared.spilt.push(spilt);
        }
        if stands <= stood * 1.001 {
            return;
        }
        let ago = self.last_rise.map_or(999, |at| (now.as_second() - at.as_second()) / 3600);
        let lately = |at: &Timestamp| now.as_second() - at.as_second() <= 3 * 24 * 3600 + 60;
        let line =
            self.levels.iter().filter(|(at, _)| lately(at)).map(|(_, level)| *level).fold(stood.min(rim), f64::max);
        self.levels.push((now, stands));
        let raised =
            format!("{}: from {stood:.2} to {stands:.2} L, line {line:.2}, {ago} h after the last", self.now.date());
        // A dry plant dies sooner than a covered one.
        if stands <= line * 1.02 || stands <= self.system.reservoir.minimum.get() * 1.03 {
            return;
        }
        match self.system.refill {
            RefillMethod::NoLimit => {}
            RefillMethod::OneInch => {
                let shape = &self.system.reservoir.shape;
                let height = |volume: f64| shape.height_of(litres(volume)).unwrap().get();
                let rest = ago < 24 * 7 - 1;
                if height(stands) - height(line) > 25.4 * 1.06 + 2.0 || rest {
                    self.fared.drowned.push(raised);
                }
            }
            // The garden swaps nothing: it pours up to the line.
            RefillMethod::HoldTheLine | RefillMethod::WholeSwap => {
                self.fared.drowned.push(raised);
            }
            RefillMethod::QuarterToHalf => {
                if stands > rim * 0.5 * 1.02 {
                    self.fared.drowned.push(raised);
                }
            }
        }
        self.last_rise = Some(now);
    }

    fn visit(&mut self) -> Visit {
        let level = LevelReading::Volume { litres: litres(self.read_level()), pump_ran: true };
        Visit { level: Some(level), ec: self.read_ec(), ph: self.read_ph(), ..Visit::default() }
    }

    fn top_off(&mut self) {
        let purpose = Purpose::TopOff { from: None, to: None, ec: None, method: None, batch: None };
        let Some(plan) = self.ask(purpose) else { return };
        let Some(Body::Visit(visit)) = plan.entry.clone() else { return };
        self.poured(&plan);
        let visit = Visit { batch: self.as_taken(visit.batch.clone()), ..visit };
        // Whoever pours by the recipe alone does not say how strong it was.
        let visit = match visit.top_off {
            Some(top_off) if self.system.measuring != Measuring::Meter && top_off.water != TopOffWater::Plain => {
                Visit {
                    top_off: Some(mopsel_core::fact::TopOff { water: TopOffWater::Feed { ec: None }, ..top_off }),
                    ..visit
                }
            }
            _ => visit,
        };
        self.log(Body::Visit(visit));
    }

    fn correct_strength(&mut self) -> bool {
        let Some(plan) = self.ask(Purpose::Correction { litres: None, ec: None }) else { return false };
        self.poured_correction(&plan);
        let body = plan.entry.clone().unwrap();
        self.log(body);
        true
    }

    fn poured_correction(&mut self, plan: &Plan) {
        let mut plan = plan.clone();
        // Swapped litres come in as plain water; feed goes into what stands there.
        if plan.drain == Litres::ZERO {
            (plan.plain, plan.batch) = (Litres::ZERO, Litres::ZERO);
        } else {
            plan.batch = Litres::ZERO;
        }
        self.poured(&plan);
    }

    fn correct_ph(&mut self) {
        self.correct_ph_to(None);
    }

    fn correct_ph_to(&mut self, aim: Option<Ph>) {
        for _ in 0..3 {
            let Some(ph) = self.read_ph() else { return };
            let Some(plan) = self.ask(Purpose::Ph { litres: None, ph: Some(ph), aim, product: None, jar: None }) else {
                return;
            };
            let Some(Body::Correction(correction)) = plan.entry.clone() else { return };
            self.dose(&correction.dosed);
            self.log(Body::Correction(correction));
            if self.system.measuring != Measuring::Meter {
                return;
            }
            self.later(50);
            let ph = self.read_ph();
            self.log(Body::Visit(Visit { ph, ..Visit::default() }));
        }
    }

    /// Level, strength and pH by one order: water and feed, then acid, one wait, one entry.
    fn follow_one_order(&mut self) {
        let purpose = Purpose::PutRight { from: None, to: None, ec: None, ph: None };
        let Some(plan) = self.ask(purpose) else { return };
        let Some(Body::Visit(visit)) = plan.entry.clone() else { return };
        if visit.top_off.is_some() && visit.batch.as_ref().is_none_or(|batch| batch.fresh > Litres::ZERO) {
            self.poured(&plan);
        } else {
            self.poured_correction(&plan);
        }
        let batch = self.as_taken(visit.batch.clone());
        if let Some(dosed) = &visit.dosed {
            self.dose(&dosed.dosed);
        }
        self.log(Body::Visit(Visit { batch, ..visit }));
        self.later(50);
        let (ec, ph) = (self.read_ec(), self.read_ph());
        self.log(Body::Visit(Visit { ec, ph, ..Visit::default() }));
    }

    fn dose(&mut self, dosed: &mopsel_core::fact::Used) {
        let meq = products().iter().find(|(id, _)| *id == dosed.product).unwrap().1.meq.unwrap();
        let acid = dosed.amount.value * meq * self.nature.bottle;
        let before = self.water.ph();
        let down = dosed.what == mopsel_core::mixing::ProductKind::PhDown;
        self.water.acid(if down { acid } else { -acid });
        self.dosed_today += self.water.ph() - before;
        // By what was read, which is off by a little at both ends, and with bottles that are stronger than their label.
        // Out of where uptake is blocked it goes as far as half a unit into the band at once.
        let (began, ends) = (self.water.ph() - self.dosed_today, self.water.ph());
        let blocked = (began > 6.9 && ends > 6.1) || (began < 5.1 && ends < 5.9);
        if self.dosed_today.abs() > 1.4 && !blocked {
            self.fared.moved_too_far.push(format!("{}: {:.2}", self.now.date(), self.dosed_today));
        }
        self.fared.doses += 1;
    }

    fn change(&mut self) {
        let heel = self.system.traits.heel;
        let Some(plan) = self.ask(Purpose::Change { litres: None, heel: None, heel_ec: None }) else {
            return;
        };
        let Some(Body::Change(entry)) = plan.entry.clone() else { return };
        self.fared.changes += 1;
        let stood = self.water.litres;
        self.stood = Some(stood);
        let (drain, home) = (self.water.litres - heel.get(), self.system.traits.drain_back.get());
        self.water.take(drain.max(0.0));
        self.fared.thrown += drain.max(0.0);
        self.poured(&Plan { drain: Litres::ZERO, ..plan.clone() });
        // What runs on into the pipes.
        self.water.take(home.min(self.water.litres * 0.5));
        self.later(60);
        let heel = entry.heel.map(|heel| heel.min(litres(stood)));
        let change = Change {
            volume_after: litres(self.read_level()),
            ec: self.read_ec(),
            ph: self.read_ph(),
            heel,
            batch: self.as_taken(entry.batch.clone()),
            ..entry
        };
        let most = self.system.highest();
        let change = Change { volume_after: change.volume_after.min(most), ..change };
        self.log(Body::Change(change));
        self.put_right();
    }

    /// What the verdicts on the present state ask for, as long as they ask.
    fn put_right(&mut self) {
        for _ in 0..4 {
            let asked: Vec<(Subject, String)> = judge_state(&self.situation())
                .into_iter()
                .filter(|(_, verdict)| verdict.tone >= Tone::Act && verdict.todo.is_some())
                .map(|(_, verdict)| (verdict.subject, verdict.code.to_string()))
                .collect();
            let ec = asked.iter().find(|(subject, _)| *subject == Subject::Ec);
            let ph = asked.iter().any(|(subject, _)| *subject == Subject::Ph);
            match ec {
                Some((_, code)) if code.contains("weak") || code.contains("strong") => {
                    if !self.correct_strength() {
                        break;
                    }
                    self.later(50);
                    let (ec, ph) = (self.read_ec(), self.read_ph());
                    self.log(Body::Visit(Visit { ec, ph, ..Visit::default() }));
                }
                _ if ph => {
                    self.correct_ph();
                    break;
                }
                _ => break,
            }
        }
    }

    /// One round: what is due is done.
    fn care(&mut self) {
        let due: Vec<Task> = tasks(&self.situation()).into_iter().filter(|task| task.days_late >= 0).collect();
        self.count(&due);
        self.look(&due);
        let has = |check: Check| due.iter().any(|task| task.check == Some(check));
        let called = due.iter().any(|task| matches!(task.subject, Some(Subject::Level | Subject::Ec | Subject::Ph)));
        if has(Check::Level) || has(Check::Readings) || has(Check::Change) || called {
            let visit = self.visit();
            self.log(Body::Visit(visit));
        } else {
            self.log(Body::Visit(Visit { all_fine: true, ..Visit::default() }));
        }
        let due: Vec<Task> = tasks(&self.situation()).into_iter().filter(|task| task.days_late >= 0).collect();
        if due.iter().any(|task| task.check == Some(Check::Change)) {
            self.change();
        } else if due.iter().any(|task| task.code == "put_right") {
            self.follow_one_order();
        }
        let part = (self.water.litres - self.system.reservoir.minimum.get())
            / (self.system.full() - self.system.reservoir.minimum).get();
        if part < 0.75 {
            self.top_off();
        }
        self.put_right();
    }

    /// What the day's list asks of a person.
    fn count(&mut self, due: &[Task]) {
        let due: Vec<Task> =
            lines(due.to_vec(), &self.situation()).into_iter().filter(|task| counts(task.check)).collect();
        self.fared.lines += u32::try_from(due.len()).unwrap();
        // Somebody looks in on every day.
        self.fared.minutes += 1.0;
        self.fared.minutes += due.iter().map(|task| f64::from(worth(task, 1.0).minutes)).sum::<f64>();
    }

    /// What is looked at, cleaned and shaken on its day: here it is always found to be sound.
    fn look(&mut self, due: &[Task]) {
        let has = |check: Check| due.iter().any(|task| task.check == Some(check));
        let measured = [Check::LookIn, Check::Level, Check::Readings, Check::Change, Check::WaterGlass];
        let looked = [Check::Roots, Check::Plants];
        let ticked = due.iter().filter_map(|task| task.check);
        let done: Vec<Check> = ticked.filter(|check| !measured.contains(check) && !looked.contains(check)).collect();
        let roots = has(Check::Roots).then(Roots::sound);
        let glass = has(Check::WaterGlass).then_some(WaterGlass { clarity: Clarity::Clear, smell: None });
        let plants = has(Check::Plants).then(Plants::default);
        let found = if self.fared.clogs { Meshes::Clogged } else { Meshes::Clean };
        let meshes = has(Check::Filters).then_some(found);
        let visit = Visit { done, roots, glass, plants, meshes, ..Visit::default() };
        if visit != Visit::default() {
            self.log(Body::Visit(visit));
        }
    }

    fn night(&mut self) {
        let weather = self.chance.between(0.6, 1.4);
        let drunk = (self.nature.drinks * self.system.full().get() * weather).min(self.water.litres * 0.6);
        let (_, aim, _) = self.target();
        let eaten = self.nature.eats * aim * self.chance.between(0.85, 1.15);
        // From weak water less is eaten.
        let eaten = eaten * (self.water.ec() / aim).clamp(0.0, 1.0);
        let ate = (eaten * drunk).min(self.water.salt);
        self.water.salt -= ate;
        self.water.litres -= drunk;
        self.water.alkali += self.nature.drift * self.chance.between(0.5, 1.5) * ate;
        self.water.phosphate = (self.water.phosphate - ate * 0.6).max(0.0);
        self.water.air(23.0, self.nature.air);
        if self.water.litres < self.system.reservoir.minimum.get() * 0.95 {
            self.fared.dry += 1;
        }
    }

    /// So many days of care.
    pub fn live(self, days: u32) -> Fared {
        self.lived(days).fared
    }

    /// The garden after so many days of care.
    pub fn lived(mut self, days: u32) -> Self {
        let plan = self.ask(Purpose::FreshFill { litres: Some(self.system.full()) });
        let begin = plan.unwrap_or_else(|| panic!("{}: {:?}", self.fared.name, self.fared.refused));
        self.stood = Some(f64::INFINITY);
        self.poured(&begin);
        let Some(Body::Change(begun)) = begin.entry else { panic!("a filling is a change") };
        self.water.take(self.system.traits.drain_back.get());
        self.later(60);
        let full = self.read_level().min(self.system.highest().get());
        let batch = self.as_taken(begun.batch);
        let change = Change { ec: self.read_ec(), ph: self.read_ph(), batch, ..Change::full(litres(full)) };
        self.log(Body::Change(change));
        self.put_right();
        for day in 1..=days {
            let morning = self.now.date().tomorrow().unwrap().at(9, 0, 0, 0).to_zoned(zone()).unwrap();
            self.now = morning;
            self.dosed_today = 0.0;
            self.night();
            self.levels.push((self.now.timestamp(), self.water.litres));
            if !self.chance.happens(self.nature.misses) {
                self.care();
            }
            if day >= 7 {
                let (low, _, high) = self.target();
                self.fared.days += 1;
                self.fared.ec_in += u32::from((low * 0.96..=high * 1.04).contains(&self.water.ec()));
                self.fared.sour += u32::from(self.water.ph() < 5.2);
                self.fared.ph_in += u32::from((5.4..=6.6).contains(&self.water.ph()));
            }
        }
        self
    }

    /// A closure of so many days after so many days of care, brought through by the cover plan alone.
    pub fn away(self, before: u32, days: i64) -> Away {
        let mut garden = self.lived(before);
        let today = garden.now.date();
        let closed = |n: i64| today.checked_add(n.days()).unwrap();
        let closure = Closure { name: None, from: closed(1), to: closed(days) };
        garden.calendar = Calendar::weekly(&Weekday::ALL).unwrap().without(&[closure]);
        garden.care();
        let stretch = garden.calendar.stretches_from(today)[0];
        assert_eq!((stretch.last_open, stretch.days()), (today, days));
        let (_, covers) = cover_place(stretch, &[garden.situation()]).unwrap();
        let cover = covers.into_iter().next().unwrap();
        garden.leave(&cover);
        let mut away = Away { name: garden.fared.name.clone(), days: days as u32, ..Away::default() };
        let (low, _, high) = garden.target();
        for n in 1..=days {
            garden.now = closed(n).at(9, 0, 0, 0).to_zoned(zone()).unwrap();
            garden.night();
            if let Some(visit) = cover.visits.iter().find(|visit| visit.on == closed(n)) {
                garden.covered(visit.litres.get(), cover.pours.map(Conductivity::get));
                away.visits += 1;
            }
            let (level, vessel) = (garden.water.litres, &garden.system.reservoir);
            let dry = level < vessel.minimum.get() * 0.97;
            let over = level > garden.system.highest().get() * 1.005;
            let reads = garden.system.measuring == Measuring::Meter;
            let strength = reads && !(low * 0.96..=high * 1.04).contains(&garden.water.ec());
            let ph = reads && !(5.4..=6.6).contains(&garden.water.ph());
            away.told += u32::from(cover.holds_until.is_some_and(|until| closed(n) > until));
            if dry || over || strength || ph {
                let told = cover.holds_until.is_some_and(|until| closed(n) > until);
                away.bad += 1;
                away.untold += u32::from(!told);
                let what = [(dry, "dry"), (over, "over"), (strength, "strength"), (ph, "pH")];
                let what: Vec<&str> = what.iter().filter(|(so, _)| *so).map(|(_, what)| *what).collect();
                let (ec, ph) = (garden.water.ec(), garden.water.ph());
                away.story.push(format!(
                    "day {n}: {level:.1} L, EC {ec:.2} of {low:.2}–{high:.2}, pH {ph:.2}: {what:?} told {told}"
                ));
            }
            away.over += u32::from(over);
        }
        away.dry = away.story.iter().filter(|line| line.contains("dry")).count() as u32;
        away
    }

    /// The last open day, as the plan says.
    fn leave(&mut self, cover: &Cover) {
        if let Some(fill) = cover.fill_to {
            let litres = (fill.get() - self.water.litres).max(0.0);
            self.water.add(Water::source(litres, &self.nature));
        }
        if let Some(ec) = cover.strength {
            let wanted = ec.get() * self.chance.between(0.97, 1.03);
            let missing = (wanted - self.water.ec()) * self.water.litres;
            if missing > 0.0 {
                self.water.feed(missing, self.nature.acid);
            } else {
                // Swapped for plain water until it is weak enough.
                let share = ((self.water.ec() - wanted) / (self.water.ec() - self.nature.source_ec)).clamp(0.0, 1.0);
                let litres = self.water.litres * share;
                self.water.take(litres);
                self.water.add(Water::source(litres, &self.nature));
            }
        }
        let (ec, ph) = (self.read_ec(), self.read_ph());
        if ec.is_some() || ph.is_some() {
            self.log(Body::Visit(Visit { ec, ph, ..Visit::default() }));
        }
        if self.system.measuring == Measuring::Meter && self.system.methods.ph != PhMethod::RecipeOnly {
            self.correct_ph_to(cover.ph);
        }
    }

    /// Whoever covers pours what was made ready, to the line and no higher.
    fn covered(&mut self, litres: f64, strength: Option<f64>) {
        let room = (self.system.highest().get() - self.water.litres).max(0.0);
        let litres = litres.min(room) * self.chance.between(0.95, 1.0);
        self.water.add(Water::source(litres, &self.nature));
        if let Some(ec) = strength {
            self.water.feed((ec - self.nature.source_ec).max(0.0) * litres, self.nature.acid);
        }
    }
}

/// What was done, in a few words.
fn done(body: &Body) -> String {
    match body {
        Body::Change(change) => format!("changed, {:.1} L", change.volume_after.get()),
        Body::Correction(correction) => {
            let dosed = &correction.dosed;
            format!("{:.2} mL {} from pH {:.2}", dosed.amount.value, dosed.name.as_str(), correction.from.middle())
        }
        Body::Visit(visit) => {
            let read = |what: Option<String>| what.unwrap_or_default();
            let poured = read(visit.top_off.map(|top_off| format!(" topped off {:.1} L", top_off.litres.get())));
            let drained = read(visit.drained.map(|drained| format!(" drained {:.1} L", drained.get())));
            let fed = if visit.batch.is_some() && visit.top_off.is_none() { " stirred feed in" } else { "" };
            let ec = read(visit.ec.map(|ec| format!(" EC {:.2}", ec.value)));
            let ph = read(visit.ph.map(|ph| format!(" pH {:.2}", ph.middle())));
            let all = format!("{ec}{ph}{drained}{poured}{fed}");
            if all.is_empty() { "looked in".to_owned() } else { format!("read{all}") }
        }
        other => format!("{other:?}"),
    }
}

/// The shares of days in band, over gardens that are measured alike: EC and pH.
pub fn shares(all: &[Fared], measuring: &str) -> (f64, f64) {
    let of: Vec<&Fared> = all.iter().filter(|fared| fared.measuring == measuring).collect();
    let days: u32 = of.iter().map(|fared| fared.days).sum();
    let share = |part: fn(&Fared) -> u32| f64::from(of.iter().map(|f| part(f)).sum::<u32>()) / f64::from(days.max(1));
    (share(|fared| fared.ec_in), share(|fared| fared.ph_in))
}
