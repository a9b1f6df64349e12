//! What an entry is found by: its words, and tokens for the system, the person and the sorts that it is of.
//!
//! Both are handed to a full-text index, which folds case and accents away and knows the beginnings of words. Raise
//! [`FOUND_BY`] when either changes: the index is then made anew.

use super::{Reader, Speaker, say_entry};
use crate::fact::{Entry, Sort};
use crate::system::System;
use unicode_normalization::UnicodeNormalization;
use unicode_normalization::char::is_combining_mark;
use uuid::Uuid;

/// The version of what an entry is found by.
pub const FOUND_BY: i64 = 2;
/// Words of one search that count.
pub const MOST_WORDS: usize = 12;

/// The words of an entry, about a system as it was on the day.
#[must_use]
pub fn words_of(entry: &Entry, system: &System) -> String {
    let speaker = Speaker::new(Reader::default());
    let mut lines: Vec<String> = say_entry(&entry.body, system).iter().map(|line| speaker.say(line)).collect();
    lines.extend(entry.reason.as_ref().map(|reason| reason.as_str().to_owned()));
    lines.join("\n")
}

/// The token of a system.
#[must_use]
pub fn system_token(id: Uuid) -> String {
    format!("s{}", id.simple())
}

/// The token of a person.
#[must_use]
pub fn person_token(id: Uuid) -> String {
    format!("w{}", id.simple())
}

/// The token of a sort.
#[must_use]
pub fn sort_token(sort: Sort) -> String {
    format!("k{}", sort.code().replace('_', ""))
}

/// The tokens of an entry of a system.
#[must_use]
pub fn tokens_of(entry: &Entry, system: Uuid) -> String {
    let sorts = Sort::ALL.into_iter().filter(|sort| sort.holds(&entry.body)).map(sort_token);
    [system_token(system), person_token(entry.by)].into_iter().chain(sorts).collect::<Vec<_>>().join(" ")
}

/// A word as the index has it: without case and accents.
#[must_use]
pub fn plain(word: &str) -> String {
    word.nfd().filter(|c| !is_combining_mark(*c)).flat_map(char::to_lowercase).collect()
}

/// Each word of a text, as the index has it.
pub fn words_in(text: &str) -> impl Iterator<Item = String> {
    let words = text.split(|c: char| !c.is_alphanumeric() && !is_combining_mark(c));
    words.filter(|word| !word.is_empty()).map(plain)
}

/// The words of a search, without what separates them; a name of anything is found by their beginnings.
#[must_use]
pub fn searched(text: &str) -> Vec<String> {
    let words = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty());
    words.map(str::to_lowercase).take(MOST_WORDS).collect()
}

/// What is called by names, found by how a word of its name begins.
#[derive(Debug, Clone)]
pub struct Called<T>(Vec<(String, T)>);

impl<T> Default for Called<T> {
    fn default() -> Self {
        Self(Vec::new())
    }
}

impl<T: Copy + Ord> Called<T> {
    /// What is called by these names.
    #[must_use]
    pub fn by<'a>(names: impl Iterator<Item = (&'a str, T)>) -> Self {
        let words = names.flat_map(|(name, what)| searched(name).into_iter().map(move |word| (word, what)));
        let mut all: Vec<(String, T)> = words.collect();
        all.sort();
        Self(all)
    }

    /// Everything whose name has a word that begins so, once each.
    #[must_use]
    pub fn beginning(&self, word: &str) -> Vec<T> {
        let from = self.0.partition_point(|(of_name, _)| of_name.as_str() < word);
        let alike = self.0[from..].iter().take_while(|(of_name, _)| of_name.starts_with(word));
        let mut all: Vec<T> = alike.map(|(_, what)| *what).collect();
        all.sort();
        all.dedup();
        all
    }
}
