//! Plants that go from one system to another, cuttings, and losses: the entry that says so turns the plantings with it, and
//! the one that takes it back turns them back. One write, so that no plant stands in two places or in none.

use super::cards::{CardWrite, MOST_CARDS};
use super::{NewEntry, PickedCard, SystemFacts};
use crate::crop::{Origin, Planting, Stage};
use crate::fact::card::Card;
use crate::fact::{Body, Happened, Holds, Planted, StoredCard, Transplant};
use crate::message::{Message, count, typed};
use crate::refusal::Refusal;
use crate::refuse;
use crate::system::PortSet;
use jiff::Timestamp;
use jiff::civil::Date;
use uuid::Uuid;

/// A system that plants came from.
#[derive(Debug, Clone, PartialEq)]
pub struct SourceFacts {
    /// Which.
    pub id: Uuid,
    /// Its place.
    pub place: Option<Uuid>,
    /// What it is closed off for, where it is.
    pub closed_off: Option<Message>,
}

/// What an entry says became of plantings.
#[derive(Default)]
struct Told<'a> {
    moved: Vec<(usize, &'a Transplant)>,
    lost: Vec<(usize, Uuid, &'a PortSet)>,
}

impl<'a> Told<'a> {
    fn of(body: &'a Body) -> Self {
        let Body::Visit(visit) = body else { return Self::default() };
        let mut told = Self::default();
        for (n, event) in visit.events.iter().enumerate() {
            match event {
                Happened::Transplanted(transplant) => told.moved.push((n, transplant)),
                Happened::Lost { planting, ports, .. } => told.lost.push((n, *planting, ports)),
                _ => {}
            }
        }
        told
    }

    fn is_empty(&self) -> bool {
        self.moved.is_empty() && self.lost.is_empty()
    }

    /// The same moves and losses, wherever in the visit they stand.
    fn same(&self, other: &Self) -> bool {
        let moved = |told: &Self| told.moved.iter().map(|(_, one)| (*one).clone()).collect::<Vec<_>>();
        let lost = |told: &Self| told.lost.iter().map(|(_, id, ports)| (*id, (*ports).clone())).collect::<Vec<_>>();
        moved(self) == moved(other) && lost(self) == lost(other)
    }
}

/// The plantings that an entry names as moved, cut or lost, and those that they became.
#[must_use]
pub fn moved_plantings(body: &Body) -> Vec<Uuid> {
    let told = Told::of(body);
    let moved = told.moved.iter().flat_map(|(_, one)| [one.planting, one.becomes]);
    moved.chain(told.lost.iter().map(|(_, id, _)| *id)).collect()
}

/// The systems that plants came from by an entry, and what they would become here.
#[must_use]
pub fn moved_from(body: &Body) -> Vec<(Uuid, Uuid)> {
    Told::of(body).moved.iter().map(|(_, one)| (one.system, one.becomes)).collect()
}

/// What the plantings become by an entry of a moment.
///
/// # Errors
/// A refusal at the event: a plant that is not there, ports that are taken, a system that is closed off, another move by
/// an amendment, one taken back whose plantings somebody has edited since.
pub(super) fn turned(new: &NewEntry, when: Timestamp, at: &SystemFacts) -> Result<Vec<CardWrite>, Refusal> {
    let is = Told::of(&new.body);
    let was = at.amended.as_ref().map(|amended| Told::of(&amended.entry.body)).unwrap_or_default();
    if is.is_empty() && was.is_empty() || is.same(&was) {
        return Ok(vec![]);
    }
    if !is.is_empty() && new.amends.is_some() {
        return Err(refuse!("moved_by_amendment").at("body.events"));
    }
    if new.amends.is_some() { taken_back(&was, at) } else { done(&is, when, at) }
}

/// The plantings as they turn under one entry, each written once.
struct Turning<'a> {
    at: &'a SystemFacts,
    cards: Vec<(StoredCard, bool)>,
}

impl Turning<'_> {
    /// The planting as this entry has left it so far.
    fn planting(&self, id: Uuid, system: Uuid) -> Option<(StoredCard, Planting)> {
        let so_far = self.cards.iter().find(|(card, _)| card.id == id).map(|(card, _)| card);
        let card = so_far.or_else(|| picked(self.at, id).map(|picked| &picked.card))?;
        match &card.card {
            Card::Planting(planting)
                if card.parent == Some(system) && !card.archived && planting.stage != Stage::Done =>
            {
                Some((card.clone(), planting.clone()))
            }
            _ => None,
        }
    }

    fn put(&mut self, card: StoredCard, new: bool) {
        match self.cards.iter_mut().find(|(there, _)| there.id == card.id) {
            Some((there, _)) => *there = StoredCard { version: there.version, ..card },
            None if new => self.cards.push((card, true)),
            None => self.cards.push((StoredCard { version: card.version + 1, ..card }, false)),
        }
    }

    fn writes(self) -> Vec<CardWrite> {
        self.cards.into_iter().map(|(card, new)| CardWrite { card, new }).collect()
    }
}

fn picked(at: &SystemFacts, id: Uuid) -> Option<&PickedCard> {
    at.picked.iter().find(|picked| picked.card.id == id)
}

/// A planting without some of its ports: fewer of them, or over where none is left.
fn without(planting: &Planting, ports: &PortSet) -> Option<Planting> {
    let left = planting.ports.without(ports);
    (!left.is_empty()).then(|| Planting { ports: left, ..planting.clone() })
}

fn done(is: &Told<'_>, when: Timestamp, at: &SystemFacts) -> Result<Vec<CardWrite>, Refusal> {
    let day = when.to_zoned(at.zone.clone()).date();
    let mut turning = Turning { at, cards: vec![] };
    for (n, transplant) in &is.moved {
        transplanted(transplant, day, &mut turning).map_err(|refusal| refusal.at(&format!("body.events.{n}")))?;
    }
    for (n, id, ports) in &is.lost {
        lost(*id, ports, day, &mut turning).map_err(|refusal| refusal.at(&format!("body.events.{n}")))?;
    }
    Ok(turning.writes())
}

fn transplanted(one: &Transplant, day: Date, turning: &mut Turning<'_>) -> Result<(), Refusal> {
    let at = turning.at;
    if one.system == at.id {
        return Err(refuse!("moved_within").at("system"));
    }
    let source = at.sources.iter().find(|source| source.id == one.system && source.place == Some(at.place));
    let gone = || refuse!("moved_from_nothing", crop = &one.crop).at("planting");
    let (source, (card, planting)) = source.zip(turning.planting(one.planting, one.system)).ok_or_else(gone)?;
    if let Some(case) = source.closed_off.clone() {
        return Err(refuse!("moved_out_of_closed", case = case).at("system"));
    }
    if let Some(case) = at.closed_off() {
        return Err(refuse!("planted_in_closed", case = case));
    }
    if day < planting.planted_on {
        return Err(refuse!("moved_before_planted", planted = planting.planted_on.to_string()));
    }
    if let Some(left) = &one.left
        && let Some(port) = left.iter().find(|port| !planting.ports.contains(*port))
    {
        return Err(refuse!("moved_from_other_port", crop = &planting.crop, port = count(port)).at("left"));
    }
    free(&one.to, turning)?;
    if at.cards >= MOST_CARDS {
        return Err(refuse!("too_many_cards", most = count(MOST_CARDS)));
    }
    if at.ids_taken.contains(&one.becomes) || turning.cards.iter().any(|(card, _)| card.id == one.becomes) {
        return Err(refuse!("moved_twice").at("becomes"));
    }
    let cutting = one.cutting();
    let came = Origin { planting: one.planting, system: one.system, cutting, grown_since: planting.growing_since() };
    let here = Planting {
        ports: one.to.clone(),
        planted_on: day,
        stage: if cutting { Stage::Seedling } else { planting.stage },
        sown_on: planting.sown_on.filter(|_| !cutting),
        came: Some(came),
        note: None,
        ..planting.clone()
    };
    let parent = Some(at.id);
    let (archived, holds) = (false, Holds::Always);
    let new = StoredCard { id: one.becomes, parent, version: 1, archived, holds, card: Card::Planting(here) };
    turning.put(new, true);
    if let Some(left) = &one.left {
        let holds = Holds::From(day);
        turning.put(
            match without(&planting, left) {
                Some(fewer) => StoredCard { holds, card: Card::Planting(fewer), ..card },
                None => StoredCard { holds, archived: true, ..card },
            },
            false,
        );
    }
    Ok(())
}

/// Nothing stands in the ports that a plant is moved to.
fn free(to: &PortSet, turning: &Turning<'_>) -> Result<(), Refusal> {
    let standing = Planted(&turning.at.planted).at(Timestamp::MAX, Date::MAX);
    let come = turning.cards.iter().filter(|(card, new)| *new && card.parent == Some(turning.at.id));
    let come =
        come.filter_map(|(card, _)| if let Card::Planting(planting) = &card.card { Some(planting) } else { None });
    let there = standing.chain(come).filter(|planting| planting.stage != Stage::Done);
    for planting in there {
        if let Some(port) = to.iter().find(|port| planting.ports.contains(*port)) {
            return Err(refuse!("moved_into_taken", crop = &planting.crop, port = count(port)).at("to"));
        }
    }
    Ok(())
}

fn lost(id: Uuid, ports: &PortSet, day: Date, turning: &mut Turning<'_>) -> Result<(), Refusal> {
    let gone = || refuse!("lost_from_nothing", ports = typed(&String::from(ports.clone()))).at("planting");
    let (card, planting) = turning.planting(id, turning.at.id).ok_or_else(gone)?;
    if let Some(port) = ports.iter().find(|port| !planting.ports.contains(*port)) {
        return Err(refuse!("moved_from_other_port", crop = &planting.crop, port = count(port)).at("ports"));
    }
    let over = || Planting { stage: Stage::Done, ..planting.clone() };
    let left = without(&planting, ports).unwrap_or_else(over);
    let holds = Holds::From(day.max(planting.planted_on));
    turning.put(StoredCard { holds, card: Card::Planting(left), ..card }, false);
    Ok(())
}

/// Turns everything back that an entry turned, where nobody has touched it since.
fn taken_back(was: &Told<'_>, at: &SystemFacts) -> Result<Vec<CardWrite>, Refusal> {
    let mut turning = Turning { at, cards: vec![] };
    let recorded = at.amended.as_ref().map(|amended| amended.recorded.as_millisecond());
    let touched = || refuse!("moved_touched_since").at("amends");
    let mut ids: Vec<Uuid> = was.lost.iter().map(|(_, id, _)| *id).collect();
    for (_, one) in &was.moved {
        let here = picked(at, one.becomes).ok_or_else(touched)?;
        if here.card.version != 1 {
            return Err(touched());
        }
        turning.put(StoredCard { archived: true, holds: Holds::Always, ..here.card.clone() }, false);
        ids.extend((!one.cutting()).then_some(one.planting));
    }
    ids.sort_unstable();
    ids.dedup();
    for id in ids {
        let there = picked(at, id).ok_or_else(touched)?;
        // Written with the entry and not since.
        let before =
            there.before.clone().filter(|_| Some(there.made.as_millisecond()) == recorded).ok_or_else(touched)?;
        let card = StoredCard { archived: false, holds: Holds::Always, card: before, ..there.card.clone() };
        turning.put(card, false);
    }
    Ok(turning.writes())
}
