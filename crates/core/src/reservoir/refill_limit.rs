//! How far still water may rise in one refill.
//!
//! In water that is neither moved nor aerated the roots above the line turn into air roots.
//! Covering them drowns the plant, so the line rises little, and seldom.

use super::Reservoir;
use crate::figures::FIGURES;
use crate::message::{Message, days};
use crate::quantity::{Litres, Millimetres};
use crate::{Refusal, refuse, say};
use serde::{Deserialize, Serialize};

/// How a grower guards the air roots.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RefillMethod {
    /// Moved or aerated water: no limit but the maximum.
    #[default]
    NoLimit,
    /// Refill to the highest level of the last three days, never higher.
    HoldTheLine,
    /// Raise by at most one inch, seven days apart. The default for still water.
    OneInch,
    /// Up to the line only; when the water is low, a second vessel is filled to its mark and the plants move over: jars of
    /// young or fast plants.
    WholeSwap,
    /// Act at a quarter full, fill to a half: rafts with mature plants.
    QuarterToHalf,
}

/// The highest volume that a refill may reach, and why.
#[derive(Debug, Clone, PartialEq)]
pub struct RefillLimit {
    /// Fill no further than this.
    pub up_to: Litres,
    /// Litres from the present volume to there.
    pub litres: Litres,
    /// The reason, in a sentence.
    pub reason: Message,
}

impl RefillLimit {
    /// A limit from what stands there now; what stands above it already is left.
    #[must_use]
    pub fn up_to(target: Litres, now: Litres, reason: Message) -> Self {
        let up_to = target.max(now);
        Self { up_to, litres: (up_to - now).or_nothing(), reason }
    }

    /// Nothing may be added.
    #[must_use]
    pub fn nothing(now: Litres, reason: Message) -> Self {
        Self { up_to: now, litres: Litres::ZERO, reason }
    }
}

/// The limit for a refill from `now`.
///
/// `line` is the highest level of the last three days, as far as it is known: what stands there now counts with it.
/// `days_since_rise` counts from when water last rose above the line; nothing where it never did. Up to the line is no
/// rise, and may be poured any day. A dry plant dies sooner than a covered one: below the minimum the answer is never
/// nothing, but the minimum or the line, whichever is higher, whatever was poured yesterday.
#[must_use]
pub fn refill_limit(
    method: RefillMethod,
    reservoir: &Reservoir,
    now: Litres,
    line: Option<Litres>,
    days_since_rise: Option<f64>,
) -> RefillLimit {
    let (figures, minimum) = (&FIGURES.refill, reservoir.minimum.min(reservoir.maximum));
    let line = line.unwrap_or(now).max(now);
    let (target, reason) = match method {
        RefillMethod::NoLimit => (reservoir.working, say!("refill.no_limit")),
        RefillMethod::HoldTheLine => (line, say!("refill.hold_the_line")),
        RefillMethod::WholeSwap => (line, say!("refill.whole_swap")),
        RefillMethod::OneInch => match days_since_rise.filter(|ago| *ago < figures.rest_days) {
            Some(ago) => (line, say!("refill.one_inch_rests", ago = days(ago), rest = days(figures.rest_days))),
            None => (one_inch_up(reservoir, line), say!("refill.one_inch", inch = Millimetres::INCH)),
        },
        RefillMethod::QuarterToHalf => {
            let full = reservoir.shape.capacity();
            if now > (full * figures.act_at).max(minimum) {
                (now, say!("refill.quarter_not_yet"))
            } else {
                (full * figures.fill_to, say!("refill.quarter_to_half"))
            }
        }
    };
    if now < minimum && target < minimum {
        return RefillLimit::up_to(minimum, now, say!("refill.minimum_first"));
    }
    RefillLimit::up_to(target.min(reservoir.maximum), now, reason)
}

/// The volume one inch above the present one. Where only litres are known, a tenth of the vessel
/// stands for the inch.
pub(crate) fn one_inch_up(reservoir: &Reservoir, now: Litres) -> Litres {
    match (reservoir.shape.height_of(now), reservoir.shape.height()) {
        (Some(height), Some(rim)) => {
            reservoir.shape.volume_at((height + Millimetres::INCH).min(rim)).map_or(now, |raised| raised)
        }
        _ => now + reservoir.shape.capacity() * FIGURES.refill.inch_of_stated,
    }
}

/// How many one-inch refills lead from one volume to another.
///
/// # Errors
/// A refusal when the wanted volume passes the vessel's maximum.
pub fn refills_needed(reservoir: &Reservoir, from: Litres, to: Litres) -> Result<u32, Refusal> {
    if to > reservoir.maximum {
        return Err(refuse!("wish_over_maximum", found = to, most = reservoir.maximum));
    }
    let mut count = 0;
    let mut now = from;
    // To a thousandth of a litre: three inches are three refills, whatever the last place says.
    while now.get() + 1e-3 < to.get() && count < 400 {
        now = one_inch_up(reservoir, now);
        count += 1;
    }
    Ok(count)
}
