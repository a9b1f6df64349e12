//! The pages: in a real browser by Playwright, and what they are made of by Vitest, each started from here so that
//! `cargo test` is all there is to run. A suite that cannot run has failed.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

use std::path::Path;
use std::process::Command;
use std::sync::{Mutex, PoisonError};

/// Each of these fills the machine: one after the other.
static ONE_AT_A_TIME: Mutex<()> = Mutex::new(());

/// Runs something of the pages' packages with the program that was just built, and fails with it.
fn run(arguments: &[&str]) {
    let _turn = ONE_AT_A_TIME.lock().unwrap_or_else(PoisonError::into_inner);
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    assert!(web.join("node_modules").exists(), "The front-end packages are missing: run `make setup`.");
    let mut command = Command::new("npx");
    command.args(arguments).current_dir(&web).env("MOPSEL_BIN", env!("CARGO_BIN_EXE_mopsel"));
    let status = command.status().expect("npx comes with Node.js");
    assert!(status.success(), "{} failed; its output is above", arguments.join(" "));
}

#[test]
fn the_pages_do_what_people_need_in_a_real_browser() {
    run(&["playwright", "test"]);
}

#[test]
fn what_the_pages_are_made_of_holds_on_a_connection_that_is_slow_reorders_and_drops() {
    run(&["vitest", "run"]);
}

#[test]
fn every_operation_answers_as_it_is_described_when_asked_at_random() {
    run(&["vitest", "run", "--config", "vitest.api.config.ts"]);
}
