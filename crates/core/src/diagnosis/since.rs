//! What was done since the plants were last looked at.

use crate::message::Message;
use crate::quantity::Litres;
use crate::say;
use crate::situation::Situation;
use jiff::Timestamp;

/// What was done to the water after the plants were last looked at: what they showed then is no longer explained
/// by how it stands now. The latest deed, with when it was; `None` where nothing was done since.
#[must_use]
pub fn done_since(s: &Situation<'_>) -> Option<(Timestamp, Message)> {
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
    since.max_by_key(|(at, _)| *at)
}
