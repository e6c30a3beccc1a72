//! The answer first: what it is, how sure, why, and what to do.

use revisum_diagnose::isolate::{
    Action, Beyond, Experiment, Odds, Reason, Suspect, Verdict, band, gone_and_kept, to_do,
};
use revisum_engine::units::duration_text;
use revisum_record::confidence::Worth;
use revisum_record::fitted::Module;
use revisum_record::journal::{Stage, Tick};
use revisum_record::outcome::{Claim, Grade, Outcome};

use crate::document::Block;
use crate::input::{Input, Ran, Reached};
use crate::keys::Key;
use revisum_words::{Said, Texts, advice, odds, order};

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
            let to_do = super::board::sentences(input).into_iter().chain(self::beyond(texts)).collect();
            (texts.say(key), false, worth, to_do)
        }
        Some((Verdict::NotWhole, _)) => {
            (texts.say(Key::VerdictNotWhole), true, Vec::new(), vec![texts.say(Key::DoBegin)])
        }
        Some((Verdict::Done { named, reason }, _)) => words.done(named, *reason),
        Some((Verdict::Open(step), odds)) => words.going_on(odds, &step.next),
    };
    let beneath = beneath.into_iter().chain(words.because()).collect();
    let mut blocks = vec![Block::Answer { words: answer, bad, beneath }];
    if input.lost_records > 0 {
        blocks.push(Block::Paragraph(texts.put(Key::RecordLost, &[("count", (input.lost_records as u64).into())])));
    }
    blocks.push(Block::Heading(texts.say(Key::Next)));
    blocks.push(match to_do.is_empty() {
        true => Block::Paragraph(texts.say(Key::DoNothing)),
        false => Block::Numbered(to_do),
    });
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

/// The answer, whether something is wrong, what is beneath it, and what to do.
type Answer = (String, bool, Vec<String>, Vec<String>);

impl Words<'_> {
    fn done(&self, named: &[Odds], reason: Reason) -> Answer {
        let texts = self.texts;
        let Some(first) = named.first() else {
            return (texts.say(Key::VerdictOther), true, Vec::new(), vec![advice::action(&Action::LookBeyond)]);
        };
        let no_part = first.suspect == Suspect::NoPart;
        if reason == Reason::Confident {
            let beneath = vec![self.sure(first.probability), advice::why(self.input.case, &first.suspect)];
            return (self.verdict(&first.suspect), !no_part, beneath, self.to_do(named, reason));
        }
        let to_do = self.to_do(named, reason);
        if let [one] = named {
            let sure = self.sure(one.probability);
            let part = [("part", self.part(&one.suspect).into())];
            if advice::ran_without(self.input.case, &one.suspect) {
                return (texts.put(Key::VerdictAlike, &part), true, vec![sure], to_do);
            }
            let words = texts.put(Key::VerdictUnproved, &part);
            let why = texts.put(Key::WhyAlone, &[("failed", self.failures().into())]);
            return (words, true, vec![sure, why], to_do);
        }
        let parts: Vec<String> = named.iter().map(|odds| self.part(&odds.suspect)).collect();
        (texts.put(Key::VerdictOpen, &[("parts", parts.join("; ").into())]), true, Vec::new(), to_do)
    }

    fn going_on(&self, odds: &[Odds], next: &Experiment) -> Answer {
        let texts = self.texts;
        let leader = odds.first();
        let part = leader.map_or_else(String::new, |odds| self.part(&odds.suspect));
        let sure = leader.map(|odds| self.sure(odds.probability));
        let fitted = |(slot, id): &(String, String)| {
            texts.put(Key::FittedIn, &[("module", (self.input.name)(id).into()), ("slot", slot.as_str().into())])
        };
        let fitting: Vec<String> = next.placement.iter().map(fitted).collect();
        let time = duration_text(next.minutes * 60.0);
        let step = texts.put(Key::NextRun, &[("fitting", fitting.join(", ").into()), ("time", time.into())]);
        let files = advice::action(&Action::CheckFiles);
        let to_do = vec![texts.put(Key::DoGoingOn, &[("step", step.into())]), files];
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
        self.texts.put(
            key,
            &[
                ("module", module.into()),
                ("other", other.into()),
                ("slot", slot.into()),
                ("channel", suspect.channel().unwrap_or_default().into()),
            ],
        )
    }

    fn verdict(&self, suspect: &Suspect) -> String {
        self.keyed(verdict_key(suspect), suspect)
    }

    fn part(&self, suspect: &Suspect) -> String {
        odds::suspect(suspect, self.input.name)
    }

    fn sure(&self, probability: f64) -> String {
        format!("{}: {}.", self.texts.say(Key::Sure), band(probability).said())
    }

    /// What speaks most for who leads, where checking itself did not fail.
    fn because(&self) -> Option<String> {
        let advice = self.input.advice.filter(|_| last(self.input) != Some(Outcome::CheckingFailed))?;
        let reasons = odds::reasons(self.input.case, advice, self.input.name);
        let key = self.texts.say(Key::Because);
        (!reasons.is_empty()).then(|| format!("{key}: {}.", reasons.join("; ")))
    }

    fn failures(&self) -> u64 {
        self.input.case.runs.iter().filter(|run| run.failed() && !run.struck).count() as u64
    }

    fn reached(&self, what: Reached) -> bool {
        self.input.course.iter().any(|(known, _)| *known == what)
    }

    fn to_do(&self, named: &[Odds], reason: Reason) -> Vec<String> {
        let reached = |what| self.reached(what);
        // What the course says was done is not to be done next.
        let is_open = |action: &Action| match action {
            Action::Replace | Action::ReplaceBoth | Action::ReplaceAlike => !reached(Reached::Stage(Stage::Proved)),
            Action::CheckFiles => !reached(Reached::Tick(Tick::FilesChecked)),
            Action::Prove(_) => !reached(Reached::Stage(Stage::Proved)) || !reached(Reached::Stage(Stage::Restored)),
            _ => true,
        };
        to_do(self.input.case, named, reason).iter().filter(|action| is_open(action)).map(advice::action).collect()
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
        if bad.is_empty() {
            return Vec::new();
        }
        let kept: Vec<&Module> = kept.iter().filter_map(|id| self.input.module(id)).collect();
        let board = self.input.job.looked.as_ref().map(|looked| looked.board.mainboard.as_str()).unwrap_or_default();
        let lines = order(&bad, &kept, board);
        let was_ordered = self.reached(Reached::Tick(Tick::Ordered));
        let heading = if was_ordered { Key::Ordered } else { Key::Order };
        vec![Block::Heading(self.texts.say(heading)), Block::Bullets(lines)]
    }
}

/// What to look at when memory is clean and the trouble stays.
fn beyond(texts: &Texts) -> Vec<String> {
    let all: Vec<&str> = Beyond::ALL.iter().map(Said::said).collect();
    vec![texts.put(Key::DoCleanNext, &[("list", all.join("; ").into())])]
}

/// A sentence that says what it is.
fn verdict_key(suspect: &Suspect) -> Key {
    match suspect {
        Suspect::Module(_) => Key::VerdictModule,
        Suspect::Unfit(_) => Key::VerdictUnfit,
        Suspect::Slot(_) => Key::VerdictSlot,
        Suspect::Channel(_) => Key::VerdictChannel,
        Suspect::TooMany => Key::VerdictTooMany,
        Suspect::Position => Key::VerdictPosition,
        Suspect::Kits => Key::VerdictKits,
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
