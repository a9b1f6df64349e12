//! A plant that goes on in another vessel, or in a new one as a cutting.

use crate::message::{Message, count};
use crate::quantity::Name;
use crate::refusal::Refusal;
use crate::refuse;
use crate::say;
use crate::system::PortSet;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// What was moved here from another system, or grown from a cutting of what stands there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Transplant {
    /// Which planting it was of.
    pub planting: Uuid,
    /// What that was called then.
    pub crop: Name,
    /// The system that it stood in.
    pub system: Uuid,
    /// What that was called then.
    pub name: Name,
    /// The ports that it left; absent for a cutting, whose plant stays where it is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub left: Option<PortSet>,
    /// The ports that it stands in here.
    pub to: PortSet,
    /// The planting that it is here. Made by the client, so that a repeated request is the same move.
    pub becomes: Uuid,
}

impl Transplant {
    /// Whether it was cut, and its plant stays.
    #[must_use]
    pub fn cutting(&self) -> bool {
        self.left.is_none()
    }

    /// Checks that as many plants come as go, and that the ports are there.
    ///
    /// # Errors
    /// A refusal at the field.
    pub(super) fn check(&self, ports: u16) -> Result<(), Refusal> {
        self.to.check(ports).map_err(|refusal| refusal.at("to"))?;
        match &self.left {
            Some(left) if left.len() != self.to.len() => {
                Err(refuse!("moved_unevenly", left = count(left.len()), to = count(self.to.len())).at("to"))
            }
            _ => Ok(()),
        }
    }

    /// As it is said.
    #[must_use]
    pub fn say(&self) -> Message {
        let (crop, name, ports) = (&self.crop, &self.name, self.to.say());
        if self.cutting() {
            say!("entry.cuttings", crop = crop, name = name, ports = ports)
        } else {
            say!("entry.transplanted", crop = crop, name = name, ports = ports)
        }
    }
}
