//! Arguments of `wall` and `card`.

use std::net::SocketAddr;
use std::path::PathBuf;

use clap::{Args, Subcommand};
use revisum_drive::NUMBERS;

/// Arguments of `wall`.
#[derive(Debug, Args)]
pub struct WallArgs {
    /// Address and port to listen on [default: all addresses, port 7247]
    #[arg(long, value_name = "ADDRESS:PORT")]
    pub listen: Option<SocketAddr>,
    /// Without the full screen: a line on stdout whenever something changes
    #[arg(long)]
    pub plain: bool,
}

/// What to do with cards.
#[derive(Debug, Subcommand)]
pub enum CardCommand {
    /// Make a card for a machine that does not start from a boot drive
    New {
        /// File to write; it belongs into the machine's data folder
        #[arg(default_value = revisum_link::Card::FILE)]
        file: PathBuf,
        /// Number to show for the machine
        #[arg(long, value_name = "NUMBER", value_parser = clap::value_parser!(u16).range(i64::from(*NUMBERS.start())..=i64::from(*NUMBERS.end())))]
        number: Option<u16>,
        /// Where the machine finds the counter [default: looked for on the local network]
        #[arg(long, value_name = "HOST:PORT")]
        counter: Option<String>,
    },
    /// List cards that are in use
    List {
        /// As JSON
        #[arg(long)]
        json: bool,
    },
    /// Shut out a card, such as that of a drive that was lost
    TakeBack {
        /// Number of the drive, or the card's id
        card: String,
    },
}
