//! Whether the clock can be believed: a wrong one would date entries years ahead, and silence a system until
//! then, or behind what was written already.

use crate::fact::Actor;
use crate::figures::FIGURES;
use crate::refusal::Refusal;
use crate::refuse;
use jiff::{SignedDuration, Timestamp};

fn hours(hours: f64) -> SignedDuration {
    SignedDuration::from_secs((hours * 3600.0) as i64)
}

/// Asks about a clock that stands behind the latest time at which anything was written, or apart from the
/// clock of the device that acts. Whoever acts may say that it is right.
///
/// # Errors
/// A refusal that says both times.
pub fn likely(now: Timestamp, last_written: Option<Timestamp>, actor: &Actor) -> Result<(), Refusal> {
    if actor.clock_is_right {
        return Ok(());
    }
    if let Some(last) = last_written.filter(|last| now.duration_until(*last) > hours(FIGURES.record.behind_hours)) {
        return Err(refuse!("clock_behind", now = now.to_string(), last = last.to_string()).at(Refusal::CLOCK));
    }
    let apart = |device: &Timestamp| now.duration_until(*device).abs() > hours(FIGURES.record.apart_hours);
    if let Some(device) = actor.clock.filter(apart) {
        return Err(refuse!("clocks_apart", now = now.to_string(), device = device.to_string()).at(Refusal::CLOCK));
    }
    Ok(())
}
