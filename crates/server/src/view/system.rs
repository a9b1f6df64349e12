//! A system's page.

use super::cases::{CaseView, cases};
use super::{CardView, children_at, people_for};
use crate::Problem;
use crate::api::bench::with_amounts;
use crate::book::{Pages, SystemFile};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use mopsel_core::calendar::days_between;
use mopsel_core::calendar::start_of;
use mopsel_core::care::carries::{Carries, carries};
use mopsel_core::care::equipment::{self, EquipmentLine};
use mopsel_core::care::look::{apart, lines};
use mopsel_core::care::one_order::told;
use mopsel_core::care::outlook::{Outlook, outlook};
use mopsel_core::care::paper::{PaperLine, paper};
use mopsel_core::care::run_again::off_for_a_moment;
use mopsel_core::care::top_off::{TopOffAdvice, top_off_advice};
use mopsel_core::care::{KeptLine, Risk, Task, kept, risks, tasks};
use mopsel_core::crop::EcTarget;
use mopsel_core::diagnosis::{Explanation, explain, gather};
use mopsel_core::drawing::{Section, section};
use mopsel_core::fact::card::{Meter, Place};
use mopsel_core::fact::{Actor, Entry, RootStage, Running, StoredCard, Subject, Wait};
use mopsel_core::figures::FIGURES;
use mopsel_core::forecast;
use mopsel_core::message::{Message, Param, Unit};
use mopsel_core::quantity::{About, EcScale, Litres, Millimetres, Quantity, UnitSystem, band};
use mopsel_core::refill::limit_of;
use mopsel_core::say;
use mopsel_core::situation::Situation;
use mopsel_core::system::{Check, CheckFacts, HandStep, System, checks};
use mopsel_core::trend::{Deed, Trend, deeds, trends};
use mopsel_core::verdict::{Room, Verdict, judge_state};
use mopsel_core::words::Speaker;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// What was last known of one thing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum LastOf {
    Level,
    Temperature,
    Ph,
    Ec,
    Premixed,
    Roots,
}

impl LastOf {
    /// Its code, as it stands in the words.
    fn code(self) -> &'static str {
        match self {
            Self::Level => "level",
            Self::Temperature => "temperature",
            Self::Ph => "ph",
            Self::Ec => "ec",
            Self::Premixed => "premixed",
            Self::Roots => "roots",
        }
    }
}

/// The last value of something, as it is said.
#[derive(Debug, Serialize, ToSchema)]
pub struct LastValue {
    /// What was measured.
    pub subject: LastOf,
    /// What was measured, in words.
    pub name: String,
    /// As it is said beside its name, with its unit.
    pub value: String,
    /// As it is said by itself.
    pub said: String,
    /// Where it comes from and how far it may be off, where it is an estimate.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub origin: Option<String>,
    /// When, in words.
    pub when: String,
}

/// A verdict with the time of what it is about.
#[derive(Debug, Serialize, ToSchema)]
pub struct StandingVerdict {
    /// When the finding was made, in words.
    pub when: String,
    /// The verdict.
    pub verdict: Verdict<String>,
}

/// How fast a system drinks.
#[derive(Debug, Serialize, ToSchema)]
pub struct Drinking {
    /// Litres a day.
    pub a_day: Litres,
    /// From how many intervals.
    pub intervals: usize,
    /// In a sentence.
    pub said: String,
}

/// A part that runs, and how it is asked about.
#[derive(Debug, Serialize, ToSchema)]
pub struct RunningPartView {
    /// Which part.
    pub key: &'static str,
    /// The question.
    pub question: String,
    /// That it is as it should be.
    pub yes: String,
    /// That it is not.
    pub no: String,
}

fn running_part(key: &'static str, speaker: &Speaker) -> RunningPartView {
    let say = |list: &str| speaker.say(&Message::of(list, key, "say"));
    RunningPartView { key, question: say("running.question"), yes: say("running.yes"), no: say("running.no") }
}

/// How a check goes here, step by step.
#[derive(Debug, Serialize, ToSchema)]
pub struct CheckHands {
    /// Which check.
    pub check: Check,
    /// Its steps, in the order in which hands move.
    pub steps: Vec<HandStepView>,
}

/// A step of a check.
#[derive(Debug, Serialize, ToSchema)]
pub struct HandStepView {
    /// Its code among the steps of that check.
    pub key: &'static str,
    /// What is done, in a sentence.
    pub said: String,
}

/// The steps of every check that a system has, for whoever asks.
fn hands(s: &Situation<'_>, speaker: &Speaker) -> Vec<CheckHands> {
    let of = |facts: &'static CheckFacts| {
        let steps = mopsel_core::care::hygiene::hands(facts.key, s);
        let said = |step: &'static HandStep| HandStepView { key: &step.key, said: speaker.say(&step.say()) };
        CheckHands { check: facts.key, steps: steps.into_iter().map(said).collect() }
    };
    checks().iter().map(of).filter(|hands| !hands.steps.is_empty()).collect()
}

/// Everything on a system's page but its log.
#[derive(Debug, Serialize, ToSchema)]
pub struct SystemView {
    /// The card.
    pub card: CardView,
    /// What the card says.
    pub system: System,
    /// Its kind in words.
    pub kind_name: String,
    /// Its place's card.
    pub place: CardView,
    /// What the place says.
    pub place_body: Place,
    /// The date there.
    #[schema(value_type = String, format = Date)]
    pub today: jiff::civil::Date,
    /// The people of its place.
    pub people: Vec<CardView>,
    /// What was done to the water in the time of the trends.
    pub deeds: Vec<Deed>,
    /// The ports in which root rot is open, where they are known.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub case_ports: Option<mopsel_core::system::PortSet>,
    /// The meter that is used.
    pub meter: Option<Meter>,
    /// Its plantings, those put away among them.
    pub plantings: Vec<CardView>,
    /// Its drawing.
    pub section: Section,
    /// Everything to do, least margin first.
    pub tasks: Vec<Task<String>>,
    /// The tasks that stand behind one of them, part by part.
    pub apart: Vec<Task<String>>,
    /// What comes of level, strength, pH and the top-off reservoir if nothing is added.
    pub outlook: Vec<Outlook<String>>,
    /// How each check and rule was kept over the last four weeks.
    pub kept: Vec<KeptLine<String>>,
    /// What the last findings mean.
    pub verdicts: Vec<StandingVerdict>,
    /// The parts that run here, each with its question.
    pub runs: Vec<RunningPartView>,
    /// What makes the next loss likelier here, the heaviest first.
    pub risks: Vec<Risk<String>>,
    /// Whether the vessel carries what grows in it to the harvest; absent where nothing grows, or nothing can be said.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub carries: Option<Carries<String>>,
    /// Cases of what ails the plants, the open ones first.
    pub cases: Vec<CaseView>,
    /// That people are in danger here; absent where not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub danger: Option<String>,
    /// That hands, tools or water would carry something from here, and what to mind; absent where not.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub suspect_why: Option<String>,
    /// The reminder to plug in again, for whoever switches pump or air off for a moment; absent where nothing can be.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub off: Option<Wait<String>>,
    /// What stands at it beside the vessel, with what its failing costs.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub equipment: Vec<EquipmentLine<String>>,
    /// How each check goes here, by hand.
    pub hands: Vec<CheckHands>,
    /// What is minded when something is picked.
    pub picking: String,
    /// Whether nothing goes out of here until it is sound.
    pub closed_off: bool,
    /// The lamp that is wanted here; absent where there is none, or nothing grows under it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lamp: Option<LampWanted>,
    /// What ails the plants or the water, by all that is known; absent where nothing does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub explanation: Option<Explanation<String>>,
    /// The last value of each measured thing.
    pub last: Vec<LastValue>,
    /// The strength that suits what grows here.
    pub ec_target: Option<EcTarget<String>>,
    /// How fast it drinks.
    pub drinking: Option<Drinking>,
    /// What may be added now.
    pub room: Option<Room<String>>,
    /// Its readings over the last ten weeks.
    pub trends: Vec<Trend<String>>,
    /// What the way it is topped off does to its strength.
    pub top_off: Option<TopOffAdvice<String>>,
    /// The units that its reader reads.
    pub units: UnitSystem,
    /// The EC scale that its reader reads.
    pub ec_scale: EcScale,
}

/// The lamp that is wanted, and as it was last seen.
#[derive(Debug, Serialize, ToSchema)]
pub struct LampWanted {
    /// Hours and gap that are wanted, and by which crop, in a sentence.
    pub wanted: String,
    /// Hours of light a day, as last seen.
    pub hours: Option<f64>,
    /// From the lamp to the tallest leaf, as last measured.
    pub gap: Option<Millimetres>,
}

fn lamp_wanted(s: &Situation<'_>, speaker: &Speaker) -> Option<LampWanted> {
    let target = s.light_target()?;
    let hours = Param::Band(target.hours[0], target.hours[1], Unit::Hours);
    let crop = say!("crop.at_stage", crop = target.of.crop.as_str().to_lowercase(), stage = target.of.stage.say());
    let wanted = say!("lamp.wanted", hours = hours, gap = band(target.gap[0], target.gap[1]), crop = crop);
    let readings = &s.known.readings;
    let (hours, gap) = (readings.lamp_hours.map(|dated| dated.value), readings.lamp_gap.map(|dated| dated.value));
    Some(LampWanted { wanted: speaker.say(&wanted), hours, gap })
}

/// Whether a planting ever stood here: what was put away on the day that it was planted on, or taken back, grew nowhere.
fn grew(file: &SystemFile, card: &StoredCard, zone: &TimeZone) -> bool {
    let at = file.planting_ids.iter().position(|id| *id == card.id);
    let timeline = at.and_then(|at| file.planted.get(at)).filter(|_| card.archived);
    timeline.is_none_or(|timeline| !timeline.archived_at(start_of(timeline.now().planted_on, zone)))
}

/// A visit on paper.
#[derive(Debug, Serialize, ToSchema)]
pub struct PaperView {
    /// The day as of which it is due.
    #[schema(value_type = String, format = Date)]
    pub today: jiff::civil::Date,
    /// What is due, least margin first.
    pub due: Vec<PaperLine<String>>,
    /// What is not due yet.
    pub later: Vec<PaperLine<String>>,
}

/// The sheet of a system for a visit.
///
/// # Errors
/// Not found.
pub fn paper_view(pages: &Pages, id: Uuid, at: Timestamp, actor: &Actor) -> Result<PaperView, Problem> {
    let file = pages.system(id)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    let s = pages.situation(actor, file, place, &now, &around);
    let speaker = Speaker::new(pages.reader(actor, file, place));
    let lines = paper(&s).into_iter().map(|line| line.map(&|message| speaker.say(&message)));
    let (due, later) = lines.partition(|line| line.days_late >= 0);
    Ok(PaperView { today: s.today(), due, later })
}

/// The page of a system.
///
/// # Errors
/// Not found.
pub fn system_view(
    pages: &Pages,
    id: Uuid,
    entries: &[Entry],
    at: Timestamp,
    actor: &Actor,
) -> Result<SystemView, Problem> {
    let file = pages.system(id)?;
    let place = pages.place_of(file)?;
    let now = at.to_zoned(place.zone.clone());
    let around = pages.around();
    let s = pages.situation(actor, file, place, &now, &around);
    let speaker = Speaker::new(pages.reader(actor, file, place));
    let say = |message: Message| speaker.say(&message);
    let when = |then: Timestamp| speaker.day(s.date(then), s.today());
    let verdict =
        |(then, verdict): (Timestamp, Verdict)| StandingVerdict { when: when(then), verdict: verdict.map(&say) };
    let drinking = |uptake: forecast::Uptake| Drinking {
        a_day: uptake.a_day,
        intervals: uptake.intervals,
        said: say(say!("system.drinks", a_day = Param::Number(uptake.a_day.get(), Unit::LitresADay))),
    };
    let all = tasks(&s);
    let shown = with_amounts(lines(all.clone(), &s), pages, actor, (pages.reader(actor, file, place), place), &s);
    let room = s.water().litres().map(|litres| Room::from(limit_of(&litres, &s)));
    Ok(SystemView {
        card: CardView::from(&file.card),
        system: file.system.clone(),
        kind_name: say(file.system.kind.name()),
        place: CardView::from(&place.card),
        place_body: place.place.clone(),
        today: s.today(),
        people: people_for(pages, file.place, actor),
        case_ports: file.known.cases.root_rot().and_then(|case| case.ports.clone()),
        meter: pages.meter(file).cloned(),
        plantings: file
            .planting_cards
            .iter()
            .filter(|card| grew(file, card, &place.zone))
            .map(CardView::from)
            .collect(),
        section: section(&s),
        apart: apart(&all, &shown).into_iter().map(|task| task.map(&say)).collect(),
        tasks: shown.into_iter().map(|task| task.map(&say)).collect(),
        outlook: outlook(&s).into_iter().map(|one| one.map(&say)).collect(),
        kept: kept(&s).into_iter().map(|line| line.map(&say)).collect(),
        verdicts: judge_state(&s).into_iter().map(|(at, one)| verdict((at, told(one, &s)))).collect(),
        runs: Running::parts(&file.system.traits, children_at(pages, file.place))
            .into_iter()
            .map(|part| running_part(part, &speaker))
            .collect(),
        risks: risks(&s).into_iter().map(|risk| risk.map(&say)).collect(),
        carries: carries(&s, None).map(|one| one.map(&say)),
        cases: cases(&s, &speaker),
        danger: mopsel_core::care::follow_up::danger(&s).map(&say),
        suspect_why: mopsel_core::care::hygiene::mind(&s).map(&say),
        off: off_for_a_moment(&s).filter(|_| !actor.is_child()).map(|wait| wait.map(&say)),
        equipment: equipment::lines(&s).into_iter().map(|line| line.map(&say)).collect(),
        hands: hands(&s, &speaker),
        picking: say(mopsel_core::care::cycle::picking_caution(&s)),
        closed_off: mopsel_core::care::hygiene::closed_off(&s).is_some(),
        lamp: lamp_wanted(&s, &speaker),
        explanation: explanation(&s).map(|told| told.map(&say)),
        last: last_values(&s, &speaker, when),
        ec_target: s.ec_target().map(|target| target.map(&say)),
        drinking: forecast::drinks(&s).map(drinking),
        room: room.map(|room| room.map(&say)),
        trends: trends(entries, &s).into_iter().map(|trend| trend.map(&say)).collect(),
        deeds: deeds(entries),
        top_off: top_off_advice(&s).map(|advice| advice.map(&say)),
        units: speaker.reader().units,
        ec_scale: speaker.reader().ec,
    })
}

/// What ails the plants, unless the advice on them was set aside since they were looked at.
fn explanation(s: &Situation<'_>) -> Option<Explanation> {
    let seen = s.known.readings.plants.as_ref().map(|plants| plants.at);
    let aside = s.known.readings.set_aside.get(&Subject::Plants);
    if seen.zip(aside).is_some_and(|(seen, aside)| *aside >= seen) { None } else { explain(&gather(s, None)) }
}

/// As it is shown: a reading of today as it was read, anything else as *about*.
fn shown(about: About<Litres>, s: &Situation<'_>) -> About<Litres> {
    let fresh = |at| days_between(at, s.now.timestamp()) < FIGURES.level.fresh;
    About { measured: about.moved.is_none() && about.read.is_some_and(fresh), ..about }
}

/// When an estimate was last touched: read, or moved by what was poured.
fn dated<Q>(about: &About<Q>, s: &Situation<'_>) -> Timestamp {
    about.moved.max(about.read).unwrap_or(s.now.timestamp())
}

/// Where an estimate comes from, with its range; nothing where it is a reading that says it all.
fn origin<Q: Quantity>(about: &About<Q>) -> Option<Message> {
    let range = band(about.low, about.high);
    match about.moved {
        Some(_) => Some(say!("last.worked_out", range = range)),
        None if about.measured => None,
        None => Some(say!("last.carried", range = range)),
    }
}

fn last_values(s: &Situation<'_>, speaker: &Speaker, when: impl Fn(Timestamp) -> String) -> Vec<LastValue> {
    let (tank, readings, lessons) = (&s.known.tank, &s.known.readings, &s.known.lessons);
    let mut last = Vec::new();
    let mut add = |subject: LastOf, message: Message, origin: Option<Message>, at| {
        let of = |part: &str| Message::of("last_of", subject.code(), part);
        let (name, value) = (speaker.say(&of("name")), speaker.say(&message));
        let said = speaker.say(&of("said").with("value", message));
        let origin = origin.map(|origin| speaker.say(&origin));
        last.push(LastValue { subject, name, value, said, origin, when: when(at) });
    };
    let water = s.water();
    if let Some(about) = water.litres() {
        add(LastOf::Level, say!("last.level", about = shown(about, s)), origin(&about), dated(&about, s));
    }
    if let Some(dated) = readings.temperature {
        add(LastOf::Temperature, say!("last.temperature", temperature = dated.value), None, dated.at);
    }
    match water.ph().filter(|ph| ph.moved.is_some() && readings.ph.is_some()) {
        Some(about) => add(LastOf::Ph, say!("last.ph_about", about = about), origin(&about), dated(&about, s)),
        None => {
            if let Some(read) = readings.ph {
                add(LastOf::Ph, say!("last.ph", ph = read.value), None, read.at);
            }
        }
    }
    match (water.ec().filter(|ec| ec.moved.is_some()), tank.ec) {
        (Some(about), _) => add(LastOf::Ec, say!("last.ec", about = about), origin(&about), dated(&about, s)),
        (None, Some(read)) => add(LastOf::Ec, say!("last.ec", about = read.value), None, read.at),
        (None, None) => {}
    }
    if let Some(dated) = lessons.ready(s.system) {
        let litres = dated.value.litres;
        let said = match dated.value.ec {
            Some(ec) => say!("last.premixed_at", litres = litres, ec = ec),
            None => say!("last.premixed", litres = litres),
        };
        add(LastOf::Premixed, said, None, dated.at);
    }
    if let Some(dated) = readings.roots {
        let said = match dated.value.0 {
            RootStage::Sound => say!("last.roots_sound"),
            stage => say!("last.roots", stage = stage.say()),
        };
        add(LastOf::Roots, said, None, dated.at);
    }
    last
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_last_value_stands_in_the_words_under_its_own_code() {
        for last in [LastOf::Level, LastOf::Temperature, LastOf::Ph, LastOf::Ec, LastOf::Premixed, LastOf::Roots] {
            assert_eq!(serde_json::to_value(last).ok(), Some(last.code().into()));
            let name = Speaker::new(Default::default()).say(&Message::of("last_of", last.code(), "name"));
            assert!(!name.contains('.'), "{name} is a code, not a word");
        }
    }

    #[test]
    fn what_was_last_known_of_a_subject_has_the_subjects_code() {
        for (last, subject) in [(LastOf::Level, Subject::Level), (LastOf::Ph, Subject::Ph), (LastOf::Ec, Subject::Ec)] {
            assert_eq!(serde_json::to_value(last).ok(), serde_json::to_value(subject).ok());
        }
    }
}
