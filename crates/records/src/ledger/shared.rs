//! The ledger's database as a PostgreSQL server that folders of many share.

use std::cell::RefCell;
use std::collections::HashMap;
use std::error::Error as StdError;
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use anyhow::{Context, Result, bail, ensure};
use postgres::config::{Host, SslMode};
use postgres::error::SqlState;
use postgres::types::private::BytesMut;
use postgres::types::{IsNull, ToSql, Type, to_sql_checked};
use postgres::{Client, Config, NoTls, Statement};
use revisum_engine::text::shown;
use rustls::pki_types::CertificateDer;
use rustls::pki_types::pem::PemObject as _;
use tokio_postgres_rustls::MakeRustlsConnect;

use super::base::{Base, Dialect, Row, Value};
use super::{Place, tables};
use crate::say;

/// Longest wait for a server that does not answer.
const PATIENCE: Duration = Duration::from_secs(3);
/// Longest that a connection lives on without a sign of the server.
const SILENCE: Duration = Duration::from_secs(10);
/// How often work is done again that met somebody else's.
const TRIES: u32 = 8;
/// Connections kept for the next who asks.
const IDLE: usize = 4;
/// All programs that bring the tables up to date hold this lock while they do.
const LOCK: i64 = 0x7265_7669_7375_6d01;

/// Connections that nobody uses now: making one takes longer than most questions.
static RESTING: Mutex<Vec<(Place, Shared)>> = Mutex::new(Vec::new());

/// A server, connected.
pub struct Shared {
    client: RefCell<Client>,
    statements: RefCell<HashMap<String, Statement>>,
}

/// A connection that goes back when it is no longer used.
pub struct Lent {
    shared: Option<Shared>,
    place: Place,
}

impl Lent {
    /// A connection to this place, its tables brought up to date.
    ///
    /// # Errors
    /// When the server cannot be reached, refuses, or holds tables of a newer program.
    pub fn to(place: &Place) -> Result<Self> {
        // One whose server went meanwhile does not know it until it is asked.
        let mut rested = std::iter::from_fn(|| Self::rested(place));
        let alive = rested.find(|shared| shared.client.borrow_mut().is_valid(PATIENCE).is_ok());
        let shared = alive.map_or_else(|| Shared::open(place), Ok)?;
        Ok(Self { shared: Some(shared), place: place.clone() })
    }

    fn rested(place: &Place) -> Option<Shared> {
        let mut resting = RESTING.lock().unwrap_or_else(PoisonError::into_inner);
        let found = resting.iter().position(|(known, _)| known == place)?;
        Some(resting.swap_remove(found).1)
    }

    fn shared(&self) -> Result<&Shared> {
        self.shared.as_ref().context("the connection was given back")
    }
}

impl Drop for Lent {
    fn drop(&mut self) {
        let Some(shared) = self.shared.take().filter(|shared| !shared.client.borrow().is_closed()) else { return };
        let mut resting = RESTING.lock().unwrap_or_else(PoisonError::into_inner);
        resting.retain(|(_, shared)| !shared.client.borrow().is_closed());
        if resting.len() < IDLE {
            resting.push((self.place.clone(), shared));
        }
    }
}

impl Shared {
    fn open(place: &Place) -> Result<Self> {
        let client = connect(place).with_context(|| say::ledger_server_not_reached(place.shown()))?;
        let shared = Self { client: RefCell::new(client), statements: RefCell::default() };
        shared.bring_up_to_date().with_context(|| say::ledger_server_not_ready(place.shown()))?;
        Ok(shared)
    }

    /// Takes the steps that are left. Nothing else may hold the tables meanwhile.
    fn bring_up_to_date(&self) -> Result<()> {
        let mut client = self.client.borrow_mut();
        client.batch_execute("SET search_path = revisum, public")?;
        if version(&mut client)? == tables::steps().len() {
            return Ok(());
        }
        let mut step = client.transaction()?;
        step.execute("SELECT pg_advisory_xact_lock($1)", &[&LOCK])?;
        step.batch_execute(
            "CREATE SCHEMA IF NOT EXISTS revisum;
             CREATE EXTENSION IF NOT EXISTS pg_trgm WITH SCHEMA public;
             CREATE TABLE IF NOT EXISTS ledger_version (version BIGINT NOT NULL)",
        )?;
        let done = step.query_opt("SELECT version FROM ledger_version", &[])?.map_or(0, |row| row.get::<_, i64>(0));
        let steps = tables::steps();
        let done = usize::try_from(done).unwrap_or(usize::MAX);
        ensure!(done <= steps.len(), say::ledger_server_newer());
        for statements in &steps[done..] {
            step.batch_execute(statements)?;
        }
        step.execute("DELETE FROM ledger_version", &[])?;
        step.execute("INSERT INTO ledger_version VALUES ($1)", &[&(steps.len() as i64)])?;
        Ok(step.commit()?)
    }

    fn ready(&self, sql: &str) -> Result<Statement> {
        if let Some(statement) = self.statements.borrow().get(sql) {
            return Ok(statement.clone());
        }
        let statement = self.client.borrow_mut().prepare(sql)?;
        let mut statements = self.statements.borrow_mut();
        // Statements with as many places as there are names would fill it without end.
        if statements.len() >= 200 {
            statements.clear();
        }
        statements.insert(sql.to_owned(), statement.clone());
        Ok(statement)
    }
}

/// The version of the tables; 0 where there are none.
fn version(client: &mut Client) -> Result<usize> {
    let there = client.query_one("SELECT to_regclass('revisum.ledger_version') IS NOT NULL", &[])?;
    if !there.get::<_, bool>(0) {
        return Ok(0);
    }
    let version = client.query_opt("SELECT version FROM ledger_version", &[])?.map_or(0, |row| row.get::<_, i64>(0));
    Ok(usize::try_from(version).unwrap_or(usize::MAX))
}

fn connect(place: &Place) -> Result<Client> {
    let mut config: Config = place.address.parse().context(say::ledger_address_unread())?;
    config.connect_timeout(PATIENCE).tcp_user_timeout(SILENCE).keepalives_idle(SILENCE).application_name("revisum");
    if let Some(password) = &place.password {
        config.password(password);
    }
    let Some(authority) = &place.authority else {
        ensure!(is_near(&config), say::ledger_address_far());
        return Ok(config.ssl_mode(SslMode::Disable).connect(NoTls)?);
    };
    let mut roots = rustls::RootCertStore::empty();
    for certificate in CertificateDer::pem_slice_iter(authority.as_bytes()) {
        roots.add(certificate.context(say::ledger_authority_unread())?).context(say::ledger_authority_unread())?;
    }
    if roots.is_empty() {
        bail!(say::ledger_authority_unread());
    }
    let ring = std::sync::Arc::new(rustls::crypto::ring::default_provider());
    let tls = rustls::ClientConfig::builder_with_provider(ring)
        .with_safe_default_protocol_versions()?
        .with_root_certificates(roots)
        .with_no_client_auth();
    Ok(config.ssl_mode(SslMode::Require).connect(MakeRustlsConnect::new(tls))?)
}

/// Whether every way the address names ends on this computer.
fn is_near(config: &Config) -> bool {
    let names = config.get_hosts().iter().all(|host| match host {
        Host::Unix(_) => true,
        Host::Tcp(name) => name == "localhost" || name.parse().is_ok_and(|ip: std::net::IpAddr| ip.is_loopback()),
    });
    names && config.get_hostaddrs().iter().all(std::net::IpAddr::is_loopback)
}

/// Whether somebody else's work was in the way of this.
fn met_others(error: &anyhow::Error) -> bool {
    let cause = error.chain().find_map(|cause| cause.downcast_ref::<postgres::Error>());
    let code = cause.and_then(postgres::Error::code);
    code.is_some_and(|code| *code == SqlState::T_R_DEADLOCK_DETECTED || *code == SqlState::T_R_SERIALIZATION_FAILURE)
}

fn parameters(values: &[Value]) -> Vec<&(dyn ToSql + Sync)> {
    values.iter().map(|value| value as &(dyn ToSql + Sync)).collect()
}

impl Base for Lent {
    fn rows(&self, sql: &str, values: &[Value]) -> Result<Vec<Row>> {
        let shared = self.shared()?;
        let statement = shared.ready(sql)?;
        let found = shared.client.borrow_mut().query(&statement, &parameters(values))?;
        Ok(found.iter().map(row_of).collect())
    }

    fn change(&self, sql: &str, values: &[Value]) -> Result<u64> {
        let shared = self.shared()?;
        let statement = shared.ready(sql)?;
        Ok(shared.client.borrow_mut().execute(&statement, &parameters(values))?)
    }

    fn add(&self, sql: &str, values: &[Value]) -> Result<Option<i64>> {
        Ok(self.row(&format!("{sql} RETURNING nr"), values)?.map(|row| row.int(0)).transpose()?)
    }

    fn whole(&self, work: &mut dyn FnMut() -> Result<()>) -> Result<()> {
        let shared = self.shared()?;
        let say = |sql: &str| shared.client.borrow_mut().batch_execute(sql);
        for left in (0..TRIES).rev() {
            say("BEGIN")?;
            match work() {
                Ok(()) => return Ok(say("COMMIT")?),
                Err(error) => {
                    // A server that is gone has forgotten the work already.
                    let back = say("ROLLBACK");
                    if left == 0 || back.is_err() || !met_others(&error) {
                        return Err(error);
                    }
                }
            }
        }
        Ok(())
    }

    fn clear(&self) -> Result<bool> {
        Ok(false)
    }

    fn dialect(&self) -> Dialect {
        Dialect::Shared
    }
}

impl ToSql for Value {
    fn to_sql(&self, ty: &Type, out: &mut BytesMut) -> Result<IsNull, Box<dyn StdError + Sync + Send>> {
        match self {
            Self::Null | Self::Other => Ok(IsNull::Yes),
            Self::Int(number) => number.to_sql(ty, out),
            Self::Flag(flag) => flag.to_sql(ty, out),
            // A server refuses the character of number 0.
            Self::Text(text) => text.replace('\0', "").to_sql(ty, out),
        }
    }

    fn accepts(ty: &Type) -> bool {
        [Type::INT8, Type::BOOL, Type::TEXT].contains(ty)
    }

    to_sql_checked!();
}

fn row_of(row: &postgres::Row) -> Row {
    let value = |at: usize| match *row.columns()[at].type_() {
        Type::INT8 => row.get::<_, Option<i64>>(at).map_or(Value::Null, Value::Int),
        Type::BOOL => row.get::<_, Option<bool>>(at).map_or(Value::Null, Value::Flag),
        // Others write there too: what steers a terminal goes.
        Type::TEXT => row.get::<_, Option<&str>>(at).map_or(Value::Null, |text| shown(text).as_ref().into()),
        _ => Value::Other,
    };
    Row((0..row.len()).map(value).collect())
}
