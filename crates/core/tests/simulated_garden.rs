//! Gardens of all kinds, cared for by the advice alone for ninety days.

use crate::common::soak::seeds;
use crate::garden::{Fared, Garden, shares};

#[test]
fn gardens_cared_for_by_the_advice_alone_stay_sound() {
    let all: Vec<Fared> = seeds("gardens cared for", 200, 24).map(|seed| Garden::any(seed).live(90)).collect();
    for measuring in ["meter", "kit", "recipe"] {
        let (ec, ph) = shares(&all, measuring);
        let gardens = all.iter().filter(|f| f.measuring == measuring).count();
        println!(
            "{gardens} gardens by {measuring}: EC in band on {:.1} % of days, pH on {:.1} %",
            ec * 100.0,
            ph * 100.0
        );
    }
    let mut worst: Vec<&Fared> = all.iter().filter(|f| f.measuring == "meter").collect();
    worst.sort_by_key(|fared| fared.ec_in + fared.ph_in);
    for fared in worst.iter().take(10) {
        println!(
            "{}: EC {}/{}, pH {}/{}, {:?}",
            fared.name, fared.ec_in, fared.days, fared.ph_in, fared.days, fared.refused
        );
    }
    if let Ok(seed) = std::env::var("GARDEN") {
        let fared = &all[seed.parse::<usize>().unwrap() - 1];
        println!("{}", fared.story.join("\n"));
    }
    let of = |part: fn(&Fared) -> &Vec<String>| -> Vec<String> {
        all.iter().filter(|f| !part(f).is_empty()).map(|f| format!("{}: {}", f.name, part(f).join("; "))).collect()
    };
    assert_eq!(of(|f| &f.drowned), Vec::<String>::new(), "air roots drowned");
    assert_eq!(of(|f| &f.spilt), Vec::<String>::new(), "overflowed");
    assert_eq!(of(|f| &f.moved_too_far), Vec::<String>::new(), "pH moved too far in a day");
    let (ec, ph) = shares(&all, "meter");
    assert!(ec >= 0.95 && ph >= 0.95, "by meter: EC {ec:.3}, pH {ph:.3}");
}
