//! The screens, each in a folder of its own: what it holds, its keys, what they do, and its drawing. None knows another.

use crate::room::screen::Room;
use crate::room::view::screens;

macro_rules! define_rooms {
    ($($name:ident $digit:literal $folder:ident $named:path,)*) => {
        $(mod $folder;)*

        /// All screens as they are first, in the order of their numbers.
        pub fn rooms() -> Vec<Box<dyn Room>> {
            vec![$(Box::new($folder::$name::default()),)*]
        }
    };
}

screens!(define_rooms);
