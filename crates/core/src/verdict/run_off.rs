//! What the run-off of a feed to waste tells of the pots: whether salts gather in them, and whether they are given too much
//! or too little. It is held against the feed as it went in.

use super::{Tone, Verdict};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Message, Param, percent, ph};
use crate::projection::SeenRunOff;
use crate::quantity::{Litres, Quantity};
use crate::say;
use crate::situation::Situation;

/// What is found, the worst first: the tone, the finding, why, what to do, and the same as a task.
type Found = (Tone, Message, Message, Message, Message);

/// Judges the run-off of a visit.
///
/// Run-off a third stronger than the feed says that salts gather in the pots: they are rinsed with weak feed until it comes
/// down. Less than a tenth of what is given cannot carry salts out, more than a third is thrown away: a feed is then what the
/// pots kept, over what is to stay, L · (1 − share) / (1 − wanted).
#[must_use]
pub fn judge_run_off(seen: &SeenRunOff, s: &Situation<'_>) -> Verdict {
    let mut all: Vec<Found> = [salts(seen, s), share(seen, s), acidity(seen, s)].into_iter().flatten().collect();
    all.sort_by_key(|found| std::cmp::Reverse(found.0));
    let Some((tone, first, _, _, todo)) = all.first().cloned() else {
        let (why, next) = (say!("verdict.run_off.right_why"), say!("verdict.nothing_to_do"));
        return Verdict::new(Subject::RunOff, Tone::Fine, right(seen), why, next);
    };
    // What is done about the worst comes first; the rest is told beside it.
    let joined = |of: fn(&Found) -> &Message| -> Message {
        let each: Vec<Message> = all.iter().map(|found| of(found).clone()).collect();
        if each.len() == 1 { each[0].clone() } else { say!("sentences", all = Param::Sentences(each)) }
    };
    let (finding, why, next) = (joined(|found| &found.1), joined(|found| &found.2), joined(|found| &found.3));
    let verdict = Verdict { code: first.code, ..Verdict::new(Subject::RunOff, tone, finding, why, next) };
    if tone >= Tone::Act { verdict.todo(todo, FIGURES.run_off.slack) } else { verdict }
}

fn right(seen: &SeenRunOff) -> Message {
    match (seen.ec.zip(seen.feed), seen.share) {
        (Some((ec, feed)), _) => say!("verdict.run_off.right", ec = ec, feed = feed),
        (None, Some(share)) => say!("verdict.run_off.right_share", share = whole(share)),
        (None, None) => say!("verdict.run_off.right_alone"),
    }
}

fn salts(seen: &SeenRunOff, s: &Situation<'_>) -> Option<Found> {
    let (ec, feed) = seen.ec.zip(seen.feed.filter(|feed| feed.get() > 0.0))?;
    let (figures, ratio) = (&FIGURES.run_off, ec / feed);
    if ratio > figures.salts {
        let finding = say!("verdict.run_off.salts", ec = ec, feed = feed);
        let rinse = feed * figures.rinse_with;
        let (until, rinse) = (feed * figures.rinsed, rinse.max(s.system.source_ec));
        let next = say!("verdict.run_off.salts_next", rinse = rinse, until = until);
        let tone = if ratio > figures.many_salts { Tone::Now } else { Tone::Act };
        return Some((tone, finding, say!("verdict.run_off.salts_why"), next, say!("verdict.run_off.salts_todo")));
    }
    let hungry = ratio < figures.hungry;
    let finding = || say!("verdict.run_off.hungry", ec = ec, feed = feed);
    let next = || say!("verdict.run_off.hungry_next");
    let of = |finding| (Tone::Watch, finding, say!("verdict.run_off.hungry_why"), next(), next());
    hungry.then(|| of(finding()))
}

fn share(seen: &SeenRunOff, s: &Situation<'_>) -> Option<Found> {
    let (figures, share) = (&FIGURES.run_off, seen.share?);
    let too_little = share < figures.least;
    if !too_little && share <= figures.most {
        return None;
    }
    // What was set since is not set once more by what was caught before.
    let set = s.system.feeding.map(|feeding| feeding.litres);
    let moved = seen.set.is_some() && set != seen.set;
    let say_share = || whole(share);
    let (finding, why) = if too_little {
        (say!("verdict.run_off.little", share = say_share()), say!("verdict.run_off.little_why"))
    } else {
        (say!("verdict.run_off.much", share = say_share()), say!("verdict.run_off.much_why"))
    };
    let again = || say!("verdict.run_off.share_moved");
    if moved {
        return Some((Tone::Watch, finding, why, again(), again()));
    }
    let better = seen.set.map(|set| set * ((1.0 - share) / (1.0 - figures.aim)));
    let next = match (better, seen.set) {
        (Some(better), Some(set)) if share > 0.0 => {
            say!("verdict.run_off.set_feed", litres = rounded(better), from = set)
        }
        // Where nothing ran through, nobody knows how much the pots would have kept.
        (Some(better), Some(set)) => say!("verdict.run_off.set_feed_from_none", litres = rounded(better), from = set),
        _ if too_little => say!("verdict.run_off.longer"),
        _ => say!("verdict.run_off.shorter"),
    };
    let todo = if too_little { say!("verdict.run_off.longer_todo") } else { say!("verdict.run_off.shorter_todo") };
    let tone = if too_little { Tone::Act } else { Tone::Watch };
    Some((tone, finding, why, next, todo))
}

/// No timer is set more finely than to a hundredth of a litre.
fn rounded(litres: Litres) -> Litres {
    Litres::calculated((litres.get() * 100.0).round() / 100.0)
}

/// A share as it is said.
fn whole(share: f64) -> Param {
    percent((share * 100.0).round())
}

fn acidity(seen: &SeenRunOff, s: &Situation<'_>) -> Option<Found> {
    let (read, band) = (seen.ph?.middle(), s.ph_band());
    let off = FIGURES.run_off.ph_off;
    let (low, high) = (band.low.get() - off, band.high.get() + off);
    let finding = || say!("verdict.run_off.ph", ph = ph(read), low = ph(low), high = ph(high));
    let next = || say!("verdict.run_off.ph_next", aim = ph(s.ph_aim()));
    let outside = read < low || read > high;
    outside.then(|| (Tone::Watch, finding(), say!("verdict.run_off.ph_why"), next(), next()))
}
