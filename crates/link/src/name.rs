//! Names of files of records: `runs/…` or `jobs/…`, and nothing that leads elsewhere.

/// Folders of records, each with what its files may end in.
const FOLDERS: [(&str, &str); 2] = [("runs", "journal"), ("jobs", "job")];
/// Longest name of a file in bytes.
const LONGEST: usize = 150;

/// Whether this is the name of a file of records.
pub(crate) fn is_record(name: &str) -> bool {
    let Some((folder, file)) = name.split_once('/') else { return false };
    let Some((stem, ending)) = file.rsplit_once('.') else { return false };
    let Some((_, kind)) = FOLDERS.iter().find(|(known, _)| *known == folder) else { return false };
    let plain = |letter: u8| letter.is_ascii_alphanumeric() || b"-_.~".contains(&letter);
    let part = ending.strip_prefix(kind).and_then(|rest| rest.strip_prefix('-')).and_then(|rest| rest.parse().ok());
    file.len() <= LONGEST
        && !stem.is_empty()
        && !stem.starts_with('.')
        && stem.bytes().all(plain)
        && (ending == *kind || part.is_some_and(|number: u32| number > 1))
}

/// The same name beside others: `runs/a.journal` becomes `runs/a~2.journal`.
pub(crate) fn beside(name: &str, number: usize) -> String {
    match name.rsplit_once('.') {
        Some((stem, ending)) if number > 1 => format!("{stem}~{number}.{ending}"),
        _ => name.to_owned(),
    }
}

/// Whether this is a part of a journal that is not its first.
pub(crate) fn is_further_part(name: &str) -> bool {
    name.rsplit_once('.').is_some_and(|(_, ending)| ending.contains('-'))
}

/// The folders of records.
pub(crate) fn folders() -> impl Iterator<Item = &'static str> {
    FOLDERS.iter().map(|(folder, _)| *folder)
}

/// What the files of one journal have in common: `runs/a.journal-2` is a part of `runs/a`.
pub(crate) fn stem(name: &str) -> &str {
    name.rsplit_once('.').map_or(name, |(stem, _)| stem)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("runs/dome-1_2026.journal", true)]
    #[case("runs/dome-1.journal-2", true)]
    #[case("jobs/front-desk.2.job", true)]
    #[case("runs/a~2.journal", true)]
    #[case("runs/a.journal-1", false)]
    #[case("runs/a.journal-x", false)]
    #[case("runs/../a.journal", false)]
    #[case("runs/.a.journal", false)]
    #[case("runs/.journal", false)]
    #[case("runs//a.journal", false)]
    #[case("runs/a\u{202e}.journal", false)]
    #[case("a.journal", false)]
    #[case("jobs/a.journal", false)]
    #[case("runs/a.job", false)]
    #[case("/runs/a.journal", false)]
    #[case("", false)]
    fn names_that_lead_nowhere_else(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_record(name), is);
    }

    #[test]
    fn names_beside_each_other() {
        assert_eq!(beside("runs/a.b.journal-3", 2), "runs/a.b~2.journal-3");
        assert_eq!(beside("jobs/a.job", 1), "jobs/a.job");
        assert_eq!(stem("runs/a.journal-3"), "runs/a");
    }
}
