//! What signs on the plants point to. Each is named on its own here.

use super::{Tone, Verdict};
use crate::fact::{Plants, Subject};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::say;

/// Judges the signs seen on the plants; the urgent ones lead.
#[must_use]
pub fn judge_plants(plants: &Plants) -> Verdict {
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
    let why = say!("verdict.plants.points_to", cause = first.points_to());
    let findings = &FIGURES.findings;
    let urgent = first.facts().urgent;
    let (tone, slack) = if urgent { (Tone::Now, findings.urgent_sign_slack) } else { (Tone::Act, findings.sign_slack) };
    let sure = if signs.len() > 1 { say!("verdict.plants.sure_several") } else { say!("verdict.plants.sure_one") };
    let todo = say!("verdict.plants.todo", sign = first.say());
    Verdict::new(Subject::Plants, tone, finding, why, first.next()).todo(todo, slack).sure(sure)
}
