//! The catalogue: broad and cheap tests first, the order in which a pass runs them.

use std::borrow::Cow;

use super::{BackgroundKind, Path, TestSpec, Work};

const SCRAMBLED: &str = "Controllers scramble data and addresses: which cells are neighbours is not known, and designed stripes do not arrive as \
     stripes. Complements do.";
const STATIC: &str = "Faults that need several accesses in a row, heat, time or computing load.";
const NO_RETENTION: &str =
    "Refresh goes on during the wait, so retention below the refresh interval shows, long retention does not.";

const fn test(
    name: &'static str,
    title: &'static str,
    purpose: &'static str,
    work: Work,
    literature: &'static str,
    limits: &'static str,
) -> TestSpec {
    TestSpec {
        name: Cow::Borrowed(name),
        title: Cow::Borrowed(title),
        purpose: Cow::Borrowed(purpose),
        work,
        literature,
        limits,
        on_request: false,
        rotates: false,
    }
}

const fn march(notation: &'static str, backgrounds: &'static [BackgroundKind]) -> Work {
    Work::March { notation: Cow::Borrowed(notation), backgrounds: Cow::Borrowed(backgrounds), path: Path::Linear }
}

use BackgroundKind::{
    AddressAsData, Checkerboard, ColumnStripe, Crosstalk, Lanes1, Lanes2, Lanes4, Lanes8, Lanes16, Lanes32, Random,
    RowStripe, Solid, Walking,
};

/// All tests.
pub static CATALOG: [TestSpec; 18] = [
    test(
        "random",
        "random",
        "Fills all memory with random words and reads them back, then the same with every bit turned over: the most faults \
         for the time.",
        march("any(w0); any(r0); any(w1); any(r1)", &[Random]),
        "pseudorandom data (Bardell, McAnney, Savir, Built-In Test for VLSI, 1987)",
        "Rare couplings: each pair of cells meets each combination of values only by chance, pass after pass.",
    ),
    test(
        "address-lines",
        "address lines",
        "Writes words whose addresses differ in one bit, one after the other, and looks whether any other one changed: a \
         broken address line or a wrong memory size shows within a second.",
        Work::AddressLines,
        "single address bits (Barr, Embedded Systems Programming, July 2000)",
        "A few thousand words: it says nothing about the cells in between.",
    ),
    test(
        "address-as-data",
        "address as data",
        "Writes its own address into every word, then the inverse from the top down: two addresses that reach the same cell \
         overwrite each other.",
        march("up(w0); up(r0,w1); down(r1)", &[AddressAsData]),
        "addresses as data (van de Goor, Testing Semiconductor Memories, 1991)",
        STATIC,
    ),
    test(
        "mats-plus",
        "MATS+",
        "The shortest walk that finds every stuck cell and every address that goes astray.",
        march("any(w0); up(r0,w1); down(r1,w0)", &[Solid]),
        "SAF, AF (Nair 1979; Abadir and Reghbati, ACM Computing Surveys 1983)",
        STATIC,
    ),
    test(
        "march-c-",
        "march C−",
        "Walks up and down the addresses turning every cell over and back: finds cells that stick, fail to change, or disturb \
         another cell.",
        march("any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)", &[Solid]),
        "SAF, TF, AF, CFin, CFid, CFst (Marinescu 1982, as shortened by van de Goor 1991)",
        STATIC,
    ),
    test(
        "lane-groups",
        "data line groups",
        "Drives groups of 1, 2, 4, 8, 16 and 32 data lines against each other: any two lines of a word differ in one of the six, so \
         lanes that follow or disturb each other show.",
        march("any(w0); up(r0,w1); down(r1,w0); any(r0)", &[Lanes1, Lanes2, Lanes4, Lanes8, Lanes16, Lanes32]),
        "counting sequences that tell any two lines apart (Kautz, IEEE Transactions on Computers C-23, 1974)",
        SCRAMBLED,
    ),
    test(
        "stripes",
        "stripes",
        "Checkerboard, rows and columns in turns: cells between neighbours of the other value, as far as the layout is what \
         most modules have.",
        march("any(w0); up(r0,w1); down(r1,w0); any(r0)", &[Checkerboard, RowStripe, ColumnStripe]),
        "checkerboard and stripes (van de Goor, Testing Semiconductor Memories, 1991)",
        SCRAMBLED,
    ),
    test(
        "crosstalk",
        "data line crosstalk",
        "All data lines switch from word to word, on DDR5 from half to half of a word, and one against them: the noise on the bus is as \
         large as it gets for that lane. Eight lanes in each pass, all of them in eight passes.",
        march("any(w0); any(r0); any(w1); any(r1)", &[Crosstalk]),
        "one victim against all aggressors (Cuviello, Dey, Bai, Zhao, ICCAD 1999)",
        SCRAMBLED,
    ),
    test(
        "row-hopping",
        "row hopping",
        "Random words in an order that opens another row at every step: weak sensing and timing between rows show that \
         sequential sweeps never ask for.",
        Work::March {
            notation: Cow::Borrowed("up(w0); up(r0,w1); down(r1)"),
            backgrounds: Cow::Borrowed(&[Random]),
            path: Path::RowHopping,
        },
        "orders of addresses by row (van de Goor and Schanstra, DELTA 2002)",
        "Each step opens another row of its bank on ordinary machines; which rows, it does not know. Memory that the system hands out in small pieces is hopped over piece by piece, with fewer rows.",
    ),
    test(
        "copies",
        "shifted copies",
        "Copies half the memory into the other half, shifted by some words, and checks both: reads and writes mixed as in \
         ordinary work.",
        Work::ShiftedCopies,
        "none: made for this program",
        STATIC,
    ),
    test(
        "march-lr",
        "march LR",
        "A longer walk that also finds couplings that hide each other.",
        march("any(w0); down(r0,w1); up(r1,w0,r0,w1); up(r1,w0); up(r0,w1,r1,w0); up(r0)", &[Solid]),
        "SAF, TF, AF, CFin, CFid, CFst and linked couplings (van de Goor, Gaydadjiev, Mikitjuk, Yarmolik, VTS 1996)",
        STATIC,
    ),
    test(
        "march-ss",
        "march SS",
        "The longest walk: finds every simple static fault of one or two cells, reads that destroy and writes that disturb \
         among them.",
        march(
            "any(w0); up(r0,r0,w0,r0,w1); up(r1,r1,w1,r1,w0); down(r0,r0,w0,r0,w1); down(r1,r1,w1,r1,w0); any(r0)",
            &[Solid],
        ),
        "all simple static one- and two-cell faults (Hamdioui, van de Goor, Rodgers, MTDT 2002)",
        STATIC,
    ),
    test(
        "walking",
        "walking ones and zeros",
        "A single one, then a single zero, on another data line from word to word. Eight of the 64 starting lines in each pass, \
         all of them in eight passes.",
        march("any(w0); up(r0,w1); down(r1)", &[Walking]),
        "walking ones and zeros (Breuer and Friedman, Diagnosis and Reliable Design of Digital Systems, 1976)",
        SCRAMBLED,
    ),
    test(
        "computing",
        "computing under load",
        "Half of the cores transform numbers and compare with what must come out, bit by bit, while the others sweep random \
         words: caches and controller have both to serve, as in ordinary use.",
        Work::Computing,
        "transforms that can be turned back (Cooley and Tukey 1965; Pollard 1971, over a prime field)",
        "A light load for the supply. A wrong result alone does not tell memory from processor.",
    ),
    test(
        "load-steps",
        "load in steps",
        "Half of the cores compute with their widest vectors, all at once, steadily and in bursts of 10 µs to 10 ms, while the others \
         sweep random words: supply and memory have to follow every step.",
        Work::LoadSteps,
        "known answers by the logistic map (May, Nature 261, 1976); supply noise from steps of load (Gupta et al., DATE 2007)",
        "A wrong result alone does not tell memory from processor. How far the supply sags is not measured.",
    ),
    test(
        "idle",
        "idle",
        "Writes random words, leaves the memory alone, and reads; then the same inverted: cells that forget while nothing \
         refreshes them by access, and idle states of the machine.",
        march("any(w0); idle 30s; any(r0); any(w1); idle 30s; any(r1)", &[Random]),
        "data retention (Liu, Jaiyen, Kim, Wilkerson, Mutlu, ISCA 2013)",
        NO_RETENTION,
    ),
    TestSpec {
        name: Cow::Borrowed("sleep"),
        title: Cow::Borrowed("sleep"),
        purpose: Cow::Borrowed(
            "Writes random words, puts the machine to sleep for minutes, and reads; then the same inverted: cells that forget while the \
             memory refreshes itself.",
        ),
        work: Work::Sleeping,
        literature: "self-refresh (JEDEC JESD79-4, section 4.9); suspend to RAM (ACPI, state S3)",
        limits: "A machine that does not wake up again says nothing about its memory: firmware or drivers are more likely.",
        on_request: true,
        rotates: false,
    },
    TestSpec {
        name: Cow::Borrowed("row-disturbance"),
        title: Cow::Borrowed("row disturbance"),
        purpose: Cow::Borrowed(
            "Opens 2 to 20 rows of one bank in turns, longer than a refresh interval, and looks whether cells anywhere turned over: \
             many rows are more than some modules watch.",
        ),
        work: Work::RowDisturbance,
        literature: "row disturbance (Kim et al., ISCA 2014); defences and many aggressors (Frigo et al., IEEE Symposium on Security and Privacy 2020)",
        limits: "Only 16 sets of rows are tried in each round, and modules defend themselves in ways that nobody publishes. Without an address map \
                 neighbours are guessed. Clean here says almost nothing.",
        on_request: true,
        rotates: false,
    },
];
