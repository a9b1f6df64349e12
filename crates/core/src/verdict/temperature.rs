//! What the water's temperature means: oxygen and root rot.

use super::{Gauge, Tone, Verdict};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::quantity::Celsius;
use crate::say;

/// Judges a temperature: best around 20 °C; warm water makes rot likelier and everything more urgent,
/// very warm water is changed in half the time.
#[must_use]
pub fn judge_temperature(temperature: Celsius) -> Verdict {
    let figures = &FIGURES.water;
    let t = temperature.get();
    let verdict = |tone, finding, why, next| Verdict::new(Subject::Temperature, tone, finding, why, next);
    let judged = if t >= figures.very_warm {
        let finding = say!("verdict.temperature.very_warm", temperature = temperature);
        let (why, next) = (say!("verdict.temperature.very_warm_why"), say!("verdict.temperature.very_warm_next"));
        verdict(Tone::Act, finding, why, next).todo(say!("verdict.temperature.very_warm_todo"), figures.warm_slack)
    } else if t >= figures.warm {
        let finding = say!("verdict.temperature.warm", temperature = temperature);
        let why = say!("verdict.temperature.warm_why", warm = Celsius::constant(figures.warm));
        verdict(Tone::Watch, finding, why, say!("verdict.temperature.warm_next"))
    } else if t < figures.cold {
        let finding = say!("verdict.temperature.cold", temperature = temperature);
        let (why, next) = (say!("verdict.temperature.cold_why"), say!("verdict.temperature.cold_next"));
        verdict(Tone::Watch, finding, why, next)
    } else {
        let finding = say!("verdict.temperature.right", temperature = temperature);
        verdict(Tone::Fine, finding, say!("verdict.temperature.right_why"), say!("verdict.nothing_to_do"))
    };
    let band = [figures.best_low, figures.best_high];
    let value = [t - figures.thermometer, t + figures.thermometer];
    judged.sure(say!("verdict.temperature.sure")).on(Gauge { from: 8.0, to: 34.0, band, value })
}
