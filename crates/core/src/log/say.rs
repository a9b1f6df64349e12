//! An entry in words: a line for each thing that it says.

use super::{Batch, Body, Change, ChangeExtent, Clarity, Correction, Premix, PremixIn, Smell, TopOffWater, Treatment, TreatmentKind, Visit};
use crate::quantity::{Note, Wording};
use crate::system::{PortSet, System};
use crate::verdict::judge_running;

/// The lines of an entry.
#[must_use]
pub fn say_entry(body: &Body, system: &System, w: Wording) -> Vec<String> {
    match body {
        Body::Visit(visit) => say_visit(visit, system, w),
        Body::Change(change) => say_change(change, w),
        Body::Treatment(treatment) => say_treatment(treatment),
        Body::Correction(correction) => say_correction(correction, w),
        Body::Premix(premix) => say_premix(premix, w),
        Body::Withdrawn {} => vec!["Withdrawn: counts for nothing.".to_owned()],
    }
}

fn at_ports(ports: Option<&PortSet>) -> String {
    ports.map_or(String::new(), |ports| format!(" ({} {})", if ports.len() > 1 { "ports" } else { "port" }, String::from(ports.clone())))
}

fn say_visit(visit: &Visit, system: &System, w: Wording) -> Vec<String> {
    let mut lines = Vec::new();
    if visit.all_fine {
        lines.push("Looked in: all fine".to_owned());
    }
    if let Some(plants) = &visit.plants {
        let signs: Vec<&str> = plants.signs.iter().map(|s| s.facts().say.as_str()).collect();
        lines.push(if signs.is_empty() { "Plants look sound".to_owned() } else { format!("Plants: {}{}", signs.join("; "), at_ports(plants.ports.as_ref())) });
    }
    if let Some(running) = visit.running {
        lines.push(judge_running(running).finding);
    }
    if let Some(level) = visit.level {
        let volume = level.volume(&system.reservoir, system.traits.drain_back);
        lines.push(volume.map_or_else(|_| "Level: outside the vessel as it is set up now".to_owned(), |v| format!("Level: {}", w.volume(v))));
    }
    lines.extend(visit.temperature.map(|t| format!("Water {}", w.temperature(t))));
    lines.extend(visit.ph.map(|ph| format!("pH {}", ph.say())));
    lines.extend(visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok()).map(|ec| format!("EC {}", w.ec(ec))));
    if let Some(glass) = visit.glass {
        let clarity = match glass.clarity {
            Clarity::Clear => "clear",
            Clarity::Tinted => "clear with a tint",
            Clarity::WhiteCloud => "white cloud",
            Clarity::Green => "green",
            Clarity::Brown => "brown",
        };
        let smell = match glass.smell {
            Some(Smell::Fresh) => ", smells fresh",
            Some(Smell::Earthy) => ", smells earthy",
            Some(Smell::Foul) => ", smells foul",
            None => "",
        };
        lines.push(format!("Water glass: {clarity}{smell}"));
    }
    lines.extend(visit.roots.as_ref().map(|roots| format!("Roots: stage {}{}", roots.answers.stage().number(), at_ports(roots.ports.as_ref()))));
    lines.extend(visit.drained.map(|litres| format!("Drained {}", w.volume(litres))));
    if let Some(top_off) = visit.top_off {
        let water = match top_off.water {
            TopOffWater::Plain => "plain water".to_owned(),
            TopOffWater::Feed { ec: None } => "feed".to_owned(),
            TopOffWater::Premixed {} => "the feed mixed ahead".to_owned(),
            TopOffWater::Feed { ec: Some(ec) } => format!("feed at {}", w.ec(ec)),
        };
        lines.push(format!("Topped off {} of {water}", w.volume(top_off.litres)));
    }
    lines.extend(visit.batch.as_ref().map(|batch| say_batch(batch, w)));
    lines.extend(visit.done.iter().map(|check| format!("Done: {}", check.facts().name.to_lowercase())));
    lines.extend(visit.overruled.iter().map(|(subject, reason)| format!("Verdict on {} overruled: {}", subject.replace('_', " "), reason.as_str())));
    lines.extend(visit.note.as_ref().map(|note| note.as_str().to_owned()));
    lines
}

fn say_change(change: &Change, w: Wording) -> Vec<String> {
    let extent = if change.extent == ChangeExtent::Full { "Full" } else { "Partial" };
    let mut lines = vec![format!("{extent} reservoir change, {} after", w.volume(change.volume_after))];
    lines.extend(change.temperature.map(|t| format!("Water {}", w.temperature(t))));
    lines.extend(change.ph.map(|ph| format!("pH {}", ph.say())));
    lines.extend(change.ec.and_then(|ec| ec.at_25(change.temperature).ok()).map(|ec| format!("EC {}", w.ec(ec))));
    lines.extend(change.heel.filter(|heel| heel.get() > 0.0).map(|heel| format!("Heel of {} left in", w.volume(heel))));
    lines.extend(change.batch.as_ref().map(|batch| say_batch(batch, w)));
    lines.extend(change.parts.as_ref().map(|parts| parts.say(w)).unwrap_or_default());
    lines.extend(change.note.as_ref().map(|note: &Note| note.as_str().to_owned()));
    lines
}

fn say_treatment(treatment: &Treatment) -> Vec<String> {
    let what = match treatment.what {
        TreatmentKind::PeroxideDose => "Peroxide into the water",
        TreatmentKind::RootBath => "Root bath",
        TreatmentKind::PlantsRemoved => "Plants taken out",
    };
    let amount = treatment.amount_ml.map_or(String::new(), |ml| format!(", {:.0} mL", ml.get()));
    let mut lines = vec![format!("{what}{amount}{}", at_ports(treatment.ports.as_ref()))];
    lines.extend(treatment.note.as_ref().map(|note| note.as_str().to_owned()));
    lines
}

/// "Mixed into 42.0 L: 105 mL Leaf feed A, 105 mL Leaf feed B; EC 1.72 mS/cm".
fn say_batch(batch: &Batch, w: Wording) -> String {
    let used: Vec<String> = batch.used.iter().map(|used| format!("{} {}", w.amount(used.amount), used.name.as_str())).collect();
    let used = if used.is_empty() { "nothing".to_owned() } else { used.join(", ") };
    let ec = batch.ec.and_then(|ec| ec.at_25(None).ok()).map_or(String::new(), |ec| format!("; EC {}", w.ec(ec)));
    format!("Mixed into {}: {used}{ec}", w.volume(batch.fresh))
}

fn say_correction(correction: &Correction, w: Wording) -> Vec<String> {
    let mut lines = vec![format!(
        "{} {} into {}, to move pH {} towards {:.1}",
        w.amount(correction.dosed.amount),
        correction.dosed.name.as_str(),
        w.volume(correction.litres),
        correction.from.say(),
        correction.aim.get()
    )];
    lines.extend(correction.note.as_ref().map(|note| note.as_str().to_owned()));
    lines
}

fn say_premix(premix: &Premix, w: Wording) -> Vec<String> {
    let into = match premix.into {
        PremixIn::TopOffReservoir => "top-off reservoir",
        PremixIn::Jug => "jug",
    };
    let ec = premix.ec.and_then(|ec| ec.at_25(None).ok()).map_or(String::new(), |ec| format!(" at {}", w.ec(ec)));
    let mut lines = vec![format!("Feed mixed ahead in the {into}: {}{ec}", w.volume(premix.litres))];
    lines.extend(premix.ph.map(|ph| format!("pH {}", ph.say())));
    lines.extend(premix.batch.as_ref().map(|batch| say_batch(batch, w)));
    lines.extend(premix.note.as_ref().map(|note| note.as_str().to_owned()));
    lines
}
