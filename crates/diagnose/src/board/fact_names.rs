//! What facts are called, so that several sources mean the same one. Programs that read them as JSON know them by these names: they stay as they
//! are, and what people read comes from the catalogue of texts.

/// Maker and product of the computer.
pub const COMPUTER: &str = "computer";
/// Its serial number.
pub const COMPUTER_SERIAL: &str = "serial number of the computer";
/// Maker and product of the mainboard.
pub const MAINBOARD: &str = "mainboard";
/// Its serial number.
pub const MAINBOARD_SERIAL: &str = "serial number of the mainboard";
/// Who wrote the firmware.
pub const FIRMWARE_MAKER: &str = "firmware maker";
/// Version of the firmware.
pub const FIRMWARE: &str = "firmware version";
/// Date of the firmware.
pub const FIRMWARE_DATE: &str = "firmware date";
/// Processor.
pub const PROCESSOR: &str = "processor";
/// Its socket.
pub const SOCKET: &str = "processor socket";
/// Its cores.
pub const CORES: &str = "cores";
/// Its clock.
pub const CLOCK: &str = "processor clock";
/// Most memory that the mainboard takes.
pub const MOST_MEMORY: &str = "takes at most";
/// Number of slots.
pub const SLOTS: &str = "slots";
/// Error correction.
pub const CORRECTION: &str = "error correction";
/// Addresses of all memory.
pub const ARRAY_RANGE: &str = "memory answers at";
/// The firmware's second name for a slot.
pub const BANK: &str = "bank";
/// The channel by the memory controller's registers, counted from 0.
pub const CHANNEL: &str = "channel";
/// Who says so.
pub const REGISTERS: &str = "registers of the controller";
/// Form of the module.
pub const FORM: &str = "form";
/// Maker of the module.
pub const MAKER: &str = "maker";
/// Code of the maker.
pub const MAKER_CODE: &str = "maker code";
/// Part number.
pub const PART: &str = "part number";
/// Serial number.
pub const SERIAL: &str = "serial number";
/// Capacity.
pub const SIZE: &str = "size";
/// Generation.
pub const GENERATION: &str = "generation";
/// Ranks.
pub const RANKS: &str = "ranks";
/// Speed in force.
pub const SPEED: &str = "speed in force";
/// Highest speed by the firmware.
pub const RATED: &str = "rated speed";
/// Highest speed by the standard, without a profile.
pub const BASE: &str = "base speed";
/// Timings at the base speed.
pub const TIMINGS: &str = "timings at base speed";
/// Timings and command rate in force.
pub const TIMINGS_IN_FORCE: &str = "timings in force";
/// Voltage in force.
pub const VOLTAGE: &str = "voltage in force";
/// Voltage that the module is made for.
pub const RATED_VOLTAGE: &str = "rated voltage";
/// All lanes.
pub const WIDTH: &str = "width with check bits";
/// Data lanes.
pub const DATA_WIDTH: &str = "data width";
/// Data lanes of each package.
pub const PACKAGE_WIDTH: &str = "lanes of each package";
/// Maker of the packages.
pub const PACKAGE_MAKER: &str = "maker of the packages";
/// When it was made.
pub const MADE: &str = "made";
/// Profiles.
pub const PROFILES: &str = "profiles stored";
/// What the owner stuck on.
pub const TAG: &str = "asset tag";
/// Addresses of one device.
pub const RANGE: &str = "answers at";
/// Turn-taking.
pub const TURN: &str = "interleaving";
/// State of the image.
pub const SPD: &str = "SPD";
/// Memory that the firmware leaves to the operating system.
pub const GIVEN: &str = "given to the operating system";
/// What is said of an SPD whose checksums are right.
pub const SUMS_RIGHT: &str = "sums-right";
/// What is said of an SPD with wrong checksums; the sections follow.
pub const SUMS_WRONG: &str = "sums-wrong ";
