//! Gathers what is seen and what the log knows besides: each as one clue, with its figure and its age.

use super::clues::{Clue, Clues};
use super::since::outdated;
use crate::calendar::{day, days_between};
use crate::crop::{EcTarget, Planting, Stage};
use crate::dosing::doses_tank;
use crate::fact::{Clarity, Plants, RootStage, Running, Smell, Visit, WaterGlass};
use crate::figures::FIGURES;
use crate::message::{Param, Unit};
use crate::projection::{Rise, Standing, salts_gather};
use crate::quantity::{About, Celsius, Conductivity, Litres, Millimetres, Ph, band};
use crate::reach::dry;
use crate::reservoir::one_inch_up;
use crate::say;
use crate::situation::Situation;
use crate::system::{PhMethod, SourceWater};
use jiff::Timestamp;

/// Gathers clues, each finding once: what comes first stands.
struct Gatherer<'a> {
    s: &'a Situation<'a>,
    seen: Vec<Clue>,
}

impl Gatherer<'_> {
    fn add(&mut self, clue: Clue) {
        if !self.seen.iter().any(|known| known.finding == clue.finding) {
            self.seen.push(clue);
        }
    }

    fn when(&self, at: Timestamp) -> Param {
        day(self.s.date(at), self.s.today())
    }

    /// Whether something was seen so lately that it still holds.
    fn fresh(&self, at: Timestamp, days: f64) -> bool {
        let age = days_between(at, self.s.now.timestamp());
        (-1.0..=days).contains(&age)
    }

    fn dated(&mut self, finding: &'static str, at: Timestamp) {
        let when = self.when(at);
        self.add(Clue::with(finding, say!("explain.seen_on", day = when)));
    }

    /// What the lamp gives, as it was typed now or last seen.
    fn lamp(&mut self, hours: Option<(f64, Timestamp)>, gap: Option<(Millimetres, Timestamp)>) {
        let (Some(target), figures) = (self.s.light_target(), &FIGURES.light) else { return };
        if let Some((hours, at)) = hours.filter(|(_, at)| self.fresh(*at, FIGURES.diagnosis.lamp_days)) {
            let short = hours < target.hours[0] - figures.hours_off;
            let when = self.when(at);
            let said = say!("explain.read_on", value = Param::Number(hours, Unit::Hours), day = when);
            self.add(Clue::with(if short { "lamp_short" } else { "lamp_long_enough" }, said));
        }
        if let Some((gap, at)) = gap.filter(|(_, at)| self.fresh(*at, FIGURES.diagnosis.lamp_days)) {
            let finding = match gap.get() {
                gap if gap > target.gap[1].get() + figures.gap_off => "lamp_far",
                gap if gap < target.gap[0].get() - figures.gap_off => "lamp_near",
                _ => "lamp_right",
            };
            let when = self.when(at);
            self.add(Clue::with(finding, say!("explain.read_on", value = gap, day = when)));
        }
    }

    /// What is seen on the plants now, or was at an earlier look.
    fn plants(&mut self, plants: &Plants, at: Option<Timestamp>) {
        for sign in &plants.signs {
            match at {
                Some(at) => self.dated(sign.code(), at),
                None => self.add(Clue::of(sign.code())),
            }
        }
        if let Some(spread) = plants.spread {
            self.add(Clue::of(spread.finding()));
        }
        if let Some(course) = plants.course {
            self.add(Clue::of(course.finding()));
        }
        if let Some(since) = plants.since {
            self.add(Clue::of(since.finding()));
        }
    }

    fn roots(&mut self, stage: RootStage, tan: bool, at: Timestamp) {
        let finding = match stage {
            RootStage::Sound if tan => "roots_tan",
            RootStage::Sound => "roots_sound",
            RootStage::Clumping => "roots_clumping",
            RootStage::Film => "roots_film",
            RootStage::Rotted => "roots_rotted",
        };
        self.dated(finding, at);
    }

    fn glass(&mut self, glass: WaterGlass, at: Timestamp) {
        let finding = match glass.clarity {
            Clarity::Clear | Clarity::Tinted => "glass_clear",
            Clarity::WhiteCloud => "glass_white",
            Clarity::Green => "glass_green",
            Clarity::Brown => "glass_brown",
        };
        self.dated(finding, at);
        match glass.smell {
            Some(Smell::Foul) => self.dated("smell_foul", at),
            Some(_) => self.dated("smell_fresh", at),
            None => {}
        }
    }

    fn running(&mut self, running: Running, at: Timestamp) {
        let traits = self.s.system.traits;
        let air =
            [running.bubbles.filter(|_| traits.aerated), running.water_sounds_right.filter(|_| traits.circulates)];
        if air.contains(&Some(false)) {
            self.dated("air_off", at);
        } else if air.contains(&Some(true)) {
            self.dated("air_strong", at);
        }
        match running.outlets_wet.filter(|_| traits.sprayers) {
            Some(true) => self.dated("outlets_wet", at),
            Some(false) => self.dated("outlet_dry", at),
            None => {}
        }
        match running.timer_right.filter(|_| traits.light) {
            Some(true) => self.dated("timer_right", at),
            Some(false) => self.dated("timer_wrong", at),
            None => {}
        }
    }

    fn warmth(&mut self, temperature: Celsius, at: Timestamp) {
        let figures = &FIGURES.water;
        let finding = match temperature.get() {
            warm if warm >= figures.warm => "water_warm",
            cold if cold < figures.cold => "water_cold",
            _ => "water_mild",
        };
        let when = self.when(at);
        self.add(Clue::with(finding, say!("explain.read_on", value = temperature, day = when)));
    }

    fn level(&mut self, about: About<Litres>) {
        let minimum = self.s.system.reservoir.minimum;
        let finding = if about.high < minimum {
            "level_low"
        } else if about.low >= minimum {
            "level_right"
        } else {
            return;
        };
        self.add(Clue::with(finding, about.say()));
    }

    fn strength(&mut self, about: About<Conductivity>) {
        let s = self.s;
        let target = s.ec_target().filter(EcTarget::feeds);
        let finding = match &target {
            // Where the source alone fills the band, its strength tells of no spent feed.
            Some(target) if target.spent(about.high, s.system.source_ec) => "ec_at_source",
            Some(target) if about.high < target.low => "ec_low",
            Some(target) if about.low > target.high => "ec_high",
            Some(target) if about.low >= target.low && about.high <= target.high => "ec_in_band",
            _ => return,
        };
        let detail = match &target {
            Some(target) => say!("explain.of_band", value = about, band = band(target.low, target.high)),
            None => about.say(),
        };
        self.add(Clue::with(finding, detail));
    }

    fn acidity(&mut self, about: About<Ph>) {
        let (figures, wanted) = (&FIGURES.ph, self.s.ph_band());
        let finding = if about.low.get() > figures.blocked_above {
            "ph_high"
        } else if about.high.get() < figures.blocked_below {
            "ph_low"
        } else if about.low >= wanted.low && about.high <= wanted.high {
            "ph_in_band"
        } else {
            return;
        };
        self.add(Clue::with(finding, about.say()));
    }

    /// What was done lately: a change, a dose, another source, a raised line.
    fn events(&mut self) {
        let (s, figures) = (self.s, &FIGURES.diagnosis);
        let known = s.known;
        if let Some(at) = known.tank.last_change {
            let age = days_between(at, s.now.timestamp());
            if age <= figures.lately_days {
                self.dated("change_lately", at);
            } else if age >= figures.old_water_days {
                self.dated("change_long_ago", at);
            }
        }
        let doses = known.lessons.ph_doses.last().map(|dose| dose.at);
        let treated = known.cases.all.iter().filter_map(|case| case.treated).max();
        match doses.max(treated).filter(|at| self.fresh(*at, figures.lately_days)) {
            Some(at) => self.dated("dosed_lately", at),
            None => self.add(Clue::of("nothing_dosed")),
        }
        let happened = &known.happened;
        if let Some(sprayed) = happened.sprayed.last().filter(|dated| self.fresh(dated.at, figures.sprayed_days)) {
            let when = self.when(sprayed.at);
            self.add(Clue::with("sprayed_lately", say!("explain.sprayed", with = sprayed.value.say(), day = when)));
        }
        if let Some(at) = happened.moved.filter(|at| self.fresh(*at, figures.planted_days)) {
            self.dated("moved_lately", at);
        }
        if let Some(touched) = s.suspect_of().first() {
            let (name, when) = (&touched.name, self.when(touched.at));
            self.add(Clue::with("touched_ill", say!("explain.touched", name = name, day = when)));
        }
        if let Some((at, ..)) = s.source_changed() {
            self.dated("source_changed", at);
        }
        if let Some(at) = self.raised() {
            self.dated("raised_lately", at);
        }
        let healed = known.cases.all.iter().filter_map(|case| case.closed).max();
        if let Some(at) = healed.filter(|at| self.fresh(*at, figures.rot_days)) {
            self.dated("rot_before", at);
        }
        let readings = known.tank.full_reading.zip(known.tank.ec_before);
        if readings.is_some_and(|(now, before)| salts_gather(now.value, before.value)) {
            self.add(Clue::of("ec_rising"));
        }
    }

    /// When still water was last raised by more than its roots can bear.
    fn raised(&self) -> Option<Timestamp> {
        let s = self.s;
        if s.system.traits.aerated || s.system.traits.circulates {
            return None;
        }
        let over = |rise: &&Rise| {
            // Where nobody read it, an inch is taken at the working line.
            let from = rise.line.unwrap_or((s.system.full() - rise.by).or_nothing());
            rise.by > (one_inch_up(&s.system.reservoir, from) - from).or_nothing() * OVER_AN_INCH
        };
        let lately = |rise: &&Rise| self.fresh(rise.at, FIGURES.diagnosis.raised_days);
        s.known.tank.line.rises().iter().filter(lately).rfind(over).map(|rise| rise.at)
    }

    /// What the system is, and what grows in it.
    fn setting(&mut self) {
        let (s, figures) = (self.s, &FIGURES.diagnosis);
        let traits = &s.system.traits;
        self.add(Clue::of(if traits.opaque { "opaque_covered" } else { "light_leak" }));
        if traits.light {
            self.add(Clue::of("lamp"));
        }
        let tap = s.system.methods.source == SourceWater::Tap;
        self.add(Clue::of(if tap { "tap_as_it_comes" } else { "no_tap" }));
        let standing: Vec<_> = s.plantings.iter().filter(|planting| planting.stage != Stage::Done).collect();
        let age = |on: jiff::civil::Date| f64::from((s.today() - on).get_days());
        let youngest = standing.iter().map(|planting| age(planting.planted_on)).reduce(f64::min);
        if youngest.is_some_and(|age| (0.0..=figures.planted_days).contains(&age)) {
            self.add(Clue::of("planted_lately"));
        } else if youngest.is_some_and(|age| age >= figures.settled_days) {
            self.add(Clue::of("long_planted"));
        }
        let any = |so: &dyn Fn(&Planting) -> bool| standing.iter().any(|planting| so(planting));
        if let Some(dry) = dry(s).first() {
            let detail = say!("explain.hangs_dry", roots = dry.roots, gap = dry.gap, crop = &dry.planting.crop);
            self.add(Clue::with("hangs_dry", detail));
        }
        if any(&|planting| planting.stage <= Stage::Seedling) {
            self.add(Clue::of("seedling"));
        }
        if any(&|planting| planting.stage == Stage::Fruiting) {
            self.add(Clue::of("fruiting_now"));
        }
        if any(&|planting| {
            planting
                .facts()
                .is_some_and(|crop| age(planting.growing_since()) > f64::from(crop.days) * figures.past_harvest)
        }) {
            self.add(Clue::of("past_harvest"));
        }
        if s.plantings.iter().any(|planting| planting.stage == Stage::Done) {
            self.add(Clue::of("dead_roots_left"));
        }
        self.feed(&standing);
    }

    /// What the feed in use is made of.
    fn feed(&mut self, standing: &[&Planting]) {
        let s = self.s;
        let leaf = !standing.is_empty() && standing.iter().all(|planting| planting.stage <= Stage::Vegetative);
        if leaf && s.feed.known {
            self.add(Clue::of(if s.feed.bloom { "bloom_feed" } else { "stage_feed" }));
        }
        if s.feed.without_calcium && s.system.source_ec.get() < FIGURES.strength.soft {
            self.add(Clue::of("soft_without_calcium"));
        }
    }
}

/// Raised by more than this share of an inch over it is raised too far; a level is not read closer.
const OVER_AN_INCH: f64 = 1.2;

/// Gathers what is known around the plants of a system, with what was typed on a visit before what was seen
/// earlier.
#[must_use]
pub fn gather(s: &Situation<'_>, visit: Option<&Visit>) -> Clues {
    let (figures, now, readings) = (&FIGURES.diagnosis, s.now.timestamp(), &s.known.readings);
    let mut all = Gatherer { s, seen: Vec::new() };
    // What was seen earlier is explained by the water of then, not by that of now.
    let typed = visit.and_then(|visit| visit.plants.as_ref()).map(|plants| (plants, None));
    let earlier = || readings.plants.as_ref().filter(|_| outdated(s).is_none());
    let plants = typed.or_else(|| earlier().map(|dated| (&dated.value, Some(dated.at))));
    plants.iter().for_each(|(plants, at)| all.plants(plants, *at));
    match visit.and_then(|visit| visit.roots.as_ref()).and_then(|roots| Some((roots.stage()?, roots.answers))) {
        Some((stage, answers)) => all.roots(stage, answers.stained(), now),
        None => {
            let seen = readings.roots.filter(|dated| all.fresh(dated.at, figures.roots_days));
            seen.iter().for_each(|dated| all.roots(dated.value.0, false, dated.at));
        }
    }
    match visit.and_then(|visit| visit.glass) {
        Some(glass) => all.glass(glass, now),
        None => {
            let seen = readings.glass.filter(|dated| all.fresh(dated.at, figures.glass_days));
            seen.iter().for_each(|dated| all.glass(dated.value, dated.at));
        }
    }
    // A part that is answered now goes before what was heard of it earlier.
    let ran = readings.running.filter(|dated| all.fresh(dated.at, figures.running_days));
    match (visit.and_then(|visit| visit.running), ran) {
        (Some(typed), earlier) => all.running(typed.over(earlier.map(|dated| dated.value).unwrap_or_default()), now),
        (None, Some(earlier)) => all.running(earlier.value, earlier.at),
        (None, None) => {}
    }
    match visit.and_then(|visit| visit.temperature) {
        Some(temperature) => all.warmth(temperature, now),
        None => {
            let read = readings.temperature.filter(|dated| all.fresh(dated.at, figures.warmth_days));
            read.iter().for_each(|dated| all.warmth(dated.value, dated.at));
        }
    }
    let lamp = visit.and_then(|visit| visit.lamp).unwrap_or_default();
    let hours = lamp.hours.map(|hours| (hours, now)).or(readings.lamp_hours.map(|dated| (dated.value, dated.at)));
    let gap = lamp.gap.map(|gap| (gap, now)).or(readings.lamp_gap.map(|dated| (dated.value, dated.at)));
    all.lamp(hours, gap);
    let mut water: Standing = s.water();
    if let Some(visit) = visit {
        water.read(now, visit, s.system);
    }
    water.litres().iter().for_each(|litres| all.level(*litres));
    water.ec().iter().for_each(|ec| all.strength(*ec));
    water.ph().iter().for_each(|ph| all.acidity(*ph));
    all.events();
    all.setting();
    let seen = all.seen;
    let absent = plants.map(|(plants, _)| plants.absent.iter().map(|sign| sign.code()).collect()).unwrap_or_default();
    let standing = || s.plantings.iter().filter(|planting| planting.stage != Stage::Done);
    Clues {
        seen,
        absent,
        traits: Some(s.system.traits),
        measuring: Some(s.system.measuring),
        groups: standing().map(|planting| planting.group).collect(),
        stages: standing().map(|planting| planting.stage).collect(),
        crops: standing().filter_map(Planting::facts).collect(),
        doses_ph: doses_tank(s) || s.system.methods.ph == PhMethod::Drum,
        child: s.actor.is_child(),
        open: s.known.cases.open_plants().map(|(case, _)| case.cause.clone()).collect(),
    }
}
