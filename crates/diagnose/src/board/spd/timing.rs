//! From the times in an SPD image to speeds and clock counts.

/// The four times that are printed on labels, in clock cycles at the highest standard speed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Timings {
    /// CAS latency.
    pub cl: u32,
    /// Row to column delay.
    pub rcd: u32,
    /// Row precharge.
    pub rp: u32,
    /// Row active.
    pub ras: u32,
}

impl Timings {
    /// From times in picoseconds, `latency_step` being the smallest step of a CAS latency in clocks.
    pub(super) fn of(clock_ps: u32, [aa, rcd, rp, ras]: [u32; 4], latency_step: u32) -> Option<Self> {
        let all = (clock_ps > 0).then(|| [aa, rcd, rp, ras].map(|time| clocks(time, clock_ps, latency_step)))?;
        let plausible = all.iter().all(|clocks| (1..200).contains(clocks));
        plausible.then(|| Self { cl: all[0].next_multiple_of(latency_step), rcd: all[1], rp: all[2], ras: all[3] })
    }

    /// From what [`Timings::text`] writes; nothing where it is something else.
    pub fn parse(text: &str) -> Option<Self> {
        let all: Vec<u32> = text.split('-').map(str::parse).collect::<Result<_, _>>().ok()?;
        let [cl, rcd, rp, ras] = all[..] else { return None };
        Some(Self { cl, rcd, rp, ras })
    }

    /// Nanoseconds that a row of another place costs: closing the open one, opening it, reading from it (JESD79-4, tRP + tRCD + tAA), at
    /// this speed in MT/s. Two transfers take one clock.
    pub fn row_ns(self, speed: u32) -> f64 {
        f64::from(self.rp + self.rcd + self.cl) * 2000.0 / f64::from(speed.max(1))
    }

    /// As on a label: `22-22-22-52`.
    pub fn text(self) -> String {
        format!("{}-{}-{}-{}", self.cl, self.rcd, self.rp, self.ras)
    }
}

/// Clock cycles that cover a time. Times are stored rounded to whole picoseconds, so that a plain division rounded up would often
/// give one cycle too many: 2.5 % of a cycle is forgiven, as the standards' own rounding does, for DDR5 0.3 % of the time (JESD400-5,
/// rounding algorithms).
fn clocks(time_ps: u32, clock_ps: u32, latency_step: u32) -> u32 {
    let (time, clock) = (u64::from(time_ps), u64::from(clock_ps));
    match latency_step {
        1 => ((time * 1000 / clock + 974) / 1000) as u32,
        _ => (time * 997 / clock / 1000 + 1) as u32,
    }
}

/// The standard speed grade of a clock period, in MT/s.
pub(super) fn speed(clock_ps: u32) -> Option<u32> {
    const GRADES: [u32; 36] = [
        800, 1066, 1333, 1600, 1866, 2000, 2133, 2400, 2666, 2800, 2933, 3000, 3200, 3333, 3466, 3600, 3733, 3866,
        4000, 4133, 4266, 4400, 4600, 4800, 5200, 5600, 6000, 6400, 6800, 7200, 7600, 8000, 8400, 8800, 9200, 9600,
    ];
    let exact = 2_000_000_u32.checked_div(clock_ps)?;
    let nearest = GRADES.into_iter().min_by_key(|grade| grade.abs_diff(exact))?;
    // Periods are whole picoseconds: at the highest grades a period stands for 1 % of speed.
    (nearest.abs_diff(exact) * 100 <= nearest).then_some(nearest)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(1250, Some(1600))]
    #[case(937, Some(2133))]
    #[case(833, Some(2400))]
    #[case(750, Some(2666))]
    #[case(682, Some(2933))]
    #[case(625, Some(3200))]
    #[case(416, Some(4800))]
    #[case(357, Some(5600))]
    #[case(312, Some(6400))]
    #[case(0, None)]
    #[case(3000, None)]
    fn grades(#[case] clock_ps: u32, #[case] expected: Option<u32>) {
        assert_eq!(speed(clock_ps), expected);
    }

    #[test]
    fn a_label_is_read_back() {
        let timings = Timings { cl: 22, rcd: 21, rp: 20, ras: 52 };
        assert_eq!(Timings::parse(&timings.text()), Some(timings));
        assert_eq!((Timings::parse("22-22"), Timings::parse("")), (None, None));
        assert!((timings.row_ns(3200) - 39.375).abs() < 1e-9);
    }

    #[rstest]
    #[case(13750, 625, 22)]
    #[case(13750, 833, 17)]
    #[case(32000, 625, 52)]
    #[case(16640, 416, 40)]
    fn cycles(#[case] time_ps: u32, #[case] clock_ps: u32, #[case] expected: u32) {
        assert_eq!(clocks(time_ps, clock_ps, 1), expected);
    }
}
