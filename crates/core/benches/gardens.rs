//! Two hundred simulated gardens, cared for by the advice alone for ninety days: how they fared, and the
//! ten worst as stories. No timing: what is measured is the advice.
#![allow(clippy::unwrap_used, clippy::print_stdout, missing_docs)]

#[path = "../tests/common/mod.rs"]
#[allow(dead_code, reason = "shared with the tests")]
mod common;
#[path = "../tests/garden/mod.rs"]
#[allow(dead_code, reason = "shared with the tests")]
mod garden;

use garden::{Fared, Garden, shares};

const GARDENS: u64 = 200;
const DAYS: u32 = 90;

fn main() {
    let all: Vec<Fared> = (1..=GARDENS).map(|seed| Garden::any(seed).live(DAYS)).collect();
    println!("{GARDENS} gardens of all kinds, {DAYS} days, cared for by the advice alone; days in band from day 7 on:");
    for (measuring, said) in [("meter", "with a meter"), ("kit", "with a drop kit"), ("recipe", "by the recipe alone")]
    {
        let (ec, ph) = shares(&all, measuring);
        let gardens = all.iter().filter(|fared| fared.measuring == measuring).count();
        println!("  {gardens:3} {said:20} EC {:5.1} %   pH {:5.1} %", ec * 100.0, ph * 100.0);
    }
    let count = |part: fn(&Fared) -> usize| all.iter().map(part).sum::<usize>();
    println!(
        "  air roots drowned {}, overflows {}, pH moved too far in a day {}, days below minimum {}",
        count(|fared| fared.drowned.len()),
        count(|fared| fared.spilt.len()),
        count(|fared| fared.moved_too_far.len()),
        count(|fared| fared.dry as usize),
    );
    let mut worst: Vec<&Fared> = all.iter().filter(|fared| fared.measuring == "meter").collect();
    worst.sort_by_key(|fared| fared.ec_in + fared.ph_in);
    println!("\nThe ten that fared worst of those with a meter:");
    for fared in worst.iter().take(10) {
        println!("\n{}\n  EC in band on {} of {} days, pH on {}", fared.name, fared.ec_in, fared.days, fared.ph_in);
        for line in fared.told() {
            println!("  {line}");
        }
    }
}
