//! Facts have dates. What is set up is read as of the day that is asked about: exchanging a tank
//! today leaves the volumes of last month alone, and so does a stage that is moved on.
//!
//! An edit says from when it holds, or that it was always so. It speaks of the fields that it changes
//! and of no others: two edits of one card never undo each other.
//!
//! - *From a day on*: the changed fields hold from that day until now.
//! - *Always so* (a correction): the new value takes the old one's place as far back as the old one
//!   stood. Where another value stood before that, it stays: correcting the size of the present tank
//!   says nothing of the one before it.

use super::card::Card;
use crate::calendar::start_of;
use crate::crop::Planting;
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Map, Value};

/// From when an edit holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Holds {
    /// It was always so; what stood there was a mistake.
    Always,
    /// From this day on.
    #[schema(value_type = String, format = Date)]
    From(#[serde(deserialize_with = "crate::quantity::day")] Date),
}

/// One version of a card, as it was edited.
#[derive(Debug, Clone, PartialEq)]
pub struct Version<T> {
    /// From when its changes hold.
    pub holds: Holds,
    /// Whether it was put away.
    pub archived: bool,
    /// When it was written; nothing asks for that of the first one.
    pub made: Timestamp,
    /// What it says.
    pub says: T,
}

/// A stretch of time in which a card said one thing.
#[derive(Debug, Clone, PartialEq)]
pub struct Segment<T> {
    /// Its first day; `None` reaches back for ever.
    pub from: Option<Date>,
    /// The moment at which that day begins in the place's zone.
    pub start: Timestamp,
    /// Whether it was put away.
    pub archived: bool,
    /// What it said.
    pub says: T,
}

/// Everything that a card said, by when it held. Never empty.
#[derive(Debug, Clone, PartialEq)]
pub struct Timeline<T> {
    segments: Vec<Segment<T>>,
    /// What each version said when it was written, the oldest first.
    told: Vec<(Timestamp, T)>,
}

/// Fields that name a thing rather than say how it is: they are the same at all times.
const TIMELESS: [&str; 6] = ["name", "note", "since", "kind", "crop", "turn"];
/// Objects whose fields are edited one by one. Others, a vessel with its lines above all, are whole.
const TAKEN_APART: [&str; 4] = ["traits", "methods", "intervals", "slacks"];
/// The field that says whether a card was put away.
const ARCHIVED: &str = "\u{0}archived";

type Fields = Map<String, Value>;

/// A card as fields that are edited one by one.
fn fields_of<T: Serialize>(says: &T, archived: bool) -> Fields {
    let mut fields = Fields::new();
    if let Ok(Value::Object(object)) = serde_json::to_value(says) {
        for (name, value) in object {
            match value {
                Value::Object(inner) if TAKEN_APART.contains(&name.as_str()) => {
                    fields.extend(inner.into_iter().map(|(part, value)| (format!("{name}\u{0}{part}"), value)));
                }
                value => {
                    fields.insert(name, value);
                }
            }
        }
    }
    fields.insert(ARCHIVED.to_owned(), Value::Bool(archived));
    fields
}

/// The card that the fields make, if they make one.
fn card_of<T: DeserializeOwned>(fields: &Fields) -> Option<(T, bool)> {
    let mut object = Fields::new();
    let mut archived = false;
    for (name, value) in fields {
        match name.split_once('\u{0}') {
            Some(("", _)) => archived = value.as_bool().unwrap_or(false),
            Some((outer, part)) => {
                let inner = object.entry(outer).or_insert_with(|| Value::Object(Fields::new()));
                inner.as_object_mut()?.insert(part.to_owned(), value.clone());
            }
            None => {
                object.insert(name.clone(), value.clone());
            }
        }
    }
    Some((serde_json::from_value(Value::Object(object)).ok()?, archived))
}

/// The fields that differ, with what they were and what they are; absent on a side is `None`.
fn changed<'a>(old: &'a Fields, new: &'a Fields) -> Vec<(&'a str, Option<&'a Value>, Option<&'a Value>)> {
    let names: std::collections::BTreeSet<&str> = old.keys().chain(new.keys()).map(String::as_str).collect();
    names.into_iter().map(|name| (name, old.get(name), new.get(name))).filter(|(_, was, is)| was != is).collect()
}

fn set(fields: &mut Fields, name: &str, value: Option<&Value>) {
    match value {
        Some(value) => {
            fields.insert(name.to_owned(), value.clone());
        }
        None => {
            fields.remove(name);
        }
    }
}

impl<T: Serialize + DeserializeOwned + Clone> Timeline<T> {
    /// The timeline of a card's versions, in the order in which they were made, as days of a zone.
    #[must_use]
    pub fn new(first: &Version<T>, later: &[Version<T>], zone: &TimeZone) -> Self {
        let alone = Segment { from: None, start: Timestamp::MIN, archived: first.archived, says: first.says.clone() };
        if later.is_empty() {
            return Self { segments: vec![alone], told: Vec::new() };
        }
        let told = std::iter::once(first).chain(later).map(|version| (version.made, version.says.clone())).collect();
        let mut base = fields_of(&first.says, first.archived);
        let mut stretches: Vec<(Option<Date>, Fields)> = vec![(None, base.clone())];
        for version in later {
            let fields = fields_of(&version.says, version.archived);
            apply(&mut stretches, &base, &fields, version.holds);
            base = fields;
        }
        let segment = |(from, fields): &(Option<Date>, Fields)| {
            let (says, archived) = card_of(fields)?;
            Some(Segment { from: *from, start: from.map_or(Timestamp::MIN, |day| start_of(day, zone)), archived, says })
        };
        let mut segments: Vec<Segment<T>> = stretches.iter().filter_map(segment).collect();
        match segments.first_mut() {
            Some(first) => (first.from, first.start) = (None, Timestamp::MIN),
            None => segments.push(alone),
        }
        Self { segments, told }
    }
}

/// Applies one edit to the stretches.
fn apply(stretches: &mut Vec<(Option<Date>, Fields)>, base: &Fields, fields: &Fields, holds: Holds) {
    let differs = changed(base, fields);
    if let Holds::From(day) = holds
        && differs.iter().any(|(name, ..)| !TIMELESS.contains(name))
        && !stretches.iter().any(|(from, _)| *from == Some(day))
    {
        let after = stretches.iter().take_while(|(from, _)| from.is_none_or(|from| from < day)).count();
        let copy = stretches[after - 1].1.clone();
        stretches.insert(after, (Some(day), copy));
    }
    for (name, was, is) in differs {
        if TIMELESS.contains(&name) {
            stretches.iter_mut().for_each(|(_, fields)| set(fields, name, is));
            continue;
        }
        match holds {
            Holds::From(day) => {
                let later = stretches.iter_mut().filter(|(from, _)| from.is_some_and(|from| from >= day));
                later.for_each(|(_, fields)| set(fields, name, is));
            }
            Holds::Always => {
                let stood = stretches.iter_mut().rev().take_while(|(_, fields)| fields.get(name) == was);
                stood.for_each(|(_, fields)| set(fields, name, is));
            }
        }
    }
}

impl<T> Timeline<T> {
    /// A card that always said the same.
    #[must_use]
    pub fn always(says: T) -> Self {
        Self { segments: vec![Segment { from: None, start: Timestamp::MIN, archived: false, says }], told: Vec::new() }
    }

    fn segment_at(&self, at: Timestamp) -> &Segment<T> {
        let next = self.segments.partition_point(|segment| segment.start <= at);
        &self.segments[next.saturating_sub(1)]
    }

    /// What it said at a moment.
    #[must_use]
    pub fn at(&self, at: Timestamp) -> &T {
        &self.segment_at(at).says
    }

    /// Whether it was put away at a moment.
    #[must_use]
    pub fn archived_at(&self, at: Timestamp) -> bool {
        self.segment_at(at).archived
    }

    /// What it says now: the last stretch, for no edit is dated to come.
    #[must_use]
    pub fn now(&self) -> &T {
        &self.segments[self.segments.len() - 1].says
    }

    /// Since when somebody has said what holds now, from whichever day on it was said to hold: nothing that follows from
    /// it was due before. `None` where it was said when the card was made.
    #[must_use]
    pub fn said_since(&self, holds: impl Fn(&T) -> bool) -> Option<Timestamp> {
        let before = self.told.iter().rposition(|(_, says)| !holds(says))?;
        self.told.get(before + 1).map(|(made, _)| *made)
    }

    /// What it was said to be at a moment, whatever day that was dated to.
    #[must_use]
    pub fn as_told(&self, at: Timestamp) -> &T {
        let told = self.told.iter().rev().find(|(made, _)| *made <= at).or(self.told.first());
        told.map_or_else(|| self.now(), |(_, says)| says)
    }

    /// When it was last said to be otherwise.
    #[must_use]
    pub fn last_told(&self) -> Option<Timestamp> {
        self.told.last().map(|(made, _)| *made)
    }

    /// Every stretch, the oldest first.
    #[must_use]
    pub fn segments(&self) -> &[Segment<T>] {
        &self.segments
    }
}

/// What grew in a system, by when.
#[derive(Debug, Clone, Copy)]
pub struct Planted<'a>(pub &'a [Timeline<Planting>]);

impl<'a> Planted<'a> {
    /// What stood there at a moment: planted on by then, and not put away.
    pub fn at(self, at: Timestamp, on: Date) -> impl Iterator<Item = &'a Planting> {
        let there =
            move |timeline: &&'a Timeline<Planting>| !timeline.archived_at(at) && timeline.at(at).planted_on <= on;
        self.0.iter().filter(there).map(move |timeline| timeline.at(at))
    }

    /// The moments at which something of it changed, in order.
    #[must_use]
    pub fn turns(self, zone: &TimeZone) -> Vec<Timestamp> {
        let mut turns: Vec<Timestamp> = Vec::new();
        for timeline in self.0 {
            turns.extend(timeline.segments.iter().skip(1).map(|segment| segment.start));
            turns.push(start_of(timeline.now().planted_on, zone));
        }
        turns.sort_unstable();
        turns.dedup();
        turns
    }
}

/// Something with the time at which it was so.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Dated<T> {
    /// The moment at which it was read or seen.
    pub at: Timestamp,
    /// What it was.
    pub value: T,
}

impl Card {
    /// Whether edits of such a card say from when they hold. Names, people and bottles have no past
    /// that a rule would read.
    #[must_use]
    pub fn is_dated(&self) -> bool {
        matches!(self, Self::System(_) | Self::Planting(_))
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "a test fails where it unwraps")]
mod tests {
    use super::*;
    use serde_json::json;

    fn version(holds: Holds, says: Value) -> Version<Value> {
        Version { holds, archived: false, made: Timestamp::UNIX_EPOCH, says }
    }

    fn day(text: &str) -> Date {
        text.parse().unwrap()
    }

    fn said(timeline: &Timeline<Value>, on: &str, field: &str) -> Value {
        timeline.at(start_of(day(on), &TimeZone::UTC)).get(field).cloned().unwrap_or(Value::Null)
    }

    fn timeline(versions: &[Version<Value>]) -> Timeline<Value> {
        Timeline::new(&versions[0], &versions[1..], &TimeZone::UTC)
    }

    #[test]
    fn an_exchanged_tank_holds_from_its_day_and_leaves_the_days_before_alone() {
        let t = timeline(&[
            version(Holds::Always, json!({"reservoir": 46, "ports": 6})),
            version(Holds::From(day("2027-02-01")), json!({"reservoir": 80, "ports": 6})),
        ]);
        assert_eq!(said(&t, "2027-01-31", "reservoir"), 46);
        assert_eq!(said(&t, "2027-02-01", "reservoir"), 80);
        assert_eq!(t.now()["reservoir"], 80);
    }

    #[test]
    fn correcting_the_present_tank_says_nothing_of_the_one_before_it() {
        let t = timeline(&[
            version(Holds::Always, json!({"reservoir": 46, "ports": 6})),
            version(Holds::From(day("2027-02-01")), json!({"reservoir": 80, "ports": 6})),
            version(Holds::Always, json!({"reservoir": 82, "ports": 8})),
        ]);
        assert_eq!(said(&t, "2027-01-31", "reservoir"), 46);
        assert_eq!(said(&t, "2027-02-01", "reservoir"), 82);
        assert_eq!(said(&t, "2027-01-31", "ports"), 8, "the ports were always miscounted");
    }

    #[test]
    fn of_two_edits_dated_the_same_day_each_keeps_what_only_it_changed() {
        let t = timeline(&[
            version(Holds::Always, json!({"traits": {"light": false, "aerated": false}, "ports": 6})),
            version(Holds::From(day("2027-02-01")), json!({"traits": {"light": true, "aerated": false}, "ports": 6})),
            version(Holds::From(day("2027-02-01")), json!({"traits": {"light": true, "aerated": true}, "ports": 7})),
        ]);
        assert_eq!(t.segments().len(), 2);
        assert_eq!(said(&t, "2027-01-31", "traits"), json!({"light": false, "aerated": false}));
        assert_eq!(said(&t, "2027-02-01", "traits"), json!({"light": true, "aerated": true}));
    }

    #[test]
    fn an_edit_dated_before_an_earlier_one_keeps_what_that_one_said_of_other_fields() {
        let t = timeline(&[
            version(Holds::Always, json!({"reservoir": 46, "source": "tap"})),
            version(Holds::From(day("2027-03-01")), json!({"reservoir": 80, "source": "tap"})),
            version(Holds::From(day("2027-02-01")), json!({"reservoir": 80, "source": "rain"})),
        ]);
        assert_eq!(said(&t, "2027-02-15", "reservoir"), 46);
        assert_eq!(said(&t, "2027-02-15", "source"), "rain");
        assert_eq!(said(&t, "2027-03-01", "reservoir"), 80);
        assert_eq!(said(&t, "2027-01-15", "source"), "tap");
    }

    #[test]
    fn a_name_is_the_same_at_all_times() {
        let t = timeline(&[
            version(Holds::Always, json!({"name": "Crate", "ports": 4})),
            version(Holds::From(day("2027-02-01")), json!({"name": "Window crate", "ports": 4})),
        ]);
        assert_eq!(said(&t, "2027-01-01", "name"), "Window crate");
        assert_eq!(t.segments().len(), 1);
    }
}
