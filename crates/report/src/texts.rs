//! The words of the report, by key, in each language. They stand in `texts/*.ftl` and nowhere else.

use crate::keys::Key;
use fluent_bundle::{FluentArgs, FluentBundle, FluentResource, FluentValue};
use unic_langid::LanguageIdentifier;

/// A language of the report.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Language {
    /// English.
    #[default]
    En,
    /// German.
    De,
}

impl Language {
    /// All of them.
    pub const ALL: [Self; 2] = [Self::En, Self::De];

    /// Its tag.
    pub fn tag(self) -> &'static str {
        match self {
            Self::En => "en",
            Self::De => "de",
        }
    }

    /// The language with this tag.
    pub fn tagged(tag: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|language| language.tag() == tag)
    }

    fn source(self) -> &'static str {
        match self {
            Self::En => include_str!("../texts/en.ftl"),
            Self::De => include_str!("../texts/de.ftl"),
        }
    }
}

/// All words of one language.
pub struct Texts {
    /// Which.
    pub language: Language,
    bundle: FluentBundle<FluentResource>,
}

impl Texts {
    /// The words of a language.
    pub fn new(language: Language) -> Self {
        let source = language.source();
        let id: Option<LanguageIdentifier> = language.tag().parse().ok();
        let mut bundle = FluentBundle::new(id.into_iter().collect());
        // Marks around what is put in would be printed.
        bundle.set_use_isolating(false);
        // What cannot be read is missing, which a test finds; the rest is used.
        let resource = FluentResource::try_new(source.to_owned()).unwrap_or_else(|(resource, _)| resource);
        let _ = bundle.add_resource(resource);
        Self { language, bundle }
    }

    /// The words under a key.
    pub(crate) fn say(&self, key: Key) -> String {
        self.put(key, &[])
    }

    /// The words under a key with values put in. A test holds that every key has words in every language.
    pub(crate) fn put(&self, key: Key, values: &[(&str, FluentValue<'_>)]) -> String {
        let Some(pattern) = self.bundle.get_message(key.id()).and_then(|message| message.value()) else {
            return key.id().to_owned();
        };
        let mut args = FluentArgs::new();
        values.iter().for_each(|(name, value)| args.set(*name, value.clone()));
        self.bundle.format_pattern(pattern, Some(&args), &mut Vec::new()).into_owned()
    }

    /// A number with its decimals, as this language writes it.
    pub fn decimal(&self, number: f64, decimals: usize) -> String {
        let plain = format!("{number:.decimals$}");
        if self.language == Language::De { plain.replace('.', ",") } else { plain }
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use fluent_syntax::ast::{Entry, InlineExpression, Pattern, PatternElement};
    use fluent_syntax::parser::parse;

    use super::*;

    const ALL: [Key; 220] = [
        Key::Report,
        Key::Made,
        Key::By,
        Key::Machine,
        Key::Owner,
        Key::Told,
        Key::Changed,
        Key::Tried,
        Key::Job,
        Key::Simulated,
        Key::OpenNote,
        Key::Page,
        Key::Next,
        Key::Sure,
        Key::VerdictModule,
        Key::VerdictUnfit,
        Key::VerdictSlot,
        Key::VerdictNoPart,
        Key::VerdictCombination,
        Key::VerdictPair,
        Key::VerdictSettings,
        Key::VerdictController,
        Key::VerdictTwo,
        Key::VerdictModuleSlot,
        Key::VerdictOther,
        Key::VerdictOpen,
        Key::VerdictUnproved,
        Key::VerdictGoingOn,
        Key::VerdictClean,
        Key::VerdictNothing,
        Key::VerdictUnfinished,
        Key::VerdictBelieve,
        Key::VerdictNotWhole,
        Key::RecordLost,
        Key::PartModule,
        Key::PartUnfit,
        Key::PartSlot,
        Key::PartNoPart,
        Key::PartCombination,
        Key::PartPair,
        Key::PartSettings,
        Key::PartController,
        Key::PartTwo,
        Key::PartModuleSlot,
        Key::PartOther,
        Key::Band095,
        Key::Band050,
        Key::Band005,
        Key::Band000,
        Key::WhyWith,
        Key::WhyAlone,
        Key::WhyBeside,
        Key::WhyTouched,
        Key::WhySettings,
        Key::WhyBest,
        Key::CleanWorth,
        Key::DoReplace,
        Key::DoElsewhere,
        Key::DoUseElsewhere,
        Key::DoCombination,
        Key::DoPair,
        Key::DoSlot,
        Key::DoModuleSlot,
        Key::DoSettings,
        Key::DoNoPart,
        Key::DoController,
        Key::DoOther,
        Key::DoOpenGood,
        Key::DoOpenSet,
        Key::DoGoingOn,
        Key::DoFiles,
        Key::DoProof,
        Key::DoCleanNext,
        Key::DoBegin,
        Key::NextRun,
        Key::Order,
        Key::OrderModule,
        Key::OrderPart,
        Key::OrderBeside,
        Key::OrderNew,
        Key::OrderBoard,
        Key::Story,
        Key::StoryNone,
        Key::ColRun,
        Key::ColWhen,
        Key::ColFitted,
        Key::ColSettings,
        Key::ColLong,
        Key::ColPasses,
        Key::ColResult,
        Key::FittedIn,
        Key::ToldVoid,
        Key::ToldErrors,
        Key::ToldUncorrectable,
        Key::ToldMiscalculated,
        Key::ToldCorrected,
        Key::ToldClean,
        Key::ToldCleanSoFar,
        Key::ToldNoFullPass,
        Key::ToldNothingTested,
        Key::ToldNotWhole,
        Key::RecordDamaged,
        Key::ProgressFirst,
        Key::ProgressPasses,
        Key::ProgressPassesOf,
        Key::ProgressTimeOf,
        Key::InPlace,
        Key::InPlaces,
        Key::InSlots,
        Key::OnPart,
        Key::OnUnknown,
        Key::EndedPlan,
        Key::EndedTime,
        Key::EndedErrorLimit,
        Key::EndedHand,
        Key::EndedBrokeOff,
        Key::Unproved,
        Key::ShownAgain,
        Key::NotShownAgain,
        Key::StruckOut,
        Key::DoubtfulClock,
        Key::Modules,
        Key::ColModule,
        Key::ColKind,
        Key::ColSize,
        Key::ColSerial,
        Key::ColOutcome,
        Key::EndReplace,
        Key::EndElsewhere,
        Key::EndInQuestion,
        Key::EndKeep,
        Key::EndUntested,
        Key::EndUnknown,
        Key::Good,
        Key::Unnamed,
        Key::Where,
        Key::WhereWords,
        Key::CertaintyCertain,
        Key::CertaintyAssumed,
        Key::CertaintyOneOf,
        Key::CertaintyUnknown,
        Key::ShapeCell,
        Key::ShapeColumn,
        Key::ShapeRow,
        Key::ShapeBank,
        Key::ShapeLane,
        Key::ShapeLanePair,
        Key::ShapeByteLane,
        Key::ShapeAddressLine,
        Key::ShapeHalfModule,
        Key::ShapeWholeModule,
        Key::ShapeChannel,
        Key::ShapeDecoderDoubles,
        Key::ShapeScattered,
        Key::ShapeMachine,
        Key::ShapeSeveral,
        Key::Files,
        Key::FilesWords,
        Key::Detail,
        Key::Tested,
        Key::TestedWords,
        Key::TestedUnknown,
        Key::Never,
        Key::NeverRest,
        Key::NeverComputing,
        Key::NeverOvernight,
        Key::NeverModules,
        Key::NeverHot,
        Key::LoadsBoth,
        Key::LoadsPatterns,
        Key::Hottest,
        Key::OrderFrom,
        Key::OrderOfShares,
        Key::HeatOnlyFrom,
        Key::HeatNoDifference,
        Key::RowsByMap,
        Key::RowsByTiming,
        Key::RowsGuessed,
        Key::Tests,
        Key::ColTest,
        Key::ColFinished,
        Key::ColWrong,
        Key::ColSwept,
        Key::ChartErrors,
        Key::ChartErrorsHeat,
        Key::ChartGrid,
        Key::ChartBoard,
        Key::AxisMinutes,
        Key::AxisWords,
        Key::AxisCelsius,
        Key::Logged,
        Key::LoggedMore,
        Key::ColLast,
        Key::ColLogged,
        Key::ColCount,
        Key::ColSlot,
        Key::ColAddress,
        Key::LogUncorrected,
        Key::LogCheckFound,
        Key::LogPageRetired,
        Key::LogCorrected,
        Key::LogMachineCheck,
        Key::LogStopScreen,
        Key::LogCheckClean,
        Key::Kept,
        Key::KeptWords,
        Key::Signed,
        Key::Speed,
        Key::SpeedOneChannel,
        Key::SpeedLostChannel,
        Key::SpeedProfileOff,
        Key::SpeedProfileStored,
        Key::SpeedTables,
        Key::SpeedGuest,
        Key::SpeedSmall,
        Key::Half,
        Key::ColMeasured,
        Key::ColSpeeds,
        Key::ColRead,
        Key::ColLatency,
    ];

    /// Variables of a pattern, those of nested choices too.
    fn variables(pattern: &Pattern<&str>, into: &mut Vec<String>) {
        for element in &pattern.elements {
            let PatternElement::Placeable { expression } = element else { continue };
            match expression {
                fluent_syntax::ast::Expression::Inline(InlineExpression::VariableReference { id }) => {
                    into.push(id.name.to_owned());
                }
                fluent_syntax::ast::Expression::Inline(_) => {}
                fluent_syntax::ast::Expression::Select { selector, variants } => {
                    if let InlineExpression::VariableReference { id } = selector {
                        into.push(id.name.to_owned());
                    }
                    variants.iter().for_each(|variant| variables(&variant.value, into));
                }
            }
        }
    }

    fn keys(language: Language) -> BTreeMap<String, Vec<String>> {
        let resource = parse(language.source()).unwrap_or_else(|(_, errors)| panic!("{language:?}: {errors:?}"));
        let mut keys = BTreeMap::new();
        for entry in &resource.body {
            let Entry::Message(message) = entry else { continue };
            let mut names = Vec::new();
            variables(message.value.as_ref().unwrap(), &mut names);
            names.sort();
            names.dedup();
            assert!(keys.insert(message.id.name.to_owned(), names).is_none(), "{} twice", message.id.name);
        }
        keys
    }

    #[test]
    fn both_languages_are_complete_and_put_in_the_same_values() {
        let (english, german) = (keys(Language::En), keys(Language::De));
        assert!(english.len() > 100);
        assert_eq!(english, german);
    }

    /// A text that nobody asks for is warned of by the compiler; one that is asked for is in both catalogues.
    #[test]
    fn catalogues_and_keys_are_the_same() {
        let known: Vec<String> = keys(Language::En).into_keys().collect();
        let mut named: Vec<&str> = ALL.iter().map(|key| key.id()).collect();
        named.sort_unstable();
        assert_eq!(named, known);
    }

    #[test]
    fn numbers_choose_words() {
        let texts = Texts::new(Language::De);
        let words = |count: u64| {
            texts.put(Key::ToldMiscalculated, &[("count", count.into()), ("shown", count.to_string().into())])
        };
        assert_eq!((words(1).as_str(), words(2).as_str()), ("Falsch gerechnet: 1 Zahl", "Falsch gerechnet: 2 Zahlen"));
        assert_eq!(texts.decimal(98.7, 1), "98,7");
    }
}
