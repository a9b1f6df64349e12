//! How long an answer takes: every set of up to three signs for every crop group, on a full log's worth of findings besides.
#![allow(clippy::print_stdout, missing_docs)]

use mopsel_core::crop::CropGroup;
use mopsel_core::diagnosis::{Clues, explain};
use mopsel_core::fact::signs;
use std::time::Instant;

const BESIDES: [&[&str]; 4] = [
    &["ec_in_band", "ph_in_band", "level_right", "water_mild", "roots_sound", "glass_clear", "nothing_dosed", "lamp"],
    &["ec_low", "ph_high", "level_right", "water_warm", "air_strong", "change_long_ago", "light_leak", "no_tap"],
    &["ec_high", "ec_rising", "roots_film", "smell_foul", "air_off", "seedling", "tap_as_it_comes", "planted_lately"],
    &[],
];

const GROUPS: [CropGroup; 4] = [CropGroup::Leafy, CropGroup::Herb, CropGroup::Fruiting, CropGroup::Flower];

fn main() {
    let signs: Vec<&str> = signs().iter().map(|facts| facts.key.code()).collect();
    let mut sets: Vec<Vec<&str>> = signs.iter().map(|sign| vec![*sign]).collect();
    for (i, one) in signs.iter().enumerate() {
        for (j, other) in signs.iter().enumerate().skip(i + 1) {
            sets.push(vec![*one, *other]);
            sets.extend(signs.iter().skip(j + 1).map(|third| vec![*one, *other, *third]));
        }
    }
    let (mut slowest, mut all, mut asked) = (0.0_f64, 0.0, 0_u32);
    for besides in BESIDES {
        for set in &sets {
            let clues = Clues::of(&[set.as_slice(), besides].concat(), &[]);
            for group in GROUPS {
                let clues = clues.clone().growing_group(group);
                let started = Instant::now();
                assert!(explain(&clues).is_some());
                let took = started.elapsed().as_secs_f64() * 1000.0;
                slowest = slowest.max(took);
                all += took;
                asked += 1;
            }
        }
    }
    println!(
        "{asked} answers to sets of up to three signs, for every crop group: {:.3} ms each, the slowest {slowest:.3} ms",
        all / f64::from(asked)
    );
}
