//! What water holds against acid: the carbonate of its source, the phosphate of feed, and the air that it stands in.
//!
//! Water is open. Acid turns bicarbonate into carbonic acid, which leaves as gas: within hours where water is aerated or
//! falls, in days where it stands still. So the same dose moves the pH *at once*, in closed water, further than it has
//! moved it by the next day; and water that plants live in holds little carbonate, and the phosphate of its feed.

/// Where half of the carbonate stands as bicarbonate.
const HALFWAY: f64 = 6.35;
/// Where half of the phosphate has given its second proton away, in feed of usual strength.
const PHOSPHATE: f64 = 6.8;
/// meq/L of bicarbonate at pH 6 in water in balance with the air.
const IN_AIR: f64 = 0.007;
/// mg of CaCO₃ in one milliequivalent.
const MG_PER_MEQ: f64 = 50.0;

/// Share of carbonate that stands as bicarbonate, α(p) = 1 / (1 + 10^(6.35 − p)).
#[must_use]
pub fn bicarbonate(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(HALFWAY - ph))
}

/// Share of phosphate that holds against acid, β(p) = 1 / (1 + 10^(6.8 − p)).
#[must_use]
pub fn phosphate(ph: f64) -> f64 {
    1.0 / (1.0 + 10f64.powf(PHOSPHATE - ph))
}

/// Alkalinity in meq/L, from mg/L CaCO₃.
#[must_use]
pub fn meq_of(alkalinity: f64) -> f64 {
    alkalinity / MG_PER_MEQ
}

/// Acid for a litre of source water from one pH to another, at once, in meq: A · (1 − α(t)/α(p₀)).
#[must_use]
pub fn at_once(alkali: f64, from: f64, to: f64) -> f64 {
    alkali * (1.0 - bicarbonate(to) / bicarbonate(from))
}

/// Acid for a litre of source water to a pH, once the gas has left, in meq: A − 0.007 · 10^(t − 6).
#[must_use]
pub fn in_all(alkali: f64, to: f64) -> f64 {
    alkali - IN_AIR * 10f64.powf(to - 6.0)
}

/// meq that a litre holds against acid at a pH, in balance with the air, for each mmol/L of phosphate:
/// β(p) + 0.007 · 10^(p − 6) − 10^(3 − p). It rises ever faster with the pH, so worse water is never given less.
#[must_use]
pub fn held(ph: f64) -> f64 {
    phosphate(ph) + IN_AIR * 10f64.powf(ph - 6.0) - 10f64.powf(3.0 - ph)
}

/// The pH at which that much is held; beyond pH 3 and 10 those ends.
#[must_use]
pub fn ph_holding(wanted: f64) -> f64 {
    root(|ph| held(ph) - wanted)
}

/// A batch before roots meet it: what the water brings, and the phosphate of the feed in mmol/L.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Batch {
    /// Alkalinity in meq/L.
    pub alkali: f64,
    /// Carbonate in all, in mmol/L.
    pub carbonate: f64,
    /// Phosphate, in mmol/L.
    pub phosphate: f64,
}

impl Batch {
    /// Water of that alkalinity and pH, with so much phosphate stirred in.
    #[must_use]
    pub fn new(alkali: f64, source_ph: f64, phosphate: f64) -> Self {
        Self { alkali, carbonate: alkali / bicarbonate(source_ph), phosphate }
    }

    fn holds(self, ph: f64, carbonate: f64) -> f64 {
        carbonate + self.phosphate * phosphate(ph) - 10f64.powf(3.0 - ph)
    }

    /// Its pH, before gas has left: A = C · α(p) + P · β(p).
    #[must_use]
    pub fn ph(self) -> f64 {
        root(|ph| self.holds(ph, self.carbonate * bicarbonate(ph)) - self.alkali)
    }

    /// The acid that takes it to a pH, in meq a litre; nothing where it stands lower already.
    #[must_use]
    pub fn acid_to(self, ph: f64) -> f64 {
        (self.alkali - self.holds(ph, self.carbonate * bicarbonate(ph))).max(0.0)
    }

    /// What it climbs to as gas leaves, once so much acid went in.
    #[must_use]
    pub fn climbs_to(self, acid: f64) -> f64 {
        root(|ph| self.holds(ph, IN_AIR * 10f64.powf(ph - 6.0)) - (self.alkali - acid))
    }
}

/// Where a rising function of the pH passes zero, from pH 3 to 10.
fn root(over: impl Fn(f64) -> f64) -> f64 {
    let (mut low, mut high) = (3.0, 10.0);
    for _ in 0..48 {
        let middle = f64::midpoint(low, high);
        if over(middle) < 0.0 { low = middle } else { high = middle }
    }
    f64::midpoint(low, high)
}
