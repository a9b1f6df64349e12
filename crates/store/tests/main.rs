//! What the store promises, in one binary.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod broken_off;
mod common;
mod dated;
mod moves;
mod releases;
mod search;
mod store;
