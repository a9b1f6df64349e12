//! The table of words against the rules that use it: nothing missing, nothing left over, no gap unfilled.
use mopsel_core::bench::{examples, purposes};
use mopsel_core::calendar::Weekday;
use mopsel_core::care::known_risks;
use mopsel_core::columns;
use mopsel_core::crop::{CropGroup, Stage, crops};
use mopsel_core::diagnosis::{causes, findings, looks};
use mopsel_core::fact::card::Role;
use mopsel_core::fact::{
    Act, Carried, CaseOutcome, ChangeExtent, ChangeStep, Clarity, Course, OldWater, PlantSign, RootStage, Running,
    Since, Smell, Sort, Spray, Spread, Subject, Where, signs,
};
use mopsel_core::mixing::{ProductKind, RateAmount, Sanitiser};
use mopsel_core::quantity::{EcScale, UnitSystem};
use mopsel_core::reservoir::RefillMethod;
use mopsel_core::system::{
    FlowerLight, Lamp, Measuring, PhMethod, Ripening, RootRotMethod, SourceWater, TopOffMethod, Traits, checks,
    equipment, hand_steps, kinds,
};
use mopsel_core::words::{CARD_FIELDS, LISTS, english};
use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::Path;
use strum::VariantArray;

fn sources(folder: &Path, into: &mut String) {
    for entry in fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.is_dir() {
            sources(&path, into);
        } else if path.extension().is_some_and(|ending| ending == "rs") {
            let text = fs::read_to_string(&path).unwrap();
            let code = text.split("#[cfg(test)]\nmod tests").next().unwrap();
            for line in code.lines().filter(|line| !line.trim_start().starts_with("//")) {
                into.push_str(line);
                into.push('\n');
            }
        }
    }
}

/// The calls of a macro or a function: each with the text between its parentheses.
fn calls<'a>(code: &'a str, name: &str) -> Vec<&'a str> {
    let mut found = Vec::new();
    for (at, matched) in code.match_indices(name) {
        let start = at + matched.len();
        let mut depth = 1;
        let mut quoted = false;
        for (i, c) in code[start..].char_indices() {
            match c {
                '"' => quoted = !quoted,
                '(' if !quoted => depth += 1,
                ')' if !quoted => depth -= 1,
                _ => {}
            }
            if depth == 0 {
                found.push(&code[start..start + i]);
                break;
            }
        }
    }
    found
}

/// The names of the gaps that a call fills, at its own level.
fn fills(call: &str) -> BTreeSet<String> {
    let mut names = BTreeSet::new();
    let (mut depth, mut part) = (0, String::new());
    for c in call.chars().chain([',']) {
        match c {
            '(' | '[' | '{' => depth += 1,
            ')' | ']' | '}' => depth -= 1,
            _ => {}
        }
        if c == ',' && depth == 0 {
            if let Some((name, _)) = part.split_once(" = ") {
                names.insert(name.trim().to_owned());
            }
            part.clear();
        } else {
            part.push(c);
        }
    }
    names
}

fn code_of(call: &str) -> Option<String> {
    let call = call.trim_start().strip_prefix('"')?;
    Some(call.split('"').next()?.to_owned())
}

/// Every message and refusal that the rules make, with the gaps that they fill.
fn made() -> BTreeMap<String, Vec<BTreeSet<String>>> {
    let mut code = String::new();
    sources(&Path::new(env!("CARGO_MANIFEST_DIR")).join("src"), &mut code);
    for beside in ["../server/src", "../store/src"] {
        sources(&Path::new(env!("CARGO_MANIFEST_DIR")).join(beside), &mut code);
    }
    let mut made: BTreeMap<String, Vec<BTreeSet<String>>> = BTreeMap::new();
    for call in calls(&code, "say!(") {
        if let Some(said) = code_of(call) {
            made.entry(said).or_default().push(fills(call));
        }
    }
    for call in calls(&code, "refuse!(") {
        if let Some(refused) = code_of(call) {
            for clause in ["found", "allowed", "mend"] {
                made.entry(format!("refusal.{refused}.{clause}")).or_default().push(fills(call));
            }
        }
    }
    for call in calls(&code, "term(") {
        if let Some(term) = code_of(call) {
            made.entry(term).or_default();
        }
    }
    // Words that stand beside each other in a branch or are handed on as a code.
    for word in code.split('"').skip(1).step_by(2).filter(|word| english().get(word).is_some()) {
        made.entry(word.to_owned()).or_default();
    }
    made
}

/// Codes that are put together from the code of a member.
fn families() -> BTreeSet<String> {
    let mut codes: BTreeSet<String> = BTreeSet::new();
    let mut add = |family: &str, member: &str, parts: &[&str]| {
        codes.extend(parts.iter().map(|part| format!("{family}.{member}.{part}")));
    };
    kinds().iter().for_each(|kind| add("kind", kind.key.code(), &["name", "plain"]));
    equipment().iter().for_each(|one| add("equipment", one.key.code(), &["name", "service"]));
    checks().iter().for_each(|check| add("check", check.key.code(), &["name", "doing"]));
    hand_steps().iter().for_each(|step| add("hands", step.check.code(), &[&step.key]));
    signs().iter().for_each(|sign| add("sign", sign.key.code(), &["say"]));
    let sign = |finding: &&&str| signs().iter().any(|sign| sign.key.code() == **finding);
    findings().iter().filter(|finding| !sign(finding)).for_each(|finding| add("finding", finding, &["say"]));
    looks().iter().for_each(|look| add("look", &look.key, &["ask"]));
    for cause in causes() {
        add("cause", &cause.key, &["name", "means", "unless", "do"]);
        cause.evidence.iter().for_each(|evidence| add("cause_why", &cause.key, &[&evidence.0]));
        cause.cautions.iter().for_each(|caution| add("plant_caution", caution, &["say"]));
    }
    for purpose in purposes() {
        add("purpose_group", &purpose.group, &["name"]);
        add("purpose", &purpose.key, &["name"]);
        purpose.fields.iter().for_each(|field| add("purpose_field", &purpose.key, &[&field.key]));
    }
    examples().iter().for_each(|example| add("bench_example", &example.key, &["name"]));
    known_risks().iter().for_each(|risk| add("risk", &risk.key, &["finding", "doing", "why"]));
    for crop in crops() {
        crop.leans.iter().for_each(|lean| add("crop_lean", &crop.code(), &[&lean.0]));
    }
    for wrong in ["all", "level_ec", "level_ph", "ec_ph"] {
        add("put_right", wrong, &["name", "doing"]);
    }
    for purpose in ["top_off", "top_off_reservoir", "correction", "put_right", "ph", "peroxide_dose"] {
        add("way", purpose, &["say"]);
    }
    for look in ["suspect_roots", "suspect_plants"] {
        add("hygiene_look", look, &["name", "doing"]);
    }
    for stage in ["seedling", "vegetative", "flowering", "fruiting"] {
        add("stage_due.sign", stage, &["say"]);
    }
    for part in Running::parts(
        &Traits {
            circulates: true,
            aerated: true,
            sprayers: true,
            light: true,
            top_off_reservoir: true,
            ..tub_traits()
        },
        true,
    ) {
        for said in ["question", "yes", "no", "mended"] {
            add(&format!("running.{said}"), part, &["say"]);
        }
    }
    for shares in ["none", "plants", "water"] {
        add("case_view.shares", shares, &["say"]);
    }
    for fault in ["no_bubbles", "sounds_wrong", "outlet_dry", "leak", "bottles", "plug", "valve", "timer_wrong"] {
        add("fault", fault, &["say", "why", "next"]);
    }
    for task in ["root_remove", "root_restart", "root_treat", "peroxide", "root_look"] {
        add("case_task", task, &["name", "doing"]);
    }
    for last in ["level", "temperature", "ph", "ec", "premixed", "roots"] {
        add("last_of", last, &["name", "said"]);
    }
    for step in ChangeStep::VARIANTS {
        // What is done at a plug or a valve follows from what the system has.
        let made =
            matches!(step, ChangeStep::SupplyOff | ChangeStep::SupplyOn | ChangeStep::PowerOff | ChangeStep::PowerOn);
        add("change_step", step.code(), if made { &["name"] } else { &["name", "doing"] });
    }
    for check in mopsel_core::care::look::PARTS {
        add("weekly_look", check.code(), &["name", "sound"]);
    }
    for product in ProductKind::VARIANTS {
        add("product_reason", product.code(), &["why"]);
    }
    codes
}

/// Families of single words: `product.silica`.
const WORDS: [&str; 22] = [
    "card_field.",
    "act.",
    "meshes.",
    "choice.",
    "product.",
    "sanitiser.",
    "stage.",
    "source_water.",
    "top_off_method.",
    "clarity.",
    "smell.",
    "treatment.",
    "spray.",
    "carried.",
    "premix.",
    "subject.",
    "card.",
    "rate.",
    "old_water.",
    "wait_over.",
    "calendar.",
    "quantity.",
];

/// The gaps of a sentence.
fn gaps(sentence: &str) -> BTreeSet<String> {
    let mut names = BTreeSet::new();
    for (at, _) in sentence.match_indices('{') {
        let name: String = sentence[at + 1..].chars().take_while(|c| c.is_ascii_lowercase() || *c == '_').collect();
        names.insert(name);
    }
    names
}

#[test]
fn every_message_that_a_rule_makes_has_its_sentence() {
    let missing: Vec<String> =
        made().into_keys().chain(families()).filter(|code| english().get(code).is_none()).collect();
    assert_eq!(missing, Vec::<String>::new());
}

#[test]
fn no_sentence_is_left_over() {
    let (made, families) = (made(), families());
    let known = |code: &str| {
        let own = code.strip_suffix("_child").unwrap_or(code);
        made.contains_key(own) || families.contains(own) || WORDS.iter().any(|family| own.starts_with(family))
    };
    let left: BTreeSet<&str> = english().codes().filter(|code| !known(code)).collect();
    assert_eq!(left, BTreeSet::new());
}

#[test]
fn every_gap_of_a_sentence_is_filled_wherever_it_is_said() {
    let mut unfilled = Vec::new();
    for (code, fillings) in made() {
        let child = format!("{code}_child");
        for said in [&code, &child] {
            let Some(sentence) = english().get(said) else { continue };
            let gaps = gaps(sentence);
            let short = fillings.iter().filter(|fills| !gaps.is_subset(fills));
            unfilled.extend(short.map(|fills| format!("{said}: {:?}", gaps.difference(fills).collect::<Vec<_>>())));
        }
    }
    assert_eq!(unfilled, Vec::<String>::new());
}

#[test]
fn every_member_of_a_list_has_its_word() {
    let word = |code: String| assert!(english().get(&code).is_some(), "{code} has no word");
    ProductKind::VARIANTS.iter().for_each(|product| word(format!("product.{}", product.code())));
    for clarity in [Clarity::Clear, Clarity::Tinted, Clarity::WhiteCloud, Clarity::Green, Clarity::Brown] {
        word(format!("clarity.{}", clarity.code()));
    }
    [Smell::Fresh, Smell::Earthy, Smell::Foul].iter().for_each(|smell| word(format!("smell.{}", smell.code())));
    for subject in [
        Subject::Plants,
        Subject::Running,
        Subject::Level,
        Subject::Temperature,
        Subject::Ph,
        Subject::Ec,
        Subject::Glass,
        Subject::Roots,
        Subject::TopOff,
    ] {
        word(format!("subject.{}", subject.code()));
    }
    CARD_FIELDS.iter().for_each(|field| word(field.name().code.into_owned()));
    let named: BTreeSet<String> = CARD_FIELDS.iter().map(|field| field.name().code.into_owned()).collect();
    let others = ["nothing", "yes", "no", "else"].map(|code| format!("card_field.{code}"));
    for code in english().codes().filter(|code| code.starts_with("card_field.")) {
        assert!(named.contains(code) || others.iter().any(|other| other == code), "{code} names no field");
    }
    assert_eq!(signs().len(), 29);
    assert_eq!(PlantSign::PlantCollapsed.code(), "plant_collapsed");
}

fn tub_traits() -> mopsel_core::system::Traits {
    kinds()[0].traits
}

#[test]
fn what_can_be_chosen_is_what_the_types_know_and_has_its_words() {
    fn knows<T: serde::de::DeserializeOwned>(list: &str) {
        let (_, keys) = LISTS.iter().find(|(name, _)| *name == list).unwrap();
        for key in *keys {
            let read = serde_json::from_value::<T>(serde_json::Value::String((*key).to_owned()));
            assert!(read.is_ok(), "{list} offers {key}, which nothing takes");
            assert!(english().get(&format!("choice.{list}.{key}")).is_some(), "{list}.{key} has no word");
        }
    }
    knows::<Sort>("sort");
    knows::<Clarity>("clarity");
    knows::<Smell>("smell");
    knows::<Where>("plant_part");
    knows::<Spread>("spread");
    knows::<CaseOutcome>("case_outcome");
    knows::<Course>("course");
    knows::<OldWater>("old_water");
    knows::<Sanitiser>("sanitiser");
    knows::<ChangeExtent>("extent");
    knows::<PhMethod>("ph_method");
    knows::<SourceWater>("source_water");
    knows::<RootRotMethod>("root_rot_method");
    knows::<TopOffMethod>("top_off_method");
    knows::<Ripening>("ripening");
    knows::<Lamp>("lamp");
    knows::<FlowerLight>("flower_light");
    knows::<mopsel_core::fact::Meshes>("meshes");
    knows::<mopsel_core::system::ChangeMethod>("change_method");
    knows::<Since>("since");
    knows::<Spray>("spray");
    knows::<Carried>("carried");
    knows::<RefillMethod>("refill");
    knows::<Measuring>("measuring");
    knows::<Stage>("stage");
    knows::<Stage>("recipe_stage");
    knows::<RootStage>("root_stage");
    knows::<CropGroup>("crop_group");
    knows::<Role>("role");
    let unsaid: Vec<&Act> =
        Act::VARIANTS.iter().filter(|act| english().get(&format!("act.{}", act.code())).is_none()).collect();
    assert_eq!(unsaid, Vec::<&Act>::new());
    knows::<EcScale>("ec_scale");
    knows::<columns::WrittenBy>("written_by");
    knows::<columns::Separator>("separator");
    knows::<columns::DecimalMark>("decimal_mark");
    knows::<columns::DayOrder>("day_order");
    knows::<columns::ClockOf>("clock_of");
    knows::<columns::ColumnIs>("column_is");
    knows::<columns::ColumnUnit>("column_unit");
    knows::<UnitSystem>("unit_system");
    knows::<Weekday>("weekday");
    knows::<ProductKind>("product");
    knows::<RateAmount>("rate_amount");
    knows::<mopsel_core::bench::MixIn>("mix_in");
    knows::<mopsel_core::fact::MixedIn>("mixed_in");
    for by in LISTS.iter().find(|(name, _)| *name == "level_by").unwrap().1 {
        let level = serde_json::json!({ "by": by, "height_mm": 1.0, "litres": 1.0, "weight": 1.0, "tare": 0.5 });
        let wanted: Vec<&str> = match *by {
            "height" => vec!["height_mm"],
            "volume" => vec!["litres"],
            _ => vec!["weight", "tare"],
        };
        let only: serde_json::Map<_, _> = level
            .as_object()
            .unwrap()
            .clone()
            .into_iter()
            .filter(|(key, _)| key == "by" || wanted.contains(&key.as_str()))
            .collect();
        assert!(serde_json::from_value::<mopsel_core::reservoir::LevelReading>(only.into()).is_ok(), "{by}");
    }
    for part in LISTS.iter().find(|(name, _)| *name == "nutrient").unwrap().1 {
        let label = serde_json::json!({ *part: 1.0 });
        assert!(serde_json::from_value::<mopsel_core::mixing::Analysis>(label).is_ok(), "{part}");
    }
    let traits = serde_json::to_value(tub_traits()).unwrap();
    let (_, keys) = LISTS.iter().find(|(name, _)| *name == "trait").unwrap();
    assert!(keys.iter().all(|key| traits.get(key).is_some()), "{keys:?} in {traits}");
    let keys_of = |list: &str| LISTS.iter().find(|(name, _)| *name == list).unwrap().1;
    for side in ["box", "cylinder", "bucket", "tapered"] {
        let list = format!("{side}_side");
        let mut shape: serde_json::Map<_, _> =
            keys_of(&list).iter().map(|key| ((*key).to_owned(), serde_json::json!(100.0))).collect();
        shape.insert("form".to_owned(), serde_json::json!(side));
        let read = serde_json::from_value::<mopsel_core::reservoir::Shape>(shape.into());
        assert!(read.is_ok(), "{side}: {read:?}");
        assert!(keys_of("vessel").contains(&side));
    }
    for question in keys_of("root_question") {
        let answer = serde_json::json!({ *question: true });
        assert!(serde_json::from_value::<mopsel_core::fact::RootAnswers>(answer).is_ok(), "{question}");
    }
    assert!(keys_of("root_question").iter().all(|question| keys_of("root_hint").contains(question)));
    // The steps of sowing are told and never chosen.
    assert_eq!(keys_of("sowing").first(), Some(&"wash"));
    assert_eq!(LISTS.len(), 56, "name the new list's type above");
}

#[test]
fn sentences_say_what_a_child_may_do_and_nothing_else() {
    // What an adult does near mains, with concentrates or with the tank open is told to a child as
    // something to tell an adult.
    for code in english().codes().filter(|code| code.ends_with("_child")) {
        let sentence = english().get(code).unwrap().to_lowercase();
        for deed in ["unplug", "drain ", "peroxide", "stir", "concentrate into", "sanitis", "change the"] {
            assert!(!sentence.contains(deed), "{code} tells a child to “{deed}”: {sentence}");
        }
    }
}

#[test]
fn no_two_codes_differ_by_a_letter_case_or_a_space() {
    let folded: BTreeSet<String> = english().codes().map(|code| code.to_lowercase().replace(' ', "")).collect();
    assert_eq!(folded.len(), english().codes().count());
}
