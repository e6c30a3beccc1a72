# Tests of the catalogue: title, what each is for, and what it cannot say.

test-random = random
    .purpose = Fills all memory with random words and reads them back, then the same with every bit turned over: the most faults for the time.
    .limits = Rare couplings: each pair of cells meets each combination of values only by chance, pass after pass.

test-address-lines = address lines
    .purpose = Writes words whose addresses differ in one bit, one after the other, and looks whether any other one changed: a broken address line or a wrong memory size shows within a second.
    .limits = A few thousand words: it says nothing about the cells in between.

test-address-as-data = address as data
    .purpose = Writes its own address into every word, then the inverse from the top down: two addresses that reach the same cell overwrite each other.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-mats-plus = MATS+
    .purpose = The shortest walk that finds every stuck cell and every address that goes astray.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-march-c- = march C−
    .purpose = Walks up and down the addresses turning every cell over and back: finds cells that stick, fail to change, or disturb another cell.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-lane-groups = data line groups
    .purpose = Drives groups of 1, 2, 4, 8, 16 and 32 data lines against each other: any two lines of a word differ in one of the six, so lines that follow or disturb each other show.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-stripes = stripes
    .purpose = Checkerboard, rows and columns in turns: cells between neighbours of the other value, as far as the layout is what most modules have.
    .limits = Controllers scramble data and addresses: which cells are neighbours is not known, and designed stripes do not arrive as stripes. Complements do.

test-crosstalk = data line crosstalk
    .purpose = All data lines switch from word to word, on DDR5 from half to half of a word, and one against them: the noise on the bus is as large as it gets for that line. Eight lines in each pass, all of them in eight passes.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-row-hopping = row hopping
    .purpose = Random words in an order that opens another row at every step: weak sensing and timing between rows show that sequential sweeps never ask for.
    .limits = Each step opens another row of its bank on ordinary machines; which rows is unknown. Memory that the system hands out in small pieces is hopped over piece by piece, with fewer rows.

test-copies = shifted copies
    .purpose = Copies half the memory into the other half, shifted by some words, and checks both: reads and writes mixed as in ordinary work.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-march-lr = march LR
    .purpose = A longer walk that also finds couplings that hide each other.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-march-ss = march SS
    .purpose = The longest walk: finds every simple static fault of one or two cells, reads that destroy and writes that disturb among them.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-walking = walking ones and zeros
    .purpose = A single one, then a single zero, on another data line from word to word. Eight of the 64 starting lines in each pass, all of them in eight passes.
    .limits = Faults that need several accesses in a row, heat, time or computing load.

test-computing = computing under load
    .purpose = Half of the cores transform numbers and compare with what must come out, bit by bit, while the others sweep random words: caches and controller have both to serve, as in ordinary use.
    .limits = A light load for the supply. A wrong result alone does not tell memory from processor.

test-load-steps = load in steps
    .purpose = Half of the cores compute with their widest vectors, all at once, steadily and in bursts of 10 µs to 10 ms, while the others sweep random words: supply and memory have to follow every step.
    .limits = A wrong result alone does not tell memory from processor. How far the supply sags is not measured.

test-idle = idle
    .purpose = Writes random words, leaves the memory alone, and reads; then the same inverted: cells that forget while nothing refreshes them by access, and idle states of the machine.
    .limits = Refresh goes on during the wait, so retention below the refresh interval shows, long retention does not.

test-sleep = sleep
    .purpose = Writes random words, puts the machine to sleep for minutes, and reads; then the same inverted: cells that forget while the memory refreshes itself.
    .limits = A machine that does not wake up again says nothing about its memory: firmware or drivers are more likely.

test-row-disturbance = row disturbance
    .purpose = Opens 2 to 20 rows of one bank in turns, longer than a refresh interval, and looks whether cells anywhere turned over: many rows are more than some modules watch.
    .limits = Only 16 sets of rows are tried in each round, and modules defend themselves in ways that nobody publishes. Without an address map neighbours are guessed. Clean here says almost nothing.
