//! What the water glass, the roots and the running parts mean.

use super::{Subject, Tone, Verdict};
use crate::log::{Clarity, RootStage, Running, Smell, WaterGlass};

/// Judges a glass of the water. A tint is fine; a white cloud is bacteria, green and brown are algae.
#[must_use]
pub fn judge_glass(glass: WaterGlass, opaque: bool) -> Verdict {
    let foul = glass.smell == Some(Smell::Foul);
    let light = if opaque { "Find where light falls in: ports, seams, sleeves." } else { "Cover the vessel: light falls on the water." };
    let verdict = match glass.clarity {
        Clarity::Clear | Clarity::Tinted if foul => Verdict::calm(
            Subject::Glass,
            Tone::Act,
            "Clear, but it smells foul".to_owned(),
            "Something rots in the water, roots as a rule.",
            "Look at the roots now, take out dead matter, change the water.",
        )
        .todo("Find what smells", 1.0),
        Clarity::Clear => Verdict::calm(Subject::Glass, Tone::Fine, "Clear water".to_owned(), "Nothing grows in it.", "Nothing to do."),
        Clarity::Tinted => Verdict::calm(Subject::Glass, Tone::Fine, "Clear with a tint".to_owned(), "Feed tints water; that is no fault.", "Nothing to do."),
        Clarity::WhiteCloud => {
            Verdict::calm(Subject::Glass, Tone::Act, "A white cloud".to_owned(), "Bacteria feed on dead matter in it.", "Take out dead roots and leaves, clean, change the water.")
                .todo("Clear the white cloud", 4.0)
        }
        Clarity::Green => Verdict::calm(
            Subject::Glass,
            Tone::Act,
            "Green water or walls".to_owned(),
            "Algae: light reaches the water, and they take feed and oxygen.",
            &format!("{light} Then clean and change the water."),
        )
        .todo("Shut out light, clean algae", 4.0),
        Clarity::Brown => Verdict::calm(
            Subject::Glass,
            Tone::Act,
            "Brown water or film".to_owned(),
            "Brown algae or rotting matter.",
            &format!("Look at the roots. {light} Then clean and change the water."),
        )
        .todo("Clean the brown film", 4.0),
    };
    verdict.sure(if glass.smell.is_none() { "Smell it too: rot is smelt before it is seen." } else { "" })
}

/// Judges the roots by stage: 1 act on this visit, 2 act now, 3 take the plant out.
#[must_use]
pub fn judge_roots(stage: RootStage, stained: bool, by_child: bool) -> Verdict {
    let treat =
        "Root bath, full change, clean, then peroxide in the water every 4–6 days; look again after 2, 4 and 7 days. Other hands and tools stay away: visit this system last.";
    let adult = "Tell an adult now, touch nothing else with these hands, and wash them.";
    let next = |own: &str| if by_child { adult.to_owned() } else { own.to_owned() };
    let verdict = match stage {
        RootStage::Sound => {
            let why = if stained { "An even tan that rinses paler is feed stain." } else { "White to cream, firm and separate." };
            Verdict::calm(Subject::Roots, Tone::Fine, "Stage 0: sound roots".to_owned(), why, "Carry on.")
        }
        RootStage::Clumping => {
            Verdict::calm(Subject::Roots, Tone::Act, "Stage 1: strands stick together".to_owned(), "The first sign of root rot, before any colour shows.", &next(treat))
                .todo("Treat the roots: stage 1", 1.0)
        }
        RootStage::Film => {
            Verdict::calm(Subject::Roots, Tone::Now, "Stage 2: slime or browning".to_owned(), "Root rot is under way, and the water is shared by every plant on it.", &next(treat))
                .todo("Treat the roots: stage 2", 1.0)
        }
        RootStage::Rotted => Verdict::calm(
            Subject::Roots,
            Tone::Now,
            "Stage 3: brown-black, matted or foul".to_owned(),
            "These roots are dead; the plant collapses within days and seeds the rest.",
            &next("Take the plant out and throw it away, then reset the system: everything out, sanitise, rinse, dry, refill."),
        )
        .todo("Remove the rotted plant", 0.5),
    };
    verdict.sure("Check each time: air and pump on, sprayers wet, water under 24 °C, air roots free, no dead roots left in, no light on the water.")
}

/// Judges what runs. Each fault has its own urgency; the worst gives the tone.
#[must_use]
pub fn judge_running(running: Running) -> Verdict {
    let faults: Vec<(&str, &str, &str, f64)> = [
        (running.bubbles, "no bubbles", "Roots drown within hours to a day without air.", "See that the air pump runs and the line is free; unplug before hands go in."),
        (running.water_sounds_right, "the water sounds wrong", "A pump that labours or has stopped leaves roots dry.", "Unplug, then look at the pump's inlet and the level."),
        (running.outlets_wet, "an outlet is dry", "Roots behind a dry outlet die within a day.", "Unplug, take the outlet out, rinse it, and see it run before the lid closes."),
        (running.dry_floor, "a leak", "Water and mains current do not mix.", "Switch off at the plug, dry the floor, find the leak."),
        (running.timer_right, "the timer is wrong", "A timer loses its time in a power cut.", "Set the clock and the hours again."),
    ]
    .into_iter()
    .filter(|(seen, ..)| *seen == Some(false))
    .map(|(_, fault, why, next)| (fault, why, next, if fault.starts_with("the timer") { 1.0 } else { 0.5 }))
    .collect();
    let Some((first, why, _, slack)) = faults.first().copied() else {
        return Verdict::calm(Subject::Running, Tone::Fine, "Everything runs".to_owned(), "Seen and heard.", "Nothing to do.");
    };
    let found: Vec<&str> = faults.iter().map(|f| f.0).collect();
    let next: Vec<&str> = faults.iter().map(|f| f.2).collect();
    let tone = if slack < 1.0 { Tone::Now } else { Tone::Act };
    let mut finding = found.join(", ");
    finding[..1].make_ascii_uppercase();
    Verdict::calm(Subject::Running, tone, finding, why, &next.join(" ")).todo(&format!("See to it: {first}"), slack)
}
