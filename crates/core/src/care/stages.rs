//! When a planting seems due for its next stage: the usual days of its group have passed since the last one. It
//! asks, again each week while the answer is no, and never moves a stage by itself: what is seen on the plant decides.

use super::cause::came;
use crate::calendar::{add_days, add_whole_days, day, local_date};
use crate::crop::{Planting, Stage, ec_target, stage_days};
use crate::fact::Timeline;
use crate::message::{Message, days};
use crate::quantity::band;
use crate::say;
use crate::situation::Situation;
use jiff::Timestamp;
use jiff::civil::Date;

/// The planting that is first due for its next stage: the day on which to look, why then, and what to look for.
/// `None` where nothing here moves on by itself. Looked at and not come, it is asked `every` days later.
#[must_use]
pub fn stage_due(last: Option<Timestamp>, every: u16, s: &Situation<'_>) -> Option<(Date, Message, Message)> {
    let standing = s.planted.0.iter().filter(|timeline| !timeline.archived_at(s.now.timestamp()));
    let due = standing.filter_map(|timeline| {
        let planting = timeline.now();
        let next = next_stage(planting)?;
        let (began, usual) = counted(timeline, s)?;
        let known = came(timeline, |told| told.stage == planting.stage, s);
        Some((add_whole_days(began, usual).max(known), began, usual, planting, next))
    });
    let (usually, began, usual, planting, next) = due.min_by_key(|(on, ..)| *on)?;
    let asked = last.map(|last| add_days(s.date(last), every.into()));
    let on = asked.map_or(usually, |asked| asked.max(usually));
    if let Some((_, latest)) = planting.up_by().filter(|(_, latest)| *latest <= s.today()) {
        let looked_since = last.is_some_and(|last| s.date(last) >= latest);
        let (sown, by) = (day(planting.sown_on.unwrap_or(planting.planted_on), s.today()), day(latest, s.today()));
        let reason = say!("stage_due.not_up", crop = &planting.crop, sown = sown, latest = by);
        return Some((
            if looked_since { on } else { on.min(latest).max(usually) },
            reason,
            say!("stage_due.not_up_doing"),
        ));
    }
    let moved = Planting { stage: next, ..planting.clone() }.fed(s.system.methods.ripening);
    let then = ec_target([&moved], s.system.ec_band, s.system.source_ec);
    let doing = say!("stage_due.doing", sign = Message::of("stage_due.sign", next.code(), "say"));
    let (crop, began, usual) = (&planting.crop, day(began, s.today()), days(usual));
    let (next, stage) = (next.say(), planting.stage.say());
    let reason = match then.filter(|_| s.system.measuring.ec()) {
        Some(then) => {
            let wanted = band(then.low, then.high);
            say!(
                "stage_due.reason_band",
                crop = crop,
                next = next,
                stage = stage,
                began = began,
                usual = usual,
                band = wanted
            )
        }
        None => say!("stage_due.reason", crop = crop, next = next, stage = stage, began = began, usual = usual),
    };
    Some((on, reason, doing))
}

/// The stage that follows, for what grows on through stages; a crop that is harvested leaf by leaf stays as it is.
fn next_stage(planting: &Planting) -> Option<Stage> {
    let next = match planting.stage {
        Stage::Germinating => Stage::Seedling,
        Stage::Seedling => Stage::Vegetative,
        Stage::Vegetative => Stage::Flowering,
        Stage::Flowering => Stage::Fruiting,
        Stage::Fruiting | Stage::Ripening | Stage::Done => return None,
    };
    Some(next)
}

/// From which day it is counted, and how many days it usually takes from there to the end of its stage: from when
/// it was moved to it, else from planting on, as a seedling, over all stages since.
fn counted(timeline: &Timeline<Planting>, s: &Situation<'_>) -> Option<(Date, f64)> {
    let (now, segments) = (timeline.now(), timeline.segments());
    let usual = stage_days(now.group, now.stage)?;
    if let Some(pair) = segments.windows(2).rev().find(|pair| pair[0].says.stage != pair[1].says.stage) {
        return Some((local_date(pair[1].start, s.now), usual));
    }
    if let Some(sown) = now.sown_on.filter(|_| now.stage == Stage::Germinating) {
        return Some((sown, usual));
    }
    let before = [Stage::Seedling, Stage::Vegetative, Stage::Flowering].into_iter().filter(|stage| *stage < now.stage);
    Some((now.growing_since(), usual + before.filter_map(|stage| stage_days(now.group, stage)).sum::<f64>()))
}
