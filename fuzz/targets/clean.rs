//! What must hold of everything that was read, whatever the bytes were.

use revisum_diagnose::board::Inventory;

/// Longest value: the parts that it is put together from are bounded.
const LONGEST: usize = 400;

/// Longest name of a slot: both names that firmware gives it, and a number.
const LONGEST_NAME: usize = 140;

/// No control characters, no text without bound, no module without a size.
pub fn check(inventory: &Inventory) {
    for fact in inventory.facts.all() {
        assert!(!fact.told.is_empty());
        for text in fact.told.iter().map(|told| &told.value).chain([&fact.slot, &fact.name]) {
            assert!(!text.chars().any(char::is_control), "{text:?}");
            assert!(text.chars().count() <= LONGEST, "{text:?}");
        }
    }
    for slot in &inventory.board.slots {
        assert!(!slot.id.is_empty() && slot.id.chars().count() <= LONGEST_NAME, "{:?}", slot.id);
    }
    for event in &inventory.events {
        assert!(!event.text.chars().any(char::is_control) && !event.place.chars().any(char::is_control));
    }
    assert!(inventory.board.slots.len() <= 128);
}
