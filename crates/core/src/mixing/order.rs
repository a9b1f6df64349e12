//! The order in which products go into the water, and why. Silica after feed, or calcium with
//! sulfate or phosphate concentrates, clouds and drops out: no other order is ever given.

use crate::message::{Message, Param, member};
use crate::say;
use serde::{Deserialize, Serialize};

/// What a product is, as far as its place in the order goes. The order of the variants is the order
/// of mixing.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, strum::VariantArray, utoipa::ToSchema,
)]
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

    /// Whether it brings calcium, which drops out with sulfate and phosphate where both are strong.
    #[must_use]
    pub fn holds_calcium(self) -> bool {
        matches!(self, Self::CalciumMagnesium | Self::PartA | Self::Micro | Self::CalciumNitrate)
    }

    /// Its code on the wire.
    #[must_use]
    pub fn code(self) -> &'static str {
        match self {
            Self::Dechlorinator => "dechlorinator",
            Self::Silica => "silica",
            Self::CalciumMagnesium => "calcium_magnesium",
            Self::PartA => "part_a",
            Self::PartB => "part_b",
            Self::Micro => "micro",
            Self::Grow => "grow",
            Self::Bloom => "bloom",
            Self::DryBase => "dry_base",
            Self::MagnesiumSulfate => "magnesium_sulfate",
            Self::CalciumNitrate => "calcium_nitrate",
            Self::OnePart => "one_part",
            Self::Booster => "booster",
            Self::Finisher => "finisher",
            Self::Peroxide => "peroxide",
            Self::PhUp => "ph_up",
            Self::PhDown => "ph_down",
        }
    }

    /// As it is said.
    #[must_use]
    pub fn say(self) -> Param {
        member("product", self.code())
    }

    /// The caution where it is poured.
    #[must_use]
    pub fn caution(self) -> Option<Message> {
        match self {
            Self::PhDown | Self::PhUp => Some(say!("product_caution.acid_or_base")),
            Self::Peroxide => Some(say!("product_caution.peroxide")),
            Self::Silica => Some(say!("product_caution.silica")),
            _ => None,
        }
    }

    /// Why it stands where it stands in the order of mixing.
    #[must_use]
    pub fn reason(self) -> Message {
        Message::of("product_reason", self.code(), "why")
    }
}

impl From<ProductKind> for Param {
    fn from(kind: ProductKind) -> Self {
        kind.say()
    }
}

/// The products in the order in which they go in.
#[must_use]
pub fn mixing_order(products: &[ProductKind]) -> Vec<ProductKind> {
    let mut order = products.to_vec();
    order.sort_unstable();
    order
}
