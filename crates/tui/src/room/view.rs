//! The screens under their fixed numbers.

/// The list of all screens: name, number, folder. A new screen is one line here and its folder.
macro_rules! screens {
    ($then:ident) => {
        $then! {
            Jobs '0' jobs crate::say::view_jobs,
            Intake '1' intake crate::say::view_intake,
            Board '2' board crate::say::view_board,
            Recipe '3' recipe crate::say::view_recipe,
            Run '4' run crate::say::view_run,
            Locate '5' locate crate::say::view_locate,
            Swap '6' swap crate::say::view_swap,
            Speed '7' speed crate::say::view_speed,
            Logs '8' logs crate::say::view_logs,
            Report '9' report crate::say::view_report,
        }
    };
}
pub(crate) use screens;

macro_rules! define_views {
    ($($name:ident $digit:literal $folder:ident $named:path,)*) => {
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
                match self { $(Self::$name => $named(),)* }
            }
        }
    };
}

screens!(define_views);
