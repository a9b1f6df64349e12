//! Weighs causes against clues.
//!
//! Each cause has a score: the sum of the weights of the clues that speak for it or against it, less a fixed
//! amount for each sign that it does not explain. Where a look found what has nothing to do with a cause, the cause loses
//! by as much as it would have shown otherwise: warm water that is not there speaks against what warm water brings. Shares are the exponentials of the scores over their sum, with
//! one more for whatever is not on the list; so they add up to one, a clue for a cause only ever raises its
//! score, and one against it only ever lowers it. A weight of one is a factor of *e* in the odds.
//!
//! The next look is the one with the highest expected information for its minutes: how much the uncertainty
//! over the causes is expected to shrink, by what each cause would show.

use super::clues::{Clue, Clues};
use super::knowledge::{Cause, Leads, causes, looks, sign_look};
use super::ways::{of_doing, of_look, runs};
use crate::crop::Crop;
use crate::fact::signs;
use crate::figures::FIGURES;
use crate::message::{Message, count, days, percent};
use crate::say;
use crate::way::Way;
use serde::Serialize;

/// How sure an answer is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Sureness {
    /// One more look is wanted first.
    CannotTell,
    /// More likely than anything else.
    Perhaps,
    /// At least seven times in ten.
    Likely,
    /// At least nine times in ten.
    AlmostSure,
}

/// A cause with what speaks for it.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Ranked<W = Message> {
    /// Which cause.
    pub key: &'static str,
    /// Its name.
    pub name: W,
    /// How likely it is, 0–1, among all that was weighed.
    pub share: f64,
    /// What is going on.
    pub means: W,
    /// What speaks for it, the strongest first.
    pub speaks_for: Vec<W>,
    /// What speaks against it, the strongest first.
    pub against: Vec<W>,
    /// What it would look like if it were not so.
    pub unless: W,
    /// What to do.
    pub doing: W,
    /// Days that this may wait.
    pub within: f64,
    /// By when, as it is said.
    pub by: W,
    /// What the doing is.
    pub leads: Leads,
    /// Where it is done, if it has a page of its own.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub way: Option<Way<W>>,
    /// Said beside the doing.
    pub cautions: Vec<W>,
}

/// One look more.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct NextLook<W = Message> {
    /// Which look; a sign's code where it is a single sign.
    pub key: &'static str,
    /// Whether it is a single sign: there, or not.
    pub sign: bool,
    /// What to look at.
    pub ask: W,
    /// What it tells apart.
    pub tells: W,
    /// In minutes.
    pub effort: f64,
    /// The part that runs, where it is about one: right, or not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub runs: Option<&'static str>,
    /// Where the look is made.
    pub way: Way<W>,
}

/// What ails the plants, as far as can be told.
#[derive(Debug, Clone, PartialEq, Serialize, utoipa::ToSchema)]
pub struct Explanation<W = Message> {
    /// The answer in a sentence.
    pub answer: W,
    /// How sure it is.
    pub sure: Sureness,
    /// The causes, the likeliest first; those under one in twenty are left out, save the first.
    pub causes: Vec<Ranked<W>>,
    /// The share of everything that is not shown: causes too unlikely for a line, and what is not on the list.
    pub rest: f64,
    /// A second cause that explains what the first one does not.
    pub besides: Option<Ranked<W>>,
    /// The look that best tells the leaders apart, where one is worth its walk.
    pub next_look: Option<NextLook<W>>,
}

impl<W> Ranked<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Ranked<V> {
        let all = |list: Vec<W>| list.into_iter().map(say).collect();
        Ranked {
            key: self.key,
            name: say(self.name),
            share: self.share,
            means: say(self.means),
            speaks_for: all(self.speaks_for),
            against: all(self.against),
            unless: say(self.unless),
            doing: say(self.doing),
            within: self.within,
            by: say(self.by),
            leads: self.leads,
            way: self.way.map(|way| way.map(say)),
            cautions: all(self.cautions),
        }
    }
}

impl<W> Explanation<W> {
    /// The same in words.
    pub fn map<V>(self, say: &impl Fn(W) -> V) -> Explanation<V> {
        Explanation {
            answer: say(self.answer),
            sure: self.sure,
            causes: self.causes.into_iter().map(|one| one.map(say)).collect(),
            rest: self.rest,
            besides: self.besides.map(|one| one.map(say)),
            next_look: self.next_look.map(|look| NextLook {
                key: look.key,
                sign: look.sign,
                ask: say(look.ask),
                tells: say(look.tells),
                effort: look.effort,
                runs: look.runs,
                way: look.way.map(say),
            }),
        }
    }
}

/// The scores of the causes that are possible here, and at the end that of whatever is not on the list.
struct Weighed {
    causes: Vec<&'static Cause>,
    scores: Vec<f64>,
}

fn score(cause: &Cause, clues: &[&Clue], around: &Clues) -> f64 {
    let figures = &FIGURES.diagnosis;
    let seen = |clue: &&Clue| match cause.weight(clue.finding) {
        0.0 if clue.unexplained() > 0.0 => -clue.unexplained(),
        0.0 => -otherwise(cause, clue.finding),
        weight => weight,
    };
    let missed = |finding: &&'static str| -figures.absent * cause.weight(finding).max(0.0);
    let open = if goes_on(cause, clues, around) { figures.case_open } else { 0.0 };
    let lean = lean(cause, clues, around).map_or(0.0, |(_, weight, _)| weight);
    clues.iter().map(seen).sum::<f64>() + around.absent.iter().map(missed).sum::<f64>() + open + lean
}

/// That a crop which grows here is given to a cause or spared it, where something is seen that is of its kind.
fn lean(cause: &Cause, clues: &[&Clue], around: &Clues) -> Option<(&'static Crop, f64, &'static str)> {
    let shows = |clue: &&Clue| clue.unexplained() > 0.0 && cause.weight(clue.finding) > 0.0;
    around.leaning(&cause.key).filter(|_| clues.iter().any(shows))
}

/// By how much a cause would rather have shown something else than a finding that has nothing to do with it; 0 where
/// no look finds it.
fn otherwise(cause: &Cause, finding: &str) -> f64 {
    let look = looks().iter().find(|look| look.finds.iter().any(|(find, _)| find == finding));
    look.map_or(0.0, |look| look.finds.iter().map(|(find, usual)| usual * cause.weight(find).exp()).sum::<f64>().ln())
}

/// Whether a case of it is open, and what is seen is of its kind: that goes on showing for a while.
fn goes_on(cause: &Cause, clues: &[&Clue], around: &Clues) -> bool {
    let shows = |clue: &&Clue| clue.unexplained() > 0.0 && cause.weight(clue.finding) > 0.0;
    around.open.contains(&cause.key) && clues.iter().any(shows)
}

fn weigh(clues: &[&Clue], around: &Clues) -> Weighed {
    let causes: Vec<&'static Cause> = causes().iter().filter(|cause| around.allows(cause)).collect();
    let scores = causes.iter().map(|cause| score(cause, clues, around)).chain([FIGURES.diagnosis.other]).collect();
    Weighed { causes, scores }
}

/// Shares that add up to one.
fn shared(scores: &[f64]) -> Vec<f64> {
    let most = scores.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let odds: Vec<f64> = scores.iter().map(|score| (score - most).exp()).collect();
    let sum: f64 = odds.iter().sum();
    odds.into_iter().map(|odds| odds / sum).collect()
}

fn uncertainty(shares: &[f64]) -> f64 {
    shares.iter().filter(|share| **share > 0.0).map(|share| -share * share.ln()).sum()
}

impl Weighed {
    fn shares(&self) -> Vec<f64> {
        shared(&self.scores)
    }

    /// The places of the causes, the likeliest first.
    fn order(&self) -> Vec<usize> {
        let mut order: Vec<usize> = (0..self.causes.len()).collect();
        order.sort_by(|a, b| self.scores[*b].total_cmp(&self.scores[*a]));
        order
    }

    fn leader(&self) -> Option<usize> {
        self.order().first().copied()
    }

    /// How often each of the causes shows each of the finds; the one that is not on the list as often as all do.
    fn shown(&self, finds: &[(&'static str, f64)], rare: bool) -> Vec<Vec<f64>> {
        let tilt = |cause: &Cause, find: &str| match cause.weight(find) {
            0.0 if rare => -FIGURES.diagnosis.rarely,
            weight => weight,
        };
        let of = |cause: &&'static Cause| {
            let raw: Vec<f64> = finds
                .iter()
                .map(|(find, usual)| if find.is_empty() { *usual } else { usual * tilt(cause, find).exp() })
                .collect();
            let sum: f64 = raw.iter().sum();
            raw.into_iter().map(|part| part / sum).collect()
        };
        self.causes.iter().map(of).chain([finds.iter().map(|(_, usual)| *usual).collect()]).collect()
    }

    /// By how much a look is expected to shrink the uncertainty, in nats.
    fn gain(&self, finds: &[(&'static str, f64)], rare: bool) -> f64 {
        let shares = self.shares();
        let shown = self.shown(finds, rare);
        let after: f64 = (0..finds.len())
            .map(|find| {
                let joint: Vec<f64> = shares.iter().zip(&shown).map(|(share, of)| share * of[find]).collect();
                let often: f64 = joint.iter().sum();
                let then: Vec<f64> = joint.iter().map(|joint| joint / often).collect();
                often * uncertainty(&then)
            })
            .sum();
        uncertainty(&shares) - after
    }
}

/// The share of every possible cause by its key, the likeliest first, and that of whatever is not on the list
/// under an empty key at the end. They add up to one.
#[must_use]
pub fn shares(clues: &Clues) -> Vec<(&'static str, f64)> {
    let weighed = weigh(&clues.seen.iter().collect::<Vec<_>>(), clues);
    let shares = weighed.shares();
    let mut all: Vec<_> = weighed.order().into_iter().map(|i| (weighed.causes[i].key.as_str(), shares[i])).collect();
    all.push(("", shares[weighed.causes.len()]));
    all
}

fn ranked(cause: &'static Cause, share: f64, clues: &[&Clue], around: &Clues) -> Ranked {
    let absent = &around.absent;
    let mut seen: Vec<(f64, Message)> = clues
        .iter()
        .map(|clue| (cause.weight(clue.finding), clue))
        .filter(|(weight, _)| *weight != 0.0)
        .map(|(weight, clue)| (weight, say!("explain.speaks", clue = clue.said(), why = cause.why(clue.finding))))
        .collect();
    let beside = clues.iter().filter(|clue| clue.unexplained() == 0.0 && cause.weight(clue.finding) == 0.0);
    let beside = beside.map(|clue| (-otherwise(cause, clue.finding), clue)).filter(|(weight, _)| *weight <= -SAID_FROM);
    seen.extend(beside.map(|(weight, clue)| (weight, say!("explain.not_found", clue = clue.said()))));
    let missed = absent.iter().filter(|finding| cause.weight(finding) > 0.0);
    seen.extend(missed.map(|finding| {
        let weight = -FIGURES.diagnosis.absent * cause.weight(finding);
        (weight, say!("explain.missed", sign = Clue::of(finding).said()))
    }));
    if goes_on(cause, clues, around) {
        seen.push((FIGURES.diagnosis.case_open, say!("explain.case_open")));
    }
    if let Some((crop, weight, _)) = lean(cause, clues, around) {
        let why = Message::of("crop_lean", &crop.code(), &cause.key);
        seen.push((weight, say!("explain.speaks", clue = crop.name.as_str(), why = why)));
    }
    seen.sort_by(|a, b| b.0.abs().total_cmp(&a.0.abs()));
    let (against, speaks_for): (Vec<_>, Vec<_>) = seen.into_iter().partition(|(weight, _)| *weight < 0.0);
    let said = |list: Vec<(f64, Message)>| list.into_iter().map(|(_, said)| said).collect();
    Ranked {
        key: &cause.key,
        name: name_of(cause, clues),
        share,
        means: cause.say("means"),
        speaks_for: said(speaks_for),
        against: said(against),
        unless: cause.say("unless"),
        doing: cause.say("do"),
        within: cause.within,
        by: if cause.within < 1.0 { say!("explain.now") } else { say!("explain.within", days = days(cause.within)) },
        leads: cause.leads,
        way: of_doing(cause.leads, around),
        cautions: cause.cautions.iter().map(|one| Message::of("plant_caution", one, "say")).collect(),
    }
}

/// Its name; of root rot with the stage that was found.
fn name_of(cause: &Cause, clues: &[&Clue]) -> Message {
    let found = ["roots_clumping", "roots_film", "roots_rotted"];
    let stage = clues.iter().find_map(|clue| found.iter().position(|finding| *finding == clue.finding));
    match stage.filter(|_| cause.key == "root_rot") {
        Some(stage) => say!("explain.rot_stage", cause = cause.say("name"), stage = count(stage + 1)),
        None => cause.say("name"),
    }
}

/// What weighs less than this is not worth a line.
const SAID_FROM: f64 = 0.3;

/// The second cause, where the first leaves signs over that another one explains: it, and the signs that are its.
fn second(whole: &Weighed, clues: &Clues) -> Option<(&'static Cause, Vec<&'static str>)> {
    let first = whole.causes[whole.leader()?];
    let left: Vec<&Clue> =
        clues.seen.iter().filter(|clue| clue.unexplained() > 0.0 && first.weight(clue.finding) <= 0.0).collect();
    if left.is_empty() {
        return None;
    }
    let around = clues.seen.iter().filter(|clue| clue.unexplained() == 0.0).chain(left.iter().copied());
    let rest = weigh(&around.collect::<Vec<_>>(), clues);
    let leader = rest.leader()?;
    let (share, second) = (rest.shares()[leader], rest.causes[leader]);
    let its: Vec<_> = left.iter().map(|clue| clue.finding).filter(|finding| second.weight(finding) > 0.0).collect();
    let strong = its.iter().any(|finding| second.weight(finding) >= STRONG);
    (second.key != first.key && strong && share >= FIGURES.diagnosis.perhaps).then_some((second, its))
}

/// A finding with at least this weight makes a cause of its own.
const STRONG: f64 = 2.0;

/// How often an answer to a look moves the distance of two causes, 0–1, by how often each is found.
fn tells_apart(one: &Cause, other: &Cause, finds: &[(&'static str, f64)]) -> f64 {
    let figures = &FIGURES.diagnosis;
    let single = finds.iter().any(|(find, _)| find.is_empty()).then(|| finds[0].0);
    let moves = |cause: &Cause, find: &str| match (find, single) {
        ("", Some(sign)) => -figures.absent * cause.weight(sign).max(0.0),
        (find, Some(_)) if cause.weight(find) == 0.0 => -figures.unexplained_sign,
        (find, None) if cause.weight(find) == 0.0 => -otherwise(cause, find),
        (find, _) => cause.weight(find),
    };
    let moved = finds.iter().filter(|(find, _)| (moves(one, find) - moves(other, find)).abs() > TELLS);
    moved.map(|(_, usual)| usual).sum()
}

/// A smaller move of the leaders tells nothing.
const TELLS: f64 = 0.05;

fn next_look(weighed: &Weighed, clues: &Clues) -> Option<NextLook> {
    let figures = &FIGURES.diagnosis;
    let order = weighed.order();
    let of = |i: usize| order.get(i).map(|place| weighed.causes[*place]);
    let (first, other) = (of(0)?, of(1)?);
    let (usual, minutes) = sign_look();
    let known = |finding: &str| clues.knows(finding);
    let single = signs().iter().map(|facts| facts.key.code()).filter(|sign| !known(sign)).map(|sign| {
        let finds = vec![(sign, usual), ("", 1.0 - usual)];
        (sign, true, minutes, finds)
    });
    let looked =
        looks().iter().filter(|look| clues.can(look) && !look.finds.iter().any(|(find, _)| known(find))).map(|look| {
            let finds = look.finds.iter().map(|(find, usual)| (find.as_str(), *usual)).collect();
            (look.key.as_str(), false, look.effort, finds)
        });
    // A look is worth what it tells in all, as far as its answers move the two leaders at all.
    let worth =
        |gain: f64, finds: &[(&'static str, f64)], effort: f64| gain * tells_apart(first, other, finds) / effort;
    let best = looked
        .chain(single)
        .map(|(key, sign, effort, finds)| (weighed.gain(&finds, sign), finds, key, sign, effort))
        .filter(|(gain, ..)| *gain >= figures.least_gain)
        .map(|(gain, finds, key, sign, effort)| (worth(gain, &finds, effort), key, sign, effort))
        .max_by(|a, b| a.0.total_cmp(&b.0));
    let (_, key, sign, effort) = best?;
    let ask =
        if sign { say!("explain.look_sign", sign = Clue::of(key).said()) } else { Message::of("look", key, "ask") };
    let tells = say!("explain.tells", one = first.say("name"), other = other.say("name"));
    Some(NextLook { key, sign, ask, tells, effort, runs: runs(key, clues), way: of_look(key) })
}

/// Explains what is seen; `None` where nothing is seen that wants an explanation.
#[must_use]
pub fn explain(clues: &Clues) -> Option<Explanation> {
    let figures = &FIGURES.diagnosis;
    if !clues.seen.iter().any(|clue| clue.unexplained() > 0.0) {
        return None;
    }
    let all: Vec<&Clue> = clues.seen.iter().collect();
    let whole = weigh(&all, clues);
    let second = second(&whole, clues);
    let its = second.as_ref().map(|(_, its)| its.clone()).unwrap_or_default();
    let mine: Vec<&Clue> = all.iter().copied().filter(|clue| !its.contains(&clue.finding)).collect();
    let weighed = if its.is_empty() { whole } else { weigh(&mine, clues) };
    let (shares, order) = (weighed.shares(), weighed.order());
    let shown = order.iter().enumerate().filter(|(place, i)| *place == 0 || shares[**i] >= figures.shown);
    let shown: Vec<Ranked> =
        shown.take(MOST_SHOWN).map(|(_, i)| ranked(weighed.causes[*i], shares[*i], &mine, clues)).collect();
    let first = shown.first()?;
    // As it is said: rounded to a whole per cent.
    let sure = match (first.share * 100.0).round() / 100.0 {
        share if share >= figures.almost_sure => Sureness::AlmostSure,
        share if share >= figures.likely => Sureness::Likely,
        share if share >= figures.perhaps => Sureness::Perhaps,
        _ => Sureness::CannotTell,
    };
    let besides = second.map(|(cause, its)| {
        let around = all.iter().copied().filter(|clue| clue.unexplained() == 0.0 || its.contains(&clue.finding));
        let around: Vec<&Clue> = around.collect();
        let rest = weigh(&around, clues);
        let share = rest.causes.iter().position(|one| one.key == cause.key).map_or(0.0, |i| rest.shares()[i]);
        ranked(cause, share, &around, clues)
    });
    let next_look = next_look(&weighed, clues).filter(|_| sure < Sureness::AlmostSure);
    let (name, share) = (first.name.clone(), percent((first.share * 100.0).round()));
    let answer = match (sure, &next_look) {
        (Sureness::AlmostSure, _) => say!("explain.almost_sure", cause = name, share = share),
        (Sureness::Likely, _) => say!("explain.likely", cause = name, share = share),
        (Sureness::Perhaps, _) => say!("explain.perhaps", cause = name, share = share),
        (Sureness::CannotTell, Some(look)) => say!("explain.cannot_tell", look = look.ask.clone()),
        (Sureness::CannotTell, None) => say!("explain.cannot_tell_at_all", cause = name, share = share),
    };
    let rest = (1.0 - shown.iter().map(|one| one.share).sum::<f64>()).max(0.0);
    Some(Explanation { answer, sure, causes: shown, rest, besides, next_look })
}

/// Causes that are shown.
const MOST_SHOWN: usize = 4;
