//! The order in which products go into the water, and why. Silica after feed, or calcium with
//! sulfate or phosphate concentrates, clouds and drops out: no other order is ever given.

use serde::{Deserialize, Serialize};

/// What a product is, as far as its place in the order goes. The order of the variants is the order
/// of mixing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs, reason = "the names say it")]
pub enum ProductKind {
    Dechlorinator,
    Silica,
    CalciumMagnesium,
    PartA,
    PartB,
    Micro,
    Grow,
    Bloom,
    DryBase,
    MagnesiumSulfate,
    CalciumNitrate,
    OnePart,
    Booster,
    Finisher,
    Peroxide,
    PhUp,
    PhDown,
}

impl ProductKind {
    /// Whether it feeds: these are scaled to a target strength; the others keep their own rate.
    #[must_use]
    pub fn feeds(self) -> bool {
        !matches!(self, Self::Dechlorinator | Self::Silica | Self::Peroxide | Self::PhUp | Self::PhDown)
    }

    /// As it is said.
    #[must_use]
    pub fn say(self) -> &'static str {
        match self {
            Self::Dechlorinator => "dechlorinator",
            Self::Silica => "silica",
            Self::CalciumMagnesium => "calcium–magnesium supplement",
            Self::PartA => "two-part feed, A",
            Self::PartB => "two-part feed, B",
            Self::Micro => "three-part feed, micro",
            Self::Grow => "three-part feed, grow",
            Self::Bloom => "three-part feed, bloom",
            Self::DryBase => "dry base",
            Self::MagnesiumSulfate => "magnesium sulfate",
            Self::CalciumNitrate => "calcium nitrate",
            Self::OnePart => "one-part feed",
            Self::Booster => "booster",
            Self::Finisher => "finisher",
            Self::Peroxide => "peroxide",
            Self::PhUp => "pH up",
            Self::PhDown => "pH down",
        }
    }

    /// The caution where it is poured.
    #[must_use]
    pub fn caution(self) -> Option<&'static str> {
        match self {
            Self::PhDown | Self::PhUp => Some("Gloves and goggles. Into water, never water into it, and never near the other one."),
            Self::Peroxide => Some("Over 3 % it burns: gloves, goggles, an adult. Never with bleach or vinegar."),
            Self::Silica => Some("Strongly alkaline: gloves, and rinse what it touches."),
            _ => None,
        }
    }

    /// Why it stands where it stands.
    #[must_use]
    pub fn reason(self) -> &'static str {
        match self {
            Self::Dechlorinator => "First, while nothing else is in for it to react with.",
            Self::Silica => "Into plain water: with feed it clouds and drops out. Then pH back to about 7, unless the feed lowers it itself.",
            Self::CalciumMagnesium => "Before the feed, so that calcium meets sulfate and phosphate only when both are dilute.",
            Self::PartA => "A before B: its calcium has to be dilute before B's phosphate comes.",
            Self::PartB => "After A is stirred in.",
            Self::Micro => "First of three: it holds the calcium and the trace elements.",
            Self::Grow => "After micro is stirred in.",
            Self::Bloom => "Last of three: its phosphate meets calcium only when both are dilute.",
            Self::DryBase => "First of the salts, fully dissolved.",
            Self::MagnesiumSulfate => "After the base is dissolved.",
            Self::CalciumNitrate => "Last of the salts: with sulfate or phosphate while concentrated it turns to gypsum.",
            Self::OnePart => "Once the water is ready.",
            Self::Booster => "After the feed is in.",
            Self::Finisher => "After the feed, in its place.",
            Self::Peroxide => "Last of all but pH, into the mixed water.",
            Self::PhUp | Self::PhDown => "Only when all else is in and mixed: fresh feed lowers pH by itself.",
        }
    }
}

/// The products in their order, each with its reason.
#[must_use]
pub fn mixing_order(products: &[ProductKind]) -> Vec<(ProductKind, &'static str)> {
    let mut order = products.to_vec();
    order.sort_unstable();
    order.into_iter().map(|product| (product, product.reason())).collect()
}
