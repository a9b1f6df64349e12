//! What can be said of a number while Mopsel does not answer: for each number that is typed at the tank, the ranges in
//! which its verdict stays the same for the coming days. A device keeps the table and looks a number up in it.
//!
//! It holds what the core would say of that number alone. A number of which the verdict turns within the time that a row is
//! for is in no range: of it nothing is said. No amount stands in it, for what was poured meanwhile by others is not known
//! there; a dose waits for the answer.

use super::one_order::told;
use crate::crop::Planting;
use crate::fact::{Subject, TopOff, TopOffWater, Visit};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::quantity::{Celsius, Conductivity, Litres, Millimetres, Ph, PhReading, band};
use crate::reservoir::{LevelReading, RefillMethod};
use crate::say;
use crate::situation::Situation;
use crate::system::PhMethod;
use crate::verdict::{
    Before, Rank, Tone, Verdict, judge_level, judge_ph_of, judge_read_ec, judge_temperature_of, judge_top_off,
};
use jiff::{Timestamp, ToSpan, Zoned};
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use strum::VariantArray;

/// A number as it is typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, VariantArray, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Typed {
    /// Litres in the vessel with the pump running.
    Volume,
    /// Height of the water in millimetres, with the pump running.
    Height,
    /// Degrees Celsius.
    Temperature,
    /// pH by a meter.
    Ph,
    /// pH by a drop kit: the lower of its two colours.
    PhKit,
    /// mS/cm at 25 °C.
    Ec,
    /// Litres of plain water poured in, where no level was read before.
    Added,
}

/// What can be said of numbers until then.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct JudgingTable<W = Message> {
    /// When it was made: what was known then.
    #[schema(value_type = String, format = DateTime)]
    pub made: Timestamp,
    /// Nothing is said after this.
    #[schema(value_type = String, format = DateTime)]
    pub until: Timestamp,
    /// Whether it is said to a child.
    pub child: bool,
    /// For each number, one row after the other in time.
    pub rows: Vec<JudgedRow<W>>,
}

/// What can be said of one number, from the row before it on until then.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct JudgedRow<W = Message> {
    /// Of which number.
    pub typed: Typed,
    /// Up to this moment.
    #[schema(value_type = String, format = DateTime)]
    pub until: Timestamp,
    /// By value.
    pub ranges: Vec<JudgedRange<W>>,
}

/// One verdict, between two values.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct JudgedRange<W = Message> {
    /// From this value on.
    pub from: f64,
    /// Up to this value, and no longer at it.
    pub below: f64,
    /// About what.
    pub subject: Subject,
    /// The verdict's code.
    pub code: Cow<'static, str>,
    /// How much it asks.
    pub tone: Tone,
    /// What it comes before.
    pub rank: Rank,
    /// What was found, without the number.
    pub finding: W,
    /// What to do, without an amount.
    pub next: W,
}

impl<W> JudgingTable<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> JudgingTable<V> {
        let range = |r: JudgedRange<W>| JudgedRange {
            from: r.from,
            below: r.below,
            subject: r.subject,
            code: r.code,
            tone: r.tone,
            rank: r.rank,
            finding: say(r.finding),
            next: say(r.next),
        };
        let row = |row: JudgedRow<W>| JudgedRow {
            typed: row.typed,
            until: row.until,
            ranges: row.ranges.into_iter().map(range).collect(),
        };
        JudgingTable {
            made: self.made,
            until: self.until,
            child: self.child,
            rows: self.rows.into_iter().map(row).collect(),
        }
    }

    /// What can be said of a number typed at a moment; `None` where nothing can.
    #[must_use]
    pub fn look_up(&self, typed: Typed, value: f64, at: Timestamp) -> Option<&JudgedRange<W>> {
        let row = self.rows.iter().find(|row| row.typed == typed && at <= row.until)?;
        row.ranges.iter().find(|range| range.from <= value && value < range.below)
    }
}

/// The moments at which the verdicts are looked at, in hours from now: a day, then two, then four, each with its middle.
const HOURS: [i64; 7] = [0, 12, 24, 48, 72, 120, 168];

/// The table for a system, from now on for a week.
#[must_use]
pub fn judging_table(s: &Situation<'_>) -> JudgingTable {
    let begins = s.now.timestamp();
    // At the end of time there is no later.
    let later = |hours: &i64| s.now.checked_add(hours.hours()).unwrap_or_else(|_| s.now.clone());
    let moments: Vec<Zoned> = HOURS.iter().map(later).collect();
    let plantings: Vec<Vec<Planting>> =
        moments.iter().map(|now| s.planted.at(now.timestamp(), now.date()).cloned().collect()).collect();
    let thens: Vec<Situation<'_>> =
        moments.iter().zip(&plantings).map(|(now, plantings)| Situation { now, plantings, ..*s }).collect();
    let mut rows: Vec<JudgedRow> = Vec::new();
    for typed in Typed::VARIANTS {
        let marks = marks(*typed, s);
        // Two spans share the moment between them, and each is looked at in its middle as well.
        for span in thens.windows(3).step_by(2) {
            let (ranges, until) = (ranges(*typed, &marks, span), span[2].now.timestamp());
            match rows.last_mut().filter(|row| row.typed == *typed && row.ranges == ranges) {
                Some(same) => same.until = until,
                None => rows.push(JudgedRow { typed: *typed, until, ranges }),
            }
        }
    }
    rows.retain(|row| !row.ranges.is_empty());
    let until = moments.last().map_or(begins, Zoned::timestamp);
    JudgingTable { made: begins, until, child: s.actor.is_child(), rows }
}

/// The values at which the verdicts are looked at: an even row over all that can be typed, and the lines of the vessel.
fn marks(typed: Typed, s: &Situation<'_>) -> Vec<f64> {
    let reservoir = &s.system.reservoir;
    let even = |to: f64, steps: u32| (0..=steps).map(move |i| to * f64::from(i) / f64::from(steps));
    let rim = reservoir.shape.capacity().get();
    let lines = [reservoir.minimum, s.system.full(), s.system.highest()];
    let marked = lines.iter().filter_map(|litres| reservoir.shape.height_of(*litres)).map(Millimetres::get);
    let mut all: Vec<f64> = match typed {
        Typed::Volume | Typed::Added => even(rim, 50).chain(lines.map(Litres::get)).collect(),
        Typed::Height => {
            reservoir.shape.height().map_or_else(Vec::new, |high| even(high.get(), 60).chain(marked).collect())
        }
        Typed::Temperature => even(45.0, 45).collect(),
        Typed::Ph => even(14.0, 140).collect(),
        Typed::PhKit => {
            let (low, step) = (FIGURES.ph.kit_low, FIGURES.ph.kit_step);
            let bands = ((FIGURES.ph.kit_high - low) / step).round().max(0.0) as u32;
            (0..bands).map(|n| low + f64::from(n) * step).collect()
        }
        Typed::Ec => even(12.0, 120).collect(),
    };
    all.sort_by(f64::total_cmp);
    all
}

/// What tells two verdicts apart.
type Key = (Cow<'static, str>, Tone, Rank, Message, Message);

/// What is said of a value throughout a span; `None` where it turns within it, or cannot be.
fn key(typed: Typed, value: f64, span: &[Situation<'_>]) -> Option<(Subject, Key)> {
    let mut found: Option<(Subject, Key)> = None;
    for s in span {
        let verdict = told(judged(typed, value, s)?, s);
        let (finding, next) = sentences(&verdict, s)?;
        let here = (verdict.subject, (verdict.code, verdict.tone, verdict.rank, finding, next));
        if found.as_ref().is_some_and(|found| *found != here) {
            return None;
        }
        found = Some(here);
    }
    found
}

/// Where the verdict is the same, from mark to mark, each end found to a thousandth.
fn ranges(typed: Typed, marks: &[f64], span: &[Situation<'_>]) -> Vec<JudgedRange> {
    let mut all: Vec<JudgedRange> = Vec::new();
    let mut push = |from: f64, below: f64, said: Option<(Subject, Key)>| {
        let Some((subject, (code, tone, rank, finding, next))) = said.filter(|_| from < below) else { return };
        all.push(JudgedRange { from, below, subject, code, tone, rank, finding, next });
    };
    if typed == Typed::PhKit {
        for low in marks {
            push(*low, low + FIGURES.ph.kit_step / 2.0, key(typed, *low, span));
        }
        return all;
    }
    let Some((first, last)) = marks.first().zip(marks.last()) else { return all };
    let (mut from, mut said) = (*first, key(typed, *first, span));
    for pair in marks.windows(2) {
        let (mut low, high) = (pair[0], pair[1]);
        let end = key(typed, high, span);
        while said != end {
            let (same, other) = turn(low, high, |value| key(typed, value, span) == said);
            push(from, same.next_up(), said);
            (from, low, said) = (other, other, key(typed, other, span));
        }
    }
    // The last value that can be typed belongs to it.
    push(from, last.next_up(), said);
    all
}

/// The last value between two that still says the same as the first, and the next one after it: steps of what can be typed,
/// between which nothing is said.
fn turn(low: f64, high: f64, says_so: impl Fn(f64) -> bool) -> (f64, f64) {
    let (mut same, mut other) = (low, high);
    loop {
        let middle = (f64::midpoint(same, other) / STEP).round() * STEP;
        // Nothing is typed between the two.
        if middle <= same || middle >= other || other - same <= STEP {
            return (same, other);
        }
        if says_so(middle) { same = middle } else { other = middle }
    }
}

/// What is typed is no finer than this, in the units of the table.
const STEP: f64 = 0.001;

/// The verdict on one number alone.
fn judged(typed: Typed, value: f64, s: &Situation<'_>) -> Option<Verdict> {
    let system = s.system;
    let at = |reading: LevelReading| reading.volume(&system.reservoir, system.traits.drain_back).ok();
    let (now, litres) = (s.now.timestamp(), || s.water().litres());
    match typed {
        Typed::Volume => {
            let litres = Litres::new(value).ok()?;
            Some(judge_level(at(LevelReading::Volume { litres, pump_ran: true })?, s))
        }
        Typed::Height => {
            let height_mm = Millimetres::new(value).ok()?;
            Some(judge_level(at(LevelReading::Height { height_mm, pump_ran: true })?, s))
        }
        Typed::Temperature => Some(judge_temperature_of(Celsius::new(value).ok()?, litres(), s)),
        Typed::Ph => Some(judge_ph_of(PhReading::Meter(Ph::new(value).ok()?), None, litres(), s)),
        Typed::PhKit => {
            let reading =
                PhReading::Kit { low: Ph::new(value).ok()?, high: Ph::new(value + FIGURES.ph.kit_step).ok()? };
            Some(judge_ph_of(reading, None, litres(), s))
        }
        Typed::Ec => Some(judge_read_ec(Conductivity::new(value).ok()?, litres(), None, s)),
        Typed::Added => {
            let top_off = TopOff { litres: Litres::new(value).ok()?, water: TopOffWater::Plain };
            let visit = Visit { top_off: Some(top_off), ..Visit::default() };
            let mut standing = s.water();
            let before = Before { litres: standing.litres(), ec: standing.ec() };
            standing.pour(now, &visit, s.known, system);
            Some(judge_top_off(top_off, &before, &standing, &visit, s))
        }
    }
}

/// A verdict in two sentences without its number and without an amount; `None` for one that is not said so.
fn sentences(verdict: &Verdict, s: &Situation<'_>) -> Option<(Message, Message)> {
    let (reservoir, free) = (&s.system.reservoir, s.system.refill == RefillMethod::NoLimit);
    let (minimum, working, maximum) = (reservoir.minimum, s.system.full(), s.system.highest());
    let as_told = || verdict.next.clone();
    let ph = || band(s.ph_band().low, s.ph_band().high);
    let ec = || s.ec_target().map(|target| band(target.low, target.high));
    // The change that is due takes it in.
    let taken = verdict.todo.is_none() && verdict.tone >= Tone::Act;
    let dosed = || match s.system.methods.ph {
        _ if taken => as_told(),
        PhMethod::Drum if verdict.tone == Tone::Watch => as_told(),
        _ => say!("judging.dose_waits"),
    };
    let waits = || if taken { as_told() } else { say!("judging.amount_waits") };
    Some(match verdict.code.as_ref() {
        "verdict.level.over" => {
            (say!("judging.level.over", maximum = maximum), say!("judging.level.over_next", working = working))
        }
        "verdict.level.below" if free => {
            (say!("judging.level.below", minimum = minimum), say!("judging.level.below_next", working = working))
        }
        "verdict.level.below" => {
            (say!("judging.level.below", minimum = minimum), say!("judging.level.below_limited_next"))
        }
        "verdict.level.over_line" => (say!("judging.level.over_line", working = working), as_told()),
        "verdict.level.low" => (say!("judging.level.low", minimum = minimum), say!("judging.level.low_next")),
        "verdict.level.right" => (say!("judging.level.right"), as_told()),
        // Far too warm, an amount to swap is worked out beside it.
        "verdict.temperature.very_warm" => {
            (say!("judging.temperature.very_warm"), say!("verdict.temperature.very_warm_next"))
        }
        "verdict.temperature.warm" => (say!("judging.temperature.warm"), as_told()),
        "verdict.temperature.cold" => (say!("judging.temperature.cold"), as_told()),
        "verdict.temperature.right" => (say!("judging.temperature.right"), as_told()),
        "verdict.ph.probe" => (say!("judging.probe"), as_told()),
        "verdict.ph.right" => (say!("judging.ph.right", band = ph()), as_told()),
        "verdict.ph.edge" => (say!("judging.ph.edge", band = ph()), as_told()),
        "verdict.ph.high" => (say!("judging.ph.high", band = ph()), dosed()),
        "verdict.ph.low" => (say!("judging.ph.low", band = ph()), dosed()),
        "verdict.ec.probe_high" | "verdict.ec.probe_low" => (say!("judging.probe"), as_told()),
        "verdict.ec.nothing_planted" => (say!("judging.ec.nothing_planted"), as_told()),
        "verdict.ec.hard_source" => (say!("judging.ec.hard_source"), waits()),
        "verdict.ec.spent" => (say!("judging.ec.spent"), as_told()),
        "verdict.ec.weak" => (say!("judging.ec.weak", band = ec()?), waits()),
        "verdict.ec.strong" => (say!("judging.ec.strong", band = ec()?), waits()),
        "verdict.ec.right" => (say!("judging.ec.right", band = ec()?), as_told()),
        "verdict.top_off.unread" => (say!("judging.top_off.unread"), as_told()),
        "verdict.top_off.over" => (say!("judging.top_off.over", maximum = maximum), say!("judging.top_off.over_next")),
        "verdict.top_off.past_limit" => (say!("judging.top_off.past_limit"), say!("judging.top_off.past_limit_next")),
        "verdict.top_off.right" | "verdict.top_off.right_at" if verdict.tone == Tone::Fine => {
            // What was poured since is not known here: poured twice by this, it would be too much.
            (say!("judging.top_off.right"), say!("judging.top_off.right_next"))
        }
        "verdict.top_off.right" | "verdict.top_off.right_at" => (say!("judging.top_off.strength"), waits()),
        _ => return None,
    })
}
