//! The pages: in a real browser by Playwright, and what they are made of by Vitest, each started from here so that
//! `cargo test` is all there is to run. A suite that cannot run has failed. `make test` runs them last and
//! one after the other: each of them fills the machine.

use std::path::{Path, PathBuf};
use std::process::Command;

fn web() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web")
}

/// Runs something of the pages' packages with the program that was just built.
fn run(arguments: &[&str], traced: bool) -> bool {
    let web = web();
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
    let failed = std::fs::read_to_string(web().join("node_modules/.cache/failed.txt")).unwrap_or_default();
    // A trace of every trial would cost a third of the time. This run makes them, and excuses nothing.
    let again = run(&["playwright", "test", "--last-failed"], true);
    let then = if again { "Done once more, they passed: they depend on the moment." } else { "They failed once more." };
    panic!("These trials failed; their pictures and traces are in web/test-results. {then}\n\n{failed}");
}

#[test]
fn what_the_pages_are_made_of_holds_on_a_connection_that_is_slow_reorders_and_drops() {
    holds(&["vitest", "run"]);
}

#[test]
fn every_operation_answers_as_it_is_described_when_asked_at_random() {
    holds(&["vitest", "run", "--config", "vitest.api.config.ts"]);
}
