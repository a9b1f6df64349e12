//! One top-off reservoir that fills several systems.

use crate::book::{Pages, SystemFile};

impl Pages {
    /// Systems that are filled from the top-off reservoir of another know what is known of it there.
    pub(crate) fn share_drums(&mut self) {
        let fed = |file: &SystemFile| {
            let owner = self.systems.get(&file.system.drum_of?)?;
            Some(Box::new(file.known.clone().fed_from(&owner.known, (&owner.system, &file.system))))
        };
        let all: Vec<_> = self.systems.iter().map(|(id, file)| (*id, fed(file))).collect();
        for (id, with_drum) in all {
            self.systems.entry(id).and_modify(|file| file.with_drum = with_drum);
        }
    }
}
