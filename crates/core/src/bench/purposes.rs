//! What the bench can be asked for, and which fields each purpose has, read from `data/purposes.toml`.

use crate::message::Message;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// What a field holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum FieldKind {
    Volume,
    Ec,
    Ph,
    Percent,
    Number,
}

/// A field of a purpose.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct FieldFacts {
    /// Its key within the purpose.
    pub key: String,
    /// What it holds.
    pub kind: FieldKind,
}

/// What is known of a purpose. Its names are words.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct PurposeFacts {
    /// As it is sent.
    pub key: String,
    /// With which others it is offered.
    pub group: String,
    /// Its fields, in order.
    pub fields: Vec<FieldFacts>,
    /// The fields that have no default anywhere.
    #[serde(default)]
    pub needs: Vec<String>,
    /// The fields that a system would give, so that they are wanted where there is none.
    #[serde(default)]
    pub alone: Vec<String>,
    /// Whether it feeds: a recipe and a strength belong to it.
    #[serde(default)]
    pub feeds: bool,
    /// Whether it may be mixed in the vessel itself.
    #[serde(default)]
    pub mixes: bool,
}

impl PurposeFacts {
    /// The group that it is offered in.
    #[must_use]
    pub fn group_name(&self) -> Message {
        Message::of("purpose_group", &self.group, "name")
    }

    /// Its name.
    #[must_use]
    pub fn name(&self) -> Message {
        Message::of("purpose", &self.key, "name")
    }

    /// What one of its fields is called.
    #[must_use]
    pub fn label(&self, field: &FieldFacts) -> Message {
        Message::of("purpose_field", &self.key, &field.key)
    }
}

/// A question to start from.
#[derive(Debug, Clone, PartialEq, Eq, Deserialize)]
pub struct ExampleFacts {
    /// Which.
    pub key: String,
    /// What is asked, as it would stand in an address.
    pub asks: BTreeMap<String, String>,
}

impl ExampleFacts {
    /// The question in a line.
    #[must_use]
    pub fn name(&self) -> Message {
        Message::of("bench_example", &self.key, "name")
    }
}

#[derive(Deserialize)]
struct File {
    purpose: Vec<PurposeFacts>,
    example: Vec<ExampleFacts>,
}

static FILE: LazyLock<File> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../../data/purposes.toml")).expect("data/purposes.toml is well formed")
});

/// Every purpose, in the order in which it is offered.
#[must_use]
pub fn purposes() -> &'static [PurposeFacts] {
    &FILE.purpose
}

/// Questions to start from.
#[must_use]
pub fn examples() -> &'static [ExampleFacts] {
    &FILE.example
}
