//! What a command rests on, read inside the transaction that decides it.

use crate::news::select_cards;
use crate::{Result, StoreError, Tx, accounts, log, pictures, projections, rows};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use mopsel_core::crop::Planting;
use mopsel_core::fact::card::{Card, Place};
use mopsel_core::fact::{Actor, Body, Draft, StoredCard, StoredRun, Timeline, Version};
use mopsel_core::gate::{
    CardFacts, Command, Facts, Named, NamedDrum, PersonNow, PickedCard, SourceFacts, SystemFacts, TimerFacts,
    moved_from, moved_plantings,
};
use mopsel_core::message::Message;
use mopsel_core::mixing::{Product, Recipe, products, recipes};
use mopsel_core::projection::{Known, mixes_in};
use mopsel_core::system::System;
use sqlx::Row;
use uuid::Uuid;

/// A card by its id.
pub(crate) async fn card(tx: &mut Tx<'_>, card: Uuid) -> Result<Option<StoredCard>> {
    let query = sqlx::query(select_cards!("WHERE id = ?")).bind(card.to_string());
    query.fetch_optional(&mut **tx).await?.as_ref().map(rows::card).transpose()
}

/// Every version of a card, the first one first.
async fn versions(tx: &mut Tx<'_>, card: Uuid) -> Result<Vec<Version<Card>>> {
    Ok(dated_versions(tx, card).await?.into_iter().map(|(_, version)| version).collect())
}

/// The same, each with the moment in which it was written.
pub(crate) async fn dated_versions(tx: &mut Tx<'_>, card: Uuid) -> Result<Vec<(Timestamp, Version<Card>)>> {
    let query =
        sqlx::query("SELECT archived, body, shape, holds_from, at FROM card_version WHERE card = ? ORDER BY version");
    let found = query.bind(card.to_string()).fetch_all(&mut **tx).await?;
    found.iter().map(|row| Ok((rows::written(row)?, rows::version(row)?))).collect()
}

/// How a system was told to be, by when that was written: one timeline for each of its versions, the last as it is told
/// now. Empty where there is no such system.
pub(crate) async fn histories_of(tx: &mut Tx<'_>, id: Uuid) -> Result<Vec<(Timestamp, Timeline<System>)>> {
    let Some(stored) = card(tx, id).await? else { return Ok(vec![]) };
    let zone = zone_of(&place_of(tx, stored.parent.unwrap_or_default()).await?)?;
    let (times, versions): (Vec<_>, Vec<_>) = dated_versions(tx, id).await?.into_iter().unzip();
    let versions = as_what(versions, system);
    let known = |(n, at): (usize, Timestamp)| Some((at, timeline(versions.get(..=n)?.to_vec(), &zone)?));
    Ok(times.into_iter().enumerate().filter_map(known).collect())
}

/// Whether what is poured mixes in the same time in every version of a system that was ever written.
pub(crate) async fn mixes_alike(tx: &mut Tx<'_>, id: Uuid) -> Result<bool> {
    let all = as_what(versions(tx, id).await?, system);
    Ok(all.windows(2).all(|pair| mixes_in(&pair[0].says) == mixes_in(&pair[1].says)))
}

/// The versions of a card as what it is.
fn as_what<T>(versions: Vec<Version<Card>>, what: impl Fn(Card) -> Option<T>) -> Vec<Version<T>> {
    let as_it_is = |version: Version<Card>| {
        let Version { holds, archived, made, says } = version;
        Some(Version { holds, archived, made, says: what(says)? })
    };
    versions.into_iter().filter_map(as_it_is).collect()
}

fn system(card: Card) -> Option<System> {
    if let Card::System(system) = card { Some(system) } else { None }
}

fn planting(card: Card) -> Option<Planting> {
    if let Card::Planting(planting) = card { Some(planting) } else { None }
}

fn timeline<T>(versions: Vec<Version<T>>, zone: &TimeZone) -> Option<Timeline<T>>
where
    T: serde::Serialize + serde::de::DeserializeOwned + Clone,
{
    versions.split_first().map(|(first, later)| Timeline::new(first, later, zone))
}

async fn place_of(tx: &mut Tx<'_>, place: Uuid) -> Result<Place> {
    match card(tx, place).await?.map(|stored| stored.card) {
        Some(Card::Place(place)) => Ok(place),
        _ => Err(StoreError::NotFound("place")),
    }
}

fn zone_of(place: &Place) -> Result<TimeZone> {
    place.time_zone().map_err(|error| StoreError::Corrupt(error.to_string()))
}

/// The clock of the place that a system stands in; `None` where there is no such system.
pub(crate) async fn zone_at(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<TimeZone>> {
    let Some(stored) = card(tx, id).await?.filter(|stored| matches!(stored.card, Card::System(_))) else {
        return Ok(None);
    };
    zone_of(&place_of(tx, stored.parent.unwrap_or_default()).await?).map(Some)
}

/// A system by when it was how; `None` where there is no such system.
pub(crate) async fn history_of(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<Timeline<System>>> {
    let Some(stored) = card(tx, id).await? else { return Ok(None) };
    let place = place_of(tx, stored.parent.unwrap_or_default()).await?;
    Ok(timeline(as_what(versions(tx, id).await?, system), &zone_of(&place)?))
}

/// The person that an actor is, as they stand now.
pub(crate) async fn person(tx: &mut Tx<'_>, actor: &Actor) -> Result<Option<PersonNow>> {
    let Some(id) = actor.person else { return Ok(None) };
    let stored = card(tx, id).await?;
    Ok(stored.and_then(|stored| match (stored.card, stored.parent) {
        (Card::Person(person), Some(place)) => Some(PersonNow { role: person.role, place, archived: stored.archived }),
        _ => None,
    }))
}

/// What a command rests on.
pub(crate) async fn of(tx: &mut Tx<'_>, command: &Command, actor: &Actor, now: Timestamp) -> Result<Facts> {
    match command {
        Command::Add(system, new) => {
            let mut facts = at_system(tx, *system, Some(new.id), actor).await?;
            if let Some(amends) = new.amends {
                facts.amended = log::by_id(tx, amends).await?.filter(|found| found.system == *system);
                facts.newest = log::newest_amendment(tx, amends).await?;
            }
            for (id, planting) in new.names() {
                let there = card(tx, id).await?.filter(|found| match &found.card {
                    Card::Planting(_) => planting && found.parent == Some(*system),
                    Card::System(_) => !planting && found.id != *system,
                    _ => false,
                });
                facts.named.extend(there.map(|found| found.id));
            }
            for (system, becomes) in moved_from(&new.body) {
                facts.sources.extend(source(tx, system).await?);
                facts.ids_taken.extend(card(tx, becomes).await?.map(|found| found.id));
                facts.cards = cards(tx).await?;
            }
            let before = facts.amended.as_ref().map(|amended| amended.entry.body.clone());
            for id in picked_in(&new.body).chain(before.iter().flat_map(picked_in)) {
                if !facts.picked.iter().any(|known| known.card.id == id) {
                    facts.picked.extend(picked(tx, Some(*system), id).await?);
                }
            }
            for id in moved_plantings(&new.body).into_iter().chain(before.iter().flat_map(moved_plantings)) {
                if !facts.picked.iter().any(|known| known.card.id == id) {
                    facts.picked.extend(picked(tx, None, id).await?);
                }
            }
            if new.asks_the_log() {
                facts.planted = plantings(tx, *system, &facts.zone).await?;
                facts.known = known(tx, *system, &facts.history).await?;
            }
            Ok(Facts::System(Box::new(facts)))
        }
        Command::SaveDraft { system, id, .. } => {
            let mut facts = at_system(tx, *system, Some(*id), actor).await?;
            facts.draft = draft(tx, *system, actor).await?;
            Ok(Facts::System(Box::new(facts)))
        }
        Command::SaveChange { system, id, .. } | Command::FinishChange { system, id, .. } => {
            let mut facts = at_system(tx, *system, Some(*id), actor).await?;
            facts.planted = plantings(tx, *system, &facts.zone).await?;
            facts.known = known(tx, *system, &facts.history).await?;
            facts.run = run(tx, *system).await?;
            Ok(Facts::System(Box::new(facts)))
        }
        Command::DropDraft(seen) => {
            let mut facts = at_system(tx, seen.system, None, actor).await?;
            facts.draft = draft(tx, seen.system, actor).await?;
            Ok(Facts::System(Box::new(facts)))
        }
        Command::DropChange(seen) => {
            let mut facts = at_system(tx, seen.system, None, actor).await?;
            facts.run = run(tx, seen.system).await?;
            Ok(Facts::System(Box::new(facts)))
        }
        Command::KeepPicture(system, new) => {
            let facts = at_system(tx, *system, None, actor).await?;
            Ok(Facts::Picture(Box::new(facts), pictures::facts(tx, *system, new.id).await?))
        }
        Command::ErasePicture { system, id } => {
            let facts = at_system(tx, *system, None, actor).await?;
            let mut about = pictures::facts(tx, *system, *id).await?;
            about.there = about.there.filter(|there| there.system == *system);
            Ok(Facts::Picture(Box::new(facts), about))
        }
        Command::MakeCard(new) => {
            let made_from = rows::to_json(&**new)?;
            let mut facts = for_card(tx, new.id, new.parent, &new.card).await?;
            let query = sqlx::query_scalar("SELECT made_from FROM card WHERE id = ?").bind(new.id.to_string());
            let there: Option<String> = query.fetch_optional(&mut **tx).await?;
            facts.made_so = there.is_some_and(|there| there == made_from);
            Ok(Facts::Card(Box::new(facts)))
        }
        Command::EditCard { id, card: to, .. } => {
            let there = card(tx, *id).await?.ok_or(StoreError::NotFound("card"))?;
            let to = to.as_deref().unwrap_or(&there.card);
            let mut facts = for_card(tx, *id, there.parent, to).await?;
            facts.versions = versions(tx, *id).await?;
            Ok(Facts::Card(Box::new(facts)))
        }
        Command::StartTimer { id, system, .. } => {
            let query = sqlx::query("SELECT * FROM timer WHERE id = ?").bind(id.to_string());
            let there = query.fetch_optional(&mut **tx).await?.as_ref().map(rows::timer).transpose()?;
            let running = log::timers_running(tx, now).await?;
            let at = if let Some(system) = system { card(tx, *system).await? } else { None };
            let place = at.as_ref().and_then(|at| at.parent);
            let system_there = at.is_some_and(|at| matches!(at.card, Card::System(_)));
            let beside = log::timers_beside(tx, *system, now).await?;
            Ok(Facts::Timer(TimerFacts { there, running, beside, system_there, place }))
        }
        Command::DismissTimer(id) => {
            let query = sqlx::query("SELECT * FROM timer WHERE id = ?").bind(id.to_string());
            let there = query.fetch_optional(&mut **tx).await?.as_ref().map(rows::timer).transpose()?;
            let system = there.as_ref().and_then(|there| there.system);
            let at = if let Some(system) = system { card(tx, system).await? } else { None };
            let place = at.and_then(|at| at.parent);
            Ok(Facts::Timer(TimerFacts { place, ..TimerFacts::default() }))
        }
        Command::MakeAccount { id, wish } | Command::EditAccount { id, wish, .. } => {
            Ok(Facts::Account(accounts::facts_for(tx, *id, wish).await?))
        }
    }
}

/// The plantings of which an entry says that something was picked.
fn picked_in(body: &Body) -> impl Iterator<Item = Uuid> {
    let harvests = if let Body::Visit(visit) = body { visit.harvests.as_slice() } else { &[] };
    harvests.iter().map(|harvest| harvest.planting)
}

/// A planting, of one system or of any, as it is and as it was before.
async fn picked(tx: &mut Tx<'_>, system: Option<Uuid>, id: Uuid) -> Result<Option<PickedCard>> {
    let here =
        |found: &StoredCard| matches!(found.card, Card::Planting(_)) && (system.is_none() || found.parent == system);
    let Some(card) = card(tx, id).await?.filter(here) else { return Ok(None) };
    let mut versions = versions(tx, id).await?;
    let Some(last) = versions.pop() else { return Ok(None) };
    Ok(Some(PickedCard { card, made: last.made, before: versions.pop().map(|before| before.says) }))
}

/// What the log of a system comes to, with what stands in the top-off reservoir of another that fills it too.
async fn known(tx: &mut Tx<'_>, id: Uuid, history: &Timeline<System>) -> Result<Known> {
    let (known, system) = (projections::known(tx, id, history).await?, history.now());
    let Some(owner) = system.drum_of else { return Ok(known) };
    let Some(owned) = history_of(tx, owner).await? else { return Ok(known) };
    let there = projections::known(tx, owner, &owned).await?;
    Ok(known.fed_from(&there, (owned.now(), system)))
}

/// A system that plants come from.
async fn source(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<SourceFacts>> {
    let there = card(tx, id).await?.filter(|found| matches!(found.card, Card::System(_)) && !found.archived);
    let Some(place) = there.map(|found| found.parent) else { return Ok(None) };
    Ok(Some(SourceFacts { id, place, closed_off: closed_off(tx, id).await? }))
}

/// What a system is closed off for, where it is.
async fn closed_off(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<Message>> {
    let Some(history) = history_of(tx, id).await? else { return Ok(None) };
    let known = projections::known(tx, id, &history).await?;
    Ok(known.happened.closed_off.and(known.cases.suspect()))
}

/// How many cards there are.
async fn cards(tx: &mut Tx<'_>) -> Result<usize> {
    let row = sqlx::query("SELECT count(*) AS cards FROM card").fetch_one(&mut **tx).await?;
    let cards: i64 = row.try_get("cards")?;
    Ok(usize::try_from(cards).unwrap_or(usize::MAX))
}

/// A system whose top-off reservoir is named, with what it gives away.
async fn drum(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<NamedDrum>> {
    let Some(found) = card(tx, id).await?.filter(|found| !found.archived) else { return Ok(None) };
    let Card::System(system) = found.card else { return Ok(None) };
    let given = system.drum_share.unwrap_or_default() + drawn(tx, id, None).await?;
    Ok(Some(NamedDrum { place: found.parent, system, given }))
}

/// What flows from the top-off reservoir of a system into others, but for one of them.
async fn drawn(tx: &mut Tx<'_>, id: Uuid, but: Option<Uuid>) -> Result<f64> {
    let named = format!("%{id}%");
    let query = sqlx::query(select_cards!("WHERE kind = 'system' AND archived = 0 AND body LIKE ?")).bind(named);
    let mut drawn = 0.0;
    for row in query.fetch_all(&mut **tx).await? {
        let found = rows::card(&row)?;
        if let Card::System(system) = found.card
            && system.drum_of == Some(id)
            && Some(found.id) != but
        {
            drawn += system.drum_share.unwrap_or_default();
        }
    }
    Ok(drawn)
}

/// The actor's draft at a system.
async fn draft(tx: &mut Tx<'_>, system: Uuid, actor: &Actor) -> Result<Option<Draft>> {
    let Some(who) = actor.person else { return Ok(None) };
    let query = sqlx::query("SELECT * FROM draft WHERE system = ? AND who = ?");
    let row = query.bind(system.to_string()).bind(who.to_string()).fetch_optional(&mut **tx).await?;
    row.as_ref().map(rows::draft).transpose()
}

/// The change under way at a system.
async fn run(tx: &mut Tx<'_>, system: Uuid) -> Result<Option<StoredRun>> {
    let query = sqlx::query("SELECT * FROM change_run WHERE system = ?").bind(system.to_string());
    query.fetch_optional(&mut **tx).await?.as_ref().map(rows::run).transpose()
}

/// What stands at a system; the entry and the draft with an id, where one is asked for.
async fn at_system(tx: &mut Tx<'_>, id: Uuid, entry: Option<Uuid>, actor: &Actor) -> Result<SystemFacts> {
    let missing = || StoreError::NotFound("system");
    let stored = card(tx, id).await?.ok_or_else(missing)?;
    let place_id = stored.parent.unwrap_or_default();
    let place = place_of(tx, place_id).await?;
    let zone = zone_of(&place)?;
    let history = timeline(as_what(versions(tx, id).await?, system), &zone).ok_or_else(missing)?;
    let mut facts = SystemFacts {
        id,
        archived: stored.archived,
        history,
        planted: vec![],
        place: place_id,
        zone,
        calendar: place.calendar().map_err(|error| StoreError::Corrupt(error.to_string()))?,
        known: Default::default(),
        entry: None,
        amended: None,
        newest: None,
        closing: None,
        draft: None,
        run: None,
        put_away: false,
        named: vec![],
        picked: vec![],
        sources: vec![],
        ids_taken: vec![],
        cards: 0,
    };
    if let Some(entry) = entry {
        let query = sqlx::query_scalar("SELECT count(*) FROM put_away WHERE id = ?").bind(entry.to_string());
        facts.put_away = query.fetch_one(&mut **tx).await.map(|found: i64| found > 0)?;
        facts.entry = log::by_id(tx, entry).await?;
        // Without a person nothing is closed: that is refused first.
        let query = sqlx::query("SELECT * FROM draft WHERE id = ?").bind(entry.to_string());
        let row = if actor.person.is_some() { query.fetch_optional(&mut **tx).await? } else { None };
        facts.closing = row.as_ref().map(rows::draft).transpose()?;
    }
    Ok(facts)
}

/// What grew in a system, by when.
async fn plantings(tx: &mut Tx<'_>, id: Uuid, zone: &TimeZone) -> Result<Vec<Timeline<Planting>>> {
    let query = sqlx::query_scalar("SELECT id FROM card WHERE parent = ? AND kind = 'planting' ORDER BY id");
    let ids: Vec<String> = query.bind(id.to_string()).fetch_all(&mut **tx).await?;
    let mut all = Vec::with_capacity(ids.len());
    for id in ids {
        let versions = versions(tx, rows::id(&id)?).await?;
        all.extend(timeline(as_what(versions, planting), zone));
    }
    Ok(all)
}

/// What a card's command rests on.
async fn for_card(tx: &mut Tx<'_>, id: Uuid, parent: Option<Uuid>, wanted: &Card) -> Result<CardFacts> {
    let there = card(tx, id).await?;
    let parent = if let Some(parent) = parent { card(tx, parent).await? } else { None };
    let at = match (wanted, &parent) {
        (Card::Place(_), _) => Some(id),
        (_, Some(StoredCard { card: Card::System(_), parent: Some(place), .. })) => Some(*place),
        (_, Some(parent)) => Some(parent.id),
        (_, None) => None,
    };
    let place = match (wanted, &parent) {
        (Card::Place(place), _) => Some(place.clone()),
        (_, Some(StoredCard { card: Card::Place(place), .. })) => Some(place.clone()),
        (_, Some(StoredCard { card: Card::System(_), parent: Some(place), .. })) => Some(place_of(tx, *place).await?),
        _ => None,
    };
    let zone = place.map_or(TimeZone::UTC, |place| place.time_zone().unwrap_or(TimeZone::UTC));
    let mut plantings = Vec::new();
    if matches!(wanted, Card::System(_)) {
        let query = sqlx::query(select_cards!("WHERE parent = ? AND kind = 'planting' AND archived = 0"));
        for row in query.bind(id.to_string()).fetch_all(&mut **tx).await? {
            plantings.extend(planting(rows::card(&row)?.card));
        }
    }
    let mut closed = None;
    if let (Card::Planting(_), Some(StoredCard { id, card: Card::System(_), .. })) = (wanted, &parent) {
        closed = closed_off(tx, *id).await?;
    }
    let mut named = named(tx, wanted).await?;
    if matches!(wanted, Card::System(_)) {
        named.drawn = drawn(tx, id, None).await?;
    }
    // What it drew before this edit is not counted twice.
    if let (Some(drum), Card::System(System { drum_of: Some(of), .. })) = (&mut named.drum, wanted) {
        drum.given = drum.system.drum_share.unwrap_or_default() + drawn(tx, *of, Some(id)).await?;
    }
    Ok(CardFacts {
        there,
        made_so: false,
        versions: vec![],
        parent,
        place: at,
        zone,
        named,
        plantings,
        cards: cards(tx).await?,
        closed_off: closed,
    })
}

async fn product(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<Product>> {
    if let Some((_, shipped)) = products().iter().find(|(known, _)| *known == id) {
        return Ok(Some(shipped.clone()));
    }
    Ok(card(tx, id).await?.and_then(|own| if let Card::Product(product) = own.card { Some(product) } else { None }))
}

async fn recipe(tx: &mut Tx<'_>, id: Uuid) -> Result<Option<Recipe>> {
    if let Some((_, shipped)) = recipes().iter().find(|(known, _)| *known == id) {
        return Ok(Some(shipped.clone()));
    }
    Ok(card(tx, id).await?.and_then(|own| if let Card::Recipe(recipe) = own.card { Some(recipe) } else { None }))
}

/// What a card names, as far as it is there.
async fn named(tx: &mut Tx<'_>, wanted: &Card) -> Result<Named> {
    let mut named = Named::default();
    match wanted {
        Card::Recipe(wanted) => {
            for line in &wanted.lines {
                if let Some(found) = product(tx, line.product).await? {
                    named.products.insert(line.product, found);
                }
            }
        }
        Card::System(system) => {
            if let Some(id) = system.methods.recipe {
                named.recipe = recipe(tx, id).await?;
            }
            if let Some(id) = system.meter {
                let meter = card(tx, id).await?.filter(|found| matches!(found.card, Card::Meter(_)));
                named.meter_at = meter.and_then(|meter| meter.parent);
            }
            if let Some(id) = system.drum_of {
                named.drum = drum(tx, id).await?;
            }
        }
        _ => {}
    }
    Ok(named)
}
