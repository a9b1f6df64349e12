//! The salt balance. S = EC · V: dilute mixing is linear in EC to within a few per cent, and salt is
//! neither made nor lost by pouring.

use crate::Refusal;
use crate::quantity::{Conductivity, Litres};

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
    pub fn salt(self) -> f64 {
        self.litres.get() * self.ec.get()
    }

    /// The two poured together.
    #[must_use]
    pub fn with(self, other: Self) -> Self {
        let litres = self.litres.get() + other.litres.get();
        let ec = if litres > 0.0 { (self.salt() + other.salt()) / litres } else { 0.0 };
        Self { litres: Litres::nearest(litres), ec: Conductivity::nearest(ec) }
    }
}

/// Above this, roots are not met all at once: it is poured slowly, in portions, with the pump on.
pub const POUR_SLOWLY_ABOVE: f64 = 10.0;

fn strength(ec: f64, source: Conductivity, possible: impl Into<String>) -> Result<Conductivity, Refusal> {
    if ec < source.get() - 1e-9 {
        return Err(Refusal::new(
            format!("found a need for water of {ec:.2} mS/cm, weaker than the source's {:.2}", source.get()),
            format!("allowed is the source water's {:.2} mS/cm or stronger", source.get()),
            possible,
        ));
    }
    Conductivity::new(ec)
}

/// The strength of the fresh batch beside a heel that cannot be drained:
/// EC_fresh = (EC_t V − EC_h V_h) / (V − V_h).
///
/// # Errors
/// A heel that fills the vessel, or one so strong that plain water cannot bring it to the target.
pub fn beside_heel(target: Water, heel: Water, source: Conductivity) -> Result<Water, Refusal> {
    let fresh = target.litres.get() - heel.litres.get();
    if fresh <= 0.0 {
        return Err(Refusal::new(
            format!("found a heel of {:.1} L in a filling of {:.1} L", heel.litres.get(), target.litres.get()),
            "allowed is a heel smaller than the filling",
            "Drain more, or fill further.",
        ));
    }
    let ec = strength((target.salt() - heel.salt()) / fresh, source, "Rinse once and drain again, or aim a little higher.")?;
    Ok(Water::new(Litres::new(fresh)?, ec))
}

/// What to pour onto `before` to have `after`: EC_add = (EC₁V₁ − EC₀V₀) / (V₁ − V₀).
///
/// # Errors
/// No room; or water that is too strong for any top-off: then [`drain_first`] says how much to drain.
pub fn top_off(before: Water, after: Water, source: Conductivity) -> Result<Water, Refusal> {
    let litres = after.litres.get() - before.litres.get();
    if litres <= 0.0 {
        return Err(Refusal::new(
            format!("found {:.1} L standing, {:.1} L wanted", before.litres.get(), after.litres.get()),
            "allowed is a wanted volume above what stands there",
            "Nothing can be added; to strengthen it, stir feed into a jug of the tank's own water.",
        ));
    }
    let mend = match drain_first(before, after, source) {
        Ok(drain) => format!("Drain {:.2} L first, then add plain water.", drain.get()),
        Err(_) => "Change the reservoir.".to_owned(),
    };
    let ec = strength((after.salt() - before.salt()) / litres, source, mend)?;
    Ok(Water::new(Litres::new(litres)?, ec))
}

/// How much to drain before plain water brings it to the wanted volume and strength:
/// D = (EC₀V₀ + EC_w (V₁ − V₀) − EC₁V₁) / (EC₀ − EC_w).
///
/// # Errors
/// A source as strong as the water itself, or as the target.
pub fn drain_first(before: Water, after: Water, source: Conductivity) -> Result<Litres, Refusal> {
    if before.ec <= source || after.ec <= source {
        return Err(Refusal::new(
            format!("found source water of {:.2} mS/cm for a target of {:.2}", source.get(), after.ec.get()),
            "allowed is source water weaker than both the tank and the target",
            "Use a softer source, or change the reservoir.",
        ));
    }
    let room = after.litres.get() - before.litres.get();
    let drain = (before.salt() + source.get() * room - after.salt()) / (before.ec.get() - source.get());
    if drain < 0.0 {
        return Err(Refusal::new(
            format!("found water of {:.2} mS/cm, not too strong for {:.2}", before.ec.get(), after.ec.get()),
            "allowed is water that plain water alone cannot weaken enough",
            "Nothing has to be drained: top off.",
        ));
    }
    Ok(Litres::nearest(drain))
}

/// A small concentrated batch after the hose: EC_b = (EC₁ (V_h + V_b) − EC_h V_h) / V_b.
/// `hosed` is what stands after the hose, `batch` the volume of the jug.
///
/// # Errors
/// A jug of 0 L, a batch that would have to be weaker than the source, or stronger than 20 mS/cm.
pub fn batch_after_hose(hosed: Water, batch: Litres, target: Conductivity, source: Conductivity) -> Result<Water, Refusal> {
    if batch <= Litres::ZERO {
        return Err(Refusal::new("found a batch of 0 L", "allowed is more than 0 L", "Say how much the jug holds."));
    }
    let ec = (target.get() * (hosed.litres.get() + batch.get()) - hosed.salt()) / batch.get();
    Ok(Water::new(batch, strength(ec, source, "It is strong enough already: top off with plain water.")?))
}

/// The strength at which a top-off holds EC level: what was taken up of salt over what was drunk of
/// water. `None` when no water was used.
#[must_use]
pub fn uptake_concentration(before: Water, added: Water, drained: Water, after: Water) -> Option<Conductivity> {
    let salt = before.salt() + added.salt() - drained.salt() - after.salt();
    let water = before.litres.get() + added.litres.get() - drained.litres.get() - after.litres.get();
    (water > 0.0).then(|| Conductivity::nearest(salt / water))
}
