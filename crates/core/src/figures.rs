//! The rules of thumb, read from `data/figures.toml`: each figure once, with its unit and its reason.

use serde::Deserialize;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// A figure as the file has it.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Figure {
    /// The number.
    pub value: f64,
    /// In which unit.
    pub unit: String,
    /// Why this number.
    pub why: String,
}

type File = BTreeMap<String, BTreeMap<String, Figure>>;

/// A group of figures as a struct with a field for each, filled from the file by their names.
macro_rules! groups {
    ($($(#[$doc:meta])* $group:ident: $type:ident { $($name:ident),* })*) => {
        $(
            $(#[$doc])*
            #[derive(Debug, Clone, Copy)]
            #[allow(missing_docs, reason = "each figure has its unit and its reason in data/figures.toml")]
            pub struct $type {
                $(pub $name: f64,)*
            }
        )*

        /// Every figure.
        #[derive(Debug, Clone, Copy)]
        pub struct Figures {
            $($(#[$doc])* pub $group: $type,)*
        }

        fn figures(file: &File) -> Figures {
            let value = |group: &str, name: &str| file.get(group).and_then(|group| group.get(name)).map(|figure| figure.value);
            Figures {
                $($group: $type {
                    $($name: value(stringify!($group), stringify!($name)).unwrap_or(f64::NAN),)*
                },)*
            }
        }

        /// The names of the figures that the rules use, by group.
        #[cfg(test)]
        const USED: &[(&str, &[&str])] = &[$((stringify!($group), &[$(stringify!($name)),*])),*];
    };
}

groups! {
    /// pH: its band, its doses, its waits.
    ph: PhFigures {
        band_low, band_high, aim, aim_falling, drum_least, blocked_below, blocked_above, kit_low, kit_high, kit_step, read_least, read_most,
        meter_error, most_a_day, day_hours, least_step, least_change, trial_dose, most_per_litre, first_share, jug_share, jug_least,
        jug_most, fresh_low, fresh_high, fresh_usual, fresh_spread, new_water_little, spread_little,
        spread_much, after_dose_spread, dose_by, dose_shows, lean, lean_from, mix_pumped, mix_unpumped, drift_from,
        drifts, again, tap, soft_alkalinity, hard, alkalinity_of_ec, first_guess, batch_least, stirred, phosphate_of_ec,
        phosphate_least, phosphate_most, least_learnt, most_learnt, most_today, at_once_hours, out_of_blocked, climbs_look,
        climbs_days, doubted_days, widens, far, dosed_slack, usual_meq, slack
    }
    /// Strength: what it is held against.
    strength: StrengthFigures {
        grams, tap, soft, rain, plain_over_source, room_for_feed, spent_within, over_spent, rise, meter_error, room_share,
        apart_above, most_in_jug, same, drifts, at_aim, back_most, rule_of_thumb, label_spread, learnt_spread,
        learnt_from, beyond_label, most_labels, least_label, widens, takes_least, takes_most, unknown_rise, too_wide, read_most, under_source, source_felt, slack
    }
    /// What plants drink.
    uptake: UptakeFigures {
        shortest, least_share, trusted_from, in_hand, thirsty, grown_enough, steady_from, spread_few, spread_steady,
        unknown, horizon
    }
    /// The level and its lines.
    level: LevelFigures {
        slack, supply_slack, worth_filling, fresh, vessels_apart, apart_slack, over, over_line, limit_over, read_error, too_wide, far, minimum_share, working_share, maximum_share
    }
    /// How far still water may rise.
    refill: RefillFigures {
        rest_days, hold_days, act_at, fill_to, inch_of_stated, young_days, swap_old_days, swap_rise, up_the_pot
    }
    /// The temperature of the water.
    water: WaterFigures {
        cold, best_low, best_high, warm, step, cool_fresh, very_warm, thermometer, litres_a_plant, warm_slack, no_warmer
    }
    /// What is done on one visit.
    gather: GatherFigures {
        within, weekly, together
    }
    /// Reservoir changes.
    change: ChangeFigures {
        turnover, turnover_least, warm_share, takes_in, need_share, need_days, need_turnover, need_ec, need_ph, need_read, need_roots, salts_share, temper_warns, temper_asks, flush_minutes, soak_minutes,
        rinse_clean,
        measure_over
    }
    /// Root rot and its treatment.
    roots: RootsFigures {
        grow_a_day, longest, young_days, seen_days, treat_slack, remove_slack, peroxide_every, first_look, second_look, third_look, later_looks,
        sound_looks, bath_clumping, bath_film, bath_percent, dose_percent, dose_per_litre, dose_again
    }
    /// Run-off of a feed to waste.
    run_off: RunOffFigures {
        salts, many_salts, hungry, rinse_with, rinsed, least, most, aim, ph_off, slack, again_days
    }
    /// How long a finding may wait.
    findings: FindingsFigures {
        fault_slack, off_minutes, timer_slack, smell_slack, glass_slack, urgent_sign_slack, sign_slack
    }
    /// The weeks ahead.
    ahead: AheadFigures {
        heavy_minutes, heavy_litres, pour_minutes, moved_most, pace_from, pace_least, pace_most
    }
    /// Cover through a closure.
    cover: CoverFigures {
        worth, unseen_days, top_up_below, eats, usual_alkalinity, said_ahead, said_from,
        most_days, most_poured, eats_off, drift_off, drift_unsure, ph_climbs
    }
    /// What a logger reads.
    sensed: SensedFigures { ahead_minutes, last_minutes, warmer, dense_hours, dense_gap }
    /// Beside each other.
    compare: CompareFigures { least_values }
    /// Where a series of readings goes.
    trend: TrendFigures {
        gap_times, gap_days, least_readings, least_days, ph_moves, ec_moves, wavers
    }
    /// Suspects: how long after a contact.
    hygiene: HygieneFigures {
        unseen_days, shows_days, suspect_days, sprayed_days, look_slack
    }
    /// The lamp: how far off it may be, and how long that may wait.
    light: LightFigures {
        hours_off, gap_off, slack, near_slack
    }
    /// How loudly a task asks.
    margin: MarginFigures {
        equipment, eye, soon, reset_slack, first_fill, first_fill_planted, film_filters, crowded_share
    }
    /// The mixing bench.
    bench: BenchFigures {
        first_use,
        least_litres, least_top_off, least_share, mix_minutes, jug_share, correction_share, jug_least, jug_most,
        heavy_can, lift, most_carried, most_fillings, drop, drops_up_to, stale_days, coarse, good_enough, correction_wait, dose_jug
    }
    /// How sanitisers are thinned, in each litre.
    sanitiser: SanitiserFigures {
        peroxide, brine, ammonia, citric_acid, vinegar, ph_down, bleach
    }
    /// What ails a plant: how signs are weighed, and how old a finding may be.
    diagnosis: DiagnosisFigures {
        almost_sure, likely, perhaps, unexplained_sign, unexplained_find, absent, rarely, case_open, other, least_gain, shown,
        plants_days, roots_days, glass_days, running_days, warmth_days, lately_days, sprayed_days, lamp_days, planted_days, settled_days, raised_days,
        old_water_days, rot_days, past_harvest, not_up
    }
    /// Taking down.
    record: RecordFigures {
        clock_minutes, behind_hours, kept_days, apart_hours
    }
}

static FILE: LazyLock<File> = LazyLock::new(|| {
    #[allow(clippy::expect_used, reason = "compiled in; a test reads it")]
    toml::from_str(include_str!("../data/figures.toml")).expect("data/figures.toml is well formed")
});

/// The figures.
pub static FIGURES: LazyLock<Figures> = LazyLock::new(|| figures(&FILE));

/// Every figure with its unit and its reason, by group and name.
#[must_use]
pub fn figures_with_reasons() -> &'static File {
    &FILE
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_figure_that_a_rule_uses_is_in_the_file_with_a_reason_and_none_is_left_over() {
        let used: Vec<(&str, &str)> =
            USED.iter().flat_map(|(group, names)| names.iter().map(|name| (*group, *name))).collect();
        let filed: Vec<(&str, &str)> = FILE
            .iter()
            .flat_map(|(group, figures)| figures.keys().map(|name| (group.as_str(), name.as_str())))
            .collect();
        for (group, name) in &used {
            let figure = FILE
                .get(*group)
                .and_then(|group| group.get(*name))
                .unwrap_or_else(|| panic!("{group}.{name} is missing"));
            assert!(figure.value.is_finite() && !figure.unit.is_empty() && figure.why.ends_with('.'), "{group}.{name}");
        }
        assert_eq!(used.len(), filed.len(), "a figure in the file that no rule uses: {filed:?}");
    }
}
