//! Which entries of a log count.

use super::{Body, Entry};
use std::collections::HashSet;

/// The entries that count: of every chain of amendments the newest, in order of time; withdrawn
/// ones are left out. `entries` come in the order in which they were recorded.
#[must_use]
pub fn effective(entries: &[Entry]) -> Vec<&Entry> {
    let amended: HashSet<_> = entries.iter().filter_map(|entry| entry.amends).collect();
    let counts = |entry: &&Entry| {
        !amended.contains(&entry.id) && !matches!(entry.body, Body::Withdrawn {} | Body::FromNewer | Body::Unreadable)
    };
    let mut newest: Vec<&Entry> = entries.iter().filter(counts).collect();
    newest.sort_by_key(|entry| entry.at);
    newest
}
