//! Cards: made once, edited by version, put away rather than deleted.

use super::{Decision, Meets, PersonNow, Refused, present};
use crate::crop::{Planting, Stage};
use crate::fact::card::Card;
use crate::fact::{Actor, Holds, NewCard, StoredCard, Timeline, Version, signs};
use crate::message::{Message, count, member, percent, term, typed};
use crate::mixing::{Product, Recipe};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::system::{Every, System};
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use std::collections::BTreeMap;
use uuid::Uuid;

/// How many cards a file takes.
pub const MOST_CARDS: usize = 5000;

/// What a card may name, as far as it is there.
#[derive(Debug, Clone, Default)]
pub struct Named {
    /// Products that a recipe's lines name, shipped and own.
    pub products: BTreeMap<Uuid, Product>,
    /// The recipe that a system names.
    pub recipe: Option<Recipe>,
    /// The place of the meter that a system names.
    pub meter_at: Option<Uuid>,
    /// The system whose top-off reservoir a system names.
    pub drum: Option<NamedDrum>,
    /// What flows from its top-off reservoir into other systems, 0–1.
    pub drawn: f64,
}

/// A system whose top-off reservoir fills another too.
#[derive(Debug, Clone)]
pub struct NamedDrum {
    /// Its place.
    pub place: Option<Uuid>,
    /// As it is now.
    pub system: System,
    /// What flows into it, and into those that are filled from it already, 0–1.
    pub given: f64,
}

/// What a card's command rests on.
#[derive(Debug, Clone)]
pub struct CardFacts {
    /// The card with the command's id.
    pub there: Option<StoredCard>,
    /// Whether it was made by just this request; only for a card that is to be made.
    pub made_so: bool,
    /// Every version of it, the first one first.
    pub versions: Vec<Version<Card>>,
    /// What it hangs on.
    pub parent: Option<StoredCard>,
    /// Its place: itself, where it is one; none for what belongs to the whole file.
    pub place: Option<Uuid>,
    /// The zone of its place.
    pub zone: TimeZone,
    /// What it names.
    pub named: Named,
    /// What grows in it, where it is a system.
    pub plantings: Vec<Planting>,
    /// How many cards there are.
    pub cards: usize,
    /// What the system that it hangs on is closed off for, where it is.
    pub closed_off: Option<Message>,
}

/// A card to be written.
#[derive(Debug, Clone, PartialEq)]
pub struct CardWrite {
    /// The card with its new version.
    pub card: StoredCard,
    /// Whether it is new.
    pub new: bool,
}

/// What an edit asks for.
pub(super) struct Wish<'a> {
    pub card: Option<&'a Card>,
    pub archived: Option<bool>,
    pub holds: Option<Holds>,
}

pub(super) fn make(
    new: &NewCard,
    facts: &CardFacts,
    actor: &Actor,
    person: Option<&PersonNow>,
    now: Timestamp,
) -> Result<Decision, Refused> {
    if facts.there.is_some() {
        return if facts.made_so { Ok(Decision::Already) } else { Err(Refused::IdTaken) };
    }
    present(actor, person)?.adult()?;
    check(&new.card, new.parent, facts, now)?;
    if let (Card::Planting(planting), Some(case)) = (&new.card, &facts.closed_off)
        && planting.stage != crate::crop::Stage::Done
    {
        return Err(refuse!("planted_in_closed", case = case.clone()).at("parent").into());
    }
    if facts.cards >= MOST_CARDS {
        return Err(refuse!("too_many_cards", most = count(MOST_CARDS)).into());
    }
    let (id, parent, card) = (new.id, new.parent, new.card.clone());
    let card = StoredCard { id, parent, version: 1, archived: false, holds: Holds::Always, card };
    Ok(Decision::KeepCard(Box::new(CardWrite { card, new: true })))
}

pub(super) fn edit(
    version: i64,
    wish: &Wish<'_>,
    facts: &CardFacts,
    actor: &Actor,
    now: Timestamp,
) -> Result<Decision, Refused> {
    let there = facts.there.as_ref().ok_or(Refused::NotFound("card"))?;
    actor.adult()?;
    let card = wish.card.unwrap_or(&there.card);
    let archived = wish.archived.unwrap_or(there.archived);
    if there.version == version + 1 && there.card == *card && there.archived == archived {
        return Ok(Decision::Already);
    }
    if there.version != version {
        return Err(Refused::Conflict(Meets::Card));
    }
    if there.card.code() != card.code() {
        let (found, stays) = (card.kind(), there.card.kind());
        return Err(refuse!("kind_of_card_stays", found = found, stays = stays).at("body.card").into());
    }
    check(card, there.parent, facts, now)?;
    if archived && facts.named.drawn > 0.0 {
        return Err(refuse!("drum_in_use").at("archived").into());
    }
    let holds = holds(wish.holds, card, facts, now)?;
    agrees_with_its_past(card, archived, holds, facts)?;
    let (id, parent, version, card) = (there.id, there.parent, there.version + 1, card.clone());
    let card = StoredCard { id, parent, version, archived, holds, card };
    Ok(Decision::KeepCard(Box::new(CardWrite { card, new: false })))
}

/// From when an edit holds: as it was said, within what can be; from today when nothing was said.
fn holds(said: Option<Holds>, card: &Card, facts: &CardFacts, now: Timestamp) -> Result<Holds, Refusal> {
    if !card.is_dated() {
        return match said {
            Some(Holds::From(_)) => Err(refuse!("card_is_not_dated", card = card.kind()).at("holds")),
            _ => Ok(Holds::Always),
        };
    }
    let today = now.to_zoned(facts.zone.clone()).date();
    let began = match card {
        Card::System(system) => system.since,
        Card::Planting(planting) => planting.planted_on,
        _ => Date::MIN,
    };
    match said {
        None => Ok(Holds::From(today.max(began))),
        Some(Holds::Always) => Ok(Holds::Always),
        Some(Holds::From(day)) if day > today => {
            Err(refuse!("edit_to_come", found = day.to_string(), today = today.to_string()).at("holds"))
        }
        Some(Holds::From(day)) if day < began => {
            Err(refuse!("edit_before_start", found = day.to_string(), began = began.to_string()).at("holds"))
        }
        Some(holds) => Ok(holds),
    }
}

/// An edit may not make what was into something that cannot have been.
fn agrees_with_its_past(card: &Card, archived: bool, holds: Holds, facts: &CardFacts) -> Result<(), Refusal> {
    let Some((first, later)) = facts.versions.split_first().filter(|_| card.is_dated()) else { return Ok(()) };
    let mut later = later.to_vec();
    later.push(Version { holds, archived, made: Timestamp::MAX, says: card.clone() });
    let timeline = Timeline::new(first, &later, &facts.zone);
    let in_system = system_of(facts.parent.as_ref());
    for segment in timeline.segments() {
        if let Err(refusal) = segment.says.check(in_system) {
            let field = refusal.field.clone();
            let from = match segment.from {
                Some(from) => from.to_string().into(),
                None => term("card.the_beginning"),
            };
            return Err(refuse!("edit_contradicts_past", from = from, why = refusal.mending()).at(&field).at("body"));
        }
    }
    Ok(())
}

fn system_of(parent: Option<&StoredCard>) -> Option<&System> {
    parent.and_then(|parent| parent.card.system())
}

/// Whether a card hangs on what its kind hangs on; `parent` is the id that was named, `on` the card that it is.
pub(super) fn hangs_right(card: &Card, parent: Option<Uuid>, on: Option<&Card>) -> Result<(), Refusal> {
    let hangs_on = on.map(Card::code);
    if hangs_on == card.parent_code() && !(hangs_on.is_none() && parent.is_some()) {
        return Ok(());
    }
    let found = parent.map_or_else(|| term("card.no_parent"), |id| id.to_string().into());
    let wanted = card.parent_code().map_or_else(|| term("card.no_parent"), |code| member("card", code));
    Err(refuse!("wrong_parent", found = found, card = card.kind(), wanted = wanted).at("parent"))
}

/// Checks a card against what it hangs on and what it names.
fn check(card: &Card, parent: Option<Uuid>, facts: &CardFacts, now: Timestamp) -> Result<(), Refusal> {
    hangs_right(card, parent, facts.parent.as_ref().map(|parent| &parent.card))?;
    if let Card::Recipe(recipe) = card {
        for (i, line) in recipe.lines.iter().enumerate() {
            let product = facts.named.products.get(&line.product);
            let unknown = || refuse!("product_not_on_shelf", found = line.product.to_string()).at("product");
            let rate = product.ok_or_else(unknown).and_then(|product| product.per_litre(line.rate.as_ref()));
            rate.at(&format!("body.lines.{i}"))?;
        }
    }
    card.check(system_of(facts.parent.as_ref())).at("body")?;
    if let Card::Planting(planting) = card {
        // Somewhere it is tomorrow already: a device's own date may be a day ahead of the place's.
        let today = now.to_zoned(facts.zone.clone()).date();
        let latest = today.tomorrow().unwrap_or(today);
        if planting.planted_on > latest {
            let (found, today) = (planting.planted_on.to_string(), today.to_string());
            return Err(refuse!("planted_to_come", found = found, today = today).at("planted_on").at("body"));
        }
    }
    if let Card::System(system) = card {
        check_system(system, parent, facts, now).at("body")?;
    }
    Ok(())
}

fn check_system(system: &System, place: Option<Uuid>, facts: &CardFacts, now: Timestamp) -> Result<(), Refusal> {
    let today = now.to_zoned(facts.zone.clone()).date();
    if system.since > today {
        let (found, today) = (system.since.to_string(), today.to_string());
        return Err(refuse!("since_to_come", found = found, today = today).at("since"));
    }
    if let Some(id) = system.methods.recipe.filter(|_| facts.named.recipe.is_none()) {
        return Err(refuse!("recipe_not_on_shelf", found = id.to_string()).at("methods.recipe"));
    }
    if let Some(id) = system.meter.filter(|_| facts.named.meter_at.is_none() || facts.named.meter_at != place) {
        return Err(refuse!("meter_not_here", found = id.to_string()).at("meter"));
    }
    check_drum(system, place, facts)?;
    let unknown = system.rules.iter().enumerate().find_map(|(n, rule)| match &rule.every {
        Every::Sign { sign } if !signs().iter().any(|facts| facts.key.code() == sign) => Some((n, sign)),
        Every::Stage { stage } if !Stage::ALL.iter().any(|known| known.code() == stage) => Some((n, stage)),
        _ => None,
    });
    if let Some((n, found)) = unknown {
        return Err(refuse!("rule_sign", found = typed(found)).at(&format!("rules.{n}.every")));
    }
    let highest = facts.plantings.iter().max_by_key(|planting| planting.ports.highest());
    if let Some(planting) = highest.filter(|planting| planting.ports.highest() > system.ports) {
        let (found, needed) = (count(system.ports), count(planting.ports.highest()));
        let crop = planting.crop.as_str();
        return Err(refuse!("ports_below_planting", found = found, needed = needed, crop = crop).at("ports"));
    }
    Ok(())
}

/// A shared top-off reservoir is one of the place, has a valve of its own, and gives no more than all of it.
fn check_drum(system: &System, place: Option<Uuid>, facts: &CardFacts) -> Result<(), Refusal> {
    if system.drum_of.is_none() {
        let drawn = facts.named.drawn;
        if drawn > 0.0 && (!system.own_drum() || system.drum_share.is_none()) {
            return Err(refuse!("drum_in_use").at("drum_share"));
        }
        let (share, most) = (system.drum_share.unwrap_or_default(), 1.0 - drawn);
        if share > most + 1e-6 {
            let whole = |of: f64| percent((of * 100.0).round());
            return Err(refuse!("drum_given_away", found = whole(share), most = whole(most)).at("drum_share"));
        }
        return Ok(());
    }
    if facts.named.drawn > 0.0 {
        return Err(refuse!("drum_in_use").at("drum_of"));
    }
    let own = facts.named.drum.as_ref().filter(|drum| drum.place == place && drum.system.own_drum());
    let Some(drum) = own else { return Err(refuse!("drum_of_nothing").at("drum_of")) };
    if drum.system.drum_share.is_none() {
        return Err(refuse!("drum_not_shared", name = &drum.system.name).at("drum_of"));
    }
    let (share, given) = (system.drum_share.unwrap_or_default(), drum.given);
    if share + given > 1.0 + 1e-6 {
        let whole = |of: f64| percent((of * 100.0).round());
        return Err(refuse!("drum_given_away", found = whole(share), most = whole(1.0 - given)).at("drum_share"));
    }
    Ok(())
}
