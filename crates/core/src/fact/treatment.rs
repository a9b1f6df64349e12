//! What was done against root rot, as it is logged.

use crate::quantity::{Millilitres, Note};
use crate::system::PortSet;
use serde::{Deserialize, Serialize};

/// What was done against root rot.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TreatmentKind {
    /// 3 % peroxide into the reservoir.
    PeroxideDose,
    /// Roots bathed in one part 3 % peroxide to two of water.
    RootBath,
    /// Plants taken out and thrown away.
    PlantsRemoved,
}

/// A treatment. Never recorded by a child: it means concentrates.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Treatment {
    /// What was done.
    pub what: TreatmentKind,
    /// How much product.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub amount_ml: Option<Millilitres>,
    /// On which ports.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ports: Option<PortSet>,
    /// Anything else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<Note>,
}
