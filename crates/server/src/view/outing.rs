//! A round as it is walked: the stops in their order with what is done at each, and the kit that is made ready for all.

use super::round::TaskLine;
use crate::Problem;
use crate::api::bench::{plan_for, with_amounts};
use crate::book::{Pages, PlaceFile, SystemFile};
use jiff::{Timestamp, Zoned};
use mopsel_core::bench::Plan;
use mopsel_core::bench::kit::{Ingredient, Mix, is_for_today, pours, purpose, ready, tools};
use mopsel_core::care::hygiene::mind;
use mopsel_core::care::look::lines;
use mopsel_core::care::walk::{Stop, walk};
use mopsel_core::care::{Task, comes_first, pressing, tasks};
use mopsel_core::fact::Actor;
use mopsel_core::forecast::supply_takes;
use mopsel_core::message::Message;
use mopsel_core::quantity::{EcScale, Litres, UnitSystem};
use mopsel_core::say;
use mopsel_core::situation::Situation;
use mopsel_core::system::Check;
use mopsel_core::words::{Reader, Speaker};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// A system on the way.
#[derive(Debug, Serialize, ToSchema)]
pub struct OutingStop {
    /// Which.
    pub system: Uuid,
    /// What it is called.
    pub name: String,
    /// Its place.
    pub place: Uuid,
    /// What that is called.
    pub place_name: String,
    /// Its own turn within its place, where that is set.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub turn: Option<u16>,
    /// That it is a suspect, and what to mind; absent where it is sound.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub suspect_why: Option<String>,
    /// Minutes that it usually takes here.
    pub minutes: u32,
    /// What is done, least margin first.
    pub tasks: Vec<TaskLine>,
    /// What is poured, a sentence each.
    pub pours: Vec<String>,
}

/// A batch for several systems, mixed in one go.
#[derive(Debug, Serialize, ToSchema)]
pub struct OutingMix {
    /// How much, and how strong, in words.
    pub said: String,
    /// So much of it.
    pub litres: Litres,
    /// Its strength in mS/cm, where it is known.
    pub ec: Option<f64>,
    /// What goes in, in the order of mixing, in words.
    pub products: Vec<String>,
    /// For whom, and how much, in words.
    pub shares: Vec<String>,
    /// Whether it is mixed in the vessel itself.
    pub in_vessel: bool,
    /// The recipe, where all who share it feed by the same.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub recipe: Option<Uuid>,
    /// What the bench is asked there, where it is for one system.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub purpose: Option<&'static str>,
    /// The one system that it is for, where it is not shared.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub system: Option<Uuid>,
}

/// What is made ready.
#[derive(Debug, Serialize, ToSchema)]
pub struct OutingKit {
    /// Plain water, in words; absent where none is wanted.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plain: Option<String>,
    /// The batches.
    pub mixes: Vec<OutingMix>,
    /// Products in all, in words.
    pub products: Vec<String>,
    /// Tools, in words.
    pub tools: Vec<String>,
    /// What could not be worked out before somebody is there, in sentences.
    pub open: Vec<String>,
}

/// The round as it is walked.
#[derive(Debug, Serialize, ToSchema)]
pub struct OutingView {
    /// The date, in words.
    pub today: String,
    /// Whether a child reads it.
    pub child: bool,
    /// Its units.
    pub units: UnitSystem,
    /// Minutes in all, without the ways between.
    pub minutes: u32,
    /// That the most pressing is visited last, and why; absent where it is not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub last_why: Option<String>,
    /// The stops, in their order.
    pub stops: Vec<OutingStop>,
    /// The kit.
    pub kit: OutingKit,
}

/// One system while the outing is put together.
struct Here<'a> {
    file: &'a SystemFile,
    place: &'a PlaceFile,
    tasks: Vec<Task>,
    lines: Vec<Task>,
    plans: Vec<(&'static str, Plan)>,
    stop: Stop,
    suspect_why: Option<String>,
    reader: Reader,
}

/// The round over some places, or all: what is done where, in which order, and what is carried.
///
/// # Errors
/// Not found.
pub fn outing(pages: &Pages, places: &[Uuid], at: Timestamp, actor: &Actor) -> Result<OutingView, Problem> {
    if let Some(missing) = places.iter().find(|id| !pages.places.contains_key(id)) {
        return Err(Problem::not_found(&format!("place with the id {missing}")));
    }
    let around = pages.around();
    let nows: BTreeMap<Uuid, Zoned> =
        pages.places.iter().map(|(id, place)| (*id, at.to_zoned(place.zone.clone()))).collect();
    let wanted = |file: &&SystemFile| {
        let alive = pages.places.get(&file.place).is_some_and(|place| !place.card.archived);
        alive && !file.card.archived && (places.is_empty() || places.contains(&file.place))
    };
    let mut open = Vec::new();
    let mut all = Vec::new();
    for file in pages.every_system().filter(wanted) {
        let place = pages.place_of(file)?;
        let Some(now) = nows.get(&file.place) else { continue };
        let s = pages.situation(actor, file, place, now, &around);
        let here = here(pages, file, place, &s, actor, &mut open);
        all.extend(here.filter(|here| here.tasks.iter().any(is_for_today)));
    }
    let stops: Vec<Stop> = all.iter().map(|here| here.stop).collect();
    let order = walk(&stops);
    let plans: Vec<(usize, &Plan)> =
        order.iter().flat_map(|n| all[*n].plans.iter().map(|(_, plan)| (*n, plan))).collect();
    let first = order.first().map(|n| &all[*n]);
    let reader = first.map_or_else(|| Reader::new(UnitSystem::Metric, EcScale::default(), actor), |here| here.reader);
    let speaker = Speaker::new(reader);
    let ready = ready(&plans);
    let said = |one: &Ingredient| speaker.say(&say!("entry.used", amount = one.amount, name = one.name.as_str()));
    let mut kit = OutingKit {
        plain: (ready.plain > Litres::ZERO).then(|| speaker.say(&say!("outing.plain", litres = ready.plain))),
        mixes: ready.mixes.iter().map(|mix| mixed(mix, &all, &speaker)).collect(),
        products: ready.products.iter().map(said).collect(),
        tools: tools(all.iter().flat_map(|here| &here.tasks)).iter().map(|tool| speaker.say(tool)).collect(),
        open,
    };
    if actor.is_child() {
        // Nothing is mixed by children.
        (kit.mixes, kit.products, kit.open) = (Vec::new(), Vec::new(), Vec::new());
    }
    let pressed = order.iter().min_by(|a, b| {
        let [a, b] = [a, b].map(|n| all[**n].stop);
        comes_first((a.rank, a.margin_days), (b.rank, b.margin_days))
    });
    let last_why = pressed.filter(|n| all[**n].stop.suspect && Some(*n) != order.first()).and_then(|n| {
        let here = &all[*n];
        let why = here.suspect_why.clone()?;
        Some(speaker.say(&say!("outing.last", name = &here.file.system.name, why = why)))
    });
    let stops: Vec<OutingStop> = order.iter().map(|n| stop(&all[*n])).collect();
    let today = first.map_or_else(|| at.to_zoned(jiff::tz::TimeZone::UTC), |here| at.to_zoned(here.place.zone.clone()));
    Ok(OutingView {
        today: today.strftime("%A %-d %B %Y").to_string(),
        child: actor.is_child(),
        units: reader.units,
        minutes: stops.iter().map(|stop| stop.minutes).sum(),
        last_why,
        stops,
        kit,
    })
}

fn here<'a>(
    pages: &Pages,
    file: &'a SystemFile,
    place: &'a PlaceFile,
    s: &Situation<'_>,
    actor: &Actor,
    open: &mut Vec<String>,
) -> Option<Here<'a>> {
    let tasks = tasks(s);
    let reader = pages.reader(actor, file, place);
    let speaker = Speaker::new(reader);
    let asks = pours(&tasks, supply_takes(s));
    let plans = asks.into_iter().filter_map(|ask| match plan_for(pages, &ask, actor, (reader, place), s) {
        Ok(plan) => Some((purpose(&ask), plan)),
        Err(refusal) => {
            let said = speaker.refuse(&refusal);
            let line = say!("outing.no_plan", name = &file.system.name, found = said.found, mend = said.mend);
            open.push(speaker.say(&line));
            None
        }
    });
    let plans = plans.collect();
    let suspect_why = mind(s).map(|why| speaker.say(&why));
    let (rank, margin_days) = pressing(&tasks)?.order();
    let stop = Stop { place: file.place, suspect: suspect_why.is_some(), turn: file.system.turn, rank, margin_days };
    let lines = with_amounts(lines(tasks.clone(), s), pages, actor, (reader, place), s);
    Some(Here { file, place, tasks, lines, plans, stop, suspect_why, reader })
}

fn stop(here: &Here<'_>) -> OutingStop {
    let (speaker, pace) = (Speaker::new(here.reader), here.file.known.done.pace());
    let today: Vec<&Task> = here.lines.iter().filter(|task| is_for_today(task)).collect();
    // To look in is a part of any visit.
    let alone = today.iter().all(|task| task.check == Some(Check::LookIn));
    let lines: Vec<TaskLine> = today
        .iter()
        .filter(|task| alone || task.check != Some(Check::LookIn))
        .map(|task| TaskLine::new(task, pace, &speaker))
        .collect();
    OutingStop {
        system: here.file.card.id,
        name: here.file.system.name.as_str().to_owned(),
        place: here.file.place,
        place_name: here.place.place.name.as_str().to_owned(),
        turn: here.file.system.turn,
        suspect_why: here.suspect_why.clone(),
        minutes: lines.iter().map(|line| u32::from(line.minutes)).sum(),
        pours: here.plans.iter().map(|(_, plan)| speaker.say(&plan.answer)).collect(),
        tasks: lines,
    }
}

fn mixed(mix: &Mix, all: &[Here<'_>], speaker: &Speaker) -> OutingMix {
    let said: Message = match mix.ec {
        Some(ec) => say!("outing.mix_at", litres = mix.litres, ec = ec),
        None => say!("outing.mix", litres = mix.litres),
    };
    let share = |(n, litres): &(usize, Litres)| {
        speaker.say(&say!("outing.share", litres = *litres, name = &all[*n].file.system.name))
    };
    let used = |one: &Ingredient| speaker.say(&say!("entry.used", amount = one.amount, name = one.name.as_str()));
    let recipes: Vec<Option<Uuid>> = mix.shares.iter().map(|(n, _)| all[*n].file.system.methods.recipe).collect();
    let recipe = recipes.first().copied().flatten().filter(|first| recipes.iter().all(|other| *other == Some(*first)));
    let alone = if let [(n, _)] = mix.shares.as_slice() { Some(&all[*n]) } else { None };
    OutingMix {
        said: speaker.say(&said),
        litres: mix.litres,
        ec: mix.ec.map(mopsel_core::quantity::Conductivity::get),
        products: mix.ingredients.iter().map(used).collect(),
        shares: mix.shares.iter().map(share).collect(),
        in_vessel: mix.in_vessel,
        recipe,
        purpose: alone.and_then(|here| here.plans.first()).map(|(purpose, _)| *purpose),
        system: alone.map(|here| here.file.card.id),
    }
}
