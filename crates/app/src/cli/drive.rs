//! Arguments of `drive`.

use std::path::PathBuf;

use clap::{Args, Subcommand, ValueEnum};
use revisum_drive::{Begin, NUMBERS, Text, Where};

/// What to do with drives.
#[derive(Debug, Subcommand)]
pub enum DriveCommand {
    /// List removable drives
    List {
        /// The simulated ones
        #[arg(long)]
        sim: bool,
        /// As JSON
        #[arg(long)]
        json: bool,
    },
    /// Write the image to drives and read all of it back; everything on them is lost
    Write(DriveWriteArgs),
    /// Compare a drive with the image, all but its results
    Verify {
        /// The image
        image: PathBuf,
        /// The drive's device, or a file in its place
        drive: PathBuf,
    },
    /// Write what a server needs to start machines over the network
    Network {
        /// The image
        image: PathBuf,
        /// Folder to write to: an empty one, or one that is not there yet
        #[arg(long, value_name = "DIR")]
        into: PathBuf,
        /// How the machines start
        #[command(flatten)]
        settings: Box<SettingsArgs>,
    },
    /// Start from the drive at the next start, once
    BootOnce {
        /// Confirm that all work is saved
        #[arg(long)]
        saved: bool,
    },
}

/// Arguments of `drive write`.
#[derive(Debug, Args)]
pub struct DriveWriteArgs {
    /// The image
    pub image: PathBuf,
    /// The drives' devices as `drive list` shows them, or files in their place; several are written at once
    #[arg(required = true)]
    pub drives: Vec<PathBuf>,
    /// The drive's name, instead of typing it when asked; once for each drive
    #[arg(long, value_name = "NAME")]
    pub name: Vec<String>,
    /// Keep the results that are on the drive
    #[arg(long)]
    pub keep_results: bool,
    /// The simulated drives
    #[arg(long)]
    pub sim: bool,
    /// How the drives start
    #[command(flatten)]
    pub settings: SettingsArgs,
}

/// How drives start, as far as somebody says so.
#[derive(Debug, Default, Args)]
pub struct SettingsArgs {
    /// Ask how the drives are to start
    #[arg(long)]
    pub ask: bool,
    /// Number of the first drive; the others count on
    #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u16).range(i64::from(*NUMBERS.start())..=i64::from(*NUMBERS.end())))]
    pub number: Option<u16>,
    /// When testing begins
    #[arg(long)]
    pub begin: Option<BeginArg>,
    /// Where the screen is
    #[arg(long)]
    pub screen: Option<ScreenArg>,
    /// How large text is
    #[arg(long)]
    pub text: Option<TextArg>,
    /// Language of the booted machine
    #[arg(long, value_name = "LANGUAGE", value_parser = super::language)]
    pub speak: Option<String>,
    /// Keyboard layout of the booted machine
    #[arg(long, value_name = "COUNTRY")]
    pub keyboard: Option<String>,
    /// A sound when errors show and when a run is over
    #[arg(long)]
    pub sound: bool,
    /// The shop's name, in the header of every screen
    #[arg(long, value_name = "NAME")]
    pub shop_name: Option<String>,
    /// With a card of this shop: the booted machine links itself to the shop's counter
    #[arg(long)]
    pub shop: bool,
    /// Where the booted machine finds the counter [default: looked for on the local network]
    #[arg(long, value_name = "HOST:PORT", requires = "shop")]
    pub counter: Option<String>,
}

/// [`Begin`] on the command line.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum BeginArg {
    /// After ten seconds; any key stops it
    Countdown,
    /// At once
    AtOnce,
    /// When somebody presses a key
    Key,
}

impl From<BeginArg> for Begin {
    fn from(begin: BeginArg) -> Self {
        match begin {
            BeginArg::Countdown => Self::Countdown,
            BeginArg::AtOnce => Self::AtOnce,
            BeginArg::Key => Self::Key,
        }
    }
}

/// [`Where`] on the command line.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum ScreenArg {
    /// On the display, or on the serial line where there is none
    Found,
    /// On the first serial line
    Serial,
}

impl From<ScreenArg> for Where {
    fn from(screen: ScreenArg) -> Self {
        match screen {
            ScreenArg::Found => Self::Found,
            ScreenArg::Serial => Self::Serial,
        }
    }
}

/// [`Text`] on the command line.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum TextArg {
    /// As large as the screen allows
    Fitting,
    /// Small
    Small,
    /// Large
    Large,
}

impl From<TextArg> for Text {
    fn from(text: TextArg) -> Self {
        match text {
            TextArg::Fitting => Self::Fitting,
            TextArg::Small => Self::Small,
            TextArg::Large => Self::Large,
        }
    }
}
