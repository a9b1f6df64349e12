//! The end of a crop: once all that grew is harvested, everything is taken out, cleaned and dried before the next.

use super::Task;
use crate::calendar::{day, days_between, end_of};
use crate::crop::{Planting, Stage};
use crate::fact::{Dated, Segment, Spray, Timeline};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::say;
use crate::situation::Situation;
use jiff::Timestamp;

/// Since when everything here is harvested, or was put away, and nothing was reset; `None` while something grows, and
/// where nothing ever did.
#[must_use]
pub fn harvested_since(s: &Situation<'_>) -> Option<Timestamp> {
    let at = s.now.timestamp();
    let over = |segment: &Segment<Planting>| segment.archived || segment.says.stage == Stage::Done;
    if s.planted.0.iter().any(|timeline| !timeline.archived_at(at) && timeline.now().stage != Stage::Done) {
        return None;
    }
    let ended = |timeline: &Timeline<Planting>| {
        let turn = timeline.segments().windows(2).find(|pair| !over(&pair[0]) && over(&pair[1]))?;
        // What was put away on the day that it was planted was a slip, and grew nowhere.
        (s.date(turn[1].start) > turn[0].says.planted_on).then_some(turn[1].start)
    };
    let last = s.planted.0.iter().filter_map(ended).max()?;
    s.known.happened.reset.is_none_or(|reset| reset < last).then_some(last)
}

/// What was picked whole stands nowhere any more: its ports are free, and its roots are taken out.
pub(super) fn picked_whole(s: &Situation<'_>) -> Option<Task> {
    let standing = s
        .planted
        .0
        .iter()
        .zip(s.planting_ids)
        .filter(|(timeline, _)| !timeline.archived_at(s.now.timestamp()) && timeline.now().stage != Stage::Done);
    let whole = standing.filter_map(|(timeline, id)| Some((timeline, s.known.happened.picked.get(id)?.whole?)));
    let (timeline, at) = whole.min_by_key(|(_, at)| *at)?;
    let (on, crop) = (s.date(at), &timeline.now().crop);
    let name = say!("picked_whole.name", crop = crop);
    let doing = say!("picked_whole.doing");
    let reason = say!("picked_whole.reason", crop = crop, day = day(on, s.today()));
    let settled = s.calendar.open_on_or_after(on);
    let task = Task::new("picked_whole", name, doing, reason, settled, end_of(settled, s.now.time_zone()), s);
    Some(task.slack(FIGURES.margin.reset_slack, s).adult())
}

/// What is minded when something is picked: what was sprayed lately, and that it is washed.
#[must_use]
pub fn picking_caution(s: &Situation<'_>) -> Message {
    let lately = |dated: &&Dated<Spray>| days_between(dated.at, s.now.timestamp()) <= FIGURES.hygiene.sprayed_days;
    // Each of them has its own days to harvest; of one that was used twice the last counts.
    let mut sprays: Vec<Dated<Spray>> = Vec::new();
    for dated in s.known.happened.sprayed.iter().rev().filter(lately) {
        if !sprays.iter().any(|known| known.value == dated.value) {
            sprays.push(*dated);
        }
    }
    let said = |dated: &Dated<Spray>| {
        say!("picking.one_spray", with = dated.value.say(), day = day(s.date(dated.at), s.today()))
    };
    match sprays.as_slice() {
        [] => say!("picking.wash"),
        several => say!("picking.sprayed", sprays = several.iter().map(said).collect::<Vec<Message>>()),
    }
}

/// The full reset between two crops.
pub(super) fn cycle_reset(s: &Situation<'_>) -> Option<Task> {
    let since = harvested_since(s)?;
    let on = s.date(since);
    let (name, doing) = (say!("cycle_reset.name"), say!("cycle_reset.doing"));
    let reason = say!("cycle_reset.reason", since = day(on, s.today()));
    let settled = s.calendar.open_on_or_after(on);
    let task = Task::new("cycle_reset", name, doing, reason, settled, end_of(settled, s.now.time_zone()), s);
    Some(task.slack(FIGURES.margin.reset_slack, s).adult())
}
