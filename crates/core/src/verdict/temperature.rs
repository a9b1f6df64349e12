//! What the water's temperature means: oxygen and root rot.

use super::{Gauge, Tone, Verdict};
use crate::fact::Subject;
use crate::figures::FIGURES;
use crate::message::{Param, count};
use crate::mixing::warmth::swaps;
use crate::quantity::{About, Celsius, Litres};
use crate::refill::too_wide;
use crate::say;
use crate::situation::Situation;

/// The same where the system is known: of water that is far too warm, how much is swapped for colder.
#[must_use]
pub fn judge_temperature_of(temperature: Celsius, standing: Option<About<Litres>>, s: &Situation<'_>) -> Verdict {
    let verdict = judge_temperature(temperature);
    let (figures, known) = (&FIGURES.water, standing.filter(|litres| !too_wide(litres, s)));
    let Some(litres) = known.filter(|_| temperature.get() >= figures.very_warm && !s.actor.is_child()) else {
        return verdict;
    };
    let (aim, fresh) = (Celsius::constant(figures.best_high), Celsius::constant(figures.cool_fresh));
    let all = swaps(litres.value, temperature, aim, fresh);
    let Some((first, last)) = all.first().zip(all.last()) else { return verdict };
    let times = count(all.len());
    let swap = say!("verdict.temperature.swap", litres = first.litres, fresh = fresh, times = times, to = last.to);
    Verdict { next: say!("sentences", all = Param::Sentences(vec![verdict.next, swap])), ..verdict }
}

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
