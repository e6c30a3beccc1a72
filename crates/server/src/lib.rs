//! A PostgreSQL server in a folder of its own, which goes with it: for tests and studies.

mod certificates;

use std::fs::Permissions;
use std::os::unix::fs::{PermissionsExt as _, chown};
use std::os::unix::process::CommandExt as _;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, ensure};
use rustix::process::{Pid, Signal, geteuid, kill_process_group, test_kill_process_group};
use tempfile::TempDir;

pub use certificates::Certificates;

/// Where Debian keeps the programs of each version.
const VERSIONS: &str = "/usr/lib/postgresql";
/// The user that the server runs as where this program is root, which it refuses to be: nobody.
const NOBODY: u32 = 65_534;
/// Longest wait for a server to answer.
const PATIENCE: Duration = Duration::from_secs(60);
/// Name of the role that owns everything.
const ROLE: &str = "revisum";

/// A server that runs.
pub struct Server {
    folder: TempDir,
    programs: PathBuf,
    options: Vec<String>,
    child: Option<Child>,
}

impl Server {
    /// Starts one that is reached through a socket in its folder, and by nobody else.
    ///
    /// # Errors
    /// When PostgreSQL is not installed or does not start.
    pub fn start() -> Result<Self> {
        Self::with(&["-c", "listen_addresses="], |_| Ok(()))
    }

    /// Starts one that is also reached through this port of this computer, by TLS alone, and shows these certificates.
    ///
    /// # Errors
    /// As [`Self::start`].
    pub fn with_tls(port: u16, certificates: &Certificates) -> Result<Self> {
        let port = format!("port={port}");
        Self::with(&["-c", "listen_addresses=localhost", "-c", &port, "-c", "ssl=on"], |data| {
            write_private(&data.join("server.crt"), &certificates.server)?;
            write_private(&data.join("server.key"), &certificates.server_key)?;
            let rules = "local all all trust\nhostssl all all 127.0.0.1/32 scram-sha-256\nhostssl all all ::1/128 scram-sha-256\n";
            write_private(&data.join("pg_hba.conf"), rules)
        })
    }

    fn with(options: &[&str], prepare: impl FnOnce(&Path) -> Result<()>) -> Result<Self> {
        let programs = programs()?;
        let folder = tempfile::tempdir()?;
        given_away(folder.path())?;
        std::fs::set_permissions(folder.path(), Permissions::from_mode(0o755))?;
        let mut server = Self {
            folder,
            programs,
            options: options.iter().map(|option| (*option).to_owned()).collect(),
            child: None,
        };
        let made = server
            .program("initdb")
            .args([
                "--username",
                ROLE,
                "--auth",
                "trust",
                "--encoding",
                "UTF8",
                "--locale",
                "C.UTF-8",
                "--no-sync",
                "--pgdata",
            ])
            .arg(server.data())
            .stdout(Stdio::null())
            .status()
            .context("initdb cannot be started")?;
        ensure!(made.success(), "initdb failed");
        prepare(&server.data())?;
        server.run()?;
        Ok(server)
    }

    /// Its address through the socket.
    pub fn address(&self) -> String {
        format!("host={} user={ROLE} dbname=postgres{}", self.folder.path().display(), self.port())
    }

    fn port(&self) -> String {
        let port = self.options.iter().find_map(|option| option.strip_prefix("port="));
        port.map(|port| format!(" port={port}")).unwrap_or_default()
    }

    /// Has the server do something, as its own client program does it; what it answers.
    ///
    /// # Errors
    /// When it refuses.
    pub fn ask(&self, sql: &str) -> Result<String> {
        let answer = Command::new(self.programs.join("psql"))
            .args(["-X", "-q", "-A", "-t", "-v", "ON_ERROR_STOP=1", "-d", &self.address(), "-c", sql])
            .output()
            .context("psql cannot be started")?;
        ensure!(answer.status.success(), "{}", String::from_utf8_lossy(&answer.stderr));
        Ok(String::from_utf8_lossy(&answer.stdout).trim().to_owned())
    }

    /// Kills it with all that belongs to it, as a power cut would, but for what is on the disk.
    ///
    /// # Errors
    /// When it cannot be killed.
    pub fn kill(&mut self) -> Result<()> {
        let Some(mut child) = self.child.take() else { return Ok(()) };
        let group = Pid::from_child(&child);
        kill_process_group(group, Signal::KILL)?;
        child.wait()?;
        let end = Instant::now() + PATIENCE;
        // Each of its processes is a group of its own, and goes when it sees that the first is gone.
        while test_kill_process_group(group).is_ok() || self.is_held() {
            ensure!(Instant::now() < end, "processes of the server do not end");
            std::thread::sleep(Duration::from_millis(20));
        }
        Ok(())
    }

    /// Whether some process of it still has its folder open.
    fn is_held(&self) -> bool {
        let data = self.data();
        let Ok(processes) = std::fs::read_dir("/proc") else { return false };
        processes.flatten().any(|process| std::fs::read_link(process.path().join("cwd")).is_ok_and(|cwd| cwd == data))
    }

    /// Starts it after it was killed; returns when it answers.
    ///
    /// # Errors
    /// When it does not.
    pub fn run(&mut self) -> Result<()> {
        let mut server = self.program("postgres");
        server.arg("-D").arg(self.data()).arg("-k").arg(self.folder.path()).args(&self.options);
        server.args(["-c", "max_connections=60"]).stdout(Stdio::null()).stderr(Stdio::null()).process_group(0);
        self.child = Some(server.spawn().context("the server cannot be started")?);
        let end = Instant::now() + PATIENCE;
        while let Err(error) = self.ask("SELECT 1") {
            ensure!(Instant::now() < end, "the server does not answer: {error:#}");
            std::thread::sleep(Duration::from_millis(50));
        }
        Ok(())
    }

    fn data(&self) -> PathBuf {
        self.folder.path().join("data")
    }

    /// One of its programs, as the user that it runs as.
    fn program(&self, name: &str) -> Command {
        let program = self.programs.join(name);
        let mut command = if geteuid().is_root() {
            let mut command = Command::new("setpriv");
            let user = [format!("--reuid={NOBODY}"), format!("--regid={NOBODY}"), "--clear-groups".to_owned()];
            command.args(user).arg(program);
            command
        } else {
            Command::new(program)
        };
        command.current_dir(self.folder.path());
        command
    }
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.kill();
    }
}

/// The programs of the newest version that is installed.
fn programs() -> Result<PathBuf> {
    let installed = std::fs::read_dir(VERSIONS).into_iter().flatten().flatten();
    let versions = installed.filter_map(|entry| entry.file_name().to_str()?.parse::<u32>().ok());
    let newest = versions.max().context("PostgreSQL is not installed: apt-get install postgresql")?;
    Ok(Path::new(VERSIONS).join(newest.to_string()).join("bin"))
}

fn given_away(path: &Path) -> Result<()> {
    if geteuid().is_root() {
        chown(path, Some(NOBODY), Some(NOBODY))?;
    }
    Ok(())
}

fn write_private(path: &Path, text: &str) -> Result<()> {
    std::fs::write(path, text)?;
    std::fs::set_permissions(path, Permissions::from_mode(0o600))?;
    given_away(path)
}
