//! The pages in a real browser: starts the program with the demo and with an empty file, and runs
//! the Playwright suite against both.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod common;

use common::Running;
use std::path::Path;
use std::process::Command;
use std::sync::{Mutex, PoisonError};

/// Installs Debian's Chromium where that is possible; a suite that cannot run is a failure.
fn browser() {
    if Path::new("/usr/bin/chromium").exists() || std::env::var_os("CHROMIUM").is_some() {
        return;
    }
    let install = Command::new("sh")
        .args(["-c", "apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium"])
        .status();
    assert!(
        install.is_ok_and(|status| status.success()) && Path::new("/usr/bin/chromium").exists(),
        "The interface tests need Chromium at /usr/bin/chromium: install Debian's package chromium, or set CHROMIUM to another."
    );
}

/// Each of these fills the machine: one after the other.
static ONE_AT_A_TIME: Mutex<()> = Mutex::new(());

/// Runs something of the pages' packages, and fails with it.
fn run(arguments: &[&str], servers: &[(&str, &str)]) {
    let _turn = ONE_AT_A_TIME.lock().unwrap_or_else(PoisonError::into_inner);
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    assert!(
        web.join("node_modules").exists(),
        "The front-end packages are missing: run `make test`, or `npm ci` in web/."
    );
    let mut command = Command::new("npx");
    command.args(arguments).current_dir(&web).envs(servers.iter().copied());
    let status = command.status().expect("npx comes with Node.js");
    assert!(status.success(), "{} failed; its output stands above", arguments.join(" "));
}

#[test]
fn the_pages_do_what_people_need_in_a_real_browser() {
    browser();
    let (demo, empty) = (Running::demo(), Running::empty());
    run(&["playwright", "test"], &[("MOPSEL_DEMO", &demo.base), ("MOPSEL_EMPTY", &empty.base)]);
}

#[test]
fn what_the_pages_are_made_of_holds_on_a_connection_that_is_slow_reorders_and_drops() {
    run(&["vitest", "run"], &[]);
}

#[test]
fn every_operation_answers_as_it_is_described_for_a_minute_of_arbitrary_requests() {
    let demo = Running::demo();
    run(&["vitest", "run", "--config", "vitest.api.config.ts"], &[("MOPSEL_FUZZ", &demo.base)]);
}
