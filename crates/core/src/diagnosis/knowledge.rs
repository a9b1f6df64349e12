//! Causes, the findings that speak for and against them, and the looks that can be asked for, read from
//! `data/causes.toml` and `data/looks.toml`.

use crate::crop::{CropGroup, Stage};
use crate::fact::signs;
use crate::message::Message;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::sync::LazyLock;

/// What the doing against a cause is, so that a page can lead to it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Leads {
    Feed,
    Weaken,
    Ph,
    TopOff,
    Change,
    Treat,
    Air,
    Light,
    Remove,
    Wipe,
    Wait,
    Look,
}

impl Leads {
    /// Whether it is the work of adults: concentrates, mains, what is thrown away.
    #[must_use]
    pub fn for_adults(self) -> bool {
        !matches!(self, Self::Wait | Self::Look | Self::TopOff)
    }
}

/// One finding that speaks for a cause or against it.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct Evidence(
    /// Which finding.
    pub String,
    /// How strongly: 3 all but proves the cause, -2 speaks strongly against it.
    pub f64,
    /// Why.
    pub String,
);

/// Something that ails plants, or their water.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Cause {
    /// Which cause.
    pub key: String,
    name: String,
    means: String,
    unless: String,
    #[serde(rename = "do")]
    act: String,
    #[serde(default)]
    child: Option<String>,
    /// Days that the doing may wait.
    pub within: f64,
    /// What the doing is.
    pub leads: Leads,
    /// What is said beside the doing.
    pub cautions: Vec<String>,
    /// Only where the system has all of these traits.
    #[serde(default)]
    pub traits: Vec<String>,
    /// Only where it has none of these.
    #[serde(default)]
    pub without: Vec<String>,
    /// Only where something of such a stage grows; any when empty.
    #[serde(default)]
    pub stages: Vec<Stage>,
    /// Only where something of such a group grows; any when empty.
    #[serde(default)]
    pub groups: Vec<CropGroup>,
    /// What speaks for it and against it.
    pub evidence: Vec<Evidence>,
}

impl Cause {
    /// One of its sentences: `name`, `means`, `unless` or `do`.
    #[must_use]
    pub fn say(&self, part: &str) -> Message {
        Message::of("cause", &self.key, part)
    }

    /// Why a finding speaks for it or against it.
    #[must_use]
    pub fn why(&self, finding: &str) -> Message {
        Message::of("cause_why", &self.key, finding)
    }

    /// How strongly a finding speaks for it; 0 for what has nothing to do with it.
    #[must_use]
    pub fn weight(&self, finding: &str) -> f64 {
        self.evidence.iter().find(|evidence| evidence.0 == finding).map_or(0.0, |evidence| evidence.1)
    }
}

/// One look more.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Look {
    /// Which look.
    pub key: String,
    /// In minutes.
    pub effort: f64,
    /// Only where the system has one of these traits; anywhere when empty.
    #[serde(default)]
    pub needs: Vec<String>,
    /// What has to be measurable here: `ec` or `ph`.
    #[serde(default)]
    pub wants: Option<String>,
    /// What can be found, and how often that is found among plants that ail.
    pub finds: Vec<(String, f64)>,
}

#[derive(Deserialize)]
struct CauseFile {
    tell: String,
    cause: Vec<Cause>,
}

#[derive(Deserialize)]
struct LookFile {
    sign_found: f64,
    sign_effort: f64,
    look: Vec<Look>,
}

static FILE: LazyLock<CauseFile> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/causes.toml")).expect("data/causes.toml is well formed")
});

static LOOKS: LazyLock<LookFile> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/looks.toml")).expect("data/looks.toml is well formed")
});

/// Every cause.
#[must_use]
pub fn causes() -> &'static [Cause] {
    &FILE.cause
}

/// A cause by its key.
#[must_use]
pub fn cause(key: &str) -> Option<&'static Cause> {
    FILE.cause.iter().find(|cause| cause.key == key)
}

/// Every look but those for a single sign.
#[must_use]
pub fn looks() -> &'static [Look] {
    &LOOKS.look
}

/// How often a single sign is found when it is looked for, and the minutes that takes.
pub(super) fn sign_look() -> (f64, f64) {
    (LOOKS.sign_found, LOOKS.sign_effort)
}

/// Every finding that any cause knows, in a fixed order.
#[must_use]
pub fn findings() -> &'static [&'static str] {
    static FINDINGS: LazyLock<Vec<&'static str>> = LazyLock::new(|| {
        let weighed = FILE.cause.iter().flat_map(|cause| cause.evidence.iter().map(|evidence| evidence.0.as_str()));
        let found = LOOKS.look.iter().flat_map(|look| look.finds.iter().map(|(find, _)| find.as_str()));
        let seen = signs().iter().map(|facts| facts.key.code());
        weighed.chain(found).chain(seen).collect::<BTreeSet<_>>().into_iter().collect()
    });
    &FINDINGS
}

/// The sentences of the knowledge with their codes, for the table of words.
pub fn sentences() -> impl Iterator<Item = (String, &'static str)> {
    FILE.cause.iter().flat_map(|cause| {
        let key = &cause.key;
        let said = [("name", &cause.name), ("means", &cause.means), ("unless", &cause.unless), ("do", &cause.act)];
        let said = said.map(|(part, text)| (format!("cause.{key}.{part}"), text.as_str()));
        // Whatever means concentrates, mains or throwing away is an adult's; a child looks and tells.
        let told = cause.child.as_deref().or_else(|| cause.leads.for_adults().then_some(FILE.tell.as_str()));
        let child = told.map(|text| (format!("cause.{key}.do_child"), text));
        let why = cause.evidence.iter().map(move |e| (format!("cause_why.{key}.{}", e.0), e.2.as_str()));
        said.into_iter().chain(child).chain(why)
    })
}
