//! The data backgrounds by the names that recipes use.

use serde::{Deserialize, Serialize};

use crate::pattern::Background;

/// A kind of background; some of them go on from pass to pass.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum BackgroundKind {
    /// All zeros, inverse all ones.
    Solid,
    /// Zeros and ones in turns, over lanes and words.
    Checkerboard,
    /// Rows of zeros and rows of ones in turns.
    RowStripe,
    /// Columns of zeros and columns of ones in turns.
    ColumnStripe,
    /// Every other lane.
    #[serde(rename = "lanes-1")]
    Lanes1,
    /// Two lanes and two lanes.
    #[serde(rename = "lanes-2")]
    Lanes2,
    /// Four lanes and four lanes.
    #[serde(rename = "lanes-4")]
    Lanes4,
    /// Byte lanes in turns.
    #[serde(rename = "lanes-8")]
    Lanes8,
    /// Two byte lanes and two byte lanes.
    #[serde(rename = "lanes-16")]
    Lanes16,
    /// The low half and the high half.
    #[serde(rename = "lanes-32")]
    Lanes32,
    /// Each word its own address.
    AddressAsData,
    /// New random words in each pass.
    Random,
    /// A one walking through the lanes, eight starting lanes in each pass: all of them in eight passes.
    Walking,
    /// One lane against all others, eight lines of lanes in each pass: all of them in eight passes.
    Crosstalk,
}

/// Bit of the word index that tells neighbouring rows apart where a row holds 8 KiB.
const ROW_BIT: u8 = 10;
/// Starting lanes in one pass.
const LANES_A_PASS: u32 = 8;

impl BackgroundKind {
    /// Every kind.
    pub const ALL: [Self; 14] = [
        Self::Solid,
        Self::Checkerboard,
        Self::RowStripe,
        Self::ColumnStripe,
        Self::Lanes1,
        Self::Lanes2,
        Self::Lanes4,
        Self::Lanes8,
        Self::Lanes16,
        Self::Lanes32,
        Self::AddressAsData,
        Self::Random,
        Self::Walking,
        Self::Crosstalk,
    ];

    /// The backgrounds of one pass.
    pub fn of_pass(self, pass: u32, pass_seed: u64) -> Vec<Background> {
        let lanes = || {
            let first = pass.wrapping_sub(1).wrapping_mul(LANES_A_PASS) % 64;
            (0..LANES_A_PASS).map(move |lane| (first + lane) as u8)
        };
        let solid = |word| vec![Background::Solid(word)];
        match self {
            Self::Solid => solid(0),
            Self::Checkerboard => vec![Background::Striped { word: 0x5555_5555_5555_5555, bit: 0 }],
            Self::RowStripe => vec![Background::Striped { word: 0, bit: ROW_BIT }],
            Self::ColumnStripe => vec![Background::Striped { word: 0, bit: 0 }],
            Self::Lanes1 => solid(0x5555_5555_5555_5555),
            Self::Lanes2 => solid(0x3333_3333_3333_3333),
            Self::Lanes4 => solid(0x0f0f_0f0f_0f0f_0f0f),
            Self::Lanes8 => solid(0x00ff_00ff_00ff_00ff),
            Self::Lanes16 => solid(0x0000_ffff_0000_ffff),
            Self::Lanes32 => solid(0x0000_0000_ffff_ffff),
            Self::AddressAsData => vec![Background::AddressAsData],
            Self::Random => vec![Background::Random(pass_seed)],
            Self::Walking => lanes().map(Background::Walking).collect(),
            Self::Crosstalk => lanes().map(Background::Crosstalk).collect(),
        }
    }
}
