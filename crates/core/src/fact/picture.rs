//! Pictures of plants: what is known of each; the bytes are the store's.

use crate::quantity::Note;
use crate::system::PortSet;
use jiff::Timestamp;
use uuid::Uuid;

/// A picture as it is kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Picture {
    /// Made by the client.
    pub id: Uuid,
    /// At which system.
    pub system: Uuid,
    /// When it was taken.
    pub at: Timestamp,
    /// By whom.
    pub by: Uuid,
    /// Of which ports, where that is known.
    pub ports: Option<PortSet>,
    /// What it shows.
    pub note: Option<Note>,
    /// In pixels.
    pub width: u32,
    /// In pixels.
    pub height: u32,
    /// How large it is kept.
    pub bytes: u32,
}

/// A picture to be kept, encoded anew.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NewPicture {
    /// Made by the client, so that a repeated request keeps one picture.
    pub id: Uuid,
    /// When it was taken; now when absent.
    pub at: Option<Timestamp>,
    /// Of which ports.
    pub ports: Option<PortSet>,
    /// What it shows.
    pub note: Option<Note>,
    /// In pixels.
    pub width: u32,
    /// In pixels.
    pub height: u32,
    /// The picture, as JPEG without any of what the camera wrote beside it.
    pub image: Vec<u8>,
    /// The same, small.
    pub small: Vec<u8>,
}
