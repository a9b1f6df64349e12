//! How much of what takes long: a small seeded portion each time, all of it by `make soak`.

use std::ops::RangeInclusive;

/// Whether this run is the long one.
pub fn soaking() -> bool {
    std::env::var_os("MOPSEL_SOAK").is_some()
}

/// How many times: `all` of them in a soak, `few` otherwise.
pub fn times(all: u32, few: u32) -> u32 {
    if soaking() { all } else { few }
}

/// The seeds of this run: the first few of a fixed sequence, or in a soak all of those behind `MOPSEL_SEED`.
pub fn seeds(what: &str, all: u64, few: u64) -> RangeInclusive<u64> {
    let first = std::env::var("MOPSEL_SEED").ok().and_then(|seed| seed.parse().ok()).unwrap_or(0);
    let seeds = first + 1..=first + if soaking() { all } else { few };
    println!("{what}: seeds {} to {}", seeds.start(), seeds.end());
    seeds
}
