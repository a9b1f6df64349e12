//! The salt balance. S = EC · V: dilute mixing is linear in EC to within a few per cent, and salt is
//! neither made nor lost by pouring.

use crate::quantity::{Conductivity, Difference, Litres, Salt};
use crate::{Refusal, refuse};

/// A body of water: its volume and its strength.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Water {
    /// How much.
    pub litres: Litres,
    /// How strong.
    pub ec: Conductivity,
}

impl Water {
    /// A body of water.
    #[must_use]
    pub fn new(litres: Litres, ec: Conductivity) -> Self {
        Self { litres, ec }
    }

    /// Its salt, S = EC · V.
    #[must_use]
    pub fn salt(self) -> Salt {
        self.ec * self.litres
    }

    /// The two poured together.
    #[must_use]
    pub fn with(self, other: Self) -> Self {
        let litres = self.litres + other.litres;
        if litres <= Litres::ZERO {
            return self;
        }
        Self { litres, ec: ((self.salt() + other.salt()) / litres).or_nothing() }
    }
}

/// A strength that can be mixed from the source: no weaker than it, and none that is off the scale.
fn mixable(
    ec: Difference<Conductivity>,
    source: Conductivity,
    otherwise: impl FnOnce() -> Refusal,
) -> Result<Conductivity, Refusal> {
    const LAST_PLACES: f64 = 1e-9;
    if ec.get() < source.get() - LAST_PLACES { Err(otherwise()) } else { Conductivity::new(ec.get().max(0.0)) }
}

/// The strength of the fresh batch beside a heel that cannot be drained:
/// EC_fresh = (EC_t V − EC_h V_h) / (V − V_h).
///
/// # Errors
/// A heel that fills the vessel, or one so strong that plain water cannot bring it to the target.
pub fn beside_heel(target: Water, heel: Water, source: Conductivity) -> Result<Water, Refusal> {
    let fresh = (target.litres - heel.litres).positive();
    let fresh = fresh.ok_or_else(|| refuse!("heel_fills", heel = heel.litres, filling = target.litres))?;
    let ec = (target.salt() - heel.salt()) / fresh;
    let ec = mixable(ec, source, || refuse!("heel_too_strong", heel = heel.ec, target = target.ec, source = source))?;
    Ok(Water::new(fresh, ec))
}

/// What to pour onto `before` to have `after`: EC_add = (EC₁V₁ − EC₀V₀) / (V₁ − V₀).
///
/// # Errors
/// No room; or water that is too strong for any top-off: then [`drain_first`] says how much to drain.
pub fn top_off(before: Water, after: Water, source: Conductivity) -> Result<Water, Refusal> {
    let room = (after.litres - before.litres).positive();
    let room = room.ok_or_else(|| refuse!("no_room", standing = before.litres, wanted = after.litres))?;
    let ec = mixable((after.salt() - before.salt()) / room, source, || match drain_first(before, after, source) {
        Ok(drain) => refuse!("too_strong_drain", standing = before.ec, wanted = after.ec, drain = drain),
        Err(_) => refuse!("too_strong_change", standing = before.ec, wanted = after.ec, source = source),
    })?;
    Ok(Water::new(room, ec))
}

/// How much to drain before plain water brings it to the wanted volume and strength:
/// D = (EC₀V₀ + EC_w (V₁ − V₀) − EC₁V₁) / (EC₀ − EC_w).
///
/// # Errors
/// A source as strong as the water itself, or as the target.
pub fn drain_first(before: Water, after: Water, source: Conductivity) -> Result<Litres, Refusal> {
    if before.ec <= source || after.ec <= source {
        return Err(refuse!("source_too_strong", source = source, target = after.ec));
    }
    let filled_up = before.salt() + source * (after.litres - before.litres);
    let drain = (filled_up - after.salt()) / (before.ec - source);
    if drain.get() < 0.0 {
        return Err(refuse!("nothing_to_drain", standing = before.ec, wanted = after.ec));
    }
    Ok(drain.size())
}

/// How much plain water brings a water down to a strength: V₀ (EC₀ − EC₁) / (EC₁ − EC_w). `None` where
/// it is no stronger than that already, or the plain water is.
#[must_use]
pub fn plain_to(before: Water, wanted: Conductivity, source: Conductivity) -> Option<Litres> {
    let (over, under) = ((before.ec - wanted).positive()?, (wanted - source).positive()?);
    Some(before.litres * (over / under))
}

/// How much of a filling has to be softer water, so that the two together stand at `wanted`:
/// V (EC_w − EC) / (EC_w − EC_soft). `None` where even the softer water alone is too strong, or the
/// source is soft enough.
#[must_use]
pub fn soften(whole: Litres, source: Conductivity, softer: Conductivity, wanted: Conductivity) -> Option<Litres> {
    let (over, range) = ((source - wanted).positive()?, (source - softer).positive()?);
    let share = over / range;
    (share <= 1.0).then(|| whole * share)
}

/// A small concentrated batch after the hose: EC_b = (EC₁ (V_h + V_b) − EC_h V_h) / V_b.
/// `hosed` is what stands after the hose, `batch` the volume of the jug.
///
/// # Errors
/// A jug of 0 L, a batch that would have to be weaker than the source, or stronger than 20 mS/cm.
pub fn batch_after_hose(
    hosed: Water,
    batch: Litres,
    target: Conductivity,
    source: Conductivity,
) -> Result<Water, Refusal> {
    if batch <= Litres::ZERO {
        return Err(refuse!("batch_empty"));
    }
    let salt = target * (hosed.litres + batch) - hosed.salt();
    if (salt / batch).get() > Conductivity::MAX {
        let least = (salt / Conductivity::constant(Conductivity::MAX)).size();
        return Err(refuse!(
            "batch_off_scale",
            batch = batch,
            found = (salt / batch).size(),
            most = Conductivity::constant(Conductivity::MAX),
            least = least
        ));
    }
    let ec = mixable(salt / batch, source, || refuse!("strong_enough", standing = hosed.ec, wanted = target))?;
    Ok(Water::new(batch, ec))
}

/// The strength at which a top-off holds EC level: what was taken up of salt over what was drunk of
/// water. Negative where the readings contradict each other; `None` when no water was used.
#[must_use]
pub fn uptake_concentration(
    before: Water,
    added: Water,
    drained: Water,
    after: Water,
) -> Option<Difference<Conductivity>> {
    let salt = before.salt() + added.salt() - drained.salt() - after.salt();
    let water = (before.litres + added.litres - (drained.litres + after.litres)).positive()?;
    Some(salt / water)
}
