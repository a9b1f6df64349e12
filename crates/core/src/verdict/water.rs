//! What the water glass, the roots and the running parts mean.

use super::{Rank, Tone, Verdict};
use crate::fact::{Clarity, RootStage, Running, Smell, Subject, WaterGlass};
use crate::figures::FIGURES;
use crate::message::{Message, Param};
use crate::quantity::Celsius;
use crate::say;
use crate::system::RootRotMethod;

/// Judges a glass of the water. A tint is fine; a white cloud is bacteria, green and brown are algae.
#[must_use]
pub fn judge_glass(glass: WaterGlass, opaque: bool) -> Verdict {
    let slack = FIGURES.findings.glass_slack;
    let light = if opaque { say!("verdict.glass.find_light") } else { say!("verdict.glass.cover") };
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Glass, tone, finding, why, next);
    let foul = glass.smell == Some(Smell::Foul);
    let judged = match glass.clarity {
        Clarity::Clear | Clarity::Tinted if foul => {
            let (why, next) = (say!("verdict.glass.foul_why"), say!("verdict.glass.foul_next"));
            verdict(Tone::Act, say!("verdict.glass.foul"), why, next)
                .todo(say!("verdict.glass.foul_todo"), FIGURES.findings.smell_slack)
        }
        Clarity::Clear => {
            let (why, next) = (say!("verdict.glass.clear_why"), say!("verdict.nothing_to_do"));
            verdict(Tone::Fine, say!("verdict.glass.clear"), why, next)
        }
        Clarity::Tinted => {
            let (why, next) = (say!("verdict.glass.tinted_why"), say!("verdict.nothing_to_do"));
            verdict(Tone::Fine, say!("verdict.glass.tinted"), why, next)
        }
        Clarity::WhiteCloud => {
            let (why, next) = (say!("verdict.glass.cloud_why"), say!("verdict.glass.cloud_next"));
            verdict(Tone::Act, say!("verdict.glass.cloud"), why, next).todo(say!("verdict.glass.cloud_todo"), slack)
        }
        Clarity::Green => {
            let (why, next) = (say!("verdict.glass.green_why"), say!("verdict.glass.green_next", light = light));
            verdict(Tone::Act, say!("verdict.glass.green"), why, next).todo(say!("verdict.glass.green_todo"), slack)
        }
        Clarity::Brown => {
            let (why, next) = (say!("verdict.glass.brown_why"), say!("verdict.glass.brown_next", light = light));
            verdict(Tone::Act, say!("verdict.glass.brown"), why, next).todo(say!("verdict.glass.brown_todo"), slack)
        }
    };
    if glass.smell.is_none() { judged.sure(say!("verdict.glass.smell_too")) } else { judged }
}

/// Judges the roots by stage: 1 act on this visit, 2 act now, 3 take the plant out; treated, or the system begun anew,
/// as it is set up.
#[must_use]
pub fn judge_roots(stage: RootStage, stained: bool, method: RootRotMethod) -> Verdict {
    let figures = &FIGURES.roots;
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Roots, tone, finding, why, next);
    let anew = method == RootRotMethod::Restart;
    let treat = || if anew { say!("verdict.roots.restart") } else { say!("verdict.roots.treat") };
    let treated = || say!("verdict.roots.treat_todo", stage = stage.say());
    let todo = || if anew { say!("verdict.roots.restart_todo") } else { treated() };
    let judged = match stage {
        RootStage::Sound => {
            let why = if stained { say!("verdict.roots.stained_why") } else { say!("verdict.roots.sound_why") };
            verdict(Tone::Fine, say!("verdict.roots.sound"), why, say!("verdict.carry_on"))
        }
        RootStage::Clumping => {
            let (why, next) = (say!("verdict.roots.clumping_why"), treat());
            verdict(Tone::Act, say!("verdict.roots.clumping"), why, next).todo(todo(), figures.treat_slack)
        }
        RootStage::Film => {
            let (why, next) = (say!("verdict.roots.film_why"), treat());
            verdict(Tone::Now, say!("verdict.roots.film"), why, next).todo(todo(), figures.treat_slack)
        }
        RootStage::Rotted => {
            let (why, next) = (say!("verdict.roots.rotted_why"), say!("verdict.roots.remove"));
            verdict(Tone::Now, say!("verdict.roots.rotted"), why, next)
                .todo(say!("verdict.roots.remove_todo"), figures.remove_slack)
        }
    };
    judged.sure(say!("verdict.roots.sure", warm = Celsius::constant(FIGURES.water.warm)))
}

/// What is amiss with what runs, the most urgent first: its code, what it comes before, and how long it may wait.
fn faults(running: Running) -> Vec<(&'static str, Rank, f64)> {
    let (soon, later) = (FIGURES.findings.fault_slack, FIGURES.findings.timer_slack);
    let looked = [
        (running.plug_right, "plug", Rank::People, soon),
        (running.dry_floor, "leak", Rank::People, soon),
        (running.bottles_away, "bottles", Rank::People, soon),
        (running.bubbles, "no_bubbles", Rank::Hours, soon),
        (running.water_sounds_right, "sounds_wrong", Rank::Hours, soon),
        (running.outlets_wet, "outlet_dry", Rank::Hours, soon),
        (running.valve_right, "valve", Rank::Days, soon),
        (running.timer_right, "timer_wrong", Rank::Days, later),
    ];
    let amiss = looked.into_iter().filter(|(seen, ..)| *seen == Some(false));
    amiss.map(|(_, fault, rank, slack)| (fault, rank, slack)).collect()
}

/// The most urgent of what is amiss, in a few words.
#[must_use]
pub fn worst_fault(running: Running) -> Option<Message> {
    faults(running).first().map(|(fault, ..)| Message::of("fault", fault, "say"))
}

/// Judges what runs. Each fault has its own urgency; the worst gives the tone.
#[must_use]
pub fn judge_running(running: Running) -> Verdict {
    let faults = faults(running);
    let Some((first, rank, slack)) = faults.first().copied() else {
        let (why, next) = (say!("verdict.running.fine_why"), say!("verdict.nothing_to_do"));
        return Verdict::new(Subject::Running, Tone::Fine, say!("verdict.running.fine"), why, next);
    };
    let each =
        |part: &str| -> Vec<Message> { faults.iter().map(|(fault, ..)| Message::of("fault", fault, part)).collect() };
    let finding = say!("verdict.running.faults", faults = each("say"));
    let next = say!("sentences", all = Param::Sentences(each("next")));
    let tone = if slack < FIGURES.findings.timer_slack { Tone::Now } else { Tone::Act };
    let todo = say!("verdict.running.todo", fault = Message::of("fault", first, "say"));
    let verdict = Verdict::new(Subject::Running, tone, finding, Message::of("fault", first, "why"), next);
    Verdict { stays: rank <= Rank::Hours, ..verdict.todo(todo, slack).ranked(rank) }
}
