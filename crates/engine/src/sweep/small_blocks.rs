//! Elements with several operations: each operation has to reach the memory.
//!
//! The second of two operations on a word would find it in the cache. So such an element goes over a small block operation by
//! operation (a read with the write behind it counts as one), and each is put back into the memory before the next. The blocks
//! are so small that cells which lie further apart than a few KiB see the operations of one after all operations of the other, as
//! the march has it, and large enough that what is written has left a controller's queue when it is read again.

/// Lines of a block; see [`crate::between`] for what lies between it and the memory.
pub const BLOCK_LINES: usize = 64;
/// Processors fetch up to so many lines ahead of a sweep by themselves.
pub const FETCHED_AHEAD_LINES: usize = 24;
