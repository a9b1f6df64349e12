//! What can be chosen, in the order in which it is shown, each with its words. Pages ask for these lists;
//! they keep none of their own.

use super::Speaker;
use crate::fact::ChangeStep;
use crate::message::Message;
use serde::Serialize;
use std::borrow::Cow;
use std::collections::BTreeMap;
use strum::VariantArray;

/// Something that can be chosen.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, utoipa::ToSchema)]
pub struct Choice {
    /// Its code, as it is sent.
    pub key: &'static str,
    /// What it is called.
    pub name: String,
}

/// Every list, by its name, in its order.
pub const LISTS: [(&str, &[&str]); 56] = [
    ("clarity", &["clear", "tinted", "white_cloud", "green", "brown"]),
    ("smell", &["fresh", "earthy", "foul"]),
    ("old_water", &["garden", "house_plants", "house_drain", "carried_away"]),
    ("sanitiser", &["peroxide", "brine", "ammonia", "citric_acid", "vinegar", "bleach"]),
    ("extent", &["full", "partial"]),
    ("ph_method", &["separate_batch", "reservoir", "drum", "at_change", "recipe_only"]),
    ("root_rot_method", &["treat", "restart"]),
    ("source_water", &["tap", "conditioned", "stood", "rain", "filtered"]),
    ("top_off_method", &["plain", "light_feed", "same_strength", "measured", "premixed", "reservoir"]),
    ("refill", &["no_limit", "one_inch", "hold_the_line", "whole_swap", "quarter_to_half"]),
    ("measuring", &["recipe_only", "drop_kit", "kit_and_meter", "meter"]),
    ("mix_in", &["cans", "vessel"]),
    ("mixed_in", &["cans", "vessel", "jug", "drum"]),
    ("level_by", &["height", "volume", "weight"]),
    ("nutrient", &["nitrogen", "phosphate", "potash", "calcium", "magnesium", "iron"]),
    ("stage", &["germinating", "seedling", "vegetative", "flowering", "fruiting", "ripening", "done"]),
    ("recipe_stage", &["seedling", "vegetative", "flowering", "ripening"]),
    ("root_stage", &["clumping", "film", "rotted"]),
    ("crop_group", &["leafy", "herb", "fruiting", "flower"]),
    ("role", &["caretaker", "helper", "child", "reader", "service"]),
    ("ec_scale", &["ms_cm", "us_cm", "ppm500", "ppm640", "ppm700"]),
    ("unit_system", &["metric", "us", "imperial"]),
    ("weekday", &["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"]),
    (
        "trait",
        &[
            "circulates",
            "aerated",
            "channels",
            "sprayers",
            "mesh_filters",
            "top_off_reservoir",
            "to_waste",
            "controller",
            "light",
            "opaque",
        ],
    ),
    (
        "product",
        &[
            "one_part",
            "part_a",
            "part_b",
            "micro",
            "grow",
            "bloom",
            "dry_base",
            "magnesium_sulfate",
            "calcium_nitrate",
            "calcium_magnesium",
            "silica",
            "booster",
            "finisher",
            "ph_down",
            "ph_up",
            "peroxide",
            "dechlorinator",
        ],
    ),
    ("vessel", &["stated", "box", "cylinder", "bucket", "tapered", "marks"]),
    ("box_side", &["length_mm", "width_mm", "height_mm"]),
    ("cylinder_side", &["diameter_mm", "height_mm"]),
    ("bucket_side", &["rim_diameter_mm", "floor_diameter_mm", "height_mm"]),
    ("tapered_side", &["rim_length_mm", "rim_width_mm", "floor_length_mm", "floor_width_mm", "height_mm"]),
    ("root_question", &["matted_or_foul", "slime_or_browning", "stick_together", "tan_tint_rinses"]),
    (
        "plant_part",
        &["whole", "old_leaves", "young_leaves", "any_leaves", "small_things", "fur_and_fruit", "water_edge"],
    ),
    ("case_outcome", &["gone", "better", "same", "worse"]),
    ("spread", &["one", "several", "all"]),
    ("rule_by", &["days", "weekdays", "top_offs", "sign", "stage", "minimum"]),
    ("harvest", &["some", "whole"]),
    ("since", &["sudden", "slow"]),
    ("ripening", &["taper", "finisher", "neither"]),
    ("lamp", &["strip", "panel"]),
    ("flower_light", &["long", "short"]),
    ("meshes", &["clean", "dirt", "clogged"]),
    ("change_method", &["days", "need"]),
    ("sowing", &["wash", "soak", "sow", "cover", "light", "feed"]),
    ("spray", &["soap", "oil", "pepper", "other"]),
    ("carried", &["plants", "water", "tools"]),
    ("course", &["bottom_up", "top_first", "at_once"]),
    ("root_hint", &["lift", "stick_together", "slime_or_browning", "matted_or_foul", "tan_tint_rinses"]),
    (
        "sort",
        &[
            "reading",
            "top_off",
            "change",
            "correction",
            "treatment",
            "premix",
            "finding",
            "case",
            "roots",
            "harvest",
            "cleaning",
            "calibration",
            "put_off",
            "note",
            "withdrawn",
        ],
    ),
    ("written_by", &["logger", "people"]),
    ("separator", &["comma", "semicolon", "tab"]),
    ("decimal_mark", &["point", "comma"]),
    ("day_order", &["year_first", "day_first", "month_first"]),
    ("clock_of", &["place", "utc", "said"]),
    (
        "column_is",
        &[
            "left_out",
            "time",
            "day",
            "clock",
            "system",
            "ph",
            "ec",
            "temperature",
            "volume",
            "height",
            "added",
            "minutes",
            "note",
            "tick",
        ],
    ),
    (
        "column_unit",
        &[
            "ms_cm",
            "us_cm",
            "ppm500",
            "ppm640",
            "ppm700",
            "celsius",
            "fahrenheit",
            "litre",
            "us_gallon",
            "imperial_gallon",
            "centimetre",
            "millimetre",
            "inch",
        ],
    ),
    ("rate_amount", &["millilitres", "grams", "ounces", "fluid_ounces", "teaspoons", "tablespoons", "own_measure"]),
];

/// Every list in words.
#[must_use]
pub fn choices(speaker: &Speaker) -> BTreeMap<&'static str, Vec<Choice>> {
    let said = |list: &str, key: &'static str| {
        let message = Message { code: Cow::Owned(format!("choice.{list}.{key}")), params: Vec::new() };
        Choice { key, name: speaker.say(&message) }
    };
    let mut all: BTreeMap<_, Vec<Choice>> =
        LISTS.iter().map(|(list, keys)| (*list, keys.iter().map(|key| said(list, key)).collect())).collect();
    // Each has its name where its words are.
    let step = |step: &ChangeStep| Choice { key: step.code(), name: speaker.say(&step.name()) };
    all.insert("change_step", ChangeStep::VARIANTS.iter().map(step).collect());
    all
}
