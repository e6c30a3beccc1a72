//! Pictures of every view, taken from the demonstration in a real terminal window on a virtual display.

use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use anyhow::{Context, Result, bail};

/// One picture: its file, the grid of the terminal, colours, and what to press. A key `wait:TEXT` waits for a text on the
/// screen, `gone:TEXT` until it is there no longer, with `_` for blanks.
struct Picture {
    file: &'static str,
    machine: &'static str,
    grid: (u16, u16),
    sixteen_colours: bool,
    keys: &'static str,
    font_points: u8,
}

const fn picture(file: &'static str, keys: &'static str) -> Picture {
    Picture { file, machine: "dome-1", grid: (128, 40), sixteen_colours: false, keys, font_points: 12 }
}

const fn console(file: &'static str, keys: &'static str) -> Picture {
    Picture { file, machine: "dome-1", grid: (80, 25), sixteen_colours: true, keys, font_points: 18 }
}

/// Each picture begins with empty records, so that it comes out the same every time.
const PICTURES: [Picture; 16] = [
    picture("jobs.png", "wait:run_triage 0 wait:the_owner Down"),
    picture(
        "intake.png",
        "wait:run_triage 1 wait:What Down Right Down Down Down Down Down Down Down Down Down Down Down Down Right",
    ),
    picture("board.png", "wait:run_triage Down Down"),
    picture("recipe.png", "wait:run_triage 3 wait:march_SS Down Down Down Down Down Down Down"),
    picture("run.png", "wait:run_triage Enter wait:took"),
    Picture {
        machine: "plates",
        ..picture("speed.png", "wait:Enter_run 7 wait:Not_measured Enter wait:measure_again")
    },
    picture("locate.png", "wait:run_triage Enter wait:took 5 wait:likely"),
    picture("swap.png", "wait:run_triage Enter wait:took Enter wait:NEXT"),
    picture(
        "swap-found.png",
        "wait:run_triage Enter wait:took Enter wait:NEXT Enter gone:NEXT wait:took \
         6 wait:FOUND",
    ),
    picture(
        "logs.png",
        "wait:run_triage Enter wait:took 6 Down Down Space wait:removed: Enter gone:suspicion wait:too_little_to_rule 8 \
         wait:memory_errors",
    ),
    Picture { machine: "archive", ..picture("system-log.png", "wait:Enter 8 wait:system_logs s wait:corrected") },
    picture("drives.png", "wait:run_triage 0 wait:boot_drive d wait:Pocket"),
    picture("report.png", "wait:run_triage Enter wait:took 9 wait:Memory_report"),
    picture(
        PAGE,
        "wait:run_triage Enter wait:took Enter wait:NEXT Enter gone:NEXT wait:took \
         6 wait:FOUND 9 wait:Memory_report Enter wait:Written",
    ),
    picture("across.png", "wait:run_triage Enter wait:took f wait:in_full"),
    console("console-run.png", "wait:run_triage Enter wait:took"),
];

/// The wall, in two sizes.
const WALLS: [Picture; 2] = [
    picture("wall.png", "wait:8_machines wait:Next"),
    Picture { grid: (160, 47), font_points: 9, ..picture("wall-wide.png", "wait:8_machines wait:Next Down") },
];

/// Machines on it, and on which of them a run is begun.
const ON_THE_WALL: [(&str, bool); 8] = [
    ("heliostat", true),
    ("dome-1", true),
    ("frontdesk", true),
    ("guide", true),
    ("meteo", false),
    ("stacker", true),
    ("tracker", true),
    ("spectro", true),
];

/// Where the wall's counter listens.
const LISTEN: &str = "127.0.0.1:7911";

/// The first page of the report that was written, instead of the screen.
const PAGE: &str = "report-page.png";

const PATIENCE: Duration = Duration::from_secs(90);

/// Arguments of `screenshots`.
#[derive(clap::Args)]
pub struct PicturesArgs {
    /// Only pictures with this in their name
    #[arg(long, value_name = "TEXT")]
    only: Option<String>,
}

/// Takes the pictures.
pub fn take(args: &PicturesArgs) -> Result<()> {
    crate::packages::install(&[
        ("Xvfb", "xvfb"),
        ("xterm", "xterm"),
        ("import", "imagemagick"),
        ("tmux", "tmux"),
        ("pdftoppm", "poppler-utils"),
        ("/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf", "fonts-dejavu-core"),
    ])?;
    crate::cargo(&["build", "--release", "--package", "revisum"])?;
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../docs/screenshots");
    std::fs::create_dir_all(&folder)?;
    let is_wanted = |picture: &&Picture| args.only.as_ref().is_none_or(|only| picture.file.contains(only.as_str()));
    for picture in PICTURES.iter().chain(&WALLS).filter(is_wanted) {
        let file = folder.join(picture.file);
        take_one(picture, &file).with_context(|| format!("{} could not be taken", picture.file))?;
        println!("{}", file.display());
    }
    Ok(())
}

/// Ends a process when dropped.
struct Running(Child);

impl Drop for Running {
    fn drop(&mut self) {
        // It may have ended by itself.
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

fn take_one(picture: &Picture, file: &Path) -> Result<()> {
    let records = std::env::temp_dir().join(format!("revisum-pictures-{}", std::process::id()));
    std::fs::create_dir_all(&records)?;
    let (_display, name) = display(&records)?;
    let is_wall = WALLS.iter().any(|wall| wall.file == picture.file);
    let terminal = Terminal::open(picture, &records, is_wall)?;
    if is_wall {
        terminal.benches(&records)?;
    }
    let _window = window(picture, &name, &terminal.socket)?;
    for key in picture.keys.split(' ') {
        match key.strip_prefix("wait:") {
            Some(text) => terminal.wait(&text.replace('_', " "), true)?,
            None => terminal.press(key)?,
        }
    }
    // The window draws what the terminal already holds; half a second is ample and nothing depends on it but the picture.
    std::thread::sleep(Duration::from_millis(700));
    let taken = match picture.file {
        PAGE => {
            let pdf = records.join("data/reports/dome-1/report.pdf");
            let options = ["-png", "-r", "90", "-f", "1", "-l", "1", "-singlefile"];
            Command::new("pdftoppm").args(options).arg(pdf).arg(file.with_extension("")).status()?
        }
        _ => Command::new("import").args(["-window", "root"]).arg(file).env("DISPLAY", &name).status()?,
    };
    drop(terminal);
    std::fs::remove_dir_all(&records)?;
    if taken.success() { Ok(()) } else { bail!("the window could not be copied") }
}

/// A display that nobody sees, and its name.
fn display(folder: &Path) -> Result<(Running, String)> {
    let number_file = folder.join("display");
    let out = std::fs::File::create(&number_file)?;
    let child = Command::new("Xvfb")
        .args(["-displayfd", "1", "-screen", "0", "1280x800x24", "-nolisten", "tcp"])
        .stdout(out)
        .stderr(Stdio::null())
        .spawn()?;
    let child = Running(child);
    let number =
        wait_for("a display", || std::fs::read_to_string(&number_file).ok().filter(|text| text.ends_with('\n')))?;
    Ok((child, format!(":{}", number.trim())))
}

fn window(picture: &Picture, display: &str, socket: &str) -> Result<Running> {
    let geometry = format!("{}x{}+0+0", picture.grid.0, picture.grid.1);
    let child = Command::new("xterm")
        .args(["-fa", "DejaVu Sans Mono", "-fs", &picture.font_points.to_string(), "-geometry", &geometry])
        .args(["-b", "0", "-bw", "0", "+sb", "-bg", "#16181a", "-fg", "#ded6c4"])
        .args(["-e", "tmux", "-u", "-L", socket, "attach"])
        .env("DISPLAY", display)
        .env("LANG", "C.UTF-8")
        .stderr(Stdio::null())
        .spawn()?;
    Ok(Running(child))
}

fn program() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../target/release/revisum")
}

struct Terminal {
    socket: String,
}

impl Terminal {
    fn open(picture: &Picture, records: &Path, is_wall: bool) -> Result<Self> {
        let terminal = Self { socket: format!("revisum-pictures-{}", std::process::id()) };
        let program = program();
        let (columns, rows) = (picture.grid.0.to_string(), picture.grid.1.to_string());
        let (term, colours) = if picture.sixteen_colours { ("screen", "no") } else { ("tmux-256color", "truecolor") };
        let configuration = records.join("tmux.conf");
        let features = if picture.sixteen_colours { "" } else { "set -as terminal-features ',xterm*:RGB'\n" };
        std::fs::write(&configuration, format!("set -g status off\nset -g default-terminal {term}\n{features}"))?;
        let what = if is_wall {
            format!("wall --listen {LISTEN}")
        } else {
            format!("demo --machine {} --pace 900", picture.machine)
        };
        let line = format!(
            "COLORTERM={colours} LANG=C.UTF-8 exec '{}' --data '{}' {what}",
            program.display(),
            records.join("data").display()
        );
        let conf = configuration.display().to_string();
        terminal.tmux(&["-f", &conf, "new-session", "-d", "-x", &columns, "-y", &rows, "sh", "-c", &line])?;
        Ok(terminal)
    }

    /// Simulated machines with cards of the counter, each in a terminal that nobody sees.
    fn benches(&self, records: &Path) -> Result<()> {
        self.wait("No machine is linked", true)?;
        for (number, (machine, begins)) in (1..).zip(ON_THE_WALL) {
            let (bench, counter) = (records.join(machine), records.join("data"));
            std::fs::create_dir_all(&bench)?;
            let card = bench.join("shop-card.toml");
            let mut command = Command::new(program());
            command.arg("--data").arg(counter).args([
                "card",
                "new",
                "--number",
                &format!("{number}"),
                "--counter",
                LISTEN,
            ]);
            if !command.arg(card).stdout(Stdio::null()).status()?.success() {
                bail!("no card could be made");
            }
            let line = format!(
                "exec '{}' --data '{}' demo --machine {machine} --pace 30",
                program().display(),
                bench.display()
            );
            self.tmux(&["new-window", "-d", "-n", machine, "sh", "-c", &line])?;
            if begins {
                let pane = format!(":{machine}");
                wait_for(machine, || {
                    self.tmux(&["capture-pane", "-p", "-t", &pane]).ok().filter(|text| text.contains("Enter"))
                })?;
                self.tmux(&["send-keys", "-t", &pane, "Enter"])?;
            }
        }
        Ok(())
    }

    fn tmux(&self, arguments: &[&str]) -> Result<String> {
        let output = Command::new("tmux").args(["-u", "-L", &self.socket]).args(arguments).output()?;
        if !output.status.success() {
            bail!("tmux {arguments:?}: {}", String::from_utf8_lossy(&output.stderr));
        }
        Ok(String::from_utf8_lossy(&output.stdout).into_owned())
    }

    fn press(&self, key: &str) -> Result<()> {
        match key.strip_prefix("gone:") {
            Some(text) => self.wait(&text.replace('_', " "), false),
            None => self.tmux(&["send-keys", key]).map(|_| ()),
        }
    }

    /// Waits until the text is on the screen, or no longer is.
    fn wait(&self, text: &str, there: bool) -> Result<()> {
        let look = || self.tmux(&["capture-pane", "-p"]).ok().filter(|seen| seen.contains(text) == there);
        wait_for(text, look).map(|_| ())
    }
}

impl Drop for Terminal {
    fn drop(&mut self) {
        // The program in it ends with it.
        let _ = self.tmux(&["kill-server"]);
    }
}

fn wait_for<T>(what: &str, mut look: impl FnMut() -> Option<T>) -> Result<T> {
    let begin = Instant::now();
    while begin.elapsed() < PATIENCE {
        if let Some(found) = look() {
            return Ok(found);
        }
        std::thread::sleep(Duration::from_millis(20));
    }
    bail!("{what:?} never came")
}
