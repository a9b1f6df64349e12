//! Which planting holes: "1-9, 12".

use crate::message::{Message, count, plain, typed};
use crate::{Refusal, refuse, say};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// A set of port numbers, written as numbers and ranges.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(try_from = "String", into = "String")]
#[schema(value_type = String, example = "1-9, 12")]
pub struct PortSet(BTreeSet<u16>);

impl PortSet {
    /// The highest number that is accepted.
    pub const HIGHEST: u16 = 400;

    /// The ports from `first` to `last`.
    #[must_use]
    pub fn range(first: u16, last: u16) -> Self {
        Self((first..=last).collect())
    }

    /// The port numbers, rising.
    pub fn iter(&self) -> impl Iterator<Item = u16> + '_ {
        self.0.iter().copied()
    }

    /// How many ports.
    #[must_use]
    pub fn len(&self) -> usize {
        self.0.len()
    }

    /// Whether a port is among them.
    #[must_use]
    pub fn contains(&self, port: u16) -> bool {
        self.0.contains(&port)
    }

    /// Those that are not among others.
    #[must_use]
    pub fn without(&self, others: &Self) -> Self {
        Self(self.0.difference(&others.0).copied().collect())
    }

    /// Whether no port is named.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    /// As it is said: "port 4", "ports 7-8".
    #[must_use]
    pub fn say(&self) -> Message {
        say!("ports.named", count = count(self.len()), ports = String::from(self.clone()))
    }

    /// Checks that a system with so many ports has all of these.
    ///
    /// # Errors
    /// A refusal that names the highest.
    pub fn check(&self, ports: u16) -> Result<(), Refusal> {
        if self.highest() <= ports {
            return Ok(());
        }
        Err(refuse!("port_not_there", found = plain(self.highest().into()), most = plain(ports.into())))
    }

    /// The highest port, 0 when empty.
    #[must_use]
    pub fn highest(&self) -> u16 {
        self.0.last().copied().unwrap_or(0)
    }
}

impl TryFrom<String> for PortSet {
    type Error = Refusal;

    fn try_from(text: String) -> Result<Self, Refusal> {
        let refuse = |part: &str| refuse!("ports_unreadable", found = typed(part), most = plain(Self::HIGHEST.into()));
        if text.len() > 2000 {
            return Err(refuse(&text));
        }
        let mut ports = BTreeSet::new();
        for part in text.split([',', ';']).map(str::trim).filter(|part| !part.is_empty()) {
            let (first, last) = part.split_once(['-', '–']).unwrap_or((part, part));
            let number = |digits: &str| {
                let number = digits.trim().parse::<u16>().ok();
                number.filter(|n| (1..=Self::HIGHEST).contains(n)).ok_or_else(|| refuse(part))
            };
            let (first, last) = (number(first)?, number(last)?);
            if first > last {
                return Err(refuse(part));
            }
            ports.extend(first..=last);
        }
        if ports.is_empty() {
            return Err(refuse(&text));
        }
        Ok(Self(ports))
    }
}

impl From<PortSet> for String {
    fn from(set: PortSet) -> Self {
        let mut runs: Vec<(u16, u16)> = Vec::new();
        for port in set.iter() {
            match runs.last_mut() {
                Some((_, last)) if *last + 1 == port => *last = port,
                _ => runs.push((port, port)),
            }
        }
        let said = |(a, b): &(u16, u16)| if a == b { a.to_string() } else { format!("{a}-{b}") };
        runs.iter().map(said).collect::<Vec<_>>().join(", ")
    }
}
