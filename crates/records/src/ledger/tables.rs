//! The ledger's tables. A run is what its name and its first record make it: where two folders hold the same one it stands once, and a line for
//! each folder says that it is held there.

/// Changes when the tables do: a ledger of another version is built again.
pub const VERSION: i64 = 11;

/// In the words that the two kinds of database do not share: `{key}` numbers rows, `{text}` is text in the order of its bytes.
const TABLES: &str = "
    CREATE TABLE origins (nr {key}, id {text} NOT NULL UNIQUE, name {text} NOT NULL);
    CREATE TABLE runs (nr {key}, id {text} NOT NULL, birth BIGINT NOT NULL, source BIGINT NOT NULL, reach BIGINT NOT NULL, outcome {text},
        started {text}, errors BIGINT, machine {text}, simulated BOOLEAN, wall_ms BIGINT, order_ms BIGINT, text {text}, damage {text},
        headline {text}, grade {text}, ended_by {text}, corrected BIGINT, slots {text}, arrangement {text}, depth {text}, UNIQUE (id, birth));
    CREATE INDEX newest ON runs (order_ms DESC, (length(id)) DESC, id DESC);
    CREATE TABLE holders (origin BIGINT NOT NULL, name {text} NOT NULL, stamp BIGINT NOT NULL, run BIGINT, why {text}, open BOOLEAN NOT NULL,
        PRIMARY KEY (origin, name)){bare};
    CREATE INDEX held ON holders (run);
    CREATE INDEX unended ON holders (origin) WHERE open;
    CREATE INDEX unread ON holders (origin) WHERE why IS NOT NULL;
    CREATE TABLE modules (run BIGINT NOT NULL, serial {text} NOT NULL, slot {text}, errors BIGINT, kind {text}, mainboard {text},
        PRIMARY KEY (run, serial)){bare};
    CREATE INDEX lives ON modules (serial);
    CREATE TABLE folders (origin BIGINT PRIMARY KEY, changed_ns BIGINT NOT NULL);
    CREATE TABLE jobs (nr {key}, id {text} NOT NULL, birth BIGINT NOT NULL, source BIGINT NOT NULL, reach BIGINT NOT NULL, machine {text},
        opened_ms BIGINT, closed {text}, notes {text}, UNIQUE (id, birth));
    CREATE TABLE job_holders (origin BIGINT NOT NULL, id {text} NOT NULL, stamp {text} NOT NULL, job BIGINT, PRIMARY KEY (origin, id)){bare};
    CREATE INDEX job_held ON job_holders (job);
    CREATE TABLE job_runs (job BIGINT NOT NULL, run {text} NOT NULL, PRIMARY KEY (run, job)){bare};
    CREATE INDEX job_ran ON job_runs (job);
    CREATE TABLE ends (serial {text} NOT NULL, job BIGINT NOT NULL, machine {text}, end_word {text}, PRIMARY KEY (serial, job)){bare};
    CREATE INDEX job_ended ON ends (job);
    CREATE TABLE speeds (job BIGINT NOT NULL, nr BIGINT NOT NULL, machine {text}, kind {text}, wall_ms BIGINT, PRIMARY KEY (job, nr)){bare};
";

/// All tables that any version made.
const DROPPED: [&str; 14] = [
    "origins",
    "runs",
    "modules",
    "bad",
    "words",
    "folder",
    "folders",
    "holders",
    "jobs",
    "job_holders",
    "job_runs",
    "ends",
    "speeds",
    "ledger_version",
];

/// Statements that leave a file with empty tables, whatever was in it.
pub fn embedded() -> String {
    let dropped: String = DROPPED.iter().map(|table| format!("DROP TABLE IF EXISTS {table};\n")).collect();
    let tables =
        TABLES.replace("{key}", "INTEGER PRIMARY KEY").replace("{text}", "TEXT").replace("{bare}", " WITHOUT ROWID");
    format!(
        "{dropped}{tables}
         CREATE VIRTUAL TABLE words USING fts5 (text, content = '', contentless_delete = 1, tokenize = 'trigram', detail = 'none');"
    )
}

/// What brings a server's tables from each version to the next, the first from none. A step that was published is never changed.
#[cfg(feature = "shared-ledger")]
pub fn steps() -> [String; 2] {
    let key = "BIGINT GENERATED ALWAYS AS IDENTITY PRIMARY KEY";
    let tables = TABLES.replace("{key}", key).replace("{text}", "TEXT COLLATE \"C\"").replace("{bare}", "");
    let pieces = "CREATE INDEX text_pieces ON runs USING gin (text gin_trgm_ops);
        CREATE INDEX id_pieces ON runs USING gin (lower(id) gin_trgm_ops);
        CREATE INDEX note_pieces ON jobs USING gin (notes gin_trgm_ops);";
    [tables, pieces.to_owned()]
}
