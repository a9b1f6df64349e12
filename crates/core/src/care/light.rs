//! When the lamp is set: at its interval, and at once when what grows under it has come to a stage that wants other
//! hours or another height.

use super::cause::came;
use super::routine::by_interval;
use crate::calendar::day;
use crate::crop::{LightTarget, Planting, light_target};
use crate::message::{Message, Param, Unit};
use crate::quantity::band;
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use jiff::Timestamp;
use jiff::civil::Date;

/// The day, why then, and what it is set to. `None` where nothing grows under a lamp.
#[must_use]
pub fn light_due(last: Option<Timestamp>, every: u16, s: &Situation<'_>) -> Option<(Date, Message, Message)> {
    let target = s.light_target()?;
    let hours = |target: &LightTarget| Param::Band(target.hours[0], target.hours[1], Unit::Hours);
    let doing = say!("light_due.doing", hours = hours(&target), gap = band(target.gap[0], target.gap[1]));
    let (on, reason) = by_interval(Check::Light, last, every, s);
    let Some((turned, before)) = turned(s).filter(|(turned, _)| last.is_none_or(|last| last < *turned)) else {
        return Some((on, reason, doing));
    };
    let crop = say!("crop.at_stage", crop = target.of.crop.as_str().to_lowercase(), stage = target.of.stage.say());
    let since = day(s.date(turned), s.today());
    let said = if before.hours == target.hours {
        let was = band(before.gap[0], before.gap[1]);
        say!("light_due.height", crop = crop, since = since, wanted = band(target.gap[0], target.gap[1]), was = was)
    } else {
        say!("light_due.hours", crop = crop, since = since, wanted = hours(&target), was = hours(&before))
    };
    // It may be late by its interval besides: that is said first, and never of the stage.
    let known = known(turned, s);
    if on < known {
        return Some((on, say!("sentences", all = Param::Sentences(vec![reason, said])), doing));
    }
    Some((known, said, doing))
}

/// The day on which somebody knew of a turn: it may have been dated back.
fn known(turned: Timestamp, s: &Situation<'_>) -> Date {
    let here =
        s.planted.0.iter().filter(|timeline| timeline.segments().last().is_some_and(|last| last.start == turned));
    let came = here.map(|timeline| came(timeline, |planting| planting.stage == timeline.now().stage, s));
    came.max().unwrap_or(Date::MIN).max(s.date(turned))
}

/// When what grows last came to want another light, and which light it wanted before.
fn turned(s: &Situation<'_>) -> Option<(Timestamp, LightTarget)> {
    let at = |moment: Timestamp| {
        let standing: Vec<Planting> = s.planted.at(moment, s.date(moment)).cloned().collect();
        light_target(&standing, &s.system.methods)
    };
    let turns = s.planted.turns(s.now.time_zone()).into_iter().rev().filter(|turn| *turn <= s.now.timestamp());
    turns.take(TURNS).find_map(|turn| {
        let before = at(turn - jiff::SignedDuration::from_secs(1))?;
        let after = at(turn)?;
        (before.hours != after.hours || before.gap != after.gap).then_some((turn, before))
    })
}

/// What is further back has been seen to.
const TURNS: usize = 6;
