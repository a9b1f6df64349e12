//! Files of readings: what one is like, looked at by its beginning, and all of it brought in.
//!
//! A file is read in one pass from an unnamed copy beside the data, line by line, in constant memory, however long it is. What is
//! wrong with its lines is gathered over the whole of it, so that it is mended once; nothing is kept then.

mod bring;
mod lines;
mod look;

pub use bring::{Came, NotTaken, bring};
pub use lines::{Piece, beginning};
pub use look::{ColumnKind, LookedView, MeantView, RowView, looked};

use crate::book::Pages;
use mopsel_core::columns::Known;
use mopsel_core::fact::{Act, Actor};
use uuid::Uuid;

/// The systems that a file can be about: those that are cared for.
pub fn systems(pages: &Pages, actor: &Actor) -> Vec<Known> {
    let may = |place: Uuid| actor.may(Act::Devices, Some(place)).is_ok();
    let there = pages.every_system().filter(|file| !file.card.archived && may(file.place));
    let known = there.filter_map(|file| {
        let place = pages.place_of(file).ok()?;
        let name = file.system.name.as_str().to_owned();
        Some(Known { id: file.card.id, name, zone: place.zone.clone(), history: file.history.clone() })
    });
    known.collect()
}
