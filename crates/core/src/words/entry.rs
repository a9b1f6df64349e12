//! An entry as messages: one for each thing that it says.

use crate::fact::{
    Batch, Body, CaseLook, Change, ChangeExtent, ChangeParts, Correction, Happened, Harvested, LampSeen, Premix,
    PremixIn, PutOff, RunOff, TopOffWater, Treatment, TreatmentKind, Used, Visit,
};
use crate::message::{Message, Param, count, member, percent};
use crate::quantity::{Note, PhReading};
use crate::say;
use crate::system::{PortSet, Serviced, System};
use crate::verdict::judge_running;

/// The lines of an entry, about a system as it was on the day.
#[must_use]
pub fn say_entry(body: &Body, system: &System) -> Vec<Message> {
    match body {
        Body::Visit(visit) => say_visit(visit, system),
        Body::Change(change) => say_change(change, system),
        Body::Treatment(treatment) => say_treatment(treatment),
        Body::Correction(correction) => say_correction(correction),
        Body::Premix(premix) => say_premix(premix),
        Body::Withdrawn {} => vec![say!("entry.withdrawn")],
        // It stands in no log.
        Body::Sensed(_) => vec![],
        Body::FromNewer => vec![say!("entry.from_newer")],
        Body::Unreadable => vec![say!("entry.unreadable")],
    }
}

/// Behind a finding: the ports that it is about, or nothing.
fn at_ports(ports: Option<&PortSet>) -> Param {
    match ports {
        Some(ports) => say!("entry.at_ports", ports = ports.say()).into(),
        None => Param::from(""),
    }
}

fn say_ph(ph: PhReading) -> Message {
    say!("entry.ph", ph = ph)
}

fn say_note(note: Option<&Note>) -> impl Iterator<Item = Message> {
    note.filter(|note| !note.as_str().is_empty()).map(|note| say!("entry.note", note = note)).into_iter()
}

fn say_case(look: &CaseLook) -> Message {
    let at = at_ports(look.ports.as_ref());
    let line =
        say!("entry.case", case = Message::of("cause", &look.cause, "name"), outcome = look.outcome.say(), at = at);
    match &look.learnt {
        Some(learnt) => say!("sentences", all = Param::Sentences(vec![line, say!("entry.learnt", note = learnt)])),
        None => line,
    }
}

fn say_visit(visit: &Visit, system: &System) -> Vec<Message> {
    let mut lines = Vec::new();
    if visit.all_fine {
        lines.push(say!("entry.all_fine"));
    }
    if let Some(plants) = &visit.plants {
        let signs: Vec<Message> = plants.signs.iter().map(|sign| sign.say()).collect();
        lines.push(if signs.is_empty() {
            say!("entry.plants_sound")
        } else {
            say!("entry.plants", signs = signs, at = at_ports(plants.ports.as_ref()))
        });
    }
    lines.extend(visit.cases.iter().map(say_case));
    lines.extend(visit.running.map(|running| judge_running(running).finding));
    lines.extend(visit.vessels.as_ref().map(|each| {
        let all = each.litres.iter().map(|litres| say!("entry.vessel", litres = *litres)).collect::<Vec<Message>>();
        say!("entry.vessels", all = all)
    }));
    if visit.read_level().is_some() {
        lines.push(match visit.measured(system) {
            Some(volume) => say!("entry.level", volume = volume),
            None => say!("entry.level_outside"),
        });
    }
    lines.extend(visit.temperature.map(|temperature| say!("entry.temperature", temperature = temperature)));
    lines.extend(visit.ph.map(say_ph));
    let ec = visit.ec.and_then(|ec| ec.at_25(visit.temperature).ok());
    lines.extend(ec.map(|ec| say!("entry.ec", ec = ec)));
    if let Some(glass) = visit.glass {
        let clarity = member("clarity", glass.clarity.code());
        lines.push(match glass.smell {
            Some(smell) => say!("entry.glass_smells", clarity = clarity, smell = member("smell", smell.code())),
            None => say!("entry.glass", clarity = clarity),
        });
    }
    lines.extend(visit.run_off.map(|run_off| say_run_off(run_off, visit)));
    if let Some((roots, stage)) = visit.roots.as_ref().and_then(|roots| Some((roots, roots.stage()?.say()))) {
        lines.push(say!("entry.roots", stage = stage, at = at_ports(roots.ports.as_ref())));
    }
    lines.extend(visit.lamp.into_iter().flat_map(LampSeen::say));
    lines.extend(visit.harvests.iter().map(Harvested::say));
    lines.extend(visit.events.iter().map(Happened::say));
    lines.extend(visit.drained.map(|litres| say!("entry.drained", litres = litres)));
    lines.extend(visit.left_behind(system).map(|litres| say!("entry.supply", litres = litres)));
    if let Some(top_off) = visit.top_off {
        let litres = top_off.litres;
        lines.push(match top_off.water {
            TopOffWater::Plain => say!("entry.topped_off_plain", litres = litres),
            TopOffWater::Feed { ec: None } => say!("entry.topped_off_feed", litres = litres),
            TopOffWater::Premixed {} => say!("entry.topped_off_premixed", litres = litres),
            TopOffWater::Feed { ec: Some(ec) } => say!("entry.topped_off_feed_at", litres = litres, ec = ec),
        });
    }
    lines.extend(visit.batch.as_ref().map(say_batch));
    lines.extend(visit.corrected().iter().flat_map(say_correction));
    lines.extend(visit.done.iter().map(|check| say!("entry.done", check = check.name())));
    lines.extend(visit.meshes.map(|found| say!("entry.meshes", found = member("meshes", found.code()))));
    lines.extend(visit.rules.iter().map(|done| say!("entry.rule_done", name = &done.name)));
    lines.extend(visit.serviced.iter().map(Serviced::say));
    lines.extend(visit.put_off.iter().map(PutOff::say));
    let overruled = visit.overruled.iter();
    lines.extend(overruled.map(|(subject, reason)| say!("entry.overruled", subject = subject.say(), why = reason)));
    lines.extend(say_note(visit.note.as_ref()));
    lines
}

/// What ran out of the pots: its share, EC and pH, as far as they were read.
fn say_run_off(run_off: RunOff, visit: &Visit) -> Message {
    let share = run_off.share().map(|share| say!("entry.run_off_share", share = percent((share * 100.0).round())));
    let ec = run_off.strength(visit.temperature).map(|ec| say!("entry.ec", ec = ec));
    let all: Vec<Message> = [share, ec, run_off.ph.map(say_ph)].into_iter().flatten().collect();
    say!("entry.run_off", all = all)
}

fn say_change(change: &Change, system: &System) -> Vec<Message> {
    let after = change.volume_after;
    let mut lines = vec![match change.extent {
        ChangeExtent::Full => say!("entry.full_change", after = after),
        ChangeExtent::Partial => say!("entry.partial_change", after = after),
    }];
    lines.extend(change.temperature.map(|temperature| say!("entry.temperature", temperature = temperature)));
    lines.extend(change.ph.map(say_ph));
    let ec = change.ec.and_then(|ec| ec.at_25(change.temperature).ok());
    lines.extend(ec.map(|ec| say!("entry.ec", ec = ec)));
    lines.extend(change.heel.filter(|heel| heel.get() > 0.0).map(|heel| say!("entry.heel", heel = heel)));
    lines.extend(change.batch.as_ref().map(say_batch));
    lines.extend(change.drawn(system).map(|(store, litres)| match store {
        PremixIn::Jug => say!("entry.drawn_jug", litres = litres),
        PremixIn::TopOffReservoir => say!("entry.drawn_drum", litres = litres),
    }));
    lines.extend(change.parts.iter().flat_map(say_parts));
    lines.extend(say_note(change.note.as_ref()));
    lines
}

/// How a guided change went.
fn say_parts(parts: &ChangeParts) -> Vec<Message> {
    let mut lines = Vec::new();
    if parts.first {
        lines.push(say!("entry.first_fill"));
    }
    if parts.reset {
        lines.push(say!("entry.reset"));
    }
    if parts.swap {
        lines.push(say!("entry.swapped"));
    }
    if let (Some(batch), Some(tank)) = (parts.batch_temperature, parts.tank_temperature) {
        lines.push(match &parts.temper_reason {
            Some(why) => say!("entry.tempered_because", batch = batch, tank = tank, why = why),
            None => say!("entry.tempered", batch = batch, tank = tank),
        });
    }
    if let Some((roots, stage)) = parts.roots.as_ref().and_then(|roots| Some((roots, roots.stage()?.say()))) {
        lines.push(say!("entry.roots", stage = stage, at = at_ports(roots.ports.as_ref())));
    }
    lines.extend(parts.treatments.iter().flat_map(say_treatment));
    lines.extend(parts.old_water.map(|to| say!("entry.old_water", to = to.say())));
    if !parts.sanitisers.is_empty() {
        let named = |sanitiser: &crate::mixing::Sanitiser| say!("entry.sanitiser", name = sanitiser.say());
        let all: Vec<Message> = parts.sanitisers.iter().map(named).collect();
        lines.push(say!("entry.sanitised", with = all));
    }
    let done = parts.steps.values().filter(|mark| mark.left_out.is_none()).count();
    lines.push(say!("entry.steps_done", done = count(done)));
    for (step, mark) in &parts.steps {
        lines.extend(mark.left_out.as_ref().map(|why| say!("entry.left_out", step = step.name(), why = why)));
    }
    lines
}

fn say_treatment(treatment: &Treatment) -> Vec<Message> {
    let at = at_ports(treatment.ports.as_ref());
    let what = match treatment.what {
        TreatmentKind::PeroxideDose => member("treatment", "peroxide_dose"),
        TreatmentKind::RootBath => member("treatment", "root_bath"),
        TreatmentKind::PlantsRemoved => member("treatment", "plants_removed"),
    };
    let mut lines = vec![match treatment.amount_ml {
        Some(amount) => say!("entry.treatment_amount", what = what, amount = amount, at = at),
        None => say!("entry.treatment", what = what, at = at),
    }];
    lines.extend(say_note(treatment.note.as_ref()));
    lines
}

/// "Mixed into 42.0 L: 105 mL Leaf feed A, 105 mL Leaf feed B; EC 1.72 mS/cm".
fn say_batch(batch: &Batch) -> Message {
    let used = |used: &Used| say!("entry.used", amount = used.amount, name = &used.name);
    let all: Vec<Message> = batch.used.iter().map(used).collect();
    let used = if all.is_empty() { vec![say!("entry.used_nothing")] } else { all };
    match batch.ec.and_then(|ec| ec.at_25(None).ok()) {
        Some(ec) => say!("entry.batch_at", fresh = batch.fresh, used = used, ec = ec),
        None => say!("entry.batch", fresh = batch.fresh, used = used),
    }
}

fn say_correction(correction: &Correction) -> Vec<Message> {
    let mut lines = vec![say!(
        "entry.correction",
        amount = correction.dosed.amount,
        name = &correction.dosed.name,
        litres = correction.litres,
        from = correction.from,
        aim = correction.aim
    )];
    lines.extend(say_note(correction.note.as_ref()));
    lines
}

fn say_premix(premix: &Premix) -> Vec<Message> {
    let into = match premix.into {
        PremixIn::TopOffReservoir => member("premix", "top_off_reservoir"),
        PremixIn::Jug => member("premix", "jug"),
    };
    let mut lines = vec![match premix.ec.and_then(|ec| ec.at_25(None).ok()) {
        Some(ec) => say!("entry.premix_at", into = into, litres = premix.litres, ec = ec),
        None => say!("entry.premix", into = into, litres = premix.litres),
    }];
    lines.extend(premix.ph.map(say_ph));
    lines.extend(premix.batch.as_ref().map(say_batch));
    lines.extend(say_note(premix.note.as_ref()));
    lines
}
