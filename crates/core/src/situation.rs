//! All that a rule may look at: one system, at one moment, for one actor.

use crate::band::PhBand;
use crate::calendar::{Calendar, days_between, local_date};
use crate::crop::{EcTarget, LightTarget, Planting, Stage, ec_target, light_target, ruling};
use crate::fact::{Actor, Planted, Segment, Timeline};
use crate::figures::FIGURES;
use crate::mixing::FeedFacts;
use crate::projection::{Known, Standing, Touched, mixes_in};
use crate::quantity::Ph;
use crate::system::System;
use jiff::civil::Date;
use jiff::{Timestamp, Zoned};
use uuid::Uuid;

/// The system, what grows in it, what its log comes to, its place's calendar, the time in the place's
/// zone, and who asks.
#[derive(Debug, Clone, Copy)]
pub struct Situation<'a> {
    /// The system as it is now.
    pub system: &'a System,
    /// The system by when it was how.
    pub history: &'a Timeline<System>,
    /// What grows in it now.
    pub plantings: &'a [Planting],
    /// What grew in it, by when.
    pub planted: Planted<'a>,
    /// The ids of the plantings of `planted`, in the same order.
    pub planting_ids: &'a [Uuid],
    /// What its log comes to.
    pub known: &'a Known,
    /// When its place is open.
    pub calendar: &'a Calendar,
    /// Now, in the place's time zone.
    pub now: &'a Zoned,
    /// When the meter was last calibrated, at whichever system.
    pub calibrated: Option<Timestamp>,
    /// What its recipe feeds, as far as that is told.
    pub feed: FeedFacts,
    /// What came here, or was used here, that was at a system which is ill.
    pub touched: &'a [Touched],
    /// Who asks.
    pub actor: &'a Actor,
}

impl Situation<'_> {
    /// How many plants stand on this water.
    #[must_use]
    pub fn plants(&self) -> u32 {
        let standing = self.plantings.iter().filter(|planting| planting.stage != Stage::Done);
        standing.map(|planting| u32::try_from(planting.ports.len()).unwrap_or(u32::MAX)).sum()
    }

    /// Whether its log is empty: nothing stands in it that anybody has told of.
    #[must_use]
    pub fn nothing_yet(&self) -> bool {
        self.known.done.entries == 0
    }

    /// The day from which something never recorded is counted: the first entry's, or the system's
    /// start while nothing is recorded at all.
    #[must_use]
    pub fn began(&self) -> Date {
        self.known.done.first_at.map_or(self.system.since, |at| local_date(at, self.now))
    }

    /// Today, at the place.
    #[must_use]
    pub fn today(&self) -> Date {
        self.now.date()
    }

    /// The date of a moment, at the place.
    #[must_use]
    pub fn date(&self, at: Timestamp) -> Date {
        local_date(at, self.now)
    }

    /// Whether any planting is so.
    pub fn grows(&self, so: impl Fn(&Planting) -> bool) -> bool {
        self.plantings.iter().any(so)
    }

    /// The water as it stands now: the one estimate that every rule asks.
    #[must_use]
    pub fn water(&self) -> Standing {
        self.known.water.clone().carried(self.now.timestamp(), self.known, self.system)
    }

    /// The strength that suits what grows here now.
    #[must_use]
    pub fn ec_target(&self) -> Option<EcTarget> {
        let fed = self.fed();
        ec_target(&fed, self.system.ec_band, self.system.source_ec)
    }

    /// What grows here, each at the stage whose feed it gets.
    #[must_use]
    pub fn fed(&self) -> Vec<Planting> {
        self.plantings.iter().map(|planting| planting.fed(self.system.methods.ripening)).collect()
    }

    /// The light that suits what grows under its lamp; `None` where there is no lamp, or nothing grows.
    #[must_use]
    pub fn light_target(&self) -> Option<LightTarget> {
        if self.system.traits.light { light_target(self.plantings, &self.system.methods) } else { None }
    }

    /// What still makes this system a suspect because of another, the newest contact first: nobody has had a sound look
    /// since it would show, and not too long has passed. What came before a case of its own is that case's.
    #[must_use]
    pub fn suspect_of(&self) -> Vec<&Touched> {
        let (figures, happened, cases) = (&FIGURES.hygiene, &self.known.happened, &self.known.cases);
        let still = |touched: &&Touched| {
            let looks = if touched.at_roots() { &happened.sound_roots } else { &happened.sound_plants };
            let shown = looks.iter().any(|at| days_between(touched.at, *at) >= figures.shows_days);
            let rot = cases.all.iter().any(|case| touched.cause == Touched::ROT && case.opened >= touched.at);
            let own = cases.plants.iter().any(|case| case.cause == touched.cause && case.opened >= touched.at);
            !shown && !rot && !own && days_between(touched.at, self.now.timestamp()) <= figures.suspect_days
        };
        let mut all: Vec<&Touched> = self.touched.iter().filter(still).collect();
        all.sort_by_key(|touched| std::cmp::Reverse(touched.at));
        all
    }

    /// The last change of what the system is filled from, under what grows here, as long as it is felt:
    /// the moment, the system before it and the system after.
    #[must_use]
    pub fn source_changed(&self) -> Option<(Timestamp, &System, &System)> {
        // What is said for the first time is no change.
        let differs = |was: Option<f64>, now: Option<f64>| was.zip(now).is_some_and(|(was, now)| was != now);
        let moved = |pair: &&[Segment<System>]| {
            let (was, now) = (&pair[0].says, &pair[1].says);
            was.source_ec != now.source_ec
                || was.methods.source != now.methods.source
                || differs(was.methods.source_ph.map(Ph::get), now.methods.source_ph.map(Ph::get))
                || differs(was.methods.alkalinity, now.methods.alkalinity)
        };
        let last = self.history.segments().windows(2).rev().find(moved)?;
        let felt = days_between(last[1].start, self.now.timestamp()) <= FIGURES.strength.source_felt;
        (felt && self.plants() > 0).then_some((last[1].start, &last[0].says, &last[1].says))
    }

    /// The pH that is wanted here: the system's own band, else where those of the plantings meet, else
    /// the usual one.
    #[must_use]
    pub fn ph_band(&self) -> PhBand {
        let own = ruling(self.plantings).into_iter().filter_map(|planting| planting.ph_band);
        let met = own.map(Some).reduce(|a, b| a?.meets(&b?)).flatten();
        self.system.ph_band.or(met).unwrap_or_else(PhBand::usual)
    }

    /// The pH that a correction aims at: the middle of what is wanted, leaning against the drift, so that
    /// it takes longer to leave the band.
    #[must_use]
    pub fn ph_aim(&self) -> f64 {
        let (band, figures) = (self.ph_band(), &FIGURES.ph);
        let a_day = Standing::ph_a_day(self.known);
        // What rises comes back into the band from below by itself, and is caught there; what falls is met higher up.
        let against = if a_day < -figures.drifts { figures.aim_falling - figures.aim } else { 0.0 };
        let margin = figures.meter_error;
        (band.aim() + against).clamp(band.low.get() + margin, band.high.get() - margin)
    }

    /// Minutes until something that was poured has mixed and can be measured.
    #[must_use]
    pub fn mixes_in(&self) -> f64 {
        mixes_in(self.system)
    }
}
