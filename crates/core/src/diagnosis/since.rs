//! Why what was last seen on the plants is no longer explained: something was done since, or it is long ago.

use crate::calendar::{day, days_between};
use crate::figures::FIGURES;
use crate::message::Message;
use crate::quantity::Litres;
use crate::say;
use crate::situation::Situation;

/// Why the signs that were last seen on the plants are not explained by how things stand now, in a sentence: the water
/// was changed, fed or dosed since, or they are too old. `None` where they are explained, and where there are none.
#[must_use]
pub fn outdated(s: &Situation<'_>) -> Option<Message> {
    let seen = s.known.readings.plants.as_ref().filter(|plants| !plants.value.signs.is_empty())?.at;
    let (tank, cases) = (&s.known.tank, &s.known.cases);
    let poured = tank.volumes.iter().filter(|point| point.added > Litres::ZERO).map(|point| point.at).max();
    let dosed = s.known.lessons.ph_doses.last().map(|dose| dose.at);
    let treated = cases.all.iter().filter_map(|case| case.treated).max();
    let deeds = [
        (tank.last_change, say!("deed_since.change")),
        (poured, say!("deed_since.pour")),
        (dosed.max(treated), say!("deed_since.dose")),
    ];
    let since = deeds.into_iter().filter_map(|(at, deed)| Some((at?, deed))).filter(|(at, _)| *at > seen);
    if let Some((at, deed)) = since.max_by_key(|(at, _)| *at) {
        return Some(say!("verdict.plants.since", deed = deed, day = day(s.date(at), s.today())));
    }
    let old = days_between(seen, s.now.timestamp()) > FIGURES.diagnosis.plants_days;
    old.then(|| say!("verdict.plants.long_ago", day = day(s.date(seen), s.today())))
}
