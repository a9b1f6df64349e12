//! What the lamp gives, against what grows under it.

use super::{Tone, Verdict};
use crate::fact::{LampSeen, Subject};
use crate::figures::FIGURES;
use crate::message::{Message, Param, Unit};
use crate::quantity::band;
use crate::say;
use crate::situation::Situation;

/// On which side of its band something lies: below, above, or `None` within.
fn side(value: f64, [low, high]: [f64; 2]) -> Option<bool> {
    if value < low {
        Some(false)
    } else if value > high {
        Some(true)
    } else {
        None
    }
}

/// Judges hours and gap as they were seen; `None` where nothing was, or nothing grows under the lamp.
///
/// Half an hour and a fingertip off is as near as a timer and a hand come.
#[must_use]
pub fn judge_lamp(seen: LampSeen, s: &Situation<'_>) -> Option<Verdict> {
    let target = s.light_target()?;
    let figures = &FIGURES.light;
    let hours = seen.hours.and_then(|hours| {
        let [low, high] = target.hours;
        side(hours, [low - figures.hours_off, high + figures.hours_off]).map(|over| (hours, over))
    });
    let gap = seen.gap.and_then(|gap| {
        let [low, high] = target.gap.map(crate::quantity::Millimetres::get);
        side(gap.get(), [low - figures.gap_off, high + figures.gap_off]).map(|over| (gap, over))
    });
    let wanted_hours = Param::Band(target.hours[0], target.hours[1], Unit::Hours);
    let wanted_gap = band(target.gap[0], target.gap[1]);
    let mut finding: Vec<Message> = Vec::new();
    finding.extend(seen.hours.map(|hours| {
        say!("verdict.light.hours", hours = Param::Number(hours, Unit::Hours), wanted = wanted_hours.clone())
    }));
    finding.extend(seen.gap.map(|gap| say!("verdict.light.gap", gap = gap, wanted = wanted_gap.clone())));
    if finding.is_empty() {
        return None;
    }
    let finding = say!("sentences", all = Param::Sentences(finding));
    let crop = say!("crop.at_stage", crop = target.of.crop.as_str().to_lowercase(), stage = target.of.stage.say());
    if hours.is_none() && gap.is_none() {
        let why = say!("verdict.light.right_why", crop = crop);
        return Some(Verdict::new(Subject::Light, Tone::Fine, finding, why, say!("verdict.carry_on")));
    }
    let mut why: Vec<Message> = Vec::new();
    let mut next: Vec<Message> = Vec::new();
    if let Some((_, over)) = hours {
        why.push(if over { say!("verdict.light.long_why") } else { say!("verdict.light.short_why") });
        next.push(say!("verdict.light.set_hours", wanted = wanted_hours));
    }
    if let Some((_, over)) = gap {
        why.push(if over { say!("verdict.light.far_why") } else { say!("verdict.light.near_why") });
        next.push(say!("verdict.light.set_gap", wanted = wanted_gap));
    }
    let near = gap.is_some_and(|(_, over)| !over);
    let slack = if near { figures.near_slack } else { figures.slack };
    let sentences = |all| say!("sentences", all = Param::Sentences(all));
    let tone = if near { Tone::Act } else { Tone::Watch };
    let verdict = Verdict::new(Subject::Light, tone, finding, sentences(why), sentences(next));
    let verdict = Verdict { code: "verdict.light.off".into(), ..verdict };
    Some(verdict.todo(say!("verdict.light.todo"), slack))
}
