//! What signs on the plants point to. Each is named on its own here.

use super::{Subject, Tone, Verdict};
use crate::log::Plants;

/// Judges the signs seen on the plants; the urgent ones lead.
#[must_use]
pub fn judge_plants(plants: &Plants) -> Verdict {
    let mut signs: Vec<_> = plants.signs.iter().map(|sign| sign.facts()).collect();
    signs.sort_by_key(|facts| !facts.urgent);
    let Some(first) = signs.first() else {
        return Verdict::calm(Subject::Plants, Tone::Fine, "Plants look sound".to_owned(), "No sign of trouble was seen.", "Carry on.");
    };
    let mut finding = signs.iter().map(|facts| facts.say.as_str()).collect::<Vec<_>>().join("; ");
    if let Some(initial) = finding.get_mut(..1) {
        initial.make_ascii_uppercase();
    }
    if let Some(ports) = &plants.ports {
        finding = format!("{finding} (port {})", String::from(ports.clone()));
    }
    let why = format!("Usually points to {}.", first.points_to);
    let (tone, slack) = if first.urgent { (Tone::Now, 1.0) } else { (Tone::Act, 4.0) };
    Verdict::calm(Subject::Plants, tone, finding, &why, &first.next).todo(&format!("Plants: {}", first.say), slack).sure(if signs.len() > 1 {
        "Several signs at once: roots or pH before anything else."
    } else {
        "One sign alone can have other causes."
    })
}
