//! Whether a vessel carries what grows in it to the harvest, by the way in which it is refilled; and if not, from when on
//! it falls short, and what would help.
//!
//! The days to come are gone through one by one: the plants drink as they grow, somebody looks every so many open days
//! and fills as far as the method lets them. It falls short on the first day that ends below the minimum.

use crate::calendar::{Calendar, add_days, day};
use crate::crop::{Planting, Season, Stage};
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, Param, Unit, count, days, typed};
use crate::quantity::{Litres, Quantity};
use crate::refill::swapped_to;
use crate::reservoir::{RefillMethod, Reservoir, refill_limit};
use crate::say;
use crate::situation::Situation;
use crate::verdict::Tone;
use jiff::civil::Date;
use serde::Serialize;

/// Whether the vessel carries what grows in it.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Carries<W = Message> {
    /// How good that is.
    pub tone: Tone,
    /// Whether it does, and how often somebody has to come.
    pub finding: W,
    /// What they drink by then, and what stands between full and the minimum.
    pub why: W,
    /// What would help, each by itself enough; empty where nothing has to.
    pub helps: Vec<W>,
    /// The first day on which it falls short; absent where it carries them.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = Date)]
    pub short_on: Option<Date>,
}

impl<W> Carries<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Carries<V> {
        Carries {
            tone: self.tone,
            finding: say(self.finding),
            why: say(self.why),
            helps: self.helps.into_iter().map(say).collect(),
            short_on: self.short_on,
        }
    }
}

/// What is gone through day by day.
#[derive(Clone)]
struct Course<'a> {
    plantings: &'a [Planting],
    vessel: &'a Reservoir,
    method: RefillMethod,
    week: Calendar,
    from: Date,
    until: Date,
    /// What stands there at first.
    stands: Litres,
    /// What flows in from behind a float valve between two looks.
    behind: Litres,
    /// What each planting drinks over what is usual.
    shares: Vec<f64>,
    /// How many times as wide the vessel is.
    wide: f64,
    season: Season,
    /// Days between two looks, at least.
    rhythm: i32,
}

/// Days between two looks, the fewest looks first.
const RHYTHMS: [i32; 4] = [7, 3, 2, 1];

impl Course<'_> {
    fn drunk(&self, date: Date) -> Litres {
        let all = (0..self.plantings.len()).map(|n| self.drunk_by(n, date));
        // Twice as wide a vessel is one of this size under half of the plants.
        Litres::calculated(all.sum::<f64>() / self.wide)
    }

    fn drunk_by(&self, n: usize, date: Date) -> f64 {
        self.plantings[n].drinks_on(date, self.season).get() * self.shares[n]
    }

    fn young(&self, date: Date) -> bool {
        let reaches = |p: &Planting| {
            p.stage > Stage::Seedling || f64::from((date - p.growing_since()).get_days()) > FIGURES.refill.young_days
        };
        !self.plantings.iter().any(reaches)
    }

    /// To what it is filled at a look, where the line of the last three days is known.
    fn filled(&self, date: Date, now: Litres, line: Litres, rested: Option<f64>) -> Litres {
        if self.method == RefillMethod::NoLimit || self.young(date) {
            return self.vessel.working.max(now);
        }
        // What is swapped, or filled from a quarter to a half, is so as soon as it would not last until the next look.
        let lasts = (now - self.drunk(date) * f64::from(self.rhythm + 1)).or_nothing();
        if self.method == RefillMethod::WholeSwap && lasts < self.vessel.minimum {
            return swapped_to(self.vessel, line, self.old(date)).max(now);
        }
        if self.method == RefillMethod::QuarterToHalf && lasts < self.vessel.minimum {
            let half = self.vessel.shape.capacity() * FIGURES.refill.fill_to;
            return half.min(self.vessel.maximum).max(now);
        }
        refill_limit(self.method, self.vessel, now, Some(line), rested).up_to
    }

    fn old(&self, date: Date) -> bool {
        self.plantings.iter().any(|p| f64::from((date - p.planted_on).get_days()) > FIGURES.refill.swap_old_days)
    }

    /// The first day that ends below the minimum.
    fn short_on(&self) -> Option<Date> {
        let hold = FIGURES.refill.hold_days as usize;
        let (mut stands, mut highs) = (self.stands, vec![self.stands]);
        let (mut behind, mut rose, mut looked): (Litres, Option<Date>, Option<Date>) = (self.behind, None, None);
        let mut date = self.from;
        while date < self.until {
            let due = looked.is_none_or(|last| (date - last).get_days() >= self.rhythm);
            if due && self.week.is_open(date) {
                looked = Some(date);
                let line = highs.iter().rev().take(hold + 1).copied().reduce(Litres::max).unwrap_or(stands);
                let rested = rose.map(|last| f64::from((date - last).get_days()));
                let filled = self.filled(date, stands, line, rested);
                if filled > line {
                    rose = Some(date);
                }
                (stands, behind) = (filled.max(stands), self.behind);
                highs.push(stands);
            }
            let drunk = self.drunk(date);
            let flows = behind.min(drunk);
            behind = (behind - flows).or_nothing();
            let left = stands + flows;
            if left < self.vessel.minimum + drunk {
                return Some(date);
            }
            stands = (left - drunk).or_nothing();
            highs.push(stands);
            date = add_days(date, 1);
        }
        None
    }

    fn carried(&self) -> bool {
        self.short_on().is_none()
    }
}

/// Whether the vessel carries what grows in it. `beside` is planted with it, though nobody has said so yet. `None` where
/// nothing grows.
#[must_use]
pub fn carries(s: &Situation<'_>, beside: Option<&Planting>) -> Option<Carries> {
    // What a timer feeds is filled up as often as it runs out.
    if s.system.traits.to_waste {
        return None;
    }
    let standing = s.plantings.iter().chain(beside).filter(|planting| planting.stage != Stage::Done);
    let plantings: Vec<Planting> = standing.cloned().collect();
    let plants: usize = plantings.iter().map(|planting| planting.ports.len()).sum();
    let newest = plantings.iter().map(|planting| planting.planted_on).max().filter(|_| plants > 0)?;
    let vessel = s.system.vessel();
    let from = beside.map_or(s.today(), |planting| planting.planted_on.max(s.today()));
    let harvest = plantings.iter().map(|p| add_days(p.growing_since(), p.days_to_harvest() as i64)).max()?;
    let empty = s.plants() == 0;
    let standing = s.water().litres().map(|about| about.value).filter(|_| !empty);
    // A vessel whose drum nobody has measured is taken as supplied.
    let behind = match s.known.supply.full(s.system).filter(|_| s.system.traits.top_off_reservoir) {
        Some(filled) => filled,
        None if s.system.traits.top_off_reservoir => return None,
        None => Litres::ZERO,
    };
    let here = drinks_here(s);
    let course = Course {
        plantings: &plantings,
        vessel: &vessel,
        method: s.system.refill,
        week: s.calendar.week(),
        from,
        until: harvest.clamp(add_days(from, LOOK_AHEAD), add_days(from, LOOK_AT_MOST)),
        // Where it stands below its minimum today, that is said by the level.
        stands: standing.unwrap_or(vessel.working).max(vessel.minimum),
        behind,
        shares: plantings.iter().map(|planting| if beside == Some(planting) { here.max(1.0) } else { here }).collect(),
        wide: 1.0,
        season: Season::BRIGHT,
        rhythm: 1,
    };
    Some(judged(&course, plants, newest, s))
}

/// Days between two looks at a vessel that is large enough.
const ROOMY: i32 = 3;
/// So far ahead is looked also where the first harvest is near or past, in days.
const LOOK_AHEAD: i64 = 14;
/// And no further than this: no crop of the list takes longer.
const LOOK_AT_MOST: i64 = 200;

/// How much more than usual what grows here has drunk, by what was measured: 1 where that is not known.
fn drinks_here(s: &Situation<'_>) -> f64 {
    let usual: f64 = s.plantings.iter().map(|planting| planting.drinks_on(s.today(), Season::BRIGHT).get()).sum();
    let measured = forecast::drinks(s).filter(|uptake| uptake.intervals >= 2);
    match measured {
        // Small plants lose less than the air takes: that says nothing of them grown.
        Some(uptake) if usual > FIGURES.uptake.grown_enough * s.system.full().get() => {
            (uptake.high.get() / usual).clamp(0.5, 2.0)
        }
        _ => 1.0,
    }
}

fn judged(course: &Course<'_>, plants: usize, newest: Date, s: &Situation<'_>) -> Carries {
    let usual = Course { season: Season::USUAL, ..course.clone() };
    let week = |date: Date| count(u64::try_from((date - newest).get_days() / 7 + 1).unwrap_or(1));
    let between = (course.vessel.working - course.vessel.minimum).or_nothing() + course.behind;
    let a_day = |date: Date| Param::Number(course.drunk(date).get(), Unit::LitresADay);
    let by = |date: Date| say!("carries.why", a_day = a_day(date), between = between);
    let grown = || say!("carries.why_grown", a_day = a_day(add_days(course.until, -1)), between = between);
    let what = || crops(course.plantings, plants);
    if let Some(short) = usual.short_on().or_else(|| course.short_on()) {
        let always = usual.short_on().is_some();
        let (code, tone) = if always { ("carries.short", Tone::Act) } else { ("carries.short_bright", Tone::Watch) };
        let finding =
            Message::new(code).with("what", what()).with("day", day(short, s.today())).with("week", week(short));
        let helps = helps(if always { &usual } else { course }, short, s);
        return Carries { tone, finding, why: by(short), helps, short_on: Some(short) };
    }
    let at = |rhythm: i32| Course { rhythm, ..course.clone() };
    let rhythm = RHYTHMS.into_iter().find(|rhythm| at(*rhythm).carried()).unwrap_or(1);
    let wider = RHYTHMS.into_iter().rev().find(|wider| *wider > rhythm);
    match wider.and_then(|wider| at(wider).short_on()) {
        Some(from) => {
            let tone = if rhythm == 1 { Tone::Watch } else { Tone::Fine };
            let finding = say!("carries.often", what = what(), day = day(from, s.today()), every = days(rhythm));
            Carries { tone, finding, why: grown(), helps: Vec::new(), short_on: None }
        }
        None => {
            let finding = say!("carries.weekly", what = what());
            Carries { tone: Tone::Fine, finding, why: grown(), helps: Vec::new(), short_on: None }
        }
    }
}

/// What grows, as it is said: its number and its crop, or only the number where there are several.
fn crops(plantings: &[Planting], plants: usize) -> Message {
    let first = plantings.first().map_or("", |planting| planting.crop.as_str());
    if plantings.iter().all(|planting| planting.crop.as_str().eq_ignore_ascii_case(first)) {
        return say!("carries.of_one", plants = count(plants), crop = typed(&first.to_lowercase()));
    }
    say!("carries.of_several", plants = count(plants))
}

/// Fewer of those that drink the most by then, or none of them beside what else grows there.
fn fewer(course: &Course<'_>, short: Date) -> Option<Message> {
    let many = 0..course.plantings.len();
    let most = many.max_by(|a, b| course.drunk_by(*a, short).total_cmp(&course.drunk_by(*b, short)))?;
    let (planting, least) = (&course.plantings[most], usize::from(course.plantings.len() == 1));
    let (plants, crop) = (planting.ports.len(), planting.crop.as_str().to_lowercase());
    let enough = |n: &usize| {
        let mut with = course.clone();
        with.shares[most] *= *n as f64 / plants as f64;
        with.carried()
    };
    let n = (least..plants).rev().find(enough)?;
    Some(match n {
        0 => say!("carries.none_of", crop = typed(&crop)),
        _ => say!("carries.fewer", fewer = count(n), plants = count(plants), crop = typed(&crop)),
    })
}

/// What would carry them, each by itself, reckoned like the rest.
fn helps(course: &Course<'_>, short: Date, s: &Situation<'_>) -> Vec<Message> {
    let mut all = Vec::new();
    all.extend(fewer(course, short));
    let other = |method: RefillMethod| method != course.method && Course { method, ..course.clone() }.carried();
    if s.system.traits.still() {
        let schools = [
            (RefillMethod::HoldTheLine, "carries.hold_the_line"),
            (RefillMethod::OneInch, "carries.one_inch"),
            (RefillMethod::WholeSwap, "carries.whole_swap"),
        ];
        all.extend(schools.into_iter().filter(|(method, _)| other(*method)).map(|(_, code)| Message::new(code)));
    }
    if s.system.traits.still() && other(RefillMethod::NoLimit) {
        all.push(say!("carries.air"));
    }
    if s.system.traits.circulates && !s.system.traits.top_off_reservoir {
        let most = course.drunk(add_days(course.until, -1));
        all.push(say!("carries.valve", a_day = Param::Number(most.get(), Unit::LitresADay)));
    }
    let capacity = course.vessel.shape.capacity();
    // Whoever buys another one does not want to fill it every day.
    let roomy = |wide: f64| Course { wide, rhythm: ROOMY, season: Season::BRIGHT, ..course.clone() };
    let sizes = std::iter::successors(Some(1.25), |wide| Some(wide * 1.1)).take(60);
    let wide = sizes.into_iter().find(|wide| roomy(*wide).carried());
    if let Some(wide) = wide {
        // Nobody buys a vessel to the tenth of a litre.
        let litres = (capacity * wide).get();
        let litres = if litres > 10.0 { (litres / 5.0).ceil() * 5.0 } else { litres };
        all.push(say!("carries.larger", litres = Litres::calculated(litres), every = days(ROOMY)));
    }
    all
}
