//! What the water's temperature means: oxygen and root rot.

use super::{Gauge, Subject, Tone, Verdict};
use crate::care::change::VERY_WARM;
use crate::quantity::{Celsius, Wording};

/// At and above this root rot gains on the roots.
const WARM: f64 = 24.0;
/// Below this roots idle.
const COLD: f64 = 15.0;

/// Judges a temperature: 18–22 °C is best, from 24 °C rot is likelier, from 26.7 °C the water is
/// changed in half the time.
#[must_use]
pub fn judge_temperature(temperature: Celsius, wording: Wording) -> Verdict {
    let said = format!("Water {}", wording.temperature(temperature));
    let t = temperature.get();
    let verdict = if t >= VERY_WARM {
        Verdict::calm(
            Subject::Temperature,
            Tone::Act,
            format!("{said}, far too warm"),
            "Warm water holds little oxygen, and root rot thrives.",
            "Shade the vessel, cool the room, move more air; change the water in half the usual days.",
        )
        .todo("Cool the water", 0.5)
    } else if t >= WARM {
        Verdict::calm(
            Subject::Temperature,
            Tone::Watch,
            format!("{said}, warm"),
            "From 24 °C on root rot is likelier, and everything can wait only half as long.",
            "Shade it, move more air, and look at the roots.",
        )
    } else if t < COLD {
        Verdict::calm(Subject::Temperature, Tone::Watch, format!("{said}, cold"), "Roots idle in cold water.", "Stand it off a cold floor.")
    } else {
        Verdict::calm(Subject::Temperature, Tone::Fine, said, "Roots breathe well at this.", "Nothing to do.")
    };
    verdict.sure("A thermometer left in for a minute is true to about half a degree.").on(Gauge { from: 8.0, to: 34.0, band: [18.0, 22.0], value: [t - 0.25, t + 0.25] })
}
