//! The button of a task: where it is done, and what stands on it. It never leads to a refusal: what has to be read first is
//! read first.

use super::Task;
use super::task::never_all_fine;
use crate::dosing::{doses_tank, last_ph};
use crate::fact::Subject;
use crate::message::Message;
use crate::refill::{level_known, strength_known};
use crate::say;
use crate::situation::Situation;
use crate::system::Check;
use crate::way::{Way, WayTo};

/// The way of a task: every one has the button that does it, save those that are ticked off where they stand.
pub(super) fn way(task: &Task, s: &Situation<'_>) -> Option<Way> {
    let visit = |step, name| Some(Way { to: WayTo::Visit, part: Some(step), name });
    let bench = |purpose| Some(Way { to: WayTo::Bench, part: Some(purpose), name: Message::of("way", purpose, "say") });
    let led = |part, name| Some(Way { to: WayTo::Change, part, name });
    let change = || led(None, say!("way.change"));
    let measure = || visit("measure", say!("way.measure"));
    // What a verdict wants: first what has to be read before anything is poured.
    match task.name.code.as_ref() {
        "verdict.ec.probe_todo"
        | "verdict.ec.measure_todo"
        | "verdict.ph.probe_todo"
        | "verdict.ph.measure_todo"
        | "verdict.ph.poured_todo" => {
            return measure();
        }
        "verdict.ec.spent_todo" => return change(),
        // What the timer is set to anew is written down, or the next look would ask for it once more.
        "verdict.run_off.longer_todo" if s.system.feeding.is_some() => {
            return Some(Way { to: WayTo::System, part: None, name: say!("way.timer") });
        }
        // Never to the bench: more water is what it has too much of.
        "verdict.level.over_todo" | "verdict.level.apart_todo" | "verdict.top_off.past_limit_todo" => {
            return visit("level", say!("way.read"));
        }
        _ => {}
    }
    match (task.code.as_ref(), task.check, task.subject) {
        ("suspect_roots", ..) => visit("roots", say!("way.look")),
        ("suspect_plants", ..) => visit("look", say!("way.look")),
        ("picked_whole", ..) => Some(Way { to: WayTo::Plantings, part: None, name: say!("way.stage") }),
        ("cycle_reset", ..) => led(Some("reset"), say!("way.reset")),
        (_, Some(Check::Light), _) | (_, None, Some(Subject::Light)) => visit("jobs", say!("way.light")),
        ("put_right", ..) => bench("put_right"),
        ("dry_roots", ..) => visit("jobs", say!("way.look")),
        ("run_again", ..) => visit("look", say!("way.look")),
        ("catch_up", ..) | (_, Some(Check::Level), _) => visit("level", say!("way.read")),
        (_, Some(Check::Change), _) => change(),
        (_, Some(Check::Readings | Check::RunOff), _) | (_, None, Some(Subject::RunOff)) => measure(),
        (_, Some(Check::WaterGlass), _) => visit("glass", say!("way.look")),
        (_, Some(Check::Roots), _) | ("root_look", ..) => visit("roots", say!("way.look")),
        (_, Some(Check::Plants), _) => visit("look", say!("way.look")),
        (_, Some(Check::LookIn), _) if never_all_fine(s) => visit("look", say!("way.look")),
        (_, Some(Check::Stage), _) if !s.actor.is_child() => {
            Some(Way { to: WayTo::Plantings, part: None, name: say!("way.stage") })
        }
        (_, Some(_), _) => None,
        ("supply", ..) => bench("top_off_reservoir"),
        ("peroxide", ..) if !level_known(s) => visit("level", say!("way.read")),
        ("peroxide", ..) => bench("peroxide_dose"),
        ("root_treat", ..) => led(Some("treat"), say!("way.treat")),
        ("root_remove" | "root_restart", ..) => led(Some("reset"), say!("way.change")),
        (_, None, Some(Subject::Ec | Subject::Ph)) if !level_known(s) => measure(),
        (_, None, Some(Subject::Ec)) if !s.water().ec().is_some_and(|about| strength_known(&about)) => measure(),
        (_, None, Some(Subject::Ec)) => bench("correction"),
        // A dose is worked out from what the water is now.
        (_, None, Some(Subject::Ph)) if doses_tank(s) && last_ph(s).is_none() => measure(),
        (_, None, Some(Subject::Ph)) if doses_tank(s) => bench("ph"),
        (_, None, Some(Subject::Ph)) => change(),
        (_, None, Some(Subject::Level)) if !level_known(s) => visit("level", say!("way.read")),
        (_, None, Some(Subject::Level)) => bench("top_off"),
        (_, None, Some(Subject::Glass)) => change(),
        (_, None, Some(Subject::Plants | Subject::Running)) => visit("look", say!("way.look")),
        (_, None, Some(Subject::Roots)) => visit("roots", say!("way.look")),
        (_, None, Some(Subject::Temperature)) => measure(),
        _ => None,
    }
}
