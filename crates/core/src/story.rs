//! The story of a crop run, from planting on to the last harvest: its days by stage, what it drank and was fed by its
//! share of the ports, what ailed it, what it gave.
//!
//! Several crops on one water drink from it together; what each took nobody measures. The share is by ports: a
//! planting in 4 of the 10 ports that stood there on the day is told 4 tenths of what was poured.

use crate::calendar::{day, local_date};
use crate::crop::{Planting, Stage};
use crate::fact::{Batch, Body, CaseOutcome, Change, Entry, Timeline, Used, effective};
use crate::message::{Message, Param, Unit, count, days};
use crate::mixing::Price;
use crate::projection::{Known, Picked};
use crate::quantity::{AmountUnit, Litres, Name};
use crate::say;
use crate::situation::Situation;
use crate::system::PortSet;
use jiff::Timestamp;
use serde::Serialize;
use std::collections::BTreeMap;
use uuid::Uuid;

/// How long it stood at a stage.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct StageStood<W = Message> {
    /// The stage.
    pub stage: W,
    /// From which day.
    pub from: W,
    /// For how many days.
    pub days: u32,
}

/// The story of one crop run.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Story<W = Message> {
    /// The crop.
    #[schema(value_type = String)]
    pub crop: Name,
    /// Its ports.
    #[schema(value_type = String)]
    pub ports: PortSet,
    /// Whether it is over.
    pub over: bool,
    /// Days from planting on until now, or until it was over.
    pub days: u32,
    /// The whole in a sentence or two.
    pub told: W,
    /// Its stages in order.
    pub stages: Vec<StageStood<W>>,
    /// What was poured in while it stood, its share by ports.
    pub water: W,
    /// What was fed and dosed, its share by ports.
    pub products: Vec<W>,
    /// Visits and changes of the water.
    pub work: W,
    /// How long it took, its share by ports, where anybody wrote it down.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub minutes: Option<W>,
    /// What its products cost, by money, where they have a price.
    pub cost: Vec<W>,
    /// What ailed the system meanwhile.
    pub cases: Vec<W>,
    /// What died, or was thrown away.
    pub lost: Vec<W>,
    /// What was picked.
    pub harvest: W,
}

impl<W> Story<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Story<V> {
        let all = |list: Vec<W>| list.into_iter().map(say).collect();
        Story {
            crop: self.crop,
            ports: self.ports,
            over: self.over,
            days: self.days,
            told: say(self.told),
            stages: self
                .stages
                .into_iter()
                .map(|stood| StageStood { stage: say(stood.stage), from: say(stood.from), days: stood.days })
                .collect(),
            water: say(self.water),
            products: all(self.products),
            work: say(self.work),
            minutes: self.minutes.map(say),
            cost: all(self.cost),
            cases: all(self.cases),
            lost: all(self.lost),
            harvest: say(self.harvest),
        }
    }
}

/// What was poured, summed by its share.
#[derive(Default)]
struct Sums {
    water: f64,
    products: BTreeMap<Uuid, (Name, f64, AmountUnit)>,
    visits: u32,
    changes: u32,
    /// Minutes, and of how many visits they were written down.
    minutes: (f64, u32),
}

impl Sums {
    fn used(&mut self, used: &Used, share: f64) {
        let (name, amount) = (used.name.clone(), used.amount);
        let sum = self.products.entry(used.product).or_insert((name, 0.0, amount.unit));
        sum.1 += amount.value * share;
    }

    fn batch(&mut self, batch: Option<&Batch>, share: f64) {
        batch.iter().flat_map(|batch| &batch.used).for_each(|used| self.used(used, share));
    }

    fn change(&mut self, change: &Change, share: f64) {
        self.changes += 1;
        let fresh = (change.volume_after - change.heel.unwrap_or(Litres::ZERO)).or_nothing();
        self.water += fresh.get() * share;
        self.batch(change.batch.as_ref(), share);
    }

    fn entry(&mut self, entry: &Entry, share: f64) {
        match &entry.body {
            Body::Visit(visit) => {
                self.visits += 1;
                if let Some(minutes) = visit.minutes {
                    self.minutes.0 += f64::from(minutes) * share;
                    self.minutes.1 += 1;
                }
                self.water += visit.top_off.map_or(0.0, |top_off| top_off.litres.get()) * share;
                self.batch(visit.batch.as_ref(), share);
                if let Some(dosed) = &visit.dosed {
                    self.used(&dosed.dosed, share);
                }
            }
            Body::Change(change) => self.change(change, share),
            Body::Correction(correction) => self.used(&correction.dosed, share),
            // What is mixed ahead is poured later.
            Body::Premix(_)
            | Body::Treatment(_)
            | Body::Withdrawn {}
            | Body::Sensed(_)
            | Body::FromNewer
            | Body::Unreadable => {}
        }
    }
}

/// The span of a planting: from planting on until it was done or put away; `None` for the end while it stands.
#[must_use]
pub fn span(timeline: &Timeline<Planting>, s: &Situation<'_>) -> (Timestamp, Option<Timestamp>) {
    let planted = timeline.now().planted_on;
    let from = crate::calendar::start_of(planted, s.now.time_zone());
    let over = |archived: bool, stage: Stage| archived || stage == Stage::Done;
    let segments = timeline.segments();
    let end = segments.iter().rev().take_while(|segment| over(segment.archived, segment.says.stage)).last();
    (from, end.map(|segment| segment.start.max(from)))
}

/// The share of some ports in all that stood there at a moment.
#[must_use]
pub fn share(ports: &PortSet, at: Timestamp, s: &Situation<'_>) -> f64 {
    let standing = s.planted.at(at, local_date(at, s.now)).filter(|planting| planting.stage != Stage::Done);
    let all: usize = standing.map(|planting| planting.ports.len()).sum();
    if all == 0 { 1.0 } else { (ports.len() as f64 / all as f64).min(1.0) }
}

fn stages(timeline: &Timeline<Planting>, from: Timestamp, to: Timestamp, s: &Situation<'_>) -> Vec<StageStood> {
    let mut stood: Vec<(Stage, Timestamp)> = Vec::new();
    for segment in timeline.segments().iter().filter(|segment| segment.start < to) {
        let start = segment.start.max(from);
        if stood.last().is_none_or(|(stage, _)| *stage != segment.says.stage) && segment.says.stage != Stage::Done {
            stood.push((segment.says.stage, start));
        }
    }
    let ends = stood.iter().skip(1).map(|(_, start)| *start).chain([to]).collect::<Vec<_>>();
    let each = stood.iter().zip(ends).map(|((stage, start), end)| StageStood {
        stage: say!("story.stage", stage = stage.say()),
        from: say!("story.since", day = day(s.date(*start), s.today())),
        days: between(*start, end, s),
    });
    each.collect()
}

fn between(from: Timestamp, to: Timestamp, s: &Situation<'_>) -> u32 {
    u32::try_from((s.date(to) - s.date(from)).get_days()).unwrap_or(0)
}

fn lost<'a>(s: &'a Situation<'_>) -> impl Fn(&(Timestamp, PortSet)) -> Message + 'a {
    |(at, ports)| say!("story.lost", ports = ports.say(), day = day(s.date(*at), s.today()))
}

/// The last millisecond of what was so.
fn just_before(at: Timestamp) -> Timestamp {
    Timestamp::from_millisecond(at.as_millisecond() - 1).unwrap_or(at)
}

fn said_harvest(picked: Option<&Picked>) -> Message {
    let Some(picked) = picked else { return say!("story.no_harvest") };
    let mut of: Vec<Message> = Vec::new();
    if picked.grams > 0.0 {
        of.push(say!("entry.harvest_grams", grams = Param::Number(picked.grams, Unit::Grams)));
    }
    if picked.pieces > 0 {
        of.push(say!("entry.harvest_pieces", pieces = count(picked.pieces)));
    }
    if of.is_empty() {
        say!("story.picked", times = count(picked.times))
    } else {
        say!("story.picked_of", of = of, times = count(picked.times))
    }
}

fn cases(known: &Known, from: Timestamp, to: Timestamp, s: &Situation<'_>) -> Vec<Message> {
    let rot = known.cases.all.iter().map(|case| (case.opened, case.closed, Message::of("cause", "root_rot", "name")));
    let plants =
        known.cases.plants.iter().filter(|case| case.looks.first().is_some_and(|l| l.1 == CaseOutcome::Opened));
    let plants = plants.map(|case| (case.opened, case.closed, Message::of("cause", &case.cause, "name")));
    let mut all: Vec<_> = rot.chain(plants).filter(|(at, ..)| (from..=to).contains(at)).collect();
    all.sort_by_key(|(at, ..)| *at);
    let each = all.into_iter().map(|(opened, closed, case)| {
        let since = day(s.date(opened), s.today());
        match closed {
            Some(at) => say!("story.case", case = case, since = since, lasted = days(between(opened, at, s))),
            None => say!("story.case_open", case = case, since = since),
        }
    });
    each.collect()
}

/// What was used costs, by money, with how much of it has a price.
fn cost(products: &BTreeMap<Uuid, (Name, f64, AmountUnit)>, prices: &BTreeMap<Uuid, Price>) -> Vec<Message> {
    let mut sums: BTreeMap<&str, (&Name, f64, usize)> = BTreeMap::new();
    for (id, (_, amount, _)) in products {
        if let Some(price) = prices.get(id) {
            let sum = sums.entry(price.money.as_str()).or_insert((&price.money, 0.0, 0));
            sum.1 += price.of(*amount);
            sum.2 += 1;
        }
    }
    let all = count(products.len());
    let each = sums.into_values().map(|(money, sum, priced)| {
        say!(
            "story.cost",
            sum = Param::Number(sum, Unit::TwoDecimals),
            money = money,
            priced = count(priced),
            all = all.clone()
        )
    });
    each.collect()
}

/// Tells the story of a planting from the log of its system; only up to a moment, where it went on elsewhere then. `prices`
/// are those of products that have one.
#[must_use]
pub fn story(
    id: Uuid,
    timeline: &Timeline<Planting>,
    entries: &[Entry],
    prices: &BTreeMap<Uuid, Price>,
    until: Option<Timestamp>,
    s: &Situation<'_>,
) -> Story {
    let (from, end) = span(timeline, s);
    let end = until.map(|until| end.map_or(until, |end| end.min(until)).max(from)).or(end);
    let to = end.unwrap_or_else(|| s.now.timestamp());
    let planting = until.map_or(timeline.now(), |until| timeline.at(just_before(until)));
    let mut sums = Sums::default();
    for entry in effective(entries).into_iter().filter(|entry| (from..=to).contains(&entry.at)) {
        sums.entry(entry, share(&timeline.at(entry.at).ports, entry.at, s));
    }
    let days_stood = between(from, to, s);
    let picked = s.known.happened.picked.get(&id);
    let harvest = said_harvest(picked);
    let (crop, since) = (&planting.crop, day(planting.planted_on, s.today()));
    let litres = Param::Number(sums.water, Unit::Litres);
    let told = if end.is_some() {
        say!("story.over", crop = crop, since = since, days = days(days_stood), harvest = harvest.clone())
    } else {
        say!("story.goes_on", crop = crop, since = since, days = days(days_stood), harvest = harvest.clone())
    };
    let product = |(name, sum, unit): &(Name, f64, AmountUnit)| {
        say!("story.product", name = name, amount = Param::Number(*sum, unit.unit()))
    };
    Story {
        crop: planting.crop.clone(),
        ports: planting.ports.clone(),
        over: end.is_some(),
        days: days_stood,
        told,
        stages: stages(timeline, from, to, s),
        water: say!("story.water", litres = litres),
        products: sums.products.values().map(product).collect(),
        work: say!("story.work", visits = count(sums.visits), changes = count(sums.changes)),
        minutes: (sums.minutes.1 > 0).then(|| {
            let minutes = count(sums.minutes.0.round() as u32);
            say!("story.minutes", minutes = minutes, of = count(sums.minutes.1), visits = count(sums.visits))
        }),
        cost: cost(&sums.products, prices),
        cases: cases(s.known, from, to, s),
        lost: s.known.happened.lost.get(&id).into_iter().flatten().filter(|(at, _)| *at <= to).map(lost(s)).collect(),
        harvest,
    }
}
