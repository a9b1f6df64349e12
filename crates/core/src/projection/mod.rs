//! Projections: what the log comes to, each small, each in its own file, each with a version.
//!
//! A projection is folded from the entries that count, in order of time, and from nothing else but the
//! system as it was on the day of each entry. It can be kept beside the log, and made anew from it at
//! any time: a changed rule raises its version, and the store rebuilds just that one.

mod cases;
mod done;
mod happenings;
mod lessons;
mod line;
mod readings;
mod salt_ledger;
mod standing;
mod supply;
mod tank;
mod touched;
mod uptake;

pub use cases::{Case, CaseKind, Cases, PlantCase};
pub use done::{Done, Moved, Occasion, Upkeep, usual_minutes};
pub use happenings::{Contact, Happenings, Picked};
pub use lessons::{BatchAcid, Lessons, PhDose, PhProduct, Premixed, mixes_in};
pub use line::{Line, Rise, above};
pub use readings::{Readings, Stopped};
pub use salt_ledger::{SaltLedger, Stretch, TakesUp};
pub use standing::Standing;
pub use supply::{Drum, Supply, SupplyPoint, behind, drinks};
pub use tank::{SeenRunOff, Tank, VolumePoint, salts_gather};
pub use touched::{Touched, touches};
pub use uptake::{Uptake, uptake};

use crate::fact::{Entry, PremixIn, Timeline, effective};
use crate::system::System;
use serde::Serialize;
use serde::de::DeserializeOwned;

/// What every projection does.
pub trait Projection: Default + Serialize + DeserializeOwned {
    /// Applies one more entry, of a system as it was on that day. Entries come in order of time.
    fn apply(&mut self, entry: &Entry, system: &System);
}

/// Which projection.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Part {
    /// When each check was last done.
    Done,
    /// The water that stands there.
    Tank,
    /// What was last read and seen.
    Readings,
    /// Cases of disease.
    Cases,
    /// What the log teaches.
    Lessons,
    /// What happened besides.
    Happenings,
    /// The top-off reservoir behind the float valve.
    Supply,
    /// The water as it stands; folded from the entries and from what the others came to before each.
    Water,
}

impl Part {
    /// Every projection.
    pub const ALL: [Self; 8] = [
        Self::Done,
        Self::Tank,
        Self::Readings,
        Self::Cases,
        Self::Lessons,
        Self::Happenings,
        Self::Supply,
        Self::Water,
    ];

    /// The name under which it is kept.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Done => "done",
            Self::Tank => "tank",
            Self::Readings => "readings",
            Self::Cases => "cases",
            Self::Lessons => "lessons",
            Self::Happenings => "happenings",
            Self::Supply => "supply",
            Self::Water => "water",
        }
    }

    /// Raise it when the shape or the rule of the projection changes.
    #[must_use]
    pub fn version(self) -> i64 {
        match self {
            Self::Happenings | Self::Water => 3,
            Self::Supply | Self::Tank | Self::Cases => 4,
            Self::Lessons | Self::Readings => 7,
            Self::Done => 9,
        }
    }
}

/// Everything that the log of one system comes to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Known {
    /// When each check was last done.
    pub done: Done,
    /// The water that stands there.
    pub tank: Tank,
    /// What was last read and seen.
    pub readings: Readings,
    /// Cases of disease.
    pub cases: Cases,
    /// What the log teaches.
    pub lessons: Lessons,
    /// What happened besides.
    pub happened: Happenings,
    /// The top-off reservoir behind the float valve.
    pub supply: Supply,
    /// The water as it stands, as of the last thing that touched it.
    pub water: Standing,
}

impl Known {
    /// Folds the whole log of a system, each entry on the system as it was on that day.
    #[must_use]
    pub fn fold(entries: &[Entry], system: &Timeline<System>) -> Self {
        let mut known = Self::default();
        for entry in effective(entries) {
            known.apply(entry, system.at(entry.at));
        }
        known
    }

    /// What is known of a system that another's top-off reservoir fills too: what stands there is known at the system that it
    /// belongs to.
    #[must_use]
    pub fn fed_from(mut self, owner: &Self, (owned, system): (&System, &System)) -> Self {
        let times = system.drum_part() / owned.drum_part();
        self.supply = owner.supply.for_other(times);
        self.lessons.behind = owner.lessons.behind.map(|left| left * times);
        let drum = owner.lessons.premixed.filter(|ready| ready.value.into == PremixIn::TopOffReservoir);
        self.lessons.premixed = self.lessons.premixed.or(drum);
        self
    }

    /// Whether something was found amiss that no later look has found mended: a sign on the plants, a fault of
    /// what runs, the water in the glass, an open case.
    #[must_use]
    pub fn amiss(&self) -> bool {
        let seen = &self.readings;
        let plants = seen.plants.as_ref().is_some_and(|plants| !plants.value.signs.is_empty());
        let running = seen.running.is_some_and(|running| running.value.any_fault());
        let glass = seen.glass.is_some_and(|glass| !glass.value.looks_fine());
        plants || running || glass || self.cases.open().is_some()
    }

    /// Folds just one projection anew.
    pub fn refold(&mut self, part: Part, entries: &[Entry], system: &Timeline<System>) {
        match part {
            Part::Done => self.done = folded(entries, system),
            Part::Tank => self.tank = folded(entries, system),
            Part::Readings => self.readings = folded(entries, system),
            Part::Cases => self.cases = folded(entries, system),
            Part::Lessons => self.lessons = folded(entries, system),
            Part::Happenings => self.happened = folded(entries, system),
            Part::Supply => self.supply = folded(entries, system),
            Part::Water => self.water = Self::fold(entries, system).water,
        }
    }

    /// Applies one more entry to all of them. Entries come in order of time.
    pub fn apply(&mut self, entry: &Entry, system: &System) {
        let mut water = std::mem::take(&mut self.water);
        water.apply(entry, system, self);
        self.water = water;
        self.done.apply(entry, system);
        self.tank.apply(entry, system);
        self.readings.apply(entry, system);
        self.cases.apply(entry, system);
        self.lessons.apply(entry, system);
        self.happened.apply(entry, system);
        self.supply.apply(entry, system);
    }

    /// Whether `entry` can be applied on top instead of folding everything again: it is no
    /// amendment, and nothing later has been applied.
    #[must_use]
    pub fn can_apply(&self, entry: &Entry) -> bool {
        entry.amends.is_none() && self.done.last_at.is_none_or(|last| entry.at >= last)
    }

    /// A projection as the text that is kept.
    ///
    /// # Errors
    /// Never for what was folded.
    pub fn write(&self, part: Part) -> serde_json::Result<String> {
        match part {
            Part::Done => serde_json::to_string(&self.done),
            Part::Tank => serde_json::to_string(&self.tank),
            Part::Readings => serde_json::to_string(&self.readings),
            Part::Cases => serde_json::to_string(&self.cases),
            Part::Lessons => serde_json::to_string(&self.lessons),
            Part::Happenings => serde_json::to_string(&self.happened),
            Part::Supply => serde_json::to_string(&self.supply),
            Part::Water => serde_json::to_string(&self.water),
        }
    }

    /// Takes a projection in from the text that was kept.
    ///
    /// # Errors
    /// When the text is none that this version writes.
    pub fn read(&mut self, part: Part, text: &str) -> serde_json::Result<()> {
        match part {
            Part::Done => self.done = serde_json::from_str(text)?,
            Part::Tank => self.tank = serde_json::from_str(text)?,
            Part::Readings => self.readings = serde_json::from_str(text)?,
            Part::Cases => self.cases = serde_json::from_str(text)?,
            Part::Lessons => self.lessons = serde_json::from_str(text)?,
            Part::Happenings => self.happened = serde_json::from_str(text)?,
            Part::Supply => self.supply = serde_json::from_str(text)?,
            Part::Water => self.water = serde_json::from_str(text)?,
        }
        Ok(())
    }

    /// Whether one projection is the same in both.
    #[must_use]
    pub fn same(&self, other: &Self, part: Part) -> bool {
        match part {
            Part::Done => self.done == other.done,
            Part::Tank => self.tank == other.tank,
            Part::Readings => self.readings == other.readings,
            Part::Cases => self.cases == other.cases,
            Part::Lessons => self.lessons == other.lessons,
            Part::Happenings => self.happened == other.happened,
            Part::Supply => self.supply == other.supply,
            Part::Water => self.water == other.water,
        }
    }
}

fn folded<P: Projection>(entries: &[Entry], system: &Timeline<System>) -> P {
    let mut projection = P::default();
    for entry in effective(entries) {
        projection.apply(entry, system.at(entry.at));
    }
    projection
}

/// Keeps the last `most` of a list, oldest first.
fn keep_last<T>(list: &mut Vec<T>, item: T, most: usize) {
    list.push(item);
    if list.len() > most {
        list.remove(0);
    }
}
