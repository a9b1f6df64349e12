//! Edits of the set-up, in words: what was said before, what is said since, and how to take it back.

use crate::Problem;
use crate::book::Pages;
use jiff::Timestamp;
use mopsel_core::calendar::day;
use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Act, Actor, Holds};
use mopsel_core::say;
use mopsel_core::words::{CardField, Kept, Reader, Speaker};
use mopsel_store::Edit;
use serde::Serialize;
use serde_json::{Map, Value};
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// The parts of a card whose fields are told one by one.
const PARTS: [&str; 3] = ["traits", "methods", "reservoir"];

/// One field that was edited.
#[derive(Debug, Serialize, ToSchema)]
pub struct FieldEdit {
    /// What it is called.
    pub name: String,
    /// What it said before; absent where it is not said in a line.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub before: Option<String>,
    /// What it says since.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
}

/// An edit that takes another one back: put it to the card as it is.
#[derive(Debug, Serialize, ToSchema)]
pub struct Undo {
    /// On top of this version.
    pub version: i64,
    /// What the card should say; absent to leave it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub body: Option<Card>,
    /// Put away or taken out again; absent to leave it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub archived: Option<bool>,
    /// From when it holds: as the edit that it takes back.
    pub holds: Holds,
}

/// An edit of a card.
#[derive(Debug, Serialize, ToSchema)]
pub struct EditView {
    /// The card.
    pub card: Uuid,
    /// The version that the edit made.
    pub version: i64,
    /// What the card is called now.
    pub name: String,
    /// What sort of card it is.
    pub kind: String,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// The same on the clock of the place.
    pub when: String,
    /// Who, by name; absent where nobody wrote it down.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub by_name: Option<String>,
    /// What was done.
    pub says: String,
    /// From when it holds, where that was said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub holds: Option<String>,
    /// What is said otherwise since.
    pub fields: Vec<FieldEdit>,
    /// How to take it back; absent where it was edited once more since, where there is nothing to go back to, and
    /// where an entry turned it, which is taken back in the log.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub undo: Option<Undo>,
}

/// A card's fields by their paths.
fn leaves(card: &Card) -> BTreeMap<String, Value> {
    let Ok(Value::Object(all)) = serde_json::to_value(card) else { return BTreeMap::new() };
    let mut found = BTreeMap::new();
    for (key, value) in all {
        match value {
            Value::Null => {}
            Value::Object(part) if PARTS.contains(&key.as_str()) => {
                let within = part.into_iter().filter(|(_, value)| !value.is_null());
                found.extend(within.map(|(inner, value)| (format!("{key}.{inner}"), value)));
            }
            value => drop(found.insert(key, value)),
        }
    }
    found
}

/// The other way round.
fn card_of(leaves: &BTreeMap<String, Value>) -> Option<Card> {
    let mut all = Map::new();
    for (path, value) in leaves {
        match path.split_once('.') {
            Some((part, inner)) => {
                let part = all.entry(part).or_insert_with(|| Value::Object(Map::new()));
                part.as_object_mut()?.insert(inner.to_owned(), value.clone());
            }
            None => drop(all.insert(path.clone(), value.clone())),
        }
    }
    serde_json::from_value(Value::Object(all)).ok()
}

fn kept(value: &Value) -> Option<Kept> {
    Some(match value {
        Value::Bool(flag) => Kept::Flag(*flag),
        Value::Number(number) => Kept::Number(number.as_f64()?),
        Value::String(text) => Kept::Text(text.clone()),
        Value::Object(band) => Kept::Band(band.get("low")?.as_f64()?, band.get("high")?.as_f64()?),
        _ => return None,
    })
}

/// What is said otherwise since, field by field.
fn fields(before: &BTreeMap<String, Value>, after: &BTreeMap<String, Value>, speaker: &Speaker) -> Vec<FieldEdit> {
    let say = |field: CardField, value: Option<&Value>| {
        let value = value.map(kept);
        // What cannot be said in a line is not said to be nothing.
        let value = if value == Some(None) { return None } else { value.flatten() };
        field.say(value.as_ref()).map(|message| speaker.say(&message))
    };
    let edit = |path: &String| {
        let field = CardField::at(path);
        let (before, after) = (say(field, before.get(path)), say(field, after.get(path)));
        // Half of it would be no comparison.
        let (before, after) = before.zip(after).unzip();
        FieldEdit { name: speaker.say(&field.name()), before, after }
    };
    changed(before, after).map(edit).collect()
}

/// The paths at which two versions differ.
fn changed<'a>(
    before: &'a BTreeMap<String, Value>,
    after: &'a BTreeMap<String, Value>,
) -> impl Iterator<Item = &'a String> {
    let gone = before.keys().filter(|path| !after.contains_key(*path));
    after.keys().filter(|path| before.get(*path) != after.get(*path)).chain(gone)
}

/// The edit that takes it back: only what it said is set as it was before, and what was edited since stays. `None` where
/// one of its fields was edited once more.
fn undo(edit: &Edit, before: Option<&BTreeMap<String, Value>>, after: &BTreeMap<String, Value>) -> Option<Undo> {
    let (newest, now) = &edit.now;
    let holds = edit.after.holds;
    let Some(before) = before else {
        // What was set up by mistake is archived, as long as nobody went on from it; nothing is ever erased.
        return (!now.archived && *newest == 1).then_some(Undo {
            version: *newest,
            body: None,
            archived: Some(true),
            holds,
        });
    };
    let was_archived = edit.before.as_ref().is_some_and(|before| before.archived);
    let turned = was_archived != edit.after.archived;
    if turned && now.archived != edit.after.archived {
        return None;
    }
    let mut says = leaves(&now.says);
    for path in changed(before, after) {
        if says.get(path) != after.get(path) {
            return None;
        }
        match before.get(path) {
            Some(value) => drop(says.insert(path.clone(), value.clone())),
            None => drop(says.remove(path)),
        }
    }
    let body = if changed(before, after).next().is_some() { Some(card_of(&says)?) } else { None };
    let archived = turned.then_some(was_archived);
    (body.is_some() || archived.is_some()).then_some(Undo { version: *newest, body, archived, holds })
}

/// An edit as it is shown to a reader.
///
/// # Errors
/// Not found: a card of a place that the actor does not see.
pub fn edit_view(pages: &Pages, actor: &Actor, place: Uuid, edit: &Edit) -> Result<EditView, Problem> {
    let file = pages.places.get(&place).ok_or_else(|| Problem::not_found("place with that id"))?;
    let preferred = pages.prefers(actor);
    let units = preferred.units.unwrap_or(file.place.units);
    let speaker = Speaker::new(Reader::new(units, preferred.ec.unwrap_or_default(), actor));
    let after = leaves(&edit.after.says);
    let before = edit.before.as_ref().map(|before| leaves(&before.says));
    let fields = before.as_ref().map_or_else(Vec::new, |before| fields(before, &after, &speaker));
    let was_archived = edit.before.as_ref().is_some_and(|before| before.archived);
    let says = match (&before, was_archived, edit.after.archived) {
        (None, ..) => say!("card_history.made"),
        (_, false, true) => say!("card_history.put_away"),
        (_, true, false) => say!("card_history.taken_out"),
        _ if edit.by_entry => say!("card_history.by_entry"),
        _ if fields.is_empty() => say!("card_history.same"),
        _ => say!("card_history.changed"),
    };
    let zoned = edit.at.to_zoned(file.zone.clone());
    let dated = matches!(edit.after.says, Card::System(_) | Card::Planting(_)) && !fields.is_empty();
    let holds = dated.then(|| match edit.after.holds {
        Holds::Always => say!("card_history.always"),
        Holds::From(on) => say!("card_history.from", day = day(on, zoned.date())),
    });
    // In an edit of a person stands what is theirs alone; who may not give it is not shown it.
    let act = match edit.after.says {
        Card::Person(_) => Act::People,
        Card::Meter(_) => Act::Devices,
        _ => Act::SetUp,
    };
    let may = actor.may(act, Some(place)).is_ok();
    Ok(EditView {
        card: edit.card,
        version: edit.version,
        name: edit.now.1.says.name().to_owned(),
        kind: speaker.say(&say!("card_history.of", card = edit.after.says.kind())),
        at: edit.at,
        when: zoned.strftime("%a %-d %b %Y, %H:%M").to_string(),
        by_name: edit.who.map(|who| pages.name_of(who)),
        says: speaker.say(&says),
        holds: holds.map(|holds| speaker.say(&holds)),
        fields,
        undo: if may && !edit.by_entry { undo(edit, before.as_ref(), &after) } else { None },
    })
}

#[cfg(test)]
mod tests {
    use mopsel_core::words::CARD_FIELDS;
    use serde_json::Value;

    #[test]
    fn every_field_of_a_card_has_its_name() {
        let description: Value = serde_json::from_str(&crate::description()).unwrap_or_default();
        let schema = |name: &str| {
            let found = description["components"]["schemas"][name]["properties"].as_object();
            found.unwrap_or_else(|| panic!("{name} has fields")).keys().cloned().collect::<Vec<String>>()
        };
        let mut paths: Vec<String> = Vec::new();
        for card in ["Place", "Person", "Meter", "System", "Planting"] {
            paths.extend(schema(card).into_iter().filter(|path| !super::PARTS.contains(&path.as_str())));
        }
        for (part, name) in [("traits", "Traits"), ("methods", "Methods"), ("reservoir", "Reservoir")] {
            paths.extend(schema(name).into_iter().map(|inner| format!("{part}.{inner}")));
        }
        let named = |path: &String| CARD_FIELDS.iter().any(|field| field.path == path);
        let missing: Vec<String> = paths.into_iter().filter(|path| !named(path)).collect();
        assert_eq!(missing, Vec::<String>::new());
    }
}
