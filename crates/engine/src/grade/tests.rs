//! Grades against the literature.
//!
//! [G] A. J. van de Goor, *Testing Semiconductor Memories*, Wiley 1991, the chapters on march tests.
//! [H] S. Hamdioui, A. J. van de Goor, M. Rodgers, *March SS: a test for all static simple RAM faults*, MTDT 2002.
//! [L] A. J. van de Goor, G. N. Gaydadjiev, *March LR: a test for realistic linked faults*, VTS 1996.

use rstest::rstest;

use super::*;

const MATS: &str = "any(w0); any(r0,w1); any(r1)";
const MATS_PLUS: &str = "any(w0); up(r0,w1); down(r1,w0)";
const MATS_PLUS_PLUS: &str = "any(w0); up(r0,w1); down(r1,w0,r0)";
const MARCH_X: &str = "any(w0); up(r0,w1); down(r1,w0); any(r0)";
const MARCH_Y: &str = "any(w0); up(r0,w1,r1); down(r1,w0,r0); any(r0)";
const MARCH_C: &str = "any(w0); up(r0,w1); up(r1,w0); down(r0,w1); down(r1,w0); any(r0)";
const MARCH_A: &str = "any(w0); up(r0,w1,w0,w1); up(r1,w0,w1); down(r1,w0,w1,w0); down(r0,w1,w0)";
const MARCH_B: &str = "any(w0); up(r0,w1,r1,w0,r0,w1); up(r1,w0,w1); down(r1,w0,w1,w0); down(r0,w1,w0)";
const MARCH_LR: &str = "any(w0); down(r0,w1); up(r1,w0,r0,w1); up(r1,w0); up(r0,w1,r1,w0); any(r0)";
const MARCH_SS: &str = "any(w0); up(r0,r0,w0,r0,w1); up(r1,r1,w1,r1,w0); down(r0,r0,w0,r0,w1); \
                        down(r1,r1,w1,r1,w0); any(r0)";

fn shares(notation: &str) -> Vec<(&'static str, Share)> {
    let grade = grade(&notation.parse().unwrap()).unwrap();
    grade.into_iter().map(|(model, share)| (model.short(), share)).collect()
}

/// `all` are detected completely, `not` are not detected completely.
#[rstest]
#[case::mats_g(MATS, &["SAF"], &["TF", "SOF", "CFin", "CFid", "CFst"])]
#[case::mats_plus_g(MATS_PLUS, &["SAF", "AF"], &["TF", "SOF", "CFin", "CFid"])]
#[case::mats_plus_plus_g(MATS_PLUS_PLUS, &["SAF", "AF", "TF", "SOF"], &["CFin", "CFid"])]
#[case::march_x_g(MARCH_X, &["SAF", "AF", "TF", "CFin"], &["SOF", "CFid", "CFst"])]
#[case::march_y_g(MARCH_Y, &["SAF", "AF", "TF", "SOF", "CFin"], &["CFid"])]
#[case::march_c_g(MARCH_C, &["SAF", "AF", "TF", "CFin", "CFid", "CFst"], &["SOF", "WDF", "DRDF", "CFwd", "CFdrd", "LCF"])]
#[case::march_a_g(MARCH_A, &["SAF", "AF", "TF", "CFin", "CFid"], &["SOF"])]
#[case::march_b_g(MARCH_B, &["SAF", "AF", "TF", "SOF", "CFin", "CFid"], &["DRDF"])]
#[case::march_lr_l(MARCH_LR, &["SAF", "AF", "TF", "CFin", "CFid", "CFst", "LCF"], &["WDF", "DRDF"])]
#[case::march_ss_h(
    MARCH_SS,
    &["SAF", "TF", "WDF", "RDF", "DRDF", "IRF", "CFst", "CFds", "CFtr", "CFwd", "CFrd", "CFdrd", "CFir", "CFin", "CFid", "AF"],
    &[]
)]
fn the_literature_is_met(#[case] notation: &str, #[case] all: &[&str], #[case] not: &[&str]) {
    let shares = shares(notation);
    let of = |name: &str| shares.iter().find(|(short, _)| *short == name).unwrap().1;
    for name in all {
        assert_eq!(of(name).detected, of(name).of, "{name} should be detected completely");
    }
    for name in not {
        assert!(of(name).detected < of(name).of, "{name} should not be detected completely");
    }
}

#[test]
fn the_number_of_faults_is_as_documented() {
    let counts: Vec<(&str, usize)> = shares(MARCH_C).iter().map(|(name, share)| (*name, share.of)).collect();
    let expected = [
        ("SAF", 8),
        ("TF", 8),
        ("WDF", 8),
        ("RDF", 8),
        ("DRDF", 8),
        ("IRF", 8),
        ("SOF", 4),
        ("AF", 68),
        ("CFst", 48),
        ("CFin", 24),
        ("CFid", 48),
        ("CFds", 144),
        ("CFtr", 48),
        ("CFwd", 48),
        ("CFrd", 48),
        ("CFdrd", 48),
        ("CFir", 48),
        ("LCF", 120),
    ];
    assert_eq!(counts, expected);
}

#[rstest]
#[case("any(r0)", 1)]
#[case("any(w0); up(r1)", 2)]
#[case("any(w0); up(r0,w1); down(r0)", 3)]
fn a_test_that_good_memory_fails_is_refused(#[case] notation: &str, #[case] element: usize) {
    let error = grade(&notation.parse().unwrap()).unwrap_err();
    assert!(matches!(error, GradeError::GoodMemoryFails { element: at, .. } if at == element), "{error}");
}

#[test]
fn too_many_directions_are_refused() {
    let notation = format!("any(w0){}", "; any(r0)".repeat(20));
    assert_eq!(grade(&notation.parse().unwrap()), Err(GradeError::TooManyDirections(21)));
}

#[test]
fn writing_alone_detects_nothing() {
    assert!(shares("any(w0); any(w1)").iter().all(|(_, share)| share.detected == 0));
}
