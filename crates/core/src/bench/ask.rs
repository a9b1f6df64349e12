//! What is asked of the bench, and what is on its shelf.

use crate::crop::Stage;
use crate::dosing::JarTest;
use crate::fact::{Actor, RootStage};
use crate::figures::FIGURES;
use crate::message::count;
use crate::mixing::{Container, Learnt, PrintedRate, Product, Recipe, Tool};
use crate::quantity::{About, Celsius, Conductivity, EcReading, EcScale, Litres, Ph, PhReading, band};
use crate::refill::{strength_known, too_wide};
use crate::refusal::{AtField, Refusal};
use crate::refuse;
use crate::situation::Situation;
use crate::system::TopOffMethod;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// What it is for. Volumes that are left out are taken from the system.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(tag = "for", rename_all = "snake_case", deny_unknown_fields)]
pub enum Purpose {
    /// An empty vessel is filled.
    FreshFill {
        /// To this volume; the working volume when absent.
        #[serde(default)]
        litres: Option<Litres>,
    },
    /// Old solution out, fresh in, around what cannot be drained.
    Change {
        /// To this volume in all; the working volume when absent.
        #[serde(default)]
        litres: Option<Litres>,
        /// What stays behind; the system's usual heel when absent.
        #[serde(default)]
        heel: Option<Litres>,
        /// Its EC; the last one read when absent.
        #[serde(default)]
        heel_ec: Option<EcReading>,
    },
    /// Water added without draining.
    TopOff {
        /// What stands there; carried on from the last level when absent.
        #[serde(default)]
        from: Option<Litres>,
        /// Up to here; the working line or the refill limit when absent.
        #[serde(default)]
        to: Option<Litres>,
        /// EC of what stands there; the last one read when absent.
        #[serde(default)]
        ec: Option<EcReading>,
        /// How; the system's method when absent.
        #[serde(default)]
        method: Option<TopOffMethod>,
        /// For a measured batch: how much the jug takes.
        #[serde(default)]
        batch: Option<Litres>,
    },
    /// Strength put right without topping off.
    Correction {
        /// The water that stands there.
        #[serde(default)]
        litres: Option<Litres>,
        /// Its EC.
        #[serde(default)]
        ec: Option<EcReading>,
    },
    /// A top-off reservoir on a float valve is filled.
    TopOffReservoir {
        /// With so much; with what it takes until it is full when absent.
        #[serde(default)]
        litres: Option<Litres>,
    },
    /// Feed is prepared ahead in a jug or a barrel.
    Jug {
        /// So much of it.
        litres: Litres,
    },
    /// Peroxide into the reservoir: 4 mL of 3 % for each litre.
    PeroxideDose {
        /// The water that stands there.
        #[serde(default)]
        litres: Option<Litres>,
        /// Which peroxide; the shipped 3 % when absent.
        #[serde(default)]
        product: Option<Uuid>,
        /// Although the last dose is still at work.
        #[serde(default)]
        again: bool,
    },
    /// Roots bathed in one part 3 % peroxide to two of water.
    RootBath {
        /// So much of the bath.
        litres: Litres,
        /// Which peroxide; the shipped 3 % when absent.
        #[serde(default)]
        product: Option<Uuid>,
        /// How far the roots have gone.
        #[serde(default)]
        stage: Option<RootStage>,
    },
    /// A stronger peroxide is weakened.
    Dilution {
        /// From so many per cent.
        from_percent: f64,
        /// To so many.
        to_percent: f64,
        /// So much in all.
        litres: Litres,
    },
    /// Level, strength and pH of one tank put right together: water, feed, then acid or base, and one wait.
    PutRight {
        /// What is in the tank; carried on from the last level when absent.
        #[serde(default)]
        from: Option<Litres>,
        /// Up to here; the working line or the refill limit when absent.
        #[serde(default)]
        to: Option<Litres>,
        /// Its EC; as it is estimated when absent.
        #[serde(default)]
        ec: Option<EcReading>,
        /// Its pH; the last one read when absent.
        #[serde(default)]
        ph: Option<PhReading>,
    },
    /// pH put right.
    Ph {
        /// The water that stands there.
        #[serde(default)]
        litres: Option<Litres>,
        /// Its pH; the last one read when absent, where that is of today or yesterday and nothing was dosed since.
        #[serde(default)]
        ph: Option<PhReading>,
        /// The pH that is wanted; 6.0 when absent.
        #[serde(default)]
        aim: Option<Ph>,
        /// With which product; the shipped acid or base when absent.
        #[serde(default)]
        product: Option<Uuid>,
        /// A jar test that fixed the pH.
        #[serde(default)]
        jar: Option<JarTest>,
    },
}

/// Where a batch is mixed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MixIn {
    /// In cans that are carried, or in a bin that stands.
    Cans,
    /// In the vessel itself: water by the hose, then product after product, stirred round between.
    Vessel,
}

/// A product asked for by itself, with a rate of one's own over the label's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AskLine {
    /// The product, shipped or own.
    pub product: Uuid,
    /// How much.
    #[serde(default)]
    pub rate: Option<PrintedRate>,
}

/// What is asked of the bench.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Ask {
    /// What it is for.
    pub purpose: Purpose,
    /// The recipe; the system's when absent.
    #[serde(default)]
    pub recipe: Option<Uuid>,
    /// Products instead of a recipe.
    #[serde(default)]
    pub products: Vec<AskLine>,
    /// The stage that the recipe is for; that of what grows in the system when absent.
    #[serde(default)]
    pub stage: Option<Stage>,
    /// The EC that is wanted; the middle of the crops' band when absent, the recipe as printed
    /// where nothing is measured.
    #[serde(default)]
    pub target: Option<EcReading>,
    /// Feed by the recipe as printed, whatever EC it comes to.
    #[serde(default)]
    pub as_printed: bool,
    /// EC of the water it is made from; the system's source when absent.
    #[serde(default)]
    pub source_ec: Option<EcReading>,
    /// Temperature of the tank.
    #[serde(default)]
    pub tank_temperature: Option<Celsius>,
    /// Temperature of the fresh water.
    #[serde(default)]
    pub water_temperature: Option<Celsius>,
    /// Where it is mixed; in cans where all of them can be carried, else in the vessel, when absent.
    #[serde(default)]
    pub mix_in: Option<MixIn>,
    /// A guide asks, which lets the old water out, fills and pours in steps of its own: only the mixing is told.
    #[serde(default)]
    pub led: bool,
    /// Containers at hand; the place's when absent.
    #[serde(default)]
    pub containers: Option<Vec<Container>>,
    /// Tools at hand; the place's when absent.
    #[serde(default)]
    pub tools: Option<Vec<Tool>>,
}

impl Ask {
    /// An ask for a purpose, with everything else left to what is known.
    #[must_use]
    pub fn new(purpose: Purpose) -> Self {
        Self {
            purpose,
            recipe: None,
            products: vec![],
            stage: None,
            target: None,
            as_printed: false,
            source_ec: None,
            tank_temperature: None,
            water_temperature: None,
            mix_in: None,
            led: false,
            containers: None,
            tools: None,
        }
    }

    pub(super) fn check(&self) -> Result<(), Refusal> {
        let listed = [
            ("products", self.products.len()),
            ("containers", self.containers.as_ref().map_or(0, Vec::len)),
            ("tools", self.tools.as_ref().map_or(0, Vec::len)),
        ];
        if let Some((field, found)) = listed.into_iter().find(|(_, found)| *found > MOST_LISTED) {
            return Err(refuse!("too_much_gear", found = count(found), most = count(MOST_LISTED)).at(field));
        }
        for (i, tool) in self.tools.iter().flatten().enumerate() {
            tool.check().at(&format!("tools.{i}"))?;
        }
        Ok(())
    }

    /// Whether it comes to plain water and nothing else.
    pub(super) fn plain_water_only(&self, shelf: &Shelf<'_>) -> bool {
        let usual = shelf.situation.map(|s| s.system.methods.top_off).unwrap_or_default();
        matches!(self.purpose, Purpose::TopOff { method, .. } if method.unwrap_or(usual) == TopOffMethod::Plain)
    }
}

/// Products, containers or tools of one ask.
const MOST_LISTED: usize = 20;

/// What is known around the bench.
#[derive(Debug)]
pub struct Shelf<'a> {
    /// The system, where there is one.
    pub situation: Option<&'a Situation<'a>>,
    /// Every product, shipped and own.
    pub products: &'a BTreeMap<Uuid, Product>,
    /// Every recipe, shipped and own.
    pub recipes: &'a BTreeMap<Uuid, Recipe>,
    /// EC rises learnt from logged batches.
    pub learnt: &'a BTreeMap<Uuid, Learnt>,
    /// The containers of the place.
    pub containers: &'a [Container],
    /// The tools of the place.
    pub tools: &'a [Tool],
    /// What whoever asks carries without harm, in kg.
    pub lifts: f64,
    /// The EC scale that its reader reads, so that the others can be told beside it.
    pub scale: EcScale,
    /// Who asks.
    pub actor: &'a Actor,
}

impl Shelf<'_> {
    /// Whether nothing moves the water of the system, so that no pump is spoken of.
    pub(super) fn still(&self) -> bool {
        self.situation.is_some_and(|s| s.system.traits.still())
    }

    /// A product.
    pub(super) fn product(&self, id: Uuid) -> Result<&Product, Refusal> {
        self.products.get(&id).ok_or_else(|| refuse!("product_not_on_shelf", found = id.to_string()).at("product"))
    }

    /// EC of the water that it is made from.
    pub(super) fn source(&self, ask: &Ask) -> Result<Conductivity, Refusal> {
        let given = ask.source_ec.map(|ec| ec.at_25(ask.water_temperature)).transpose().at("source_ec")?;
        let known = given.or(self.situation.map(|s| s.system.source_ec));
        Ok(known.unwrap_or_else(|| Conductivity::constant(FIGURES.strength.tap)))
    }

    /// The volume that stands in the system now: as it is given, else as it is estimated, where that is
    /// known well enough to pour by.
    pub(super) fn standing(&self, given: Option<Litres>) -> Result<About<Litres>, Refusal> {
        let litres = self.stands(given)?;
        if litres.value <= Litres::ZERO {
            return Err(refuse!("nothing_stands_there").at("purpose.litres"));
        }
        Ok(litres)
    }

    /// The same, also where nothing is left: a dry vessel is topped off like any other.
    pub(super) fn stands(&self, given: Option<Litres>) -> Result<About<Litres>, Refusal> {
        let given = given.map(About::exactly);
        let known = || self.situation.and_then(|s| s.water().litres());
        let litres = given.or_else(known).ok_or_else(|| refuse!("standing_unknown").at("purpose.litres"))?;
        if let Some(s) = self.situation.filter(|s| given.is_none() && too_wide(&litres, s)) {
            let (low, high) = (litres.low, litres.high.min(s.system.reservoir.shape.capacity()));
            return Err(refuse!("level_too_old", range = band(low, high)).at("purpose.litres"));
        }
        let rim = self.situation.map(|s| s.system.reservoir.shape.capacity());
        match rim.filter(|rim| litres.value > *rim * HAIR) {
            Some(rim) => Err(refuse!("volume_over_rim", found = litres.value, rim = rim).at("purpose.litres")),
            None => Ok(litres),
        }
    }

    /// EC of what stands in the system, as it is given, else as it is estimated, if it is known.
    pub(super) fn standing_ec(
        &self,
        given: Option<EcReading>,
        ask: &Ask,
        field: &str,
    ) -> Result<Option<About<Conductivity>>, Refusal> {
        let given = given.map(|ec| ec.at_25(ask.tank_temperature)).transpose().at(field)?;
        Ok(given.map(About::exactly).or(self.situation.and_then(|s| s.water().ec())))
    }

    /// The same where something is poured by it: it has to be known, well enough, and to be a strength
    /// that a tank can show.
    pub(super) fn acting_ec(
        &self,
        given: Option<EcReading>,
        ask: &Ask,
        source: Conductivity,
    ) -> Result<Conductivity, Refusal> {
        let figures = &FIGURES.strength;
        let about = self.standing_ec(given, ask, "purpose.ec")?;
        let about = about.ok_or_else(|| refuse!("tank_ec_unknown").at("purpose.ec"))?;
        if !strength_known(&about) {
            return Err(refuse!("ec_too_old", range = band(about.low, about.high)).at("purpose.ec"));
        }
        let (found, most) = (about.value, Conductivity::constant(figures.read_most));
        if found > most || found + Conductivity::constant(figures.under_source) < source {
            return Err(refuse!("ec_unbelievable", found = found, source = source, most = most).at("purpose.ec"));
        }
        Ok(found)
    }
}

/// What a level at the rim may be off by in its last places.
const HAIR: f64 = 1.0001;
