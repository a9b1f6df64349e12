//! One top-off reservoir that fills several systems.

use crate::book::{Pages, SystemFile};
use std::sync::Arc;

impl Pages {
    /// Systems that are filled from the top-off reservoir of another know what is known of it there.
    pub(crate) fn share_drums(&mut self) {
        let fed = |file: &SystemFile| {
            let owner = self.systems.get(&file.system.drum_of?)?;
            Some(Box::new(file.known.clone().fed_from(&owner.known, (&owner.system, &file.system))))
        };
        // What has no shared reservoir, now or before, is not touched.
        let some = self.systems.iter().filter(|(_, file)| file.system.drum_of.is_some() || file.with_drum.is_some());
        let all: Vec<_> = some.map(|(id, file)| (*id, fed(file))).collect();
        for (id, with_drum) in all {
            self.systems.entry(id).and_modify(|file| Arc::make_mut(file).with_drum = with_drum);
        }
    }
}
