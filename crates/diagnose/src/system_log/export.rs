//! A line of a journal export as JSON: one object an entry, with `MESSAGE` and the microseconds since 1970.

use serde::Deserialize;

use revisum_record::logged::LogTime;

#[derive(Deserialize)]
struct Exported {
    #[serde(rename = "MESSAGE")]
    message: Option<Message>,
    #[serde(rename = "__REALTIME_TIMESTAMP")]
    microseconds: Option<String>,
}

/// Text that is no text is exported as its bytes.
#[derive(Deserialize)]
#[serde(untagged)]
enum Message {
    Text(String),
    Bytes(Vec<u8>),
    Several(Vec<String>),
}

/// Time and message; nothing when it is no such line.
pub fn read_export_line(line: &str) -> Option<(LogTime, String)> {
    let exported: Exported = serde_json::from_str(line).ok()?;
    let message = match exported.message? {
        Message::Text(text) => text,
        Message::Bytes(bytes) => String::from_utf8_lossy(&bytes).into_owned(),
        Message::Several(texts) => texts.join(" "),
    };
    let wall_ms = exported.microseconds.and_then(|number| number.parse::<i64>().ok()).map(|micro| micro / 1000);
    Some((LogTime { wall_ms, words: String::new() }, message))
}
