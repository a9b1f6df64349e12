//! The table of sentences, and how their gaps are filled.
//!
//! `{gap}` is filled; `{gap^}` begins with a capital letter; `{gap@}` says "on" before a date that
//! wants it; `{gap-}` stands before a noun ("14-day"); `{gap|one|many}` picks by the number in the gap,
//! and either side may have gaps of its own.

use super::number::{band, hyphened, number};
use super::{Reader, Speaker};
use crate::care::risk_sentences;
use crate::crop::lean_sentences;
use crate::diagnosis::sentences;
use crate::message::{Message, Param};
use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::LazyLock;

/// Sentences by their codes.
#[derive(Debug)]
pub struct Table(HashMap<String, String>);

impl Table {
    fn read(text: &str) -> Result<Self, toml::de::Error> {
        let mut sentences = HashMap::new();
        gather(String::new(), &toml::Value::Table(toml::from_str(text)?), &mut sentences);
        Ok(Self(sentences))
    }

    /// A sentence by its code.
    #[must_use]
    pub fn get(&self, code: &str) -> Option<&str> {
        self.0.get(code).map(String::as_str)
    }

    /// Every code.
    pub fn codes(&self) -> impl Iterator<Item = &str> {
        self.0.keys().map(String::as_str)
    }

    pub(super) fn word<'a>(&'a self, code: &'a str) -> &'a str {
        self.get(code).unwrap_or(code)
    }
}

fn gather(code: String, value: &toml::Value, into: &mut HashMap<String, String>) {
    match value {
        toml::Value::String(sentence) => {
            into.insert(code, sentence.clone());
        }
        toml::Value::Table(table) => {
            for (key, value) in table {
                gather(if code.is_empty() { key.clone() } else { format!("{code}.{key}") }, value, into);
            }
        }
        _ => {}
    }
}

static ENGLISH: LazyLock<Table> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    let mut table = Table::read(include_str!("../../data/words/en.toml")).expect("data/words/en.toml is well formed");
    // The knowledge of causes carries its own sentences beside its weights.
    table.0.extend(
        sentences().chain(risk_sentences()).chain(lean_sentences()).map(|(code, text)| (code, text.to_owned())),
    );
    table
});

/// The English table.
#[must_use]
pub fn english() -> &'static Table {
    &ENGLISH
}

type Params = [(Cow<'static, str>, Param)];

impl Speaker {
    /// Writes a sentence; a child's own where there is one.
    pub(super) fn write(&self, code: &str, params: &Params, out: &mut String) {
        let child = if self.reader.child { self.table.get(&format!("{code}_child")) } else { None };
        match child.or_else(|| self.table.get(code)) {
            Some(template) => self.fill(template, params, out),
            None => out.push_str(code),
        }
    }

    fn fill(&self, template: &str, params: &Params, out: &mut String) {
        let mut rest = template;
        while let Some(open) = rest.find('{') {
            out.push_str(&rest[..open]);
            let inside = &rest[open + 1..];
            let Some(close) = closing(inside) else { break };
            self.gap(&inside[..close], params, out);
            rest = &inside[close + 1..];
        }
        out.push_str(rest);
    }

    fn gap(&self, gap: &str, params: &Params, out: &mut String) {
        if let Some((name, choice)) = gap.split_once('|') {
            let (one, many) = choice.split_once('|').unwrap_or((choice, choice));
            let single = find(params, name).and_then(Param::picks).is_some_and(|n| (n - 1.0).abs() < 1e-9);
            return self.fill(if single { one } else { many }, params, out);
        }
        let (name, how) = match gap.char_indices().last() {
            Some((at, how @ ('^' | '@' | '-'))) => (&gap[..at], Some(how)),
            _ => (gap, None),
        };
        let Some(param) = find(params, name) else { return };
        match (how, param) {
            (Some('@'), Param::Day(date, today)) => out.push_str(&self.say_day(*date, *today, true)),
            (Some('-'), Param::Number(value, unit)) => out.push_str(&hyphened(*value, *unit, self.reader)),
            (Some('^'), param) => {
                let mut said = String::new();
                self.param(param, &mut said);
                out.push_str(&capital(&said));
            }
            (_, param) => self.param(param, out),
        }
    }

    fn param(&self, param: &Param, out: &mut String) {
        let reader: Reader = self.reader;
        match param {
            Param::Number(value, unit) => out.push_str(&number(*value, *unit, reader)),
            Param::Band(low, high, unit) => out.push_str(&band(*low, *high, *unit, reader)),
            Param::Text(text) => out.push_str(text),
            Param::Term(code) => out.push_str(self.table.word(code)),
            Param::Message(message) => self.write(&message.code, &message.params, out),
            Param::List(all) => self.joined(all, ", ", out),
            Param::Sentences(all) => self.joined(all, " ", out),
            Param::Day(date, today) => out.push_str(&self.say_day(*date, *today, false)),
        }
    }

    fn joined(&self, all: &[Message], between: &str, out: &mut String) {
        for (i, message) in all.iter().enumerate() {
            if i > 0 {
                out.push_str(between);
            }
            self.write(&message.code, &message.params, out);
        }
    }
}

/// Where the brace that is open closes, past those that open within.
fn closing(text: &str) -> Option<usize> {
    let mut depth = 0;
    for (at, c) in text.char_indices() {
        match c {
            '{' => depth += 1,
            '}' if depth == 0 => return Some(at),
            '}' => depth -= 1,
            _ => {}
        }
    }
    None
}

fn find<'a>(params: &'a Params, name: &str) -> Option<&'a Param> {
    params.iter().find(|(known, _)| known == name).map(|(_, param)| param)
}

/// With a capital first letter.
pub(super) fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or(String::new(), |first| first.to_uppercase().chain(letters).collect())
}
