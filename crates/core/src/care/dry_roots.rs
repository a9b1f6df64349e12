//! A drink from above each day for young plants whose roots do not reach the water yet.

use super::Task;
use super::cause::came;
use super::hygiene::mind;
use crate::calendar::{add_days, day, end_of};
use crate::crop::Planting;
use crate::fact::{Happened, Visit};
use crate::figures::FIGURES;
use crate::projection::VolumePoint;
use crate::reach::{below_pots, dry};
use crate::situation::Situation;
use crate::verdict::Rank;
use crate::{message::Message, say};
use jiff::civil::Date;

/// Since when levels were read at which the roots of a planting hang above the water: nothing is late from before it was known.
fn known_since(planting: &Planting, s: &Situation<'_>) -> Date {
    let hung = |point: &&VolumePoint| {
        let gap = point.after.and_then(|after| below_pots(after, s));
        gap.is_some_and(|gap| planting.root_length(s.date(point.at)) < gap)
    };
    let read = s.known.tank.volumes.iter().rev().take_while(hung).last().map_or(s.today(), |point| s.date(point.at));
    let told = s.planted.0.iter().find(|timeline| timeline.now() == planting);
    told.map_or(read, |timeline| read.max(came(timeline, |said| said.stage == planting.stage, s)))
}

/// The drink from above, each day until they reach.
pub(super) fn dry_roots(s: &Situation<'_>) -> Option<Task> {
    let all = dry(s);
    let first = all.iter().max_by(|a, b| (a.gap.get() - a.roots.get()).total_cmp(&(b.gap.get() - b.roots.get())))?;
    let crops: Vec<Message> = all.iter().map(|dry| say!("dry_roots.crop", crop = &dry.planting.crop)).collect();
    let watered = s.known.happened.watered.map(|at| s.date(at));
    let planted = all.iter().map(|dry| dry.planting.planted_on).max()?;
    let on = match watered {
        Some(last) if last >= planted => add_days(last, 1),
        _ => known_since(first.planting, s).max(planted).min(s.today()),
    };
    // Nobody comes on a closed day: it is given on the first open one.
    let on = s.calendar.open_on_or_after(on);
    let name = say!("dry_roots.name", crops = crops);
    // Water that carries something is not poured over leaves and stems too.
    let ill = mind(s).is_some();
    let doing = if ill { say!("dry_roots.doing_ill") } else { say!("dry_roots.doing") };
    let since =
        || watered.map_or_else(|| say!("dry_roots.never"), |on| say!("dry_roots.last", day = day(on, s.today())));
    let reason = say!("dry_roots.reason", roots = first.roots, gap = first.gap, last = since());
    let task = Task::new("dry_roots", name, doing, reason, on, end_of(on, s.now.time_zone()), s);
    let visit = Visit { events: vec![Happened::Watered {}], ..Visit::default() };
    let task = if ill { task.adult() } else { task };
    Some(Task { one_tap: true, sound: Some(Box::new(visit)), ..task.slack(FIGURES.level.slack, s).ranked(Rank::Days) })
}
