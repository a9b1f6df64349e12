//! Systems, plantings and cycles beside each other, as they are shown.

use crate::Problem;
use crate::book::{Pages, SystemFile};
use jiff::Timestamp;
use jiff::civil::Date;
use mopsel_core::calendar::{add_days, local_date, start_of};
use mopsel_core::compare::{Compared, Row, Subject, rows, told};
use mopsel_core::fact::{Actor, Body, Entry, effective};
use mopsel_core::quantity::{EcScale, Name, UnitSystem};
use mopsel_core::refuse;
use mopsel_core::story::span;
use mopsel_core::system::PortSet;
use mopsel_core::trend::history::Span;
use mopsel_core::words::Speaker;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// What is asked for: one side of a comparison.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Side {
    /// A system over some days.
    System(Uuid),
    /// A planting, from planting on.
    Planting(Uuid),
    /// The last cycles of a system, each from one change to the next.
    Cycles(Uuid),
}

/// Cycles of a system that are held beside each other.
const CYCLES: usize = 4;
/// Points of a line.
const POINTS: usize = 400;

/// One of those that are compared, in one quantity.
#[derive(Debug, Serialize, ToSchema)]
pub struct QuantityView {
    /// The quantity; it decides the unit.
    pub what: Compared,
    /// What it comes to.
    #[serde(flatten)]
    pub row: Row,
}

/// One of those that are compared.
#[derive(Debug, Serialize, ToSchema)]
pub struct SideView {
    /// What it is called.
    pub name: String,
    /// At which system.
    pub system: Uuid,
    /// On whose clock its days are told.
    pub zone: String,
    /// Its first day.
    #[schema(value_type = String, format = Date)]
    pub from: Date,
    /// Its last.
    #[schema(value_type = String, format = Date)]
    pub to: Date,
    /// What it comes to.
    #[schema(inline)]
    pub rows: Vec<QuantityView>,
}

/// What differs in one quantity.
#[derive(Debug, Serialize, ToSchema)]
pub struct DiffersView {
    /// The quantity.
    pub what: Compared,
    /// Whether it is an amount that ports share.
    pub by_ports: bool,
    /// In a sentence.
    pub said: String,
}

/// Several of them beside each other.
#[derive(Debug, Serialize, ToSchema)]
pub struct CompareView {
    /// Each of them.
    pub sides: Vec<SideView>,
    /// What differs, quantity by quantity; those that were read nowhere are left out.
    pub differs: Vec<DiffersView>,
    /// The units that its reader reads.
    pub units: UnitSystem,
    /// The EC scale that its reader reads.
    pub ec_scale: EcScale,
}

/// One side before it is worked out.
struct Asked<'a> {
    name: String,
    file: &'a SystemFile,
    span: Span,
    planting: Option<(Uuid, PortSet)>,
}

/// The system that a side is of.
///
/// # Errors
/// Not found.
pub fn system_of(pages: &Pages, side: Side) -> Result<Uuid, Problem> {
    match side {
        Side::System(id) | Side::Cycles(id) => pages.system(id).map(|file| file.card.id),
        Side::Planting(id) => {
            let here = |file: &&SystemFile| file.planting_ids.contains(&id);
            let file = pages.every_system().find(here);
            file.map(|file| file.card.id).ok_or_else(|| Problem::not_found("planting with that id"))
        }
    }
}

fn asked<'a>(
    pages: &'a Pages,
    side: Side,
    entries: &[Entry],
    days: (Date, Date),
    (at, actor): (Timestamp, &Actor),
) -> Result<Vec<Asked<'a>>, Problem> {
    let file = pages.system(system_of(pages, side)?)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let system = file.system.name.as_str();
    match side {
        Side::System(_) => {
            let span = Span { from: start_of(days.0, &place.zone), to: start_of(add_days(days.1, 1), &place.zone) };
            Ok(vec![Asked { name: system.to_owned(), file, span, planting: None }])
        }
        Side::Planting(id) => {
            let around = pages.around();
            let s = pages.situation(actor, file, place, &now, &around);
            let n = file.planting_ids.iter().position(|there| *there == id);
            let timeline = n.and_then(|n| file.planted.get(n));
            let timeline = timeline.ok_or_else(|| Problem::not_found("planting with that id"))?;
            let (from, end) = span(timeline, &s);
            let planting = timeline.now();
            let to = end.unwrap_or(at);
            let name = format!("{}, {system}", planting.crop.as_str());
            Ok(vec![Asked { name, file, span: Span { from, to }, planting: Some((id, planting.ports.clone())) }])
        }
        Side::Cycles(_) => {
            let renews = |entry: &&&Entry| matches!(&entry.body, Body::Change(change) if change.renews());
            let all = effective(entries);
            let changes: Vec<Timestamp> = all.iter().filter(renews).map(|entry| entry.at).collect();
            let ends = changes.iter().skip(1).copied().chain([at]);
            let cycles = changes.iter().zip(ends).map(|(from, to)| {
                let day = local_date(*from, &now).strftime("%-d %b");
                let span = Span { from: *from, to };
                Asked { name: format!("{system} from {day}"), file, span, planting: None }
            });
            let mut last: Vec<Asked<'a>> = cycles.collect();
            Ok(last.split_off(last.len().saturating_sub(CYCLES)))
        }
    }
}

/// Sides beside each other. `logs` are the whole logs of their systems, in the same order.
///
/// # Errors
/// Not found; a refusal where there is nothing to compare.
pub fn compare_view(
    pages: &Pages,
    sides: &[(Side, Vec<Entry>)],
    days: (Date, Date),
    a_port: bool,
    (at, actor): (Timestamp, &Actor),
) -> Result<CompareView, Problem> {
    let mut all = Vec::new();
    for (side, entries) in sides {
        for one in asked(pages, *side, entries, days, (at, actor))? {
            all.push((one, entries));
        }
    }
    let Some((first, _)) = all.first() else { return Err(refuse!("compare_nothing").at("of").into()) };
    let speaker = Speaker::new(pages.reader(actor, first.file, pages.place_of(first.file)?));
    let mut views = Vec::new();
    for (one, entries) in &all {
        let place = pages.place_of(one.file)?;
        let now = at.to_zoned(place.zone.clone());
        let around = pages.around();
        let s = pages.situation(actor, one.file, place, &now, &around);
        let planting = one.planting.as_ref().map(|(id, ports)| (*id, ports));
        let subject = Subject { span: one.span, planting, a_port };
        let rows = rows(entries, &subject, POINTS, &s);
        let day = |at: Timestamp| local_date(at, &now);
        views.push(SideView {
            name: one.name.clone(),
            system: one.file.card.id,
            zone: place.place.zone.clone(),
            from: day(one.span.from),
            to: day(one.span.to.min(at)),
            rows: rows.into_iter().map(|(what, row)| QuantityView { what, row }).collect(),
        });
    }
    let differs = Compared::ALL.into_iter().enumerate().filter_map(|(n, what)| {
        let rows: Vec<(Name, &Row)> = views
            .iter()
            .filter_map(|view| Some((Name::new(&short(&view.name)).ok()?, &view.rows.get(n)?.row)))
            .collect();
        let read = rows.iter().any(|(_, row)| row.usual.is_some());
        read.then(|| DiffersView { what, by_ports: what.by_ports(), said: speaker.say(&told(what, &rows)) })
    });
    let differs = differs.collect();
    let reader = speaker.reader();
    Ok(CompareView { sides: views, differs, units: reader.units, ec_scale: reader.ec })
}

/// A name is no longer than a name may be.
fn short(name: &str) -> String {
    name.chars().take(60).collect()
}

/// Something that can be compared.
#[derive(Debug, Serialize, ToSchema)]
pub struct SideChoice {
    /// As it is asked for: `system:`, `planting:` or `cycles:` with an id.
    pub key: String,
    /// What it is called.
    pub name: String,
    /// At which place.
    pub place: String,
}

/// Everything that can be compared: systems that are cared for, their cycles, and what grows or grew in them.
#[must_use]
pub fn choices(pages: &Pages) -> Vec<SideChoice> {
    let mut all: Vec<(u8, SideChoice)> = Vec::new();
    for file in pages.every_system().filter(|file| !file.card.archived) {
        let (id, system) = (file.card.id, file.system.name.as_str());
        let place = pages.places.get(&file.place).map(|place| place.place.name.as_str().to_owned());
        let place = place.unwrap_or_default();
        let mut add = |order, key: String, name: String| {
            all.push((order, SideChoice { key, name, place: place.clone() }));
        };
        add(0, format!("system:{id}"), system.to_owned());
        add(2, format!("cycles:{id}"), format!("{system}, its last changes"));
        for (id, timeline) in file.planting_ids.iter().zip(&file.planted) {
            let planting = timeline.now();
            let day = planting.planted_on.strftime("%-d %b %Y");
            add(1, format!("planting:{id}"), format!("{}, {system}, from {day}", planting.crop.as_str()));
        }
    }
    all.sort_by(|a, b| (a.0, &a.1.place, &a.1.name).cmp(&(b.0, &b.1.place, &b.1.name)));
    all.into_iter().map(|(_, choice)| choice).collect()
}
