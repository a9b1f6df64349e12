//! When a reservoir change is due: at the earliest of several rules. The answer says which rule
//! made it due, and when the others would.

use super::by_need::{Holds, holds, stretched};
use super::cause::came;
use crate::calendar::{add_days, add_whole_days, day};
use crate::crop::{Planting, Stage, ruling};
use crate::fact::{Clarity, Smell, Timeline};
use crate::figures::FIGURES;
use crate::forecast;
use crate::message::{Message, days};
use crate::projection::salts_gather;
use crate::quantity::Litres;
use crate::reservoir::RefillMethod;
use crate::say;
use crate::situation::Situation;
use crate::system::Ripening;
use jiff::civil::Date;

/// A rule that makes a change due.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Rule {
    /// So many days since the last change.
    Days,
    /// The same, halved by warm water.
    WarmDays,
    /// Top-offs since the last change add up to the working volume.
    Turnover,
    /// The whole vessel is swapped before the water gets low.
    Swap,
    /// Cloud, algae, smell, or a spent solution.
    Signs,
    /// Salts gather: EC rises though nothing but plain water is added.
    Salts,
    /// A crop has come to a stage that is fed otherwise.
    Stage,
    /// Root rot is open and the water has not been changed since.
    Disease,
}

/// When the change is due, and by which rule.
#[derive(Debug, Clone, PartialEq)]
pub struct ChangeDue {
    /// The day.
    pub on: Date,
    /// The rule that came first.
    pub rule: Rule,
    /// Why, in a sentence, with what the other rules say.
    pub reason: Message,
}

/// What one rule says: the day, and the words for it.
type Due = (Date, Rule, Message);

/// The earliest of all rules.
#[must_use]
pub fn change_due(s: &Situation<'_>) -> ChangeDue {
    let today = s.today();
    let mut rules = vec![by_days(s)];
    rules.extend(by_turnover(s));
    rules.extend(by_swap(s));
    rules.extend(by_signs(s));
    rules.extend(by_salts(s));
    rules.extend(by_stage(s));
    rules.extend(by_disease(s));
    if s.known.done.first_at.is_none() {
        // What was done before Mopsel came is not known, and so not late.
        rules[0].0 = rules[0].0.max(today);
    }
    rules.sort_by_key(|(on, ..)| *on);
    let (on, rule, first) = rules.remove(0);
    let other = |(on, _, words): Due| say!("change_due.other", rule = words, day = day(on, today));
    let others: Vec<Message> = rules.into_iter().map(other).collect();
    let reason = if others.is_empty() {
        say!("change_due.alone", rule = first)
    } else {
        say!("change_due.first", rule = first, others = others)
    };
    ChangeDue { on, rule, reason }
}

/// The days between two changes as things are: longer where they are by need, and all holds.
pub(super) fn change_every(s: &Situation<'_>) -> i64 {
    let every = i64::from(s.system.change_days);
    if holds(s) == Some(Holds::Yes) { stretched(every) } else { every }
}

fn by_days(s: &Situation<'_>) -> Due {
    let from = s.known.tank.last_change.map_or_else(|| s.began(), |at| s.date(at));
    let every = i64::from(s.system.change_days);
    // Other days make nothing late at once, and nothing less late that was late by those before.
    let set = s.history.said_since(|system| system.change_days == s.system.change_days).map(|at| {
        let before = s.history.as_told(at - jiff::SignedDuration::from_millis(1)).change_days;
        add_days(from, before.into()).min(s.date(at))
    });
    let since = |on: Date| set.map_or(on, |set| on.max(set));
    let (held, longer) = (holds(s), stretched(every));
    let warm = s.known.readings.temperature.map(|t| t.value).filter(|t| t.get() >= FIGURES.water.very_warm);
    if let Some(warm) = warm {
        let halved = ((every as f64 * FIGURES.change.warm_share).floor() as i64).max(1);
        let words =
            say!("change_due.warm", every = days(every as f64), halved = days(halved as f64), temperature = warm);
        // It was not due before anybody read that it is warm, save by its own days.
        let (own, read) = (add_days(from, every), s.known.readings.temperature.map_or(from, |read| s.date(read.at)));
        return (add_days(from, halved).max(read).min(since(own)), Rule::WarmDays, words);
    }
    let usual = since(add_days(from, every));
    let told = days(every as f64);
    match held {
        // The last filling was never changed: there is nothing to stretch.
        Some(Holds::Yes) if s.known.tank.last_change.is_some() => {
            let words = say!("change_due.need", longer = days(longer as f64), every = told);
            (since(add_days(from, longer)), Rule::Days, words)
        }
        Some(Holds::No { since: Some(ended), why }) => {
            // It was not due before it was known that something does not hold, nor later than if all did.
            let on = usual.max(ended.min(add_days(from, longer)));
            (on, Rule::Days, say!("change_due.not_by_need", every = told, why = why))
        }
        Some(Holds::No { since: None, why }) => {
            (usual, Rule::Days, say!("change_due.not_by_need", every = told, why = why))
        }
        _ => {
            // Fixed days instead of need make nothing late at once.
            let fixed = s.history.said_since(|system| system.methods.change == s.system.methods.change);
            let on = fixed.map_or(usual, |at| usual.max(s.date(at).min(add_days(from, longer))));
            (on, Rule::Days, say!("change_due.days", every = told))
        }
    }
}

/// Top-offs replace what is drunk and leave what is not: once they add up to a whole filling, what
/// was left behind has had its time to gather.
fn by_turnover(s: &Situation<'_>) -> Option<Due> {
    // What is fed to waste leaves nothing behind.
    if s.system.traits.to_waste {
        return None;
    }
    let tank = &s.known.tank;
    let held = holds(s);
    let fillings = if held == Some(Holds::Yes) { FIGURES.change.need_turnover } else { FIGURES.change.turnover };
    let whole = s.system.full() * fillings;
    let so_far = tank.topped_off_since_change.unwrap_or(Litres::ZERO) + s.known.supply.fed_since_change();
    let Some(left) = (whole - so_far).positive() else {
        let on = s.date(tank.last_refill()?);
        let ended = match held {
            Some(Holds::No { since, .. }) => since,
            Some(Holds::Yes) | None => None,
        };
        return Some((ended.map_or(on, |ended| on.max(ended)), Rule::Turnover, say!("change_due.turned_over")));
    };
    let a_day = forecast::drinks(s)?.a_day;
    if a_day < s.system.full() * FIGURES.change.turnover_least {
        return None;
    }
    Some((add_whole_days(s.today(), (left / a_day).ceil()), Rule::Turnover, say!("change_due.turnover")))
}

/// Where the whole vessel is swapped, that is done before the water falls to the minimum.
fn by_swap(s: &Situation<'_>) -> Option<Due> {
    let swaps = s.system.refill == RefillMethod::WholeSwap && s.plants() > 0;
    let minimum = forecast::minimum_reached(s).filter(|_| swaps)?;
    Some((s.date(minimum.act_by), Rule::Swap, say!("change_due.swap")))
}

fn by_signs(s: &Situation<'_>) -> Option<Due> {
    if let Some(glass) = s.known.readings.glass {
        let sign = match (glass.value.clarity, glass.value.smell) {
            (_, Some(Smell::Foul)) => Some(say!("change_due.foul")),
            (Clarity::WhiteCloud, _) => Some(say!("change_due.cloud")),
            (Clarity::Green, _) => Some(say!("change_due.green")),
            (Clarity::Brown, _) => Some(say!("change_due.brown")),
            _ => None,
        };
        if let Some(sign) = sign {
            return Some((s.date(glass.at), Rule::Signs, sign));
        }
    }
    let (ec, target) = (s.water().ec()?, s.ec_target()?);
    let at = ec.moved.or(ec.read)?;
    // As it was read, while nothing was poured since; afterwards as it was worked out.
    let value = s.known.tank.ec.filter(|_| ec.moved.is_none()).map_or(ec.high, |dated| dated.value);
    let spent = target.spent(value, s.system.source_ec);
    spent.then(|| (s.date(at), Rule::Signs, say!("change_due.spent", ec = value)))
}

/// Where plants drink more than they eat, what they leave behind gathers: the days are cut short.
fn by_salts(s: &Situation<'_>) -> Option<Due> {
    let tank = &s.known.tank;
    let (now, before) = (tank.full_reading?, tank.ec_before?);
    if s.system.traits.to_waste || !salts_gather(now.value, before.value) {
        return None;
    }
    let from = tank.last_change.map_or_else(|| s.began(), |at| s.date(at));
    let short = (f64::from(s.system.change_days) * FIGURES.change.salts_share).floor().max(1.0);
    let words = say!("change_due.salts", rise = (now.value.0 - before.value.0).size(), shorter = days(short));
    Some((add_whole_days(from, short).max(s.date(now.at)), Rule::Salts, words))
}

/// What a crop is fed from a stage on. Before the first true leaf it is nothing; where EC is read, that is then fed
/// by what is read, and where nobody reads it, by a fresh filling.
fn feed_of(planting: &Planting, s: &Situation<'_>) -> u8 {
    match planting.stage.fed(planting.group, s.system.methods.ripening) {
        Stage::Germinating if !s.system.measuring.ec() => 3,
        Stage::Germinating | Stage::Seedling | Stage::Vegetative | Stage::Done => 0,
        Stage::Flowering | Stage::Fruiting => 1,
        Stage::Ripening => 2,
    }
}

/// A stage that is fed otherwise, come since the last change.
fn by_stage(s: &Situation<'_>) -> Option<Due> {
    let changed = s.known.tank.last_change?;
    let moved = |timeline: &Timeline<Planting>| {
        let pairs = timeline.segments().windows(2);
        let feeds = pairs.filter(|pair| feed_of(&pair[0].says, s) != feed_of(&pair[1].says, s));
        let rules = |planting: &Planting| ruling(s.plantings).contains(&planting);
        let since =
            feeds.filter(|pair| pair[1].start > changed && pair[1].says.stage != Stage::Done && rules(timeline.now()));
        let (start, planting) = since.map(|pair| (pair[1].start, pair[1].says.clone())).next_back()?;
        let known = came(timeline, |said| feed_of(said, s) == feed_of(&planting, s), s);
        Some((s.date(start).max(known), planting))
    };
    let (on, planting) = s.planted.0.iter().filter_map(moved).max_by_key(|(on, _)| *on)?;
    let finisher = planting.stage == Stage::Ripening && s.system.methods.ripening == Ripening::Finisher;
    if finisher {
        let crop = planting.crop.as_str().to_lowercase();
        let words = if s.feed.finisher {
            say!("change_due.finisher", crop = crop)
        } else {
            say!("change_due.finisher_missing", crop = crop)
        };
        return Some((on, Rule::Stage, words));
    }
    let words = say!("change_due.stage", crop = planting.crop.as_str().to_lowercase(), stage = planting.stage.say());
    Some((on, Rule::Stage, words))
}

fn by_disease(s: &Situation<'_>) -> Option<Due> {
    let case = s.known.cases.root_rot()?;
    let changed_since = s.known.tank.last_change.is_some_and(|at| at >= case.opened);
    (!changed_since).then(|| (s.date(case.opened), Rule::Disease, say!("change_due.disease")))
}
