//! What is in the log as CSV (RFC 4180), for a spreadsheet: units in the headers, times in UTC, one line a visit.

use mopsel_core::fact::card::Card;
use mopsel_core::fact::{Body, Entry};
use mopsel_core::quantity::{Celsius, EcReading, EcScale, PhReading, Quantity, UnitSystem};
use mopsel_core::system::System;
use mopsel_core::words::{Reader, Speaker, say_entry};
use std::fmt::Write as _;

/// The units that the tables are wanted in.
#[derive(Debug, Clone, Copy, Default)]
pub struct Wanted {
    /// Of volumes and temperatures.
    pub units: UnitSystem,
    /// Of EC.
    pub scale: EcScale,
}

/// A cell. What a spreadsheet would run is made text.
pub fn cell(text: &str) -> String {
    let runs = text.starts_with(['=', '+', '-', '@', '\t', '\r']) && text.parse::<f64>().is_err();
    let safe = if runs { format!("'{text}") } else { text.to_owned() };
    if safe.contains(['"', ',', '\n', '\r']) { format!("\"{}\"", safe.replace('"', "\"\"")) } else { safe }
}

/// A line of cells.
pub fn line<T: AsRef<str>>(cells: &[T]) -> String {
    let mut text = cells.iter().map(|text| cell(text.as_ref())).collect::<Vec<_>>().join(",");
    text.push_str("\r\n");
    text
}

impl Wanted {
    fn volume(self, litres: f64) -> String {
        short(litres / self.units.litres_per_unit(), 3)
    }

    fn temperature(self, celsius: f64) -> String {
        short(if self.units == UnitSystem::Us { celsius * 1.8 + 32.0 } else { celsius }, 2)
    }

    fn strength(self, ec: f64) -> String {
        short(ec * self.scale.per_ms_cm(), 3)
    }

    fn degrees(self) -> &'static str {
        if self.units == UnitSystem::Us { "°F" } else { "°C" }
    }

    /// The headers of the readings.
    pub fn readings_head(self) -> String {
        let (volume, scale) = (self.units.volume_unit(), self.scale.sign());
        line(&[
            "time",
            "place",
            "system",
            "person",
            &format!("level [{volume}]"),
            &format!("water temperature [{}]", self.degrees()),
            "pH, low",
            "pH, high",
            &format!("EC at 25 °C [{scale}]"),
            &format!("water added [{volume}]"),
            &format!("left in the top-off reservoir [{volume}]"),
        ])
    }

    /// What an entry read or poured; nothing where it did neither.
    pub fn readings(self, entry: &Entry, system: &System, names: &Names<'_>) -> Option<String> {
        let mut cells = Cells::default();
        match &entry.body {
            Body::Visit(visit) => {
                cells.level = visit.measured(system).map(|litres| self.volume(litres.get()));
                cells.water(self, visit.temperature, visit.ph, visit.ec);
                cells.added = visit.top_off.map(|top_off| self.volume(top_off.litres.get()));
                cells.left = visit.left_behind(system).map(|litres| self.volume(litres.get()));
            }
            Body::Change(change) => {
                cells.level = Some(self.volume(change.volume_after.get()));
                cells.water(self, change.temperature, change.ph, change.ec);
            }
            Body::Correction(correction) => cells.water(self, None, Some(correction.from), None),
            _ => return None,
        }
        if cells == Cells::default() {
            return None;
        }
        let Cells { level, temperature, ph: [low, high], ec, added, left } = cells;
        let [time, place, system, person] = names.cells(entry);
        let read = [level, temperature, low, high, ec, added, left].map(Option::unwrap_or_default);
        Some(line(&[vec![time, place, system, person], read.to_vec()].concat()))
    }

    /// What an entry says, in words.
    pub fn said(self, entry: &Entry, system: &System, names: &Names<'_>) -> String {
        let speaker = Speaker::new(Reader { units: self.units, ec: self.scale, child: false });
        let lines: Vec<String> = say_entry(&entry.body, system).iter().map(|line| speaker.say(line)).collect();
        let [time, place, system, person] = names.cells(entry);
        let reason = entry.reason.as_ref().map_or("", |reason| reason.as_str());
        line(&[time, place, system, person, lines.join("; "), reason.to_owned()])
    }
}

/// The headers of the log.
pub fn said_head() -> String {
    line(&["time", "place", "system", "person", "what was done and seen", "why it was amended"])
}

/// How an entry's place, system and person are called.
pub struct Names<'a> {
    /// Of the place.
    pub place: &'a str,
    /// Of the system.
    pub system: &'a str,
    /// Of the person.
    pub person: &'a str,
}

impl Names<'_> {
    fn cells(&self, entry: &Entry) -> [String; 4] {
        [entry.at.to_string(), self.place.to_owned(), self.system.to_owned(), self.person.to_owned()]
    }
}

#[derive(Default, PartialEq)]
struct Cells {
    level: Option<String>,
    temperature: Option<String>,
    ph: [Option<String>; 2],
    ec: Option<String>,
    added: Option<String>,
    left: Option<String>,
}

impl Cells {
    fn water(&mut self, wanted: Wanted, temperature: Option<Celsius>, ph: Option<PhReading>, ec: Option<EcReading>) {
        self.temperature = temperature.map(|read| wanted.temperature(read.get()));
        self.ph = match ph {
            Some(PhReading::Meter(ph)) => [Some(short(ph.get(), 2)), Some(short(ph.get(), 2))],
            Some(PhReading::Kit { low, high }) => [Some(short(low.get(), 2)), Some(short(high.get(), 2))],
            None => [None, None],
        };
        self.ec = ec.and_then(|ec| ec.at_25(temperature).ok()).map(|ec| wanted.strength(ec.number()));
    }
}

/// A number without needless zeros.
fn short(value: f64, digits: usize) -> String {
    let mut text = String::new();
    let _ = write!(text, "{value:.digits$}");
    if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.').to_owned() } else { text }
}

/// A card as a line of its table: its id, its name, where it hangs, and what it says as JSON.
pub fn card(id: &str, parent: &str, archived: bool, card: &Card) -> String {
    let says = serde_json::to_string(card).unwrap_or_default();
    line(&[id, card.code(), card.name(), parent, if archived { "yes" } else { "" }, &says])
}

/// The headers of the cards.
pub fn cards_head() -> String {
    line(&["id", "kind", "name", "hangs on", "put away", "says"])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_cell_that_a_spreadsheet_would_run_is_text_and_numbers_stay_numbers() {
        assert_eq!(cell("=HYPERLINK(\"x\")"), "\"'=HYPERLINK(\"\"x\"\")\"");
        assert_eq!(
            (cell("-3.5"), cell("-leaf"), cell("+1")),
            ("-3.5".to_owned(), "'-leaf".to_owned(), "+1".to_owned())
        );
        assert_eq!(cell("two\nlines"), "\"two\nlines\"");
        assert_eq!((short(5.0, 3), short(0.25, 3), short(1200.0, 3)), ("5".into(), "0.25".into(), "1200".into()));
    }
}
