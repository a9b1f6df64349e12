//! Where what a cause calls for is done, and where a look is made.

use super::clues::Clues;
use super::knowledge::Leads;
use crate::message::Message;
use crate::say;
use crate::way::{Way, WayTo};

/// The way to the doing; `None` where it has no page of its own, and for children.
pub(super) fn of_doing(leads: Leads, clues: &Clues) -> Option<Way> {
    if clues.child {
        return None;
    }
    let bench = |purpose| Some(Way { to: WayTo::Bench, part: Some(purpose), name: Message::of("way", purpose, "say") });
    let change = || Some(Way { to: WayTo::Change, part: None, name: say!("way.change") });
    let reads_ec = clues.measuring.is_none_or(crate::system::Measuring::ec);
    match leads {
        // Where nobody reads EC, the recipe of a fresh filling is what mends it.
        Leads::Feed | Leads::Weaken if !reads_ec => change(),
        Leads::Feed | Leads::Weaken => bench("correction"),
        Leads::Ph if clues.doses_ph => bench("ph"),
        Leads::Ph | Leads::Change => change(),
        Leads::TopOff => bench("top_off"),
        Leads::Treat => Some(Way::visit("roots", say!("way.look"))),
        Leads::Air | Leads::Light | Leads::Remove | Leads::Wipe | Leads::Wait | Leads::Look => None,
    }
}

/// The step of a visit at which a look is made; a single sign, and how it goes over the plants, are answered beside
/// the signs.
pub(super) fn of_look(key: &str) -> Way {
    let visit = |step, name: Message| Way::visit(step, name);
    match key {
        "level" => visit("level", say!("way.read")),
        "temperature" | "ec" | "ph" => visit("measure", say!("way.measure")),
        "glass" => visit("glass", say!("way.look")),
        "roots" => visit("roots", say!("way.look")),
        "lamp_gap" | "lamp_hours" => visit("jobs", say!("way.measure")),
        _ => visit("look", say!("way.look")),
    }
}

/// The part that runs, where the look is about one that is answered with yes or no.
pub(super) fn runs(key: &str, clues: &Clues) -> Option<&'static str> {
    match key {
        "outlets" => Some("outlets_wet"),
        "air" if clues.traits.is_some_and(|traits| !traits.aerated) => Some("water_sounds_right"),
        "air" => Some("bubbles"),
        _ => None,
    }
}
