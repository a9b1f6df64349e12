//! Since when a check has had its cause: nothing is late from before it was wanted, or from before anybody knew.

use super::routine::{flowers_want_shaking, wants_tying};
use crate::calendar::{add_days, start_of};
use crate::crop::{Planting, Stage};
use crate::fact::Timeline;
use crate::situation::Situation;
use crate::system::Check;
use crate::verdict::{Verdict, judge_state};
use jiff::civil::Date;
use jiff::{SignedDuration, Timestamp};

/// The first day on which a check may be due that was done `last`: when its part or its interval was set, and when
/// something was planted, or was said to have come to a stage, that wants it. `None` where that has always been so. What was
/// late by the interval before stays as late as it was.
pub(super) fn wanted_since(check: Check, last: Option<Timestamp>, s: &Situation<'_>) -> Option<Date> {
    let every = s.system.interval(check);
    let set = s.history.said_since(|system| system.interval(check) == every).map(|at| {
        let before = s.history.as_told(at - SignedDuration::from_millis(1)).interval(check);
        let counted = last.map_or_else(|| s.began(), |last| s.date(last));
        let then = before.map(|every| add_days(counted, every.into()));
        then.map_or(s.date(at), |then| then.min(s.date(at)))
    });
    set.max(grown_since(check, s))
}

fn grown_since(check: Check, s: &Situation<'_>) -> Option<Date> {
    let wants: fn(&Planting) -> bool = match check {
        Check::Pollinate => flowers_want_shaking,
        Check::TieUp => wants_tying,
        Check::Harvest => |planting| (Stage::Vegetative..Stage::Done).contains(&planting.stage),
        Check::Roots | Check::Plants | Check::Pests | Check::Light => |planting| planting.stage != Stage::Done,
        _ => return None,
    };
    let standing = s.planted.0.iter().filter(|timeline| !timeline.archived_at(s.now.timestamp()));
    standing.filter(|timeline| wants(timeline.now())).map(|timeline| came(timeline, wants, s)).min()
}

/// From when a finding calls for hands: from when it was found; and where it is only outside of what was set or planted
/// after that, from then.
pub(super) fn called_since(found: Timestamp, verdict: &Verdict, s: &Situation<'_>) -> Timestamp {
    let planted = s.plantings.iter().map(|planting| start_of(planting.planted_on, s.now.time_zone()));
    let told = s.planted.0.iter().filter_map(Timeline::last_told).chain(s.history.last_told()).chain(planted);
    let Some(edited) = told.max().filter(|edited| *edited > found) else { return found };
    let there = |timeline: &&Timeline<Planting>| !timeline.archived_at(s.now.timestamp());
    let as_told = s.planted.0.iter().filter(there).map(|timeline| timeline.as_told(found));
    let plantings: Vec<Planting> = as_told.filter(|one| one.planted_on <= s.date(found)).cloned().collect();
    let then = Situation { system: s.history.as_told(found), plantings: &plantings, ..*s };
    let called = |(_, other): &(Timestamp, Verdict)| other.subject == verdict.subject && other.todo.is_some();
    if judge_state(&then).iter().any(called) { found } else { edited.min(s.now.timestamp()) }
}

/// The day on which it was planted, or later was said to be so.
pub(super) fn came(timeline: &Timeline<Planting>, so: impl Fn(&Planting) -> bool, s: &Situation<'_>) -> Date {
    let planted = timeline.now().planted_on;
    timeline.said_since(so).map_or(planted, |said| s.date(said).max(planted))
}
