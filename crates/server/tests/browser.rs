//! The pages: in a real browser by Playwright, and what they are made of by Vitest, each started from here so that
//! `cargo test` is all there is to run. A suite that cannot run has failed. `make test` runs them last and
//! one after the other: each of them fills the machine.

use std::path::Path;
use std::process::Command;

/// Runs something of the pages' packages with the program that was just built.
fn run(arguments: &[&str], traced: bool) -> bool {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    assert!(web.join("node_modules").exists(), "The front-end packages are missing: run `make setup`.");
    let mut command = Command::new("npx");
    command.args(arguments).current_dir(&web).env("MOPSEL_BIN", env!("CARGO_BIN_EXE_mopsel"));
    if traced {
        command.env("MOPSEL_TRACE", "1");
    }
    command.status().expect("npx comes with Node.js").success()
}

/// Runs it and fails with it.
fn holds(arguments: &[&str]) {
    assert!(run(arguments, false), "{} failed; its output is above", arguments.join(" "));
}

#[test]
fn the_pages_do_what_people_need_in_a_real_browser() {
    if run(&["playwright", "test"], false) {
        return;
    }
    // A trace of every trial would cost a third of the time. This run makes them, and excuses nothing.
    run(&["playwright", "test", "--last-failed"], true);
    panic!("Trials failed. What each of them expected is above, with where its picture and its trace are.");
}

#[test]
fn what_the_pages_are_made_of_holds_on_a_connection_that_is_slow_reorders_and_drops() {
    holds(&["vitest", "run"]);
}

#[test]
fn every_operation_answers_as_it_is_described_when_asked_at_random() {
    holds(&["vitest", "run", "--config", "vitest.api.config.ts"]);
}
