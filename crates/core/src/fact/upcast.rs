//! Older shapes of what is kept, brought to the present one when they are read. What was written is
//! never rewritten.
//!
//! To change a shape: raise the version, and add the step from the one before it here. A file made by
//! each earlier release is in the store's tests.

use serde_json::{Map, Value};
use std::borrow::Cow;

/// The shape of entry bodies that this release writes.
///
/// - 1: the first two releases. `overruled` had any text as its keys.
/// - 2: `overruled` has subjects as its keys.
/// - 3: visits tell of cases, and of what was looked for and is not there; nothing has to be rewritten.
/// - 4: a question about the roots that was not answered has no answer; before, it stood for "no".
/// - 5: plug and lead are looked at; nothing has to be rewritten.
/// - 6: a change says where its water was mixed, a rinse what was in the meshes; nothing has to be rewritten.
/// - 7: a visit that topped off may have moved the pH too, bottles in reach are a fault, equipment is serviced;
///   nothing has to be rewritten.
/// - 8: a visit may tell of run-off, and of the height in the top-off reservoir; nothing has to be rewritten.
pub const ENTRY_VERSION: i64 = 8;

/// From this shape on `overruled` has subjects as its keys.
const OVERRULED_BY_SUBJECT: i64 = 2;

/// From this shape on a question about the roots may be left open.
const ROOTS_MAY_BE_OPEN: i64 = 4;

/// The shape of cards that this release writes.
///
/// - 1: the first two releases. Whether water runs through channels was read off the kind.
/// - 2: it is a trait.
/// - 3: systems may say what is done about root rot; nothing has to be rewritten.
/// - 4: systems may name their equipment; nothing has to be rewritten.
/// - 5: systems may say how large their top-off reservoir is, and how a timer feeds; nothing has to be rewritten.
pub const CARD_VERSION: i64 = 5;

/// From this shape on channels are a trait.
const CHANNELS_ARE_A_TRAIT: i64 = 2;

/// The subjects that a verdict can be overruled on.
const SUBJECTS: [&str; 9] = ["plants", "running", "level", "temperature", "ph", "ec", "glass", "roots", "top_off"];

/// The body of an entry or of a draft, as text, in the present shape.
#[must_use]
pub fn entry(version: i64, text: &str) -> Cow<'_, str> {
    let text = if version < OVERRULED_BY_SUBJECT && text.contains("\"overruled\"") {
        overruled_by_subject(text)
    } else {
        Cow::Borrowed(text)
    };
    if version < ROOTS_MAY_BE_OPEN && text.contains("\"answers\"") {
        return Cow::Owned(roots_answered(&text).into_owned());
    }
    text
}

fn roots_answered(text: &str) -> Cow<'_, str> {
    rewritten(text, |body| {
        for at in ["/roots/answers", "/parts/roots/answers"] {
            let Some((first, rest)) = at[1..].split_once('/') else { continue };
            let answers = body.get_mut(first).and_then(|inside| inside.pointer_mut(&format!("/{rest}")));
            let Some(Value::Object(answers)) = answers else { continue };
            for question in ["stick_together", "slime_or_browning", "matted_or_foul"] {
                answers.entry(question).or_insert(Value::Bool(false));
            }
        }
    })
}

fn overruled_by_subject(text: &str) -> Cow<'_, str> {
    rewritten(text, |body| {
        let Some(Value::Object(overruled)) = body.get_mut("overruled") else { return };
        let (known, unknown): (Map<_, _>, Map<_, _>) =
            std::mem::take(overruled).into_iter().partition(|(key, _)| SUBJECTS.contains(&key.as_str()));
        *overruled = known;
        if unknown.is_empty() {
            return;
        }
        // Nothing typed is lost: what was said about no subject goes into the note.
        let said = unknown.into_iter().map(|(key, why)| format!("{key}: {}", why.as_str().unwrap_or_default()));
        let note = body.get("note").and_then(Value::as_str).map(str::to_owned);
        let lines: Vec<String> = note.into_iter().chain(said).collect();
        let joined: String = lines.join("\n").chars().take(2000).collect();
        body.insert("note".to_owned(), Value::String(joined));
    })
}

/// A card, as text, in the present shape.
#[must_use]
pub fn card(version: i64, text: &str) -> Cow<'_, str> {
    if version >= CHANNELS_ARE_A_TRAIT || !text.contains("\"film_channel\"") {
        return Cow::Borrowed(text);
    }
    rewritten(text, |card| {
        let channels = card.get("kind").and_then(Value::as_str) == Some("film_channel");
        if let (true, Some(Value::Object(traits))) = (channels, card.get_mut("traits")) {
            traits.insert("channels".to_owned(), Value::Bool(true));
        }
    })
}

fn rewritten(text: &str, rewrite: impl FnOnce(&mut Map<String, Value>)) -> Cow<'_, str> {
    match serde_json::from_str(text) {
        Ok(Value::Object(mut object)) => {
            rewrite(&mut object);
            Cow::Owned(Value::Object(object).to_string())
        }
        // What is no object is refused by whoever reads it.
        _ => Cow::Borrowed(text),
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "a test fails where it unwraps")]
mod tests {
    use super::*;
    use crate::fact::{Body, Subject};

    #[test]
    fn a_verdict_overruled_on_no_subject_is_kept_in_the_note() {
        let old = r#"{"kind":"visit","all_fine":true,"overruled":{"ph":"probe is new","weather":"hot"},"note":"Hi"}"#;
        let Body::Visit(visit) = serde_json::from_str(&entry(1, old)).unwrap() else { panic!("a visit") };
        assert_eq!(visit.overruled.keys().copied().collect::<Vec<_>>(), [Subject::Ph]);
        assert_eq!(visit.note.unwrap().as_str(), "Hi\nweather: hot");
    }

    #[test]
    fn roots_of_an_earlier_release_were_looked_at_whole() {
        let old = r#"{"kind":"visit","roots":{"answers":{}}}"#;
        for (version, sound) in [(1, true), (3, true), (4, false)] {
            let Body::Visit(visit) = serde_json::from_str(&entry(version, old)).unwrap() else { panic!("a visit") };
            assert_eq!(visit.roots.unwrap().stage().is_some(), sound, "version {version}");
        }
        let change = r#"{"parts":{"roots":{"answers":{"stick_together":true}}}}"#;
        assert!(entry(3, change).contains(r#""matted_or_foul":false"#));
    }

    #[test]
    fn a_present_body_is_read_as_it_stands() {
        let body = r#"{"kind":"visit","all_fine":true,"overruled":{"ph":"why"}}"#;
        assert!(matches!(entry(ENTRY_VERSION, body), Cow::Borrowed(_)));
    }

    #[test]
    fn a_film_channel_of_an_earlier_release_has_channels() {
        let old = r#"{"card":"system","kind":"film_channel","traits":{"circulates":true}}"#;
        assert!(card(1, old).contains(r#""channels":true"#));
        assert!(!card(1, &old.replace("film_channel", "tower")).contains("channels"));
    }
}
