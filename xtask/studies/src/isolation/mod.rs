//! How often the planner finds the part at fault, and with how much work, beside people who go one by one: on the same simulated cases.

mod by_hand;
mod nature;
mod technician;
mod world;

use std::collections::BTreeMap;
use std::time::Instant;

use anyhow::{Result, ensure};
use by_hand::{Found, one_by_one};
use clap::Args;
use nature::Nature;
use revisum_diagnose::isolate::{Case, KnownModule, KnownSlot, Priors, Reason, RunFact, Suspect, Verdict, advise};
use technician::Technician;
use world::{Named, Outfit, World, module_name, slot_name};

/// Arguments of the study.
#[derive(Args)]
pub struct IsolationArgs {
    /// Cases for each row with up to four modules; a tenth of them with eight, a twentieth with a stubborn technician
    #[arg(long, default_value_t = 10_000)]
    cases: u64,
    /// Only rows with this text in their name
    #[arg(long, value_name = "TEXT")]
    only: Option<String>,
    /// Cases of one row that went wrong are told one by one, up to this many
    #[arg(long, default_value_t = 0)]
    wrong: usize,
    /// Also a line for each kind of cause
    #[arg(long)]
    by_cause: bool,
    /// The planner's weights, rates and costs, where they are not those that ship
    #[arg(long, value_name = "FILE")]
    priors: Option<std::path::PathBuf>,
    /// How long a decision takes instead: each step three times on one thread, the shortest counts
    #[arg(long)]
    decisions: bool,
    /// First seed
    #[arg(long, default_value_t = 1)]
    seed: u64,
}

enum Procedure {
    Planner,
    /// The planner's advice in the hands of somebody stubborn.
    Stubborn,
    ByHand {
        passes: f64,
        careful: bool,
    },
}

struct Row {
    name: &'static str,
    nature: fn() -> Nature,
    outfit: Outfit,
    procedure: Procedure,
}

impl Row {
    /// Cases of this row, of so many for most rows.
    fn cases(&self, most: u64) -> u64 {
        match self.procedure {
            Procedure::Stubborn => most.div_ceil(20),
            _ if self.outfit.modules > 4 => most.div_ceil(10),
            _ => most,
        }
    }
}

fn outfit(modules: usize) -> Outfit {
    Outfit {
        modules,
        channels: if modules > 4 { 4 } else { 2 },
        free_slots: 0,
        spare: false,
        map: false,
        halves: false,
        named: Named::Never,
        half: false,
        kits: false,
    }
}

fn rows() -> Vec<Row> {
    let by_hand = |passes, careful| Procedure::ByHand { passes, careful };
    let row = |name, nature, outfit, procedure| Row { name, nature, outfit, procedure };
    let mapped = |modules| Outfit { map: true, ..outfit(modules) };
    let halves = |modules| Outfit { halves: true, ..outfit(modules) };
    let shown = |modules| Outfit { named: Named::ByArrangement, ..halves(modules) };
    let spare = |modules| Outfit { spare: true, ..outfit(modules) };
    let half = |modules| Outfit { half: true, ..mapped(modules) };
    vec![
        row("4 modules, by hand, 4 passes each", Nature::modelled, outfit(4), by_hand(4.0, false)),
        row("4 modules, by hand, 8 passes, repeat first", Nature::modelled, outfit(4), by_hand(8.0, true)),
        row("4 modules, planner, no map", Nature::modelled, outfit(4), Procedure::Planner),
        row("4 modules, planner, map", Nature::modelled, mapped(4), Procedure::Planner),
        row("4 modules, planner, map in half of them", Nature::modelled, half(4), Procedure::Planner),
        row("4 modules, planner, halves without a name", Nature::modelled, halves(4), Procedure::Planner),
        row("4 modules, planner, halves that show their names", Nature::modelled, shown(4), Procedure::Planner),
        row(
            "4 modules, planner, halves with names",
            Nature::modelled,
            Outfit { named: Named::Always, ..halves(4) },
            Procedure::Planner,
        ),
        row("2 modules, by hand, 4 passes each", Nature::modelled, outfit(2), by_hand(4.0, false)),
        row("2 modules, planner, no map", Nature::modelled, outfit(2), Procedure::Planner),
        row("2 modules, planner, spare", Nature::modelled, spare(2), Procedure::Planner),
        row("2 modules, planner, map", Nature::modelled, mapped(2), Procedure::Planner),
        row("2 modules, planner, halves without a name", Nature::modelled, halves(2), Procedure::Planner),
        row("2 modules, planner, halves that show their names", Nature::modelled, shown(2), Procedure::Planner),
        row(
            "2 modules, planner, map or spare in half of them",
            Nature::modelled,
            Outfit { spare: true, ..half(2) },
            Procedure::Planner,
        ),
        row("4 modules, other world, by hand, 8 passes", Nature::different, outfit(4), by_hand(8.0, true)),
        row("4 modules, other world, planner, no map", Nature::different, outfit(4), Procedure::Planner),
        row("4 modules, other world, planner, map", Nature::different, mapped(4), Procedure::Planner),
        row("4 modules, other world, planner, map in half of them", Nature::different, half(4), Procedure::Planner),
        row("4 modules with cells, planner, no map", Nature::with_cells, outfit(4), Procedure::Planner),
        row("4 modules with cells, planner, map", Nature::with_cells, mapped(4), Procedure::Planner),
        row("4 modules with cells, planner, halves without a name", Nature::with_cells, halves(4), Procedure::Planner),
        row("4 modules with cells, planner, halves that show names", Nature::with_cells, shown(4), Procedure::Planner),
        row("4 modules with cells, planner, map in half of them", Nature::with_cells, half(4), Procedure::Planner),
        row("4 modules with cells, by hand, 8 passes, repeat first", Nature::with_cells, half(4), by_hand(8.0, true)),
        row(
            "2 modules in 4 slots with cells, planner, map in half of them",
            Nature::with_cells,
            Outfit { free_slots: 2, ..half(2) },
            Procedure::Planner,
        ),
        row(
            "4 modules with cells, unlike world, planner, no map",
            Nature::different_with_cells,
            outfit(4),
            Procedure::Planner,
        ),
        row(
            "4 modules with cells, unlike world, planner, map in half",
            Nature::different_with_cells,
            half(4),
            Procedure::Planner,
        ),
        row(
            "4 modules with cells, planner, stubborn technician, map in half",
            Nature::with_cells,
            half(4),
            Procedure::Stubborn,
        ),
        row("8 modules, planner, no map", Nature::modelled, outfit(8), Procedure::Planner),
        row("8 modules, planner, map", Nature::modelled, mapped(8), Procedure::Planner),
    ]
}

/// Sums over the cases of a row.
#[derive(Default)]
struct Sums {
    cases: u64,
    right: u64,
    in_set: u64,
    condemned: u64,
    named: u64,
    boots: u64,
    hands: f64,
    hours: f64,
    stated: f64,
    undecided: u64,
    decisions: u64,
    seconds: f64,
    longest: f64,
    /// How often each decision is made, beyond the first time for the clock only.
    repeats: u32,
    all_seconds: Vec<f64>,
    /// By kind of cause: cases, right ones, runs.
    by_cause: BTreeMap<&'static str, [u64; 3]>,
}

/// Makes the table.
///
/// # Errors
/// When no row is chosen.
pub fn study(args: &IsolationArgs) -> Result<()> {
    let rows: Vec<Row> = rows()
        .into_iter()
        .filter(|row| args.only.as_ref().is_none_or(|only| row.name.contains(only.as_str())))
        .collect();
    ensure!(!rows.is_empty(), "no row has this in its name");
    if args.decisions {
        return decisions(&rows, args);
    }
    println!(
        "| procedure | cases | right | in the named set | named | good part condemned | runs | hands min | machine h | stated | open | ms per step, longest |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|---|---|");
    for row in &rows {
        let cases = row.cases(args.cases);
        let sums = measured(row, cases, args)?;
        println!("{}", line(row, &sums));
        for (cause, [cases, right, runs]) in sums.by_cause.iter().filter(|_| args.by_cause) {
            let cases = *cases as f64;
            println!(
                "    {cause:<18} {cases:>6} cases, right {:.3}, {:.2} runs",
                *right as f64 / cases,
                *runs as f64 / cases
            );
        }
    }
    Ok(())
}

/// Cases of which every decision is timed.
const TIMED_CASES: u64 = 60;

fn decisions(rows: &[Row], args: &IsolationArgs) -> Result<()> {
    println!("| procedure | decisions | median ms | 99 % within ms | longest ms |\n|---|---|---|---|---|");
    let priors = Priors::default();
    for row in rows.iter().filter(|row| matches!(row.procedure, Procedure::Planner)) {
        let mut sums = Sums { repeats: 3, ..Sums::default() };
        let nature = (row.nature)();
        (0..TIMED_CASES).for_each(|case| one(row, &nature, &priors, args.seed + case, &mut sums, 0));
        sums.all_seconds.sort_by(f64::total_cmp);
        let at = |part: f64| 1e3 * sums.all_seconds[((sums.all_seconds.len() - 1) as f64 * part) as usize];
        let count = sums.all_seconds.len();
        println!("| {} | {count} | {:.2} | {:.2} | {:.2} |", row.name, at(0.5), at(0.99), at(1.0));
    }
    Ok(())
}

fn measured(row: &Row, cases: u64, args: &IsolationArgs) -> Result<Sums> {
    let nature = (row.nature)();
    let priors = match &args.priors {
        Some(file) => Priors::parse(&std::fs::read_to_string(file)?)?,
        None => Priors::default(),
    };
    let threads = std::thread::available_parallelism().map_or(1, usize::from) as u64;
    let parts: Vec<Sums> = std::thread::scope(|scope| {
        let part = |first: u64| {
            let (nature, priors) = (&nature, &priors);
            scope.spawn(move || {
                let mut sums = Sums::default();
                for case in (first..cases).step_by(threads as usize) {
                    one(row, nature, priors, args.seed + case, &mut sums, args.wrong);
                }
                sums
            })
        };
        let threads: Vec<_> = (0..threads).map(part).collect();
        threads.into_iter().filter_map(|thread| thread.join().ok()).collect()
    });
    Ok(parts.into_iter().fold(Sums::default(), Sums::plus))
}

fn one(row: &Row, nature: &Nature, priors: &Priors, seed: u64, sums: &mut Sums, tell: usize) {
    let (mut world, first) = World::draw(nature, &row.outfit, seed);
    let mut technician = matches!(row.procedure, Procedure::Stubborn).then(|| Technician::new(&world.outfit, seed));
    let found = match row.procedure {
        Procedure::ByHand { passes, careful } => one_by_one(&mut world, passes, careful),
        Procedure::Planner | Procedure::Stubborn => {
            planned(&mut world, first.clone(), priors, technician.as_mut(), sums)
        }
    };
    let truth = world.truth();
    let truth = technician.as_ref().map_or(truth.clone(), |technician| technician.by_name(truth));
    sums.cases += 1;
    let leader = found.named.first();
    let right = leader == Some(&truth);
    sums.right += u64::from(right);
    let of_cause = sums.by_cause.entry(kind(&truth)).or_default();
    let counts = [1, u64::from(right), found.runs.len() as u64];
    of_cause.iter_mut().zip(counts).for_each(|(sum, count)| *sum += count);
    sums.in_set += u64::from(found.named.contains(&truth));
    sums.named += found.named.len() as u64;
    sums.undecided += u64::from(found.named.len() > 1);
    sums.stated += found.stated.unwrap_or(0.0);
    let accused: Vec<String> = leader.filter(|_| found.named.len() == 1).map(parts).unwrap_or_default();
    sums.condemned += u64::from(accused.iter().any(|part| !parts(&truth).contains(part)));
    sums.boots += found.runs.len() as u64;
    sums.hours += found.runs.iter().map(|run| run.minutes).sum::<f64>() / 60.0;
    sums.hands += hands(&first, &found.runs);
    if !right && sums.cases - sums.right <= tell as u64 {
        println!("seed {seed}: {truth:?}, but {:?} at {:?}", found.named, found.stated);
        for run in std::iter::once(&first).chain(&found.runs) {
            println!(
                "    {:?} {} {:.1} passes {:?} {:?}",
                run.placement, run.settings, run.passes, run.reseat, run.evidence
            );
        }
    }
}

fn kind(suspect: &Suspect) -> &'static str {
    match suspect {
        Suspect::Module(_) | Suspect::Unfit(_) => "module",
        Suspect::Slot(_) => "slot",
        Suspect::Channel(_) => "channel",
        Suspect::TooMany => "too many",
        Suspect::Position => "position",
        Suspect::Kits => "kits",
        Suspect::NoPart => "no part",
        Suspect::Combination(_) => "combination",
        Suspect::Pair(..) => "pair",
        Suspect::Settings => "settings",
        Suspect::Controller => "controller",
        Suspect::TwoModules(..) | Suspect::ModuleAndSlot(..) => "two faults",
        Suspect::Other => "other",
    }
}

/// Modules and slots that are blamed.
fn parts(suspect: &Suspect) -> Vec<String> {
    suspect.modules().into_iter().chain(suspect.slot()).chain(suspect.channel()).map(str::to_owned).collect()
}

fn planned(
    world: &mut World,
    first: RunFact,
    priors: &Priors,
    mut technician: Option<&mut Technician>,
    sums: &mut Sums,
) -> Found {
    let outfit = world.outfit.clone();
    let slots = (0..outfit.slots()).map(|slot| {
        let id = slot_name(&outfit, slot);
        KnownSlot { channel: Some(id[..1].to_owned()), id, soldered: false }
    });
    let spare = usize::from(outfit.spare);
    let modules = (0..outfit.modules + spare).map(|at| KnownModule {
        known_good: at == outfit.modules,
        kit: (outfit.kits && at < outfit.modules).then(|| (at % 2).to_string()),
        ..KnownModule::of(module_name(&outfit, at))
    });
    let mut case = Case {
        slots: slots.collect(),
        modules: modules.collect(),
        settings: world.settings.clone(),
        map_known: outfit.map,
        halves: outfit.halves.then(|| {
            [0, 1].map(|channel| {
                let own = (0..outfit.slots()).filter(|slot| slot % outfit.channels == channel);
                own.map(|slot| slot_name(&outfit, slot)).collect()
            })
        }),
        reach: world.reach(&first),
        runs: vec![first.clone()],
        priors: priors.clone(),
        ..Case::default()
    };
    name_halves(&mut case, world, &first);
    loop {
        let began = Instant::now();
        let advice = advise(&case);
        let mut seconds = began.elapsed().as_secs_f64();
        for _ in 1..sums.repeats {
            let began = Instant::now();
            std::hint::black_box(advise(std::hint::black_box(&case)));
            seconds = seconds.min(began.elapsed().as_secs_f64());
        }
        sums.all_seconds.push(seconds);
        sums.seconds += seconds;
        sums.longest = sums.longest.max(seconds);
        sums.decisions += 1;
        match advice.verdict {
            Verdict::Open(step) => {
                let next = step.next;
                let clean = RunFact::clean(next.placement, next.minutes, next.passes);
                let proposed = RunFact { settings: next.settings, reseat: next.reseat, ..clean };
                let run = match (technician.as_deref_mut(), case.runs.last()) {
                    (Some(technician), Some(now)) => {
                        let done = technician.does(proposed, now);
                        let run = world.run(technician.really(done));
                        let run = technician.really(run);
                        RunFact { struck: technician.strikes(&run), ..run }
                    }
                    _ => world.run(proposed),
                };
                case.reach.extend(world.reach(&run));
                name_halves(&mut case, world, &run);
                case.runs.push(run);
            }
            Verdict::Done { named, reason } => {
                // Of a confident answer the first is meant; only one that says itself that it is open names several.
                let count = if reason == Reason::Confident { 1 } else { named.len() };
                let named = &named[..count.min(named.len())];
                return Found {
                    stated: Some(named.iter().map(|odds| odds.probability).sum()),
                    named: named.iter().map(|odds| odds.suspect.clone()).collect(),
                    runs: case.runs.split_off(1),
                };
            }
            Verdict::NothingToFind | Verdict::NotWhole => {
                return Found { named: Vec::new(), stated: None, runs: case.runs.split_off(1) };
            }
        }
    }
}

/// The halves get their names where this run shows them.
fn name_halves(case: &mut Case, world: &World, run: &RunFact) {
    if !case.halves_named && world.names_halves(run) {
        case.halves_named = true;
        case.halves.iter_mut().filter(|_| world.exchanges_halves()).for_each(|halves| halves.reverse());
    }
}

/// Minutes of hands: each run's changes against the one before.
fn hands(first: &RunFact, runs: &[RunFact]) -> f64 {
    let mut before = first;
    let mut minutes = 0.0;
    for run in runs {
        let moved = |from: &RunFact, to: &RunFact| {
            from.placement
                .iter()
                .filter(|place| !to.placement.contains(place))
                .map(|(_, module)| module.clone())
                .collect::<Vec<_>>()
        };
        let mut touched = [moved(before, run), moved(run, before), run.reseat.clone()].concat();
        touched.sort();
        touched.dedup();
        let set = before.settings != run.settings;
        minutes += match touched.len() {
            0 => 2.0,
            modules => 4.0 + modules as f64,
        } + if set { 2.0 } else { 0.0 };
        before = run;
    }
    minutes
}

impl Sums {
    fn plus(mut self, other: Self) -> Self {
        for (cause, counts) in other.by_cause {
            let sums = self.by_cause.entry(cause).or_default();
            sums.iter_mut().zip(counts).for_each(|(sum, count)| *sum += count);
        }
        Self {
            cases: self.cases + other.cases,
            right: self.right + other.right,
            in_set: self.in_set + other.in_set,
            condemned: self.condemned + other.condemned,
            named: self.named + other.named,
            boots: self.boots + other.boots,
            hands: self.hands + other.hands,
            hours: self.hours + other.hours,
            stated: self.stated + other.stated,
            undecided: self.undecided + other.undecided,
            decisions: self.decisions + other.decisions,
            seconds: self.seconds + other.seconds,
            longest: self.longest.max(other.longest),
            repeats: self.repeats,
            all_seconds: Vec::new(),
            by_cause: self.by_cause,
        }
    }
}

fn line(row: &Row, sums: &Sums) -> String {
    let cases = sums.cases as f64;
    let by_planner = !matches!(row.procedure, Procedure::ByHand { .. });
    let decisions = match by_planner {
        true => format!("{:.2}, {:.1}", sums.seconds * 1e3 / sums.decisions as f64, sums.longest * 1e3),
        false => "–".to_owned(),
    };
    let stated = if by_planner { format!("{:.3}", sums.stated / cases) } else { "–".to_owned() };
    format!(
        "| {} | {} | {} | {} | {:.2} | {} | {:.2} | {:.1} | {:.2} | {stated} | {:.3} | {decisions} |",
        row.name,
        sums.cases,
        share(sums.right, sums.cases),
        share(sums.in_set, sums.cases),
        sums.named as f64 / cases,
        share(sums.condemned, sums.cases),
        sums.boots as f64 / cases,
        sums.hands / cases,
        sums.hours / cases,
        sums.undecided as f64 / cases,
    )
}

/// A share with its 95 % interval (Wilson, "Probable inference", 1927).
fn share(hits: u64, of: u64) -> String {
    let (p, n, z) = (hits as f64 / of as f64, of as f64, 1.96f64);
    let (middle, scale) = (p + z * z / (2.0 * n), 1.0 + z * z / n);
    let reach = z * (p * (1.0 - p) / n + z * z / (4.0 * n * n)).sqrt();
    format!("{p:.3} ({:.3} to {:.3})", (middle - reach) / scale, (middle + reach) / scale)
}
