//! The pages in a real browser: starts the program with the demo and with an empty file, and runs
//! the Playwright suite against both.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs)]

mod common;

use common::Running;
use std::path::Path;
use std::process::Command;

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

#[test]
fn the_pages_do_what_people_need_in_a_real_browser() {
    browser();
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    assert!(
        web.join("node_modules").exists(),
        "The front-end packages are missing: run `make test`, or `npm ci` in web/."
    );
    let (demo, empty) = (Running::demo(), Running::empty());
    let status = Command::new("npx")
        .args(["playwright", "test"])
        .current_dir(&web)
        .env("MOPSEL_DEMO", &demo.base)
        .env("MOPSEL_EMPTY", &empty.base)
        .status()
        .expect("npx comes with Node.js");
    assert!(status.success(), "the Playwright suite failed; its output stands above");
}
