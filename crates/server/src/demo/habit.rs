//! Weeks of ordinary care, made from habits: which check was last done when, how fast the plants
//! drink, where pH and EC drift. Everything is computed from the day; nothing is drawn by lot.

use super::id;
use jiff::civil::Time;
use jiff::{Timestamp, Zoned};
use mopsel_core::calendar::{Weekday, add_days};
use mopsel_core::fact::{Body, Change, Clarity, Entry, Plants, Roots, Smell, TopOff, TopOffWater, Visit, WaterGlass};
use mopsel_core::projection::Known;
use mopsel_core::quantity::{Celsius, Conductivity, EcReading, EcScale, Litres, Millimetres, Ph, PhReading};
use mopsel_core::reservoir::LevelReading;
use mopsel_core::system::{Check, System};
use std::collections::BTreeMap;

/// How far back the demo reaches.
pub const WEEKS: i64 = 10;

/// The habits of one system's keeper.
pub struct Habit {
    /// Days ago that each check was last done, over the usual ones.
    pub last: BTreeMap<Check, i64>,
    /// Days ago of the last change.
    pub changed: i64,
    /// Litres drunk a day.
    pub drinks: f64,
    /// pH after a change and its drift a day; `None` where nothing is measured.
    pub ph: Option<(f64, f64)>,
    /// EC after a change and its drift a day; `None` where it is not measured.
    pub ec: Option<(f64, f64)>,
    /// Temperature.
    pub warm: f64,
    /// Whether top-offs carry feed.
    pub feed: bool,
    /// Days ago of the last top-off; none later.
    pub topped: i64,
    /// The most that one top-off adds.
    pub most: f64,
    /// Reads pH by drop kit.
    pub kit: bool,
    /// EC scale of the meter.
    pub scale: EcScale,
}

/// The log of one system as it is told.
pub struct Story<'a> {
    name: &'a str,
    place: &'a str,
    system: &'a System,
    open: Vec<Weekday>,
    now: &'a Zoned,
    entries: Vec<Entry>,
}

/// A small wobble that is the same every time: −1 to 1.
fn wobble(day: i64, seed: f64) -> f64 {
    (day as f64 * 1.7 + seed).sin()
}

impl<'a> Story<'a> {
    /// An empty story.
    pub fn new(name: &'a str, place: &'a str, system: &'a System, open: Vec<Weekday>, now: &'a Zoned) -> Self {
        Self { name, place, system, open, now, entries: vec![] }
    }

    /// The entries in order of time.
    pub fn end(mut self) -> Vec<Entry> {
        self.entries.sort_by_key(|entry| entry.at);
        let mut known = Known::default();
        for entry in &mut self.entries {
            if let Body::Visit(visit) = &mut entry.body
                && visit.all_fine
                && known.amiss()
            {
                // Nobody says that all is fine over what was found and is not mended yet.
                visit.all_fine = false;
                visit.running.get_or_insert_default().dry_floor.get_or_insert(true);
            }
            known.apply(entry, self.system);
        }
        self.entries
    }

    fn at(&self, days_ago: i64, hour: i8, minute: i8) -> Timestamp {
        let date = add_days(self.now.date(), -days_ago);
        let time = Time::new(hour, minute, 0, 0).unwrap_or(Time::midnight());
        date.to_datetime(time).to_zoned(self.now.time_zone().clone()).map_or(self.now.timestamp(), |z| z.timestamp())
    }

    fn is_open(&self, days_ago: i64) -> bool {
        self.open.contains(&Weekday::of(add_days(self.now.date(), -days_ago)))
    }

    /// Tells one thing that happened.
    pub fn tell(&mut self, days_ago: i64, (hour, minute): (i8, i8), who: &str, body: Body) {
        let at = self.at(days_ago, hour, minute);
        let number = self.entries.len();
        self.entries.push(Entry {
            id: id(&format!("{}/{number}", self.name)),
            at,
            by: id(&format!("{}/{who}", self.place)),
            body,
            amends: None,
            reason: None,
        });
    }

    /// Tells the ordinary care of all the weeks, up to the days that the habit names.
    pub fn live(&mut self, habit: &Habit) {
        let mut volume = self.system.reservoir.working.get();
        let mut since_change = (WEEKS * 7 - habit.changed) % i64::from(self.system.change_days);
        for day in (0..=WEEKS * 7).rev() {
            if day < WEEKS * 7 {
                volume -= habit.drinks * (1.0 + 0.12 * wobble(day, habit.drinks));
            }
            volume = volume.max(self.system.reservoir.minimum.get() * 0.9);
            if day >= habit.changed && (day - habit.changed) % i64::from(self.system.change_days) == 0 {
                since_change = 0;
                volume = self.system.reservoir.working.get();
                self.tell(day, (9, 10), "Wren", Body::Change(self.changed(habit, volume)));
            }
            if self.is_open(day) {
                let visit = self.ordinary(habit, day, since_change, &mut volume);
                if visit != Visit::default() {
                    let hour = if day == 0 { (7, 10) } else { (8, 5) };
                    self.tell(day, hour, "Wren", Body::Visit(visit));
                }
            }
            since_change += 1;
        }
    }

    fn changed(&self, habit: &Habit, volume: f64) -> Change {
        Change {
            ph: habit.ph.filter(|_| !habit.kit).map(|(ph, _)| meter(ph)),
            ec: habit.ec.map(|(ec, _)| reading(ec, habit.scale)),
            temperature: habit.ph.map(|_| Celsius::constant(habit.warm)),
            ..Change::full(Litres::constant(volume))
        }
    }

    fn due(&self, habit: &Habit, check: Check, day: i64) -> bool {
        let Some(every) = check.usual_days(&self.system.traits, self.system.measuring).map(i64::from) else {
            return false;
        };
        let every = self.system.intervals.get(&check).map_or(every, |own| i64::from(*own));
        let usual = (if every == 1 { 1 } else { 2 }..7).find(|day| self.is_open(*day)).unwrap_or(2);
        let named =
            habit.last.get(&check).map(|named| (*named..named + 7).find(|day| self.is_open(*day)).unwrap_or(*named));
        let last = named.unwrap_or(usual);
        let falls = |on: i64| on >= last && (on - last) % every == 0;
        // What falls on closed days is done on the first open one after them, but nothing after the last
        // time that is told of.
        let caught_up = || (1..7).take_while(|back| !self.is_open(day + back)).any(|back| falls(day + back));
        falls(day) || (day >= named.unwrap_or(0) && caught_up())
    }

    fn ordinary(&self, habit: &Habit, day: i64, since_change: i64, volume: &mut f64) -> Visit {
        let due = |check| self.due(habit, check, day);
        let mut visit = Visit { all_fine: due(Check::LookIn), ..Visit::default() };
        if due(Check::Readings) {
            let drifted =
                |(start, drift): (f64, f64), seed: f64| start + drift * since_change as f64 + 0.03 * wobble(day, seed);
            visit.ph = habit.ph.map(|ph| drifted(ph, 1.0)).map(|ph| if habit.kit { kit(ph) } else { meter(ph) });
            visit.ec = habit.ec.map(|ec| reading(drifted(ec, 2.0), habit.scale));
            visit.temperature =
                habit.ph.map(|_| Celsius::constant(((habit.warm + 0.6 * wobble(day, 3.0)) * 10.0).round() / 10.0));
        }
        if due(Check::Level) {
            visit.level = Some(self.level(*volume));
            let room = (self.system.reservoir.working.get() - *volume).min(habit.most);
            if day >= habit.topped && room > 0.3 {
                let litres = (room * 10.0).round() / 10.0;
                let water = if habit.feed {
                    TopOffWater::Feed { ec: habit.ec.map(|(ec, _)| Conductivity::constant(ec * 0.8)) }
                } else {
                    TopOffWater::Plain
                };
                visit.top_off = Some(TopOff { litres: Litres::constant(litres), water });
                *volume += litres;
            }
        }
        if due(Check::WaterGlass) {
            visit.glass = Some(WaterGlass {
                clarity: if day % 2 == 0 { Clarity::Clear } else { Clarity::Tinted },
                smell: Some(Smell::Fresh),
            });
        }
        if due(Check::Roots) {
            visit.roots = Some(Roots::sound());
        }
        if due(Check::Plants) {
            visit.plants = Some(Plants::default());
        }
        for check in [
            Check::Pests,
            Check::Stone,
            Check::Filters,
            Check::Sprayers,
            Check::WipeDown,
            Check::Light,
            Check::Calibrate,
            Check::Pollinate,
            Check::TieUp,
        ] {
            let only_where_named = matches!(check, Check::Pollinate | Check::TieUp) && !habit.last.contains_key(&check);
            if due(check) && !only_where_named {
                visit.done.push(check);
            }
        }
        visit
    }

    /// A level as it would be read here: a height where the vessel has one.
    fn level(&self, volume: f64) -> LevelReading {
        let volume = Litres::constant(volume);
        match self.system.reservoir.shape.height_of(volume) {
            Some(height) => {
                LevelReading::Height { height_mm: Millimetres::constant(height.get().round()), pump_ran: true }
            }
            None => {
                LevelReading::Volume { litres: Litres::constant((volume.get() * 10.0).round() / 10.0), pump_ran: true }
            }
        }
    }
}

/// A pH off a meter.
pub fn meter(ph: f64) -> PhReading {
    PhReading::Meter(Ph::constant((ph * 100.0).round() / 100.0))
}

/// A pH off a drop kit with colours half a unit apart.
pub fn kit(ph: f64) -> PhReading {
    let low = (ph * 2.0).floor() / 2.0;
    PhReading::Kit { low: Ph::constant(low), high: Ph::constant(low + 0.5) }
}

/// An EC as it stands on a meter with that scale.
pub fn reading(ec: f64, scale: EcScale) -> EcReading {
    let value = ec * scale.per_ms_cm();
    let value =
        if scale == EcScale::MilliSiemens { (value * 100.0).round() / 100.0 } else { (value / 10.0).round() * 10.0 };
    EcReading { value, scale, compensated: true }
}
