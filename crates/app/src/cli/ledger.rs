//! Arguments of `ledger`.

use std::path::PathBuf;

use clap::Subcommand;

/// What to do with the ledger.
#[derive(Debug, Subcommand)]
pub enum LedgerCommand {
    /// Say where it is kept, and what each folder holds of it
    Show {
        /// As JSON
        #[arg(long)]
        json: bool,
    },
    /// Have it kept by a PostgreSQL server that others share
    ///
    /// All records stay in this folder; the server keeps what finds them, and the history of modules in all folders that share it. A server on
    /// another computer is spoken to by TLS alone.
    Share {
        /// Address, such as postgresql://name@host/database
        address: String,
        /// File with the password
        #[arg(long, value_name = "FILE")]
        password: Option<PathBuf>,
        /// File of certificates in PEM, of which one vouches for the server
        #[arg(long, value_name = "FILE")]
        authority: Option<PathBuf>,
        /// What others find the records of this folder under [default: the computer's name]
        #[arg(long, value_name = "NAME")]
        name: Option<String>,
    },
    /// Have it kept in the folder of the records again
    Own,
}
