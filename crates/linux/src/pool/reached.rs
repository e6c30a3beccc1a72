//! Where leased memory is reached, and cache lines in several such places.

use std::sync::Arc;

use revisum_engine::sweep::LINE;

use crate::sys::mapping::Mapping;

/// Memory that is reached: in the pool's own mapping, or in a window.
pub(super) enum Reached<'a> {
    Pool(&'a Mapping),
    Window(Arc<Mapping>),
}

impl std::ops::Deref for Reached<'_> {
    type Target = Mapping;

    fn deref(&self) -> &Mapping {
        match self {
            Self::Pool(mapping) => mapping,
            Self::Window(mapping) => mapping,
        }
    }
}

/// Cache lines in several mappings: the number of each one's mapping, and its place there.
pub(super) struct Lines<'a> {
    pub grounds: Vec<Reached<'a>>,
    pub places: Vec<(usize, usize)>,
}

impl Lines<'_> {
    pub fn drop_from_caches(&self, places: &[(usize, usize)]) {
        places.iter().for_each(|(ground, place)| self.grounds[*ground].flush(*place, LINE, false));
    }

    pub fn read(&self, places: &[(usize, usize)]) {
        places.iter().for_each(|(ground, place)| self.grounds[*ground].read_line(*place));
    }
}
