//! Gardens of all kinds, cared for by the advice alone for ninety days.

use crate::common::soak::seeds;
use crate::garden::{Fared, Garden, shares};

#[test]
fn gardens_cared_for_by_the_advice_alone_stay_sound() {
    let all: Vec<Fared> = seeds("gardens cared for", 200, 24).map(|seed| Garden::any(seed).live(90)).collect();
    for measuring in ["meter", "kit", "recipe"] {
        let (ec, ph) = shares(&all, measuring);
        let gardens = all.iter().filter(|f| f.measuring == measuring).count();
        let of = || all.iter().filter(|f| f.measuring == measuring);
        let (sour, doses): (u32, u32) = (of().map(|f| f.sour).sum(), of().map(|f| f.doses).sum());
        let weeks = of().map(|f| f64::from(f.days) / 7.0).sum::<f64>().max(1.0);
        let (thrown, filled) = (of().map(|f| f.thrown).sum::<f64>(), of().map(|f| f.filled).sum::<f64>().max(1.0));
        println!(
            "{gardens} gardens by {measuring}: EC in band on {:.1} % of days, pH on {:.1} %; {sour} days under 5.2; {:.2} doses a week; {:.0} % of the water thrown away",
            ec * 100.0,
            ph * 100.0,
            f64::from(doses) / weeks,
            thrown / filled * 100.0
        );
    }
    for by_need in [false, true] {
        let of = || all.iter().filter(|f| f.by_need == by_need && f.measuring != "recipe");
        let weeks = of().map(|f| f64::from(f.days) / 7.0).sum::<f64>().max(1.0);
        let (thrown, filled) = (of().map(|f| f.thrown).sum::<f64>(), of().map(|f| f.filled).sum::<f64>().max(1.0));
        let (lines, minutes) = (of().map(|f| f.lines).sum::<u32>(), of().map(|f| f.minutes).sum::<f64>());
        println!(
            "changed {}: {:.0} % of the water thrown away; six systems ask for {:.0} lines and {:.0} minutes a week, each is changed every {:.0} days",
            if by_need { "by need" } else { "by days" },
            thrown / filled * 100.0,
            6.0 * f64::from(lines) / weeks,
            6.0 * minutes / weeks,
            weeks * 7.0 / f64::from(of().map(|f| f.changes).sum::<u32>().max(1))
        );
    }
    let mut worst: Vec<&Fared> = all.iter().filter(|f| f.measuring == "meter").collect();
    worst.sort_by_key(|fared| fared.ec_in + fared.ph_in);
    if std::env::var("SOUR").is_ok() {
        worst.sort_by_key(|fared| std::cmp::Reverse(fared.sour));
    }
    for fared in worst.iter().take(10) {
        println!(
            "{}: EC {}/{}, pH {}/{}, {} under 5.2, {:?}",
            fared.name, fared.ec_in, fared.days, fared.ph_in, fared.days, fared.sour, fared.refused
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
    // In water that is open to the air, by whatever of it nobody has measured: see docs/methods.md.
    let (ec, ph) = shares(&all, "meter");
    assert!(ec >= 0.95 && ph >= 0.85, "by meter: EC {ec:.3}, pH {ph:.3}");
    let (ec, ph) = shares(&all, "kit");
    assert!(ec >= 0.88 && ph >= 0.6, "by kit: EC {ec:.3}, pH {ph:.3}");
}
