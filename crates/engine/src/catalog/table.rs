//! The catalogue: broad and cheap tests first, the order in which a pass runs them.

use std::borrow::Cow;

use super::{BackgroundKind, Path, TestSpec, Work};

const fn test(name: &'static str, work: Work, literature: &'static str) -> TestSpec {
    TestSpec { name: Cow::Borrowed(name), about: None, work, literature, on_request: false, rotates: false }
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
        march("any(w0); any(r0); any(w1); any(r1)", &[Random]),
        "pseudorandom data (Bardell, McAnney, Savir, Built-In Test for VLSI, 1987)",
    ),
    test("address-lines", Work::AddressLines, "single address bits (Barr, Embedded Systems Programming, July 2000)"),
    test(
        "address-as-data",
        march("up(w0); up(r0,w1); down(r1)", &[AddressAsData]),
        "addresses as data (van de Goor, Testing Semiconductor Memories, 1991)",
    ),
    test(
        "mats-plus",
        march("any(w0); up(r0,w1); down(r1,w0)", &[Solid]),
        "SAF, AF (Nair 1979; Abadir and Reghbati, ACM Computing Surveys 1983)",
    ),
    test(
        "march-c-",
        march("any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)", &[Solid]),
        "SAF, TF, AF, CFin, CFid, CFst (Marinescu 1982, as shortened by van de Goor 1991)",
    ),
    test(
        "lane-groups",
        march("any(w0); up(r0,w1); down(r1,w0); any(r0)", &[Lanes1, Lanes2, Lanes4, Lanes8, Lanes16, Lanes32]),
        "counting sequences that tell any two lines apart (Kautz, IEEE Transactions on Computers C-23, 1974)",
    ),
    test(
        "stripes",
        march("any(w0); up(r0,w1); down(r1,w0); any(r0)", &[Checkerboard, RowStripe, ColumnStripe]),
        "checkerboard and stripes (van de Goor, Testing Semiconductor Memories, 1991)",
    ),
    test(
        "crosstalk",
        march("any(w0); any(r0); any(w1); any(r1)", &[Crosstalk]),
        "one victim against all aggressors (Cuviello, Dey, Bai, Zhao, ICCAD 1999)",
    ),
    test(
        "row-hopping",
        Work::March {
            notation: Cow::Borrowed("up(w0); up(r0,w1); down(r1)"),
            backgrounds: Cow::Borrowed(&[Random]),
            path: Path::RowHopping,
        },
        "orders of addresses by row (van de Goor and Schanstra, DELTA 2002)",
    ),
    test("copies", Work::ShiftedCopies, "none: made for this program"),
    test(
        "march-lr",
        march("any(w0); down(r0,w1); up(r1,w0,r0,w1); up(r1,w0); up(r0,w1,r1,w0); up(r0)", &[Solid]),
        "SAF, TF, AF, CFin, CFid, CFst and linked couplings (van de Goor, Gaydadjiev, Mikitjuk, Yarmolik, VTS 1996)",
    ),
    test(
        "march-ss",
        march(
            "any(w0); up(r0,r0,w0,r0,w1); up(r1,r1,w1,r1,w0); down(r0,r0,w0,r0,w1); down(r1,r1,w1,r1,w0); any(r0)",
            &[Solid],
        ),
        "all simple static one- and two-cell faults (Hamdioui, van de Goor, Rodgers, MTDT 2002)",
    ),
    test(
        "walking",
        march("any(w0); up(r0,w1); down(r1)", &[Walking]),
        "walking ones and zeros (Breuer and Friedman, Diagnosis and Reliable Design of Digital Systems, 1976)",
    ),
    test(
        "computing",
        Work::Computing,
        "transforms that can be turned back (Cooley and Tukey 1965; Pollard 1971, over a prime field)",
    ),
    test(
        "load-steps",
        Work::LoadSteps,
        "known answers by the logistic map (May, Nature 261, 1976); supply noise from steps of load (Gupta et al., DATE 2007)",
    ),
    test(
        "idle",
        march("any(w0); idle 30s; any(r0); any(w1); idle 30s; any(r1)", &[Random]),
        "data retention (Liu, Jaiyen, Kim, Wilkerson, Mutlu, ISCA 2013)",
    ),
    TestSpec {
        name: Cow::Borrowed("sleep"),
        about: None,
        work: Work::Sleeping,
        literature: "self-refresh (JEDEC JESD79-4, section 4.9); suspend to RAM (ACPI, state S3)",
        on_request: true,
        rotates: false,
    },
    TestSpec {
        name: Cow::Borrowed("row-disturbance"),
        about: None,
        work: Work::RowDisturbance,
        literature: "row disturbance (Kim et al., ISCA 2014); defences and many aggressors (Frigo et al., IEEE Symposium on Security and Privacy 2020)",
        on_request: true,
        rotates: false,
    },
];
