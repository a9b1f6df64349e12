//! What can be seen, heard, smelt and done at a system, as short closed lists.

use crate::message::{Message, Param, count, member};
use crate::quantity::{Conductivity, Litres};
use crate::refusal::Refusal;
use crate::refuse;
use crate::system::{PortSet, Traits};
use serde::{Deserialize, Serialize};

/// What a finding, a verdict or a task is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Subject {
    Plants,
    Running,
    Level,
    Temperature,
    Ph,
    Ec,
    Glass,
    Roots,
    TopOff,
    Light,
    RunOff,
}

impl Subject {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Plants => "plants",
            Self::Running => "running",
            Self::Level => "level",
            Self::Temperature => "temperature",
            Self::Ph => "ph",
            Self::Ec => "ec",
            Self::Glass => "glass",
            Self::Roots => "roots",
            Self::TopOff => "top_off",
            Self::Light => "light",
            Self::RunOff => "run_off",
        }
    }

    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member("subject", self.code())
    }
}

/// Looked at and listened to: each is `true` when it is as it should be, absent when not looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Running {
    /// The water sounds as it does on a good day: pump and trickle.
    #[serde(default)]
    pub water_sounds_right: Option<bool>,
    /// Bubbles rise from the stone.
    #[serde(default)]
    pub bubbles: Option<bool>,
    /// Every sprayer, dripper or outlet is wet.
    #[serde(default)]
    pub outlets_wet: Option<bool>,
    /// The timer shows the right time; wrong after a power cut.
    #[serde(default)]
    pub timer_right: Option<bool>,
    /// No leak: the floor is dry.
    #[serde(default)]
    pub dry_floor: Option<bool>,
    /// Plug, lead and timer are cool and quiet.
    #[serde(default)]
    pub plug_right: Option<bool>,
    /// Inlet and outlet of the float valve run free.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub valve_right: Option<bool>,
    /// Concentrates, acids and sanitisers are put away where no child reaches them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bottles_away: Option<bool>,
}

impl Running {
    /// Checks that nothing was heard or seen that the system does not have.
    ///
    /// # Errors
    /// A refusal at the part.
    pub fn check(self, traits: &Traits) -> Result<(), Refusal> {
        let there = Self::parts(traits, true);
        match self.looked().into_iter().find(|(part, seen)| seen.is_some() && !there.contains(part)) {
            Some((part, _)) => {
                Err(refuse!("part_not_here", part = Message::of("running.question", part, "say")).at(part))
            }
            None => Ok(()),
        }
    }

    /// The parts that a system has to be looked at and listened to, in the order of the eye; where children come by, also
    /// what must not be in their reach.
    #[must_use]
    pub fn parts(traits: &Traits, children: bool) -> Vec<&'static str> {
        let all = [
            ("water_sounds_right", traits.circulates),
            ("bubbles", traits.aerated),
            ("outlets_wet", traits.sprayers),
            ("timer_right", traits.light || traits.to_waste),
            ("dry_floor", true),
            ("plug_right", traits.mains()),
            ("valve_right", traits.top_off_reservoir),
            ("bottles_away", children),
        ];
        all.into_iter().filter(|(_, there)| *there).map(|(part, _)| part).collect()
    }

    /// Each part by its name, with what was seen of it.
    fn looked(self) -> [(&'static str, Option<bool>); 8] {
        [
            ("water_sounds_right", self.water_sounds_right),
            ("bubbles", self.bubbles),
            ("outlets_wet", self.outlets_wet),
            ("timer_right", self.timer_right),
            ("dry_floor", self.dry_floor),
            ("plug_right", self.plug_right),
            ("valve_right", self.valve_right),
            ("bottles_away", self.bottles_away),
        ]
    }

    /// Whether a part was looked at, by its name.
    #[must_use]
    pub fn saw(self, part: &str) -> bool {
        self.looked().into_iter().any(|(name, seen)| name == part && seen.is_some())
    }

    /// What was seen of each part now, and before where it is not looked at now.
    #[must_use]
    pub fn and(self, earlier: Self) -> Self {
        Self {
            water_sounds_right: self.water_sounds_right.or(earlier.water_sounds_right),
            bubbles: self.bubbles.or(earlier.bubbles),
            outlets_wet: self.outlets_wet.or(earlier.outlets_wet),
            timer_right: self.timer_right.or(earlier.timer_right),
            dry_floor: self.dry_floor.or(earlier.dry_floor),
            plug_right: self.plug_right.or(earlier.plug_right),
            valve_right: self.valve_right.or(earlier.valve_right),
            bottles_away: self.bottles_away.or(earlier.bottles_away),
        }
    }

    /// The parts that were looked at and are amiss.
    pub fn amiss(self) -> impl Iterator<Item = &'static str> {
        self.looked().into_iter().filter(|(_, seen)| *seen == Some(false)).map(|(part, _)| part)
    }

    /// Whether people are in danger where a part is amiss: of water and a plug that there is one near.
    #[must_use]
    pub fn endangers(part: &str) -> bool {
        matches!(part, "dry_floor" | "plug_right" | "bottles_away")
    }

    /// Whether any part that was looked at is amiss.
    #[must_use]
    pub fn any_fault(self) -> bool {
        self.amiss().next().is_some()
    }

    /// This look, with the faults of an earlier one: a fault stays a fault until someone sees it mended. What was
    /// right earlier is not taken for seen again.
    #[must_use]
    pub fn over(self, earlier: Self) -> Self {
        let part = |now: Option<bool>, was: Option<bool>| now.or(was.filter(|right| !right));
        Self {
            water_sounds_right: part(self.water_sounds_right, earlier.water_sounds_right),
            bubbles: part(self.bubbles, earlier.bubbles),
            outlets_wet: part(self.outlets_wet, earlier.outlets_wet),
            timer_right: part(self.timer_right, earlier.timer_right),
            dry_floor: part(self.dry_floor, earlier.dry_floor),
            plug_right: part(self.plug_right, earlier.plug_right),
            valve_right: part(self.valve_right, earlier.valve_right),
            bottles_away: part(self.bottles_away, earlier.bottles_away),
        }
    }
}

/// How clear a glass of the water is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Clarity {
    Clear,
    Tinted,
    WhiteCloud,
    Green,
    Brown,
}

impl Clarity {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Clear => "clear",
            Self::Tinted => "tinted",
            Self::WhiteCloud => "white_cloud",
            Self::Green => "green",
            Self::Brown => "brown",
        }
    }
}

/// What was found in the mesh filters before they were rinsed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Meshes {
    /// Next to nothing.
    Clean,
    /// Some, through which the water ran.
    Dirt,
    /// So much that it held the water up.
    Clogged,
}

impl Meshes {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Clean => "clean",
            Self::Dirt => "dirt",
            Self::Clogged => "clogged",
        }
    }
}

/// How it smells.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum Smell {
    Fresh,
    Earthy,
    Foul,
}

impl Smell {
    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Fresh => "fresh",
            Self::Earthy => "earthy",
            Self::Foul => "foul",
        }
    }
}

/// A glass of the water, held to the light.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaterGlass {
    /// What it looks like.
    pub clarity: Clarity,
    /// What it smells of, if anyone smelt.
    #[serde(default)]
    pub smell: Option<Smell>,
}

impl WaterGlass {
    /// Whether nothing is amiss with it: clear or tinted, and nothing foul in the nose.
    #[must_use]
    pub fn looks_fine(self) -> bool {
        matches!(self.clarity, Clarity::Clear | Clarity::Tinted) && self.smell != Some(Smell::Foul)
    }
}

/// How far roots have gone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RootStage {
    /// 0: white to cream, firm, separate.
    Sound,
    /// 1: strands stick together.
    Clumping,
    /// 2: slime, browning begins.
    Film,
    /// 3: brown-black, matted, foul; the sheath slips off.
    Rotted,
}

impl RootStage {
    /// The number of the stage, 0–3.
    #[must_use]
    pub fn number(self) -> u8 {
        self as u8
    }

    /// The number, for a sentence.
    #[must_use]
    pub fn say(self) -> Param {
        count(self.number())
    }
}

/// Answers to the plain questions about roots; a question that was not answered has none.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RootAnswers {
    /// Do strands stick together?
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stick_together: Option<bool>,
    /// Is there a clear or milky slime, or do they begin to brown?
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub slime_or_browning: Option<bool>,
    /// Brown-black, matted, foul, or does the sheath slip off?
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub matted_or_foul: Option<bool>,
    /// An even tan tint that rinses paler: feed stain, which is no rot.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tan_tint_rinses: Option<bool>,
}

impl RootAnswers {
    /// What is answered where nothing is wrong.
    pub const SOUND: Self = Self {
        stick_together: Some(false),
        slime_or_browning: Some(false),
        matted_or_foul: Some(false),
        tan_tint_rinses: None,
    };

    /// The stage that the answers tell: the worst sign that was seen decides, feed stain counts for nothing. Roots
    /// are sound only where each sign was looked for and none was there; until then there is no stage.
    #[must_use]
    pub fn stage(self) -> Option<RootStage> {
        match self {
            Self { matted_or_foul: Some(true), .. } => Some(RootStage::Rotted),
            Self { slime_or_browning: Some(true), .. } => Some(RootStage::Film),
            Self { stick_together: Some(true), .. } => Some(RootStage::Clumping),
            Self {
                matted_or_foul: Some(false), slime_or_browning: Some(false), stick_together: Some(false), ..
            } => Some(RootStage::Sound),
            _ => None,
        }
    }

    /// Whether they are stained by feed.
    #[must_use]
    pub fn stained(self) -> bool {
        self.tan_tint_rinses == Some(true)
    }
}

/// The roots, looked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Roots {
    /// What was answered.
    pub answers: RootAnswers,
    /// In which ports anything was seen, where that is known.
    #[serde(default)]
    pub ports: Option<PortSet>,
}

impl Roots {
    /// White to cream, firm, separate: each sign was looked for, and none was there.
    #[must_use]
    pub fn sound() -> Self {
        Self { answers: RootAnswers::SOUND, ports: None }
    }

    /// How far they have gone, once the answers tell.
    #[must_use]
    pub fn stage(&self) -> Option<RootStage> {
        self.answers.stage()
    }

    /// Checks that the answers tell a stage: what was not looked for is never recorded as looked at.
    ///
    /// # Errors
    /// A refusal where too little is answered.
    pub fn check(&self) -> Result<(), Refusal> {
        self.stage().map(drop).ok_or_else(|| refuse!("roots_not_told"))
    }
}

/// What was poured.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "water", rename_all = "snake_case")]
pub enum TopOffWater {
    /// Plain source water.
    Plain,
    /// With feed; its EC at 25 °C, if it was measured.
    Feed {
        /// In mS/cm.
        #[serde(default)]
        ec: Option<Conductivity>,
    },
    /// From the feed that was mixed ahead.
    Premixed {},
}

/// Water added without draining, as it is read: every key is known.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct TopOffWire {
    litres: Litres,
    water: WaterWire,
    #[serde(default)]
    ec: Option<Conductivity>,
}

#[derive(Clone, Copy, PartialEq, Deserialize)]
#[serde(rename_all = "snake_case")]
enum WaterWire {
    Plain,
    Feed,
    Premixed,
}

impl TryFrom<TopOffWire> for TopOff {
    type Error = Refusal;

    fn try_from(wire: TopOffWire) -> Result<Self, Refusal> {
        if wire.ec.is_some() && wire.water != WaterWire::Feed {
            return Err(refuse!("ec_without_feed").at("ec"));
        }
        let water = match wire.water {
            WaterWire::Plain => TopOffWater::Plain,
            WaterWire::Feed => TopOffWater::Feed { ec: wire.ec },
            WaterWire::Premixed => TopOffWater::Premixed {},
        };
        Ok(Self { litres: wire.litres, water })
    }
}

/// Water added without draining.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(try_from = "TopOffWire")]
pub struct TopOff {
    /// How much.
    pub litres: Litres,
    /// What kind.
    #[serde(flatten)]
    pub water: TopOffWater,
}
