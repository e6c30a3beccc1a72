//! What the mainboard and the speed show beside the errors: answers of their own, each with what to do about it.

use std::cmp::Reverse;

use revisum_diagnose::board::findings_of_board;
use revisum_diagnose::isolate::Verdict;

use crate::document::Block;
use crate::input::Input;
use crate::keys::Key;
use revisum_words::{Texts, board};

pub(super) fn blocks(input: &Input<'_>, texts: &Texts) -> Vec<Block> {
    // Where no error was found they are what to do next.
    if input.advice.is_some_and(|advice| matches!(advice.verdict, Verdict::NothingToFind)) {
        return Vec::new();
    }
    let findings = sentences(input);
    if findings.is_empty() {
        return Vec::new();
    }
    vec![Block::Heading(texts.say(Key::BoardShows)), Block::Bullets(findings)]
}

/// What was found, and what to do about it.
pub(super) fn sentences(input: &Input<'_>) -> Vec<String> {
    // What was moved for a test is no finding: it is the arrangement that came in.
    let boards = input.runs.iter().map(|run| &run.state.begin.board);
    let came_in = boards.min_by_key(|board| Reverse(board.modules().count()));
    let looked = input.job.looked.as_ref().map(|looked| &looked.board);
    let Some(board_then) = came_in.or(looked) else { return Vec::new() };
    let findings = findings_of_board(board_then, input.job.speeds.last().map(AsRef::as_ref));
    findings.iter().map(|finding| format!("{}. {}", board::found(finding), board::advice(finding))).collect()
}
