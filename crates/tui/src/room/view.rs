//! The screens under their fixed numbers.

/// The list of all screens: name, number, folder. A new screen is one line here and its folder.
macro_rules! screens {
    ($then:ident) => {
        $then! {
            Jobs '0' jobs,
            Intake '1' intake,
            Board '2' board,
            Recipe '3' recipe,
            Run '4' run,
            Locate '5' locate,
            Swap '6' swap,
            Speed '7' speed,
            Logs '8' logs,
            Report '9' report,
        }
    };
}
pub(crate) use screens;

macro_rules! define_views {
    ($($name:ident $digit:literal $folder:ident,)*) => {
        /// A screen.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
        pub enum View {
            $(
                #[doc = concat!("Under ", $digit, ".")]
                $name,
            )*
        }

        impl View {
            /// All of them, in the order of their numbers.
            pub const ALL: &[Self] = &[$(Self::$name,)*];

            /// Its number key.
            pub fn digit(self) -> char {
                match self { $(Self::$name => $digit,)* }
            }

            /// Its name.
            pub fn name(self) -> &'static str {
                match self { $(Self::$name => stringify!($name),)* }
            }
        }
    };
}

screens!(define_views);
