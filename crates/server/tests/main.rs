//! The program as others meet it: over HTTP, on its command line, and by its pages.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod api;
mod archive;
mod browser;
mod class;
mod closures;
mod common;
mod compare;
mod damaged;
mod dangers;
mod demo;
mod door;
mod edges;
mod edits;
mod feed;
mod fuzz;
mod happened;
mod labels;
mod log;
mod open_doors;
mod phones;
mod pictures;
mod racing;
mod readings;
mod refusals;
mod reminders;
mod schedule;
mod serving;
mod water;
