//! What signs on the plants mean: the verdict says what most likely ails them, by all that is known.

use super::{Rank, Tone, Verdict};
use crate::diagnosis::{Explanation, Leads, Sureness, explain, gather, outdated};
use crate::fact::{Plants, Subject};
use crate::figures::FIGURES;
use crate::message::{Message, Param};
use crate::say;
use crate::situation::Situation;

/// Judges the signs seen on the plants; the urgent ones lead. What they mean comes from what they are explained
/// by.
#[must_use]
pub fn judge_plants(plants: &Plants, explained: Option<&Explanation>) -> Verdict {
    let mut signs = plants.signs.clone();
    signs.sort_by_key(|sign| !sign.facts().urgent);
    let Some(first) = signs.first().copied() else {
        let (why, next) = (say!("verdict.plants.sound_why"), say!("verdict.carry_on"));
        return Verdict::new(Subject::Plants, Tone::Fine, say!("verdict.plants.sound"), why, next);
    };
    let seen: Vec<Message> = signs.iter().map(|sign| sign.say()).collect();
    let finding = match &plants.ports {
        Some(ports) => say!("verdict.plants.signs_at", signs = seen, ports = ports.say()),
        None => say!("verdict.plants.signs", signs = seen),
    };
    let figures = &FIGURES.findings;
    let urgent = first.facts().urgent;
    let todo = say!("verdict.plants.todo", sign = first.say());
    let told = explained.and_then(|told| told.causes.first().map(|cause| (told, cause)));
    let Some((told, cause)) = told else {
        let (tone, slack) =
            if urgent { (Tone::Now, figures.urgent_sign_slack) } else { (Tone::Act, figures.sign_slack) };
        let (why, next) = (say!("verdict.plants.unexplained"), say!("verdict.plants.look_again"));
        return Verdict::new(Subject::Plants, tone, finding, why, next).todo(todo, slack).ranked(ranked(urgent));
    };
    let known = told.sure > Sureness::CannotTell;
    let why = if known { sentences(vec![told.answer.clone(), cause.means.clone()]) } else { told.answer.clone() };
    let next = match &told.next_look {
        Some(look) if !known => say!("verdict.plants.look_first", look = look.ask.clone(), tells = look.tells.clone()),
        // More likely than not is not yet enough to act on, where one look more would settle it.
        Some(look) if told.sure < Sureness::Likely => {
            say!(
                "verdict.plants.look_then",
                look = look.ask.clone(),
                cause = cause.name.clone(),
                doing = cause.doing.clone()
            )
        }
        _ => cause.doing.clone(),
    };
    let harmless = cause.leads == Leads::Wait && cause.within >= A_WEEK && told.sure >= Sureness::Likely;
    if harmless && !urgent && told.besides.is_none() {
        return Verdict::new(Subject::Plants, Tone::Watch, finding, why, next);
    }
    let at_once = urgent || (known && cause.within < A_DAY);
    let tone = if at_once { Tone::Now } else { Tone::Act };
    let slack = match (at_once, known) {
        (true, _) => figures.urgent_sign_slack,
        (false, true) => cause.within.min(figures.sign_slack),
        (false, false) => figures.sign_slack,
    };
    let verdict = Verdict::new(Subject::Plants, tone, finding, why, next).todo(todo, slack).ranked(ranked(at_once));
    match &told.next_look {
        Some(look) if known => {
            verdict.sure(say!("verdict.plants.to_be_sure", look = look.ask.clone(), tells = look.tells.clone()))
        }
        _ => verdict,
    }
}

/// The same of what was seen at an earlier look. What was done to the water since explains nothing of it, nor does what
/// stands there a good while later: then it is looked at again.
#[must_use]
pub fn judge_seen_plants(plants: &Plants, s: &Situation<'_>) -> Verdict {
    match outdated(s) {
        Some(why) => Verdict { why, next: say!("verdict.plants.look_now"), ..judge_plants(plants, None) },
        None => judge_plants(plants, explain(&gather(s, None)).as_ref()),
    }
}

/// A plant that wilts lasts for hours.
fn ranked(at_once: bool) -> Rank {
    if at_once { Rank::Hours } else { Rank::Routine }
}

fn sentences(all: Vec<Message>) -> Message {
    say!("sentences", all = Param::Sentences(all))
}

/// What may wait so long is no task.
const A_WEEK: f64 = 7.0;
/// What may not wait so long is done on this visit.
const A_DAY: f64 = 1.0;
