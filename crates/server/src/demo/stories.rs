//! What each system of the demo has been through.

use super::cards::Cast;
use super::habit::{Habit, Story, kit, meter, reading};
use super::id;
use jiff::Zoned;
use mopsel_core::Refusal;
use mopsel_core::fact::{
    Body, CaseLook, CaseOutcome, Change, Clarity, Correction, Entry, Harvested, LampSeen, PlantSign, Plants, Premix,
    PremixIn, RootAnswers, Roots, Running, Smell, Treatment, TreatmentKind, Used, Visit, WaterGlass,
};
use mopsel_core::mixing::{ProductKind, shipped_id};
use mopsel_core::quantity::{Amount, Celsius, EcScale, Grams, Litres, Millilitres, Millimetres, Name, Note, Ph};
use mopsel_core::reservoir::LevelReading;
use mopsel_core::system::{Check, PortSet};
use std::collections::BTreeMap;

/// Every system with its log.
pub fn all<'a>(cast: &'a Cast, now: &'a Zoned) -> Result<Vec<(&'static str, Vec<Entry>)>, Refusal> {
    type Tell = fn(&mut Story<'_>);
    let told: [(&'static str, &'static str, Tell); 10] = [
        ("Window crate", "Tern Street flat", window_crate),
        ("Shelf jars (4)", "Tern Street flat", shelf_jars),
        ("Corner tower", "Cobble Row School, room 6", corner_tower),
        ("Blue raft", "Cobble Row School, room 9", blue_raft),
        ("Loft rails", "Gullhaven Library, seed loft", loft_rails),
        ("Reading-room rack", "Gullhaven Library, seed loft", reading_room_rack),
        ("Propagation tote", "Gullhaven Library, seed loft", propagation_tote),
        ("Bucket row", "Long Acre polytunnel", bucket_row),
        ("Bean table", "Long Acre polytunnel", bean_table),
        ("Mat bench", "Long Acre polytunnel", mat_bench),
    ];
    told.into_iter()
        .map(|(name, place, tell)| {
            let mut story = Story::new(name, place, cast.system(name)?, cast.open_days(name), now);
            tell(&mut story);
            Ok((name, story.end()))
        })
        .collect()
}

fn habit(last: &[(Check, i64)], changed: i64, drinks: f64) -> Habit {
    Habit {
        last: BTreeMap::from_iter(last.iter().copied()),
        changed,
        drinks,
        ph: Some((5.9, 0.02)),
        ec: Some((1.5, -0.01)),
        warm: 20.5,
        feed: false,
        topped: 0,
        most: f64::INFINITY,
        kit: false,
        scale: EcScale::MilliSiemens,
    }
}

fn note(text: &str) -> Option<Note> {
    Note::new(text).ok()
}

/// A refill is wanted; at most 25 mm of it.
fn window_crate(story: &mut Story<'_>) {
    story.live(&Habit {
        most: 2.4,
        topped: 9,
        ec: Some((1.45, -0.005)),
        ..habit(&[(Check::Level, 1), (Check::Readings, 1), (Check::Calibrate, 12)], 16, 0.42)
    });
}

/// Green on one jar's wall, and nothing left in the water to feed on.
fn shelf_jars(story: &mut Story<'_>) {
    story.live(&Habit {
        topped: 6,
        ec: Some((1.3, -0.03)),
        ph: Some((6.0, 0.02)),
        most: 0.7,
        ..habit(&[(Check::Readings, 5), (Check::WaterGlass, 9), (Check::Level, 2), (Check::Calibrate, 12)], 17, 0.16)
    });
    let glass = Some(WaterGlass { clarity: Clarity::Green, smell: Some(Smell::Earthy) });
    let visit = Visit {
        glass,
        ph: Some(meter(6.42)),
        ec: Some(reading(0.42, EcScale::MilliSiemens)),
        temperature: Some(Celsius::constant(21.2)),
        note: note("Green on the wall of jar 3, where the sleeve is torn."),
        ..Visit::default()
    };
    story.tell(2, (18, 40), "Wren", Body::Visit(visit));
}

/// Wipe-down late by five days; pH by drop kit 7.0–7.5 last time.
fn corner_tower(story: &mut Story<'_>) {
    story.live(&Habit {
        kit: true,
        ec: None,
        feed: true,
        ph: Some((6.1, 0.03)),
        ..habit(
            &[
                (Check::WipeDown, 12),
                (Check::Readings, 8),
                (Check::Level, 4),
                (Check::WaterGlass, 4),
                (Check::Plants, 4),
                (Check::Roots, 4),
            ],
            9,
            2.1,
        )
    });
    let visit = Visit {
        ph: Some(kit(7.2)),
        temperature: Some(Celsius::constant(21.0)),
        plants: Some(Plants::default()),
        note: note("Two of us read the colour: between 7.0 and 7.5."),
        ..Visit::default()
    };
    let lamp = LampSeen { hours: Some(15.0), gap: Some(Millimetres::constant(80.0)) };
    story.tell(4, (11, 35), "Wren", Body::Visit(Visit { lamp: Some(lamp), ..Visit::default() }));
    story.tell(1, (11, 20), "J. T.", Body::Visit(visit));
}

/// Sound, by recipe only; a change tomorrow. Its aphids are a closed story.
fn blue_raft(story: &mut Story<'_>) {
    story.live(&Habit { ph: None, ec: None, feed: true, ..habit(&[(Check::Level, 4)], 13, 1.3) });
    let signs = |signs: &[PlantSign]| Some(Plants::showing(signs, Some(PortSet::range(5, 6))));
    let look = |plants, outcome, text: &str| {
        // What was learnt is written down where the case closes.
        let learnt = if text.ends_with("closed.") { note("New pots stand a week apart first.") } else { None };
        let case = CaseLook { cause: "aphids".to_owned(), outcome, ports: Some(PortSet::range(5, 6)), learnt };
        Body::Visit(Visit { plants, cases: vec![case], note: note(text), ..Visit::default() })
    };
    story.tell(
        33,
        (10, 15),
        "M. K.",
        look(
            signs(&[PlantSign::ClustersUnderLeaves]),
            CaseOutcome::Opened,
            "Aphids under two chard leaves. Dabbed off with sticky tape.",
        ),
    );
    story.tell(
        30,
        (10, 20),
        "Wren",
        look(signs(&[PlantSign::ClustersUnderLeaves]), CaseOutcome::Better, "A few left. Tape again."),
    );
    story.tell(27, (10, 10), "Wren", look(Some(Plants::default()), CaseOutcome::Gone, "None found on any leaf."));
    story.tell(20, (10, 5), "Wren", look(Some(Plants::default()), CaseOutcome::Gone, "Still none: closed."));
    for (days_ago, grams) in [(13, 220.0), (6, 345.0)] {
        let Ok(crop) = Name::new("Swiss chard") else { return };
        let (planting, grams) = (id("Blue raft/Swiss chard"), Some(Grams::constant(grams)));
        let picked = Harvested { planting, crop, whole: false, grams, pieces: None };
        story.tell(days_ago, (12, 40), "Wren", Body::Visit(Visit { harvests: vec![picked], ..Visit::default() }));
    }
}

/// A pH correction at 10:00 with its re-measure 25 minutes later.
fn corrected(story: &mut Story<'_>, days_ago: i64, from: f64, ml: f64, to: f64) {
    let Ok(name) = Name::new("pH down") else { return };
    let dosed =
        Used { product: shipped_id("ph_down"), name, what: ProductKind::PhDown, amount: Amount::ml(ml), rise: None };
    let dose = Correction {
        from: meter(from),
        aim: Ph::constant(6.0),
        dosed,
        litres: Litres::constant(92.0),
        whole: None,
        note: None,
    };
    story.tell(days_ago, (10, 0), "Ansa", Body::Correction(dose));
    story.tell(days_ago, (10, 25), "Ansa", Body::Visit(Visit { ph: Some(meter(to)), ..Visit::default() }));
}

/// Sound; filters due today, and the meter was last calibrated 41 days ago.
fn loft_rails(story: &mut Story<'_>) {
    corrected(story, 44, 6.7, 5.0, 6.4);
    corrected(story, 29, 6.6, 4.5, 6.3);
    corrected(story, 16, 6.8, 7.0, 6.4);
    story.live(&Habit {
        ec: Some((1.42, -0.008)),
        feed: true,
        ..habit(&[(Check::Calibrate, 41), (Check::Readings, 2), (Check::Filters, 1)], 8, 3.4)
    });
}

/// The controller's pH and the hand meter's differ by 0.4.
fn reading_room_rack(story: &mut Story<'_>) {
    story.live(&Habit {
        ph: Some((5.85, 0.015)),
        feed: true,
        ..habit(&[(Check::Calibrate, 12), (Check::Level, 3)], 6, 2.0)
    });
    let visit = Visit {
        ph: Some(meter(6.0)),
        ec: Some(reading(1.46, EcScale::MilliSiemens)),
        temperature: Some(Celsius::constant(20.9)),
        note: note("The controller shows pH 6.4, the hand meter 6.0. Cross-check at the next calibration."),
        ..Visit::default()
    };
    story.tell(2, (12, 30), "Ansa", Body::Visit(visit));
}

/// A sprayer ran dry nine days ago; rot stage 2 in two ports; the second dose is due today.
fn propagation_tote(story: &mut Story<'_>) {
    story.live(&Habit {
        ec: Some((0.92, -0.004)),
        warm: 22.8,
        ..habit(
            &[
                (Check::Roots, 13),
                (Check::Calibrate, 12),
                (Check::Level, 2),
                (Check::Readings, 2),
                (Check::WaterGlass, 5),
            ],
            20,
            0.7,
        )
    });
    let rot = |slime: bool| {
        Some(Roots {
            answers: RootAnswers {
                stick_together: Some(true),
                slime_or_browning: Some(slime),
                ..RootAnswers::default()
            },
            ports: Some(PortSet::range(7, 8)),
        })
    };
    let dry = Running { outlets_wet: Some(false), ..Running::default() };
    story.tell(
        9,
        (9, 40),
        "Ansa",
        Body::Visit(Visit {
            running: Some(dry),
            note: note("Sprayer at ports 7 and 8 dry: clogged. Cleared after an hour."),
            ..Visit::default()
        }),
    );
    let wet = Running { outlets_wet: Some(true), water_sounds_right: Some(true), ..Running::default() };
    story.tell(9, (11, 0), "Ansa", Body::Visit(Visit { running: Some(wet), ..Visit::default() }));
    story.tell(
        6,
        (9, 30),
        "Wren",
        Body::Visit(Visit { roots: rot(true), note: note("Slime on the roots in two ports."), ..Visit::default() }),
    );
    let bath = |what, ml: f64, text: &str| {
        Body::Treatment(Treatment { what, amount_ml: Some(Millilitres::constant(ml)), ports: None, note: note(text) })
    };
    story.tell(
        5,
        (9, 15),
        "Wren",
        bath(TreatmentKind::RootBath, 300.0, "Ten minutes each, 3 % peroxide in two parts of water."),
    );
    let fresh = Change {
        heel: Some(Litres::constant(3.0)),
        ph: Some(meter(5.9)),
        ec: Some(reading(0.9, EcScale::MilliSiemens)),
        temperature: Some(Celsius::constant(21.0)),
        note: note("Cleaned, all twelve sprayers seen running."),
        ..Change::full(Litres::constant(34.0))
    };
    story.tell(5, (10, 20), "Wren", Body::Change(fresh));
    story.tell(5, (11, 0), "Wren", bath(TreatmentKind::PeroxideDose, 136.0, "4 mL of 3 % for each litre."));
    story.tell(4, (9, 30), "Wren", Body::Visit(Visit { roots: rot(true), ..Visit::default() }));
    story.tell(
        2,
        (9, 45),
        "Wren",
        Body::Visit(Visit { roots: rot(true), note: note("No worse; new white tips on port 8."), ..Visit::default() }),
    );
}

/// Drinks about 17 L a day; salts gather.
fn bucket_row(story: &mut Story<'_>) {
    story.live(&Habit {
        drinks: 17.0,
        feed: true,
        most: 60.0,
        topped: 3,
        scale: EcScale::Ppm500,
        ec: Some((2.2, 0.015)),
        ph: Some((5.8, 0.02)),
        ..habit(
            &[
                (Check::Level, 3),
                (Check::Readings, 4),
                (Check::Pollinate, 1),
                (Check::TieUp, 3),
                (Check::Calibrate, 12),
            ],
            4,
            17.0,
        )
    });
    // The barrel behind the float valve: filled seven days ago, read on the way past since, and found empty yesterday.
    let barrel = Premix::of(PremixIn::TopOffReservoir, Litres::constant(100.0));
    story.tell(7, (8, 20), "Wren", Body::Premix(barrel));
    for (days_ago, litres) in [(5, 66.0), (3, 32.0), (1, 0.0)] {
        let supply = Some(Litres::constant(litres));
        story.tell(days_ago, (8, 20), "Wren", Body::Visit(Visit { supply, ..Visit::default() }));
    }
    let level = |litres: f64| Some(LevelReading::Volume { litres: Litres::constant(litres), pump_ran: true });
    let seen = |litres: f64, ec: f64, ph: f64| Visit {
        level: level(litres),
        ec: Some(reading(ec, EcScale::Ppm500)),
        ph: Some(meter(ph)),
        temperature: Some(Celsius::constant(22.4)),
        ..Visit::default()
    };
    story.tell(2, (8, 20), "Wren", Body::Visit(seen(111.6, 2.36, 5.98)));
    story.tell(
        1,
        (8, 25),
        "Wren",
        Body::Visit(Visit { note: note("Top-off reservoir stood empty."), ..seen(95.0, 2.52, 6.0) }),
    );
}

/// Lowest leaves yellow, EC low: nitrogen short, seen yesterday.
fn bean_table(story: &mut Story<'_>) {
    story.live(&Habit {
        scale: EcScale::Ppm500,
        ec: Some((1.55, -0.02)),
        ..habit(&[(Check::Readings, 4), (Check::Calibrate, 12), (Check::Plants, 8)], 12, 1.9)
    });
    let visit = Visit {
        plants: Some(Plants::showing(&[PlantSign::LowerLeavesYellow], Some(PortSet::range(3, 11)))),
        cases: vec![CaseLook {
            cause: "nitrogen_short".to_owned(),
            outcome: CaseOutcome::Opened,
            ports: Some(PortSet::range(3, 11)),
            learnt: None,
        }],
        ec: Some(reading(0.85, EcScale::Ppm500)),
        ph: Some(meter(6.1)),
        temperature: Some(Celsius::constant(21.5)),
        note: note("Lowest leaves of nine plants pale all over; new growth is green."),
        ..Visit::default()
    };
    story.tell(1, (17, 15), "Wren", Body::Visit(visit));
}

/// Sound, and nothing due: everything was seen this morning.
fn mat_bench(story: &mut Story<'_>) {
    story.live(&Habit {
        scale: EcScale::Ppm500,
        ec: Some((1.25, -0.005)),
        ..habit(
            &[
                (Check::LookIn, 0),
                (Check::Level, 0),
                (Check::Readings, 0),
                (Check::WaterGlass, 0),
                (Check::Calibrate, 12),
            ],
            5,
            0.6,
        )
    });
}
