//! The answer first: what it is, how sure, why, and what to do.

use revisum_diagnose::isolate::{
    Experiment, Odds, Reason, Shown, Suspect, Verdict, before_the_change, gone_and_kept, shown,
};
use revisum_engine::units::{bytes_text, duration_text};
use revisum_record::confidence::{Before, Worth};
use revisum_record::fitted::Module;
use revisum_record::outcome::{Claim, Grade, Outcome};

use crate::document::Block;
use crate::input::{Input, Ran};
use crate::keys::Key;
use revisum_words::Texts;

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    let words = Words { input, texts };
    let (answer, bad, beneath, to_do) = match input.advice.map(|advice| (&advice.verdict, &advice.odds)) {
        None => (texts.say(Key::VerdictNothing), false, Vec::new(), vec![texts.say(Key::DoBegin)]),
        Some(_) if last(input) == Some(Outcome::CheckingFailed) => {
            (texts.say(Key::VerdictBelieve), true, Vec::new(), vec![texts.say(Key::DoBegin)])
        }
        Some((Verdict::NothingToFind, _)) => {
            let worth: Vec<String> = words.worth().into_iter().collect();
            let key = if worth.is_empty() { Key::VerdictUnfinished } else { Key::VerdictClean };
            (texts.say(key), false, worth, vec![texts.say(Key::DoCleanNext)])
        }
        Some((Verdict::NotWhole, _)) => {
            (texts.say(Key::VerdictNotWhole), true, Vec::new(), vec![texts.say(Key::DoBegin)])
        }
        Some((Verdict::Done { named, reason }, _)) => words.done(named, *reason),
        Some((Verdict::Open(step), odds)) => words.going_on(odds, &step.next),
    };
    let mut blocks = vec![Block::Answer { words: answer, bad, beneath }];
    if input.lost_records > 0 {
        blocks.push(Block::Paragraph(texts.put(Key::RecordLost, &[("count", (input.lost_records as u64).into())])));
    }
    blocks.push(Block::Heading(texts.say(Key::Next)));
    blocks.push(Block::Numbered(to_do));
    blocks.extend(words.order());
    blocks
}

fn last(input: &Input<'_>) -> Option<Outcome> {
    input.counting().last().map(|run| run.judgement.outcome)
}

struct Words<'a> {
    input: &'a Input<'a>,
    texts: &'a Texts,
}

type Said = (String, bool, Vec<String>, Vec<String>);

impl Words<'_> {
    fn done(&self, named: &[Odds], reason: Reason) -> Said {
        let texts = self.texts;
        let Some(first) = named.first() else {
            return (texts.say(Key::VerdictOther), true, Vec::new(), vec![texts.say(Key::DoOther)]);
        };
        let no_part = first.suspect == Suspect::NoPart;
        if reason == Reason::Confident {
            let sure = format!("{}: {}.", texts.say(Key::Sure), self.band(first.probability));
            let mut to_do = self.to_do(&first.suspect);
            to_do.extend(self.afterwards(!no_part));
            return (self.verdict(&first.suspect), !no_part, vec![sure, self.why(&first.suspect)], to_do);
        }
        let mut to_do = vec![texts.say(Key::DoOpenGood)];
        let together = |odds: &Odds| matches!(odds.suspect, Suspect::Pair(..) | Suspect::Combination(_));
        if named.iter().any(together) {
            to_do.push(texts.say(Key::DoOpenSet));
        }
        to_do.extend(self.afterwards(true));
        if let [one] = named {
            let sure = format!("{}: {}.", texts.say(Key::Sure), self.band(one.probability));
            let words = texts.put(Key::VerdictUnproved, &[("part", self.part(&one.suspect).into())]);
            let why = texts.put(Key::WhyAlone, &[("failed", self.failures().into())]);
            return (words, true, vec![sure, why], to_do);
        }
        let parts: Vec<String> = named.iter().map(|odds| self.part(&odds.suspect)).collect();
        (texts.put(Key::VerdictOpen, &[("parts", parts.join("; ").into())]), true, Vec::new(), to_do)
    }

    fn going_on(&self, odds: &[Odds], next: &Experiment) -> Said {
        let texts = self.texts;
        let leader = odds.first();
        let part = leader.map_or_else(String::new, |odds| self.part(&odds.suspect));
        let sure = leader.map(|odds| format!("{}: {}.", texts.say(Key::Sure), self.band(odds.probability)));
        let fitted = |(slot, id): &(String, String)| {
            texts.put(Key::FittedIn, &[("module", (self.input.name)(id).into()), ("slot", slot.as_str().into())])
        };
        let fitting: Vec<String> = next.placement.iter().map(fitted).collect();
        let time = duration_text(next.minutes * 60.0);
        let step = texts.put(Key::NextRun, &[("fitting", fitting.join(", ").into()), ("time", time.into())]);
        let mut to_do = vec![texts.put(Key::DoGoingOn, &[("step", step.into())])];
        to_do.extend(self.afterwards(true));
        let beneath = sure.into_iter().chain([texts.say(Key::OpenNote)]).collect();
        (texts.put(Key::VerdictGoingOn, &[("part", part.into())]), true, beneath, to_do)
    }

    fn names(&self, suspect: &Suspect) -> (String, String, String) {
        let mut modules = suspect.modules().into_iter().map(|id| (self.input.name)(id));
        let (module, other) = (modules.next().unwrap_or_default(), modules.next().unwrap_or_default());
        (module, other, suspect.slot().unwrap_or_default().to_owned())
    }

    fn keyed(&self, key: Key, suspect: &Suspect) -> String {
        let (module, other, slot) = self.names(suspect);
        self.texts.put(key, &[("module", module.into()), ("other", other.into()), ("slot", slot.into())])
    }

    fn verdict(&self, suspect: &Suspect) -> String {
        self.keyed(verdict_key(suspect), suspect)
    }

    fn part(&self, suspect: &Suspect) -> String {
        self.keyed(part_key(suspect), suspect)
    }

    fn band(&self, probability: f64) -> String {
        let bands = [(0.95, Key::Band095), (0.5, Key::Band050), (0.05, Key::Band005)];
        let key = bands.iter().find(|(least, _)| probability >= *least).map_or(Key::Band000, |(_, key)| *key);
        self.texts.say(key)
    }

    fn failures(&self) -> u64 {
        self.input.case.runs.iter().filter(|run| run.failed() && !run.struck).count() as u64
    }

    /// What the runs themselves show: how many failed with it, and the longest that was clean without it.
    fn why(&self, suspect: &Suspect) -> String {
        let texts = self.texts;
        let Shown { failed, clean_passes: longest } = shown(self.input.case, suspect);
        match suspect {
            Suspect::NoPart => texts.say(Key::WhyTouched),
            Suspect::Settings => texts.say(Key::WhySettings),
            Suspect::Controller | Suspect::Other => texts.say(Key::WhyBest),
            Suspect::Combination(_) if longest.is_some() => {
                let passes = longest.unwrap_or_default().floor() as u64;
                texts.put(Key::WhyBeside, &[("failed", failed.into()), ("passes", passes.into())])
            }
            _ => match longest {
                Some(passes) => {
                    texts.put(Key::WhyWith, &[("failed", failed.into()), ("passes", (passes.floor() as u64).into())])
                }
                None => texts.put(Key::WhyAlone, &[("failed", failed.into())]),
            },
        }
    }

    fn to_do(&self, suspect: &Suspect) -> Vec<String> {
        let texts = self.texts;
        let elsewhere =
            |id: &String| self.input.case.modules.iter().any(|known| known.id == *id && known.elsewhere.is_some());
        match suspect {
            Suspect::Module(id) if !elsewhere(id) => vec![texts.say(Key::DoReplace), texts.say(Key::DoElsewhere)],
            Suspect::Module(_) | Suspect::TwoModules(..) => vec![texts.say(Key::DoReplace)],
            Suspect::Unfit(_) => vec![texts.say(Key::DoUseElsewhere)],
            Suspect::Combination(_) => vec![texts.say(Key::DoCombination)],
            Suspect::Pair(..) => vec![texts.say(Key::DoPair)],
            Suspect::Slot(_) => vec![texts.say(Key::DoSlot)],
            Suspect::ModuleAndSlot(..) => vec![texts.say(Key::DoModuleSlot)],
            Suspect::Settings => vec![texts.say(Key::DoSettings)],
            Suspect::NoPart => vec![texts.say(Key::DoNoPart)],
            Suspect::Controller => vec![texts.say(Key::DoController)],
            Suspect::Other => vec![texts.say(Key::DoOther)],
        }
    }

    /// Files and the proof of the repair.
    fn afterwards(&self, bad: bool) -> Vec<String> {
        let time = match before_the_change(self.input.case).map(Before::clean_to_show_help) {
            None => "none".to_owned(),
            Some(None) => "once".to_owned(),
            Some(Some(seconds)) => duration_text(seconds),
        };
        let proof = self.texts.put(Key::DoProof, &[("time", time.into())]);
        if bad { vec![self.texts.say(Key::DoFiles), proof] } else { vec![proof] }
    }

    /// What clean running is worth: of all runs that were fitted, set and tested the same the most.
    fn worth(&self) -> Option<String> {
        let clean: Vec<&Ran<'_>> =
            self.input.counting().filter(|run| run.judgement.outcome == Outcome::Clean).collect();
        // A run over a part of the memory says nothing of the part that another run had.
        let adds_up = |run: &Ran<'_>| run.judgement.grade == Grade::Clean;
        let alike = |one: &Ran<'_>| -> (Worth, usize) {
            let same = clean.iter().filter(|run| adds_up(run) && run.is_like(one));
            same.fold((Worth::default(), 0), |(worth, count), run| (worth.plus(run.judgement.worth()), count + 1))
        };
        let alone = |one: &Ran<'_>| match one.judgement.claim {
            Claim::RuledOut(worth) => (worth, 1),
            Claim::None | Claim::TooLittle => (Worth::default(), 1),
        };
        let sums = clean.iter().map(|run| if adds_up(run) { alike(run) } else { alone(run) });
        let (worth, runs) =
            sums.filter(|(worth, _)| worth.rules_out()).max_by(|(a, _), (b, _)| a.seconds.total_cmp(&b.seconds))?;
        let values = [
            ("runs", runs.into()),
            ("time", duration_text(worth.seconds).into()),
            ("passes", u64::from(worth.passes).into()),
            ("interval", duration_text(worth.interval_s()).into()),
            ("percent", format!("{:.0}", worth.percent_of_passes()).into()),
        ];
        Some(self.texts.put(Key::CleanWorth, &values))
    }

    /// What to order in place of modules that have to go.
    fn order(&self) -> Vec<Block> {
        let Some(Verdict::Done { named, reason }) = self.input.advice.map(|advice| &advice.verdict) else {
            return Vec::new();
        };
        let (gone, kept) = gone_and_kept(self.input.case, named, *reason);
        let bad: Vec<&Module> = gone.iter().filter_map(|id| self.input.module(id)).collect();
        let Some(first) = bad.first() else { return Vec::new() };
        let texts = self.texts;
        let mut lines: Vec<String> = bad.iter().map(|module| self.specification(module)).collect();
        lines.dedup();
        let part = format!("{} {}", first.maker, first.part);
        if !first.part.is_empty() {
            lines.push(texts.put(Key::OrderPart, &[("part", part.trim().into())]));
        }
        if !kept.is_empty() {
            lines.push(texts.say(Key::OrderBeside));
        }
        lines.push(texts.say(Key::OrderNew));
        if let Some(looked) = self.input.job.looked.as_ref().filter(|looked| !looked.board.mainboard.is_empty()) {
            lines.push(texts.put(Key::OrderBoard, &[("board", looked.board.mainboard.as_str().into())]));
        }
        vec![Block::Heading(texts.say(Key::Order)), Block::Bullets(lines)]
    }

    fn specification(&self, module: &Module) -> String {
        let kind: Vec<&str> = [&module.generation, &module.form]
            .into_iter()
            .map(String::as_str)
            .filter(|word| !word.is_empty())
            .collect();
        let speed = module.base_speed.or(module.rated_speed).or(module.speed);
        let none = || "none".to_owned();
        let values = [
            ("kind", kind.join(" ").into()),
            ("size", bytes_text(module.bytes).into()),
            ("speed", speed.map_or_else(none, |speed| speed.to_string()).into()),
            ("ranks", module.ranks.map_or_else(|| "none".into(), |ranks| u64::from(ranks).into())),
            ("timings", Some(module.timings.clone()).filter(|timings| !timings.is_empty()).unwrap_or_else(none).into()),
            ("ecc", if module.byte_lanes > 8 { "yes" } else { "no" }.into()),
        ];
        self.texts.put(Key::OrderModule, &values)
    }
}

/// A sentence that says what it is.
fn verdict_key(suspect: &Suspect) -> Key {
    match suspect {
        Suspect::Module(_) => Key::VerdictModule,
        Suspect::Unfit(_) => Key::VerdictUnfit,
        Suspect::Slot(_) => Key::VerdictSlot,
        Suspect::NoPart => Key::VerdictNoPart,
        Suspect::Combination(_) => Key::VerdictCombination,
        Suspect::Pair(..) => Key::VerdictPair,
        Suspect::Settings => Key::VerdictSettings,
        Suspect::Controller => Key::VerdictController,
        Suspect::TwoModules(..) => Key::VerdictTwo,
        Suspect::ModuleAndSlot(..) => Key::VerdictModuleSlot,
        Suspect::Other => Key::VerdictOther,
    }
}

/// The part by itself.
fn part_key(suspect: &Suspect) -> Key {
    match suspect {
        Suspect::Module(_) => Key::PartModule,
        Suspect::Unfit(_) => Key::PartUnfit,
        Suspect::Slot(_) => Key::PartSlot,
        Suspect::NoPart => Key::PartNoPart,
        Suspect::Combination(_) => Key::PartCombination,
        Suspect::Pair(..) => Key::PartPair,
        Suspect::Settings => Key::PartSettings,
        Suspect::Controller => Key::PartController,
        Suspect::TwoModules(..) => Key::PartTwo,
        Suspect::ModuleAndSlot(..) => Key::PartModuleSlot,
        Suspect::Other => Key::PartOther,
    }
}
